"""A scheme over all the years of the file that its weather comes from: a job, with what it found."""

from dataclasses import asdict

from pydantic import BaseModel, Field

from noontide.core.behind_meter.over_years import simulate_years
from noontide.core.design import Design
from noontide.core.weather.many_years import many_years
from noontide.server.accounts.models import User
from noontide.server.jobs.kinds import Report
from noontide.server.problems import Problem
from noontide.server.projects.scheme_jobs import Given, OfRevision, scheme_kind
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import Source, source_of, years_of_source


class YearLine(BaseModel):
    """One year of the record."""

    year: int
    energy: float = Field(description="[kWh]")
    specific_yield: float = Field(description="[kWh/kW]")
    performance_ratio: float
    horizontal_irradiation: float = Field(description="[kWh/m2]")
    plane_irradiation: float = Field(description="[kWh/m2]")
    monthly_energy: list[float]
    dark_hours: float | None = Field(None, description="where there is no grid")
    loss_of_load: float | None = Field(None, description="share of the energy that is asked for, where there is no grid")
    fuel: float | None = Field(None, description="of the generator, where there is no grid [l]")


class Temperatures(BaseModel):
    """By record, by the mean of the yearly extremes, and by a 2 % choice [°C]."""

    record_low: float
    record_high: float
    mean_low: float
    mean_high: float
    low_2_percent: float
    high_2_percent: float


class YearsResult(OfRevision):
    """A scheme over a record: energies exceeded with 50 and 90 %, from the spread between the years alone."""

    runs: list[YearLine]
    mean: float
    spread: float
    p50: float
    p90: float
    ghi_mean: float
    ghi_spread: float
    monthly_ghi: list[float] = Field(description="mean of each month [kWh/m2]")
    temperature: Temperatures
    drift_per_year: float | None
    is_drifting: bool
    dark_words: str = Field("", description="how often the lights go out over the record; empty where there is a grid")


def _is_a_record(design: Design, owner: User) -> None:
    """Refuse a scheme whose weather is no year of a record."""
    digest = design.weather.digest if design.weather is not None else None
    row = WeatherYear.objects.visible_to(owner).filter(pk=digest).first()
    if row is None:
        raise Problem(409, "not-complete", "The scheme is incomplete", "Choose a weather year first.", "/weather")
    if row.is_typical:
        raise Problem(
            409,
            "typical-year",
            "The weather is a typical year",
            "Its months were chosen among many years: it is no record. Choose a year of a file that has several.",
            "/weather",
        )
    if len(row.reading.get("reading", {}).get("years", [])) < 2:
        raise Problem(409, "one-year", "The weather is a single year", "Choose a year of a file that has several.", "/weather")


def _source(design: Design) -> Source:
    """The file of the design's weather, with the reading of it."""
    assert design.weather is not None  # it is a year of a record
    return source_of(WeatherYear.objects.get(pk=design.weather.digest))


@scheme_kind("years", may_begin=_is_a_record, more=_source)
def run_years(given: Given, report: Report) -> YearsResult:
    """The scheme over all the years of the file that its weather comes from."""
    report(0.02, "Reading the years of the file")
    years = years_of_source(given.more)
    record = many_years(years)
    found = simulate_years(
        given.design,
        years,
        given.libraries.parts,
        lambda done, of: report(0.1 + 0.88 * done / of, f"{done} of {of} years simulated"),
        given.libraries.series,
    )
    drift = record.drift
    return YearsResult(
        revision=given.revision,
        runs=[YearLine(**asdict(run)) for run in found.runs],
        mean=found.mean,
        spread=found.spread,
        p50=found.exceeded(0.5),
        p90=found.exceeded(0.9),
        ghi_mean=record.mean,
        ghi_spread=record.spread,
        monthly_ghi=record.mean_months.tolist(),
        temperature=Temperatures(**asdict(record.temperature)),
        drift_per_year=drift.per_year if drift else None,
        is_drifting=bool(drift and drift.is_found),
        dark_words=found.dark_words(),
    )
