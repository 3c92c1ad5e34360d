"""The current-voltage curve of unlike strings in parallel, and what they lose by sharing one voltage."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from noontide.core.electrical.single_diode import (
    DARK,
    ModuleParameters,
    circuit,
    short_circuit_current,
    voltage_at,
)

Floats = NDArray[np.float64]
POINTS = 401
TABLE = 400  # currents, between which the one at a voltage is looked for
HALVINGS = 26  # of what lies between two of them, a twentieth of an ampere: to 1e-9 A
ZOOMS, ZOOM_POINTS = 4, 41  # each narrows the maximum to a twentieth
DIODE_DROP = 0.5  # V of a bypass diode
DIODES = 3


@dataclass(frozen=True)
class SeriesString:
    """Modules in series, and how many such strings there are."""

    parameters: ModuleParameters  # of one module
    irradiance: ArrayLike  # effective, of each module (modules,), or one number [W/m2]
    cell_temperature: ArrayLike  # likewise [°C]
    modules: int
    parallel: int = 1
    bypass_drop: float = DIODES * DIODE_DROP  # of a module's bypass diodes [V]

    def voltage(self, current: Floats) -> Floats:
        """Of the string at currents (points,); a module that cannot carry one is bypassed [V]."""
        light = np.broadcast_to(np.asarray(self.irradiance, dtype=float), self.modules)
        heat = np.broadcast_to(np.asarray(self.cell_temperature, dtype=float), self.modules)
        kinds, count = np.unique(np.stack([light, heat]), axis=1, return_counts=True)
        cells = circuit(self.parameters, kinds[0][:, np.newaxis], kinds[1][:, np.newaxis])
        # Beyond the light current the shunt alone conducts; once it takes up more than the diodes' drop, they do.
        most = cells.light_current + 2 * self.bypass_drop * cells.shunt_conductance
        each = np.maximum(voltage_at(cells, np.minimum(current, most)), -self.bypass_drop)
        each = np.where(cells.light_current > DARK, each, np.where(current > 0, -self.bypass_drop, 0.0))
        return (each * count[:, np.newaxis]).sum(axis=0)

    @cached_property
    def _table(self) -> tuple[Floats, Floats]:
        """Currents that rise to where no voltage is left, closer together near the knee, and the voltages there."""
        currents = self.most_current * 1.001 * (1 - np.linspace(1, 0, TABLE) ** 2) + 1e-9 * np.linspace(0, 1, TABLE)
        return currents, self.voltage(currents)

    @cached_property
    def open_voltage(self) -> float:
        """Without current [V]."""
        return float(self.voltage(np.zeros(1))[0])

    @cached_property
    def most_current(self) -> float:
        """Of the brightest module without voltage [A]."""
        return float(np.max(short_circuit_current(circuit(self.parameters, np.asarray(self.irradiance, dtype=float), np.asarray(self.cell_temperature, dtype=float)))))  # fmt: skip

    def current(self, voltage: Floats) -> Floats:
        """Of all parallel strings at voltages (points,), 0 or more [A]: no current flows back, as behind fuses or blocking diodes."""
        currents, voltages = self._table
        # The table's voltages fall; it is searched from its end.
        after = np.clip(currents.size - np.searchsorted(voltages[::-1], voltage), 1, currents.size - 1)
        low, high = currents[after - 1], currents[after]
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            above = self.voltage(middle) > voltage
            low, high = np.where(above, middle, low), np.where(above, high, middle)
        return np.where(voltage < self.open_voltage, (low + high) / 2, 0.0) * self.parallel


@dataclass(frozen=True)
class CombinedCurve:
    """All strings together."""

    voltage: Floats  # (points,) [V]
    current: Floats  # (points,) [A]
    each: Floats  # (strings, points), what the curve is made up of [A]
    maximum_power: float  # global [W]
    maximum_voltage: float  # where it is [V]
    alone: float  # of all strings, each at its own maximum [W]

    @property
    def mismatch(self) -> float:
        """Lost by sharing one voltage, 0..1 of what the strings give alone."""
        return 1 - self.maximum_power / self.alone if self.alone > 0 else 0.0


def combined_curve(strings: Sequence[SeriesString], points: int = POINTS) -> CombinedCurve:
    """Add up the currents of strings at one voltage.

    Parameters
    ----------
    strings : sequence of SeriesString
        In any mixture of modules, light, temperature and length.
    points : int
        Of the curve, from no voltage to the highest open circuit.

    Raises
    ------
    ValueError
        If there is no string.

    Notes
    -----
    Currents are found by halving on the series sum, whose slope jumps where diodes take over; in it a module in the dark is passed over by its diodes. The global maximum is refined
    around the best point of the curve.
    """
    if not strings:
        raise ValueError("A combined curve needs one string or more.")
    highest = max(string.open_voltage for string in strings)
    voltage = np.linspace(0.0, max(highest, 0.0), points)
    each = np.stack([string.current(voltage) for string in strings])
    top_voltage, top_power = _maximum(strings, voltage, each.sum(axis=0))
    alone = sum(_maximum([string], voltage, row)[1] for string, row in zip(strings, each, strict=True))
    return CombinedCurve(voltage, each.sum(axis=0), each, top_power, top_voltage, alone)


def _maximum(strings: Sequence[SeriesString], voltage: Floats, current: Floats) -> tuple[float, float]:
    """Voltage [V] and power [W] of the highest of all maxima."""
    power = voltage * current
    if not np.any(power > 0):
        return 0.0, 0.0
    best = (0.0, 0.0)
    inner = np.flatnonzero((power >= np.roll(power, 1)) & (power >= np.roll(power, -1)))
    for peak in inner[power[inner] > 0.98 * power.max()]:
        low, high = voltage[max(peak - 1, 0)], voltage[min(peak + 1, voltage.size - 1)]
        for _ in range(ZOOMS):
            near = np.linspace(low, high, ZOOM_POINTS)
            reached = near * sum(string.current(near) for string in strings)
            top = int(np.argmax(reached))
            best = max(best, (float(reached[top]), float(near[top])))
            low, high = near[max(top - 1, 0)], near[min(top + 1, ZOOM_POINTS - 1)]
    return best[1], best[0]
