"""Bills against hand calculations to the cent, in every form of tariff and at every step."""

from decimal import ROUND_HALF_UP, Decimal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from noontide.core.calendar import Calendar
from noontide.core.civil_time import civil_time
from noontide.core.hours import read_hours, share_of
from noontide.core.money import Tariff, bill
from noontide.core.money.bill_blocks import cents
from noontide.core.money.billing import bills, prices_of
from noontide.tariffs import built_in_tariffs

DAYS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
WEEK = {
    "periods": {"day": {"price": 0.30}, "night": {"price": 0.18}, "rest": {"price": 0.22}},
    "seasons": {"year": {"weekday": {"day": "7-22", "night": "0-7 22-24"}, "saturday": {"rest": "0-24"}}},
}


def tariff(**values) -> Tariff:
    return Tariff.model_validate({"energy": {"price": 0.25}} | values)


def constant(calendar, power):
    return np.full(calendar.intervals, power * calendar.hours_per_interval)


@pytest.fixture(params=[60, 30, 15, 1], ids=lambda step: f"{step} min")
def calendar(request):
    return Calendar(2026, request.param)  # 2026 begins on a Thursday


def test_one_price(calendar):
    found = bill(
        tariff(export={"price": 0.08}, fixed={"line": {"amount": 9.5}}),
        constant(calendar, 1.0),
        constant(calendar, 0.5),
        calendar,
    )
    january = [(line.kind, line.amount) for line in found.lines if line.month == 0]
    assert january == [("energy", 186.00), ("export", -29.76), ("fixed", 9.50)]
    assert found.total == pytest.approx(sum(cents_of(24 * d * 0.25) - cents_of(12 * d * 0.08) + 9.5 for d in DAYS), abs=1e-9)
    assert sum(found.by_month) == pytest.approx(found.total, abs=1e-9)


def cents_of(amount):
    return np.floor(amount * 100 + 0.5 + 1e-7) / 100


def test_a_week_of_prices(calendar):
    """January 2026: 22 weekdays, 9 days of weekends."""
    found = bill(tariff(energy=WEEK), constant(calendar, 2.0), constant(calendar, 0), calendar)
    lines = {line.key: (line.quantity, line.amount) for line in found.lines if line.month == 0}
    assert lines == {
        "day": (pytest.approx(22 * 15 * 2), 198.00), "night": (pytest.approx(22 * 9 * 2), 71.28), "rest": (pytest.approx(9 * 24 * 2), 95.04),
    }  # fmt: skip
    with_holiday = bill(
        tariff(energy=WEEK, holidays=["01-01", "2026-01-06", "2025-01-07"]),
        constant(calendar, 2.0),
        constant(calendar, 0),
        calendar,
    )
    assert {line.key: line.quantity for line in with_holiday.lines if line.month == 0}["rest"] == pytest.approx(11 * 24 * 2)


@pytest.mark.parametrize("step", [60, 30, 15])
def test_a_border_within_an_interval_is_shared_by_its_minutes(step):
    calendar = Calendar(2026, step)
    energy = {
        "periods": {"a": {"price": 1.0}, "b": {"price": 0.0}},
        "seasons": {"year": {"weekday": {"a": "6:30-8:15", "b": "0-6:30 8:15-24"}}},
    }
    found = bill(tariff(energy=energy), constant(calendar, 1.0), constant(calendar, 0), calendar)
    assert [line.quantity for line in found.lines if line.key == "a"] == pytest.approx([1.75 * d for d in DAYS])


def test_hours_follow_daylight_saving_time_where_the_zone_has_it():
    """Rome: from 29 March to 25 October the civil clock is an hour ahead; the energy of one hour of the sun's clock moves to the next price."""
    calendar = Calendar(2026, 60, 1.0)
    energy = {
        "periods": {"a": {"price": 1.0}, "b": {"price": 0.1}},
        "seasons": {"year": {"weekday": {"a": "12-13", "b": "0-12 13-24"}}},
    }
    at_noon = np.where(np.arange(8760) % 24 == 11, 1.0, 0.0)  # 11 o'clock standard time
    for zone, counted in (("", [0] * 12), ("Europe/Rome", [0, 0, 3, 30, 31, 30, 31, 31, 30, 24, 0, 0])):
        found = bill(tariff(energy=energy), at_noon, np.zeros(8760), calendar, zone)
        assert [found_of(found, m, "a") for m in range(12)] == pytest.approx(counted)
        assert sum(line.quantity for line in found.lines) == pytest.approx(365)


def found_of(found, month, key):
    return sum(line.quantity for line in found.lines if (line.month, line.key) == (month, key))


def test_a_leap_year_has_its_day(calendar):
    leap = Calendar(2028, calendar.step)
    found = bill(
        tariff(fixed={"d": {"amount": 0.5, "per": "day"}, "y": {"amount": 100, "per": "year"}}),
        constant(leap, 1),
        constant(leap, 0),
        leap,
    )
    february = {(line.kind, line.key): line.amount for line in found.lines if line.month == 1}
    assert february == {("energy", ""): 29 * 24 * 0.25, ("fixed", "d"): 14.5, ("fixed", "y"): 8.34}
    assert found.total_of(kind="fixed") == pytest.approx(366 * 0.5 + 100)


def test_tiers_fill_one_after_another():
    calendar = Calendar(2026, 60)
    energy = {"tiers": [{"up_to": 200, "price": 0.10}, {"up_to": 500, "price": 0.20}, {"price": 0.35}]}
    found = bill(tariff(energy=energy), constant(calendar, 1.0), constant(calendar, 0), calendar)
    january = [(line.key, line.quantity, line.amount) for line in found.lines if line.month == 0]
    assert january == [("tier-1", 200, 20.0), ("tier-2", 300, 60.0), ("tier-3", pytest.approx(244), 85.4)]
    small = bill(tariff(energy=energy), constant(calendar, 0.1), constant(calendar, 0), calendar)
    assert [line.amount for line in small.lines if line.month == 0] == [7.44]


@pytest.mark.parametrize(("averaging", "peak"), [(15, 40.0), (30, 25.0), (60, 17.5)])
def test_a_demand_charge_takes_its_own_window(averaging, peak):
    """A quarter of an hour of 40 kW on 10 kW: a mean of 25 kW in half an hour, 17.5 kW in an hour."""
    calendar = Calendar(2026, 15)
    power = np.full(calendar.intervals, 10.0)
    start = (14 * 24 + 9) * 4  # 15 January, 9:00
    power[start] = 40.0
    found = bill(tariff(demand={"p": {"price": 8.0, "averaging": averaging}}), power / 4, np.zeros(calendar.intervals), calendar)
    peaks = [line for line in found.lines if line.kind == "demand"]
    assert [line.quantity for line in peaks] == pytest.approx([peak, *[10.0] * 11])
    assert peaks[0].amount == 8 * peak and peaks[0].interval == start


@pytest.mark.parametrize(("step", "peak"), [(5, 20.0), (10, 30.0), (60, 40.0)])
def test_a_window_of_15_minutes_at_any_step(step, peak):
    """40 kW over one interval that begins at a quarter to nine or nine, 10 kW else: 5 of 15 minutes, 10 of 15, or all of them."""
    calendar = Calendar(2026, step)
    power = np.full(calendar.intervals, 10.0)
    start = 9 * 60 // step
    power[start] = 40.0
    charged = bill(
        tariff(demand={"p": {"price": 1.0, "weekday": "8-20"}}),
        power * calendar.hours_per_interval,
        np.zeros(calendar.intervals),
        calendar,
    )
    first = next(line for line in charged.lines if line.kind == "demand")
    assert (first.quantity, first.interval) == (pytest.approx(peak), start)


def test_ratchet_hours_and_contracted_power():
    calendar = Calendar(2026, 60)
    energy = np.full(8760, 10.0)
    energy[24 * 5 + 3] = 90.0  # a night hour
    energy[24 * 5 + 12] = 50.0  # Tuesday, 6 January, noon
    plain = {"price": 5.0, "weekday": "8-20", "saturday": ""}
    peaks = lambda **more: [  # noqa: E731
        (line.month, line.quantity, line.amount)
        for line in bill(tariff(demand={"p": plain | more}), energy, np.zeros(8760), calendar).lines
        if line.kind == "demand"
    ]
    assert peaks()[:2] == [(0, 50.0, 250.0), (1, 10.0, 50.0)]
    assert peaks(ratchet=60)[:2] == [(0, 50.0, 250.0), (1, 30.0, 150.0)]
    assert peaks(ratchet=60, ratchet_months=1)[:3] == [(0, 50.0, 250.0), (1, 30.0, 150.0), (2, 10.0, 50.0)]
    assert peaks(months=[2, 3]) == [(1, 10.0, 50.0), (2, 10.0, 50.0)]
    assert peaks(contracted=30.0, excess_price=12.0)[:3] == [(0, 30.0, 150.0), (0, 20.0, 240.0), (1, 30.0, 150.0)]
    assert peaks(weekday="2-4", saturday="")[0] == (0, 90.0, 450.0)


def test_net_metering_carries_over_and_is_settled():
    calendar = Calendar(2026, 60)
    month = calendar.months
    imported, exported = np.where(month < 6, 0.0, 1.0), np.where(month < 6, 0.5, 0.0)
    net = tariff(energy={"price": 0.2}, net_metering={"settled_after": 12, "settlement": 0.05})
    found = bill(net, imported, exported, calendar)
    credit = 0.5 * 24 * sum(DAYS[:6])
    left = np.clip(np.cumsum([24 * d for d in DAYS[6:]]) - credit, 0, None)
    assert [line.quantity for line in found.lines if line.kind == "energy"] == pytest.approx([*[0] * 6, *np.diff([0, *left])])
    assert not [line for line in found.lines if line.kind == "settlement"]
    spring = bill(
        tariff(energy={"price": 0.2}, net_metering={"settled_after": 6, "settlement": 0.05}), imported, exported, calendar
    )
    (settled,) = [line for line in spring.lines if line.kind == "settlement"]
    assert (settled.month, settled.quantity, settled.amount) == (5, pytest.approx(credit), -cents_of(credit * 0.05))
    assert spring.total_of(kind="energy") == pytest.approx(sum(cents_of(24 * d * 0.2) for d in DAYS[6:]))


def test_taxes_stand_on_the_lines_that_they_name():
    calendar = Calendar(2026, 60)
    values = {"fixed": {"f": {"amount": 10}}, "demand": {"p": {"price": 3.0}}, "export": {"price": 0.1}}
    taxes = {"vat": {"name": "VAT", "share": 20}, "levy": {"share": 5, "of": ["energy"]}}
    found = bill(tariff(**values, taxes=taxes), constant(calendar, 1), constant(calendar, 1), calendar)
    january = {line.key or line.kind: line.amount for line in found.lines if line.month == 0}
    assert january == {"energy": 186.0, "export": -74.4, "p": 3.0, "f": 10.0, "vat": 39.8, "levy": 9.3}


def test_tables_of_prices():
    calendar = Calendar(2026, 30)
    energy = constant(calendar, 1.0)
    day = [0.1] * 12 + [0.3] * 12
    found = bill(tariff(energy={"table": day}), energy, constant(calendar, 0), calendar)
    assert found.by_month == pytest.approx([cents_of(d * (1.2 + 3.6)) for d in DAYS])
    by_month = [price for m in range(12) for price in [0.1 + 0.01 * m] * 24]
    found = bill(tariff(energy={"table": by_month}), energy, constant(calendar, 0), calendar)
    assert found.by_month[5] == pytest.approx(cents_of(720 * 0.15))
    hourly = np.linspace(0, 1, 8760)
    found = bill(tariff(energy={"table": hourly.tolist()}), energy, constant(calendar, 0), calendar)
    assert found.total == pytest.approx(hourly.sum(), abs=0.06)


@given(st.integers(0, 2**32 - 1), st.sampled_from([60, 30, 15]))
def test_any_bill_closes_and_the_same_energy_costs_the_same_at_any_step(seed, step):
    rng = np.random.default_rng(seed)
    calendar, hourly = Calendar(2026, step), rng.uniform(0, 5, 8760)
    one = tariff(
        energy=WEEK, export={"table": [0.05] * 24}, taxes={"vat": {"share": 19}}, fixed={"f": {"amount": 100, "per": "year"}}
    )
    per_hour = 60 // step
    found = bill(
        one, np.repeat(hourly, per_hour) / per_hour, np.repeat(hourly[::-1], per_hour) / per_hour, calendar, "Europe/Berlin"
    )
    whole = bill(one, hourly, hourly[::-1], Calendar(2026, 60), "Europe/Berlin")
    assert found.by_month == pytest.approx(whole.by_month, abs=0.0100001 * 6)
    assert found.total == pytest.approx(sum(line.amount for line in found.lines), abs=1e-6)
    assert sum(line.quantity for line in found.lines if line.kind == "energy") == pytest.approx(hourly.sum(), rel=1e-12)
    assert all(round(line.amount * 100) == pytest.approx(line.amount * 100, abs=1e-6) for line in found.lines)
    prices = prices_of(one.energy, calendar, "Europe/Berlin")
    assert set(np.round(np.unique(prices), 6)) == {0.18, 0.22, 0.30}


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"energy": {"periods": {"a": {"price": 1}}, "seasons": {"y": {"weekday": {"a": "0-6 7-24"}}}}}, "no price from 06:00 to 07:00"),
        ({"energy": {"periods": {"a": {"price": 1}, "b": {"price": 2}}, "seasons": {"y": {"weekday": {"a": "0-12", "b": "11-24"}}}}}, "two prices, 'a' and 'b', from 11:00 to 12:00"),
        ({"energy": {"periods": {"a": {"price": 1}}, "seasons": {"y": {"weekday": {"a": "0-25"}}}}}, "outside the day"),
        ({"energy": {"periods": {"a": {"price": 1}}, "seasons": {"y": {"weekday": {"b": "0-24"}}}}}, "no period 'b'"),
        ({"energy": {"periods": {"a": {"price": 1}}, "seasons": {"y": {"months": [1, 2], "weekday": {"a": "0-24"}}}}}, "March is in no season"),
        ({"energy": {"price": 1, "tiers": [{"price": 2}]}}, "there are price and tiers"),
        ({"energy": {}}, "there is none"),
        ({"energy": {"tiers": [{"up_to": 5, "price": 1}, {"up_to": 4, "price": 1}, {"price": 1}]}}, "must rise"),
        ({"energy": {"tiers": [{"up_to": 5, "price": 1}]}}, "last tier has no end"),
        ({"energy": {"table": [1.0] * 23}}, "there are 23"),
        ({"holidays": ["13-01"]}, "'13-01' is no day"),
        ({"export": {"price": 0.1}, "net_metering": {}}, "leave export out"),
        ({"demand": {"p": {"price": 1, "excess_price": 2}}}, "needs a contracted power"),
        ({"demand": {"p": {"price": 1, "weekday": "8-8"}}}, "begins and ends at once"),
        ({"energy": {"price": float("nan")}}, "finite"),
    ],
)  # fmt: skip
def test_a_tariff_with_a_fault_is_refused_with_its_place(values, words):
    with pytest.raises(ValidationError, match=words):
        tariff(**values)


def test_energies_that_are_none_are_named():
    calendar = Calendar(2026, 60)
    good = np.zeros(8760)
    for wrong, words in (
        (np.zeros(8759), "8,760 intervals are needed"),
        (np.where(np.arange(8760) == 7, -1.0, 0), "interval 7 has -1"),
        (np.where(np.arange(8760) == 9, np.nan, 0), "interval 9 has nan"),
    ):
        with pytest.raises(ValueError, match=words):
            bill(tariff(), wrong, good, calendar)


@given(st.lists(st.tuples(st.integers(0, 23), st.integers(1, 24)), max_size=4), st.sampled_from([1, 15, 60]))
def test_hours_cover_what_they_say(spans, step):
    spans = [(a, b) for a, b in spans if a != b % 24 and a != b]
    ranges = read_hours(", ".join(f"{a}-{b}" for a, b in spans))
    minute = np.arange(0, 1440, step)
    inside = np.zeros(1440, dtype=bool)
    for a, b in spans:
        hours = range(a, b) if a < b else [*range(a, 24), *range(b)]
        for hour in hours:
            inside[hour * 60 : hour * 60 + 60] = True
    assert share_of(ranges, minute, step) == pytest.approx(inside.reshape(-1, step).mean(axis=1))


def test_the_civil_clock_has_every_weekday():
    time = civil_time(Calendar(2026, 60), holidays=["12-25"])
    days = time.kind[::24]
    assert (days[0], days[2], days[3], days[358]) == (0, 1, 2, 3)  # Thursday, Saturday, Sunday, Christmas
    assert np.bincount(days).tolist() == [260, 52, 52, 1]


def test_bills_of_several_years_are_those_of_each_by_itself():
    """Whatever the tariff, whichever years stand beside it."""
    chance, calendar = np.random.default_rng(5), Calendar(2026, 30)
    years = [
        scale * chance.uniform(0, 3, (2, calendar.intervals)) * (chance.random(calendar.intervals) > 0.4) for scale in (0, 1, 900)
    ]
    stepped = tariff(
        energy={"tiers": [{"up_to": 100, "price": 0.2}, {"price": 0.31}]}, net_metering={"settled_after": 3, "settlement": 0.05},
        taxes={"vat": {"share": 7.3, "of": ["energy", "fixed"]}}, fixed={"line": {"amount": 100, "per": "year"}},
        demand={"power": {"price": 4, "weekday": "8-20", "averaging": 15, "contracted": 4.0}},
    )  # fmt: skip
    for one in (*built_in_tariffs().values(), stepped):
        together = bills(one, [taken for taken, _ in years], [given for _, given in years], calendar, "Europe/Rome")
        alone = [bill(one, taken, given, calendar, "Europe/Rome") for taken, given in years]
        assert [found.lines for found in together] == [found.lines for found in alone]
        assert [found.total for found in together] == [found.total for found in alone]


@given(st.floats(-2e5, 2e5))
def test_cents_round_a_half_away_from_zero_however_large(amount):
    expected = Decimal(repr(round(amount, 9))).quantize(Decimal("0.01"), ROUND_HALF_UP)
    assert cents(np.array([amount, -amount])).tolist() == [float(expected) + 0.0, -float(expected) + 0.0]
