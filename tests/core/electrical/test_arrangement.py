import numpy as np

from noontide.core.electrical import fit_module, string_limits
from noontide.core.electrical.single_diode import circuit, max_power_point, open_circuit_voltage
from noontide.parts import built_in_parts

PARTS = built_in_parts()
MODULE = PARTS.modules["veltrane-430"]
COLDEST, HOTTEST = -10.0, 70.0


def test_string_lengths_are_the_last_that_keep_the_voltages():
    inverter = PARTS.inverters["hexley-20"]
    limits = string_limits(MODULE, inverter, COLDEST, HOTTEST)
    parameters = fit_module(MODULE).parameters
    cold = float(open_circuit_voltage(circuit(parameters, 1000.0, COLDEST)))
    hot = float(max_power_point(parameters, 1000.0, HOTTEST).voltage)
    assert limits.most * cold <= inverter.maximum_dc_voltage < (limits.most + 1) * cold
    assert (limits.fewest - 1) * hot < inverter.mppt_minimum <= limits.fewest * hot
    assert limits.maximum_of == "inverter"


def test_parallel_strings_are_the_most_that_keep_both_currents():
    """Isc 14.05 A and Imp 13.3 A or so: 1.25 Isc leaves 2 of 40 A, the operating current 2 of 32 A."""
    inverter = PARTS.inverters["hexley-20"]
    limits = string_limits(MODULE, inverter, COLDEST, HOTTEST)
    n = limits.short_circuit_strings
    assert n * 1.25 * MODULE.isc <= inverter.maximum_short_circuit_current < (n + 1) * 1.25 * MODULE.isc
    n = limits.current_strings
    assert n * MODULE.imp <= inverter.maximum_tracker_current < (n + 1) * MODULE.imp


def test_limits_broadcast_over_temperatures():
    inverter = PARTS.inverters["hexley-20"]
    lowest, highest = np.array([-30.0, -10.0, 5.0]), np.array([60.0, 70.0, 85.0])
    many = string_limits(MODULE, inverter, lowest, highest)
    for i in range(3):
        assert many.each()[i] == string_limits(MODULE, inverter, lowest[i], highest[i])
    assert list(many.most) == sorted(many.most)  # the colder, the shorter


def test_a_module_of_too_much_voltage_for_an_inverter_has_no_length():
    inverter = PARTS.inverters["hexley-1-5"].model_copy(update={"maximum_dc_voltage": 200.0})
    assert not string_limits(PARTS.modules["quillon-tf470"], inverter, COLDEST, HOTTEST).is_possible
