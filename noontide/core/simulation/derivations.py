"""The working of every figure of the Headline and of every line of the Cascade."""

from collections.abc import Callable

import numpy as np
from pydantic import BaseModel

from noontide.core.calendar import MONTHS
from noontide.core.simulation.results import Results
from noontide.core.working import Input, Working

SIMULATED = "simulated, sum over the year"
IEC = "IEC 61724-1:2021"
_MODEL_NAMES = {"faiman": "Faiman", "noct": "NOCT", "king": "King"}


def working(results: Results, key: str) -> Working:
    """Derivation of a figure.

    Parameters
    ----------
    key : str
        One of `working_keys()`: a figure of `Annual`, `start`, or `loss_` and a key of the Cascade.

    Raises
    ------
    KeyError
        If there is no such figure.
    """
    if key.startswith("loss_"):
        return _of_line(results, key.removeprefix("loss_"))
    return FIGURES[key](results)


def working_keys(results: Results) -> list[str]:
    """All figures that have a working."""
    return [*FIGURES, *(f"loss_{entry.key}" for entry in results.cascade.entries)]


def _energy(r: Results) -> Working:
    hours = r.calendar.hours_per_interval
    return Working(
        "energy", "Energy in a year", r.annual.energy, "kWh",
        r"E = \sum_t P_\mathrm{delivered}(t)\,\Delta t = E_\mathrm{start} + \sum_k \Delta E_k",
        (
            Input(r"\Delta t", "length of an interval", hours, "h", "the weather year"),
            Input(r"N", "intervals", r.calendar.intervals, "", "the weather year"),
            Input(r"E_\mathrm{start}", "horizontal irradiation on the area of the modules", r.cascade.start, "kWh", "weather and module area"),
            Input(r"\sum_k \Delta E_k", "all lines of the Cascade", sum(e.energy for e in r.cascade.entries), "kWh", "the Cascade"),
        ),
        f"{IEC}, output energy; the Cascade closes to {r.cascade.residual:.0e}",
        steps=(Input(r"\max P", "highest power", r.annual.peak_power, "kW", SIMULATED),),
        note="At night the inverters' own use is taken off.",
        quantity="delivered",
    )  # fmt: skip


def _specific_yield(r: Results) -> Working:
    return Working(
        "specific_yield", "Specific yield", r.annual.specific_yield, "kWh/kW", r"Y_f = \frac{E}{P_0}",
        (Input("E", "energy in a year", r.annual.energy, "kWh", SIMULATED), _rated(r)),
        f"{IEC}, final yield",
    )  # fmt: skip


def _performance_ratio(r: Results) -> Working:
    return Working(
        "performance_ratio", "Performance ratio", r.annual.performance_ratio, "", r"PR = \frac{Y_f}{Y_r},\quad Y_r = \frac{H_i}{1\,\mathrm{kW/m^2}}",
        (
            Input("Y_f", "specific yield", r.annual.specific_yield, "kWh/kW", "energy over rated power"),
            Input("H_i", "plane irradiation", r.annual.plane_irradiation, "kWh/m²", "simulated; with the horizon, without the shade of rows"),
        ),
        f"{IEC}, performance ratio",
        note="Several planes are weighed by their rated power.",
    )  # fmt: skip


def _corrected_ratio(r: Results) -> Working:
    gamma = float(np.average([m.power_coefficient for m in r.plant.modules], weights=r.plant.module_counts))
    return Working(
        "temperature_corrected_performance_ratio", "Performance ratio at 25 °C", r.annual.temperature_corrected_performance_ratio, "",
        r"PR_{25} = \frac{Y_f}{\sum_t \frac{G_i(t)}{1\,\mathrm{kW/m^2}}\bigl(1+\gamma\,(T_c(t)-25)\bigr)\Delta t}",
        (
            Input("Y_f", "specific yield", r.annual.specific_yield, "kWh/kW", "energy over rated power"),
            Input(r"\gamma", "power coefficient", gamma, "%/K", "the module's datasheet"),
            Input("T_c", "cell temperature, mean by light", _mean_cell_temperature(r), "°C", f"simulated, {_MODEL_NAMES[r.scheme.models.temperature]} model"),
        ),
        f"{IEC}, 25 °C temperature-corrected performance ratio",
    )  # fmt: skip


def _capacity_factor(r: Results) -> Working:
    return Working(
        "capacity_factor", "Capacity factor", r.annual.capacity_factor, "", r"CF = \frac{E}{P_\mathrm{AC}\,T}",
        (
            Input("E", "energy in a year", r.annual.energy, "kWh", SIMULATED),
            Input(r"P_\mathrm{AC}", "rated AC power", r.annual.ac_power, "kW", "inverters' datasheets, in all"),
            Input("T", "hours of the year", r.calendar.intervals * r.calendar.hours_per_interval, "h", "the weather year"),
        ),
        "IEC TS 61724-3:2016, capacity factor on the AC rating",
    )  # fmt: skip


def _dc_power(r: Results) -> Working:
    inputs = [
        Input(
            rf"n_{{{k + 1}}} P_{{{k + 1}}}", f"{name}: {int(r.plant.module_counts[k])} x {module.maker} {module.name}",
            float(r.plant.module_counts[k] * module.power / 1000), "kW", "strings x modules x inverters, datasheet", f"/subarrays/{name}",
        )
        for k, (name, module) in enumerate(zip(r.plant.subarray_ids, r.plant.modules, strict=True))
    ]  # fmt: skip
    return Working(
        "dc_power",
        "DC power",
        r.annual.dc_power,
        "kW",
        r"P_0 = \sum_k n_k P_k",
        tuple(inputs),
        f"{IEC}, array power rating at standard test conditions",
    )


def _dc_ac_ratio(r: Results) -> Working:
    return Working(
        "dc_ac_ratio", "DC/AC ratio", r.annual.dc_ac_ratio, "", r"r = \frac{P_0}{P_\mathrm{AC}}",
        (_rated(r), Input(r"P_\mathrm{AC}", "rated AC power", r.annual.ac_power, "kW", "inverters' datasheets, in all")),
        "Ratio of the ratings",
        steps=(
            Input(r"E_\mathrm{clip}", "clipped", -r.cascade["clipping"].energy, "kWh", SIMULATED),
            Input(r"t_\mathrm{clip}", "hours with clipping", r.annual.clipped_hours, "h", SIMULATED),
        ),
    )  # fmt: skip


def _start(r: Results) -> Working:
    return Working(
        "start", "Sunlight on the flat", r.cascade.start, "kWh", r"E_\mathrm{start} = A \sum_t \mathrm{GHI}(t)\,\Delta t",
        (
            Input("A", "area of the modules", r.annual.area, "m²", "datasheets, number of modules"),
            Input(r"\sum \mathrm{GHI}\,\Delta t", "horizontal irradiation", r.annual.horizontal_irradiation, "kWh/m²", r.weather.title),
        ),
        f"{IEC}, horizontal irradiation",
        quantity="ghi",
    )  # fmt: skip


def _plane_irradiation(r: Results) -> Working:
    inputs = [
        Input(
            rf"H_{{{k + 1}}}", f"{r.scheme.surfaces[subarray.surface].name or subarray.surface}, for sub-array {name}",
            float(r.light.reference[r.plane_of[k]].sum() * r.calendar.hours_per_interval / 1000), "kWh/m²", "simulated; with the horizon, without the shade of rows",
            f"/surfaces/{subarray.surface}",
        )
        for k, (name, subarray) in enumerate(zip(r.plant.subarray_ids, r.plant.subarrays, strict=True))
    ]  # fmt: skip
    return Working(
        "plane_irradiation", "Plane irradiation", r.annual.plane_irradiation, "kWh/m²",
        r"H_i = \frac{\sum_k P_k H_k}{\sum_k P_k},\quad H_k=\sum_t (G_\mathrm{beam}+G_\mathrm{sky}+G_\mathrm{ground})\,\Delta t",
        tuple(inputs), SOURCES["transposition"](r), quantity="poa",
    )  # fmt: skip


def _rated(r: Results) -> Input:
    return Input("P_0", "rated DC power", r.annual.dc_power, "kW", "modules' datasheets, in all")


def _mean_cell_temperature(r: Results) -> float:
    light = r.light.poa[r.plane_of]
    return float(np.sum(light * r.modules.cell_temperature[r.pair_of]) / max(light.sum(), 1e-9))


FIGURES: dict[str, Callable[[Results], Working]] = {
    "energy": _energy,
    "specific_yield": _specific_yield,
    "performance_ratio": _performance_ratio,
    "temperature_corrected_performance_ratio": _corrected_ratio,
    "capacity_factor": _capacity_factor,
    "dc_power": _dc_power,
    "dc_ac_ratio": _dc_ac_ratio,
    "plane_irradiation": _plane_irradiation,
    "start": _start,
}

_SKY_SOURCE = {
    "perez": "Perez et al. (1990), Solar Energy 44, 271-289, all-sites coefficients",
    "reindl": "Reindl, Beckman and Duffie (1990), Solar Energy 45, 9-17",
    "hay-davies": "Hay and Davies (1980)",
    "isotropic": "Liu and Jordan (1963), Solar Energy 7, 53-74",
}
_GLASS_SOURCE = {
    "fresnel": "De Soto, Klein and Beckman (2006), Solar Energy 80, 78-88, eqs. 13 to 15",
    "martin-ruiz": "Martin and Ruiz (2001), Solar Energy Materials and Solar Cells 70, 25-38",
    "ashrae": "Souka and Safwat (1966); ASHRAE 93",
    "datasheet": "The modifiers of the module's datasheet, linear between its angles",
    "none": "No reflection loss, as chosen",
}
_WARMTH_SOURCE = {
    "faiman": "Faiman (2008), Progress in Photovoltaics 16, 307-315; De Soto et al. (2006)",
    "noct": "Duffie and Beckman (2013), eq. 23.3.3; De Soto et al. (2006)",
    "king": "King et al. (2004), SAND2004-3535; De Soto et al. (2006)",
}
_SINGLE_DIODE = "De Soto, Klein and Beckman (2006), single-diode model"

# Where each line comes from.
SOURCES: dict[str, Callable[[Results], str]] = {
    "transposition": lambda r: _SKY_SOURCE[r.scheme.models.transposition],
    "horizon": lambda r: "Horizon line against the sun's place; dome integrated",
    "rows": lambda r: "Profile angle; view factors by crossed strings (Hottel and Sarofim 1967)",
    "soiling": lambda r: "A share of the plane irradiance, as set",
    "reflection": lambda r: _GLASS_SOURCE[r.scheme.models.incidence],
    "partial_shade": lambda r: "Row shade rounded up to whole groups of cells",
    "conversion": lambda r: f"{IEC}, rated efficiency",
    "weak_light": lambda r: _SINGLE_DIODE,
    "temperature": lambda r: _WARMTH_SOURCE[r.scheme.models.temperature],
    "quality": lambda r: "A share of the maximum power, as set",
    "light_induced": lambda r: "A share of the maximum power, as set",
    "mismatch": lambda r: "A share of the maximum power, as set",
    "parallel": lambda r: "Common voltage of unlike strings, by their I-V curves",
    "window": lambda r: "I-V curve at the nearest voltage of the window",
    "current_limit": lambda r: "I-V curve at the tracker's current limit",
    "dc_wiring": lambda r: "Ohm's law at the hourly current; IEC 60028",
    "clipping": lambda r: "Power limits of the inverter's datasheet",
    "inverter": lambda r: "Schmidt and Sauer (1996), Sonnenenergie 4, 43-47, fitted to the datasheet",
    "night_use": lambda r: "Inverter's datasheet, in intervals without output",
    "ac_wiring": lambda r: "Ohm's law at constant voltage",
    "availability": lambda r: "A share of the energy, as set",
}

_EQUATIONS = {
    "transposition": r"\Delta E = A\sum_t\bigl(G_\mathrm{plane}-\mathrm{GHI}\bigr)\Delta t,\quad G_\mathrm{plane}=\mathrm{DNI}\cos\theta+G_\mathrm{sky}+\rho\,\mathrm{GHI}\,\tfrac{1-\cos\beta}{2}",
    "horizon": r"\Delta E = -A\sum_t\bigl(G_\mathrm{free}-G_\mathrm{horizon}\bigr)\Delta t",
    "rows": r"\Delta E = -A\sum_t\bigl(G_\mathrm{lone}-G_\mathrm{rows}\bigr)\Delta t,\quad f=1-\frac{p}{w}\,\frac{\sin\psi}{\sin(\beta+\psi)}",
    "soiling": r"\Delta E = -A\sum_t s\,G_\mathrm{poa}\,\Delta t",
    "reflection": r"\Delta E = -A\sum_t\sum_c\bigl(1-K_c\bigr)\,G_c\,(1-s)\,\Delta t",
    "partial_shade": r"\Delta E = -A\sum_t\frac{\lceil Nf\rceil/N-f}{1-f}\,G_\mathrm{direct}\,\Delta t",
    "conversion": r"\Delta E = -\bigl(1-\eta_0\bigr)\,A\sum_t G_\mathrm{eff}\,\Delta t",
    "weak_light": r"\Delta E = \sum_t\bigl(P_\mathrm{mpp}(G_\mathrm{eff},25)-P_0\tfrac{G_\mathrm{eff}}{1000}\bigr)\Delta t",
    "temperature": r"\Delta E = \sum_t\bigl(P_\mathrm{mpp}(G_\mathrm{eff},T_c)-P_\mathrm{mpp}(G_\mathrm{eff},25)\bigr)\Delta t",
    "quality": r"\Delta E = -q\sum_t P_\mathrm{mpp}\,\Delta t",
    "light_induced": r"\Delta E = -\ell\,(1-q)\sum_t P_\mathrm{mpp}\,\Delta t",
    "mismatch": r"\Delta E = -m\,(1-q)(1-\ell)\sum_t P_\mathrm{mpp}\,\Delta t",
    "parallel": r"\Delta E = \sum_t\Bigl(\max_V\sum_k V I_k(V)-\sum_k P_{\mathrm{mpp},k}\Bigr)\Delta t",
    "window": r"\Delta E = \sum_t\bigl(P(V_\mathrm{window})-P_\mathrm{mpp}\bigr)\Delta t",
    "current_limit": r"\Delta E = \sum_t\bigl(P(I_\mathrm{max})-P\bigr)\Delta t",
    "dc_wiring": r"\Delta E = -\sum_t I(t)^2 R\,\bigl(1+0.00393\,(T_a-20)\bigr)\Delta t",
    "clipping": r"\Delta E = -\sum_t\max\bigl(0,\,P_\mathrm{DC}-P_\mathrm{DC,max}\bigr)\Delta t",
    "inverter": r"\Delta E = -\sum_t P_\mathrm{r}\,(k_0+k_1p+k_2p^2)\,\Delta t,\quad p=P_\mathrm{AC}/P_\mathrm{r}",
    "night_use": r"\Delta E = -\sum_{t:\,P_\mathrm{AC}=0} P_\mathrm{night}\,\Delta t",
    "ac_wiring": r"\Delta E = -\sum_t w\,\frac{P_\mathrm{AC}^2}{P_\mathrm{r}}\,\Delta t",
    "availability": r"\Delta E = -u\sum_t P_\mathrm{AC}\,\Delta t",
}

# The settings of each line: symbol, name, unit, pointer into the scheme.
_SETTINGS: dict[str, tuple[tuple[str, str, str, str], ...]] = {
    "transposition": ((r"\rho", "albedo", "", "/site/albedo"),),
    "soiling": (("s", "soiling", "%", "/losses/soiling"),),
    "quality": (("q", "module quality", "%", "/losses/quality"),),
    "light_induced": ((r"\ell", "light-induced degradation", "%", "/losses/light_induced"),),
    "mismatch": (("m", "mismatch", "%", "/losses/mismatch"),),
    "dc_wiring": (("", "DC wiring at rated power", "%", "/losses/dc_wiring"),),
    "ac_wiring": (("w", "AC wiring at rated power", "%", "/losses/ac_wiring"),),
    "availability": (("u", "out of service", "%", "/losses/unavailability"),),
    "temperature": (("", "wind at the array over wind at 10 m", "", "/models/wind_factor"),),
}


def _of_line(r: Results, key: str) -> Working:
    entry = next((e for e in r.cascade.entries if e.key == key), None)
    if entry is None:
        raise KeyError(key)
    inputs = [Input(r"E", "energy before this line", entry.before, "kWh", "the Cascade, the line above")]
    for symbol, name, unit, pointer in _SETTINGS.get(key, ()):
        section, field = pointer.strip("/").split("/")
        part = getattr(r.scheme, section)
        if monthly := getattr(part, f"{field}_by_month", None):
            span = f"{min(monthly):g} to {max(monthly):g}"
            inputs.append(Input(symbol, f"{name} by month", span, unit, "set in the scheme", f"{pointer}_by_month"))
            continue
        origin = "set in the scheme" if field in part.model_fields_set else f"default: {_reason(part, field)}"
        inputs.append(Input(symbol, name, getattr(part, field), unit, origin, pointer))
    inputs += _more_inputs(r, key)
    most = r.calendar.monthly_sums(r.whole_year(entry.power, entry.dark_power)) * r.calendar.hours_per_interval / 1000
    steps = tuple(Input("", month, float(value), "kWh", SIMULATED) for month, value in zip(MONTHS, most, strict=True))
    return Working(
        f"loss_{key}", entry.title, entry.energy, "kWh", _EQUATIONS[key], tuple(inputs), SOURCES[key](r), steps,
        note=f"{entry.share * 100:+.3f} % of what was left before it.".replace("-", "\u2212"), quantity="" if key in ("transposition", "conversion") else f"loss_{key}",
    )  # fmt: skip


def _reason(part: BaseModel, field: str) -> str:
    extra = type(part).model_fields[field].json_schema_extra or {}
    return str(extra.get("x-reason", "")) if isinstance(extra, dict) else ""


def _more_inputs(r: Results, key: str) -> list[Input]:
    hours = r.calendar.hours_per_interval
    match key:
        case "transposition":
            own = [
                Input(r"\rho", f"albedo before {s.name or name}", s.albedo, "", "the surface's own", f"/surfaces/{name}/albedo")
                for name, s in zip(r.plant.surface_ids, r.plant.surfaces, strict=True)
                if s.albedo is not None
            ]
            return own + [
                Input(
                    r"\beta, \gamma",
                    f"tilt and facing of {s.name or name}",
                    f"{s.tilt:g}°, {s.azimuth:g}°",
                    "",
                    "the surface",
                    f"/surfaces/{name}",
                )
                for name, s in zip(r.plant.surface_ids, r.plant.surfaces, strict=True)
            ]
        case "conversion":
            rated = float(np.sum(r.plant.module_counts * r.plant.module_powers) / 1000 / r.plant.area)
            return [Input(r"\eta_0", "rated efficiency", rated * 100, "%", "datasheets: rated power over area")]
        case "temperature":
            return [
                Input(
                    "T_c",
                    "cell temperature, mean by light",
                    _mean_cell_temperature(r),
                    "°C",
                    f"simulated, {_MODEL_NAMES[r.scheme.models.temperature]} model",
                ),
                Input("T_c", "highest", float(r.modules.cell_temperature.max()), "°C", "simulated"),
            ]
        case "window":
            return [Input("t", "hours with the maximum outside the window", r.annual.hours_outside_window, "h", "simulated")]
        case "clipping":
            return [
                Input("t", "hours with clipping", r.annual.clipped_hours, "h", "simulated"),
                Input("r", "DC/AC ratio", r.annual.dc_ac_ratio, "", "ratings in all"),
            ]
        case "inverter":
            ac = float((r.plant.counts @ r.grid.ac).sum() * hours / 1000)
            used = float((r.plant.counts @ (r.grid.dc - r.grid.clipping)).sum() * hours / 1000)
            return [Input(r"\bar\eta", "mean efficiency over the year", ac / used * 100 if used else 0.0, "%", "simulated")]
    return []
