"""What stands on the trackers of a design, with the figures of the parts that it carries: for lists and pictures, without a simulation."""

from contextlib import suppress
from dataclasses import dataclass

from noontide.core.design import Design
from noontide.core.design.circuits import InverterSet
from noontide.core.electrical.datasheets import Catalogue, Inverter
from noontide.core.simulation.plant import Plant, build_plant, unit_of

ROUNDING = 1e-9  # of a limit, under which it is kept


@dataclass(frozen=True, slots=True)
class TrackerLine:
    """One tracker of an inverter and the current of the strings on it at rated power."""

    number: int
    current: float  # [A]
    allowed: float  # operating current by the datasheet [A]
    is_over: bool


@dataclass(frozen=True, slots=True)
class InverterLine:
    """One inverter of a set."""

    title: str
    trackers: int
    phases: int
    modules: int
    dc_power: float  # rated [kW]
    ac_power: float  # rated [kW]
    dc_ac_ratio: float
    inputs: tuple[TrackerLine, ...]  # those with strings, in order


@dataclass(frozen=True, slots=True)
class StringLine:
    """The strings of a sub-array."""

    title: str  # of the module
    module_power: float  # [W]
    short_circuit_current: float  # of all in parallel, STC [A]


@dataclass(frozen=True, slots=True)
class CircuitLines:
    """By id of the inverter set and of the sub-array; without those whose parts are in neither the design nor the library."""

    inverters: dict[str, InverterLine]
    subarrays: dict[str, StringLine]


def circuit_lines(design: Design, parts: Catalogue, plant: Plant | None = None) -> CircuitLines:
    """The circuits of a design as they can be told before, or without, a simulation.

    Parameters
    ----------
    plant : Plant, optional
        Of the whole design, where a simulation has built it already.
    """
    inverters = {**parts.inverters, **design.parts.inverters}
    controllers = {**parts.controllers, **design.parts.controllers}
    units: dict[str, Inverter] = {}
    for key, one in design.inverters.items():
        with suppress(ValueError):
            if (unit := unit_of(one, inverters, controllers, design.storage.off_grid)) is not None:
                units[key] = unit
    known = {key: one for key, one in design.inverters.items() if key in units}
    return _lines_of(_plant_of_known(design, parts, known) if plant is None else plant, known, units)


def _plant_of_known(design: Design, parts: Catalogue, known: dict[str, InverterSet]) -> Plant | None:
    """The plant without the strings whose parts are unknown; none where no strings are left."""
    modules, optimisers = {**parts.modules, **design.parts.modules}, {**parts.optimisers, **design.parts.optimisers}
    strings = {
        key: s
        for key, s in design.subarrays.items()
        if s.module in modules and s.inverter in known and (s.optimiser is None or s.optimiser in optimisers)
    }
    if not strings:
        return None
    without_transformer = design.connection.model_copy(update={"transformer": None})
    return build_plant(
        design.model_copy(update={"subarrays": strings, "inverters": known, "connection": without_transformer}), parts
    )


def _lines_of(plant: Plant | None, sets: dict[str, InverterSet], units: dict[str, Inverter]) -> CircuitLines:
    """The lines of a plant, and of the sets beside it that carry nothing yet."""
    found = {}
    place = {key: i for i, key in enumerate(plant.inverter_ids)} if plant is not None else {}
    for key in sets:
        part = units[key]
        i = place.get(key)
        mine = {} if plant is None or i is None else {t: m for (k, t), m in plant.on_trackers.items() if k == i}
        dc = plant.dc_power_of(i) / 1000 if plant is not None and i is not None else 0.0
        modules = sum(int(plant.series[k] * plant.parallel[k]) for m in mine.values() for k in m) if plant is not None else 0
        found[key] = InverterLine(
            title=f"{part.maker} {part.name}", trackers=part.trackers, phases=part.phases, modules=modules, dc_power=dc,
            ac_power=part.ac_power / 1000, dc_ac_ratio=dc / (part.ac_power / 1000),
            inputs=tuple(_tracker_line(plant, part, number, mine[number]) for number in sorted(mine)) if plant is not None else (),
        )  # fmt: skip
    strings = {}
    if plant is not None:
        for k, key in enumerate(plant.subarray_ids):
            module = plant.modules[k]
            strings[key] = StringLine(f"{module.maker} {module.name}", module.power, module.isc * plant.subarrays[k].strings)
    return CircuitLines(found, strings)


def _tracker_line(plant: Plant, part: Inverter, number: int, members: tuple[int, ...]) -> TrackerLine:
    working, allowed = plant.working_current(members), part.tracker_input(number).current
    return TrackerLine(number, working, allowed, is_over(working, allowed))


def is_over(actual: float, allowed: float) -> bool:
    """Whether a current, or a power, is over its limit by more than rounding."""
    return actual > allowed * (1 + ROUNDING)
