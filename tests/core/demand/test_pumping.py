"""A pump by the sun alone: hydraulics by hand, a tank by hand, and the water that is missing."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.calendar import Calendar
from noontide.core.demand import hourly
from noontide.core.demand.pumping import DirectPump, flow_of
from noontide.core.demand.sources import Pump, Source
from tests.conftest import simulated_weather

WEATHER = simulated_weather(43.62, 11.31, 412, 1)


def test_a_kilowatt_at_half_efficiency_lifts_six_cubic_metres_an_hour_thirty_metres():
    assert flow_of(1.0, 30.0, 0.0, 0.5) == pytest.approx(3.6e6 * 0.5 / (1000 * 9.80665 * 30))
    # With 2 m of friction at 5 m3/h: 32 m at 5 m3/h.
    power = 1000 * 9.80665 * 32 * 5 / 3.6e6 / 0.5
    assert flow_of(power, 30.0, 2 / 25, 0.5) == pytest.approx(5.0, rel=1e-12)
    assert flow_of([0.0, 1.0], 0.0, 0.0, 0.5).tolist() == [0.0, np.inf]


@given(st.floats(0, 1e3), st.floats(0, 500), st.floats(1e-4, 10), st.floats(0.05, 0.95))
def test_the_flow_takes_its_power(power, head, friction, efficiency):
    flow = float(flow_of(power, head, friction, efficiency))
    assert 1000 * 9.80665 * flow * (head + friction * flow**2) / 3.6e6 / efficiency == pytest.approx(power, rel=1e-9, abs=1e-12)


def test_a_tank_of_a_day_by_hand():
    """6 m3 of tank, 1 m3 drawn an hour; 5 m3/h can be lifted in three hours of sun of eight."""
    sun = np.array([0.0, 1, 1, 1, 0, 0, 0, 0])
    pump = DirectPump(
        1.0,
        np.ones(8),
        np.ones(8),
        np.full(8, 6.0),
        1000 * 3.6 * 0.5 / (9.80665 * 5),
        0.0,
        0.5,
        0.2,
        1.0,
        np.zeros(8, dtype=np.int64),
    )
    taken, lifted, served = pump.run(sun)
    # The evening leaves 2, of which the first hour draws 1; then 5 are lifted and 1 drawn, 2 fill the tank, and 1 keeps it full.
    assert lifted == pytest.approx([0, 5, 2, 1, 0, 0, 0, 0]) and served == pytest.approx([1, 1, 1, 1, 1, 1, 1, 1])
    assert taken == pytest.approx([0, 1, 0.4, 0.2, 0, 0, 0, 0])
    none = DirectPump(1.0, np.ones(8), np.ones(8), np.zeros(8), pump.head, 0.0, 0.5, 0.2, 1.0, np.zeros(8, dtype=np.int64))
    assert none.run(sun)[2] == pytest.approx([0, 1, 1, 1, 0, 0, 0, 0]) and none.place(sun)[1] == pytest.approx(5 * 0.2)


def test_it_takes_the_sun_alone_and_says_what_is_missing():
    calendar = Calendar(2026, 60, 1)
    sources = {"well": Source(name="Well", pump=Pump(volume=20, head=40, pipe=3, power=2, timing="by the sun alone", tank=2))}
    found = hourly(sources, calendar, WEATHER)
    assert found.total.sum() == 0 and found.unserved["well"] == pytest.approx(365 * sources["well"].pump.energy(0))
    produced = np.maximum(0, 3 * np.sin((np.arange(8760) % 24 - 6) / 12 * np.pi))
    placed = found.placed(produced, None, 1.0)
    assert (placed.total <= produced + 1e-12).all() and placed.total.max() <= 2 and placed.total[:7].sum() == 0
    assert "well" not in placed.unserved
    # Less than the energy at the rated flow: friction falls with the flow.
    assert 0 < placed.total.sum() < 365 * sources["well"].pump.energy(0)
    weak = found.placed(produced * 0.2, None, 1.0)
    assert "m³ a year cannot be lifted" in weak.notes["well"][0] and "well" not in placed.notes
    assert 0 < weak.unserved["well"] < found.unserved["well"]
    two = hourly({"well": sources["well"].model_copy(update={"factor": 2.0})}, calendar, WEATHER).placed(2 * produced, None, 1.0)
    assert two.total == pytest.approx(2 * placed.total)


def test_a_vehicle_by_the_sun_alone_takes_nothing_else():
    calendar = Calendar(2026, 60, 1)
    car = Source(name="Car", vehicle={"timing": "by the sun alone", "arrival": 8, "leaving": 18})
    found = hourly({"car": car}, calendar, WEATHER)
    assert found.placed(np.zeros(8760), None, 1.0).total.sum() == 0
    sun = np.maximum(0, 4 * np.sin((np.arange(8760) % 24 - 6) / 12 * np.pi))
    assert (found.placed(sun, None, 1.0).total <= sun + 1e-12).all()
