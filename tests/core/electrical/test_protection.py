"""Fuses, breakers and residual-current devices, by hand from the rules."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.electrical.protection import (
    FUSES,
    RULE_SETS,
    breaker_size,
    fuse_sizes,
    residual_current_device,
    voltage_rise,
)


def test_two_strings_need_no_fuses():
    """13.9 A x 1.25 = 17.4 A can flow back; the module bears 25 A."""
    found = fuse_sizes(13.9, 2, 25)
    assert not found.is_needed
    assert found.reverse_current == pytest.approx(17.375)
    assert found.reason.startswith("No string fuses are needed: 1 other string can")


def test_three_strings_take_fuses_between_one_and_a_half_isc_and_the_series_fuse():
    """1.5 x 13.9 = 20.85 A to the lower of 2.4 x 13.9 = 33.4 A and 25 A."""
    found = fuse_sizes(13.9, 3, 25)
    assert found.is_needed and found.sizes == (25,)
    assert (found.lowest, found.highest) == (pytest.approx(20.85), 25)


def test_where_no_fuse_is_made_between_the_limits_it_is_said():
    found = fuse_sizes(13.9, 3, 22)
    assert found.is_needed and found.sizes == () and "no fuse is made between 20.9 and 22.0 A" in found.reason


def test_the_other_rule_set_asks_for_more():
    found = fuse_sizes(9.5, 4, 20, RULE_SETS["nec"])
    assert found.lowest == pytest.approx(9.5 * 1.25 * 1.25)
    assert found.sizes == (15, 16, 20)


@given(st.floats(0.1, 30), st.integers(1, 40), st.floats(1, 60))
def test_every_size_keeps_all_three_rules_and_none_is_left_out(isc, strings, series_fuse):
    found = fuse_sizes(isc, strings, series_fuse)
    serve = [size for size in FUSES if 1.5 * isc <= size <= 2.4 * isc and size <= series_fuse]
    assert list(found.sizes) == serve
    assert found.is_needed == ((strings - 1) * 1.25 * isc > series_fuse)


@pytest.mark.parametrize(("isc", "strings", "fuse"), [(0, 2, 20), (9, 0, 20), (9, 2, 0)])
def test_currents_that_cannot_be_are_refused(isc, strings, fuse):
    with pytest.raises(ValueError, match="must be"):
        fuse_sizes(isc, strings, fuse)


def test_a_breaker_lies_between_the_current_and_the_cable():
    assert breaker_size(29, 35.1) == 32
    assert breaker_size(29, 31) is None
    assert breaker_size(29, 45, RULE_SETS["nec"]) == 40


def test_type_and_sensitivity_of_the_residual_current_device():
    assert residual_current_device(is_separated=False, leakage=20).type == "B"
    assert residual_current_device(is_separated=False, leakage=20).sensitivity == 100
    assert residual_current_device(is_separated=True, leakage=5).type == "A"
    assert residual_current_device(is_separated=False, leakage=15, no_dc_fault=True).type == "A"
    assert residual_current_device(is_separated=True, leakage=15).sensitivity == 30
    assert residual_current_device(is_separated=False, leakage=900).sensitivity == 1000
    with pytest.raises(ValueError, match="0 mA or more"):
        residual_current_device(is_separated=True, leakage=-1)


def test_voltage_rise_by_hand():
    """20 kW into 0.1 ohm at 400 V: 2,000 V2 of 160,000 V2; on one phase both conductors count."""
    assert voltage_rise(20_000, 0.1, 0.05, 400, 3) == pytest.approx(1.25)
    assert voltage_rise(4_600, 0.2, 0.05, 230, 1) == pytest.approx(2 * 4600 * 0.2 / 230**2 * 100)
    assert voltage_rise(20_000, 0.1, 0.05, 400, 3, reactive_power=-10_000) == pytest.approx((2000 - 500) / 1600)
