"""What a year carries besides its values, as a plain object that our formats write with it and read back."""

from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from noontide.core.calendar import Calendar
from noontide.core.fields import first_fault
from noontide.core.weather.numbers import RANGES
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.year import Place, Step, Weather, flags_of, runs_of

Floats = NDArray[np.float64]
COLUMNS = ("ghi", "dni", "dhi", "temperature", "wind", "pressure")
UNITS = {"ghi": "W/m2", "dni": "W/m2", "dhi": "W/m2", "temperature": "Cel", "wind": "m/s", "pressure": "hPa"}


class _StepEntry(BaseModel):
    kind: str = Field(max_length=60)
    words: str = Field(max_length=2000)


class Passport(BaseModel):
    """Clock, place, names, marks and provenance of a year."""

    model_config = ConfigDict(allow_inf_nan=False)

    version: int = Field(1, ge=1, le=1)
    title: str = Field("Weather year", max_length=300)
    source: str = Field("", max_length=500)
    latitude: float = Field(ge=-90, le=90)
    longitude: float = Field(ge=-180, le=180)
    elevation: float = Field(0.0, ge=-500, le=9000)
    year: int = Field(ge=1900, le=2100)
    step: int
    utc_offset: float
    is_typical: bool = True
    notes: list[str] = Field([], max_length=500)
    given: list[str] = Field(list(COLUMNS), max_length=6)
    flags: list[tuple[int, int, int]] = Field([], max_length=600_000)
    steps: list[_StepEntry] = Field([], max_length=500)


def passport_of(weather: Weather) -> dict[str, Any]:
    """The passport of a year, as JSON values."""
    c, place = weather.calendar, weather.place
    return Passport(
        title=weather.title[:300], source=weather.source[:500], latitude=place.latitude, longitude=place.longitude, elevation=place.elevation,
        year=c.year, step=c.step, utc_offset=c.utc_offset, is_typical=weather.is_typical, notes=list(weather.notes), given=list(weather.given),
        flags=runs_of(weather.flags), steps=[_StepEntry(kind=s.kind, words=s.words) for s in weather.steps],
    ).model_dump(mode="json")  # fmt: skip


def year_of(passport: Any, columns: dict[str, Floats]) -> Weather:
    """The year of a passport and its columns, exactly as it was written.

    Raises
    ------
    WeatherFileError
        If the passport is none, or a column is missing, too short or out of its range.
    """
    try:
        p = Passport.model_validate(passport)
        calendar = Calendar(p.year, p.step, p.utc_offset)
    except ValidationError as error:
        raise WeatherFileError(f"noontide:year{first_fault(error)}") from error
    except ValueError as error:
        raise WeatherFileError(f"noontide:year: {error}") from error
    for name in COLUMNS:
        values = columns.get(name)
        if values is None or values.shape != (calendar.intervals,):
            found = "no" if values is None else f"{values.size:,}"
            raise WeatherFileError(f"{calendar.intervals:,} values of {name} were expected; the file has {found}", column=name)
        low, high = RANGES[name].low, RANGES[name].high
        wrong = np.flatnonzero(~((values >= low) & (values <= high)))
        if wrong.size:
            i = int(wrong[0])
            raise WeatherFileError(
                f"{low:g} to {high:g} {RANGES[name].unit} was expected", row=i + 1, column=name, value=f"{values[i]:g}"
            )
    unknown = set(p.given) - set(COLUMNS)
    if unknown or any(
        start < 0 or length < 1 or start + length > calendar.intervals or not 0 <= mark < 256 for start, length, mark in p.flags
    ):
        raise WeatherFileError("noontide:year: its given columns or flags are not those of such a year")
    ghi, dni, dhi, temperature, wind, pressure = (columns[name] for name in COLUMNS)
    return Weather(
        calendar, Place(p.latitude, p.longitude, p.elevation), ghi, dni, dhi, temperature, wind, pressure, title=p.title, source=p.source, is_typical=p.is_typical,
        notes=tuple(p.notes), given=tuple(p.given), flags=flags_of([list(run) for run in p.flags], calendar.intervals),
        steps=tuple(Step(s.kind, s.words) for s in p.steps),
    )  # fmt: skip
