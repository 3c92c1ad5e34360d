"""The scenes of the demo: the dairy, the cottage and the hut as they stand, with their modules on the plan."""

from noontide.core.design import merge_patch
from noontide.core.design.document import Design
from noontide.core.electrical import Catalogue
from noontide.core.plan.filling import as_kept
from noontide.core.plan.laying import proposed
from noontide.core.plan.layouts import plans_of

_FREE = {"tilt": None, "azimuth": None, "area": None}

ALDERMOOR_SCENE = {
    "name": "The dairy as it stands",
    "scene": {
        "buildings": {
            "barn": {"name": "Barn", "azimuth": 192, "length": 26, "width": 12, "eave": 4.6, "gable": {"pitch": 18}},
            "store": {
                "name": "Cold store", "x": -9, "y": -24, "azimuth": 192, "length": 22, "width": 13, "eave": 4.2, "flat": {"parapet": 0.4},
            },
        },
        "chimneys": {"flue": {"name": "Dairy flue", "on": "barn", "x": 4, "y": -1.6, "length": 0.9, "width": 0.9, "height": 1.8}},
        "skylights": {"light": {"name": "Skylight", "on": "barn", "x": -6, "y": -3.4, "length": 1.2, "width": 1.0}},
        "silos": {"silo": {"name": "Feed silo", "x": 16.5, "y": -10.5, "diameter": 4, "height": 11, "cone": 1.2}},
        "boxes": {"cooler": {"name": "Cooler", "on": "store", "x": 7, "y": 3, "length": 2.4, "width": 1.4, "height": 1.3}},
    },
    "surfaces": {
        "barn-south": {**_FREE, "face": "barn/roof-1", "layout": {"most": 64}},
        "cold-store": {**_FREE, "rows": None, "face": "store/roof", "layout": {"racks": {"tilt": 10}, "most": 32}},
    },
}  # fmt: skip
WEIR_SCENE = {
    "name": "The house as it stands",
    "site": {"obstacles": {"oak": None, "neighbour": None}},
    "scene": {
        "buildings": {
            "house": {"name": "Cottage", "azimuth": 148, "length": 11.5, "width": 8.4, "eave": 2.7, "hip": {"pitch": 35}},
            "neighbour": {
                "name": "Neighbour", "x": -15.5, "y": -9, "azimuth": 60, "length": 9, "width": 7, "eave": 4.8, "gable": {"pitch": 40},
                "is_neighbour": True,
            },
        },
        "chimneys": {"chimney": {"name": "Chimney", "on": "house", "x": 2.4, "y": -0.9, "length": 0.7, "width": 0.6, "height": 1.5}},
        "trees": {
            "oak": {
                "name": "Oak", "x": 13.5, "y": -9, "height": 9, "diameter": 8, "trunk": 2.2, "trunk_diameter": 0.5, "growth": 0.15,
                "light_by_month": [0.65, 0.65, 0.65, 0.5, 0.25, 0.15, 0.15, 0.15, 0.2, 0.35, 0.6, 0.65],
            },
        },
    },
    "surfaces": {"hip": {**_FREE, "face": "house/roof-1", "layout": {"most": 9}}},
}  # fmt: skip
SALTWICK_SCENE = {
    "scene": {
        "buildings": {"hut": {"name": "Hut", "azimuth": 352, "length": 8, "width": 6, "eave": 2.9, "gable": {"pitch": 40}}},
        "poles": {"mast": {"name": "Wind mast", "x": 1.5, "y": 8, "diameter": 0.25, "height": 9}},
        "pipes": {"stove": {"name": "Stove pipe", "on": "hut", "x": 2.6, "y": 0.8, "diameter": 0.2, "height": 1.4}},
        "boxes": {"tank": {"name": "Water tank", "x": -6, "y": 3, "length": 2, "width": 2, "height": 2.2}},
    },
    "surfaces": {
        "roof": {**_FREE, "face": "hut/roof-1", "layout": {"most": 9}},
        "wall": {**_FREE, "face": "hut/wall-1", "layout": {"most": 3, "setbacks": {"side": 0.3}}},
    },
}


def with_modules(document: dict, parts: Catalogue) -> dict:
    """A document with every surface on its scene filled up to the layout's own limit."""
    design = Design.read(document)
    filled = {key: {"layout": as_kept(proposed(plan))} for key, plan in plans_of(design, parts).items()}
    return merge_patch(document, {"surfaces": filled})
