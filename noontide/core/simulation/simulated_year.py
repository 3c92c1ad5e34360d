"""A simulated year: the arrays of all stages, and what follows from them: the Cascade, the annual figures."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import Calendar
from noontide.core.scheme.document import Scheme
from noontide.core.simulation.cascade import Cascade, build_cascade
from noontide.core.simulation.light import PlaneLight, Sky
from noontide.core.simulation.plant import Plant
from noontide.core.simulation.power import GridPower, ModulePower, StringPower
from noontide.core.weather.year import Weather

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Annual:
    """The year in figures; yields and ratios after IEC 61724-1:2021."""

    energy: float  # delivered [kWh]
    monthly_energy: list[float]  # [kWh]
    dc_power: float  # rated, in all [kW]
    ac_power: float  # rated, in all [kW]
    dc_ac_ratio: float
    modules: int
    area: float  # of the modules [m2]
    specific_yield: float  # final yield Yf [kWh/kW]
    reference_yield: float  # Yr [kWh/kW, or hours at 1 kW/m2]
    performance_ratio: float  # Yf / Yr
    monthly_performance_ratio: list[float]
    temperature_corrected_performance_ratio: float
    capacity_factor: float  # of the rated AC power
    horizontal_irradiation: float  # [kWh/m2]
    plane_irradiation: float  # weighed by rated power, horizon included, rows not [kWh/m2]
    clipped_share: float  # of the DC energy
    clipped_hours: float  # with any clipping [h]
    hours_outside_window: float  # of light in which a string's own maximum lies outside [h]
    peak_power: float  # highest AC power delivered [kW]


@dataclass(frozen=True, eq=False)
class SimulatedYear:
    """A simulated year. Arrays of the stages run over the intervals with light; the methods here over the whole year."""

    scheme: Scheme
    weather: Weather
    plant: Plant
    plane_of: Ints  # plane of each sub-array, (subarrays,)
    pair_of: Ints  # plane and module of each sub-array, (subarrays,)
    sky: Sky
    light: PlaneLight
    modules: ModulePower
    strings: StringPower
    grid: GridPower

    @property
    def calendar(self) -> Calendar:
        return self.weather.calendar

    def whole_year(self, values: Floats, dark: float = 0.0) -> Floats:
        """Spread values over the light, (..., light), over the year, (..., intervals)."""
        year = np.full((*values.shape[:-1], self.calendar.intervals), dark)
        year[..., self.sky.light] = values
        return year

    @cached_property
    def cascade(self) -> Cascade:
        """Where the energy goes."""
        plant, light, strings, grid = self.plant, self.light, self.strings, self.grid
        area = plant.module_counts * plant.module_areas
        units = plant.counts[plant.inverter_of]

        weights = np.bincount(self.plane_of, weights=area, minlength=light.poa.shape[0])

        def sunlight(loss: Floats) -> tuple[Floats, float]:
            return -_total(weights, loss), 0.0

        def dc(loss: Floats) -> tuple[Floats, float]:
            return -_total(units, loss), 0.0

        def ac(loss: Floats, dark: Floats | None = None) -> tuple[Floats, float]:
            return -(plant.counts @ loss), 0.0 if dark is None else -float(plant.counts @ dark)

        changes = {
            "transposition": (weights @ light.unshaded - self.sky.ghi * area.sum(), 0.0),
            "horizon": sunlight(light.horizon_loss),
            "rows": sunlight(light.row_loss),
            "soiling": sunlight(light.soiling_loss),
            "reflection": sunlight(light.reflection_loss),
            "partial_shade": sunlight(light.partial_shade_loss),
            "conversion": (units @ strings.nominal - weights @ light.effective, 0.0),
            "weak_light": dc(strings.weak_light_loss),
            "temperature": dc(strings.temperature_loss),
            "quality": dc(strings.quality_loss),
            "light_induced": dc(strings.light_induced_loss),
            "mismatch": dc(strings.mismatch_loss),
            "parallel": dc(strings.parallel_loss),
            "window": dc(strings.window_loss),
            "current_limit": dc(strings.current_loss),
            "dc_wiring": dc(strings.wiring_loss),
            "clipping": ac(grid.clipping),
            "inverter": ac(grid.conversion),
            "night_use": ac(grid.night_use, grid.dark_use),
            "ac_wiring": ac(grid.wiring_loss, grid.dark_wiring),
            "availability": ac(grid.availability_loss),
        }
        dark = self.calendar.intervals - self.sky.light.size
        delivered = plant.counts @ grid.delivered
        return build_cascade(
            self.sky.ghi * area.sum(), delivered, self.annual.energy, changes, self.calendar.hours_per_interval, dark
        )

    @cached_property
    def delivered(self) -> Floats:
        """AC power at the meter, negative while inverters draw at night, (intervals,) [W]."""
        plant, grid = self.plant, self.grid
        return self.whole_year(plant.counts @ grid.delivered, -float(plant.counts @ (grid.dark_use + grid.dark_wiring)))

    @cached_property
    def annual(self) -> Annual:
        """Sums, yields and ratios of the year."""
        plant, calendar = self.plant, self.calendar
        kilowatt_hours = calendar.hours_per_interval / 1000
        dc_power, ac_power = plant.dc_power / 1000, plant.ac_power / 1000
        rated = plant.module_counts * plant.module_powers / 1000
        weight = rated / rated.sum()
        plane = weight @ self.light.reference[self.plane_of] * kilowatt_hours
        warm = 1 + np.array([[m.power_coefficient / 100] for m in plant.modules]) * (
            self.modules.cell_temperature[self.pair_of] - 25
        )
        corrected = float((weight @ (self.light.reference[self.plane_of] * warm)).sum() * kilowatt_hours)
        energy = self.delivered * kilowatt_hours
        monthly, monthly_plane = calendar.monthly_sums(energy), np.bincount(self.sky.months, weights=plane, minlength=12)
        total, reference = float(energy.sum()), float(plane.sum())
        yields = total / dc_power
        clipping = plant.counts @ self.grid.clipping
        dc_energy = float((plant.counts @ self.grid.dc).sum())
        return Annual(
            energy=total,
            monthly_energy=monthly.tolist(),
            dc_power=dc_power,
            ac_power=ac_power,
            dc_ac_ratio=dc_power / ac_power,
            modules=round(plant.module_counts.sum()),
            area=plant.area,
            specific_yield=yields,
            reference_yield=reference,
            performance_ratio=yields / reference if reference else 0.0,
            monthly_performance_ratio=np.divide(
                monthly / dc_power, monthly_plane, out=np.zeros(12), where=monthly_plane > 0
            ).tolist(),
            temperature_corrected_performance_ratio=yields / corrected if corrected else 0.0,
            capacity_factor=total / (ac_power * calendar.intervals * calendar.hours_per_interval),
            horizontal_irradiation=float(self.sky.ghi.sum() * kilowatt_hours),
            plane_irradiation=reference,
            clipped_share=float(clipping.sum()) / dc_energy if dc_energy else 0.0,
            clipped_hours=float(np.count_nonzero(clipping > 0) * calendar.hours_per_interval),
            hours_outside_window=float(np.count_nonzero(self.strings.outside.any(axis=0)) * calendar.hours_per_interval),
            peak_power=float(self.delivered.max()) / 1000,
        )


def _total(weights: Floats, loss: Floats) -> Floats:
    """Weighed sum over the first axis, (light,); a loss that does not occur is one zero spread out, and costs nothing."""
    return np.zeros(loss.shape[1]) if not any(loss.strides) and not loss.flat[0] else weights @ loss
