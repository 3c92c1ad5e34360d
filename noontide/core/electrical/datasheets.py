"""What a datasheet says of a module and of an inverter, in the units in which datasheets say it."""

import hashlib
import itertools
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, ClassVar, Literal, Self, get_args

import numpy as np
from numpy.typing import ArrayLike, NDArray
from pydantic import BaseModel, ConfigDict, FailFast, Field, model_validator
from pydantic.fields import FieldInfo

from noontide.core.electrical.loss_polynomial import fit_weighted
from noontide.core.fields import Currency, Frozen, Line

# Nothing that is built comes near the upper limit; beyond it a unit is wrong or a digit too many.
Positive = Annotated[float, Field(gt=0, le=1e7, allow_inf_nan=False)]
Percentage = Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)]
Efficiency = Annotated[float, Field(gt=50, lt=100)]
PartId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,63}$")]
# Angle of incidence [°] and modifier; 0° and 90° need not be given.
IncidencePoint = tuple[Annotated[float, Field(ge=0, le=90)], Annotated[float, Field(ge=0, le=1.1)]]
# Irradiance [W/m2], and efficiency there over that at standard test conditions.
LowLightPoint = tuple[Annotated[float, Field(ge=50, le=1000)], Annotated[float, Field(ge=0.5, le=1.1)]]
# Depth of discharge [%], and how many cycles of it a battery lasts.
CyclePoint = tuple[Annotated[float, Field(gt=0, le=100)], Annotated[float, Field(ge=1, le=1e7)]]
# Share of the power, and the efficiency there, round trip [%].
PowerPoint = tuple[Annotated[float, Field(gt=0, le=1)], Efficiency]
LOWEST_CELL_VOC, HIGHEST_CELL_VOC = 0.2, 3.0  # V at standard test conditions, a warm germanium cell to a triple junction
Technology = Literal["mono", "poly", "CdTe", "CIGS", "a-Si"]
InverterKind = Literal["string", "micro", "hybrid", "stand-alone"]
DeviceKind = Literal[
    "fuse", "DC switch", "AC breaker", "residual-current device", "surge protective device", "combiner box", "meter"
]


def said(title: str, default: Any = ..., unit: str = "", **limits: Any) -> Any:
    """A value of a datasheet, by the name and in the unit in which people read it."""
    return Field(default, title=title, json_schema_extra={"x-unit": unit} if unit else {}, **limits)


class Part(Frozen):
    """What every part says of itself."""

    model_config = ConfigDict(json_schema_extra=lambda schema, part: schema.update({"x-shown": list(part.shown)}))

    id: PartId
    maker: Line = said("Maker", min_length=1, max_length=60)
    name: Line = said("Name", min_length=1, max_length=80)
    year: int = said("Year", ge=1980, le=2060)
    source: Line = said("Source", "", max_length=200)  # where the values come from
    date: Line = said("Date of the datasheet", "", max_length=20)
    digest: str = Field("", pattern=r"^[0-9a-f]{0,64}$")  # of the library's datasheet when it was copied from there
    mass: Positive | None = said("Mass", None, unit="kg")  # of cables a metre
    price: float | None = said("Price", None, ge=0, le=1e7)  # list price without tax; of cables a metre
    currency: Currency | None = said("Currency of the price", None)  # that of the design where it is not said
    warranty: float | None = said("Warranty", None, unit="years", ge=0, le=60)
    size: Line = said("Size", "", max_length=40)  # in words, such as 520 × 480 × 200 mm; modules have length and width

    # Fields that datasheets did not always have. While they say nothing new, a datasheet keeps the hash that it was copied with.
    # What the library's table shows of a kind, besides what all parts say.
    shown: ClassVar[tuple[str, ...]] = ()
    later: ClassVar[frozenset[str]] = frozenset({"mass", "price", "warranty", "size", "currency"})

    @cached_property
    def fingerprint(self) -> str:
        """Hash of all that the datasheet says, whether it was set or took its default."""
        preset = {name for name in self.later if getattr(self, name) == type(self).model_fields[name].default}
        content = self.model_dump_json(exclude={"digest"} | preset)
        return hashlib.blake2b(content.encode(), digest_size=16).hexdigest()

    def __hash__(self) -> int:
        """Of its fingerprint, which is found once: what is fitted to a datasheet is looked up by it for every year."""
        return hash(self.fingerprint)


class Module(Part):
    """A module at standard test conditions (1000 W/m2, 25 °C, AM 1.5)."""

    shown: ClassVar[tuple[str, ...]] = ("power", "voc", "isc", "technology")
    technology: Technology = said("Cells", "mono")
    cells_in_series: int = said("Cells in series", ge=1, le=400)
    power: Positive = said("Power", unit="W")  # rated
    isc: Positive = said("Isc", unit="A")
    voc: Positive = said("Voc", unit="V")
    imp: Positive = said("Imp", unit="A")
    vmp: Positive = said("Vmp", unit="V")
    isc_coefficient: float = said("Isc coefficient", unit="%/K", ge=-0.2, le=0.3)
    voc_coefficient: float = said("Voc coefficient", unit="%/K", ge=-1, le=0)
    power_coefficient: float = said("Power coefficient", unit="%/K", ge=-1, le=0)
    length: Positive = said("Length", unit="m")
    width: Positive = said("Width", unit="m")
    noct: float = said("NOCT", 45, unit="°C", ge=30, le=60)
    maximum_system_voltage: Positive = said("System voltage", 1000.0, unit="V")
    maximum_series_fuse: Positive = said("Series fuse", 20.0, unit="A")
    coated_glass: bool = said("Coated glass", True)
    incidence: tuple[IncidencePoint, ...] | None = said("Incidence angle modifier by angle", None, min_length=3, max_length=30)
    bifaciality: float = said("Bifaciality", 0, ge=0, le=1)
    bypass_diodes: int = said("Bypass diodes", 3, ge=1, le=60)  # cell groups with a diode each
    half_cut: bool = said("Half-cut cells", False)  # the cells of a group in two parallel halves, one above the other in portrait
    low_light: tuple[LowLightPoint, ...] = said("Efficiency by irradiance", (), max_length=12)  # at 25 °C

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

    def begins_within(self, highest: float, height: float) -> bool:
        """Whether air of up to a temperature [°C], at a height above sea level [m], takes anything away."""
        return highest > self.temperature or highest >= self.shutdown or height > self.height

    def share(self, temperature: ArrayLike, height: float) -> NDArray[np.float64]:
        """Of the rated power that is left at temperatures of the air [°C] and a height above sea level [m]."""
        warm = np.asarray(temperature, dtype=float)
        hot = np.minimum(np.maximum(1 - self.slope / 100 * np.maximum(warm - self.temperature, 0), 0), 1)
        hot = hot * (warm < self.shutdown)
        thin = 1 - self.height_slope / 1e4 * max(height - self.height, 0)
        return hot * min(max(thin, 0.0), 1.0)


class Inverter(Part):
    """Turns direct current of the strings into alternating current."""

    shown: ClassVar[tuple[str, ...]] = ("ac_power", "kind", "phases", "trackers", "maximum_dc_voltage", "european_efficiency")
    ac_power: Positive = said("Rated AC power", unit="W")
    phases: Literal[1, 3] = said("Phases", 3)
    trackers: int = said("Trackers", ge=1, le=24)
    maximum_dc_power: Positive = said("Maximum DC power", unit="W")
    maximum_dc_voltage: Positive = said("Maximum DC voltage", unit="V")
    start_voltage: Positive = said("Start voltage", unit="V")
    mppt_minimum: Positive = said("MPP window from", unit="V")  # lowest voltage of the tracker's window
    full_power_minimum: Positive = said("Full power from", unit="V")  # lowest voltage at which rated power is reached
    mppt_maximum: Positive = said("MPP window to", unit="V")  # highest voltage of the tracker's window
    maximum_tracker_current: Positive = said("Current per tracker", unit="A")  # operating, each tracker
    maximum_short_circuit_current: Positive = said("Short-circuit current", unit="A")  # each tracker
    efficiency: Annotated[tuple[EfficiencyCurve, ...], FailFast()] = said("Efficiency by voltage and load", (), max_length=12)
    # Old datasheets state these two alone.
    peak_efficiency: Efficiency | None = said("Peak efficiency", None, unit="%")
    european_efficiency: Efficiency | None = said("European efficiency", None, unit="%")
    night_power: float = said("Night consumption", 1.0, unit="W", ge=0, le=1e4)
    kind: InverterKind = said("Kind", "string")
    apparent_power: Positive | None = said("Apparent power", None, unit="VA")  # the rated power where it is not given
    derating: Derating | None = said("Derating", None)  # none where the datasheet has none
    tracker_inputs: tuple[TrackerInput, ...] = said("Inputs where trackers differ", (), max_length=24)
    is_separated: bool = said("Separates AC from DC", False)  # by a transformer
    feeds_no_dc_fault: bool = said("Feeds no DC fault current", False)  # declared by the maker
    leakage_current: float = said("Leakage current", 10.0, unit="mA", ge=0, le=5000)  # in operation
    most_on_branch: int | None = said("Most on one AC branch", None, ge=1, le=100)  # microinverters on one AC branch
    fixed_string_voltage: Positive | None = said(
        "Fixed string voltage", None, unit="V"
    )  # at which strings with optimisers are held

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

    shown: ClassVar[tuple[str, ...]] = ("rated_power", "iron_loss", "copper_loss", "low_voltage", "high_voltage", "impedance")
    rated_power: Positive = said("Rated power", unit="VA")
    iron_loss: float = said("Iron loss", unit="W", ge=0, le=1e6)  # without load, all year round
    copper_loss: float = said("Copper loss", unit="W", ge=0, le=1e6)  # at rated power
    low_voltage: Positive = said("Low voltage", 400.0, unit="V")  # phase to phase
    high_voltage: Positive = said("High voltage", 20_000.0, unit="V")
    impedance: float = said("Impedance", 4.0, unit="%", gt=0, le=30)  # short-circuit voltage

    @model_validator(mode="after")
    def _loses_less_than_it_carries(self) -> Self:
        if self.iron_loss + self.copper_loss >= 0.2 * self.rated_power:
            raise ValueError(
                f"Iron and copper loss are {self.iron_loss + self.copper_loss:g} W, a fifth of the {self.rated_power:g} VA or more. Check the units."
            )
        return self


class Optimiser(Part):
    """A DC converter at each module."""

    shown: ClassVar[tuple[str, ...]] = (
        "power",
        "maximum_input_voltage",
        "output_current",
        "fewest",
        "most",
        "weighted_efficiency",
    )
    power: Positive = said("Module power", unit="W")  # of the module at its input
    maximum_input_voltage: Positive = said("Highest input voltage", unit="V")  # Voc of the module at the coldest
    minimum_voltage: Positive = said("MPP window from", unit="V")  # lowest MPP voltage
    maximum_mpp_voltage: Positive = said("MPP window to", unit="V")
    input_current: Positive = said("Input current", unit="A")  # largest operating current
    short_circuit_current: Positive = said("Short-circuit current", unit="A")  # Isc of the module with the factor of the rules
    output_current: Positive = said("Output current", unit="A")
    output_voltage: Positive = said("Output voltage", unit="V")  # highest
    fewest: int = said("Fewest in a string", ge=1, le=60)
    most: int = said("Most in a string", ge=1, le=100)
    string_power: Positive = said("String power", unit="W")  # largest of a string
    weighted_efficiency: Efficiency = said("Weighted efficiency", unit="%")
    peak_efficiency: Efficiency = said("Peak efficiency", unit="%")

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

    shown: ClassVar[tuple[str, ...]] = ("section", "conductor", "cores", "is_photovoltaic")
    section: Positive = said("Section", unit="mm²")  # of a conductor
    conductor: Literal["copper", "aluminium"] = said("Conductor", "copper")
    cores: int = said("Cores", 1, ge=1, le=5)
    is_photovoltaic: bool = said("Photovoltaic cable", False)  # flexible, single-core, for DC in open air


class Device(Part):
    """A fuse, switch, breaker, residual-current device or surge protective device."""

    shown: ClassVar[tuple[str, ...]] = ("kind", "type", "current", "voltage", "poles")
    kind: DeviceKind = said("Kind")
    current: float = said(
        "Current", 0, unit="A", ge=0, le=1e4
    )  # rated; of surge protective devices the nominal discharge current
    voltage: Positive = said("Voltage", unit="V")  # rated
    poles: int = said("Poles", 1, ge=1, le=12)
    type: Line = said("Type", "", max_length=12)  # of a residual-current or surge protective device: A, B, 2, 1+2


class Battery(Part):
    """A battery as it is bought: one unit of a bank."""

    shown: ClassVar[tuple[str, ...]] = ("capacity", "power", "voltage", "efficiency", "cycles", "chemistry")
    capacity: Positive = said("Usable capacity", unit="Wh")
    power: Positive = said("Power", unit="W")  # charge and discharge
    voltage: Positive = said("Voltage", unit="V")  # nominal
    efficiency: Efficiency = said("Efficiency", 95.0, unit="%")  # round trip, DC
    cycles: int | None = said("Cycles at full depth", None, ge=1, le=100_000)
    chemistry: Line = said("Chemistry", "", max_length=40)
    nominal: Positive | None = said("Nominal energy", None, unit="Wh")  # the usable one where it is not given
    current: Positive | None = said("Highest current", None, unit="A")
    standby: float | None = said("Standby", None, unit="W", ge=0, le=1e4)
    lowest_temperature: float | None = said("Lowest temperature", None, unit="°C", ge=-60, le=40)
    highest_temperature: float | None = said("Highest temperature", None, unit="°C", ge=0, le=90)
    calendar_life: float | None = said("Calendar life", None, unit="years", gt=0, le=60)
    cycle_life: tuple[CyclePoint, ...] = said("Cycles by depth", (), max_length=12)
    efficiency_by_power: tuple[PowerPoint, ...] = said(
        "Efficiency by power", (), max_length=12
    )  # round trip, DC [%], by share of the power

    later: ClassVar[frozenset[str]] = Part.later | {
        "nominal", "current", "standby", "lowest_temperature", "highest_temperature", "calendar_life", "cycle_life", "efficiency_by_power",
    }  # fmt: skip

    @property
    def charge(self) -> float:
        """Nominal charge [Ah]."""
        return (self.nominal or self.capacity) / self.voltage

    def efficiency_at(self, share: NDArray[np.float64]) -> NDArray[np.float64]:
        """Round trip, DC, at shares of the power, linear between the points and as at the nearest beyond them [%]."""
        if not self.efficiency_by_power:
            return np.full(np.shape(share), self.efficiency)
        shares, efficiencies = zip(*self.efficiency_by_power, strict=True)
        return np.asarray(np.interp(share, shares, efficiencies))

    @property
    def lives(self) -> tuple[tuple[float, float], ...]:
        """Depth (share, 0..1) and cycles that it lasts; of cycles at full depth alone, as much energy at any depth."""
        if self.cycle_life:
            return tuple((depth / 100, cycles) for depth, cycles in self.cycle_life)
        return ((1.0, float(self.cycles)),) if self.cycles else ()

    @model_validator(mode="after")
    def _holds_together(self) -> Self:
        if self.nominal is not None and self.nominal < self.capacity:
            raise ValueError(
                f"The nominal energy must reach the usable one; it is {self.nominal:g} Wh beside {self.capacity:g} Wh."
            )
        depths = [depth for depth, _ in self.cycle_life]
        if any(b <= a for a, b in itertools.pairwise(depths)):
            raise ValueError("The depths of the cycle life must rise, each once.")
        shares = [share for share, _ in self.efficiency_by_power]
        if any(b <= a for a, b in itertools.pairwise(shares)):
            raise ValueError("The powers of the efficiency must rise, each once.")
        return self


class ChargeController(Part):
    """Between an array and a battery without an inverter."""

    shown: ClassVar[tuple[str, ...]] = ("current", "maximum_voltage", "battery_voltages", "tracks", "efficiency")
    current: Positive = said("Current", unit="A")  # to the battery
    maximum_voltage: Positive = said("Highest array voltage", unit="V")
    battery_voltages: tuple[Positive, ...] = said("Battery voltages", unit="V", min_length=1, max_length=6)  # nominal
    tracks: bool = said("Tracks the maximum power point", True)
    efficiency: Efficiency = said("Efficiency", 97.0, unit="%")
    own_consumption: float = said("Own consumption", 1.0, unit="W", ge=0, le=1000)

    later: ClassVar[frozenset[str]] = Part.later | {"own_consumption"}


def shelf(most: int, title: str, one: str, most_own: int) -> Any:
    """A kind of parts: how many a catalogue holds, how many of them are a user's own, and the words for several and for one."""
    return Field({}, max_length=most, title=title, json_schema_extra={"x-one": one, "x-most-own": most_own})


class Catalogue(Frozen):
    """Parts by kind and id. All that goes by kind reads it from here: a kind is added by a line, a class and a file of parts."""

    modules: dict[PartId, Module] = shelf(400, "Modules", "module", 300)
    inverters: dict[PartId, Inverter] = shelf(200, "Inverters", "inverter", 150)
    optimisers: dict[PartId, Optimiser] = shelf(100, "Optimisers", "optimiser", 80)
    transformers: dict[PartId, Transformer] = shelf(100, "Transformers", "transformer", 80)
    cables: dict[PartId, Cable] = shelf(200, "Cables", "cable", 120)
    devices: dict[PartId, Device] = shelf(400, "Protection", "device", 250)
    batteries: dict[PartId, Battery] = shelf(200, "Batteries", "battery", 150)
    controllers: dict[PartId, ChargeController] = shelf(200, "Charge controllers", "charge controller", 150)

    def of(self, kind: str) -> dict[str, Any]:
        """The parts of a kind by id."""
        return getattr(self, kind)


@dataclass(frozen=True)
class PartKind:
    """A kind of parts, as the catalogue has it."""

    key: str
    model: type[Part]
    title: str
    one: str  # a single part
    most_own: int


def _kind(key: str, info: FieldInfo) -> PartKind:
    extra: Any = info.json_schema_extra
    return PartKind(key, get_args(info.annotation)[1], str(info.title), extra["x-one"], extra["x-most-own"])


KINDS: dict[str, PartKind] = {key: _kind(key, info) for key, info in Catalogue.model_fields.items()}
