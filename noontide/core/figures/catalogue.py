"""Every figure of the Headline and its working, said once: those of the array, then those after the meter and of money."""

import numpy as np

from noontide.core.figures.figure import IEC, SIMULATED, Figure, said
from noontide.core.figures.meter_figures import DEMAND_FIGURES, OFF_GRID_FIGURES, STORAGE_FIGURES
from noontide.core.figures.money_figures import MONEY_FIGURES
from noontide.core.simulation.module_power import TEMPERATURE_NAMES
from noontide.core.simulation.plane_irradiance import sky_source
from noontide.core.simulation.results import Results
from noontide.core.working import Input


def _rated(r: Results) -> Input:
    return Input("P_0", "rated DC power", r.annual.dc_power, "kW", "modules' datasheets, in all")


def _rated_ac(r: Results) -> Input:
    return Input(r"P_\mathrm{AC}", "rated AC power", r.annual.ac_power, "kW", "inverters' datasheets, in all")


def mean_cell_temperature(r: Results) -> Input:
    """Irradiance-weighted, over all sub-arrays by their irradiation and power."""
    weights = r.plant.module_counts * r.plant.module_powers * [m.reference.sum() for m in r.members]
    means = np.array([m.mean_cell_temperature for m in r.members])
    mean = float(np.average(means, weights=weights)) if weights.sum() > 0 else 0.0
    model = TEMPERATURE_NAMES[r.design.models.temperature]
    return Input("T_c", "irradiance-weighted mean cell temperature", mean, "°C", f"simulated, {model} model")


def _energy_inputs(r: Results) -> tuple[Input, ...]:
    return (
        Input(r"\Delta t", "length of an interval", r.calendar.hours_per_interval, "h", "weather data"),
        Input("N", "intervals", r.calendar.intervals, "", "weather data"),
        Input(
            r"E_\mathrm{start}",
            "horizontal irradiation on the module area",
            r.cascade.start,
            "kWh",
            "weather data and module area",
        ),
        Input(r"\sum_k \Delta E_k", "all lines of the Cascade", sum(e.energy for e in r.cascade.entries), "kWh", "the Cascade"),
    )


def _power_inputs(r: Results) -> tuple[Input, ...]:
    return tuple(
        Input(
            rf"n_{{{k + 1}}} P_{{{k + 1}}}", f"{r.plant.subarrays[k].name}: {int(r.plant.module_counts[k])} × {module.maker} {module.name}",
            float(r.plant.module_counts[k] * module.power / 1000), "kW", "strings × modules × inverters, datasheet", f"/subarrays/{name}",
        )
        for k, (name, module) in enumerate(zip(r.plant.subarray_ids, r.plant.modules, strict=True))
    )  # fmt: skip


def _plane_inputs(r: Results) -> tuple[Input, ...]:
    return tuple(
        Input(
            rf"H_{{{k + 1}}}", f"in the plane of {subarray.name}",
            float(r.members[k].reference.sum()), "kWh/m²", "an unshaded sensor in the plane: behind the horizon; the shade of a scene, of rows, or given by hand is a loss", f"/surfaces/{subarray.surface}",
        )
        for k, subarray in enumerate(r.plant.subarrays)
    )  # fmt: skip


def _corrected_inputs(r: Results) -> tuple[Input, ...]:
    gamma = float(np.average([m.power_coefficient for m in r.plant.modules], weights=r.plant.module_counts))
    return (
        Input("Y_f", "specific yield", r.annual.specific_yield, "kWh/kW", "energy over rated power"),
        Input(r"\gamma", "temperature coefficient of power", gamma, "%/K", "module's datasheet"),
        mean_cell_temperature(r),
    )


FIGURES: tuple[Figure, ...] = (
    Figure(
        "energy", "Annual energy", "kWh", 0, r"E = \sum_t P_\mathrm{delivered}(t)\,\Delta t = E_\mathrm{start} + \sum_k \Delta E_k",
        lambda r: f"{IEC}, output energy; the energy balance closes to {r.cascade.residual:.0e}", _energy_inputs,
        steps=lambda r: (Input(r"\max P", "highest power", r.annual.peak_power, "kW", SIMULATED),),
        note="Night consumption of the inverters is subtracted.", quantity="delivered", also="yield, kWh, production, generation", better="more",
    ),
    Figure(
        "specific_yield", "Specific yield", "kWh/kW", 0, r"Y_f = \frac{E}{P_0}", said(f"{IEC}, final yield"),
        lambda r: (Input("E", "annual energy", r.annual.energy, "kWh", SIMULATED), _rated(r)), also="final yield, Yf, kWh/kWp", better="more",
    ),
    Figure(
        "performance_ratio", "Performance ratio", "", 1, r"PR = \frac{Y_f}{Y_r},\quad Y_r = \frac{H_i}{1\,\mathrm{kW/m^2}}", said(f"{IEC}, performance ratio"),
        lambda r: (
            Input("Y_f", "specific yield", r.annual.specific_yield, "kWh/kW", "energy over rated power"),
            Input("H_i", "plane irradiation", r.annual.plane_irradiation, "kWh/m²", "an unshaded sensor in the plane: behind the horizon; the shade of a scene, of rows, or given by hand is a loss"),
        ),
        note="Planes are weighted by rated power.", also="PR", better="more", is_percentage=True,
    ),
    Figure(
        "temperature_corrected_performance_ratio", "PR at 25 °C", "", 1,
        r"PR_{25} = \frac{Y_f}{\sum_t \frac{G_i(t)}{1\,\mathrm{kW/m^2}}\bigl(1+\gamma\,(T_c(t)-25)\bigr)\Delta t}",
        said(f"{IEC}, 25 °C temperature-corrected performance ratio"), _corrected_inputs, also="temperature-corrected performance ratio", better="more", is_percentage=True,
    ),
    Figure(
        "dc_power", "DC power", "kW", 2, r"P_0 = \sum_k n_k P_k", said(f"{IEC}, array power rating at standard test conditions"), _power_inputs,
        also="kWp, peak power, Pmax, array size, STC",
    ),
    Figure(
        "dc_ac_ratio", "DC/AC ratio", "", 2, r"r = \frac{P_0}{P_\mathrm{AC}}", said("Ratio of the ratings"), lambda r: (_rated(r), _rated_ac(r)),
        steps=lambda r: (
            Input(r"E_\mathrm{clip}", "clipping", -r.cascade["clipping"].energy, "kWh", SIMULATED),
            Input(r"t_\mathrm{clip}", "hours with clipping", r.annual.clipped_hours, "h", SIMULATED),
        ),
        also="inverter loading ratio, ILR, oversizing, sizing ratio",
    ),
    Figure(
        "capacity_factor", "Capacity factor", "", 1, r"CF = \frac{E}{P_\mathrm{AC}\,T}", said("IEC TS 61724-3:2016, capacity factor on the AC rating"),
        lambda r: (
            Input("E", "annual energy", r.annual.energy, "kWh", SIMULATED), _rated_ac(r),
            Input("T", "hours of the year", r.calendar.intervals * r.calendar.hours_per_interval, "h", "weather data"),
        ),
        also="CF, load factor", better="more", is_percentage=True,
    ),
    Figure(
        "plane_irradiation", "Plane irradiation", "kWh/m²", 0,
        r"H_i = \frac{\sum_k P_k H_k}{\sum_k P_k},\quad H_k=\sum_t (G_\mathrm{beam}+G_\mathrm{sky}+G_\mathrm{ground})\,\Delta t",
        lambda r: sky_source(r.design.models), _plane_inputs, quantity="poa", also="POA, insolation, GTI", better="more",
    ),
    Figure(
        "start", "Horizontal irradiation on the module area", "kWh", 0, r"E_\mathrm{start} = A \sum_t \mathrm{GHI}(t)\,\Delta t", said(f"{IEC}, horizontal irradiation"),
        lambda r: (
            Input("A", "area of the modules", r.annual.area, "m²", "datasheets, number of modules"),
            Input(r"\sum \mathrm{GHI}\,\Delta t", "horizontal irradiation", r.annual.horizontal_irradiation, "kWh/m²", r.weather.title),
        ),
        quantity="ghi", also="GHI", in_headline=False, read=lambda r: r.cascade.start,
    ),
    *DEMAND_FIGURES,
    *STORAGE_FIGURES,
    *OFF_GRID_FIGURES,
    *MONEY_FIGURES,
)  # fmt: skip
FIGURE_OF = {figure.key: figure for figure in FIGURES}


def figures_of(results: Results) -> dict[str, float | None]:
    """Every figure of the Headline that a design has, by key, in the order in which they are shown."""
    return {figure.key: figure.value(results) for figure in FIGURES if figure.in_headline and figure.is_there(results)}
