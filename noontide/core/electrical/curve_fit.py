"""The five parameters of a module from curves that were measured."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from noontide.core.cells import rows_of
from noontide.core.electrical.datasheets import Module
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.single_diode import ModuleParameters, circuit, current_at, max_power_point, open_circuit_voltage

Floats = NDArray[np.float64]
MOST_POINTS, FEWEST_POINTS = 20_000, 8
LARGEST = 4 * 1024 * 1024  # bytes
HEADINGS = {
    "voltage": ("voltage", "v", "u", "voltage v", "u v"),
    "current": ("current", "i", "current a", "i a"),
    "irradiance": ("irradiance", "g", "poa", "irradiance w m2"),
    "temperature": ("temperature", "t", "cell temperature", "module temperature", "temperature c"),
}


@dataclass(frozen=True, eq=False)
class MeasuredCurve:
    """Points of one curve under one light and temperature."""

    voltage: Floats  # [V]
    current: Floats  # [A]
    irradiance: float  # [W/m2]
    cell_temperature: float  # [°C]


@dataclass(frozen=True)
class CurveFit:
    """Parameters through measured curves, and the datasheet's figures that follow from them at standard test conditions."""

    parameters: ModuleParameters
    deviation: float  # root mean square of the current, relative to Isc
    isc: float
    voc: float
    imp: float
    vmp: float
    power: float

    def datasheet(self, like: Module, name: str) -> Module:
        """A datasheet with these figures; what curves do not tell is as in another."""
        values = like.model_dump(exclude={"digest"}) | {
            "name": name, "isc": round(self.isc, 4), "voc": round(self.voc, 4), "imp": round(self.imp, 4), "vmp": round(self.vmp, 4),
            "power": round(self.power, 2), "source": "measured curve",
        }  # fmt: skip
        return Module.model_validate(values)


def fit_curves(curves: Sequence[MeasuredCurve], like: Module) -> CurveFit:
    """Fit the five parameters to all points of measured curves at once.

    Parameters
    ----------
    curves : sequence of MeasuredCurve
        One or more; several lights make series and shunt resistance sharper.
    like : Module
        Its fitted parameters are the start; its cells, coefficients and bandgap are taken as they are.

    Raises
    ------
    ValueError
        If there are too few points, or the fit does not come near them.

    References
    ----------
    De Soto, Klein and Beckman (2006) for the change with light and temperature; least squares of the current.
    """
    points = sum(curve.voltage.size for curve in curves)
    if points < FEWEST_POINTS:
        raise ValueError(f"A curve needs {FEWEST_POINTS} points or more; there are {points}.")
    start = fit_module(like).parameters
    scale = max(float(np.max(curve.current)) for curve in curves)

    def parameters(x: Floats) -> ModuleParameters:
        light_current = x[0] * scale
        return ModuleParameters(
            light_current, math.exp(x[1]), math.exp(x[2]), math.exp(x[3]), math.exp(x[4]), like.isc_coefficient / 100 * light_current,
            start.bandgap, start.bandgap_coefficient,
        )  # fmt: skip

    def misfit(x: Floats) -> Floats:
        trial = parameters(x)
        return np.concatenate(
            [(current_at(circuit(trial, c.irradiance, c.cell_temperature), c.voltage) - c.current) / scale for c in curves]
        )

    # The light current by the brightest curve; the others from the datasheet of the module that it is like.
    brightest = max(curves, key=lambda curve: curve.irradiance)
    light = float(np.max(brightest.current)) * 1000 / brightest.irradiance
    first = [
        light / scale,
        math.log(max(float(start.saturation_current), 1e-30)),
        math.log(max(float(start.series_resistance), 1e-4)),
        math.log(max(float(start.shunt_conductance), 1e-6)),
        math.log(float(start.modified_ideality)),
    ]
    bounds = [(0.05, 20.0), (-90.0, 0.0), (-12.0, 4.0), (-16.0, 1.0), (-3.0, 5.0)]
    clipped = [min(max(value, low + 1e-6), high - 1e-6) for value, (low, high) in zip(first, bounds, strict=True)]
    found = least_squares(
        misfit, clipped, bounds=tuple(np.array(bounds).T), x_scale=[0.01, 1, 0.5, 0.5, 0.05], max_nfev=400, xtol=1e-14, ftol=1e-14, gtol=1e-14
    )  # fmt: skip
    fitted = parameters(found.x)
    top = max_power_point(fitted, 1000.0, 25.0)
    at_stc = circuit(fitted, 1000.0, 25.0)
    isc = float(current_at(at_stc, np.zeros(1))[0])
    deviation = float(np.sqrt(np.mean(found.fun**2))) * scale / isc
    if not math.isfinite(deviation) or deviation > 0.05:
        raise ValueError(
            f"No single-diode curve comes near the points: they are off by {deviation:.1%} of Isc in the mean. Check irradiance, temperature and the module that it is like."
        )
    return CurveFit(
        fitted,
        deviation,
        isc,
        float(np.ravel(open_circuit_voltage(at_stc))[0]),
        float(top.current),
        float(top.voltage),
        float(top.power),
    )


def read_curves(content: bytes, irradiance: float | None = None, cell_temperature: float | None = None) -> list[MeasuredCurve]:
    """Curves of a CSV table with the columns voltage and current, and irradiance and temperature where they change.

    Raises
    ------
    ValueError
        With row and column, where it is no such table.
    """
    if len(content) > LARGEST:
        raise ValueError(f"The file has {len(content) / 1e6:.0f} MB; at most {LARGEST / 1e6:.0f} MB are read.")
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise ValueError("This is no table of text in UTF-8. Save the curve as CSV.") from None
    rows = rows_of(text)
    headings = [" ".join("".join(c if c.isalnum() else " " for c in cell.casefold()).split()) for cell in next(rows, [])]
    places = {name: next((i for i, heading in enumerate(headings) if heading in words), None) for name, words in HEADINGS.items()}
    if places["voltage"] is None or places["current"] is None:
        raise ValueError(
            "The first row must have the headings voltage and current; irradiance and temperature where they change."
        )
    given = {"irradiance": irradiance, "temperature": cell_temperature}
    for name, value in given.items():
        if places[name] is None and value is None:
            raise ValueError(f"The {name} of the curve is missing. Give it, or add a column {name}.")
    groups: dict[tuple[float, float], list[tuple[float, float]]] = {}
    for number, row in enumerate(rows, 2):
        if not any(row):
            continue
        if number > MOST_POINTS + 1:
            raise ValueError(f"The table has more than {MOST_POINTS:,} points. Take fewer.")

        def cell(name: str, row: list[str] = row, number: int = number) -> float:
            place = places[name]
            if place is None:
                return float(given[name])  # type: ignore[arg-type]
            written = row[place] if place < len(row) else ""
            try:
                value = float(written.replace(",", ".") if written.count(",") == 1 and "." not in written else written)
            except ValueError:
                raise ValueError(f"Row {number}, {name}: a number was expected; it is '{written[:40]}'.") from None
            if not math.isfinite(value) or abs(value) > 1e6:
                raise ValueError(f"Row {number}, {name}: {written[:40]} is out of any range.")
            return value

        groups.setdefault((cell("irradiance"), cell("temperature")), []).append((cell("voltage"), cell("current")))
    for light, heat in groups:
        if not 20 <= light <= 1500 or not -60 <= heat <= 120:
            raise ValueError(
                f"Irradiance must lie within 20 and 1,500 W/m² and temperature within −60 and 120 °C; they are {light:g} and {heat:g}."
            )
    return [
        MeasuredCurve(np.array([v for v, _ in points]), np.array([i for _, i in points]), light, heat)
        for (light, heat), points in groups.items()
    ]
