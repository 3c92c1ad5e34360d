"""Measured use laid onto a weather year, and scaled to an energy and a peak."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.calendar import Calendar
from noontide.core.civil_time import civil_time
from noontide.core.demand.series import DemandError, ImpossibleScale, UseSeries, lay, scale


def series(year=2025, step=60, days=365, value=lambda day, slot: 1.0 + slot):
    matrix = np.array([[value(day, slot) for slot in range(1440 // step)] for day in range(days)], dtype=float)
    return UseSeries("Meter", f"{year}-01-01", step, matrix)


def laid(one, calendar, zone="", holidays=()):
    return lay(one, calendar, civil_time(calendar, zone, holidays))


def test_the_same_year_is_taken_date_by_date():
    power, notes = laid(series(2026, value=lambda day, slot: day), Calendar(2026, 60, 1))
    assert np.array_equal(power.reshape(365, 24)[:, 5], np.arange(365))
    assert notes == ()


def test_another_year_is_laid_by_weekday_and_season_and_says_so():
    """Each day comes from the same weekday, three days off at most."""
    one = series(2025, value=lambda day, slot: day)
    power, notes = laid(one, Calendar(2026, 60, 1))
    source = power.reshape(365, 24)[:, 12].astype(int)
    weekdays = (one.dates.astype(int) + 3) % 7
    targets = (np.datetime64("2026-01-01") + np.arange(365)).astype(int) + 3
    assert np.array_equal(weekdays[source], targets % 7)
    away = np.abs(source - np.arange(365))
    assert np.minimum(away, 365 - away).max() <= 6  # over the year's end too
    assert "by weekday and season" in notes[0]


def test_a_holiday_takes_a_sunday():
    one = series(2025, value=lambda day, slot: (np.datetime64("2025-01-01") + day).astype(int))
    power, _ = laid(one, Calendar(2026, 60, 1), holidays=("05-01",))  # a Friday
    day = int((np.datetime64("2026-05-01") - np.datetime64("2026-01-01")).astype(int))
    assert (int(power.reshape(365, 24)[day, 0]) + 3) % 7 == 6


@pytest.mark.parametrize("step", [60, 30, 15, 10, 5])
@pytest.mark.parametrize("own", [60, 15, 1440, 5])
def test_any_step_onto_any_step_keeps_the_energy(own, step):
    one = series(2026, own, value=lambda day, slot: 1 + (slot * 7 + day) % 5)
    calendar = Calendar(2026, step, 1)
    power, _ = laid(one, calendar)
    assert power.sum() * calendar.hours_per_interval == pytest.approx(one.energy, rel=1e-12)


def test_the_civil_clock_of_the_meter_is_kept_in_summer():
    """Use from 8 to 9 by the clock on the wall stands an hour earlier on the standard clock in July."""
    power, _ = laid(series(2026, value=lambda day, slot: slot == 8), Calendar(2026, 60, 1), "Europe/Rome")
    days = power.reshape(365, 24)
    assert days[10].argmax() == 8 and days[190].argmax() == 7


def test_days_with_gaps_are_not_used_and_a_week_is_needed():
    one = series(2026)
    one.power[40, 3] = np.nan
    power, notes = laid(one, Calendar(2026, 60, 1))
    assert np.isfinite(power).all()
    assert any("gaps" in note for note in notes)
    with pytest.raises(DemandError, match="whole days"):
        laid(series(2026, days=6), Calendar(2026, 60, 1))
    holes = series(2026, days=28)
    holes.power[(holes.dates.astype(int) + 3) % 7 == 2] = np.nan
    with pytest.raises(DemandError, match="no whole Wednesday"):
        laid(holes, Calendar(2026, 60, 1))


def test_three_months_stand_in_for_a_year_in_words():
    _, notes = laid(series(2026, days=90), Calendar(2026, 60, 1))
    assert any("stand in for them" in note for note in notes)


def test_a_leap_year_has_its_day():
    power, _ = laid(series(2025), Calendar(2028, 60, 0))
    assert power.shape == (8784,) and np.isfinite(power).all()


@given(st.integers(0, 10**6), st.floats(0.3, 3), st.floats(0.4, 2))
def test_energy_and_peak_are_both_met(seed, more, higher):
    power = np.random.default_rng(seed).gamma(2.0, 1.0, 2000)
    energy, peak = power.sum() * more, power.max() * higher
    try:
        scaled, words = scale(power, 1.0, energy, peak)
    except ImpossibleScale:
        assert energy > 0.99 * peak * 2000 or energy < 3 * peak
        return
    assert scaled.sum() == pytest.approx(energy, rel=1e-6)
    assert scaled.max() == pytest.approx(peak, rel=1e-6)
    assert (np.diff(scaled[np.argsort(power)]) >= -1e-9).all()  # the order stays
    assert "^" in words[0]


def test_one_target_alone_is_a_factor():
    power = np.array([1.0, 2.0, 5.0])
    assert scale(power, 1.0, energy=16)[0] == pytest.approx(2 * power)
    assert scale(power, 1.0, peak=10)[0] == pytest.approx(2 * power)
    assert scale(power, 1.0)[0] is power


def test_what_cannot_be_scaled_is_refused_with_what_could_be():
    with pytest.raises(ImpossibleScale, match="all zero"):
        scale(np.zeros(5), 1.0, energy=3)
    with pytest.raises(ImpossibleScale, match="do not go together"):
        scale(np.array([1.0, 2.0]), 1.0, energy=100, peak=2)
