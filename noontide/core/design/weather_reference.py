"""Which weather year a design uses, and how it is corrected."""

from typing import Annotated, Literal

from pydantic import Field

from noontide.core.fields import Document, Line, Monthly, choice, quantity
from noontide.core.weather.adjusting import FillMethod

Decomposition = Literal["erbs", "ridley"]


class Adjustment(Document):
    """A step between the weather year and the design, which can be switched off and keeps its values."""

    is_on: bool = choice(True, "In use", "An adjustment counts while it is in use.")


class GapFilling(Adjustment):
    method: FillMethod = choice("clearness", "Method", "Clear-sky index, linear between the hours around the gap.")
    includes_doubtful: bool = choice(
        False, "Doubtful values too", "Only what the reading of the file has filled is filled again."
    )


class HeightCorrection(Adjustment):
    lapse_rate: float = quantity(6.5, "Lapse rate", "K/km", 0, 15, "International standard atmosphere.", 0.5)


class MonthlyFactors(Adjustment):
    irradiance: Monthly[Annotated[float, Field(ge=0, le=3)]] = Field(
        title="Irradiance times", json_schema_extra={"x-unit": "", "x-step": 0.01}
    )


class Calibration(Adjustment):
    monthly_ghi: Monthly[Annotated[float, Field(ge=0, le=500)]] = Field(
        title="GHI by month", json_schema_extra={"x-unit": "kWh/m²", "x-step": 1}
    )
    source: Line = Field("", max_length=200, title="Source")


class WarmerClimate(Adjustment):
    temperature: Monthly[Annotated[float, Field(ge=-15, le=15)]] = Field(
        title="Temperature shift by month", json_schema_extra={"x-unit": "K", "x-step": 0.5}
    )


class WeatherReference(Document):
    """Which weather year the design uses, and how it is corrected; the year itself is kept in the weather library by its digest."""

    digest: str = Field(pattern=r"^[0-9a-f]{8,64}$")
    title: Line = Field("", max_length=200)
    clock_shift: float = quantity(0.0, "Clock shift", "h", -12, 12, "The timestamps of the file are used as they are.", 0.5)
    beam_is_horizontal: bool = choice(
        False, "DNI column holds the beam on the horizontal", "The column is read as direct normal irradiance."
    )
    decomposition: Decomposition = choice(
        "erbs",
        "Decomposition",
        "By the clearness of the hour; for years that have GHI alone.",
        {"erbs": "Erbs 1982", "ridley": "Ridley 2010"},
    )
    gap_filling: GapFilling | None = Field(None, title="Filling of marked values")
    height_correction: HeightCorrection | None = Field(None, title="Height correction")
    monthly_factors: MonthlyFactors | None = Field(None, title="Monthly factors")
    calibration: Calibration | None = Field(None, title="Calibration to monthly values")
    warmer_climate: WarmerClimate | None = Field(None, title="Warmer climate")

    @property
    def changes(self) -> bool:
        """Whether the year is read otherwise than it is kept."""
        steps = (self.gap_filling, self.height_correction, self.monthly_factors, self.calibration, self.warmer_climate)
        is_read_otherwise = self.beam_is_horizontal or self.clock_shift != 0 or self.decomposition != "erbs"
        return is_read_otherwise or any(step is not None and step.is_on for step in steps)
