"""What an evaluation tells: figures, Cascade, findings, the state of every bench, and the Brief."""

from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from noontide.core.benches import BENCH_OF, BENCHES, BenchName
from noontide.core.brief import Paragraph, paragraphs
from noontide.core.checks import FAR_KM, HIGH_M, Check, find_checks
from noontide.core.design import Design
from noontide.core.simulation import Results
from noontide.core.simulation.circuit_lines import circuit_lines
from noontide.core.simulation.plant import Plant
from noontide.core.simulation.quantities import own_quantities
from noontide.core.weather import Place, distance_km
from noontide.parts import built_in_parts
from noontide.server.projects.money_answer import FigureText, figure_texts
from noontide.server.weather_library.models import WeatherYear


class Shape(BaseModel):
    model_config = ConfigDict(from_attributes=True)


class Headline(Shape):
    """The year in figures; units as in `/api/figures`."""

    energy: float
    monthly_energy: list[float]
    dc_power: float
    ac_power: float
    dc_ac_ratio: float
    modules: int
    area: float
    specific_yield: float
    reference_yield: float
    performance_ratio: float
    monthly_performance_ratio: list[float]
    temperature_corrected_performance_ratio: float
    capacity_factor: float
    horizontal_irradiation: float
    plane_irradiation: float
    clipped_share: float
    clipped_hours: float
    hours_outside_window: float
    peak_power: float


class CascadeLine(Shape):
    key: str
    title: str
    group: str
    energy: float
    before: float
    share: float
    monthly: list[float]


class CascadeAnswer(Shape):
    start: float
    delivered: float
    residual: float
    area: float
    lines: list[CascadeLine]


class RemedyAnswer(Shape):
    label: str
    patch: dict[str, Any]


class CheckAnswer(Shape):
    rule: str
    severity: Literal["error", "caution"]
    title: str
    detail: str
    bench: BenchName
    pointer: str
    actual: float
    limit: float
    margin: float
    unit: str
    source: str
    remedies: list[RemedyAnswer]
    key: str = Field("", description="by which the check is accepted in the design")
    accepted: str = Field("", description="the reason for which it is accepted; empty where it is open")


class Bench(Shape):
    name: BenchName
    state: Literal["open", "fine", "caution", "error", "unused"]
    errors: int
    cautions: int
    say: str


class WeatherBrief(Shape):
    digest: str
    title: str
    source: str
    origin: str
    annual_ghi: float
    lowest: float
    highest: float
    distance: float
    is_far: bool = Field(description="farther from the site than the check allows")
    is_high: bool = Field(description="farther from the site's elevation than the check allows")
    elevation: float
    step: int
    utc_offset: float
    year: int


class Failure(Shape):
    """Why there are no figures."""

    title: str
    detail: str
    pointer: str


class Names(Shape):
    surfaces: dict[str, str] = {}
    inverters: dict[str, str] = {}
    subarrays: dict[str, str] = {}


class FollowedFace(Shape):
    """What a surface on a face of the scene takes from it."""

    name: str
    tilt: float
    azimuth: float
    area: float | None
    modules: int = Field(0, description="that lie on its plan")


class TrackerAnswer(Shape):
    number: int
    current: float = Field(description="of the strings at rated power [A]")
    allowed: float = Field(description="operating current by the datasheet [A]")
    is_over: bool


class InverterAnswer(Shape):
    """One inverter of a set."""

    title: str
    trackers: int
    phases: int
    modules: int
    dc_power: float = Field(description="rated [kW]")
    ac_power: float = Field(description="rated [kW]")
    dc_ac_ratio: float
    inputs: list[TrackerAnswer] = Field(description="trackers with strings")


class StringAnswer(Shape):
    """The strings of a sub-array."""

    title: str = Field(description="of the module")
    module_power: float = Field(description="[W]")
    short_circuit_current: float = Field(description="of all in parallel at STC [A]")


class CircuitsAnswer(Shape):
    """By id; without those whose parts are unknown."""

    inverters: dict[str, InverterAnswer] = {}
    subarrays: dict[str, StringAnswer] = {}


class OwnQuantity(Shape):
    key: str
    title: str
    unit: str
    scope: str
    colour: str
    also: str
    is_all_day: bool


class Evaluation(Shape):
    """What is known of a design. Figures are there where the state is `exact`."""

    key: str
    state: Literal["exact", "pending", "failed", "open"]
    problem: Failure | None = None
    headline: Headline | None = None
    cascade: CascadeAnswer | None = None
    checks: list[CheckAnswer] = []
    benches: list[Bench] = []
    weather: WeatherBrief | None = None
    brief: list[Paragraph] = []
    faces: dict[str, FollowedFace] = Field({}, description="surfaces on faces of the scene, by id")
    names: Names = Field(
        default_factory=lambda: Names(),
        description="of surfaces, inverter sets and sub-arrays by id: their own, or made from their place",
    )
    circuits: CircuitsAnswer = Field(CircuitsAnswer(), description="inverters and strings with the figures of the design's parts")
    figures: list[FigureText] = Field([], description="figures of the Headline that the design has, in their order")
    quantities: list[OwnQuantity] = Field(
        [], description="hourly quantities of this design's own, beside those of `/api/quantities`"
    )
    energy_by_surface: dict[str, float] = Field({}, description="at the meter, by id of the surface [kWh]")


class CardSummary(Shape):
    """What a card of the first page shows of an evaluation."""

    energy: float
    dc_power: float
    specific_yield: float
    monthly_energy: list[float]
    errors: int
    cautions: int


def whole_evaluation(key: str, design: Design, results: Results, year: WeatherYear) -> Evaluation:
    """The evaluation of a design simulated with a year of the library."""
    checks = [_check(check) for check in find_checks(results)]
    brief = paragraphs(design, results, _weather_words(year))
    return Evaluation(
        key=key,
        state="exact",
        headline=Headline.model_validate(results.annual),
        cascade=_cascade(results),
        checks=checks,
        benches=_benches({}, checks, design),
        weather=_weather(design, year),
        brief=brief,
        faces=_faces(design),
        names=_names(design),
        circuits=_circuits(design, results.plant),
        figures=figure_texts(results, headline_only=True),
        quantities=[OwnQuantity.model_validate(vars(q) | {"key": key}) for key, q in own_quantities(results).items()],
        energy_by_surface=results.energy_by_surface,
    )


def _names(design: Design) -> Names:
    return Names(**{kind: {key: one.name for key, one in getattr(design, kind).items()} for kind in Names.model_fields})


def _faces(design: Design) -> dict[str, FollowedFace]:
    return {
        key: FollowedFace(
            name=s.name,
            tilt=round(s.tilt, 3),
            azimuth=round(s.azimuth, 3),
            area=s.area,
            modules=s.layout.size if s.layout else 0,
        )
        for key, s in design.surfaces.items()
        if s.face is not None
    }


def open_evaluation(design: Design, year: WeatherYear | None) -> Evaluation | None:
    """The evaluation of a design in which something is missing, with its year of the library; None where nothing is."""
    missing: dict[BenchName, str] = {}
    if design.weather is None:
        missing["weather"] = "Choose a weather year."
    elif year is None:
        missing["weather"] = "This weather year is not in the library. Choose another, or load its file."
    if not design.surfaces:
        missing["surfaces"] = "Add a surface."
    if not design.subarrays:
        missing["circuits"] = "Add modules and an inverter."
    if not missing:
        return None
    return Evaluation(
        key="",
        state="open",
        benches=_benches(missing, [], design),
        weather=_weather(design, year),
        brief=paragraphs(design, None, _weather_words(year)),
        faces=_faces(design),
        names=_names(design),
        circuits=_circuits(design),
    )


def failed_evaluation(document: dict, title: str = "", detail: str = "", pointer: str = "") -> Evaluation:
    """An evaluation without figures: pending where it has no title, else failed with words and a pointer."""
    if not title:
        return Evaluation(key="", state="pending", **_readable_parts(document))
    steps = pointer.strip("/").split("/")
    bench = "scene" if {"face", "layout"} & set(steps[2:3]) else BENCH_OF.get(steps[0], "circuits")
    check = CheckAnswer(
        rule="evaluation", severity="error", title=title, detail=detail, bench=bench, pointer=pointer, actual=0, limit=0, margin=0, unit="",
        source="Simulation", remedies=[],
    )  # fmt: skip
    parts = _readable_parts(document)
    return Evaluation(
        key="",
        state="failed",
        problem=Failure(title=title, detail=detail, pointer=pointer),
        checks=[check],
        **(parts | {"benches": _benches({}, [check] if pointer else [])}),
    )


def summary_of(evaluation: Evaluation) -> dict:
    """The part of an evaluation that a card shows, to be kept beside it."""
    headline = evaluation.headline
    if headline is None:
        return {}
    still_open = [check for check in evaluation.checks if not check.accepted]
    errors = sum(check.severity == "error" for check in still_open)
    return CardSummary(
        energy=headline.energy,
        dc_power=headline.dc_power,
        specific_yield=headline.specific_yield,
        monthly_energy=headline.monthly_energy,
        errors=errors,
        cautions=len(still_open) - errors,
    ).model_dump()


def _readable_parts(document: dict) -> dict[str, Any]:
    """What can be said of a document without its figures; nothing where it cannot be read."""
    try:
        design = Design.read(document)
    except ValueError:
        return {}
    year = weather_year(design)
    return {
        "benches": _benches({}, [], design),
        "weather": _weather(design, year),
        "brief": paragraphs(design, None, _weather_words(year)),
        "faces": _faces(design),
        "names": _names(design),
        "circuits": _circuits(design),
    }


def _circuits(design: Design, plant: Plant | None = None) -> CircuitsAnswer:
    return CircuitsAnswer.model_validate(circuit_lines(design, built_in_parts(), plant))


def _check(check: Check) -> CheckAnswer:
    return CheckAnswer.model_validate(check)


def _cascade(results: Results) -> CascadeAnswer:
    cascade = results.cascade
    lines = [
        CascadeLine(
            key=e.key,
            title=e.title,
            group=e.group,
            energy=e.energy,
            before=e.before,
            share=e.share,
            monthly=np.asarray(e.monthly).tolist(),
        )
        for e in cascade.entries
    ]
    return CascadeAnswer(
        start=cascade.start, delivered=cascade.delivered, residual=cascade.residual, area=results.annual.area, lines=lines
    )


def _benches(missing: dict[BenchName, str], checks: list[CheckAnswer], design: Design | None = None) -> list[Bench]:
    unused = _unused(design)
    benches = []
    for name in BENCHES:
        mine = [c for c in checks if c.bench == name and not c.accepted]
        errors = sum(c.severity == "error" for c in mine)
        state: Literal["open", "fine", "caution", "error", "unused"] = (
            "open" if name in missing else "error" if errors else "caution" if mine else "unused" if name in unused else "fine"
        )
        benches.append(Bench(name=name, state=state, errors=errors, cautions=len(mine) - errors, say=missing.get(name, "")))
    return benches


def _unused(design: Design | None) -> set[BenchName]:
    """Benches of what the project does not need: they cost no attention."""
    found: set[BenchName] = set()
    if design is not None and not design.demand.sources:
        found.add("demand")
    if design is not None and design.storage.bank is None:
        found.add("storage")
    if design is not None and not design.money.is_counted:
        found.add("money")
    return found


def weather_year(design: Design) -> WeatherYear | None:
    """The library's row of the year that a design names; None where it names none, or one that is not there."""
    # Every edit asks for it: without what was noted when it was read.
    rows = WeatherYear.objects.defer("notes", "reading", "steps")
    return rows.filter(pk=design.weather.digest).first() if design.weather else None


def _weather(design: Design, year: WeatherYear | None) -> WeatherBrief | None:
    if year is None:
        return None
    away = distance_km(Place(design.site.latitude, design.site.longitude), Place(year.latitude, year.longitude))
    return WeatherBrief(
        digest=year.digest, title=year.title, source=year.source, origin=year.origin, annual_ghi=year.summary["annual_ghi"],
        lowest=year.summary["lowest_temperature"], highest=year.summary["highest_temperature"], distance=away,
        is_far=away > FAR_KM, is_high=abs(year.elevation - design.site.elevation) > HIGH_M, elevation=year.elevation, step=year.step,
        utc_offset=year.utc_offset, year=year.year,
    )  # fmt: skip


def _weather_words(year: WeatherYear | None) -> dict[str, Any] | None:
    if year is None:
        return None
    summary = year.summary
    return {
        "title": year.title,
        "annual_ghi": summary["annual_ghi"],
        "lowest": summary["lowest_temperature"],
        "highest": summary["highest_temperature"],
    }
