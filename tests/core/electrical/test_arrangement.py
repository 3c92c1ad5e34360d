import pytest

from noontide.core.electrical import fit_module
from noontide.core.electrical.arrangement import arrange, choose_inverter, string_lengths
from noontide.core.electrical.single_diode import circuit, max_power_point, open_circuit_voltage
from noontide.parts import built_in_parts

PARTS = built_in_parts()
MODULE = PARTS.modules["veltrane-430"]
COLDEST, HOTTEST = -10.0, 70.0


def test_string_lengths_are_the_last_that_keep_the_voltages():
    inverter = PARTS.inverters["hexley-20"]
    fewest, most = string_lengths(MODULE, inverter, COLDEST, HOTTEST)
    parameters = fit_module(MODULE).parameters
    cold = float(open_circuit_voltage(circuit(parameters, 1000.0, COLDEST)))
    hot = float(max_power_point(parameters, 1000.0, HOTTEST).voltage)
    assert most * cold <= inverter.maximum_dc_voltage < (most + 1) * cold
    assert (fewest - 1) * hot < inverter.tracking_minimum <= fewest * hot


def test_a_module_of_too_much_voltage_for_an_inverter_has_no_length():
    inverter = PARTS.inverters["hexley-1-5"].model_copy(update={"maximum_dc_voltage": 200.0})
    assert string_lengths(PARTS.modules["quillon-tf470"], inverter, COLDEST, HOTTEST) == (1, 0)


@pytest.mark.parametrize(
    ("modules", "inverter", "strings"),
    [
        pytest.param(20, "hexley-8", ((20, 1),), id="one string where one tracker takes all"),
        pytest.param(25, "hexley-10", ((13, 1), (12, 1)), id="over two trackers as even as can be"),
        pytest.param(64, "hexley-20", ((22, 1), (22, 1)), id="strings of one length where one a tracker is not enough"),
    ],
)
def test_arrangements_by_hand(modules, inverter, strings):
    found = arrange(modules, MODULE, PARTS.inverters[inverter], COLDEST, HOTTEST)
    assert found is not None
    if modules == 64:
        assert all(length == found.strings[0][0] for length, _ in found.strings)
        assert found.modules >= 60
    else:
        assert found.strings == strings


def test_too_few_modules_make_no_string():
    assert arrange(1, MODULE, PARTS.inverters["hexley-20"], COLDEST, HOTTEST) is None


def test_a_large_plant_takes_several_large_inverters():
    found = choose_inverter(1200, MODULE, list(PARTS.inverters.values()), COLDEST, HOTTEST)
    assert found is not None
    assert found.count >= 3
    assert found.inverter.ac_power >= 50_000
    assert found.modules > 1100
