"""An array to a target: as few modules as reach it, on the places that receive most, in strings that no check objects to."""

import copy

import numpy as np
import pytest

from noontide.core.checks import find_checks
from noontide.core.costs.bill import materials_of
from noontide.core.design import Design, freeze, merge_patch
from noontide.core.figures.catalogue import FIGURE_OF
from noontide.core.simulation import Libraries
from noontide.core.verbs.catalogue import ImpossibleAct, applied
from noontide.core.verbs.targets import DesignTo, _Builder
from noontide.tariffs import built_in_tariffs
from tests.conftest import SOUTH_ROOF

HOUSE = {"length": 12, "width": 8, "gable": {"pitch": 35}}


@pytest.fixture(scope="module")
def libraries(hill_weather, parts):
    return Libraries(parts, hill_weather)


@pytest.fixture(scope="module")
def roof():
    return Design.read(copy.deepcopy(SOUTH_ROOF))


@pytest.fixture(scope="module")
def house(parts):
    """A use and a tariff, and a bare house: neither surface nor string."""
    tariff = next(iter(built_in_tariffs().values()))
    document = {
        "site": SOUTH_ROOF["site"],
        "scene": {"buildings": {"house": HOUSE}},
        "demand": {"sources": {"house": {"name": "House", "per_area": {"use": 60, "area": 150}}}},
        "money": {"tariff": tariff.model_dump(mode="json", exclude_unset=True), "currency": tariff.currency},
    }
    return Design.read(document)


def designed(design, libraries, **given):
    patch, words = applied(design, "design-to", given, libraries)
    made = Design.read(freeze(merge_patch(design.as_kept(), patch), libraries.parts))
    return made, libraries.year_of(made), words


@pytest.mark.parametrize(
    ("of", "amount", "figure"), [("energy", 9_000, "energy"), ("power", 7, "dc_power"), ("modules", 11, None)]
)
def test_a_target_is_reached_with_as_few_modules_as_do(roof, libraries, of, amount, figure):
    _, results, _ = designed(roof, libraries, of=of, amount=amount)
    if figure is None:
        assert results.annual.modules == amount
        return
    read = FIGURE_OF[figure].value
    assert read(results) >= amount
    builder = _Builder(roof, DesignTo(of=of, amount=amount), libraries)
    fewer = [number for number in range(1, results.annual.modules) if builder.figure(number, read) >= amount]
    assert not fewer, "as many as it took, and no number below them"


def test_nothing_about_the_strings_is_to_be_fixed(roof, libraries):
    _, results, _ = designed(roof, libraries, of="power", amount=15)
    assert not [check for check in find_checks(results) if check.severity == "error"]


def test_a_bare_house_is_filled_from_its_sunny_side_on(house, libraries):
    few, results, words = designed(house, libraries, of="modules", amount=8, module="veltrane-430")
    assert len(few.surfaces) == 1 and abs(next(iter(few.surfaces.values())).azimuth - 180) < 1
    assert results.annual.modules == 8 and "8 modules" in words
    every, all_results, words = designed(house, libraries, of="energy", amount=10**6, module="veltrane-430")
    assert len(every.surfaces) == 2 and "all places are filled" in words
    builder = _Builder(house, DesignTo(of="modules", amount=1, module="veltrane-430"), libraries)
    light = np.array([received for received, _ in builder.places])
    assert np.all(np.diff(light) <= 0.1) and all_results.annual.modules <= len(light)


def test_a_share_of_the_use_and_of_the_bill(house, libraries):
    _, results, _ = designed(house, libraries, of="use", amount=60, module="veltrane-430")
    used = FIGURE_OF["demand_energy"].value(results)
    assert 0.6 <= results.annual.energy / used < 0.75
    _, results, _ = designed(house, libraries, of="bill", amount=25, module="veltrane-430")
    assert 0.25 <= FIGURE_OF["bill_share"].value(results) < 0.4


def test_the_best_value_is_no_worse_than_any_size_looked_at(house, libraries):
    made, results, words = designed(house, libraries, of="value", module="veltrane-430", battery=True)
    worth = FIGURE_OF["net_present_value"].value
    builder = _Builder(house, DesignTo(of="value", module="veltrane-430"), libraries)
    bare = worth(builder.year(results.annual.modules))
    assert all(builder.figure(number, worth, -1e9) <= bare + 1e-6 for number in range(3, len(builder.places) + 1, 5))
    assert "Battery" in words and made.storage.bank is not None
    # One that can be bought: its datasheet comes with it, and its price is in the purchase.
    sheet = made.parts.batteries[made.storage.bank.model]
    assert f"{made.storage.bank.parallel} × {sheet.maker} {sheet.name}" in words
    assert any(
        line.kind == "battery" and line.price == sheet.price * made.storage.bank.parallel for line in materials_of(results).lines
    )


def test_what_stands_elsewhere_stays(roof, libraries):
    two = Design.read(
        merge_patch(roof.as_kept(), {"surfaces": {"shed": {"name": "Shed", "tilt": 10, "azimuth": 180, "area": 40}}})
    )
    made, _, _ = designed(two, libraries, of="modules", amount=8, faces=["shed"])
    assert {key: made.subarrays[key] for key in roof.subarrays} == roof.subarrays
    assert {one.surface for one in made.subarrays.values()} == {"barn", "shed"}


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"of": "energy"}, "above 0"),
        ({"of": "use", "amount": 50}, "no demand"),
        ({"of": "bill", "amount": 50}, "Money bench"),
        ({"of": "power", "amount": 5, "faces": ["attic"]}, "no face or surface 'attic'"),
    ],
)
def test_what_cannot_be_asked_is_said(roof, libraries, given, said):
    with pytest.raises(ImpossibleAct, match=said):
        applied(roof, "design-to", given, libraries)


def test_without_weather_and_without_a_roof(roof, parts, libraries):
    with pytest.raises(ImpossibleAct):
        applied(roof, "design-to", {"of": "power", "amount": 5}, Libraries(parts))
    empty = Design.read({"site": SOUTH_ROOF["site"]})
    with pytest.raises(ImpossibleAct, match="neither a surface nor a roof"):
        applied(empty, "design-to", {"of": "power", "amount": 5}, libraries)


def test_strings_are_found_anew_for_the_modules_there_are(roof, libraries):
    patch, words = applied(roof, "find-strings", {}, libraries)
    made = Design.read(freeze(merge_patch(roof.as_kept(), patch), libraries.parts))
    assert libraries.year_of(made).annual.modules == 36 and "36 modules on" in words
    with pytest.raises(ImpossibleAct, match="attic"):
        applied(roof, "find-strings", {"surface": "attic"}, libraries)
