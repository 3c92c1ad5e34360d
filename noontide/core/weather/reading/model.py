"""A reading: all that has to be known of a file to take a weather year out of it, as plain data that can be kept and edited."""

from itertools import pairwise
from typing import Annotated, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from noontide.core.calendar import STEPS

Sureness = Literal["certain", "likely", "guess"]
TimePart = Literal["stamp", "date", "clock", "year", "month", "day", "hour", "minute", "day of year"]
Quantity = Literal["ghi", "dni", "dhi", "beam_horizontal", "temperature", "wind", "pressure"]
Role = Quantity | TimePart | Literal[""]
Finite = Annotated[float, Field(allow_inf_nan=False)]

LONG_STEPS = (180, 120)  # [min] that rows may have and a year does not: each is divided into hours
TIME_PARTS: tuple[str, ...] = ("stamp", "date", "clock", "year", "month", "day", "hour", "minute", "day of year")
# For each quantity, units with the factor and the shift to ours: ours = value * factor + shift. Energies are per row, and their
# factor is that of an hour: the reader multiplies it by 60 / step.
UNITS: dict[str, dict[str, tuple[float, float]]] = {
    "irradiance": {
        "W/m²": (1.0, 0.0), "kW/m²": (1000.0, 0.0), "Wh/m²": (1.0, 0.0), "kWh/m²": (1000.0, 0.0), "kJ/m²": (1 / 3.6, 0.0),
        "MJ/m²": (1000 / 3.6, 0.0), "J/cm²": (1e4 / 3600, 0.0), "J/m²": (1 / 3600, 0.0),
    },
    "temperature": {"°C": (1.0, 0.0), "°F": (5 / 9, -160 / 9), "K": (1.0, -273.15)},
    "wind": {"m/s": (1.0, 0.0), "km/h": (1 / 3.6, 0.0), "mph": (0.44704, 0.0), "kn": (1852 / 3600, 0.0)},
    "pressure": {"hPa": (1.0, 0.0), "Pa": (0.01, 0.0), "kPa": (10.0, 0.0), "mbar": (1.0, 0.0), "mmHg": (1.333224, 0.0)},
}  # fmt: skip
ENERGIES = ("Wh/m²", "kWh/m²", "kJ/m²", "MJ/m²", "J/cm²", "J/m²")
IRRADIANCES = ("ghi", "dni", "dhi", "beam_horizontal")


def units_of(quantity: str) -> dict[str, tuple[float, float]]:
    """Units that a quantity may come in."""
    return UNITS["irradiance" if quantity in IRRADIANCES else quantity]


class Finding(BaseModel):
    """One thing that was understood, why, and how sure that is."""

    subject: str
    value: str
    reason: str
    sureness: Sureness


class ColumnReading(BaseModel):
    """What a column of the table holds; with an empty role it is left out."""

    model_config = ConfigDict(extra="forbid", validate_assignment=True)

    place: int = Field(ge=0, le=999)  # from 0
    heading: str = Field("", max_length=200)
    role: Role = ""
    unit: str = Field("", max_length=20)
    sureness: Sureness = "guess"
    reason: str = Field("", max_length=300)

    @model_validator(mode="after")
    def _unit_fits(self) -> Self:
        if self.role and self.role not in TIME_PARTS:
            units = units_of(self.role)
            if self.unit and self.unit not in units:
                raise ValueError(f"{self.role} comes in {', '.join(units)}; {self.unit!r} is none of them.")
        return self


class Reading(BaseModel):
    """How a file is understood. Row numbers are those of the file's lines, from 1."""

    model_config = ConfigDict(extra="forbid")

    format: Literal["table", "epw", "noontide"] = "table"
    source: Literal["text", "xlsx", "parquet", "json"] = "text"
    sheet: str = Field("", max_length=100)
    encoding: str = Field("utf-8", max_length=20)
    delimiter: Literal[",", ";", "\t", "|", " ", ""] = (
        ","  # a blank for columns between spaces, nothing for columns of characters
    )
    cuts: list[Annotated[int, Field(ge=0, le=20_000)]] = Field([], max_length=400)  # where columns of characters begin, from 0
    decimal: Literal[".", ","] = "."
    thousands: Literal["", ",", ".", "'", "\u2019", " ", "\u00a0", "\u202f"] = ""
    header_rows: list[int] = Field([], max_length=4)
    first_row: int = Field(1, ge=1)
    last_row: int = Field(1, ge=1)
    columns: list[ColumnReading] = Field([], max_length=400)
    missing: list[Finite] = Field([], max_length=20)  # values that say that there is none
    date_order: Literal["ymd", "dmy", "mdy"] = "ymd"
    stamps: Literal["start", "middle", "end"] = "start"  # what the time of a row marks of its interval
    step: int = 60  # [min]
    utc_offset: float = Field(0.0, ge=-12, le=14)  # of the file's clock, in standard time [h]
    daylight_saving: str = Field("", max_length=60)  # a time zone whose summer time the clock follows; empty for none
    shift: float = Field(0.0, ge=-720, le=720)  # added to every time [min]
    year: int | None = Field(None, ge=1900, le=2100)  # of several: the one that is taken
    years: list[int] = Field([], max_length=200)  # that the table has
    is_typical: bool = False  # months of different years make one
    latitude: float | None = Field(None, ge=-90, le=90)
    longitude: float | None = Field(None, ge=-180, le=180)
    elevation: float | None = Field(None, ge=-500, le=9000)
    title: str = Field("", max_length=200)
    findings: list[Finding] = Field([], max_length=100)
    proposed_shift: float | None = None  # what would bring the light and the sun together [min]

    @model_validator(mode="after")
    def _is_consistent(self) -> Self:
        if self.step not in (*STEPS, *LONG_STEPS):
            raise ValueError(f"The step must be one of {', '.join(map(str, (*LONG_STEPS, *STEPS)))} min; it is {self.step}.")
        if self.thousands == self.decimal:
            raise ValueError("Decimals and thousands cannot have the same mark.")
        if not self.delimiter and (not self.cuts or any(b <= a for a, b in pairwise(self.cuts))):
            raise ValueError("Columns of characters begin at places that rise, such as 0, 10, 14.")
        roles = [c.role for c in self.columns if c.role]
        if twice := {role for role in roles if roles.count(role) > 1}:
            raise ValueError(f"Each quantity can have one column; {', '.join(sorted(twice))} has several.")
        return self

    def column(self, role: str) -> ColumnReading | None:
        """The column of a role, if there is one."""
        return next((c for c in self.columns if c.role == role), None)
