"""Demand by hand and by its laws: sources sum to the total, energies are kept, nothing is served twice."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from noontide.core.calendar import Calendar
from noontide.core.demand import appliance_totals, hourly, read_sources
from noontide.core.demand.shapes import SHAPES
from noontide.core.demand.sources import Appliances
from tests.conftest import simulated_weather

DAYS = np.array([31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31])
WEATHER = {step: simulated_weather(43.62, 11.31, 400, 1.0, step) for step in (60, 15)}
LAMP = {"power": 10, "number": 6, "hours": "18-23"}


def demand(weather=WEATHER[60], **sources):
    return hourly(read_sources({"sources": sources}), weather.calendar, weather)


def energy(power, weather=WEATHER[60]):
    return float(power.sum()) * weather.calendar.hours_per_interval


@pytest.mark.parametrize("step", [60, 15])
def test_appliances_by_hand(step):
    """Six lamps of 10 W from 18 to 23: 0.3 kWh a day; a pump of 500 W, two hours within six, on weekdays of June."""
    pump = {"power": 500, "hours": "9-15", "hours_a_day": 2, "days": "weekdays", "months": [6], "efficiency": 0.8}
    found = demand(
        WEATHER[step],
        home={"appliances": {"items": {"lamp": LAMP, "pump": pump}, "margin": 20}},
        twice={"appliances": {"items": {"lamp": LAMP}}, "factor": 2},
    )
    june = 22 * 2 * 0.5 / 0.8  # June 2026 has 22 weekdays
    assert energy(found.by_source["home"], WEATHER[step]) == pytest.approx(365 * 0.3 + june)
    assert found.by_source["home/margin"] == pytest.approx(0.2 * found.by_source["home"])
    assert energy(found.by_source["twice"], WEATHER[step]) == pytest.approx(2 * 365 * 0.3)
    assert found.total == pytest.approx(sum(found.by_source.values()), rel=1e-12)
    noon = found.by_source["home"].reshape(365, -1)[:, :: 60 // step][:, 19]
    assert noon == pytest.approx(0.06)


def test_a_list_of_appliances_at_once():
    items = {
        "lamps": LAMP,
        "fridge": {"power": 80, "duty": 0.4, "current": "DC", "surge": 4},
        "kettle": {"power": 2000, "hours": "7-8", "hours_a_day": 0.25, "surge": 1},
    }
    totals = appliance_totals(Appliances.model_validate({"items": items, "margin": 25}))
    assert totals.connected == pytest.approx(1.25 * 2140)
    assert totals.peak == pytest.approx(1.25 * 2080), "the kettle and the fridge; lamps are off then"
    assert totals.surge == pytest.approx(1.25 * (2080 + 240))
    assert totals.energy_a_day == pytest.approx([1.25 * (0.3 + 0.768 + 0.5)] * 12)
    assert (totals.energy_ac, totals.energy_dc) == pytest.approx((1.25 * 0.8, 1.25 * 0.768))
    assert totals.charge_a_day(24) == pytest.approx(1.25 * 1568 / 24)
    with pytest.raises(ValueError, match="above 0 V"):
        totals.charge_a_day(0)
    assert appliance_totals(Appliances()).peak == 0


@pytest.mark.parametrize("shape", SHAPES)
def test_use_by_area_meets_its_energy_and_follows_the_half_of_the_globe(shape):
    one = {"per_area": {"use": 60, "area": 120, "shape": shape}}
    north = demand(home=one).by_source["home"]
    assert energy(north) == pytest.approx(7200)
    south = replace(WEATHER[60], place=replace(WEATHER[60].place, latitude=-43.0))
    months = [
        np.bincount(WEATHER[60].calendar.months, weights=p, minlength=12) / DAYS
        for p in (north, demand(south, home=one).by_source["home"])
    ]
    if shape == "household":
        assert months[0][0] > 1.3 * months[0][6] and months[1][6] > 1.3 * months[1][0]


def test_months_of_a_bill_are_kept_and_others_follow_the_weather():
    cold = np.clip(15 - WEATHER[60].temperature, 0, None)
    degree_days = np.bincount(WEATHER[60].calendar.months, weights=cold, minlength=12) / 24
    true = 5.0 * DAYS + 0.8 * degree_days
    given = [float(v) if m not in (1, 6, 11) else None for m, v in enumerate(true)]
    found = demand(home={"monthly": {"energies": given, "shape": "office"}})
    sums = np.bincount(WEATHER[60].calendar.months, weights=found.by_source["home"], minlength=12)
    assert sums == pytest.approx(true, rel=1e-6)
    assert "February, July, December: by days and degree days" in found.notes["home"][0]
    whole = demand(home={"monthly": {"energies": true.tolist()}})
    assert np.bincount(WEATHER[60].calendar.months, weights=whole.by_source["home"], minlength=12) == pytest.approx(
        true, rel=1e-9
    )
    assert whole.notes == {}
    one = demand(home={"monthly": {"energies": [300.0, *[None] * 11]}})
    assert "fewer than 3 months" in one.notes["home"][0] and energy(one.by_source["home"]) > 300


def test_heating_by_hand():
    flat = replace(WEATHER[60], temperature=np.full(8760, -3.0))
    one = {"heating": {"heat_loss": 200, "base": 15, "cop": 3.0, "cop_slope": 0.05}}
    assert demand(flat, home=one).total == pytest.approx(0.2 * 18 / 2.5)
    one["heating"]["largest"] = 1.0
    found = demand(flat, home=one)
    assert found.total == pytest.approx(1.0) and found.unserved["home"] == pytest.approx(0.44 * 8760)
    warm = replace(flat, temperature=np.full(8760, 16.0))
    assert demand(warm, home=one).total.sum() == 0
    arctic = replace(flat, temperature=np.full(8760, -60.0))
    assert np.isfinite(demand(arctic, home={"heating": {"heat_loss": 200}}).total).all()


@pytest.mark.parametrize("step", [60, 15])
def test_hot_water_by_hand(step):
    """150 l by 40 K are 6.98 kWh a day, and 1.5 kWh of loss; an element of 2 kW takes longer than the water is drawn."""
    weather = WEATHER[step]
    found = demand(weather, water={"hot_water": {"litres": 150, "hours": "7-8"}})
    assert energy(found.total, weather) == pytest.approx(365 * (150 * 40 * 4.186 / 3600 + 1.5), rel=1e-6)
    assert found.total.max() <= 2.0 + 1e-9 and found.unserved == {}
    morning = found.total.reshape(365, -1).mean(axis=0).reshape(24, -1).mean(axis=1)
    assert morning[7:10] == pytest.approx(2.0, abs=0.01) and morning[3] == pytest.approx(1.5 / 24, rel=1e-3)
    small = demand(weather, water={"hot_water": {"litres": 2000, "hours": "7-8", "power": 1}})
    assert small.unserved["water"] == pytest.approx(365 * (2000 * 40 * 4.186 / 3600 + 1.5 - 24), rel=1e-6)


def test_a_vehicle_is_charged_when_it_is_at_home():
    """40 km a weekday at 18 kWh a hundred: 7.2 kWh, two hours at 3.7 kW from 18 o'clock on."""
    found = demand(car={"vehicle": {"weekday_km": 40}}).total
    assert energy(found) == pytest.approx(261 * 7.2)
    thursday = found[:24]
    assert thursday[18:20] == pytest.approx([3.7, 3.5]) and thursday[:18].sum() == 0
    assert found[24 * 2 : 24 * 4].sum() == 0, "it stands on the weekend"
    lorry = demand(car={"vehicle": {"weekday_km": 2000, "weekend_km": 2000, "arrival": 18, "leaving": 20}})
    assert energy(lorry.total) == pytest.approx(365 * 2 * 3.7)
    assert lorry.unserved["car"] == pytest.approx(365 * (360 - 7.4))


sources = st.dictionaries(
    st.sampled_from(["a", "b", "c", "d"]),
    st.one_of(
        st.builds(
            lambda p, n: {"appliances": {"items": {"x": {"power": p, "number": n, "hours": "22-6"}}, "margin": 10}},
            st.floats(0, 1e5),
            st.floats(0, 50),
        ),
        st.builds(
            lambda u, s: {"per_area": {"use": u, "area": 100, "shape": s}}, st.floats(0, 500), st.sampled_from(list(SHAPES))
        ),
        st.builds(lambda k, c: {"vehicle": {"weekday_km": k, "charger": c}}, st.floats(0, 500), st.floats(0.5, 50)),
        st.builds(lambda litres: {"hot_water": {"litres": litres}, "factor": 3}, st.floats(0, 5000)),
        st.builds(lambda loss: {"heating": {"heat_loss": loss}, "is_on": False}, st.floats(0, 1e4)),
    ),
    max_size=4,
)


@given(sources)
def test_sources_sum_to_the_total_and_are_never_negative(some):
    found = demand(**some)
    assert found.total == pytest.approx(sum(found.by_source.values()), abs=1e-9)
    assert all((power >= 0).all() and np.isfinite(power).all() for power in found.by_source.values())
    assert {key.split("/")[0] for key in found.by_source} - {""} == {key for key, one in some.items() if one.get("is_on", True)}
    for key, one in some.items():
        alone = demand(**{key: one})
        assert np.array_equal(
            alone.total, sum(p for name, p in found.by_source.items() if name.split("/")[0] == key) + np.zeros(8760)
        )


@pytest.mark.parametrize(
    ("source", "words"),
    [
        ({"appliances": {"items": {"x": {"power": 1e9}}}}, "less than or equal to 10000000"),
        ({"appliances": {"items": {"x": {"power": 1, "hours": "25-26"}}}}, "outside the day"),
        ({"appliances": {"items": {"x": {"power": 1, "hours": "8-10", "hours_a_day": 3}}}}, "3 hours a day do not fit into the 2 hours"),
        ({"per_area": {"use": -1, "area": 10}}, "greater than or equal to 0"),
        ({"monthly": {"energies": [1.0] * 13}}, "at most 12"),
        ({"monthly": {"energies": [None] * 12}}, "No month is known"),
        ({"hot_water": {"litres": 10, "hot": 20, "cold": 30}}, "not warmer"),
        ({"vehicle": {"weekday_km": 5, "arrival": 7.5}}, "leaves when it comes"),
        ({"per_area": {"use": 1, "area": 1}, "vehicle": {"weekday_km": 5}}, "there are per_area and vehicle"),
        ({}, "there is none"),
    ],
)  # fmt: skip
def test_a_source_with_a_fault_is_refused_with_its_place(source, words):
    with pytest.raises(ValidationError, match=words) as refused:
        read_sources({"sources": {"home": source}})
    assert refused.value.errors()[0]["loc"][:2] == ("sources", "home")


def test_another_calendar_is_refused():
    with pytest.raises(ValueError, match="60 min and the year 2026; 15 min and 2026"):
        hourly(read_sources({}), Calendar(2026, 15, 1.0), WEATHER[60])
    assert demand().total.sum() == 0


BILLS = {
    "a": {"first": "2025-11-18", "last": "2026-01-14", "energy": 900.0},
    "b": {"first": "01-15", "last": "03-20", "energy": 700.0},
    "c": {"first": "06-01", "last": "07-31", "money": 190.0},
}


def in_bill(first, last, power):
    """Energy between two days of 2026, both included [kWh]."""
    days = WEATHER[60].calendar.local_starts.astype("datetime64[D]").astype(str)
    within = [first <= day[5:] <= last if first <= last else day[5:] >= first or day[5:] <= last for day in days]
    return float(power[np.array(within)].sum())


def test_bills_between_readings_keep_their_energy_over_the_years_end_too():
    found = demand(home={"monthly": {"bills": BILLS, "price": 0.25, "standing": 0.5, "shape": "shop"}})
    power = found.by_source["home"]
    assert in_bill("11-18", "01-14", power) == pytest.approx(900, rel=1e-9)
    assert in_bill("01-15", "03-20", power) == pytest.approx(700, rel=1e-9)
    assert in_bill("06-01", "07-31", power) == pytest.approx((190 - 61 * 0.5) / 0.25, rel=1e-9)
    assert in_bill("03-21", "05-31", power) > 0
    assert "by days and degree days" in found.notes["home"][0] and "April" in found.notes["home"][0]


@pytest.mark.parametrize(
    ("monthly", "words"),
    [
        ({"bills": BILLS | {"d": {"first": "03-20", "last": "04-02", "energy": 5}}}, "'b' and 'd' both hold 20 March"),
        ({"bills": {"a": {"first": "02-30", "last": "04-02", "energy": 5}}}, "'02-30' is no day"),
        ({"bills": {"a": {"first": "02-03", "last": "04-02"}}}, "energy or its money"),
        ({"bills": {"a": {"first": "02-03", "last": "04-02", "energy": 4, "money": 5}}}, "energy or its money"),
        ({"energies": [1.0] * 13}, "at most 12 items"),
        ({"energies": [1.0] * 11}, "twelve months; there are 11"),
        ({"energies": [1.0] * 12, "bills": BILLS}, "by month or by bill"),
        ({}, "No month is known"),
    ],
)
def test_bills_that_cannot_be_are_refused_in_words(monthly, words):
    with pytest.raises(ValidationError, match=words):
        read_sources({"sources": {"home": {"monthly": monthly}}})


def test_energy_of_a_year_is_kept_in_its_shape():
    found = demand(home={"yearly": {"energy": 5000.0, "shape": "school"}})
    assert energy(found.by_source["home"]) == pytest.approx(5000, rel=1e-12)
