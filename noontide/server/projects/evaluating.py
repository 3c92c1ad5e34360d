"""A design document, simulated: the figures, the account and the findings that every answer about a scheme brings."""

from functools import lru_cache
from threading import Lock

from noontide.core.scheme import Scheme as Design
from noontide.core.simulation import Results, StageCache, UnknownPart, simulate
from noontide.core.simulation.cache import key_of
from noontide.core.simulation.checks import FAR_KM, HIGH_M, find_checks
from noontide.core.weather import Place, distance_km
from noontide.parts import built_in_parts
from noontide.server.projects.shapes import (
    Bench,
    CascadeAnswer,
    CascadeLine,
    CheckAnswer,
    Evaluation,
    Headline,
    WeatherBrief,
)
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load

STAGES = StageCache(size=240)
_results = StageCache(size=12)
_lock = Lock()


def results_of(design: Design) -> Results | None:
    """The simulated year of a design; None while weather or sub-arrays are missing.

    Raises
    ------
    UnknownPart
        If it names a part that is in neither library.
    WeatherYear.DoesNotExist
        If its weather is not in the library.
    """
    if design.weather is None or not design.subarrays:
        return None
    weather = load(design.weather.digest)
    key = key_of(design.model_dump_json())

    def compute() -> Results:
        # One computation at a time: two would only fight over the processor's caches.
        with _lock:
            return simulate(design, weather, built_in_parts(), STAGES)

    return _results.get(key, compute)


def evaluate(design: Design) -> Evaluation:
    """Headline, Cascade, checks and the state of every bench."""
    # What is missing may be in the library by the next time, so it is not remembered.
    if missing := _missing(design):
        return Evaluation(headline=None, cascade=None, checks=[], benches=_benches(missing, []), weather=_weather(design))
    return _evaluate(design.model_dump_json(exclude_unset=True))


@lru_cache(maxsize=512)
def _evaluate(text: str) -> Evaluation:
    design = Design.model_validate_json(text)
    try:
        results = results_of(design)
    except UnknownPart as error:
        check = CheckAnswer(
            rule="unknown-part", severity="error", title="A part is not in the library", detail=str(error), bench="circuits", pointer=error.pointer,
            actual=0, limit=0, margin=0, unit="", source="Parts library", remedies=[],
        )  # fmt: skip
        return Evaluation(headline=None, cascade=None, checks=[check], benches=_benches({}, [check]), weather=_weather(design))
    checks = [CheckAnswer.model_validate(check) for check in find_checks(results)]
    return Evaluation(
        headline=Headline.model_validate(results.annual),
        cascade=_cascade(results),
        checks=checks,
        benches=_benches({}, checks),
        weather=_weather(design),
    )


def _cascade(results: Results) -> CascadeAnswer:
    cascade, calendar = results.cascade, results.calendar
    hours = calendar.hours_per_interval / 1000
    lines = [
        CascadeLine(
            key=e.key, title=e.title, group=e.group, energy=e.energy, before=e.before, share=e.share,
            monthly=(calendar.monthly_sums(results.whole_year(e.power, e.dark_power)) * hours).tolist(),
        )
        for e in cascade.entries
    ]  # fmt: skip
    return CascadeAnswer(
        start=cascade.start, delivered=cascade.delivered, residual=cascade.residual, area=results.annual.area, lines=lines
    )


def _missing(design: Design) -> dict[str, str]:
    missing = {}
    if design.weather is None:
        missing["weather"] = "Choose a weather year."
    elif not WeatherYear.objects.filter(pk=design.weather.digest).exists():
        missing["weather"] = "This weather year is not in the library. Choose another, or load its file."
    if not design.surfaces:
        missing["surfaces"] = "Add a surface."
    if not design.subarrays:
        missing["circuits"] = "Add modules and an inverter."
    return missing


def _benches(missing: dict[str, str], checks: list[CheckAnswer]) -> list[Bench]:
    benches = []
    for name in ("site", "weather", "surfaces", "circuits", "losses"):
        mine = [c for c in checks if c.bench == name]
        errors = sum(c.severity == "error" for c in mine)
        state = "open" if name in missing else "error" if errors else "caution" if mine else "fine"
        benches.append(Bench(name=name, state=state, errors=errors, cautions=len(mine) - errors, say=missing.get(name, "")))
    return benches


def _weather(design: Design) -> WeatherBrief | None:
    year = WeatherYear.objects.filter(pk=design.weather.digest).first() if design.weather else None
    if year is None:
        return None
    away = distance_km(Place(design.site.latitude, design.site.longitude), Place(year.latitude, year.longitude))
    return WeatherBrief(
        digest=year.digest, title=year.title, source=year.source, annual_ghi=year.summary["annual_ghi"], lowest=year.summary["lowest_temperature"],
        highest=year.summary["highest_temperature"], distance=away,
        is_far=away > FAR_KM, is_high=abs(year.elevation - design.site.elevation) > HIGH_M, elevation=year.elevation, step=year.step, utc_offset=year.utc_offset, year=year.year,
    )  # fmt: skip
