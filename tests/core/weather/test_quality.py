"""Each fault, put into a good year by hand, is found where it is, and a good year has none."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.sun import interval_sun
from noontide.core.weather import adjusting, summarise, synthesise
from noontide.core.weather.quality import examine_quality, with_marks
from noontide.core.weather.year import FILLED, SUSPECT
from tests.conftest import simulated_weather

PLACES = [(43.62, 11.31, 412, 1), (-43.18, 172.9, 6, 12), (0, -60, 50, -4), (51.3, -2.4, 62, 0)]
MONTHS = [45, 65, 105, 140, 175, 190, 200, 175, 125, 85, 50, 38]


def rules(weather):
    return {doubt.rule: doubt for doubt in examine_quality(weather)}


@pytest.fixture(scope="module")
def good():
    """As if all its columns had been measured."""
    return replace(simulated_weather(*PLACES[0]), given=("ghi", "dni", "dhi", "temperature", "wind", "pressure"))


@pytest.mark.parametrize("place", PLACES)
def test_a_good_year_raises_no_doubt(place):
    assert rules(simulated_weather(*place)) == {}


def test_a_drawn_year_raises_no_grave_doubt():
    assert not {"physically-possible", "night", "daylight-saving"} & set(rules(synthesise(MONTHS, 43.6, 11.3, 400)))


def spoilt(good, where, **values):
    columns = {name: getattr(good, name).copy() for name in values}
    for name, value in values.items():
        columns[name][where] = value
    return replace(good, **columns)


def noons(good, days):
    return np.array(days) * 24 + 12


def test_impossible_values_are_marked_where_they_are(good):
    where = noons(good, [10, 200])
    found = rules(spoilt(good, where, ghi=2500.0))["physically-possible"]
    assert np.flatnonzero(found.marks).tolist() == where.tolist()
    assert found.hours == 2
    assert "physically-possible" in rules(spoilt(good, where, ghi=-30.0))
    assert "DNI in 2 h" in rules(spoilt(good, where, dni=1500.0))["physically-possible"].detail


def test_light_at_night(good):
    found = rules(spoilt(good, np.array([1, 25, 49]), ghi=40.0))
    assert found["night"].hours == 3


def test_brighter_than_a_clear_sky(good):
    found = rules(replace(good, ghi=good.ghi * 1.4))
    assert found["clear-sky"].hours > 50


def test_three_that_do_not_close(good):
    found = rules(replace(good, dni=good.dni * 0.7))
    assert found["closure"].hours > 500
    derived = replace(good, dni=good.dni * 0.7, given=("ghi", "dhi", "temperature", "wind", "pressure"))
    assert "closure" not in rules(derived)


def test_more_diffuse_than_global(good):
    where = noons(good, range(100, 110))
    assert rules(spoilt(good, where, dhi=good.ghi[where] * 1.3))["diffuse-ratio"].hours == 10


@pytest.mark.parametrize(("column", "hours"), [("ghi", 4), ("temperature", 14), ("wind", 30)])
def test_a_sensor_that_is_stuck(good, column, hours):
    where = np.arange(172 * 24 + 8, 172 * 24 + 8 + hours)
    found = rules(spoilt(good, where, **{column: 3.21 if column != "ghi" else 321.0}))[f"repeated-{column}"]
    assert np.flatnonzero(found.marks).tolist() == where.tolist()


@pytest.mark.parametrize("place", PLACES[:2])
def test_a_clock_that_changes_to_daylight_saving_time(place):
    year = simulated_weather(*place)
    starts = year.calendar.local_starts
    day = (starts.astype("datetime64[D]") - starts.astype("datetime64[Y]")).astype(int)
    summer = (day > 88) & (day < 300) if place[0] > 0 else (day < 92) | (day > 270)
    columns = {name: np.where(summer, np.roll(getattr(year, name), 1), getattr(year, name)) for name in ("ghi", "dni", "dhi")}
    found = rules(replace(year, **columns))["daylight-saving"]
    assert np.mean(found.marks[summer]) > 0.85
    assert np.mean(found.marks[~summer]) < 0.15


def test_marks_are_put_on_the_year_and_taken_off_again(good):
    bad = spoilt(good, noons(good, [10, 200]), ghi=2500.0)
    marked = with_marks(bad, examine_quality(bad))
    assert np.flatnonzero(marked.flags & SUSPECT).tolist() == noons(good, [10, 200]).tolist()
    assert np.count_nonzero(with_marks(replace(good, flags=marked.flags), []).flags) == 0


def gappy(good, hours=60, at=172 * 24 + 5):
    flags = np.zeros(good.calendar.intervals, dtype=np.uint8)
    flags[at : at + hours] = FILLED
    return replace(spoilt(good, flags > 0, ghi=0.0, dni=0.0, dhi=0.0), flags=flags)


@pytest.mark.parametrize("method", ["clearness", "neighbouring days", "synthetic"])
def test_a_gap_is_filled_with_light_by_day_and_none_at_night(good, method):
    year = gappy(good)
    filled = adjusting.fill_marked(year, method)
    gap = year.flags > 0
    sun = interval_sun(good.calendar, good.place.latitude, good.place.longitude, good.place.elevation)
    up = np.zeros(good.calendar.intervals, dtype=bool)
    up[sun.interval_index] = True
    assert filled.ghi[gap & ~up].sum() == 0
    assert 0.4 < filled.ghi[gap].sum() / good.ghi[gap].sum() < 2.2
    assert_allclose(filled.ghi[~gap], good.ghi[~gap])
    assert np.all(filled.flags[gap] & FILLED)
    cosine = np.zeros(good.calendar.intervals)
    cosine[sun.interval_index] = sun.cos_zenith
    assert_allclose(filled.ghi[gap], (filled.dni * cosine + filled.dhi)[gap], atol=1e-9)
    assert filled.steps[-1].kind == "adjusted"
    assert not {"physically-possible", "night"} & set(rules(filled))


def test_a_year_without_marks_or_without_anything_else_is_not_filled(good):
    assert adjusting.fill_marked(good, "clearness") is good
    with pytest.raises(ValueError, match="nothing to fill from"):
        adjusting.fill_marked(replace(good, flags=np.full(good.calendar.intervals, FILLED, dtype=np.uint8)), "clearness")
    with pytest.raises(ValueError, match="no filling method"):
        adjusting.fill_marked(gappy(good), "magic")


@given(st.lists(st.floats(0.3, 1.2), min_size=12, max_size=12))
@settings(max_examples=10, deadline=None)
def test_monthly_factors_scale_each_month_and_keep_the_closure(factors):
    year = simulated_weather(*PLACES[0])
    before, after = summarise(year), summarise(adjusting.scale_months(year, factors))
    assert_allclose(after.monthly_ghi, np.array(before.monthly_ghi) * factors, rtol=1e-9)
    assert after.closure == pytest.approx(before.closure, abs=1e-6)


def test_calibration_gives_the_months_of_the_other_source(good):
    assert_allclose(summarise(adjusting.calibrate(good, MONTHS)).monthly_ghi, MONTHS, rtol=1e-9)
    dark = simulated_weather(78, 15, 10, 1)
    with pytest.raises(ValueError, match="January has no light"):
        adjusting.calibrate(dark, MONTHS)


def test_height_and_warming(good):
    higher = adjusting.correct_height(good, 1412)
    assert_allclose(higher.temperature, good.temperature - 6.5)
    assert higher.pressure.mean() / good.pressure.mean() == pytest.approx(0.886, abs=0.005)
    assert higher.place.elevation == 1412
    assert adjusting.correct_height(good, 412) is good
    warmer = adjusting.warm(good, [2.0] * 12)
    assert_allclose(warmer.temperature, good.temperature + 2)
    assert warmer.notes[-1] == "Temperature +2.0 K by month."
