"""Loads that can wait: their energy is kept, their limits hold, and what the sun or the night gives is used first."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.calendar import Calendar
from noontide.core.demand import hourly, read_sources
from noontide.core.demand.deferrable import Deferrable
from tests.conftest import simulated_weather

DAY = Calendar(2026, 60, 0)
TIMINGS = ("at once", "cheapest hours", "by the sun")


def load(timing="at once", start=(0, 24), energy=(4.0, 4.0), limit=2.0, size=48):
    return Deferrable(timing, np.array(start), np.array(energy), np.full(size, limit))


@given(st.sampled_from(TIMINGS), st.lists(st.floats(0, 9), min_size=4, max_size=4), st.floats(0.1, 3), st.integers(0, 10**6))
def test_energy_is_kept_within_the_limit_whatever_the_timing(timing, energy, limit, seed):
    rng = np.random.default_rng(seed)
    one = load(timing, (3, 20, 31, 50), energy, limit, 72)
    taken, missed = one.place(rng.normal(0, 2, 72), rng.random(72))
    assert (taken >= 0).all() and (taken <= limit + 1e-12).all()
    assert taken.sum() + missed == pytest.approx(sum(energy), abs=1e-9)
    assert missed == 0 or taken.sum() == pytest.approx(72 * limit, rel=1e-9) or sum(energy) > 72 * limit - 1e-9


def test_at_once_fills_from_the_front():
    taken, _ = load().place()
    assert taken[:3].tolist() == [2, 2, 0] and taken[24:27].tolist() == [2, 2, 0]


def test_cheap_hours_come_first():
    prices = np.tile(np.r_[np.full(20, 0.3), np.full(4, 0.1)], 2)
    taken, _ = load("cheapest hours").place(prices=prices)
    assert taken[20:22].tolist() == [2, 2] and taken[:20].sum() == 0


def test_the_sun_comes_before_cheap_hours_and_gives_no_more_than_it_has():
    surplus = np.zeros(48)
    surplus[12] = 1.5
    prices = np.tile(np.r_[np.full(22, 0.3), np.full(2, 0.1)], 2)
    taken, _ = load("by the sun").place(surplus, prices)
    assert taken[12] == 1.5 and taken[22:24].tolist() == [2.0, 0.5]


def test_what_does_not_fit_goes_on_to_the_next_and_over_the_years_end():
    taken, missed = load(energy=(1.0, 60.0), limit=2.0).place()
    assert missed == 0 and taken.sum() == 61
    assert taken[:24].tolist() == [2.0] * 7 + [0.0] * 17 or taken[:24].sum() == pytest.approx(61 - 48)


SUNNY = {
    "sources": {
        "base": {"per_area": {"use": 20, "area": 100, "shape": "even"}},
        "car": {"vehicle": {"weekday_km": 60, "weekend_km": 60, "stays_on_weekends": True, "timing": "by the sun"}},
        "water": {"hot_water": {"timing": "by the sun"}},
        "pump": {"pump": {"timing": "by the sun"}},
    }
}


@pytest.fixture(scope="module")
def year():
    weather = simulated_weather(43.6, 11.3, 400, 1)
    return weather, hourly(read_sources(SUNNY), weather.calendar, weather)


def test_placing_moves_energy_and_loses_none(year):
    weather, used = year
    produced = weather.ghi / 100
    placed = used.placed(produced, None, 1.0)
    assert set(placed.by_source) == set(used.by_source)
    for key, power in used.by_source.items():
        assert placed.by_source[key].sum() == pytest.approx(power.sum(), rel=1e-9)
    direct = lambda one: np.minimum(produced, one.total).sum()  # noqa: E731
    assert direct(placed) > direct(used)  # that is what it waits for


def test_under_no_sun_nothing_moves_but_for_the_price(year):
    _, used = year
    placed = used.placed(np.zeros(8760), None, 1.0)
    assert placed.by_source["base"] is used.by_source["base"]
    assert placed.by_source["pump"] == pytest.approx(used.by_source["pump"])


def test_a_car_is_charged_only_while_it_is_at_home(year):
    weather, used = year
    placed = used.placed(weather.ghi / 100, None, 1.0)
    for power in (used.by_source["car"], placed.by_source["car"]):
        days = power.reshape(365, 24)
        weekday = (np.arange(365) + 3) % 7 < 5  # 2026 begins on a Thursday
        assert days[weekday][:, 8:18].sum() == 0
        assert days[weekday][:, 18:].sum() > 0
    # On days off it stands under the sun.
    assert placed.by_source["car"].reshape(365, 24)[~weekday][:, 9:17].sum() > 0


def test_a_pump_lifts_its_water_by_hand_calculation():
    weather = simulated_weather(0, 0)
    source = {"pump": {"volume": 36.0, "head": 50.0, "pipe": 0.0, "efficiency": 0.5, "power": 20.0, "hours": "8-17"}}
    used = hourly(read_sources({"sources": {"p": source}}), weather.calendar, weather)
    # 36 m3 x 1000 kg x 9.80665 x 50 m / 0.5 = 35.3 MJ = 9.80665 kWh a day
    assert used.total.sum() == pytest.approx(9.80665 * 365, rel=1e-9)
    assert used.total.reshape(365, 24)[:, 8].min() == pytest.approx(9.80665)


def test_cold_follows_the_heat_with_a_falling_efficiency():
    weather = simulated_weather(20, 0)
    source = {"cooling": {"heat_gain": 1000.0, "base": 22.0, "cop": 3.0, "cop_slope": 0.1}}
    power = hourly(read_sources({"sources": {"c": source}}), weather.calendar, weather).total
    hot = weather.temperature > 22
    assert (power[~hot] == 0).all()
    t = weather.temperature[hot]
    assert power[hot] == pytest.approx((t - 22) / np.maximum(3.0 - 0.1 * (t - 35), 1.0))
