from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.checks import find_checks
from noontide.core.design import Design
from noontide.core.simulation import simulate
from noontide.core.sun import interval_sun
from noontide.core.weather import Place, Weather, as_text, parse, summarise
from noontide.core.weather.clock import clock_error
from noontide.parts import built_in_parts
from tests.conftest import simulated_weather

PLACES = [
    (43.62, 11.31, 412, 1.0),
    (-43.18, 170.46, 6, 12.0),
    (78.0, 15.0, 10, 1.0),
    (0.0, -60.0, 50, -4.0),
    (51.3, -1.2, 60, 0.0),
]


def moved(weather: Weather, hours: float) -> Weather:
    """The same light, coming later."""
    by = round(hours / weather.calendar.hours_per_interval)
    return replace(weather, **{name: np.roll(getattr(weather, name), by) for name in ("ghi", "dni", "dhi")})


def error_of(weather: Weather) -> float:
    place = weather.place
    return clock_error(weather, interval_sun(weather.calendar, place.latitude, place.longitude, place.elevation))


@pytest.mark.parametrize("place", PLACES, ids=lambda p: f"{p[0]:g}")
@pytest.mark.parametrize("hours", [-9, -2, -1, 0, 1, 2, 6])
def test_light_that_comes_late_is_told_by_its_hours(place, hours):
    assert error_of(moved(simulated_weather(*place), hours)) == hours


@pytest.mark.parametrize("hours", [-1.5, -0.5, 0.5, 1.0])
def test_half_hours_are_seen_where_the_steps_are_short(hours):
    assert error_of(moved(simulated_weather(51.3, -1.2, 60, 0, 15), hours)) == hours


@settings(max_examples=25)
@given(st.integers(0, 2**31), st.floats(0, 0.6))
def test_clouds_do_not_turn_the_clock(seed, share):
    """Any hours may be dark, as under a thick sky: the light that is left still stands in the sun's hours."""
    weather = simulated_weather(43.62, 11.31, 412, 1)
    dark = np.random.default_rng(seed).random(weather.calendar.intervals) < share
    assert error_of(replace(weather, ghi=np.where(dark, 0.0, weather.ghi))) == 0


@pytest.mark.parametrize("azimuth", [90, 270], ids=["east", "west"])
def test_a_ridge_over_the_sensor_does_not_turn_the_clock(azimuth):
    """A skyline of 15° on one side takes an hour of light, not an hour of the clock."""
    weather = simulated_weather(43.62, 11.31, 412, 1)
    sun = interval_sun(weather.calendar, 43.62, 11.31, 412)
    hidden = sun.interval_index[(sun.zenith > 75) & (np.abs(sun.azimuth - azimuth) < 60)]
    ghi = weather.ghi.copy()
    ghi[hidden] = weather.dhi[hidden] * 0.8
    assert error_of(replace(weather, ghi=ghi)) == 0


def test_where_the_sun_never_sets_nothing_can_be_said():
    assert error_of(moved(simulated_weather(90, 0, 0, 0), 2)) == 0


def test_a_zone_that_is_wrong_in_the_file_is_told_with_what_to_look_at():
    """The LOCATION line says UTC+3 where the hours are of UTC+1: noon's light stands two hours before noon."""
    lines = as_text(simulated_weather(43.62, 11.31, 412, 1), "epw").splitlines()
    fields = lines[0].split(",")
    fields[8] = "3"
    weather = parse("\n".join([",".join(fields), *lines[1:]]).encode())
    assert error_of(weather) == -2
    assert summarise(weather).clock_warning.startswith("Irradiance is 2 h ahead of the sun.")


def test_the_check_names_the_hours_and_goes_with_a_right_clock():
    scheme = Design.read(
        {
            "site": {"latitude": 43.62, "longitude": 11.31, "elevation": 412},
            "surfaces": {"roof": {}},
            "inverters": {"i": {"model": "hexley-5"}},
            "subarrays": {"a": {"surface": "roof", "module": "veltrane-430", "modules_per_string": 12, "inverter": "i"}},
        }
    )
    right = simulated_weather(43.62, 11.31, 412, 1)
    rules = {
        hours: [c for c in find_checks(simulate(scheme, moved(right, hours), built_in_parts())) if c.rule == "weather-clock"]
        for hours in (0, 1)
    }
    assert rules[0] == []
    assert (rules[1][0].actual, rules[1][0].unit, rules[1][0].bench) == (1, "h", "weather")


def test_weather_from_another_continent_has_no_fault_of_its_clock():
    """Over the ocean the sun is hours away: that the weather is from elsewhere is all there is to say."""
    scheme = Design.read(
        {
            "site": {"latitude": 43.62, "longitude": -60, "elevation": 412},
            "surfaces": {"roof": {}},
            "inverters": {"i": {"model": "hexley-5"}},
            "subarrays": {"a": {"surface": "roof", "module": "veltrane-430", "modules_per_string": 12, "inverter": "i"}},
        }
    )
    results = simulate(scheme, simulated_weather(43.62, 11.31, 412, 1), built_in_parts())
    rules = {check.rule for check in find_checks(results)}
    assert results.sky.clock_error != 0
    assert "weather-far" in rules
    assert "weather-clock" not in rules


def test_the_place_decides_not_the_file():
    """The same year said to lie 30 degrees further west: the sun comes two hours later than its light."""
    weather = simulated_weather(43.62, 11.31, 412, 1)
    assert error_of(replace(weather, place=Place(43.62, -18.69, 412))) == -2
