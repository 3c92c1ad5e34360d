"""Verbs on tariff and demand: every hour keeps one price, nothing but what was asked for changes."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.calendar import Calendar
from noontide.core.design import Design, merge_patch
from noontide.core.hours import read_hours
from noontide.core.money import Tariff, bill
from noontide.core.verbs.catalogue import VERBS, ImpossibleAct, applied
from noontide.tariffs import built_in_tariffs
from tests.conftest import SOUTH_ROOF

TARIFFS = {key: one.model_dump(mode="json", exclude_unset=True) for key, one in built_in_tariffs().items()}


def design(**parts):
    return Design.read(SOUTH_ROOF | parts)


def after(before, verb, arguments):
    patch, words = applied(before, verb, arguments)
    assert words
    return Design.read(merge_patch(before.as_kept(), patch))


@pytest.mark.parametrize("other", TARIFFS)
@pytest.mark.parametrize("first", ["cottage-flat", "dairy-demand", "village-tiers"])
def test_a_tariff_is_taken_whole(first, other):
    before = design(money={"tariff": TARIFFS[first]})
    changed = after(before, "take-tariff", {"tariff": TARIFFS[other]})
    assert changed.money.tariff == Tariff.model_validate(TARIFFS[other])
    gone = after(changed, "take-tariff", {"tariff": None})
    assert gone.money.tariff is None


def test_a_tariff_brings_its_currency_and_one_of_two_currencies_is_refused():
    swiss = TARIFFS["cottage-flat"] | {"currency": "CHF"}
    changed = after(design(), "take-tariff", {"tariff": swiss})
    assert changed.money.currency == "CHF"
    patch, _ = applied(changed, "take-tariff", {"tariff": TARIFFS["cottage-flat"], "which": "tariff_before"})
    with pytest.raises(ValueError, match="is in EUR and the design in CHF"):
        Design.read(merge_patch(changed.as_kept(), patch))


def price_at(season, kind, minute):
    return next(key for key, text in season.on(kind).items() for a, b in read_hours(text) if a <= minute < b)


KINDS = ("weekday", "saturday", "sunday", "holiday")


@given(
    st.lists(
        st.tuples(st.sets(st.sampled_from(KINDS), min_size=1), st.integers(0, 47), st.integers(1, 48), st.sampled_from(["night", "day", "evening"])),
        min_size=1, max_size=5,
    )
)  # fmt: skip
def test_painting_gives_just_the_painted_hours_their_price(strokes):
    now = design(money={"tariff": TARIFFS["cottage-two-rates"]})
    season = now.money.tariff.energy.seasons["winter"]
    wanted = {(kind, slot): price_at(season, kind, slot * 30) for kind in KINDS for slot in range(48)}
    for days, start, length, period in strokes:
        end = min(48, start + length)
        now = after(
            now, "paint-week", {"season": "winter", "days": sorted(days), "start": start * 30, "end": end * 30, "period": period}
        )
        wanted |= {(kind, slot): period for kind in days for slot in range(start, end)}
    season = now.money.tariff.energy.seasons["winter"]
    assert {(kind, slot): price_at(season, kind, slot * 30) for kind in KINDS for slot in range(48)} == wanted
    assert (
        now.money.tariff.energy.seasons["summer"]
        == design(money={"tariff": TARIFFS["cottage-two-rates"]}).money.tariff.energy.seasons["summer"]
    )


def test_one_price_becomes_a_week_that_costs_the_same():
    flat = design(money={"tariff": {"energy": {"price": 0.31}}})
    week = after(flat, "paint-week", {"season": "year", "days": ["weekday"], "start": 0, "end": 60, "period": "standard"})
    energy = week.money.tariff.energy
    assert energy.price is None and energy.periods["standard"].price == 0.31
    assert energy.seasons["year"].on("holiday") == {"standard": "0-24"}


def test_months_become_a_season_and_every_month_has_one():
    before = design(money={"tariff": TARIFFS["cottage-two-rates"]})
    changed = after(before, "divide-year", {"months": [6, 7, 8], "name": "high summer"})
    seasons = changed.money.tariff.energy.seasons
    assert sorted(m for s in seasons.values() for m in s.months) == list(range(1, 13))
    new = next(s for s in seasons.values() if s.name == "high summer")
    assert new.months == (6, 7, 8) and new.weekday == seasons["summer"].weekday


@pytest.mark.parametrize(
    ("verb", "arguments", "money", "words"),
    [
        ("paint-week", {"season": "year", "days": ["weekday"], "start": 0, "end": 60, "period": "x"}, {}, "no tariff yet"),
        ("paint-week", {"season": "nowhere", "days": ["weekday"], "start": 0, "end": 60, "period": "day"}, {"tariff": TARIFFS["cottage-two-rates"]}, "no season"),
        ("paint-week", {"season": "winter", "days": ["weekday"], "start": 0, "end": 60, "period": "noon"}, {"tariff": TARIFFS["cottage-two-rates"]}, "no period"),
        ("paint-week", {"season": "winter", "days": ["weekday"], "start": 90, "end": 60, "period": "day"}, {"tariff": TARIFFS["cottage-two-rates"]}, "must end after"),
        ("paint-week", {"season": "year", "days": ["weekday"], "start": 0, "end": 60, "period": "x"}, {"tariff": TARIFFS["village-tiers"]}, "no week to paint"),
        ("paint-week", {"side": "export", "season": "year", "days": ["weekday"], "start": 0, "end": 60, "period": "x"}, {"tariff": {"energy": {"price": 0.1}}}, "pays nothing"),
        ("divide-year", {"months": [4, 5, 6, 7, 8, 9]}, {"tariff": TARIFFS["cottage-two-rates"]}, "a season already"),
        ("divide-year", {"months": [13]}, {"tariff": TARIFFS["cottage-two-rates"]}, "1 to 12"),
        ("take-prices", {"text": "0.2"}, {}, "no tariff yet"),
        ("take-prices", {"text": "0.2\n0.3"}, {"tariff": {"energy": {"price": 0.1}}}, "There are 2 prices"),
        ("set-tiers", {}, {"tariff": TARIFFS["cottage-two-rates"]}, "Only a tariff of one price"),
        ("add-term", {"term": "fixed"}, {}, "no tariff yet"),
        ("add-term", {"term": "export"}, {"tariff": {"energy": {"price": 0.1}, "net_metering": {}}}, "metered net"),
        ("take-rows", {"text": ""}, {}, "no rows"),
        ("take-rows", {"source": "nobody", "text": "a,1,5,0-24"}, {}, "no list of appliances"),
    ],
)  # fmt: skip
def test_what_cannot_be_done_is_refused_in_words(verb, arguments, money, words):
    with pytest.raises(ImpossibleAct, match=words):
        applied(design(money=money), verb, arguments)


def test_pasted_prices_take_the_place_of_periods_and_nothing_else_changes():
    before = design(money={"tariff": TARIFFS["dairy-demand"]})
    text = "\n".join(f"{hour}:00;{0.1 + hour / 100:.2f}" for hour in range(24))
    changed = after(before, "take-prices", {"text": text})
    assert changed.money.tariff.energy.table == tuple(round(0.1 + hour / 100, 2) for hour in range(24))
    assert changed.money.tariff.demand == before.money.tariff.demand and changed.money.tariff.export == before.money.tariff.export
    sold = after(changed, "take-prices", {"side": "export", "text": text, "per": "MWh"})
    assert sold.money.tariff.export.table[5] == pytest.approx(0.15 / 1000)


def test_one_price_is_divided_into_tiers_that_cost_the_same_until_one_is_changed():
    flat = design(money={"tariff": TARIFFS["cottage-flat"]})
    tiers = after(flat, "set-tiers", {})
    calendar = Calendar()
    taken, sent = np.full(calendar.intervals, 0.7), np.full(calendar.intervals, 0.1)
    first, second = (bill(one.money.tariff, taken, sent, calendar) for one in (flat, tiers))
    assert second.total == pytest.approx(first.total, abs=0.13)  # to the cent of each line
    low, high = ({"up_to": t.up_to, "price": t.price} for t in tiers.money.tariff.energy.tiers)
    dearer = after(tiers, "set-tiers", {"tiers": [low, {"price": high["price"] + 1}]})
    over = sum(taken.sum() * days * 24 / 8760 - low["up_to"] for days in (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31))
    share = 1 + sum(tax.share for tax in flat.money.tariff.taxes.values()) / 100
    assert bill(dearer.money.tariff, taken, sent, calendar).total - second.total == pytest.approx(over * share, abs=0.3)
    three = after(dearer, "set-tiers", {"tiers": [low, {"price": 1}], "divide_last": True}).money.tariff.energy.tiers
    assert [t.price for t in three] == [low["price"], 1, 1] and low["up_to"] < three[1].up_to and three[2].up_to is None
    with pytest.raises(ValueError, match="must rise"):
        after(tiers, "set-tiers", {"tiers": [{"up_to": 300, "price": 1}, {"up_to": 200, "price": 1}, {"price": 1}]})


@pytest.mark.parametrize("term", ["demand", "fixed", "taxes"])
def test_terms_are_added_beside_those_that_are_there(term):
    now = design(money={"tariff": TARIFFS["dairy-demand"]})
    had = getattr(now.money.tariff, term)
    for number in (1, 2):
        now = after(now, "add-term", {"term": term})
        terms = getattr(now.money.tariff, term)
        assert len(terms) == len(had) + number and had.items() <= terms.items()


def test_exported_energy_gets_one_price():
    now = after(design(money={"tariff": {"energy": {"price": 0.3}}}), "add-term", {"term": "export"})
    assert now.money.tariff.export.price > 0
    with pytest.raises(ImpossibleAct, match="has its price already"):
        applied(now, "add-term", {"term": "export"})


def test_sources_are_added_under_fresh_ids_and_names():
    now = design()
    for _ in range(3):
        now = after(now, "add-source", {"source": {"vehicle": {}}})
    assert [(key, s.name) for key, s in now.demand.sources.items()] == [
        ("vehicle-1", "Vehicle"), ("vehicle-2", "Vehicle 2"), ("vehicle-3", "Vehicle 3"),
    ]  # fmt: skip


def test_rows_are_added_to_a_list_or_take_its_place():
    now = after(design(), "take-rows", {"text": "Name\tPower\nLamp\t10\nRadio\t5"})
    (key,) = now.demand.sources
    more = after(now, "take-rows", {"source": key, "text": "Saw,1,1500,7-12"})
    assert [a.name for a in more.demand.sources[key].appliances.items.values()] == ["Lamp", "Radio", "Saw"]
    other = after(more, "take-rows", {"source": key, "text": "Name\tPower\tDuty\nPump\t900\t0.5", "replaces": True})
    (pump,) = other.demand.sources[key].appliances.items.values()
    assert (pump.name, pump.power, pump.number, pump.hours) == ("Pump", 900, 1, "0-24")


def test_every_verb_has_a_title_and_a_schema():
    for verb in VERBS.values():
        assert verb.title and verb.arguments.model_json_schema()["properties"]
