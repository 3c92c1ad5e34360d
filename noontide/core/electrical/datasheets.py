"""What a datasheet says of a module and of an inverter, in the units in which datasheets say it."""

import hashlib
import itertools
from functools import cached_property
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import BaseModel, ConfigDict, FailFast, Field, model_validator

from noontide.core.electrical.loss_polynomial import fit_weighted
from noontide.core.fields import Line

# Nothing that is built comes near the upper limit; beyond it a unit is wrong or a digit too many.
Positive = Annotated[float, Field(gt=0, le=1e7, allow_inf_nan=False)]
Percentage = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
Efficiency = Annotated[float, Field(gt=50, lt=100)]
PartId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,63}$")]
# Angle of incidence [°] and modifier; 0° and 90° need not be given.
IncidencePoint = tuple[Annotated[float, Field(ge=0, le=90)], Annotated[float, Field(ge=0, le=1.1)]]
# Irradiance [W/m2], and efficiency there over that at standard test conditions.
LowLightPoint = tuple[Annotated[float, Field(ge=50, le=1000)], Annotated[float, Field(ge=0.5, le=1.1)]]
LOWEST_CELL_VOC, HIGHEST_CELL_VOC = 0.2, 3.0  # V at standard test conditions, a warm germanium cell to a triple junction
Technology = Literal["mono", "poly", "CdTe", "CIGS", "a-Si"]
InverterKind = Literal["string", "micro", "hybrid", "stand-alone"]
DeviceKind = Literal[
    "fuse", "DC switch", "AC breaker", "residual-current device", "surge protective device", "combiner box", "meter"
]


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
    mass: Positive | None = None  # [kg]; of cables a metre
    price: float | None = Field(None, ge=0, le=1e7)  # list price without tax, in the design's currency; of cables a metre
    warranty: float | None = Field(None, ge=0, le=60)  # [years]
    size: Line = Field("", max_length=40)  # in words, such as 520 × 480 × 200 mm; modules have length and width

    # Fields that datasheets did not always have. While they say nothing new, a datasheet keeps the hash that it was copied with.
    later: ClassVar[frozenset[str]] = frozenset({"mass", "price", "warranty", "size"})

    @cached_property
    def fingerprint(self) -> str:
        """Hash of all that the datasheet says, whether it was set or took its default."""
        preset = {name for name in self.later if getattr(self, name) == type(self).model_fields[name].default}
        content = self.model_dump_json(exclude={"digest"} | preset)
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
    low_light: tuple[LowLightPoint, ...] = Field((), max_length=12)  # at 25 °C

    later: ClassVar[frozenset[str]] = Part.later | {"low_light"}

    @property
    def area(self) -> float:
        """Of the whole module [m2]."""
        return self.length * self.width

    @property
    def highest_isc(self) -> float:
        """With the light on the back of a bifacial module that its nameplate counts: 135 W/m2, IEC TS 60904-1-2 [A]."""
        return self.isc * (1 + 0.135 * self.bifaciality)

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


class TrackerInput(BaseModel):
    """What one tracker allows where the trackers of an inverter differ."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    current: Positive  # operating [A]
    short_circuit: Positive  # [A]


class Derating(BaseModel):
    """How an inverter's power falls in heat and thin air."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    temperature: float = Field(45, ge=-20, le=90)  # of the air around it, up to which it gives its rated power [°C]
    slope: float = Field(2.0, ge=0, le=50)  # [%/K] above
    shutdown: float = Field(65, ge=0, le=120)  # [°C]; nothing from there on
    height: float = Field(2000, ge=0, le=6000)  # above sea level, up to which it gives its rated power [m]
    height_slope: float = Field(1.0, ge=0, le=20)  # [%/100 m] above

    @model_validator(mode="after")
    def _shuts_down_later(self) -> Self:
        if self.shutdown < self.temperature:
            raise ValueError(
                f"An inverter shuts down at {self.shutdown:g} °C after it has begun to derate; derating begins at {self.temperature:g} °C."
            )
        return self

    def share(self, temperature: ArrayLike, height: float) -> NDArray[np.float64]:
        """Of the rated power that is left at temperatures of the air [°C] and a height above sea level [m]."""
        warm = np.asarray(temperature, dtype=float)
        hot = np.where(warm < self.shutdown, 1 - self.slope / 100 * np.maximum(warm - self.temperature, 0), 0.0)
        thin = 1 - self.height_slope / 1e4 * max(height - self.height, 0)
        return np.clip(hot, 0, 1) * min(max(thin, 0.0), 1.0)


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
    kind: InverterKind = "string"
    apparent_power: Positive | None = None  # [VA]; the rated power where it is not given
    derating: Derating | None = None  # none where the datasheet has none
    tracker_inputs: tuple[TrackerInput, ...] = Field((), max_length=24)  # of each tracker, where they differ
    is_separated: bool = False  # AC from DC, by a transformer
    feeds_no_dc_fault: bool = False  # declared by the maker
    leakage_current: float = Field(10.0, ge=0, le=5000)  # in operation [mA]
    most_on_branch: int | None = Field(None, ge=1, le=100)  # microinverters on one AC branch
    fixed_string_voltage: Positive | None = None  # at which strings with optimisers are held [V]

    later: ClassVar[frozenset[str]] = Part.later | {
        "kind", "apparent_power", "derating", "tracker_inputs", "is_separated", "feeds_no_dc_fault", "leakage_current", "most_on_branch", "fixed_string_voltage",
    }  # fmt: skip

    def tracker_input(self, tracker: int) -> TrackerInput:
        """What a tracker allows, counted from 1; one that is not there, what the last allows."""
        if self.tracker_inputs:
            return self.tracker_inputs[min(tracker, len(self.tracker_inputs)) - 1]
        return TrackerInput(current=self.maximum_tracker_current, short_circuit=self.maximum_short_circuit_current)

    def power_at(self, power_factor: float) -> float:
        """Largest active power at a power factor [W]."""
        return min(self.ac_power, (self.apparent_power or self.ac_power) * power_factor)

    @model_validator(mode="after")
    def _trackers_are_counted(self) -> Self:
        if self.tracker_inputs and len(self.tracker_inputs) != self.trackers:
            raise ValueError(
                f"The inverter has {self.trackers} trackers and inputs for {len(self.tracker_inputs)}. Give one for each, or none."
            )
        if self.apparent_power is not None and self.apparent_power < self.ac_power:
            raise ValueError(
                f"The apparent power must reach the rated power; it is {self.apparent_power:g} VA beside {self.ac_power:g} W."
            )
        return self

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


class Transformer(Part):
    """Between the inverters and the grid."""

    rated_power: Positive  # [VA]
    iron_loss: float = Field(ge=0, le=1e6)  # without load, all year round [W]
    copper_loss: float = Field(ge=0, le=1e6)  # at rated power [W]
    low_voltage: Positive = 400.0  # phase to phase [V]
    high_voltage: Positive = 20_000.0  # [V]
    impedance: float = Field(4.0, gt=0, le=30)  # short-circuit voltage [%]

    @model_validator(mode="after")
    def _loses_less_than_it_carries(self) -> Self:
        if self.iron_loss + self.copper_loss >= 0.2 * self.rated_power:
            raise ValueError(
                f"Iron and copper loss are {self.iron_loss + self.copper_loss:g} W, a fifth of the {self.rated_power:g} VA or more. Check the units."
            )
        return self


class Optimiser(Part):
    """A DC converter at each module."""

    power: Positive  # of the module at its input [W]
    maximum_input_voltage: Positive  # Voc of the module at the coldest [V]
    minimum_voltage: Positive  # lowest MPP voltage [V]
    maximum_mpp_voltage: Positive  # [V]
    input_current: Positive  # largest operating current [A]
    short_circuit_current: Positive  # Isc of the module with the factor of the rules [A]
    output_current: Positive  # [A]
    output_voltage: Positive  # highest [V]
    fewest: int = Field(ge=1, le=60)  # in a string
    most: int = Field(ge=1, le=100)  # in a string
    string_power: Positive  # largest of a string [W]
    weighted_efficiency: Efficiency
    peak_efficiency: Efficiency

    @model_validator(mode="after")
    def _limits_in_order(self) -> Self:
        order = (self.minimum_voltage, self.maximum_mpp_voltage, self.maximum_input_voltage)
        if list(order) != sorted(order):
            raise ValueError(
                f"Voltages must rise from lowest to highest MPP voltage and to the maximum; they are {', '.join(f'{v:g} V' for v in order)}."
            )
        if self.most < self.fewest:
            raise ValueError(f"A string takes {self.fewest} optimisers or more and {self.most} or fewer. Swap the two.")
        fit_weighted(self.weighted_efficiency, self.peak_efficiency)
        return self


class Cable(Part):
    """A cable of one section; mass and price are those of a metre."""

    section: Positive  # of a conductor [mm2]
    conductor: Literal["copper", "aluminium"] = "copper"
    cores: int = Field(1, ge=1, le=5)
    is_photovoltaic: bool = False  # flexible, single-core, for DC in open air


class Device(Part):
    """A fuse, switch, breaker, residual-current device or surge protective device."""

    kind: DeviceKind
    current: float = Field(0, ge=0, le=1e4)  # rated [A]; of surge protective devices the nominal discharge current [kA]
    voltage: Positive  # rated [V]
    poles: int = Field(1, ge=1, le=12)
    type: Line = Field("", max_length=12)  # of a residual-current or surge protective device: A, B, 2, 1+2


class Battery(Part):
    capacity: Positive  # usable [Wh]
    power: Positive  # charge and discharge [W]
    voltage: Positive  # nominal [V]
    efficiency: Efficiency = 95.0  # round trip, DC [%]
    cycles: int | None = Field(None, ge=1, le=100_000)
    chemistry: Line = Field("", max_length=40)


class ChargeController(Part):
    current: Positive  # to the battery [A]
    maximum_voltage: Positive  # of the array [V]
    battery_voltages: tuple[Positive, ...] = Field(min_length=1, max_length=6)  # nominal [V]
    tracks: bool = True  # the maximum power point
    efficiency: Efficiency = 97.0  # [%]


class Catalogue(BaseModel):
    """Parts by kind and id."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    modules: dict[PartId, Module] = Field({}, max_length=400)
    inverters: dict[PartId, Inverter] = Field({}, max_length=200)
    optimisers: dict[PartId, Optimiser] = Field({}, max_length=100)
    transformers: dict[PartId, Transformer] = Field({}, max_length=100)
    cables: dict[PartId, Cable] = Field({}, max_length=200)
    devices: dict[PartId, Device] = Field({}, max_length=400)
    batteries: dict[PartId, Battery] = Field({}, max_length=200)
    controllers: dict[PartId, ChargeController] = Field({}, max_length=200)
