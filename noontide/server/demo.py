"""The demo: three made-up projects, none of them a place or a product that exists."""

from collections.abc import Iterator
from time import monotonic

from noontide.core.design import merge_patch
from noontide.core.trials import run
from noontide.parts import built_in_parts
from noontide.server.demo_money import (
    ALDERMOOR_MONEY,
    ALDERMOOR_STORAGE,
    SALTWICK_OFF_GRID,
    SALTWICK_WITHOUT_GENERATOR,
    WEIR_MONEY,
    WEIR_STORAGE,
    dairy_meter,
)
from noontide.server.demo_scenes import ALDERMOOR_SCENE, SALTWICK_SCENE, WEIR_SCENE, with_modules
from noontide.server.places.finding import time_zone_at
from noontide.server.projects.evaluator import evaluator
from noontide.server.projects.models import Project, Scheme
from noontide.server.projects.revising import begin_project, begin_scheme
from noontide.server.trials.keeping import begin, keep_runs, planned
from noontide.server.trials.models import TrialSet
from noontide.server.weather_library.requesting import year_for

RIDGE = [(40, 2), (60, 6), (78, 12), (92, 14), (106, 11), (125, 6), (150, 2), (220, 1), (250, 3), (275, 2), (320, 1)]

ALDERMOOR = {
    "name": "South roof only",
    "site": {
        "name": "Aldermoor",
        "latitude": 43.62,
        "longitude": 11.31,
        "elevation": 412,
        "horizon": [{"azimuth": azimuth, "elevation": elevation} for azimuth, elevation in RIDGE],
    },
    "surfaces": {"barn-south": {"name": "Barn, south pitch", "tilt": 18, "azimuth": 192, "area": 168}},
    "inverters": {"one": {"model": "hexley-20"}},
    "subarrays": {
        "south-1": {
            "surface": "barn-south",
            "module": "veltrane-430",
            "modules_per_string": 16,
            "strings": 2,
            "inverter": "one",
            "tracker": 1,
        },
        "south-2": {
            "surface": "barn-south",
            "module": "veltrane-430",
            "modules_per_string": 16,
            "strings": 2,
            "inverter": "one",
            "tracker": 2,
        },
    },
}
BOTH_ROOFS = {
    "name": "Barn and cold store",
    "surfaces": {
        "cold-store": {
            "name": "Cold store",
            "tilt": 10,
            "azimuth": 180,
            "mounting": "open rack",
            "area": 260,
            "rows": {"pitch": 2.4, "width": 1.134, "count": 6},
        },
    },
    "inverters": {"two": {"model": "corvane-15t"}},
    "subarrays": {
        "store-1": {
            "surface": "cold-store",
            "module": "veltrane-430",
            "modules_per_string": 16,
            "strings": 1,
            "inverter": "two",
            "tracker": 1,
        },
        "store-2": {
            "surface": "cold-store",
            "module": "veltrane-430",
            "modules_per_string": 16,
            "strings": 1,
            "inverter": "two",
            "tracker": 2,
        },
    },
}
# The cables of all that hangs on the board, and the grid of the dairy.
WIRED = {
    "inverters": {"one": {"cable": {"length": 18}}, "two": {"cable": {"length": 32}}},
    "subarrays": {
        "south-1": {"cable": {"length": 24, "circuits": 2}},
        "south-2": {"cable": {"length": 30, "circuits": 2}},
        "store-1": {"cable": {"length": 16}},
        "store-2": {"cable": {"length": 19}},
    },
    "connection": {
        "cable": {"length": 45, "laying": "buried", "conductor": "aluminium"},
        "resistance": 0.06,
        "reactance": 0.04,
        "earthing": "TN-C-S",
        "lightning_protection": "separated",
    },
}
ALL_PITCHES = {
    "name": "All pitches, better modules",
    "surfaces": {"barn-north": {"name": "Barn, north pitch", "tilt": 18, "azimuth": 12, "area": 168}},
    "inverters": {"three": {"model": "corvane-15t", "cable": {"length": 22}}},
    "subarrays": {
        "south-1": {"module": "veltrane-450"},
        "south-2": {"module": "veltrane-450"},
        "store-1": {"module": "veltrane-450"},
        "store-2": {"module": "veltrane-450"},
        "north-1": {
            "surface": "barn-north",
            "module": "veltrane-450",
            "modules_per_string": 18,
            "strings": 1,
            "inverter": "three",
            "tracker": 1,
            "cable": {"length": 21},
        },
        "north-2": {
            "surface": "barn-north",
            "module": "veltrane-450",
            "modules_per_string": 18,
            "strings": 1,
            "inverter": "three",
            "tracker": 2,
            "cable": {"length": 26},
        },
    },
}
# A place without a grid: each face of the hut on a charge controller of its own.
SALTWICK = {
    "name": "Hut roof and wall",
    "site": {"name": "Saltwick", "latitude": -43.18, "longitude": 170.46, "elevation": 6, "albedo": 0.12},
    "surfaces": {
        "roof": {"name": "Hut, north pitch", "tilt": 40, "azimuth": 352, "mounting": "roof, ventilated", "area": 22},
        "wall": {"name": "Hut, north wall", "tilt": 90, "azimuth": 352, "mounting": "open rack", "area": 9},
    },
    "inverters": {
        "one": {"name": "Roof controller", "controller": "corvane-c60"},
        "two": {"name": "Wall controller", "controller": "corvane-c60"},
    },
    "subarrays": {
        "roof-1": {"surface": "roof", "module": "quillon-410", "modules_per_string": 3, "strings": 3, "inverter": "one"},
        "wall-1": {"surface": "wall", "module": "quillon-410", "modules_per_string": 3, "inverter": "two"},
    },
    "losses": {"soiling": 3, "unavailability": 2},
}
WEIR = {
    "name": "South-east hip",
    "site": {
        "name": "Weir Cottage",
        "latitude": 51.31,
        "longitude": -2.36,
        "elevation": 62,
        "horizon": [
            {"azimuth": a, "elevation": e}
            for a, e in ((60, 4), (95, 6), (140, 5), (170, 4), (230, 5), (260, 7), (285, 6), (320, 3))
        ],
        "obstacles": {
            "oak": {
                "name": "Oak",
                "azimuth": 122,
                "distance": 16,
                "width": 8,
                "height": 5.5,
                "light_by_month": [0.65, 0.65, 0.65, 0.5, 0.25, 0.15, 0.15, 0.15, 0.2, 0.35, 0.6, 0.65],
            },
            "neighbour": {"name": "Neighbour's gable", "azimuth": 242, "distance": 14, "width": 7, "height": 3},
        },
    },
    "surfaces": {"hip": {"name": "South-east hip", "tilt": 35, "azimuth": 148, "area": 26}},
    "inverters": {"one": {"model": "hexley-3"}},
    "subarrays": {"hip-1": {"surface": "hip", "module": "veltrane-450", "modules_per_string": 9, "inverter": "one"}},
}
WEIR_BOTH = {
    "name": "Both hips",
    "surfaces": {"hip-west": {"name": "South-west hip", "tilt": 35, "azimuth": 238, "area": 24}},
    "inverters": {"one": {"model": "hexley-5"}},
    "subarrays": {
        "west-1": {"surface": "hip-west", "module": "veltrane-450", "modules_per_string": 7, "inverter": "one", "tracker": 2}
    },
}
# A microinverter for each pair of modules: what the oak takes from one costs the others nothing.
WEIR_MICRO = {
    "name": "Both hips, microinverters",
    "inverters": {
        "one": None,
        "east": {"model": "corvane-m800", "count": 4, "cable": {"length": 14}, "phase": "L1"},
        "east-9": {"model": "hexley-m450", "phase": "L1"},
        "west": {"model": "corvane-m800", "count": 3, "cable": {"length": 17}, "phase": "L1"},
        "west-7": {"model": "hexley-m450", "phase": "L1"},
    },
    "subarrays": {
        "hip-1": None,
        "west-1": None,
        **{
            f"{side}-{number}": {
                "surface": surface,
                "module": "veltrane-450",
                "modules_per_string": 1,
                "inverter": unit,
                "tracker": tracker,
            }
            for side, surface in (("hip", "hip"), ("side", "hip-west"))
            for number, unit, tracker in (
                ("a", "east" if side == "hip" else "west", 1),
                ("b", "east" if side == "hip" else "west", 2),
                ("c", "east-9" if side == "hip" else "west-7", 1),
            )
        },
    },
    "connection": {"cable": {"length": 9}, "resistance": 0.25, "imbalance_limit": 4.6},
}


# A battery of any size and power in place of the dairy's own, beside arrays of several sizes: which is worth the most?
ALDERMOOR_STUDY = {
    "format": "noontide-study/1",
    "name": "How large a battery?",
    "loose": {
        "battery": {"title": "Battery", "unit": "kWh", "values": [0, 10, 20, 40, 60, 80]},
        "power": {"title": "Battery power", "unit": "kW", "values": [10, 20]},
        "array": {"title": "Array", "unit": "kW", "low": 24, "high": 56, "step": 8},
    },
    "acts": [
        {"verb": "take-battery", "arguments": {}},
        {
            "verb": "size-system",
            "arguments": {"array": {"loose": "array"}, "energy": {"loose": "battery"}, "power": {"loose": "power"}},
        },
    ],
    "aim": {"figure": "net_present_value", "better": "more"},
    "also": [{"figure": "self_sufficiency", "better": "more"}],
    "limits": [{"figure": "errors", "at_most": 0}],
}


def load_demo(with_trials: bool = True) -> Iterator[str]:
    """Make the demo projects that are not there yet, with the dairy's trials run; what was done, line by line."""
    for name, customer, note, documents_of in (
        ("Weir Cottage", "The Larks", "A hipped roof, a tree and a neighbour: is it worth it at all?", _weir),
        ("Saltwick Hut", "Saltwick Marine Station", "A field station on the coast, far from any grid", _saltwick),
        ("Aldermoor Dairy", "Aldermoor Dairy", "A cheese dairy in hill country, with a ridge to the east", _aldermoor),
    ):
        if Project.objects.filter(name=name, deleted=None).exists():
            yield f"{name} is there already."
            continue
        whole = [_with_weather(document) for document in documents_of()]
        project = begin_project(name, whole[0], customer, note)
        for document in whole[1:]:
            begin_scheme(project, document)
        for scheme in project.schemes.select_related("head"):
            evaluator.ask(scheme.head.document, scheme.pk, patience=60)
        if with_trials and name == "Aldermoor Dairy":
            _run_trials(project.schemes.select_related("head").all()[1])
        yield f"{name} is loaded, with {len(whole)} scheme{'s' if len(whole) > 1 else ''}."


def _run_trials(scheme: Scheme) -> None:
    """How large array and battery are best: a study that is run when the demo is loaded, and can be run again."""
    trial = begin(scheme, ALDERMOOR_STUDY)
    plan, libraries = planned(trial.study, scheme.head.document, scheme.project.owner)
    began = monotonic()
    runs = list(run(plan, libraries))
    keep_runs(trial, runs)
    failed = sum(one.state == "failed" for one in runs)
    TrialSet.objects.filter(pk=trial.pk).update(
        state=TrialSet.State.DONE, total=plan.count, done=len(runs), failed=failed, seconds=monotonic() - began
    )


def _weir() -> tuple[dict, ...]:
    weir = merge_patch(WEIR, WEIR_MONEY)
    both = merge_patch(weir, WEIR_BOTH)
    return weir, merge_patch(both, WEIR_STORAGE), merge_patch(both, WEIR_MICRO), _on_scene(weir, WEIR_SCENE)


def _saltwick() -> tuple[dict, ...]:
    hut = _on_scene(merge_patch(SALTWICK, SALTWICK_OFF_GRID), SALTWICK_SCENE)
    return hut, merge_patch(hut, SALTWICK_WITHOUT_GENERATOR)


def _aldermoor() -> tuple[dict, ...]:
    aldermoor = merge_patch(ALDERMOOR, ALDERMOOR_MONEY)
    aldermoor = merge_patch(aldermoor, {"demand": {"sources": {"dairy": dairy_meter()}}})
    both = merge_patch(merge_patch(aldermoor, BOTH_ROOFS), WIRED)
    return aldermoor, merge_patch(both, ALDERMOOR_STORAGE), merge_patch(both, ALL_PITCHES), _on_scene(both, ALDERMOOR_SCENE)


def _on_scene(document: dict, scene: dict) -> dict:
    return with_modules(merge_patch(document, scene), built_in_parts())


def _with_weather(document: dict) -> dict:
    site = document["site"]
    zone, utc_offset = time_zone_at(site["latitude"], site["longitude"])
    year = year_for(site["latitude"], site["longitude"], site["elevation"], utc_offset, site["name"])
    return merge_patch(document, {"site": {"time_zone": zone}, "weather": {"digest": year.digest, "title": year.title}})
