"""Measured curves: the parameters that made them are found again, also through noise; tables that are none are refused."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.electrical.curve_fit import MeasuredCurve, fit_curves, read_curves
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.single_diode import circuit, current_at, open_circuit_voltage
from noontide.parts import built_in_parts

MODULES = built_in_parts().modules


def measured(module, irradiance, temperature, noise=0.0, points=60):
    cells = circuit(fit_module(module).parameters, irradiance, temperature)
    voltage = np.linspace(0, float(open_circuit_voltage(cells)), points)
    current = current_at(cells, voltage) * (1 + noise * np.random.default_rng(1).standard_normal(points))
    return MeasuredCurve(voltage, current, irradiance, temperature)


@settings(max_examples=12, deadline=None)
@given(
    made=st.sampled_from(["veltrane-430", "quillon-bc460", "thornby-250", "veltrane-450"]), like=st.sampled_from(["veltrane-430", "quillon-410"]),
    light=st.floats(600, 1100), heat=st.floats(10, 60),
)  # fmt: skip
def test_the_module_that_made_the_curves_is_found_again(made, like, light, heat):
    module = MODULES[made]
    start = MODULES[like].model_copy(
        update={name: getattr(module, name) for name in ("cells_in_series", "isc_coefficient", "technology")}
    )
    found = fit_curves([measured(module, light, heat), measured(module, light / 3, heat)], start)
    assert found.power == pytest.approx(module.power, rel=2e-3)
    assert found.voc == pytest.approx(module.voc, rel=2e-3) and found.isc == pytest.approx(module.isc, rel=2e-3)
    assert found.deviation < 1e-3


def test_half_a_per_cent_of_noise_moves_the_power_by_less():
    module = MODULES["veltrane-430"]
    found = fit_curves([measured(module, 950, 40, noise=0.005)], module)
    assert found.power == pytest.approx(module.power, rel=5e-3) and 0.001 < found.deviation < 0.01
    assert found.datasheet(module, "Measured").power == pytest.approx(found.power, abs=0.01)


def test_points_of_another_thing_are_refused():
    with pytest.raises(ValueError, match="comes near the points"):
        fit_curves([MeasuredCurve(np.linspace(0, 40, 30), np.linspace(0, 14, 30), 1000, 25)], MODULES["veltrane-430"])
    with pytest.raises(ValueError, match="8 points or more"):
        fit_curves([MeasuredCurve(np.arange(3.0), np.ones(3), 1000, 25)], MODULES["veltrane-430"])


def test_a_table_of_two_lights_becomes_two_curves():
    rows = ["Voltage [V];Current [A];G;T"] + [f"{v},5;{10 - v / 10:.1f};{light};25" for light in (1000, 400) for v in range(10)]
    curves = read_curves("\n".join(rows).encode())
    assert [(c.irradiance, c.voltage.size) for c in curves] == [(1000, 10), (400, 10)] and curves[0].voltage[0] == 0.5


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("a,b\n1,2", "headings voltage and current"), ("voltage,current\n1,2", "irradiance of the curve is missing"),
        ("voltage,current,irradiance,temperature\n1,x,1000,25", "Row 2, current"), ("voltage,current,irradiance,temperature\n1,nan,1000,25", "out of any range"),
        ("voltage,current,irradiance,temperature\n1,2,1e5,25", "within 20 and 1,500"),
    ],
)  # fmt: skip
def test_what_is_no_curve_is_said_with_its_place(text, said):
    with pytest.raises(ValueError, match=said):
        read_curves(text.encode())
