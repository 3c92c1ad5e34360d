"""The cables of a design with their sections, as the stages and the checks ask for them."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from math import ceil, inf
from typing import Literal

from noontide.core.design.circuits import CableRun, Wiring
from noontide.core.design.document import Design
from noontide.core.design.losses import Losses
from noontide.core.electrical.cables import CableChoice, NoSection, Route
from noontide.core.electrical.collector import CollectorCable, collector_cable
from noontide.core.electrical.optimisers import string_voltage
from noontide.core.electrical.protection import RULE_SETS, FuseSizes, RuleSet, breaker_size, fuse_sizes
from noontide.core.electrical.wiring import COEFFICIENTS, RISES, AcCableLoss, CableResistance, FourWireLoss
from noontide.core.simulation.phases import Phases, inverter_current, on_branch, phase_voltage, phases_of
from noontide.core.simulation.plant import Plant

RunKind = Literal["string", "DC main", "AC", "AC main"]
BEHIND_MODULES, IN_AIR, IN_GROUND = 60.0, 30.0, 20.0  # °C, where no ambient temperature is set


@dataclass(frozen=True)
class SizedRun:
    """A run of cable with the section in use."""

    kind: RunKind
    owner: str  # id of the sub-array or inverter set; empty for the AC main cable
    serves: str  # name of the sub-array or inverter set
    pointer: str  # of the run in the design
    run: CableRun
    route: Route
    choice: CableChoice  # of the section in use
    proposed: float | None  # the smallest section that serves [mm2]; None where none does
    problem: str  # in words and figures, empty where the section serves
    count: int  # runs in the plant
    asks: str  # what makes the current that the cable must carry

    @property
    def title(self) -> str:
        return f"{self.kind[0].upper()}{self.kind[1:]} cable"

    @property
    def is_dc(self) -> bool:
        return self.kind in ("string", "DC main")


def rules_of(wiring: Wiring) -> RuleSet:
    """The rule set that a design is checked by."""
    own = wiring.own_rules
    if own is None:
        return RULE_SETS[wiring.rules]
    return RuleSet(
        "own", own.title, own.source or "own rules", own.array_current, own.conductor, own.fuse_from, own.fuse_to, own.continuous
    )


@dataclass(frozen=True, eq=False)
class SizedCables:
    """Every run of a design that has cables, and what the stages make of them and of the shares that stand for the rest."""

    design: Design
    plant: Plant

    @cached_property
    def rules(self) -> RuleSet:
        return rules_of(self.design.wiring)

    @cached_property
    def fuses(self) -> dict[tuple[int, int], FuseSizes]:
        """String fuses by inverter set and tracker."""
        plant = self.plant
        return {
            key: fuse_sizes(
                max(self._string_isc(k) for k in members),
                sum(plant.subarrays[k].strings for k in members),
                min(plant.modules[k].maximum_series_fuse for k in members),
                self.rules,
            )
            for key, members in plant.on_trackers.items()
        }

    def short_circuit_current(self, members: Iterable[int]) -> float:
        """Of the strings of some sub-arrays in parallel, with the factor of the rule set [A]."""
        plant = self.plant
        return sum(self.rules.array_current * plant.modules[k].highest_isc * plant.subarrays[k].strings for k in members)

    @cached_property
    def phases(self) -> Phases:
        """What the phases of the grid carry."""
        return phases_of(self.plant, self.design.connection)

    @property
    def is_single_phase(self) -> bool:
        """Whether the whole plant hangs on one phase."""
        return self.phases.used == 1

    def _string_isc(self, k: int) -> float:
        """The current that a string can give [A]: an optimiser limits it."""
        optimiser = self.plant.optimisers[k]
        return self.plant.modules[k].highest_isc if optimiser is None else optimiser.output_current

    def _at_work(self, k: int) -> tuple[float, float]:
        """Voltage and current of a string at rated power [V], [A]."""
        subarray, module = self.plant.subarrays[k], self.plant.modules[k]
        if self.plant.optimisers[k] is None:
            return module.vmp * subarray.modules_per_string, module.imp
        voltage = string_voltage(self.plant.inverters[int(self.plant.inverter_of[k])])
        return voltage, module.power * subarray.modules_per_string / voltage

    @cached_property
    def runs(self) -> tuple[SizedRun, ...]:
        """All runs that the design has, in the order of the current."""
        plant = self.plant
        found = []
        for k, (key, subarray) in enumerate(zip(plant.subarray_ids, plant.subarrays, strict=True)):
            if subarray.cable is not None:
                found.append(self._of_string(k, key, subarray.cable))
            if subarray.main_cable is not None:
                found.append(self._of_dc_main(k, key, subarray.main_cable))
        for i, (key, one) in enumerate(zip(plant.inverter_ids, plant.sets, strict=True)):
            if one.cable is not None:
                found.append(self._of_inverter(i, key, one.cable))
        if self.design.connection.cable is not None:
            found.append(self._of_connection(self.design.connection.cable))
        return tuple(found)

    @cached_property
    def by_pointer(self) -> dict[str, SizedRun]:
        return {run.pointer: run for run in self.runs}

    def of_strings(self, k: int) -> tuple[CableResistance, ...]:
        """From the strings of a sub-array to the inverter; the run that loses the given share of the rated power where there is no cable."""
        subarray = self.plant.subarrays[k]
        voltage, current = self._at_work(k)
        at = f"/subarrays/{self.plant.subarray_ids[k]}"
        kept = [self.by_pointer.get(f"{at}/{field}") for field in ("cable", "main_cable")]
        cables = [run for run in kept if run is not None]
        if not cables:
            return (share_of_dc(self.design.losses, voltage / (current * subarray.strings)),)
        return tuple(_resistance(run, 2 / (subarray.strings if run.kind == "string" else 1)) for run in cables)

    def of_inverter(self, i: int) -> AcCableLoss:
        """The AC cable of one inverter of a set, or the share that is set for it."""
        unit, key = self.plant.inverters[i], self.plant.inverter_ids[i]
        run = self.by_pointer.get(f"/inverters/{key}/cable")
        if run is None:
            return AcCableLoss.of_share(self.design.losses.ac_wiring / 100, unit.ac_power)
        power_factor = self.design.connection.power_factor
        return _ac_loss(run, unit.phases, self._on_branch(i), power_factor, unit.power_at(power_factor))

    @cached_property
    def of_main(self) -> FourWireLoss | None:
        """The AC main cable of a station."""
        run = self.by_pointer.get("/connection/cable")
        if run is None:
            return None
        connection = self.design.connection
        return FourWireLoss(_resistance(run, 1), connection.phase_voltage * connection.power_factor, self.main_current)

    def _of_string(self, k: int, key: str, run: CableRun) -> SizedRun:
        subarray, (voltage, working) = self.plant.subarrays[k], self._at_work(k)
        isc, fuses = self._string_isc(k), self.fuses[int(self.plant.inverter_of[k]), subarray.tracker]
        current, asks = self.rules.conductor * isc, f"{self.rules.conductor:g} × Isc"
        if fuses.is_needed and fuses.sizes and fuses.sizes[0] > current:
            current, asks = fuses.sizes[0], "string fuse"
        elif not fuses.is_needed and fuses.reverse_current > current:
            current, asks = fuses.reverse_current, "the other strings"
        count = subarray.strings * self.plant.sets[int(self.plant.inverter_of[k])].count
        return _sized("string", key, subarray.name, f"/subarrays/{key}/cable", run, current, working, voltage, count, asks)

    def _of_dc_main(self, k: int, key: str, run: CableRun) -> SizedRun:
        subarray, (voltage, working) = self.plant.subarrays[k], self._at_work(k)
        current = self.rules.conductor * self._string_isc(k) * subarray.strings
        return _sized(
            "DC main", key, subarray.name, f"/subarrays/{key}/main_cable", run, current, working * subarray.strings, voltage,
            self.plant.sets[int(self.plant.inverter_of[k])].count, f"{self.rules.conductor:g} × Isc of {subarray.strings} string{'s' if subarray.strings > 1 else ''}",
        )  # fmt: skip

    def _on_branch(self, i: int) -> int:
        """Inverters on one AC cable: one, or the microinverters of a branch."""
        return on_branch(self.plant.inverters[i], self.plant.sets[i].count)

    def branch_current(self, i: int) -> float:
        """Of one AC cable of a set at the largest power [A]."""
        return inverter_current(self.plant.inverters[i], self.design.connection) * self._on_branch(i)

    def branches(self, i: int) -> int:
        """AC cables of a set."""
        return ceil(self.plant.sets[i].count / self._on_branch(i))

    def breaker_of(self, i: int) -> int | None:
        """AC breaker of each AC cable of a set [A]; by its own current, since the cable follows the breaker."""
        return breaker_size(self.branch_current(i), self._ampacity(f"/inverters/{self.plant.inverter_ids[i]}/cable"), self.rules)

    @cached_property
    def main_current(self) -> float:
        """Of the phase that carries most, at the largest power of the inverters of a station [A]."""
        connection = self.design.connection
        return max(self.phases.apparent) / connection.phase_voltage / connection.stations

    @cached_property
    def collector(self) -> CollectorCable | None:
        """From station to station; none where it is not set, or no transformer says of what voltage it is."""
        connection, run, transformer = self.design.connection, self.design.connection.collector, self.plant.transformer
        if run is None or transformer is None:
            return None
        power = sum(self.phases.apparent) * connection.power_factor
        return collector_cable(
            power, transformer.high_voltage, connection.power_factor, connection.stations, run.length, run.conductor, run.section
        )

    @cached_property
    def main_breaker(self) -> int | None:
        return breaker_size(self.main_current, self._ampacity("/connection/cable"), self.rules)

    def _ampacity(self, pointer: str) -> float:
        """Of a run whose section is set; a proposed one follows the breaker."""
        run = self.by_pointer.get(pointer)
        return inf if run is None or run.run.section is None else run.choice.ampacity

    def _of_inverter(self, i: int, key: str, run: CableRun) -> SizedRun:
        unit, connection = self.plant.inverters[i], self.design.connection
        current = self.branch_current(i)
        carried, asks = self._with_breaker(current)
        conductors: Literal[2, 3] = 3 if unit.phases == 3 else 2
        return _sized(
            "AC", key, self.plant.sets[i].name, f"/inverters/{key}/cable", run, carried, current, phase_voltage(unit, connection), self.branches(i), asks,
            conductors, connection.power_factor,
        )  # fmt: skip

    def _of_connection(self, run: CableRun) -> SizedRun:
        connection = self.design.connection
        carried, asks = self._with_breaker(self.main_current)
        conductors: Literal[2, 3] = 2 if self.is_single_phase else 3
        is_uneven = bool(self.phases.single)
        voltage = connection.phase_voltage if is_uneven else connection.voltage
        return _sized(
            "AC main",
            "",
            "",
            "/connection/cable",
            run,
            carried,
            self.main_current,
            voltage,
            connection.stations,
            asks,
            conductors,
            connection.power_factor,
            (self.phases.drop_conductors, self.phases.loss_conductors) if is_uneven else None,
        )

    def _with_breaker(self, current: float) -> tuple[float, str]:
        size = breaker_size(current, inf, self.rules)
        return (float(size), f"breaker of {size} A") if size is not None else (self.rules.continuous * current, "the current")


def size_cables(design: Design, plant: Plant) -> SizedCables:
    """The cables of a design; sections are found when they are asked for."""
    return SizedCables(design, plant)


def share_of_dc(losses: Losses, resistance: float) -> CableResistance:
    """Cables that lose the set share of the rated power at 20 °C, at a rated voltage over current [ohm]."""
    return CableResistance(losses.dc_wiring / 100 * resistance, COEFFICIENTS[losses.dc_conductor], RISES[losses.dc_laying])


def ambient_of(run: CableRun, kind: RunKind) -> float:
    """The temperature around a run [°C]: what is set, or what is usual there."""
    if run.ambient is not None:
        return run.ambient
    if run.laying == "buried":
        return IN_GROUND
    return BEHIND_MODULES if kind == "string" else IN_AIR


def _sized(
    kind: RunKind, owner: str, serves: str, pointer: str, run: CableRun, current: float, working: float, voltage: float, count: int, asks: str,
    conductors: Literal[2, 3] = 2, power_factor: float = 1.0, uneven: tuple[float, float] | None = None,
) -> SizedRun:  # fmt: skip
    flexible = kind in ("string", "DC main") and run.conductor == "copper" and run.laying in ("open air", "surface")
    route = Route(
        run.length, current, working, voltage, run.conductor, run.laying, ambient_of(run, kind), conductors, run.circuits, power_factor, flexible, uneven
    )  # fmt: skip
    try:
        smallest, why = route.smallest(run.drop_limit), ""
    except NoSection as error:
        smallest, why = None, str(error)
    if run.section is None:
        choice = smallest or route.at(route.sections[-1])
    elif run.section in route.sections:
        choice = route.at(run.section)
        why = _what_is_wrong(choice, run, current)
    else:
        nearest = min(route.sections, key=lambda section: abs(section - (run.section or 0)))
        choice = route.at(nearest)
        why = f"{run.section:g} mm² has no ampacity there; {nearest:g} mm² is taken. Choose {route.sections[0]:g} to {route.sections[-1]:g} mm²."
    return SizedRun(kind, owner, serves, pointer, run, route, choice, smallest.section if smallest else None, why, count, asks)


def _what_is_wrong(choice: CableChoice, run: CableRun, current: float) -> str:
    if choice.ampacity < current * (1 - 1e-9):
        return f"{choice.section:g} mm² carries {choice.ampacity:.0f} A there; {current:.1f} A are asked for."
    if choice.drop > run.drop_limit * (1 + 1e-9):
        return f"{choice.section:g} mm² drops {choice.drop:.2f} % over {run.length:g} m; the limit is {run.drop_limit:g} %."
    return ""


def _resistance(run: SizedRun, ways: float) -> CableResistance:
    return CableResistance(
        # The section and the drop are those of the longest; together they lose by their mean.
        run.route.resistance_at_20(run.choice.section) * ways * run.run.mean_length / run.run.length,
        COEFFICIENTS[run.route.material],
        run.choice.temperature - run.choice.ambient,
        run.choice.ambient if run.route.method == "buried" else None,
    )


def _ac_loss(run: SizedRun, phases: int, on_branch: int, power_factor: float, rated_power: float) -> AcCableLoss:
    """Of one inverter's power, where several of them share the cable."""
    ways = 2 if phases == 1 else 1
    per_square = ways * run.route.resistance_at_20(run.choice.section) * on_branch / (run.route.voltage * power_factor) ** 2
    wire = _resistance(run, 1)
    return AcCableLoss(per_square, rated_power, wire.coefficient, wire.rise, wire.ground)
