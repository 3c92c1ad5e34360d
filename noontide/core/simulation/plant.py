"""A design with its parts looked up: what the stages need, as arrays over surfaces, sub-arrays and inverters."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from noontide.core.design.circuits import InverterSet, SubArray
from noontide.core.design.document import Design
from noontide.core.design.surface import Surface
from noontide.core.electrical.controllers import as_unit
from noontide.core.electrical.datasheets import Battery, Catalogue, ChargeController, Inverter, Module, Optimiser, Transformer
from noontide.core.electrical.optimisers import string_voltage
from noontide.core.storage.document import OffGrid

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


class IncompleteDesign(ValueError):
    """A design that cannot be simulated yet; the message says what it needs, the pointer where."""

    def __init__(self, needs: str, pointer: str = "/subarrays"):
        self.pointer = pointer
        super().__init__(needs)


class UnknownPart(ValueError):
    """A design names a part that neither it nor the library has."""

    def __init__(self, kind: str, part: str, pointer: str):
        self.pointer = pointer
        super().__init__(
            f"There is no {kind} '{part}' in the library. Choose another, or add its datasheet to the design's parts."
        )


@dataclass(frozen=True)
class Plant:
    """Everything that is built, in the order of the design; only surfaces that carry modules are kept."""

    surface_ids: tuple[str, ...]
    surfaces: tuple[Surface, ...]
    subarray_ids: tuple[str, ...]
    subarrays: tuple[SubArray, ...]
    modules: tuple[Module, ...]  # of each sub-array
    inverter_ids: tuple[str, ...]
    sets: tuple[InverterSet, ...]
    inverters: tuple[Inverter, ...]  # of each set
    transformer: Transformer | None = None
    battery: Battery | None = None
    optimisers: tuple[Optimiser | None, ...] = ()  # of each sub-array
    controllers: tuple[ChargeController, ...] = ()  # of each set, where all strings hang on charge controllers
    bus_inverter: Inverter | None = None  # between the battery bus and the use

    @property
    def is_on_bus(self) -> bool:
        """Whether charge controllers carry the strings to a battery bus."""
        return bool(self.controllers)

    @cached_property
    def surface_of(self) -> Ints:
        """Index of each sub-array's surface, (subarrays,)."""
        place = {key: i for i, key in enumerate(self.surface_ids)}
        return np.array([place[s.surface] for s in self.subarrays], dtype=np.int64)

    @cached_property
    def inverter_of(self) -> Ints:
        """Index of each sub-array's inverter set, (subarrays,)."""
        place = {key: i for i, key in enumerate(self.inverter_ids)}
        return np.array([place[s.inverter] for s in self.subarrays], dtype=np.int64)

    @cached_property
    def members(self) -> tuple[tuple[int, ...], ...]:
        """Indices of the sub-arrays on each inverter set."""
        found: tuple[list[int], ...] = tuple([] for _ in self.inverter_ids)
        for k, i in enumerate(self.inverter_of.tolist()):
            found[i].append(k)
        return tuple(map(tuple, found))

    @cached_property
    def on_trackers(self) -> dict[tuple[int, int], tuple[int, ...]]:
        """Indices of the sub-arrays on each tracker, by inverter set and tracker, in the order of the design."""
        found: dict[tuple[int, int], list[int]] = {}
        for k, subarray in enumerate(self.subarrays):
            found.setdefault((int(self.inverter_of[k]), subarray.tracker), []).append(k)
        return {key: tuple(members) for key, members in found.items()}

    def beside(self, k: int) -> tuple[int, ...]:
        """Indices of the sub-arrays on the tracker of one, itself among them."""
        return self.on_trackers[int(self.inverter_of[k]), self.subarrays[k].tracker]

    def strings_in_words(self, k: int) -> str:
        """The strings of a sub-array: 2 strings of 16 Veltrane 430, with the optimiser at each module."""
        subarray, module, optimiser = self.subarrays[k], self.modules[k], self.optimisers[k]
        many = f"{subarray.strings} strings" if subarray.strings > 1 else "1 string"
        behind = f", each with {optimiser.maker} {optimiser.name}" if optimiser is not None else ""
        return f"{many} of {subarray.modules_per_string} {module.maker} {module.name}{behind}"

    def working_current(self, members: Iterable[int]) -> float:
        """Of all strings of some sub-arrays in parallel at rated power: their Imp, or with optimisers what their power makes at the held voltage [A]."""
        return sum(self.current_of_string(k) * self.subarrays[k].strings for k in members)

    def current_of_string(self, k: int) -> float:
        """Of one string of a sub-array at rated power [A]."""
        module, optimiser = self.modules[k], self.optimisers[k] if self.optimisers else None
        if optimiser is None:
            return module.imp
        power = self.subarrays[k].modules_per_string * min(module.power, optimiser.power)
        return min(power / string_voltage(self.inverters[self.inverter_of[k]]), optimiser.output_current)

    def dc_power_of(self, i: int) -> float:
        """Rated DC power on one inverter of a set [W]."""
        return float(sum(self.series[k] * self.parallel[k] * self.module_powers[k] for k in self.members[i]))

    @cached_property
    def counts(self) -> Floats:
        """Inverters of each set, (inverters,)."""
        return np.array([s.count for s in self.sets], dtype=float)

    @cached_property
    def series(self) -> Floats:
        return np.array([s.modules_per_string for s in self.subarrays], dtype=float)

    @cached_property
    def parallel(self) -> Floats:
        return np.array([s.strings for s in self.subarrays], dtype=float)

    @cached_property
    def module_counts(self) -> Floats:
        """Modules of each sub-array in all, over all inverters of its set, (subarrays,)."""
        return self.series * self.parallel * self.counts[self.inverter_of]

    @cached_property
    def module_powers(self) -> Floats:
        """Rated power of one module of each sub-array [W]."""
        return np.array([m.power for m in self.modules])

    @cached_property
    def module_areas(self) -> Floats:
        return np.array([m.area for m in self.modules])

    @cached_property
    def dc_power(self) -> float:
        """Rated DC power in all [W]."""
        return float(np.sum(self.module_counts * self.module_powers))

    @cached_property
    def ac_power(self) -> float:
        """Rated AC power in all [W]."""
        return float(np.sum(self.counts * np.array([i.ac_power for i in self.inverters])))

    @cached_property
    def area(self) -> float:
        """Of all modules [m2]."""
        return float(np.sum(self.module_counts * self.module_areas))


def battery_in(design: Design, parts: Catalogue) -> Battery | None:
    """The datasheet of the design's battery; None where it has none, or one of a size alone.

    Raises
    ------
    UnknownPart
    """
    bank = design.storage.bank
    if bank is None or bank.model is None:
        return None
    batteries = {**parts.batteries, **design.parts.batteries}
    if bank.model not in batteries:
        raise UnknownPart("battery", bank.model, "/storage/bank/model")
    return batteries[bank.model]


def unit_of(
    one: InverterSet, inverters: Mapping[str, Inverter], controllers: Mapping[str, ChargeController], place: OffGrid | None
) -> Inverter | None:
    """What the strings of a set hang on; None where its part is unknown, or a controller has no battery to charge.

    Raises
    ------
    ValueError
        If a controller does not allow the voltage of the place.
    """
    if one.model is not None:
        return inverters.get(one.model)
    controller = controllers.get(one.controller or "")
    return None if controller is None or place is None else as_unit(controller, place.voltage)


def _units(
    design: Design, inverters: dict[str, Inverter], controllers: dict[str, ChargeController]
) -> tuple[dict[str, Inverter], dict[str, ChargeController]]:
    """What the strings hang on, by id of the set: inverters, or charge controllers at the voltage of the place, which are given beside."""
    units, found, place = {}, {}, design.storage.off_grid
    for key, one in design.inverters.items():
        at = f"/inverters/{key}/{'controller' if one.model is None else 'model'}"
        try:
            unit = unit_of(one, inverters, controllers, place)
        except ValueError as error:
            raise IncompleteDesign(str(error), at) from None
        if one.model is None:
            if one.part not in controllers:
                raise UnknownPart("charge controller", one.part, at)
            found[key] = controllers[one.part]
        elif unit is None:
            raise UnknownPart("inverter", one.part, at)
        if unit is None:
            raise IncompleteDesign(
                "A charge controller feeds a battery where there is no grid. Choose an inverter, or say on the Storage bench that there is no grid.",
                at,
            )
        units[key] = unit
    if found and design.storage.bank is None:
        raise IncompleteDesign("Charge controllers need a battery to charge. Add one on the Storage bench.", "/storage/bank")
    if found and len(found) < len(units):
        other = next(key for key in units if key not in found)
        raise IncompleteDesign(
            "Strings hang on charge controllers and on inverters. Put all of them on the one or on the other.",
            f"/inverters/{other}/model",
        )
    return units, found


def build_plant(design: Design, parts: Catalogue) -> Plant:
    """Look up the parts of a design, its own before the library's.

    Raises
    ------
    UnknownPart
        With a pointer to the value that names it.
    ValueError
        If the design has no sub-array.
    """
    if not design.subarrays:
        raise IncompleteDesign("The design has no sub-array yet. Add strings to an inverter.")
    modules, inverters = {**parts.modules, **design.parts.modules}, {**parts.inverters, **design.parts.inverters}
    for key, subarray in design.subarrays.items():
        if subarray.module not in modules:
            raise UnknownPart("module", subarray.module, f"/subarrays/{key}/module")
    units, controllers = _units(design, inverters, {**parts.controllers, **design.parts.controllers})
    place = design.storage.off_grid
    if place is not None and place.inverter is not None and place.inverter not in inverters:
        raise UnknownPart("inverter", place.inverter, "/storage/off_grid/inverter")
    optimisers = {**parts.optimisers, **design.parts.optimisers}
    for key, subarray in design.subarrays.items():
        if subarray.optimiser is not None and subarray.optimiser not in optimisers:
            raise UnknownPart("optimiser", subarray.optimiser, f"/subarrays/{key}/optimiser")
    transformers, chosen = {**parts.transformers, **design.parts.transformers}, design.connection.transformer
    if chosen is not None and chosen not in transformers:
        raise UnknownPart("transformer", chosen, "/connection/transformer")
    lit = {s.surface for s in design.subarrays.values()}
    used_surfaces = [key for key in design.surfaces if key in lit]
    fed = {s.inverter for s in design.subarrays.values()}
    used_inverters = [key for key in design.inverters if key in fed]
    return Plant(
        surface_ids=tuple(used_surfaces),
        surfaces=tuple(design.surfaces[key] for key in used_surfaces),
        subarray_ids=tuple(design.subarrays),
        subarrays=tuple(design.subarrays.values()),
        modules=tuple(modules[s.module] for s in design.subarrays.values()),
        inverter_ids=tuple(used_inverters),
        sets=tuple(design.inverters[key] for key in used_inverters),
        inverters=tuple(units[key] for key in used_inverters),
        controllers=tuple(controllers[key] for key in used_inverters if key in controllers),
        bus_inverter=inverters[place.inverter] if place is not None and place.inverter is not None else None,
        optimisers=tuple(optimisers[s.optimiser] if s.optimiser else None for s in design.subarrays.values()),
        transformer=transformers[chosen] if chosen is not None else None,
        battery=battery_in(design, parts),
    )
