"""The Brief as plain text, with every value as it stands in the design and its unit: for paper."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel

from noontide.core.brief.paragraphs import paragraphs
from noontide.core.brief.runs import Run, orientation_words
from noontide.core.design import Design
from noontide.core.simulation.results import Results


def value_and_unit(design: Design, pointer: str) -> tuple[Any, str]:
    """What stands at a JSON pointer of a design, defaults included, as it reads, and its unit; None where nothing does."""
    at: Any = design
    unit = ""
    for step in pointer.strip("/").split("/"):
        if isinstance(at, BaseModel):
            info = type(at).model_fields.get(step)
            extra = info.json_schema_extra if info is not None and isinstance(info.json_schema_extra, dict) else {}
            unit, words = str(extra.get("x-unit", "")), extra.get("x-words")
            at = getattr(at, step, None)
            if isinstance(words, dict) and isinstance(at, str):
                at = words.get(at, at)
        elif isinstance(at, dict):
            at = at.get(step)
        elif isinstance(at, list | tuple) and step.isdigit() and int(step) < len(at):
            at = at[int(step)]
        else:
            return None, ""
    return at, unit


def in_words(design: Design, run: Run) -> tuple[str, bool]:
    """The text of a run, and whether it is a value, a part or a figure that stands out from the sentence."""
    if run.kind in ("text", "link", "figure"):
        return run.text, run.kind == "figure"
    value, unit = value_and_unit(design, run.pointer)
    if run.kind == "words":
        return f", {orientation_words(float(value if value is not None else 180))}", False
    if run.kind == "part":
        name = str(value if value is not None else run.text)
        parts = getattr(design.parts, f"{run.part}s", {}) if run.part else {}
        found = parts.get(name)
        return (f"{found.maker} {found.name}" if found is not None else name), True
    if isinstance(value, bool) or value is None or not isinstance(value, int | float):
        return str(value if value is not None else run.text), True
    return with_unit(plain(float(value)), unit), True


def plain(value: float) -> str:
    """A number as the screen writes it: with marks between thousands, and no more digits than it has."""
    text = f"{value:,.6f}".rstrip("0").rstrip(".")
    return text.replace("-", "−")


def with_unit(number: str, unit: str) -> str:
    if unit == "°":
        return f"{number}°"
    return f"{number} {unit}" if unit else number


@dataclass(frozen=True)
class Prose:
    """A paragraph as text: each run with whether it stands out from the sentence."""

    title: str
    runs: tuple[tuple[str, bool], ...]


def prose_of(r: Results) -> Iterator[Prose]:
    """The whole Brief of a simulated design as text, without what only a screen can ask."""
    design, weather = r.design, r.weather
    facts = {
        "title": weather.title,
        "annual_ghi": float(weather.ghi.sum()) * r.calendar.hours_per_interval / 1000,
        "lowest": float(weather.temperature.min()),
        "highest": float(weather.temperature.max()),
    }
    for paragraph in paragraphs(design, r, facts):
        if all(run.kind == "link" and run.text.endswith("…") for run in paragraph.runs):
            continue  # what the design does not have is an invitation on the screen, and nothing on paper
        yield Prose(paragraph.bench.capitalize(), tuple(in_words(design, run) for run in paragraph.runs))
