"""The split of GHI by its course: values by hand, closure, what the day and the hours around change."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from numpy.testing import assert_allclose, assert_array_equal

from noontide.core.calendar import Calendar
from noontide.core.simulation import simulate
from noontide.core.sun import interval_sun, solar_time
from noontide.core.weather import Place, fill_missing_columns
from noontide.core.weather.adjusting import split_by_course
from noontide.core.weather.decomposition import ridley
from noontide.parts import built_in_parts
from tests.conftest import simulated_weather

ABOVE = 1361.1
HOURS = np.arange(24) + 0.5
COSINE = np.maximum(0, np.sin(np.radians(15 * (HOURS - 6)))) * 0.9
LIT = (COSINE > 0).astype(float)


def split(clearness):
    return ridley(np.asarray(clearness) * ABOVE * COSINE, COSINE, np.full(24, ABOVE), LIT, HOURS)


def test_the_diffuse_fraction_of_an_even_day_by_hand():
    _, dhi = split(np.full(24, 0.5))
    noon = 12
    elevation = np.degrees(np.arcsin(COSINE[noon]))
    power = -5.38 + 6.63 * 0.5 + 0.006 * 12.5 - 0.007 * elevation + 1.75 * 0.5 + 1.31 * 0.5
    assert dhi[noon] / (0.5 * ABOVE * COSINE[noon]) == pytest.approx(1 / (1 + np.exp(power)), rel=1e-12)


def test_at_sunrise_the_one_neighbour_counts_whole():
    clearness = np.full(24, 0.5)
    clearness[7] = 0.7
    _, dhi = split(clearness)
    day = (clearness * COSINE).sum() / COSINE.sum()
    elevation = np.degrees(np.arcsin(COSINE[6]))
    power = -5.38 + 6.63 * 0.5 + 0.006 * 6.5 - 0.007 * elevation + 1.75 * day + 1.31 * 0.7
    assert dhi[6] / (0.5 * ABOVE * COSINE[6]) == pytest.approx(1 / (1 + np.exp(power)), rel=1e-12)


def test_a_clear_hour_among_clouds_is_more_diffuse_than_among_clear_ones():
    lone, among = np.full(24, 0.2), np.full(24, 0.7)
    lone[12] = 0.7
    assert split(lone)[1][12] > split(among)[1][12]


@given(arrays(float, 24, elements=st.floats(0, 1.2)))
def test_the_split_closes_and_no_beam_exceeds_the_sun(clearness):
    dni, dhi = split(clearness)
    assert_allclose(dni * COSINE + dhi, clearness * ABOVE * COSINE, rtol=1e-12, atol=1e-9)
    assert ((dni >= 0) & (dni <= ABOVE + 1e-9) & (dhi >= -1e-9)).all()


def test_quarters_of_an_hour_with_even_light_split_as_the_hour_does():
    """Away from sunrise and sunset, where an hour holds only some quarters of light."""
    hourly = split(np.full(24, 0.6))
    quarter = (np.arange(96) + 0.5) / 4
    cosine = np.maximum(0, np.sin(np.radians(15 * (quarter - 6)))) * 0.9
    lit = (cosine > 0).astype(float)
    dhi = ridley(0.6 * ABOVE * cosine, cosine, np.full(96, ABOVE), lit, quarter, 4)[1]
    per_hour = dhi.reshape(24, 4).mean(axis=1)
    assert_allclose(per_hour[8:16], hourly[1][8:16], rtol=0.01)


def test_half_a_day_is_refused():
    with pytest.raises(ValueError, match="12 intervals are not whole days of 24"):
        ridley(*(np.zeros(12),) * 5)


@pytest.mark.parametrize("longitude", [0.0, 11.31, -179.9, 170.0])
def test_solar_noon_is_when_the_sun_is_in_the_meridian(longitude):
    calendar = Calendar(2026, 10, round(longitude / 15) % 24 if longitude >= 0 else round(longitude / 15))
    sun = interval_sun(calendar, 0.0, longitude)
    time = solar_time(calendar, longitude)[sun.interval_index]
    highest = sun.zenith < np.quantile(sun.zenith, 0.01)
    assert np.abs(time[highest] - 12).max() < 1.0
    assert ((time >= 0) & (time < 24)).all()


def test_the_design_chooses_the_split_of_a_year_with_ghi_alone(roof):
    whole = simulated_weather(43.62, 11.31, 412, 1)
    given_columns = {"ghi": whole.ghi, "temperature": whole.temperature}
    bare = fill_missing_columns(whole.calendar, Place(43.62, 11.31, 412), given_columns, title="GHI alone")
    parts = built_in_parts()
    document = roof.model_dump(exclude_unset=True) | {"weather": {"digest": bare.digest}}
    chosen = document | {"weather": {"digest": bare.digest, "decomposition": "ridley"}}
    first, second = (simulate(type(roof).model_validate(d), bare, parts) for d in (document, chosen))
    assert first.weather is bare
    assert_allclose(second.weather.dni, split_by_course(bare).dni)
    assert second.annual.energy != first.annual.energy
    assert abs(second.annual.energy / first.annual.energy - 1) < 0.05


def test_a_measured_beam_is_never_split_again():
    whole = replace(simulated_weather(43.62, 11.31, 412, 1), given=("ghi", "dni", "temperature"))
    assert_array_equal(split_by_course(whole).dni, whole.dni)
