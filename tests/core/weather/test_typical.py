from dataclasses import replace

import numpy as np
import pytest
from numpy.testing import assert_allclose

from noontide.core.calendar import Calendar
from noontide.core.weather.typical import JOINT_HOURS, choose_months, finkelstein_schafer, typical_year
from tests.conftest import simulated_weather


def measured(*place, **more):
    """A year of the stand-in climate as if it had been measured."""
    return replace(simulated_weather(*place, **more), is_typical=False)


BASE = measured(48.14, 11.58, 520, 1)


def years(factors):
    """Years that are alike but for their light, and their own number."""
    return [
        replace(BASE, calendar=Calendar(2001 + 2 * i, 60, 1.0), ghi=BASE.ghi * f, dni=BASE.dni * f, dhi=BASE.dhi * f, temperature=BASE.temperature + 10 * (f - 1))
        for i, f in enumerate(factors)
    ]  # fmt: skip


def test_the_statistic_by_hand():
    """Days 1 and 2 against 1, 2, 3, 4: the short distribution is 1/2 and 1 where the long one is 1/4 and 1/2."""
    assert finkelstein_schafer(np.array([1.0, 2.0]), np.array([1.0, 2.0, 3.0, 4.0])) == pytest.approx((1 / 4 + 1 / 2) / 2)


def test_days_like_all_days_have_no_distance():
    assert finkelstein_schafer(np.arange(30.0), np.tile(np.arange(30.0), 5)) == 0


def test_of_a_dark_a_middling_and_a_bright_year_every_month_is_of_the_middling_one():
    assert {choice.year for choice in choose_months(years([0.7, 1.0, 1.3]))} == {2003}


def test_months_stand_as_they_were_measured_but_for_the_hours_about_their_joints():
    many = years([0.7, 1.0, 1.3])
    # January of the middling year is made odd, so that another has to stand in.
    odd = many[1].calendar.months == 0
    many[1] = replace(many[1], ghi=np.where(odd, many[1].ghi * 3, many[1].ghi), dni=np.where(odd, many[1].dni * 3, many[1].dni))
    choices = choose_months(many)
    assert choices[0].year != 2003
    assert {c.year for c in choices[1:]} == {2003}
    made = typical_year(many)
    taken = next(y for y in many if y.calendar.year == choices[0].year)
    january, rest = slice(0, 744), slice(744, None)
    assert_allclose(made.ghi[january], taken.ghi[january])
    assert_allclose(made.ghi[rest], many[1].ghi[rest])
    inner = slice(744 + JOINT_HOURS, 8760)
    assert_allclose(made.temperature[inner], many[1].temperature[inner])
    jump = np.abs(np.diff(made.temperature[744 - JOINT_HOURS : 744 + JOINT_HOURS])).max()
    assert jump <= np.abs(np.diff(BASE.temperature)).max() + 1
    assert made.is_typical
    assert f"Jan {choices[0].year}" in made.steps[-1].words


def test_leap_days_are_left_out():
    leap = measured(48.14, 11.58, 520, 1, year=2004)
    if leap is None:
        calendar = Calendar(2004, 60, 1.0)
        extra = {n: np.concatenate([getattr(BASE, n)[:1416], getattr(BASE, n)[1392:1416], getattr(BASE, n)[1416:]]) for n in ("ghi", "dni", "dhi", "temperature", "wind", "pressure")}  # fmt: skip
        leap = replace(BASE, calendar=calendar, flags=np.zeros(calendar.intervals, dtype=np.uint8), **extra)
    made = typical_year([*years([0.9, 1.0]), leap])
    assert made.calendar.intervals == 8760


@pytest.mark.parametrize(
    ("many", "words"),
    [
        (years([1.0, 1.1]), "at least 3"),
        ([*years([1.0, 1.1]), measured(20.0, 11.58, 520, 1)], "one place"),
        ([BASE, BASE, BASE], "only once"),
        ([*years([1.0, 1.1]), measured(48.14, 11.58, 520, 2)], "one clock"),
    ],
)
def test_years_that_do_not_belong_together_are_refused(many, words):
    with pytest.raises(ValueError, match=words):
        typical_year(many)
