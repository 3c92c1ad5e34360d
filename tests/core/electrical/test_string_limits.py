"""The one rule set of string lengths and parallel strings, at the edge of each limit."""

import numpy as np
import pytest

from noontide.core.electrical import string_limits
from noontide.parts import built_in_parts

PARTS = built_in_parts()
MODULE, INVERTER = PARTS.modules["veltrane-430"], PARTS.inverters["hexley-20"]


def limits(cold=-10.0, hot=70.0, **changed):
    return string_limits(MODULE, INVERTER.model_copy(update=changed), cold, hot)


@pytest.mark.parametrize("strings", [1, 2, 3, 7])
def test_as_many_strings_as_a_quarter_over_their_short_circuit_current_allows(strings):
    exactly = 1.25 * MODULE.isc * strings
    assert limits(maximum_short_circuit_current=exactly).short_circuit_strings == strings
    assert limits(maximum_short_circuit_current=exactly - 0.01).short_circuit_strings == strings - 1


@pytest.mark.parametrize("length", [1, 9, 16, 21])
def test_the_longest_string_reaches_the_maximum_voltage_and_no_more(length):
    voc = limits().cold_voc
    assert limits(maximum_dc_voltage=voc * length).most == length
    assert limits(maximum_dc_voltage=voc * length - 0.01).most == length - 1


@pytest.mark.parametrize("length", [1, 9, 16])
def test_the_shortest_string_reaches_the_window_when_hot(length):
    vmp = limits().hot_vmp
    assert limits(mppt_minimum=vmp * length, start_voltage=1.0).fewest == length
    assert limits(mppt_minimum=vmp * length + 0.01, start_voltage=1.0).fewest == length + 1


def test_the_lower_of_inverter_and_module_is_the_maximum():
    assert limits(maximum_dc_voltage=600.0).maximum_of == "inverter"
    assert limits(maximum_dc_voltage=MODULE.maximum_system_voltage + 1).maximum_of == "module"


def test_many_temperatures_give_what_each_gives_alone():
    cold, hot = np.array([-25.0, -10.0, 5.0]), np.array([55.0, 70.0, 85.0])
    together = string_limits(MODULE, INVERTER, cold, hot)
    for i in range(3):
        alone = limits(cold[i], hot[i])
        assert (together.most[i], together.fewest[i], together.window_most[i]) == (alone.most, alone.fewest, alone.window_most)
        assert together.cold_voc[i] == pytest.approx(alone.cold_voc, rel=1e-12)
    assert np.all(np.diff(together.cold_voc) < 0)
