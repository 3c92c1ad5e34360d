"""All that a scheme and its project can be written as, in one place: what each is good for, and where it is."""

from collections.abc import Iterator
from typing import NamedTuple

from pydantic import BaseModel, Field

from noontide.core.design import Design
from noontide.core.report import EDITIONS
from noontide.server.projects.models import Scheme


class WayLine(BaseModel):
    """A thing that can be taken away, in one format or several."""

    title: str
    good_for: str
    formats: list["WayFormat"] = Field(description="none where there is nothing to take away")
    missing: str = Field(description="why there is nothing, empty where there is")


class WayFormat(BaseModel):
    """A format and its address."""

    name: str
    address: str


class WaysAnswer(BaseModel):
    """Things of one kind."""

    title: str
    lines: list[WayLine]


class _Has(NamedTuple):
    """What a design has, by which something can be taken of it."""

    weather: bool
    strings: bool
    scene: bool
    money: bool
    off_grid: bool


WITHOUT = {
    "weather": "The scheme has no weather year.",
    "strings": "There are no strings yet.",
    "scene": "The scene is empty.",
    "money": "Money is not counted.",
    "off_grid": "The place has a grid.",
}


def ways_of(scheme: Scheme) -> list[WaysAnswer]:
    """What can be taken away of a scheme and its project."""
    assert scheme.head is not None, "a scheme has a head from its first moment on"
    design = Design.read(scheme.head.document)
    has = _Has(
        design.weather is not None,
        bool(design.subarrays) and design.weather is not None,
        not design.scene.is_empty,
        design.money.is_counted and design.weather is not None,
        design.storage.off_grid is not None and design.weather is not None,
    )
    at = f"/api/schemes/{scheme.pk}"
    return [
        WaysAnswer(title=title, lines=list(lines))
        for title, lines in (
            ("The project", _project(scheme, at)),
            ("The report", _reports(at, has)),
            ("Figures and hours", _figures(at, has, design)),
            ("Drawings", _drawings(at, has)),
        )
    ]


def _line(title: str, good_for: str, has: _Has | None, needs: str, **formats: str) -> WayLine:
    """A line; where the design has not what it needs, it says so and has no format."""
    is_there = has is None or not needs or getattr(has, needs)
    return WayLine(
        title=title,
        good_for=good_for,
        formats=[WayFormat(name=name.replace("_", " "), address=address) for name, address in formats.items()]
        if is_there
        else [],
        missing="" if is_there else WITHOUT[needs],
    )


def _project(scheme: Scheme, at: str) -> Iterator[WayLine]:
    file = f"/api/projects/{scheme.project_id}/file"
    yield _line(
        "Project",
        "Opens on another machine with the same figures: all schemes, weather, measured use, pictures and own parts",
        None,
        "",
        with_history=file,
        without=f"{file}?history=false",
    )
    yield _line(
        f"Scheme {scheme.letter} alone",
        "The design document, for the command line and for programs",
        None,
        "",
        JSON=f"{at}/document",
    )


def _reports(at: str, has: _Has) -> Iterator[WayLine]:
    for edition in EDITIONS.values():
        needs = "off_grid" if edition.key == "off-grid" else "strings"
        file = f"{at}/report-file?edition={edition.key}&kind="
        yield _line(edition.title, edition.says, has, needs, PDF=f"{file}pdf", HTML=f"{file}html")


def _figures(at: str, has: _Has, design: Design) -> Iterator[WayLine]:
    hours = f"{at}/hours?kind="
    yield _line(
        "Every hour",
        "All quantities of every interval, for analysis",
        has,
        "strings",
        CSV=f"{hours}csv",
        Parquet=f"{hours}parquet",
    )
    yield _line("Money", "Purchase, bills and cash with live formulas, for a bank", has, "money", XLSX=f"{at}/workbook")
    bill = f"{at}/bill?kind="
    yield _line("Bill of materials", "For ordering", has, "strings", XLSX=f"{bill}xlsx", CSV=f"{bill}csv")
    if design.weather is not None:
        file = f"/api/weather/{design.weather.digest}/file?kind="
        yield _line(
            "Weather year", "For other programs", has, "weather", EPW=f"{file}epw", CSV=f"{file}csv", Parquet=f"{file}parquet", CoverageJSON=f"{file}covjson"
        )  # fmt: skip


def _drawings(at: str, has: _Has) -> Iterator[WayLine]:
    diagram, plan = f"{at}/diagram?kind=", f"{at}/plan/"
    yield _line(
        "One-line diagram",
        "For whoever connects it",
        has,
        "strings",
        PDF=f"{diagram}pdf",
        SVG=f"{diagram}svg",
        DXF=f"{diagram}dxf",
    )
    yield _line("String sheet", "For whoever plugs the strings", has, "strings", PDF=f"{at}/string-sheet")
    yield _line(
        "Plan", "Modules with their numbers and dimensions", has, "scene", PDF=f"{plan}pdf", SVG=f"{plan}svg", DXF=f"{plan}dxf"
    )
    yield _line(
        "Scene",
        "Solids for models, outlines for maps, coordinates of the modules",
        has,
        "scene",
        glTF=f"{plan}glb",
        GeoJSON=f"{plan}geojson",
        CSV=f"{plan}csv",
    )
    yield _line(
        "Place without a grid",
        "Worksheet beside proof",
        has,
        "off_grid",
        PDF=f"{at}/off-grid-sheet?kind=pdf",
        SVG=f"{at}/off-grid-sheet?kind=svg",
    )
