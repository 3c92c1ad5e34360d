"""What a datasheet says of a module and of an inverter, in the units in which datasheets say it."""

import hashlib
import itertools
from functools import cached_property
from typing import Annotated, Literal, Self

from pydantic import BaseModel, ConfigDict, FailFast, Field, model_validator

from noontide.core.electrical.loss_polynomial import fit_weighted

# Nothing that is built comes near the upper limit; beyond it a unit is wrong or a digit too many.
Positive = Annotated[float, Field(gt=0, le=1e7, allow_inf_nan=False)]
Line = Annotated[str, Field(pattern=r"^[^\x00-\x1f\x7f\u2028\u2029]*$")]  # a text of one line
Percentage = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
Efficiency = Annotated[float, Field(gt=50, lt=100)]
PartId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,63}$")]
# Angle of incidence [°] and modifier; 0° and 90° need not be given.
IncidencePoint = tuple[Annotated[float, Field(ge=0, le=90)], Annotated[float, Field(ge=0, le=1.1)]]
LOWEST_CELL_VOC, HIGHEST_CELL_VOC = 0.2, 3.0  # V at standard test conditions, a warm germanium cell to a triple junction
Technology = Literal["mono", "poly", "CdTe", "CIGS", "a-Si"]


class Part(BaseModel):
    """What every part says of itself."""

    model_config = ConfigDict(extra="forbid", frozen=True, ignored_types=(cached_property,))

    id: PartId
    maker: Line = Field(min_length=1, max_length=60)
    name: Line = Field(min_length=1, max_length=80)
    year: int = Field(ge=1980, le=2060)
    source: Line = Field("", max_length=200)  # where the values come from
    date: Line = Field("", max_length=20)  # of the datasheet
    digest: str = Field("", pattern=r"^[0-9a-f]{0,64}$")  # of the library's datasheet when it was copied from there

    @cached_property
    def fingerprint(self) -> str:
        """Hash of all that the datasheet says, whether it was set or took its default."""
        content = self.model_dump_json(exclude={"digest"})
        return hashlib.blake2b(content.encode(), digest_size=16).hexdigest()


class Module(Part):
    """A module at standard test conditions (1000 W/m2, 25 °C, AM 1.5)."""

    technology: Technology = "mono"
    cells_in_series: int = Field(ge=1, le=400)
    power: Positive  # rated [W]
    isc: Positive  # [A]
    voc: Positive  # [V]
    imp: Positive  # [A]
    vmp: Positive  # [V]
    isc_coefficient: float = Field(ge=-0.2, le=0.3)  # [%/K]
    voc_coefficient: float = Field(ge=-1, le=0)  # [%/K]
    power_coefficient: float = Field(ge=-1, le=0)  # [%/K]
    length: Positive  # [m]
    width: Positive  # [m]
    noct: float = Field(45, ge=30, le=60)  # [°C]
    maximum_system_voltage: Positive = 1000.0  # [V]
    maximum_series_fuse: Positive = 20.0  # [A]
    coated_glass: bool = True
    incidence: tuple[IncidencePoint, ...] | None = Field(None, min_length=3, max_length=30)
    bifaciality: float = Field(0, ge=0, le=1)
    bypass_diodes: int = Field(3, ge=1, le=60)  # cell groups with a diode each
    half_cut: bool = False  # the cells of a group in two parallel halves, one above the other in portrait

    @property
    def area(self) -> float:
        """Of the whole module [m2]."""
        return self.length * self.width

    @property
    def efficiency(self) -> float:
        """At standard test conditions, 0..1."""
        return self.power / (1000 * self.area)

    @model_validator(mode="after")
    def _points_in_order(self) -> Self:
        if self.imp >= self.isc:
            raise ValueError(f"Imp must be below Isc; it is {self.imp:g} A beside {self.isc:g} A")
        if self.vmp >= self.voc:
            raise ValueError(f"Vmp must be below Voc; it is {self.vmp:g} V beside {self.voc:g} V")
        per_cell = self.voc / self.cells_in_series
        if not LOWEST_CELL_VOC <= per_cell <= HIGHEST_CELL_VOC:
            raise ValueError(
                f"Voc {self.voc:g} V over {self.cells_in_series} cells in series is {per_cell:.2f} V a cell; "
                f"{LOWEST_CELL_VOC:g} to {HIGHEST_CELL_VOC:g} V is possible. Check the number of cells in series."
            )
        if abs(self.vmp * self.imp / self.power - 1) > 0.02:
            raise ValueError(f"Vmp × Imp is {self.vmp * self.imp:.1f} W, more than 2 % from the rated {self.power:g} W.")
        return self

    @model_validator(mode="after")
    def _angles_rise(self) -> Self:
        angles = [angle for angle, _ in self.incidence or ()]
        for before, after in itertools.pairwise(angles):
            if after <= before:
                raise ValueError(f"The angles of the incidence table must rise; {after:g}° comes after {before:g}°.")
        return self


class EfficiencyCurve(BaseModel):
    """Efficiency at one input voltage, over the share of rated AC power."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    voltage: Positive  # [V]
    points: Annotated[tuple[tuple[Annotated[float, Field(gt=0, le=1.2)], Efficiency], ...], FailFast()] = Field(
        min_length=3, max_length=60
    )


class Inverter(Part):
    ac_power: Positive  # rated [W]
    phases: Literal[1, 3] = 3
    trackers: int = Field(ge=1, le=24)
    maximum_dc_power: Positive  # [W]
    maximum_dc_voltage: Positive  # [V]
    start_voltage: Positive  # [V]
    mppt_minimum: Positive  # lowest voltage of the tracker's window [V]
    full_power_minimum: Positive  # lowest voltage at which rated power is reached [V]
    mppt_maximum: Positive  # highest voltage of the tracker's window [V]
    maximum_tracker_current: Positive  # operating, each tracker [A]
    maximum_short_circuit_current: Positive  # each tracker [A]
    efficiency: Annotated[tuple[EfficiencyCurve, ...], FailFast()] = Field((), max_length=12)
    # Old datasheets state these two alone.
    peak_efficiency: Efficiency | None = None  # [%]
    european_efficiency: Efficiency | None = None  # [%]
    night_power: float = Field(1.0, ge=0, le=1e4)  # [W]

    @model_validator(mode="after")
    def _efficiency_is_known(self) -> Self:
        if self.efficiency:
            return self
        if self.peak_efficiency is None or self.european_efficiency is None:
            raise ValueError("Give efficiency points, or the peak and the European efficiency.")
        fit_weighted(self.european_efficiency, self.peak_efficiency)
        return self

    @model_validator(mode="after")
    def _voltages_in_order(self) -> Self:
        order = (self.mppt_minimum, self.full_power_minimum, self.mppt_maximum, self.maximum_dc_voltage)
        if list(order) != sorted(order):
            raise ValueError(
                "Voltages must rise from the lowest MPP voltage over the full-power voltage and the highest MPP voltage "
                f"to the maximum DC voltage; they are {', '.join(f'{v:g} V' for v in order)}."
            )
        return self


class Catalogue(BaseModel):
    """Modules and inverters by their ids."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    modules: dict[PartId, Module] = Field({}, max_length=400)
    inverters: dict[PartId, Inverter] = Field({}, max_length=200)
