"""Sources of demand to begin with: all made up, typical in their form."""

import json
from dataclasses import dataclass
from functools import cache
from importlib import resources

from noontide.core.demand.sources import Source


@dataclass(frozen=True)
class Template:
    """A source with the words that tell what it is."""

    title: str
    note: str
    source: Source


@cache
def built_in_templates() -> dict[str, Template]:
    """By their ids, in the order of the file."""
    text = resources.files("noontide.demand_templates").joinpath("templates.json").read_text(encoding="utf-8")
    return {
        key: Template(value["title"], value["note"], Source.model_validate(value["source"]))
        for key, value in json.loads(text).items()
    }
