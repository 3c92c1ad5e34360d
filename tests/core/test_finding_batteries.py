"""A battery of the library for a size: near enough, then cheap."""

import pytest

from noontide.core.electrical import Catalogue
from noontide.core.finding import battery_for
from noontide.core.money.terms import Money
from noontide.parts import built_in_parts

PARTS = built_in_parts()


def shelf(**changes) -> Catalogue:
    batteries = {key: sheet.model_copy(update=changes.get(key.replace("-", "_"), {})) for key, sheet in PARTS.batteries.items()}
    return PARTS.model_copy(update={"batteries": batteries})


@pytest.mark.parametrize(
    ("energy", "bank"),
    [
        pytest.param(10, {"model": "pellworth-10"}, id="that size, cheaper a kWh than two of half of it"),
        pytest.param(5.2, {"model": "pellworth-5"}, id="10 kWh would be twice as much"),
        pytest.param(40, {"model": "pellworth-10", "parallel": 4}, id="four of a kind cost less a kWh than one large one"),
        pytest.param(0.4, {"model": "pellworth-5"}, id="the smallest at the grid, where all are too large"),
        pytest.param(900, {"model": "tarnhelm-215", "parallel": 4}, id="large ones cost least"),
    ],
)
def test_near_enough_and_then_by_the_price_of_its_energy(energy, bank):
    found, words = battery_for(energy, PARTS, Money())
    assert found == bank
    assert PARTS.batteries[bank["model"]].name in words and words.startswith(f"{bank.get('parallel', 1)} × ")


def test_prices_are_compared_in_the_currency_of_the_design():
    # At three to one two of 5 kWh cost less than one of 10 kWh.
    parts = shelf(pellworth_10={"currency": "CHF"})
    assert battery_for(10, parts, Money(exchange={"CHF": 3.0}))[0] == {"model": "pellworth-5", "parallel": 2}
    assert battery_for(10, parts, Money(exchange={"CHF": 0.9}))[0] == {"model": "pellworth-10"}


def test_what_is_no_longer_sold_and_an_empty_shelf():
    old = {"year": 2010}
    parts = shelf(pellworth_10=old)
    assert battery_for(10, parts, Money())[0] == {"model": "pellworth-5", "parallel": 2}
    assert battery_for(7.25, Catalogue(), Money()) == ({"energy": 7.2}, "7.25 kWh")
