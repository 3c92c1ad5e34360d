"""What carries the current, in the design: strings, inverters, cables, and the connection to the grid."""

from math import sqrt
from typing import Annotated, Literal, Self

from pydantic import Field, field_validator, model_validator

from noontide.core.design.module_rows import MOST_MODULES
from noontide.core.electrical.cables import SECTIONS, Conductor, Method
from noontide.core.electrical.string_limits import LONGEST
from noontide.core.fields import Document, Id, Line, ModuleId, choice, part, quantity

Rules = Literal["iec", "nec"]
Earthing = Literal["TN-S", "TN-C-S", "TT"]
LightningProtection = Literal["none", "separated", "bonded"]
Phase = Literal["L1", "L2", "L3"]
MOST_STRINGS = 400  # of a sub-array, on a tracker


class PlannedLengths(Document):
    """Lengths of the strings of a sub-array as they were read off the plan."""

    longest: float = quantity(..., "Longest", "m", 0.1, 10_000)
    mean: float = quantity(..., "Mean", "m", 0.1, 10_000)


class CableRun(Document):
    """A cable from one place to another. Its section is proposed until one is set."""

    length: float = quantity(..., "Length, one way", "m", 0.1, 10_000, step=5)
    section: float | None = quantity(None, "Section", "mm²", 1.5, 240, "The smallest of IEC 60228 that serves.")
    conductor: Conductor = choice("copper", "Conductor", "Usual up to some tens of kilowatts.")
    laying: Method = choice("conduit", "Laying", "In conduit along a wall.")
    ambient: float | None = quantity(
        None, "Ambient temperature", "°C", -40, 110, "30 °C in air and 20 °C in the ground; 60 °C behind modules.", 5
    )
    circuits: int = quantity(1, "Circuits side by side", "", 1, 20, "Laid alone.")
    drop_limit: float = quantity(1.0, "Voltage drop limit", "%", 0.1, 10, "A common design limit.", 0.1)

    @field_validator("section")
    @classmethod
    def _is_made(cls, section: float | None) -> float | None:
        if section is not None and section not in SECTIONS:
            raise ValueError(f"Sections of IEC 60228 are {', '.join(f'{s:g}' for s in SECTIONS)} mm²; it is {section:g} mm².")
        return section

    @model_validator(mode="after")
    def _can_be_laid(self) -> Self:
        if self.conductor == "aluminium" and self.laying == "open air":
            raise ValueError("Photovoltaic cable in open air is copper. Lay aluminium on a surface, in conduit or in the ground.")
        if self.conductor == "aluminium" and self.section is not None and self.section < 10:
            raise ValueError(f"Aluminium conductors have 10 mm² or more; it is {self.section:g} mm².")
        return self

    @property
    def mean_length(self) -> float:
        """Of the cables of the run, by which they lose and are bought [m]."""
        return self.length


class StringCable(CableRun):
    """From a string to the combiner box, or to the inverter where there is none; both ways are counted."""

    laying: Method = choice("open air", "Laying", "On the rack or along the rails.")
    planned: PlannedLengths | None = Field(None, title="Lengths of the plan")

    @property
    def mean_length(self) -> float:
        """That of the plan as long as its longest is the length; one that is typed over it counts for all strings."""
        if self.planned is None or self.planned.longest != self.length:
            return self.length
        return min(self.planned.mean, self.length)


class AcCable(CableRun):
    """Of alternating current."""

    @model_validator(mode="after")
    def _is_fixed_cable(self) -> Self:
        if self.laying == "open air":
            raise ValueError("Cable in open air is photovoltaic cable, for DC. Lay it on a surface, in conduit or in the ground.")
        return self


class InverterSet(Document):
    """Inverters of one model with identical strings, or charge controllers on the battery bus of a place without a grid."""

    name: Line = Field("", max_length=80, title="Name")
    model: str | None = part("inverters", "Inverter", None)
    controller: str | None = part("controllers", "Charge controller", None)
    count: int = quantity(1, "Inverters", "", 1, 1000, "One.")
    cable: AcCable | None = Field(None, title="AC cable")
    phase: Phase | None = choice(None, "Phase", "Single-phase inverters are spread over the phases, the largest first.")
    warmer: float = quantity(0.0, "Air around the inverter, above the weather's", "K", -20, 40, "In the shade outdoors.", 5)

    @model_validator(mode="after")
    def _is_one_of_two(self) -> Self:
        if (self.model is None) == (self.controller is None):
            raise ValueError("Strings hang on an inverter or on a charge controller. Give one of model and controller.")
        if self.controller is not None and (self.cable is not None or self.phase is not None):
            raise ValueError("A charge controller has no AC cable and no phase. Delete them, or choose an inverter.")
        return self

    @property
    def part(self) -> str:
        """Id of the inverter or the controller."""
        return self.model or self.controller or ""


class SubArray(Document):
    """Identical strings on one tracker of each inverter of a set."""

    name: Line = Field("", max_length=80, title="Name")
    surface: Id = Field(title="Surface")
    module: str = part("modules", "Module")
    modules_per_string: int = quantity(..., "Modules per string", "", 1, LONGEST)
    strings: int = quantity(1, "Parallel strings", "", 1, MOST_STRINGS, "One.")
    inverter: Id = Field(title="Inverter")
    tracker: int = quantity(1, "Tracker", "", 1, 24, "The first.")
    optimiser: str | None = part("optimisers", "Optimiser at each module", None)
    cable: StringCable | None = Field(None, title="String cable")
    main_cable: CableRun | None = Field(None, title="DC main cable")
    string_plan: tuple[tuple[ModuleId, ...], ...] | None = Field(
        None, title="Modules of each string on the plan", max_length=MOST_MODULES
    )


class Collector(Document):
    """The medium-voltage cable from one transformer station to the next, and from the last to the grid."""

    length: float = quantity(300.0, "From station to station", "m", 1, 50_000, "A block of a field.", 10)
    section: float | None = quantity(None, "Section", "mm²", 25, 300, "The smallest that carries all stations.", 5)
    conductor: Conductor = choice("aluminium", "Conductor", "Usual in the ground.")


class Connection(Document):
    """Where the plant meets the grid, and what the grid asks of it."""

    voltage: float = quantity(
        400.0, "Voltage of the grid, phase to phase", "V", 100, 1000, "Low voltage of 230/400 V, IEC 60038.", 10
    )
    cable: AcCable | None = Field(None, title="AC main cable")
    transformer: str | None = part("transformers", "Transformer", None)
    stations: int = quantity(1, "Stations, alike, with a main breaker and a transformer each", "", 1, 500, "One.")
    collector: Collector | None = Field(None, title="Medium-voltage cable")
    auxiliaries: float = quantity(0.0, "Auxiliaries", "W", 0, 100_000, "Nothing else of the plant draws power.", 10)
    power_factor: float = quantity(1.0, "Power factor", "", 0.7, 1, "No reactive power is asked for.", 0.01)
    is_absorbing: bool = choice(True, "Reactive power is drawn", "Drawing it lowers the voltage.")
    export_limit: float | None = quantity(None, "Export limit", "kW", 0, 1e6, "The grid takes all.", 1)
    resistance: float | None = quantity(None, "Grid resistance, a conductor", "Ω", 0, 10, "Not known.", 0.01)
    reactance: float = quantity(
        0.0, "Grid reactance, a conductor", "Ω", 0, 10, "Small beside the resistance at low voltage.", 0.01
    )
    rise_limit: float = quantity(3.0, "Voltage rise limit", "%", 0.5, 10, "Common limit of low-voltage grids.", 0.5)
    imbalance_limit: float = quantity(
        4.6, "Imbalance limit between phases", "kVA", 0, 100, "Common limit of low-voltage grids.", 0.1
    )
    earthing: Earthing = choice("TN-S", "Earthing", "Protective earth apart from neutral.")
    lightning_protection: LightningProtection = choice("none", "External lightning protection", "The building has none.")

    @property
    def phase_voltage(self) -> float:
        """Phase to neutral [V]."""
        return self.voltage / sqrt(3)


class OwnRules(Document):
    """Factors of one's own, in place of those of the chosen rule set."""

    title: Line = Field("Own rules", max_length=80, title="Name")
    source: Line = Field("", max_length=200, title="Source")
    array_current: float = quantity(1.25, "Array current / Isc", "", 1, 3, "IEC 62548-1.", 0.05)
    conductor: float = quantity(1.25, "Current of a string cable / Isc", "", 1, 3, "IEC 62548-1.", 0.05)
    fuse_from: float = quantity(1.5, "Lowest string fuse / Isc", "", 1, 5, "IEC 62548-1.", 0.05)
    fuse_to: float = quantity(2.4, "Highest string fuse / Isc", "", 1, 10, "IEC 62548-1.", 0.05)
    continuous: float = quantity(1.0, "AC breaker / current", "", 1, 2, "IEC 60364-4-43.", 0.05)

    @model_validator(mode="after")
    def _fuses_rise(self) -> Self:
        if self.fuse_to < self.fuse_from:
            raise ValueError(
                f"The highest string fuse must not lie under the lowest; they are {self.fuse_to:g} and {self.fuse_from:g} times Isc."
            )
        return self


class Wiring(Document):
    """By which rules cables and protection are chosen."""

    rules: Rules = choice("iec", "Rule set", "IEC 62548-1 and IEC 60364-7-712.")
    own_rules: OwnRules | None = Field(None, title="Rule set of one's own")


class AcceptedCheck(Document):
    """A finding that is accepted, with the reason; it counts while the finding stays the same."""

    reason: Line = Field(min_length=1, max_length=300, title="Reason")
    title: Line = Field("", max_length=200, title="Finding")
    actual: float = Field(0.0, title="Value when it was accepted")


CheckKey = Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]{0,39}:[^\x00-\x1f\x7f]{0,160}$")]  # rule and pointer
