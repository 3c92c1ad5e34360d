"""Where one module stands for all that are alike, the year is that of every module by itself."""

import numpy as np
import pytest

from noontide.core.access.solar_access import accesses_of
from noontide.core.design import Design, merge_patch
from noontide.core.plan import alike as looked_at
from noontide.core.plan import groups_of
from noontide.core.plan.alike import alike
from noontide.core.plan.layouts import plans_of
from noontide.core.simulation import StageCache, near_shade, simulate
from noontide.core.simulation.chain import sky_over
from tests.conftest import filled

FIELD = {
    "site": {"latitude": 43.62, "longitude": 11.31, "elevation": 412},
    "scene": {"grounds": {"field": {"length": 80, "width": 56}}},
    "surfaces": {
        "s": {
            "face": "field/ground",
            "mounting": "open rack",
            "layout": {"module": "veltrane-430", "orientation": "portrait", "racks": {"tilt": 22, "pitch": 4.2, "height": 0.5}},
        }
    },
    "inverters": {"one": {"model": "hexley-20", "count": 5}},
    "subarrays": {
        "a": {"surface": "s", "module": "veltrane-430", "modules_per_string": 17, "strings": 2, "inverter": "one"},
        "b": {"surface": "s", "module": "veltrane-430", "modules_per_string": 17, "strings": 1, "inverter": "one", "tracker": 2},
    },
}
ROAD = {"surfaces": {"s": {"layout": {"keep_outs": {"road": {"u": 18, "v": 0, "length": 4, "width": 56}}}}}}
SLANTED = {"scene": {"grounds": {"field": {"outline": [[-45, -28], [45, -28], [31, 28], [-17, 28]]}}}}
TREES = {
    "scene": {
        "trees": {"oak": {"x": 8, "y": -44, "height": 11, "diameter": 8}, "ash": {"x": 62, "y": 5, "height": 15, "diameter": 9}},
        "buildings": {"shed": {"x": -52, "y": 0, "length": 8, "width": 6, "eave": 4}},
        "poles": {"mast": {"x": 0, "y": -32, "diameter": 0.3, "height": 9}},
    }
}


def laid(change, parts):
    document = merge_patch(FIELD, change)
    return Design.read(filled(document, {"surface": "s"}, parts))


def both(monkeypatch, look):
    """What is found with every module by itself, and where some stand for others."""
    found = []
    for many in (10**9, 50):
        monkeypatch.setattr(looked_at, "MANY", many)
        near_shade.forget()
        found.append(look())
    return found


@pytest.mark.slow
@pytest.mark.parametrize(
    ("change", "year", "module"),
    [({}, 2e-5, 2e-3), (ROAD, 2e-5, 2e-3), (SLANTED, 2e-5, 2e-3), (TREES, 4e-4, 0.012)],
    ids=["even", "road", "slanted", "trees"],
)
def test_the_year_and_the_access_are_those_of_every_module_by_itself(monkeypatch, parts, hill_weather, change, year, module):
    design = laid(change, parts)
    targets = groups_of(plans_of(design, parts)["s"])
    monkeypatch.setattr(looked_at, "MANY", 50)
    found = alike(targets, design.built_scene.bodies)
    assert found is not None and found.targets.module.size < 0.8 * targets.module.size
    one, many = both(monkeypatch, lambda: simulate(design, hill_weather, parts, StageCache()))
    assert many.annual.energy == pytest.approx(one.annual.energy, rel=year)

    def access():
        (surface,) = accesses_of(design, parts, sky_over(design.site, hill_weather, StageCache()), StageCache())
        return surface.access.annual

    one, many = both(monkeypatch, access)
    assert one.shape == many.shape == (len(targets.ids),)
    assert many.mean() == pytest.approx(one.mean(), abs=year)
    assert np.abs(one - many).max() < module


def test_every_group_of_a_module_has_that_group_of_the_one_that_stands_for_it(monkeypatch, parts):
    monkeypatch.setattr(looked_at, "MANY", 50)
    targets = groups_of(plans_of(laid({}, parts), parts)["s"])
    found = alike(targets, ())
    assert found is not None
    assert (found.targets.group[found.column] == targets.group).all()
    own = found.targets.module[found.column]
    assert set(own.tolist()) == set(found.targets.module.tolist())
    # One that stands for others stands for itself.
    assert (own[targets.module == own] == targets.module[targets.module == own]).all() and (targets.module == own).any()
    sizes = [np.ptp(plane.outlines, axis=1) for plane in targets.planes]
    assert sum(map(len, sizes)) == found.column.size


def test_the_first_rows_and_the_ends_are_told_from_the_middle(monkeypatch, parts):
    monkeypatch.setattr(looked_at, "MANY", 50)
    plan = plans_of(laid({}, parts), parts)["s"]
    targets = groups_of(plan)
    found = alike(targets, ())
    stands = dict(zip(targets.module.tolist(), found.targets.module[found.column].tolist(), strict=True))
    rows = sorted({place.v for place in plan.placed.values()})
    at = {key: k for k, key in enumerate(targets.ids)}
    row = lambda v: sorted((key for key in at if plan.placed[key].v == v), key=lambda key: plan.placed[key].u)  # noqa: E731
    middle = [stands[at[row(v)[len(row(v)) // 2]]] for v in rows]
    assert len(set(middle[:3])) == 3, "with no row before it, with one, with two"
    assert len(set(middle[3:-3])) == 1, "all others"
    inner = row(rows[4])
    assert stands[at[inner[0]]] != stands[at[inner[len(inner) // 2]]] != stands[at[inner[-1]]]


def test_few_modules_and_such_as_are_all_different_stay_each_for_itself(monkeypatch, parts):
    design = laid({}, parts)
    targets = groups_of(plans_of(design, parts)["s"])
    assert alike(targets, ()) is None, "an ordinary plan is looked at module by module"
    monkeypatch.setattr(looked_at, "MANY", 50)
    monkeypatch.setattr(looked_at, "CELL", 1e-4)
    assert alike(targets, laid(TREES, parts).built_scene.bodies) is None
