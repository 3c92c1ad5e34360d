import numpy as np
import pytest

from noontide.core.weather import summarise
from noontide.core.weather.workings import FACTS, weather_working
from tests.conftest import simulated_weather


@pytest.fixture(scope="module")
def leap():
    return simulated_weather(51.3, -2.1, 40, 0, step=30, year=2028)


@pytest.mark.parametrize("key", FACTS)
def test_every_fact_has_equation_source_inputs_and_months(leap, key):
    shown = weather_working(leap, key)
    assert shown.key == key and shown.equation and shown.source and shown.inputs
    assert np.isfinite(shown.value) and len(shown.steps) == 12


@pytest.mark.parametrize("key", ["ghi", "dni", "dhi"])
def test_the_months_of_an_irradiation_add_up_to_its_year(leap, key):
    shown = weather_working(leap, key)
    assert sum(float(step.value) for step in shown.steps) == pytest.approx(shown.value, rel=1e-12)
    assert shown.value == pytest.approx(getattr(summarise(leap), f"annual_{key}"), rel=1e-12)


def test_peak_sun_hours_are_the_irradiation_of_the_mean_day(leap):
    assert weather_working(leap, "peak_sun_hours").value * 366 == pytest.approx(summarise(leap).annual_ghi)


def test_clearness_is_that_of_the_summary_and_below_one(leap):
    shown = weather_working(leap, "clearness")
    assert shown.value == pytest.approx(summarise(leap).clearness)
    assert 0.2 < shown.value < 0.8


def test_months_of_polar_night_have_no_clearness():
    shown = weather_working(simulated_weather(84.0, 20.0), "clearness")
    assert {"December", "January"}.isdisjoint({step.name for step in shown.steps})


def test_a_derived_column_says_so(leap):
    inputs = weather_working(leap, "dni").inputs
    assert inputs[0].origin.startswith("derived") != ("dni" in leap.given)
