"""A field of more than twenty thousand modules goes the whole way: laid, strung, edited, simulated, and still a small document."""

import json

import pytest

from noontide.core.checks import find_checks
from noontide.core.design import Design, merge_patch
from noontide.core.finding import FindRequest, find_strings
from noontide.core.plan.layouts import plans_of
from noontide.core.simulation import Libraries, StageCache, simulate
from noontide.core.verbs.catalogue import applied
from noontide.core.verbs.editing import edited
from tests.conftest import filled, lying

FIELD = {
    "site": {"latitude": 43.62, "longitude": 11.31, "elevation": 412},
    "scene": {"grounds": {"field": {"length": 420, "width": 330}}},
    "surfaces": {
        "s": {
            "face": "field/ground", "mounting": "open rack",
            "layout": {"module": "veltrane-430", "orientation": "portrait", "racks": {"tilt": 20, "pitch": 5.5, "height": 0.6}},
        }
    },
    "connection": {"voltage": 800, "transformer": "brackwell-1600-800", "stations": 6, "collector": {}},
}  # fmt: skip


def act(document, verb, arguments, parts):
    patch, _ = applied(Design.read(document), verb, arguments, Libraries(parts))
    return edited(document, patch, parts)


@pytest.mark.slow
def test_a_field_of_twenty_thousand_modules_is_a_design_like_any_other(hill_weather, parts):
    document = filled(FIELD, {"surface": "s"}, parts)
    count = len(lying(document["surfaces"]["s"]["layout"]))
    assert count > 20_000 and len(json.dumps(document)) < 30_000
    cache = StageCache()
    asked = FindRequest(surface="s", module="veltrane-430", number=count, inverter="corvane-250t", leave_over=20, first=True)
    best = find_strings(Design.read(document), asked, Libraries(parts, hill_weather, {}, cache)).proposals[0]
    document = edited(document, best.patch, parts)
    results = simulate(Design.read(document), hill_weather, parts, cache)
    assert results.annual.modules == best.modules >= count - 20
    assert results.cascade.residual < 1e-9
    # The finder looks through the same stations and the same cable.
    assert results.annual.energy == pytest.approx(best.energy, rel=1e-9)
    assert [check.title for check in find_checks(results) if check.severity == "error"] == []
    # Rows shade one another a little: less than the same array on open ground, and not much less.
    alone = merge_patch(
        document, {"surfaces": {"s": {"face": None, "layout": None, "tilt": 20, "azimuth": 180, "mounting": "open rack"}}}
    )
    open_ground = simulate(Design.read(edited(alone, {}, parts)), hill_weather, parts, cache)
    assert 0.93 * open_ground.annual.energy < results.annual.energy < open_ground.annual.energy

    strung = act(document, "string-modules", {"surface": "s", "pattern": "snake"}, parts)
    assert len(json.dumps(strung)) < 400_000
    row = next(iter(strung["surfaces"]["s"]["layout"]["module_rows"].values()))
    moved = act(
        strung,
        "move-modules",
        {"surface": "s", "modules": [f"m{row['first'] + k}" for k in range(row["count"])], "up": -0.05},
        parts,
    )
    less = act(moved, "delete-modules", {"modules": {"s": ["m500", "m21000"]}}, parts)
    assert len(lying(less["surfaces"]["s"]["layout"])) == count - 2
    assert len(less["surfaces"]["s"]["layout"]["module_rows"]) == len(document["surfaces"]["s"]["layout"]["module_rows"])
    assert plans_of(Design.read(less), parts)["s"].tray == {}
