"""What every stage promises: inputs untouched, books closed, sub-arrays treated alike, steps from 60 minutes to 1."""

import dataclasses

import numpy as np
import pytest
from numpy.testing import assert_allclose

from noontide.core.checks import limits_of
from noontide.core.design import Design, merge_patch
from noontide.core.simulation import StageCache, simulate
from noontide.core.simulation.balance import SET_LINES, book
from noontide.core.simulation.cache import Company
from noontide.core.simulation.chain import sky_over
from noontide.parts import built_in_parts
from tests.conftest import simulated_weather

PARTS = built_in_parts()
STEPS = [60, 30, 15, 10, 5, 1]


def varied(document: dict, **changes: object) -> Design:
    return Design.read(merge_patch(document, changes))


def arrays_of(thing: object) -> dict[str, np.ndarray]:
    return {f.name: getattr(thing, f.name) for f in dataclasses.fields(thing) if isinstance(getattr(thing, f.name), np.ndarray)}


@pytest.mark.parametrize("step", STEPS)
def test_any_step_gives_a_whole_year_that_closes(roof_document, step):
    weather = simulated_weather(43.62, 11.31, 412, 1, step)
    results = simulate(varied(roof_document), weather, PARTS)
    assert results.delivered.size == 365 * 24 * 60 // step
    assert results.cascade.residual < 1e-9
    assert results.annual.energy == pytest.approx(results.delivered.sum() * step / 60 / 1000)
    assert 1200 < results.annual.specific_yield < 1650


def test_sub_arrays_are_treated_alike_in_any_order(roof_document, hill_weather):
    """Four surfaces at once are each what they are alone."""
    surfaces = {f"s{i}": {"tilt": 10.0 + 15 * i, "azimuth": 90.0 + 60 * i} for i in range(4)}

    def plant(keys: list[str]) -> Design:
        return Design.read(
            {
                "site": roof_document["site"],
                "surfaces": {key: surfaces[key] for key in keys},
                "inverters": {f"i-{key}": {"model": "hexley-10"} for key in keys},
                "subarrays": {
                    f"a-{key}": {"surface": key, "module": "veltrane-430", "modules_per_string": 18, "inverter": f"i-{key}"}
                    for key in keys
                },
            }
        )

    together = simulate(plant(list(surfaces)), hill_weather, PARTS)
    backward = simulate(plant(list(surfaces)[::-1]), hill_weather, PARTS)
    assert together.annual.energy == pytest.approx(backward.annual.energy, rel=1e-12)
    alone = [simulate(plant([key]), hill_weather, PARTS) for key in surfaces]
    assert together.annual.energy == pytest.approx(sum(r.annual.energy for r in alone), rel=1e-12)
    for key, one in zip(surfaces, alone, strict=True):
        assert_allclose(together.quantity("string_voltage", f"a-{key}"), one.quantity("string_voltage"), rtol=1e-12)


def test_the_stages_leave_the_sky_as_it_was(roof_document, hill_weather):
    design = varied(
        roof_document,
        surfaces={"barn": {"rows": {"pitch": 4}}},
        site={"horizon": [{"azimuth": 90, "elevation": 20}, {"azimuth": 270, "elevation": 5}]},
    )
    cache = StageCache()
    sky = sky_over(design.site, hill_weather, cache).value
    before = {name: values.copy() for name, values in arrays_of(sky).items()}
    simulate(design, hill_weather, PARTS, cache)
    for name, values in arrays_of(sky).items():
        assert_allclose(values, before[name], rtol=0, err_msg=name)


@pytest.mark.parametrize("model", ["perez", "reindl", "hay-davies", "isotropic"])
@pytest.mark.parametrize("rows", [None, {"pitch": 3.5, "cell_groups": 3}])
def test_light_is_accounted_for_on_every_plane(roof_document, hill_weather, model, rows):
    """Free irradiance less its losses is what counts; beam, sky and ground are what reaches the glass."""
    design = varied(
        roof_document,
        surfaces={"barn": {"tilt": 30, "rows": rows}},
        models={"transposition": model},
        site={"horizon": [{"azimuth": 60, "elevation": 10}, {"azimuth": 200, "elevation": 3}]},
    )
    results = simulate(design, hill_weather, PARTS)
    plane, effective = results.planes[0], results.effective[0]
    parts = sum(results.quantity(f"poa_{name}") for name in ("beam", "sky", "ground"))
    assert_allclose(parts, results.quantity("poa"), rtol=1e-12, atol=1e-9)
    light = plane.changes(results.sky)
    assert_allclose(results.sky.ghi + light["transposition"] + light["horizon"] + light["rows"], plane.poa, rtol=1e-9, atol=1e-9)
    cover = effective.changes(plane)
    assert_allclose(plane.poa + cover["soiling"] + cover["reflection"], effective.mean, rtol=1e-9, atol=1e-9)
    for values in (plane.poa, effective.mean, plane.beam, plane.ground):
        assert values.min() >= -1e-9


@pytest.mark.parametrize("tilt", [10, 40, 80])
def test_no_horizon_and_no_row_ever_gains_light(roof_document, hill_weather, tilt):
    """Also under overcast skies, whose band along the horizon is darker than the dome."""
    ring = [{"azimuth": a, "elevation": 12.0} for a in (0.0, 120.0, 240.0)]
    design = varied(roof_document, surfaces={"barn": {"tilt": tilt, "rows": {"pitch": 4}}}, site={"horizon": ring})
    results = simulate(design, hill_weather, PARTS)
    changes = results.planes[0].changes(results.sky)
    assert results.planes[0].band.min() < 0
    assert changes["horizon"].max() <= 1e-9
    assert changes["rows"].max() <= 1e-9


def test_soiling_and_albedo_follow_their_months(roof_document, hill_weather):
    monthly = [10.0] + [0.0] * 11
    results = simulate(varied(roof_document, losses={"soiling_by_month": monthly}), hill_weather, PARTS)
    lost = results.calendar.monthly_sums(results.quantity("loss_soiling"))
    assert lost[0] > 0
    assert_allclose(lost[1:], 0, atol=1e-9)
    poa = results.calendar.monthly_sums(results.quantity("poa"))[0] * results.annual.area
    assert lost[0] == pytest.approx(0.1 * poa, rel=1e-9)
    snow = simulate(varied(roof_document, site={"albedo_by_month": [0.8] + [0.2] * 11}), hill_weather, PARTS)
    bare = simulate(varied(roof_document), hill_weather, PARTS)
    more = results.calendar.monthly_sums(snow.quantity("poa_ground")) / results.calendar.monthly_sums(bare.quantity("poa_ground"))
    assert_allclose(more, [4] + [1] * 11, rtol=1e-9)


def test_a_wall_of_hills_leaves_no_beam_and_less_sky(roof_document, hill_weather):
    ring = [{"azimuth": float(a), "elevation": 80.0} for a in (0, 120, 240)]
    results = simulate(varied(roof_document, site={"horizon": ring}), hill_weather, PARTS)
    assert results.quantity("poa_beam").max() == 0
    assert results.cascade["horizon"].share < -0.9


def test_shares_of_loss_are_what_was_set(roof_document, hill_weather):
    losses = {"soiling": 3, "quality": 2, "light_induced": 1.5, "mismatch": 1, "unavailability": 4}
    cascade = simulate(varied(roof_document, losses=losses), hill_weather, PARTS).cascade
    for key, share in (("soiling", 0.03), ("quality", 0.02), ("light_induced", 0.015), ("mismatch", 0.01)):
        assert -cascade[key].share == pytest.approx(share, rel=1e-6), key
    assert -cascade["availability"].share == pytest.approx(0.04, rel=2e-2)  # of the positive power alone


def test_wiring_loses_its_share_at_rated_power_and_less_at_part_load(roof_document, hill_weather):
    cascade = simulate(varied(roof_document, losses={"dc_wiring": 2}), hill_weather, PARTS).cascade
    assert 0.004 < -cascade["dc_wiring"].share < 0.02


@pytest.mark.parametrize(
    ("mounting", "warmer"),
    [("roof, ventilated", "open rack"), ("roof, flush", "roof, ventilated"), ("integrated", "roof, flush")],
)
def test_closer_mounting_is_warmer(roof_document, hill_weather, mounting, warmer):
    close, free = (
        simulate(varied(roof_document, surfaces={"barn": {"mounting": m}}), hill_weather, PARTS).cascade["temperature"].share
        for m in (mounting, warmer)
    )
    assert close < free


def test_design_voltages_bracket_the_year(roof_document, hill_weather):
    """No hour's voltage lies beyond the design points that the strings are checked against."""
    results = simulate(varied(roof_document), hill_weather, PARTS)
    volts = limits_of(results)[0]
    bright = results.quantity("effective") > 200
    voltage = results.quantity("string_voltage")[bright] / 18
    assert voltage.max() <= volts.cold_vmp * 1.02
    assert voltage.min() >= volts.hot_vmp * 0.97
    assert volts.hot_vmp < volts.cold_vmp < volts.cold_voc


def test_a_record_temperature_of_the_site_comes_before_the_weather(roof_document, hill_weather):
    results = simulate(varied(roof_document, site={"lowest_temperature": -25}), hill_weather, PARTS)
    volts = limits_of(results)[0]
    assert volts.lowest == -25
    assert volts.cold_voc > limits_of(simulate(varied(roof_document), hill_weather, PARTS))[0].cold_voc


def test_a_small_inverter_clips_and_the_account_says_so(roof_document, hill_weather):
    results = simulate(varied(roof_document, inverters={"main": {"model": "hexley-10"}}), hill_weather, PARTS)
    assert results.annual.dc_ac_ratio > 1.5
    assert results.cascade["clipping"].energy < 0
    assert results.annual.peak_power <= 10 * (1 - 0.01) * (1 - 0.01) + 1e-9
    assert results.annual.clipped_hours == np.count_nonzero(results.quantity("loss_clipping") > 0)


def test_by_day_and_at_night_the_inverter_draws_or_gives_never_both(roof_document, hill_weather):
    results = simulate(varied(roof_document), hill_weather, PARTS)
    drawn = results.quantity("loss_night_use")
    giving = results.quantity("ac_power") > 0
    assert np.all(drawn[giving] == 0)
    assert np.all(drawn[~giving] == 3)
    assert results.delivered[~giving].max() < 0


def test_every_line_is_booked_and_no_other(roof_document, hill_weather, monkeypatch):
    results = simulate(varied(roof_document), hill_weather, PARTS)
    assert list(book(results.balance_inputs[0])) != [] and {line.key for line in SET_LINES} == set(
        book(results.balance_inputs[0])
    )
    subarray = type(results.subarray(0))
    real = subarray.changes
    monkeypatch.setattr(subarray, "changes", lambda *a: real(*a) | {"fairies": np.zeros(1)})
    with pytest.raises(KeyError, match="fairies"):
        book(results.balance_inputs[0])
    monkeypatch.setattr(subarray, "changes", lambda *a: {k: v for k, v in real(*a).items() if k != "mismatch"})
    with pytest.raises(KeyError, match="mismatch"):
        book(results.balance_inputs[0])


def test_parts_that_travel_with_a_scheme_come_first(roof_document, hill_weather):
    better = PARTS.modules["veltrane-430"].model_dump(mode="json") | {"power": 440.0, "imp": 13.5}
    carried = varied(roof_document, parts={"modules": {"veltrane-430": better}})
    assert simulate(carried, hill_weather, PARTS).annual.dc_power == pytest.approx(36 * 0.44)


@dataclasses.dataclass(frozen=True)
class Doubling:
    number: float


def test_rows_that_are_found_together_are_found_once_and_each_for_itself():
    calls, cache = [], StageCache()

    def double(rows):
        calls.append([row.number for row in rows])
        return [np.array([2 * row.number]) for row in rows]

    first = cache.keep(Doubling(1.0), lambda row: np.array([2 * row.number]))
    assert first.value == 2
    one, two, three = cache.keep_together([Doubling(1.0), Doubling(2.0), Doubling(3.0)], double)
    assert (three.value, one.value, two.value) == (6, 2, 4)
    assert calls == [[2.0, 3.0]]
    assert two.is_there and not cache.keep(Doubling(4.0), lambda row: np.zeros(1)).is_there
    cache.clear()
    assert two.value == 4 and calls[1] == [1.0, 2.0, 3.0]


def test_in_a_company_all_are_found_together_and_one_that_cannot_be_takes_no_other_with_it():
    calls, cache, company = [], StageCache(), Company()

    def double(rows):
        calls.append(sorted(row.number for row in rows))
        if any(row.number < 0 for row in rows):
            raise ValueError("below zero")
        return [np.array([2 * row.number]) for row in rows]

    (one,) = cache.keep_together([Doubling(1.0)], double, beside=company["numbers"])
    two, three = cache.keep_together([Doubling(2.0), Doubling(3.0)], double, beside=company["numbers"])
    assert (two.value, one.value, three.value) == (4, 2, 6) and calls == [[1.0, 2.0, 3.0]]
    (wrong,) = cache.keep_together([Doubling(-1.0)], double, beside=company["numbers"])
    (four,) = cache.keep_together([Doubling(4.0)], double, beside=company["numbers"])
    assert four.value == 8
    with pytest.raises(ValueError, match="below zero"):
        wrong.value  # noqa: B018


def test_in_a_company_none_is_found_twice_however_small_the_cache():
    calls, cache, company = [], StageCache(limit=2000), Company()

    def large(rows):
        calls.append(len(rows))
        return [np.full(100, row.number) for row in rows]

    kept = [cache.keep_together([Doubling(float(n))], large, beside=company["numbers"])[0] for n in range(20)]
    assert [one.value[0] for one in kept] == list(range(20)) and calls == [20]
    assert cache.bytes <= 2000


def test_designs_that_differ_after_the_meter_share_the_chain_before_it(roof_document, hill_weather, parts):
    cache = StageCache()
    with_battery = Design.read(roof_document | {"storage": {"bank": {"energy": 7}}, "money": {"own_purchase": 9000}})
    one = simulate(Design.read(roof_document), hill_weather, parts, cache)
    two = simulate(with_battery, hill_weather, parts, cache)
    steeper = simulate(
        Design.read(roof_document | {"surfaces": {"barn": {"tilt": 19, "azimuth": 192}}}), hill_weather, parts, cache
    )
    assert one.first is two.first and one.first is not steeper.first
