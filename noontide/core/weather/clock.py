"""The sun as a witness of a file's clock: its light must fall into the hours in which the sun is up."""

import numpy as np
from numpy.typing import NDArray

from noontide.core.sun import IntervalSun
from noontide.core.weather.year import Weather

Floats = NDArray[np.float64]
LIGHT = 2.0  # W/m2 of GHI from which an interval counts as bright; less is twilight or an offset of the sensor
FURTHEST_HOURS = 12
ORDINARY = 0.02  # of the sun's hours may be dark under thick clouds
BETTER = 2 / 3  # of the hours in conflict may be left at another place, or the file stays as it is


def clock_error(weather: Weather, sun: IntervalSun) -> float:
    """Hours by which the light of a file comes too late (above 0) or too early (below 0); 0 where its clock agrees.

    Parameters
    ----------
    weather : Weather
    sun : IntervalSun
        Of the same calendar and place.

    Notes
    -----
    The shares of the intervals with the sun up are held against the intervals with light, as the file stands and moved by
    whole intervals of at least half an hour. Clouds and hills take light away but hardly change where it ends; a clock that
    is off by an hour puts some seven hundred hours of a year in conflict.
    """
    calendar = weather.calendar
    up = np.zeros(calendar.intervals)
    up[sun.interval_index] = sun.lit_fraction
    bright = (weather.ghi > LIGHT).astype(float)

    # |b - u| = b + u - 2 b u where b is 0 or 1: one product for each trial.
    apart = float(bright.sum() + up.sum())

    def conflict(intervals: int) -> float:
        return apart - 2 * float(np.sum(np.roll(bright, -intervals) * up))

    # Sunrise and sunset within an interval are in conflict whatever the clock.
    unavoidable = np.minimum(up, 1 - up).sum()
    if conflict(0) < unavoidable + ORDINARY * up.sum():
        return 0.0
    step = max(1, round(0.5 / calendar.hours_per_interval))
    furthest = round(FURTHEST_HOURS / calendar.hours_per_interval)
    trials = range(-(furthest // step) * step, furthest + 1, step)
    best = min(trials, key=lambda k: (conflict(k), abs(k)))
    return best * calendar.hours_per_interval if best and conflict(best) < BETTER * conflict(0) else 0.0


def describe_clock_error(hours: float) -> str:
    """What a clock error means, and how to put it right."""
    late = "behind" if hours > 0 else "ahead of"
    return (
        f"Irradiance is {abs(hours):g} h {late} the sun. Check the time zone, daylight saving time, "
        "and whether timestamps mark the start or the end of the hour."
    )
