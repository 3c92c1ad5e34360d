"""Losses and models that hold for a whole plant."""

from typing import Annotated, Literal

from pydantic import Field

from noontide.core.fields import Document, Monthly, choice, months, quantity

Transposition = Literal["perez", "reindl", "hay-davies", "isotropic"]
Incidence = Literal["fresnel", "martin-ruiz", "ashrae", "datasheet", "none"]
Thermal = Literal["faiman", "noct", "king"]
Laying = Literal["open air", "conduit", "buried"]
Conductor = Literal["copper", "aluminium"]
SoilingShare = Annotated[float, Field(ge=0, le=50)]  # [%]


class Losses(Document):
    soiling: float = quantity(2.0, "Soiling", "%", 0, 50, "Typical of tilted arrays that rain keeps clean.", 0.5)
    soiling_by_month: Monthly[SoilingShare] | None = months("Soiling by month", "%", 0.5)
    quality: float = quantity(
        0.0,
        "Loss by power tolerance (a positive tolerance of the datasheet is negative here)",
        "%",
        -5,
        20,
        "Manufacturers usually sort to a positive tolerance.",
        0.5,
    )
    light_induced: float = quantity(
        1.0, "Light-induced degradation", "%", 0, 10, "Typical of boron-doped silicon; less for other cells.", 0.5
    )
    degradation: float = quantity(
        0.5, "Degradation a year", "%", 0, 5, "Median of crystalline silicon in the field (Jordan et al. 2016).", 0.1
    )
    year_of_operation: int = quantity(1, "Year of operation", "", 1, 60, "The first, with new modules.")
    degradation_of_current: float = quantity(
        70.0,
        "Degradation that is lost current",
        "%",
        0,
        100,
        "Field studies find most of it in the current, the rest in the voltage.",
        5,
    )
    mismatch: float = quantity(1.0, "Mismatch", "%", 0, 10, "Typical of modules sorted by current.", 0.5)
    dc_wiring: float = quantity(1.5, "DC wiring at rated power", "%", 0, 10, "A common design limit.", 0.1)
    ac_wiring: float = quantity(1.0, "AC wiring at rated power", "%", 0, 10, "A common design limit.", 0.1)
    dc_laying: Laying = choice("open air", "DC cable laying", "Cables on a roof or a rack.")
    dc_conductor: Conductor = choice("copper", "DC conductor", "Usual for string cables.")
    unavailability: float = quantity(1.0, "Unavailability", "%", 0, 100, "Three to four days a year.", 0.5)

    @property
    def degraded(self) -> float:
        """Of the modules' power, after the years of operation, 0..1."""
        return min(self.degradation / 100 * (self.year_of_operation - 1), 0.95)

    @property
    def voltage_left(self) -> float:
        """Of the modules' voltage, after the years of operation, 0..1."""
        return (1 - self.degraded) ** (1 - self.degradation_of_current / 100)


class Models(Document):
    """Which model serves where several do; models are called by author and year, as engineers cite them."""

    transposition: Transposition = choice(
        "perez",
        "Sky model",
        "The most accurate at most sites.",
        {"perez": "Perez 1990", "reindl": "Reindl 1990", "hay-davies": "Hay and Davies 1980", "isotropic": "isotropic sky"},
    )
    incidence: Incidence = choice(
        "fresnel",
        "Incidence angle modifier (IAM)",
        "Calculated from the refractive index of the glass.",
        {"fresnel": "Fresnel", "martin-ruiz": "Martin and Ruiz 2001", "ashrae": "ASHRAE", "datasheet": "datasheet table"},
    )
    temperature: Thermal = choice(
        "faiman",
        "Cell temperature",
        "Accounts for wind; fitted to outdoor measurements.",
        {"faiman": "Faiman 2008", "noct": "NOCT", "king": "King 2004"},
    )
    wind_factor: float = quantity(
        0.7,
        "Wind at the array / wind at 10 m",
        "",
        0,
        2,
        "Logarithmic profile from 10 m down to 2 m over open farmland (roughness 0.03 m).",
        0.05,
    )
