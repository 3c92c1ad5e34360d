"""Strings on a scene against the exact sum of their groups' curves, hour by hour, for what stands in the light of roofs."""

import copy

import numpy as np
import pytest

from noontide.core.checks import find_checks
from noontide.core.design.document import Design
from noontide.core.electrical import string_power
from noontide.core.plan import groups_of
from noontide.core.plan.laying import proposed
from noontide.core.plan.layouts import plans_of
from noontide.core.shading.horizon import Horizon
from noontide.core.simulation import StageCache, simulate
from noontide.core.simulation.chain import sky_over
from noontide.core.simulation.near_shade import NearInputs, cast_shadows
from tests.conftest import by_hand

MODULE = "veltrane-430"
BARN = {"length": 20, "width": 10, "eave": 4, "azimuth": 180, "gable": {"pitch": 25}}
TREE = {"trees": {"t": {"x": -3, "y": -9.5, "height": 9, "diameter": 7}}}
FENCE = {"walls": {"w": {"x": 0, "y": -8, "length": 24, "height": 6, "light": 0.53}}}
CHIMNEYS = {"chimneys": {f"c{k}": {"on": "barn", "x": -7 + 4 * k, "y": -2 - k % 2, "height": 1.5} for k in range(4)}}
GAPPY = {"walls": {f"w{k}": {"x": -9 + 3 * k, "y": -8, "length": 2, "height": 5 + k % 3, "light": 0.15 * k} for k in range(6)}}


def on_barn(scene, parts, **circuits):
    document = {
        "format": "noontide-design/5",
        "site": {"latitude": 43.62, "longitude": 11.31, "elevation": 412},
        "scene": {"buildings": {"barn": BARN}, **scene},
        "surfaces": {"s": {"face": "barn/roof-1", "layout": {"most": 32, "module": MODULE}}},
        "losses": {"light_induced": 0, "mismatch": 0, "quality": 0, "dc_wiring": 0},
        "inverters": {"one": {"model": "hexley-20"}},
        "subarrays": {"a": {"surface": "s", "module": MODULE, "modules_per_string": 16, "strings": 1, "inverter": "one"}},
    }
    for key, change in circuits.items():
        document[key] = copy.deepcopy(document[key]) | change
    (plan,) = plans_of(Design.read(document), parts).values()
    document["surfaces"]["s"]["layout"]["modules"] = by_hand(proposed(plan))
    return document


def lights_of(document, parts, weather):
    """Share of the direct light on every group of every module, (modules, groups, light), by the darkest of its cells."""
    design = Design.read(document)
    sky = sky_over(design.site, weather, StageCache())
    targets = groups_of(plans_of(design, parts)["s"])
    near = cast_shadows(NearInputs(sky, targets, design.built_scene.bodies, Horizon()))
    clear = near.opaque.astype(float)
    veiled = np.divide(near.beam, clear, out=np.zeros_like(clear), where=clear > 0)
    light = np.maximum(1 - (1 - clear) * targets.cells, 0) * veiled
    found = np.zeros((len(targets.ids), targets.groups, light.shape[0]))
    for column, (module, group) in enumerate(zip(targets.module, targets.group, strict=True)):
        found[module, group] += light[:, column] / targets.halves
    return found


def irradiance_of(results, lights):
    effective = results.effective[0]
    return effective.diffuse + lights * effective.direct


def maxima_of(results, irradiance, module):
    """Of each module alone, (modules, light)."""
    factor = results.modules[0].rating
    return np.stack([string_power(one, module, results.modules[0].cell_temperature) * factor for one in irradiance])


def held_to_the_sum(got, exact):
    """1 % in any hour of more than a hundredth of the best one, 0.2 % of the year."""
    is_bright = exact > 0.01 * exact.max()
    assert np.abs(got / np.where(is_bright, exact, 1) - 1)[is_bright].max() < 0.01
    assert got.sum() == pytest.approx(exact.sum(), rel=0.002)


@pytest.mark.parametrize(
    "scene",
    [TREE, {"trees": {"t": TREE["trees"]["t"] | {"light_in_leaf": 0.85, "light_bare": 0.95}}}, FENCE, CHIMNEYS, TREE | GAPPY | CHIMNEYS],
    ids=["tree", "light tree", "fence", "chimneys", "all"],
)  # fmt: skip
def test_a_string_gives_what_its_groups_give_in_sum(parts, hill_weather, scene):
    document = on_barn(scene, parts)
    results = simulate(Design.read(document), hill_weather, parts)
    module, unit = parts.modules[MODULE], parts.inverters["hexley-20"]
    irradiance = irradiance_of(results, lights_of(document, parts, hill_weather)[:16])
    window = (unit.mppt_minimum, unit.mppt_maximum)
    rating = results.modules[0].rating
    heat = results.modules[0].cell_temperature
    exact = string_power(irradiance.reshape(48, -1), module, heat, window) * rating
    got = results.subarray(0).point.power
    # Too little voltage to start: nothing.
    exact[got == 0] = np.where(exact[got == 0] < 0.01 * exact.max(), 0, exact[got == 0])
    held_to_the_sum(got, exact)
    assert np.all(got <= maxima_of(results, irradiance, module).sum(axis=0) * (1 + 2e-3) + 0.1)
    assert results.cascade["partial_shade"].energy < 0
    assert results.cascade.residual < 1e-9


def test_each_inverter_of_a_set_is_as_if_it_were_alone(parts, hill_weather):
    """A set of two with a string each, against two sets of one; the plan deals the same modules to them."""
    together = on_barn(CHIMNEYS | TREE, parts, inverters={"one": {"model": "corvane-4x", "count": 2}})
    apart = on_barn(
        CHIMNEYS | TREE,
        parts,
        inverters={"one": {"model": "corvane-4x"}, "two": {"model": "corvane-4x"}},
        subarrays={
            k: {"surface": "s", "module": MODULE, "modules_per_string": 8, "strings": 2, "inverter": i}
            for k, i in (("a", "one"), ("b", "two"))
        },
    )
    together["subarrays"]["a"] |= {"modules_per_string": 8, "strings": 2}
    one, two = (simulate(Design.read(d), hill_weather, parts) for d in (together, apart))
    # The diffuse light is the mean of a sub-array's modules, and two sub-arrays have each their own.
    assert one.annual.energy == pytest.approx(two.annual.energy, rel=1e-4)
    for entry, other in zip(one.cascade.entries, two.cascade.entries, strict=True):
        assert entry.energy == pytest.approx(other.energy, rel=5e-3, abs=0.5), entry.key
    assert one.cascade.residual < 1e-9
    swapped = copy.deepcopy(together)
    ids = list(together["surfaces"]["s"]["layout"]["modules"])
    swapped["subarrays"]["a"]["string_plan"] = [ids[k : k + 8] for k in (16, 24, 0, 8)]
    drawn = copy.deepcopy(together)
    drawn["subarrays"]["a"]["string_plan"] = [ids[k : k + 8] for k in (0, 8, 16, 24)]
    first, other = (simulate(Design.read(d), hill_weather, parts).annual.energy for d in (drawn, swapped))
    assert first == pytest.approx(other, rel=1e-12), "the inverters of a set are identical"


def test_microinverters_hold_each_module_at_its_own_maximum(parts, hill_weather):
    micro = next(key for key, unit in parts.inverters.items() if unit.kind == "micro" and unit.trackers == 1)
    document = on_barn(
        CHIMNEYS | FENCE,
        parts,
        inverters={"one": {"model": micro, "count": 32}},
        subarrays={"a": {"surface": "s", "module": MODULE, "modules_per_string": 1, "strings": 1, "inverter": "one"}},
    )
    results = simulate(Design.read(document), hill_weather, parts)
    unit = parts.inverters[micro]
    irradiance = irradiance_of(results, lights_of(document, parts, hill_weather))
    module = parts.modules[MODULE]
    window = (unit.mppt_minimum, unit.mppt_maximum)
    heat = results.modules[0].cell_temperature
    exact = np.stack([string_power(one, module, heat, window) for one in irradiance]) * results.modules[0].rating
    point = results.subarray(0).point  # its current is limited to what a microinverter takes
    held_to_the_sum(point.power + point.current_loss, exact.mean(axis=0))
    assert point.banks.current.max() <= unit.maximum_tracker_current * (1 + 1e-9)
    assert np.all(results.subarray(0).point.power * 32 <= maxima_of(results, irradiance, module).sum(axis=0) * (1 + 2e-3) + 0.1)


def test_optimisers_hold_each_module_at_its_own_maximum(parts, hill_weather):
    document = on_barn(CHIMNEYS | FENCE, parts)
    document["subarrays"]["a"]["optimiser"] = "hexley-op600"
    results = simulate(Design.read(document), hill_weather, parts)
    irradiance = irradiance_of(results, lights_of(document, parts, hill_weather)[:16])
    point = results.subarray(0).point
    before = results.subarray(0).maximum - point.partial_shade_loss
    held_to_the_sum(before, maxima_of(results, irradiance, parts.modules[MODULE]).sum(axis=0))
    document["subarrays"]["a"].pop("optimiser")
    plain = simulate(Design.read(document), hill_weather, parts)
    assert results.cascade["partial_shade"].energy > plain.cascade["partial_shade"].energy


def test_optimised_strings_keep_to_the_current_of_their_tracker(parts, hill_weather):
    """Six strings of 18 at one voltage carry more than 40 A: what is over it is booked, and found."""
    document = on_barn({}, parts)
    unit = parts.inverters["hexley-20"].model_copy(
        update={
            "id": "wide",
            "maximum_dc_power": 90000,
            "ac_power": 60000,
            "maximum_tracker_current": 40,
            "apparent_power": 60000,
            "fixed_string_voltage": 600.0,
        }
    )
    document["surfaces"] = {"s": {"tilt": 25, "azimuth": 180}}
    document["subarrays"]["a"] |= {"modules_per_string": 18, "strings": 6, "optimiser": "hexley-op600"}
    document["inverters"]["one"]["model"] = "wide"
    document["parts"] = {"inverters": {"wide": unit.model_dump(exclude_unset=True)}}
    results = simulate(Design.read(document), hill_weather, parts)
    allowed = results.plant.inverters[0].tracker_input(1).current
    assert results.subarray(0).point.current.max() == pytest.approx(allowed, rel=1e-9)
    assert results.cascade["current_limit"].energy < -100 and results.cascade.residual < 1e-9
    check = next(c for c in find_checks(results) if c.rule == "tracker-current")
    assert check.actual > check.limit == pytest.approx(allowed)
