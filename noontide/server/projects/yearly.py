"""A scheme over all the years of the file that its weather comes from: a job, with what it found."""

from dataclasses import asdict

from pydantic import BaseModel, Field

from noontide.core.behind_meter.over_years import simulate_years
from noontide.core.design import Design
from noontide.core.weather.many_years import many_years
from noontide.parts import built_in_parts
from noontide.server.accounts.models import User
from noontide.server.demand_library.storing import series_of
from noontide.server.jobs.kinds import Report, job_kind
from noontide.server.jobs.models import Job
from noontide.server.jobs.running import start
from noontide.server.jobs.views import JobAnswer
from noontide.server.problems import Problem
from noontide.server.projects.models import Scheme
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import source_of, years_of_source

KIND = "years"


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


class YearsResult(BaseModel):
    """A scheme over a record: energies exceeded with 50 and 90 %, from the spread between the years alone."""

    revision: int
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


class YearsAnswer(BaseModel):
    """The last run of a scheme over many years; a result once it is done."""

    job: JobAnswer
    result: YearsResult | None


def answer_of(job: Job) -> YearsAnswer:
    """A run as the API shows it."""
    plain = JobAnswer.model_validate(job)
    return YearsAnswer(job=plain, result=YearsResult.model_validate(plain.result) if plain.result else None)


def begin(scheme: Scheme, owner: User) -> Job:
    """Queue the run of a scheme at its newest revision.

    Raises
    ------
    Problem
        If its weather is no year of a record.
    """
    document = scheme.head.document
    digest = (document.get("weather") or {}).get("digest")
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
    return start(KIND, {"scheme": scheme.pk, "revision": scheme.head.number, "document": document, "digest": digest}, owner)


def latest(scheme: Scheme, owner: User) -> Job | None:
    """The last run of a scheme."""
    return Job.objects.visible_to(owner).filter(kind=KIND, parameters__scheme=scheme.pk).first()


def gather_years(parameters: dict) -> dict:
    """All that a run needs: the document, the file of its weather with the reading of it, and the interval data of its demand."""
    series = series_of(Design.read(parameters["document"]).demand)
    return parameters | {"source": source_of(WeatherYear.objects.get(pk=parameters["digest"])), "series": series}


@job_kind(KIND, is_heavy=True, gather=gather_years)
def run_years(parameters: dict, report: Report) -> dict:
    """Read every year of the file and simulate each."""
    report(0.02, "Reading the years of the file")
    years = years_of_source(parameters["source"])
    record = many_years(years)
    design = Design.read(parameters["document"])
    found = simulate_years(
        design,
        years,
        built_in_parts(),
        lambda done, of: report(0.1 + 0.88 * done / of, f"{done} of {of} years simulated"),
        parameters["series"],
    )
    drift = record.drift
    return YearsResult(
        revision=parameters["revision"],
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
    ).model_dump(mode="json")
