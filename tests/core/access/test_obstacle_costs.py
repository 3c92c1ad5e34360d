"""What objects of the scene cost: each is asked once."""

from noontide.core.access.obstacle_costs import obstacle_costs
from noontide.core.design import Design
from noontide.core.simulation import Libraries
from noontide.parts import built_in_parts

SCENE = {
    "buildings": {"house": {"length": 12, "width": 8, "gable": {"pitch": 35}}},
    "chimneys": {"flue": {"on": "house", "x": 1, "y": -1.5}},
    "trees": {"oak": {"name": "Oak", "x": 3, "y": -9, "height": 9}},
}


def test_a_tree_of_trunk_and_crown_is_one_object_and_the_costliest_comes_first(hill_weather):
    document = {
        "site": {"latitude": 43.62, "longitude": 11.31, "elevation": 412, "time_zone": "Europe/Rome"},
        "scene": SCENE,
        "surfaces": {"roof": {"face": "house/roof-1"}},
        "inverters": {"one": {"model": "hexley-5"}},
        "subarrays": {"a": {"surface": "roof", "module": "veltrane-430", "modules_per_string": 12, "inverter": "one"}},
    }
    told = []
    libraries = Libraries(built_in_parts(), hill_weather)
    found = obstacle_costs(Design.read(document), libraries, lambda done, of: told.append((done, of)))
    assert sorted(one.id for one in found.obstacles) == ["flue", "oak"] and told == [(1, 2), (2, 2)]
    assert found.obstacles[0].energy >= found.obstacles[1].energy > 0
    bare = document | {"scene": {"buildings": SCENE["buildings"], "chimneys": SCENE["chimneys"]}}
    (oak,) = (one for one in found.obstacles if one.id == "oak")
    assert oak.energy == libraries.year_of(Design.read(bare)).annual.energy - found.energy
