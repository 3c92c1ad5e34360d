import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose
from scipy.special import ndtri

from noontide.core.sun import extraterrestrial_normal, interval_sun
from noontide.core.weather.climatology import climate_at
from noontide.core.weather.synthesis import clearness_at, daily_clearness, highest_clearness, synthesise

MUNICH = [30, 48, 85, 120, 155, 170, 178, 150, 105, 65, 35, 24]
WARMTH = [-1, 0.5, 4.5, 8.5, 13.5, 16.5, 18.7, 18, 14, 9, 4, 0.3]


def test_months_keep_their_irradiation_and_temperature_exactly():
    year = synthesise(MUNICH, 48.1, 11.6, 520, WARMTH)
    assert_allclose(year.calendar.monthly_sums(year.ghi) / 1000, MUNICH, rtol=1e-9)
    counts = np.bincount(year.calendar.months)
    assert_allclose(year.calendar.monthly_sums(year.temperature) / counts, WARMTH, atol=1e-9)
    assert year.steps[-1].kind == "synthesised"


@settings(max_examples=15, deadline=None)
@given(st.floats(-66, 66), st.lists(st.floats(0.05, 0.78), min_size=12, max_size=12), st.integers(0, 9))
def test_any_clearness_anywhere_keeps_its_months_and_stays_below_the_sun(latitude, clearness, seed):
    blank = synthesise([0] * 12, latitude, 20.0)
    calendar, sun = blank.calendar, interval_sun(blank.calendar, latitude, 20.0)
    above = np.zeros(calendar.intervals)
    above[sun.interval_index] = extraterrestrial_normal(sun.distance) * sun.cos_zenith * sun.lit_fraction
    monthly = np.array(clearness) * calendar.monthly_sums(above) / 1000
    year = synthesise(monthly.tolist(), latitude, 20.0, seed=seed)
    assert_allclose(calendar.monthly_sums(year.ghi) / 1000, monthly, rtol=1e-9, atol=1e-9)
    assert np.all(year.ghi >= 0)
    assert np.all(year.ghi <= above * 1.001 + 1e-9)


@pytest.mark.parametrize("mean", [0.1, 0.3, 0.45, 0.6, 0.74])
def test_days_are_distributed_as_bendt_found(mean):
    """The mean of the distribution is the month's, and its density falls or rises as an exponential between its bounds."""
    chance = (np.arange(400_000) + 0.5) / 400_000
    days = clearness_at(chance, mean)
    assert days.mean() == pytest.approx(mean, abs=2e-5)
    assert 0.049 < days[0] < days[-1] < highest_clearness(mean)
    density, _ = np.histogram(days, np.linspace(days[0], days[-1], 9))
    steps = np.diff(np.log(density))
    assert_allclose(steps, np.median(steps), atol=0.05)


def test_days_remember_the_day_before_as_graham_found():
    """Lag-1 correlation of the normal scores of the daily clearness, 0.29 in the mean of many climates."""
    months, rng = np.repeat(np.arange(12), 30), np.random.default_rng(4)
    found = []
    for _ in range(60):
        days = daily_clearness(np.full(12, 0.5), months, rng)
        rank = (np.argsort(np.argsort(days)) + 0.5) / days.size
        score = ndtri(rank)
        found.append(np.corrcoef(score[1:], score[:-1])[0, 1])
    assert np.mean(found) == pytest.approx(0.29, abs=0.03)


def test_hours_vary_more_under_broken_skies_than_under_clear_ones():
    def unrest(clearness):
        year = synthesise((np.array(MUNICH) * clearness).tolist(), 48.1, 11.6)
        noon = year.ghi.reshape(365, 24)[:, 10:14]
        return np.mean(noon.std(axis=1) / np.maximum(noon.mean(axis=1), 1))

    assert unrest(0.8) > 1.15 * unrest(1.25)


def test_the_same_numbers_give_the_same_year_and_another_seed_another():
    assert synthesise(MUNICH, 48.1, 11.6).digest == synthesise(MUNICH, 48.1, 11.6).digest
    assert synthesise(MUNICH, 48.1, 11.6).digest != synthesise(MUNICH, 48.1, 11.6, seed=1).digest


def test_diffuse_irradiation_keeps_its_months_where_it_is_given():
    diffuse = [18, 26, 42, 58, 74, 80, 80, 68, 48, 32, 20, 15]
    year = synthesise(MUNICH, 48.1, 11.6, monthly_dhi=diffuse)
    assert_allclose(year.calendar.monthly_sums(year.dhi) / 1000, diffuse, rtol=0.002)
    assert np.all(year.dhi <= year.ghi + 1e-9)


@pytest.mark.parametrize(
    ("ghi", "more", "words"),
    [
        ([300] * 12, {}, "January cannot have 300"),
        ([30] * 11, {}, "Twelve monthly values of GHI"),
        ([-1] * 12, {}, "GHI of January"),
        (MUNICH, {"monthly_temperature": [float("nan")] * 12}, "temperature of January"),
        (MUNICH, {"monthly_dhi": [999] * 12}, "more diffuse"),
    ],
)
def test_what_the_sun_cannot_give_is_refused_with_the_month(ghi, more, words):
    with pytest.raises(ValueError, match=words):
        synthesise(ghi, 48.1, 11.6, **more)


def test_polar_night_is_dark_and_the_rest_of_the_year_is_not():
    year = synthesise([0, 5, 40, 100, 160, 170, 150, 100, 45, 12, 0, 0], 71.0, 25.0)
    assert year.ghi[year.calendar.months == 11].max() == 0
    assert year.ghi.max() > 300


@pytest.mark.parametrize(("latitude", "longitude", "elevation"), [(47.0, 8.0, 350), (-43.2, 170.5, 10), (60.0, 25.0, 20)])
def test_months_without_a_temperature_take_that_of_the_place(latitude, longitude, elevation):
    """5.9 °C at 47° N and 350 m was a guess from latitude and height; the maps that ship know the place."""
    year = synthesise([5.0] * 12, latitude, longitude, elevation)
    months = year.calendar.monthly_sums(year.temperature) / np.bincount(year.calendar.months)
    assert_allclose(months, climate_at(latitude, longitude, elevation).temperature, atol=1e-6)
    assert any("long-term maps" in note for note in year.notes)
    assert latitude != 47.0 or 8 < months.mean() < 12
