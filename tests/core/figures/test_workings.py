"""The equations of the workings, worked out again from the inputs that they show."""

import numpy as np
import pytest

from noontide.core.design import Design, merge_patch
from noontide.core.figures.workings import working, working_keys
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts
from tests.conftest import SOUTH_ROOF

PARTS = built_in_parts()
DESIGN = {
    "surfaces": {"barn": {"name": "Barn"}, "shed": {"tilt": 35, "azimuth": 100, "albedo": 0.4, "rows": {"pitch": 4}}},
    "inverters": {"main": {"count": 2}},
    "subarrays": {
        "east": {"surface": "shed", "module": "thornby-250", "modules_per_string": 17, "inverter": "main", "tracker": 2}
    },
    "losses": {"quality": 2},
    "demand": {"sources": {"house": {"per_area": {}}, "car": {"name": "Car", "vehicle": {"timing": "by the sun"}}}},
    "money": {
        "tariff": {"energy": {"price": 0.3}, "export": {"price": 0.08}, "fixed": {"meter": {"amount": 5}}},
        "costs": {"work": {"name": "Work", "amount": 400, "per": "kW"}},
        "upkeep": {"care": {"amount": 1, "per": "% of purchase"}},
    },
}


@pytest.fixture(scope="module")
def results(hill_weather):
    return simulate(Design.read(merge_patch(SOUTH_ROOF, DESIGN)), hill_weather, PARTS)


def inputs(shown) -> dict[str, float | str]:
    return {i.symbol: i.value for i in shown.inputs}


def test_every_figure_has_its_value_from_the_results(results):
    for key in working_keys(results):
        shown = working(results, key)
        assert shown.equation and shown.inputs and shown.source
        if hasattr(results.annual, key):
            assert shown.value == getattr(results.annual, key)


def test_energy_is_the_light_and_all_lines(results):
    shown = working(results, "energy")
    of = inputs(shown)
    assert of[r"E_\mathrm{start}"] + of[r"\sum_k \Delta E_k"] == pytest.approx(shown.value, rel=1e-9)


def test_the_light_on_the_flat_is_area_times_irradiation(results):
    shown = working(results, "start")
    of = inputs(shown)
    assert of["A"] * of[r"\sum \mathrm{GHI}\,\Delta t"] == pytest.approx(shown.value, rel=1e-12)


@pytest.mark.parametrize(
    ("key", "again"),
    [
        ("specific_yield", lambda of: of["E"] / of["P_0"]),
        ("performance_ratio", lambda of: of["Y_f"] / of["H_i"]),
        ("dc_ac_ratio", lambda of: of["P_0"] / of[r"P_\mathrm{AC}"]),
        ("capacity_factor", lambda of: of["E"] / (of[r"P_\mathrm{AC}"] * of["T"])),
    ],
)
def test_a_ratio_follows_from_what_it_shows(results, key, again):
    shown = working(results, key)
    assert again(inputs(shown)) == pytest.approx(shown.value, rel=1e-12)


def test_rated_power_is_the_sum_of_its_sub_arrays(results):
    shown = working(results, "dc_power")
    assert sum(i.value for i in shown.inputs) == pytest.approx(shown.value, rel=1e-12)
    # 2 inverters x (2 strings x 18 x 430 W + 17 x 250 W)
    assert shown.value == pytest.approx(2 * (2 * 18 * 430 + 17 * 250) / 1000)


def test_plane_irradiation_is_weighed_by_rated_power(results):
    shown, rated = working(results, "plane_irradiation"), working(results, "dc_power")
    weights = np.array([i.value for i in rated.inputs])
    assert np.average([i.value for i in shown.inputs], weights=weights) == pytest.approx(shown.value, rel=1e-12)


def test_each_line_is_the_sum_of_its_months_and_begins_where_the_last_ended(results):
    left = working(results, "start").value
    for entry in results.cascade.entries:
        shown = working(results, f"loss_{entry.key}")
        assert sum(step.value for step in shown.steps) == pytest.approx(shown.value, rel=1e-9, abs=1e-9)
        assert inputs(shown)["E"] == pytest.approx(left, rel=1e-9)
        left += shown.value
    assert left == pytest.approx(results.annual.energy, rel=1e-9)


@pytest.mark.parametrize(("key", "symbol"), [("quality", "q"), ("light_induced", r"\ell"), ("mismatch", "m"), ("soiling", "s")])
def test_a_share_that_was_set_is_the_share_that_is_lost(results, key, symbol):
    of = inputs(working(results, f"loss_{key}"))
    assert results.cascade[key].energy == pytest.approx(-of[symbol] / 100 * of["E"], rel=1e-9)


def test_what_was_set_and_what_is_a_default_are_told_apart(results):
    origins = {key: working(results, f"loss_{key}").inputs[1].origin for key in ("quality", "mismatch")}
    assert origins["quality"] == "set in the design"
    assert origins["mismatch"].startswith("default: Typical of modules sorted")


def test_a_surface_with_its_own_albedo_shows_it(results):
    shown = working(results, "loss_transposition")
    assert ("albedo in front of Surface 2", 0.4, "/surfaces/shed/albedo") in [(i.name, i.value, i.pointer) for i in shown.inputs]


def test_values_by_month_stand_in_the_place_of_the_year_s(results, hill_weather):
    """Both would be wrong: the year's value is not used, and twelve cells hold no one number."""
    monthly = {
        "losses": {"soiling_by_month": [6.0, 5, 4, 3, 2, 1, 1, 1, 2, 3, 4, 5]},
        "site": {"albedo_by_month": [0.7] + [0.2] * 11},
    }
    changed = simulate(Design.read(merge_patch(results.design.as_kept(), monthly)), hill_weather, PARTS)
    soiling = working(changed, "loss_soiling").inputs[1]
    assert (soiling.value, soiling.unit, soiling.pointer) == ("1 to 6", "%", "/losses/soiling_by_month")
    assert "/losses/soiling" not in [i.pointer for i in working(changed, "loss_soiling").inputs]
    assert "/site/albedo_by_month" in [i.pointer for i in working(changed, "loss_transposition").inputs]


def test_pointers_lead_to_the_value_that_is_shown(results):
    """Each number with a pointer is the one that the scheme has there, or its default."""
    document = results.design.model_dump(mode="json")
    for key in working_keys(results):
        for shown in working(results, key).inputs:
            at = document
            for step in shown.pointer.strip("/").split("/") if shown.pointer else ():
                at = at[step]
            if shown.pointer and isinstance(at, float | int):
                assert shown.value == at, shown


def test_a_figure_that_is_none_is_refused(results):
    for key in ("luck", "loss_luck"):
        with pytest.raises(KeyError):
            working(results, key)
