"""The working of every figure of the Headline and of every line of the Cascade."""

import numpy as np
from pydantic import BaseModel

from noontide.core.calendar import MONTHS
from noontide.core.design.surface import Surface
from noontide.core.fields import Document
from noontide.core.figures.catalogue import FIGURE_OF, mean_cell_temperature
from noontide.core.figures.figure import SIMULATED, Figure
from noontide.core.irradiance.attitude import Fixed, Seasonal, SingleAxis, TwoAxis
from noontide.core.simulation.chain import motion_of
from noontide.core.simulation.connection import LINES
from noontide.core.simulation.losses import Setting
from noontide.core.simulation.results import Results
from noontide.core.working import Input, Working


def working(results: Results, key: str) -> Working:
    """Derivation of a figure.

    Parameters
    ----------
    key : str
        One of `working_keys()`: a figure, or `loss_` and a key of the Cascade.

    Raises
    ------
    KeyError
        If there is no such figure, or the design does not have it.
    """
    if key.startswith("loss_"):
        return _of_line(results, key.removeprefix("loss_"))
    figure = FIGURE_OF[key]
    if not figure.is_there(results):
        raise KeyError(key)
    return _of_figure(results, figure)


def working_keys(results: Results) -> list[str]:
    """All figures of a design that have a working."""
    return [*(key for key, figure in FIGURE_OF.items() if figure.is_there(results)), *(f"loss_{line.key}" for line in LINES)]


def _of_figure(r: Results, figure: Figure) -> Working:
    value = figure.value(r)
    return Working(
        figure.key,
        figure.title,
        figure.without if value is None else value,
        figure.unit_of(r),
        figure.equation,
        figure.inputs(r),
        figure.source(r),
        figure.steps(r),
        figure.note,
        figure.quantity,
    )


def _of_line(r: Results, key: str) -> Working:
    entry = next((e for e in r.cascade.entries if e.key == key), None)
    if entry is None:
        raise KeyError(key)
    line = entry.line
    inputs = [
        Input("E", "energy before this line", entry.before, "kWh", "the Cascade, the line above"),
        *(_setting(r, setting) for setting in line.settings),
        *_more_inputs(r, key),
    ]
    steps = tuple(Input("", month, float(value), "kWh", SIMULATED) for month, value in zip(MONTHS, entry.monthly, strict=True))
    return Working(
        f"loss_{key}", line.title, entry.energy, "kWh", line.equation, tuple(inputs), line.source_with(r.design.models), steps,
        note=f"{entry.share * 100:+.3f} % of the energy before this line.".replace("-", "\u2212"),
        quantity="" if key in ("transposition", "conversion") else f"loss_{key}",
    )  # fmt: skip


def _setting(r: Results, setting: Setting) -> Input:
    """A value of the design with its title, unit, and where it comes from; twelve of them where it is set by month."""
    section, field = setting.pointer.strip("/").split("/")
    part = getattr(r.design, section)
    info = type(part).model_fields[field]
    extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
    title, unit = str(info.title or field), str(extra.get("x-unit", ""))
    if monthly := getattr(part, f"{field}_by_month", None):
        span = f"{min(monthly):g} to {max(monthly):g}"
        return Input(setting.symbol, f"{title} by month", span, unit, "set in the design", f"{setting.pointer}_by_month")
    is_set = _is_set(part, field)
    origin = "set in the design" if is_set else f"default: {extra['x-reason']}" if extra.get("x-reason") else "not set"
    value = getattr(part, field)
    if isinstance(value, Document):  # a part of the design rather than a value
        value = "as set on the Circuits bench"
    return Input(setting.symbol, title, "none" if value is None else value, unit, origin, setting.pointer)


def _orientation(surface: Surface) -> str:
    match motion_of(surface):
        case SingleAxis(axis_tilt, axis_azimuth, maximum):
            return f"about an axis at {axis_tilt:g}°, {axis_azimuth:g}°, up to ±{maximum:g}°, hour by hour"
        case TwoAxis(maximum_tilt):
            return f"those of the sun, up to {maximum_tilt:g}°, hour by hour"
        case Seasonal(azimuth, changes):
            return f"{' / '.join(f'{tilt:g}°' for _, _, tilt in changes)}, {azimuth:g}°"
        case Fixed(tilt, azimuth):
            return f"{tilt:g}°, {azimuth:g}°"


def _is_set(part: BaseModel, field: str) -> bool:
    return field in part.model_fields_set


def _more_inputs(r: Results, key: str) -> list[Input]:
    match key:
        case "transposition":
            surfaces = list(zip(r.plant.surface_ids, r.plant.surfaces, strict=True))
            own = [
                Input(
                    r"\rho", f"albedo in front of {s.name or name}", s.albedo, "", "the surface's own", f"/surfaces/{name}/albedo"
                )
                for name, s in surfaces
                if s.albedo is not None
            ]
            return own + [
                Input(r"\beta, \gamma", f"tilt and azimuth of {s.name or name}", _orientation(s), "", "the surface", f"/surfaces/{name}")
                for name, s in surfaces
            ]  # fmt: skip
        case "conversion":
            rated = float(np.sum(r.plant.module_counts * r.plant.module_powers) / 1000 / r.plant.area)
            return [Input(r"\eta_0", "rated efficiency", rated * 100, "%", "datasheets: rated power over area")]
        case "temperature":
            highest = max(m.highest_cell_temperature for m in r.members)
            return [mean_cell_temperature(r), Input("T_c", "highest cell temperature", highest, "°C", "simulated")]
        case "window":
            return [Input("t", "hours with the maximum outside the window", r.annual.hours_outside_window, "h", "simulated")]
        case "dc_wiring" | "ac_wiring" | "ac_main":
            kinds = {"dc_wiring": ("string", "DC main"), "ac_wiring": ("AC",), "ac_main": ("AC main",)}[key]
            return [
                Input(
                    "R_{20}", f"{run.kind.lower()} cable, {run.serves}: {run.choice.section:g} mm² {run.route.material}, {run.route.length:g} m, a conductor".replace(", :", ":"),
                    run.route.resistance_at_20(run.choice.section) * 1000, "mΩ", "IEC 60228; in place of the share of the losses", run.pointer,
                )
                for run in r.cables.runs
                if run.kind in kinds
            ]  # fmt: skip
        case "derating":
            hottest = float(r.weather.temperature.max())
            return [
                Input("T_a", "highest air temperature", hottest, "°C", "weather data"),
                Input("h", "height above sea level", r.design.site.elevation, "m", "the site", "/site/elevation"),
            ]
        case "transformer_iron" | "transformer_copper":
            transformer = r.plant.transformer
            if transformer is None:
                return []
            count = r.design.connection.stations
            stations = [Input("n", "stations alike", count, "", "the connection", "/connection/stations")] if count > 1 else []
            symbol, watts = (
                (r"P_\mathrm{Fe}", transformer.iron_loss)
                if key == "transformer_iron"
                else (r"P_\mathrm{Cu}", transformer.copper_loss)
            )
            return [
                Input(
                    symbol,
                    "loss without load" if key == "transformer_iron" else "loss at rated power",
                    watts,
                    "W",
                    "transformer's datasheet",
                ),
                Input(r"S_\mathrm{r}", "rated power", transformer.rated_power / 1000, "kVA", "transformer's datasheet"),
                *stations,
            ]
        case "collector":
            cable, run, transformer = r.cables.collector, r.design.connection.collector, r.plant.transformer
            if cable is None or run is None or transformer is None:
                return []
            return [
                Input("n", "stations", r.design.connection.stations, "", "the connection", "/connection/stations"),
                Input("l", "cable from one to the next", run.length, "m", "the connection", "/connection/collector/length"),
                Input("A", f"section, {cable.material}", cable.section, "mm²", "the connection", "/connection/collector/section"),
                Input("U", "medium voltage", transformer.high_voltage / 1000, "kV", "transformer's datasheet"),
                Input("I", "largest current, before the grid", cable.current, "A", "all inverters at their largest power"),
            ]
        case "clipping":
            return [
                Input("t", "hours with clipping", r.annual.clipped_hours, "h", "simulated"),
                Input("r", "DC/AC ratio", r.annual.dc_ac_ratio, "", "ratings in all"),
            ]
        case "inverter":
            ac, used = float(r.of_inverters("ac").sum()), float((r.of_inverters("dc") - r.of_inverters("clipping")).sum())
            return [Input(r"\bar\eta", "mean efficiency over the year", ac / used * 100 if used else 0.0, "%", "simulated")]
    return []
