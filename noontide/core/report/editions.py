"""Editions: chosen pages for one reader."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Edition:
    """A set of pages, in their order."""

    key: str
    title: str
    says: str
    pages: tuple[str, ...]


EDITIONS: dict[str, Edition] = {
    edition.key: edition
    for edition in (
        Edition("customer", "Customer", "What is built, what it yields, what it is worth, what it rests on", ("built", "yield", "worth", "inputs")),
        Edition(
            "engineer", "Engineer", "Everything",
            ("cover", "brief", "sky", "surfaces", "plan", "views", "access", "yield", "balance", "use", "place", "worth", "years", "schemes", "trials", "diagram", "strings", "cables", "materials", "checks", "inputs", "glossary", "workings"),
        ),
        Edition("shade", "Shade", "Sun and horizon, plan, views by season, solar access by month", ("cover", "sky", "surfaces", "plan", "views", "access", "balance", "inputs")),
        Edition("electrical", "Electrical", "Diagram, strings with limits, cables, protection, bill of materials", ("cover", "diagram", "strings", "cables", "materials", "checks")),
        Edition("off-grid", "Off-grid", "Worksheet beside proof, diagram, costs", ("cover", "brief", "place", "use", "diagram", "worth", "inputs")),
    )
}  # fmt: skip
