"""A scheme with its parts looked up: what the stages need, as arrays over surfaces, sub-arrays and inverters."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from noontide.core.electrical.datasheets import Catalogue, Inverter, Module
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.single_diode import ModuleParameters, max_power_point
from noontide.core.scheme.document import InverterSet, Scheme, SubArray, Surface

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


class UnknownPart(ValueError):
    """A scheme names a part that neither it nor the library has."""

    def __init__(self, kind: str, part: str, pointer: str):
        self.pointer = pointer
        super().__init__(
            f"There is no {kind} '{part}' in the library. Choose another, or add its datasheet to the scheme's parts."
        )


@dataclass(frozen=True)
class Plant:
    """Everything that is built, in the order of the scheme; only surfaces that carry modules are kept."""

    surface_ids: tuple[str, ...]
    surfaces: tuple[Surface, ...]
    subarray_ids: tuple[str, ...]
    subarrays: tuple[SubArray, ...]
    modules: tuple[Module, ...]  # of each sub-array
    inverter_ids: tuple[str, ...]
    sets: tuple[InverterSet, ...]
    inverters: tuple[Inverter, ...]  # of each set

    @property
    def surface_of(self) -> Ints:
        """Index of each sub-array's surface, (subarrays,)."""
        return np.array([self.surface_ids.index(s.surface) for s in self.subarrays], dtype=np.int64)

    @property
    def inverter_of(self) -> Ints:
        """Index of each sub-array's inverter set, (subarrays,)."""
        return np.array([self.inverter_ids.index(s.inverter) for s in self.subarrays], dtype=np.int64)

    @property
    def counts(self) -> Floats:
        """Inverters of each set, (inverters,)."""
        return np.array([s.count for s in self.sets], dtype=float)

    @property
    def series(self) -> Floats:
        return np.array([s.modules_per_string for s in self.subarrays], dtype=float)

    @property
    def parallel(self) -> Floats:
        return np.array([s.strings for s in self.subarrays], dtype=float)

    @property
    def module_counts(self) -> Floats:
        """Modules of each sub-array in all, over all inverters of its set, (subarrays,)."""
        return self.series * self.parallel * self.counts[self.inverter_of]

    @property
    def module_powers(self) -> Floats:
        """Rated power of one module of each sub-array [W]."""
        return np.array([m.power for m in self.modules])

    @property
    def module_areas(self) -> Floats:
        return np.array([m.area for m in self.modules])

    @property
    def dc_power(self) -> float:
        """Rated DC power in all [W]."""
        return float(np.sum(self.module_counts * self.module_powers))

    @property
    def ac_power(self) -> float:
        """Rated AC power in all [W]."""
        return float(np.sum(self.counts * np.array([i.ac_power for i in self.inverters])))

    @property
    def area(self) -> float:
        """Of all modules [m2]."""
        return float(np.sum(self.module_counts * self.module_areas))


def build_plant(scheme: Scheme, parts: Catalogue) -> Plant:
    """Look up the parts of a scheme, its own before the library's.

    Raises
    ------
    UnknownPart
        With a pointer to the value that names it.
    ValueError
        If the scheme has no sub-array.
    """
    if not scheme.subarrays:
        raise ValueError("The scheme has no sub-array yet. Add strings to an inverter.")
    modules, inverters = {**parts.modules, **scheme.parts.modules}, {**parts.inverters, **scheme.parts.inverters}
    for key, subarray in scheme.subarrays.items():
        if subarray.module not in modules:
            raise UnknownPart("module", subarray.module, f"/subarrays/{key}/module")
    for key, unit in scheme.inverters.items():
        if unit.model not in inverters:
            raise UnknownPart("inverter", unit.model, f"/inverters/{key}/model")
    used_surfaces = [key for key in scheme.surfaces if any(s.surface == key for s in scheme.subarrays.values())]
    used_inverters = [key for key in scheme.inverters if any(s.inverter == key for s in scheme.subarrays.values())]
    return Plant(
        surface_ids=tuple(used_surfaces),
        surfaces=tuple(scheme.surfaces[key] for key in used_surfaces),
        subarray_ids=tuple(scheme.subarrays),
        subarrays=tuple(scheme.subarrays.values()),
        modules=tuple(modules[s.module] for s in scheme.subarrays.values()),
        inverter_ids=tuple(used_inverters),
        sets=tuple(scheme.inverters[key] for key in used_inverters),
        inverters=tuple(inverters[scheme.inverters[key].model] for key in used_inverters),
    )


@lru_cache(maxsize=64)
def stacked_parameters(modules: tuple[Module, ...]) -> tuple[ModuleParameters, Floats]:
    """Parameters of several modules as (modules, 1) arrays, and the factor from the fitted to the rated power."""
    fits = [fit_module(m).parameters for m in modules]
    stacked = ModuleParameters(**{name: np.array([[getattr(f, name)] for f in fits], dtype=float) for name in vars(fits[0])})
    fitted = max_power_point(stacked, 1000.0, 25.0).power[:, 0]
    return stacked, np.array([m.power for m in modules]) / fitted
