"""What a stage reads is its key: whatever leaf of the design changes, a warm cache gives what a cold one gives."""

import copy
import dataclasses
import math

import numpy as np
import pytest

from noontide.core.demand.series import UseSeries
from noontide.core.design import Design, freeze
from noontide.core.electrical.datasheets import KINDS
from noontide.core.figures.catalogue import figures_of
from noontide.core.simulation import StageCache, near_shade, simulate
from noontide.core.simulation.cache import key_of
from noontide.core.weather.year import FILLED
from noontide.parts import built_in_parts
from tests.conftest import simulated_weather

PARTS = built_in_parts()
_HOUR = np.arange(24)
METER = UseSeries("Meter", "2025-01-01", 60, np.tile(1.0 + 0.1 * _HOUR, (365, 1)) + 0.002 * np.arange(365)[:, np.newaxis])
GAP = np.zeros(8760, dtype=np.uint8)
GAP[4000:4040] = FILLED
# Its DNI and DHI count as derived, so that the choice of the decomposition matters.
WEATHER = dataclasses.replace(
    simulated_weather(43.62, 11.31, 350, 1), flags=GAP, given=("ghi", "temperature", "wind", "pressure")
)

# A design in which every optional part is present and every value set, so that every leaf of the schema is a leaf of it.
WHOLE = {
    "name": "Whole",
    "site": {
        "name": "Somewhere", "latitude": 43.62, "longitude": 11.31, "elevation": 412, "time_zone": "Europe/Rome", "albedo": 0.2,
        "albedo_by_month": [0.2 + 0.01 * m for m in range(12)],
        "snow_by_month": [60, 30, 10, 0, 0, 0, 0, 0, 0, 0, 5, 40], "snow_albedo": 0.7,
        "horizon": [{"azimuth": 60, "elevation": 8}, {"azimuth": 120, "elevation": 3}, {"azimuth": 280, "elevation": 5}],
        "obstacles": {
            "oak": {"name": "Oak", "azimuth": 190, "distance": 14, "width": 6, "height": 8, "light": 0.3, "light_by_month": [0.7] * 4 + [0.2] * 5 + [0.7] * 3},
            "mast": {"name": "Mast", "azimuth": 140, "distance": 5, "width": 0.3, "height": 4, "light": 0},
            "gable": {"name": "Gable", "distance": 25, "outline": [{"azimuth": 220, "elevation": 4}, {"azimuth": 226, "elevation": 17}, {"azimuth": 233, "elevation": 5}]},
        },
        "region": {"s1": {"name": "Valley", "latitude": 43.5, "longitude": 11.2, "annual_ghi": 1400}},
        "map_picture": {
            "digest": "ab" * 32, "name": "Plan", "width_to_height": 1.5, "first_x": 0.1, "first_y": 0.2, "second_x": 0.8, "second_y": 0.7,
            "latitude": 43.62, "longitude": 11.31, "distance": 80, "azimuth": 70,
        },
        "near_limit": 8, "array_extent": 5,
        "lowest_temperature": -12, "highest_temperature": 38,
    },
    "weather": {"digest": WEATHER.digest, "title": "Year", "clock_shift": 0, "beam_is_horizontal": False, "decomposition": "ridley",
        "gap_filling": {"is_on": True, "method": "clearness", "includes_doubtful": False},
        "height_correction": {"is_on": True, "lapse_rate": 6},
        "monthly_factors": {"is_on": True, "irradiance": [0.95 + 0.01 * m for m in range(12)]},
        "calibration": {"is_on": True, "monthly_ghi": [50 + 15 * min(m, 11 - m) for m in range(12)], "source": "Map"},
        "warmer_climate": {"is_on": True, "temperature": [1 + 0.1 * m for m in range(12)]},
    },
    "surfaces": {
        "field": {"name": "Field", "tilt": 25, "azimuth": 170, "mounting": "open rack", "area": 200, "albedo": 0.25, "rows": {"pitch": 3.2, "width": 2, "count": 5, "cell_groups": 3}},
        "roof": {"name": "Roof", "tilt": 18, "azimuth": 200, "mounting": "roof, flush", "area": 100},
        "turning": {
            "name": "Turning", "mounting": "open rack", "rows": {"pitch": 4.5, "width": 2.1, "count": 6, "cell_groups": 3},
            "tracking": {"axis_azimuth": 190, "axis_tilt": 3, "maximum": 50, "backtracking": True, "slope": 4, "stow_wind": 6, "stow_angle": 10},
        },
        "dish": {"name": "Dish", "mounting": "open rack", "two_axis_tracking": {"maximum_tilt": 70, "stow_wind": 6}},
        "bench": {
            "name": "Bench", "azimuth": 185, "mounting": "open rack",
            "seasonal_tilt": {"changes": {"spring": {"month": 4, "day": 5, "tilt": 12}, "autumn": {"month": 10, "day": 7, "tilt": 55}}},
        },
    },
    "inverters": {
        "main": {
            "model": "hexley-20", "count": 2, "warmer": 12,
            "cable": {"length": 35, "section": 10, "conductor": "copper", "laying": "buried", "ambient": 22, "circuits": 2, "drop_limit": 1.5},
        },
        "side": {"model": "corvane-4x", "count": 1, "phase": "L2", "warmer": 25},
    },
    "connection": {
        "stations": 2,
        "collector": {"length": 250, "section": 70, "conductor": "copper"},
        "voltage": 400, "cable": {"length": 60, "conductor": "aluminium", "laying": "buried", "circuits": 1, "drop_limit": 1}, "transformer": "brackwell-50",
        "auxiliaries": 40, "power_factor": 0.9, "is_absorbing": True, "export_limit": 21, "resistance": 0.1, "reactance": 0.05, "rise_limit": 3, "imbalance_limit": 4.6,
        "earthing": "TT", "lightning_protection": "none",
    },
    "wiring": {
        "rules": "iec",
        "own_rules": {"title": "House", "source": "Handbook", "array_current": 1.25, "conductor": 1.3, "fuse_from": 1.5, "fuse_to": 2.4, "continuous": 1.1},
    },
    "demand": {
        "sources": {
            "list": {"name": "List", "is_on": True, "factor": 1.5, "appliances": {"margin": 10, "items": {"saw": {
                "name": "Saw", "number": 2, "places": 3, "power": 1800, "efficiency": 0.9, "duty": 0.5, "surge": 3, "current": "AC", "phase": 1, "category": "Work",
                "hours": "7-12", "hours_a_day": 4, "days": "weekdays", "months": [1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11],
            }}}},
            "flat": {"yearly": {"energy": 2100.0, "shape": "household"}},
            "area": {"per_area": {"use": 95.0, "area": 180.0, "shape": "office"}},
            "bills": {"monthly": {"energies": [300, 280, None, 220, None, None, None, None, None, None, 280, 310], "shape": "shop"}},
            "meter": {"interval": {"digest": METER.digest, "title": "Meter", "energy": 9000.0, "peak": 6.0}},
            "heat": {"heating": {"heat_loss": 180.0, "base": 16.0, "cop": 3.4, "cop_slope": 0.07, "largest": 2.0}},
            "cold": {"cooling": {"heat_gain": 120.0, "base": 23.0, "cop": 3.2, "cop_slope": 0.06, "largest": 1.0}},
            "water": {"hot_water": {"litres": 140.0, "cold": 11.0, "hot": 55.0, "loss": 1.2, "hours": "6-8 18-21", "power": 2.5, "cop": 1.1, "timing": "by the sun"}},
            "car": {"vehicle": {"weekday_km": 40.0, "weekend_km": 15.0, "consumption": 19.0, "charger": 3.5, "arrival": 17.5, "leaving": 7.0, "stays_on_weekends": True, "timing": "cheapest hours"}},
            "pump": {"pump": {"volume": 9.0, "volume_by_month": [8.0 + 0.1 * m for m in range(12)], "head": 30.0, "pipe": 4.0, "efficiency": 0.5, "power": 1.2, "hours": "8-17", "timing": "at once", "tank": 1.5}},
        },
        "holidays": ["05-01"],
    },
    "storage": {
        "bank": {"model": "pellworth-5", "series": 1, "parallel": 2, "energy": 9.0, "power": 4.0, "efficiency": 94.0, "converter": 96.0, "least": 5.0, "leakage": 3.0, "standby": 12.0, "price": 400.0, "life": 12.0, "worn": 70.0},
        "serves": "dear hours", "peak": {"limit": 9.0, "known": "yesterday"}, "from_grid": True, "horizon": 20.0, "only_clipped": False, "reserve": 10.0, "reserve_by_month": [10.0 + m for m in range(12)],
    },
    "money": {
        "currency": "EUR", "energy_value": 0.1, "years": 20, "interest": 3.0, "price_change": 1.5, "cost_change": 1.0, "contingency": 5.0, "purchase_tax": 10.0,
        "rest_value": 5.0, "exchange": {"USD": 0.9}, "yield_table": {"name": "Rules", "zone": "Z", "tilts": [0, 90], "azimuths": [0, 180], "from_equator": True, "yields": [[800, 800], [900, 300]], "shaded_fields": 4, "share_of_field": 1.5}, "step_of_prices": 1.5, "step_of_yield": 4.0, "step_of_costs": 8.0, "carbon": 310.0, "carbon_by_hour": [300.0 + m for m in range(24)], "statement": "Measured",
        "tariff": {
            "name": "Rates", "currency": "EUR", "yearly_change": 2.0, "holidays": ["12-25"],
            "energy": {"periods": {"day": {"name": "Day", "price": 0.3}, "night": {"name": "Night", "price": 0.2}},
                "seasons": {"year": {"name": "Year", "weekday": {"day": "6-22", "night": "22-6"}}}},
            "export": {"price": 0.07},
            "demand": {"power": {"name": "Power", "price": 4.0, "weekday": "0-24", "saturday": "8-20", "sunday": "9-12", "holiday": "10-12", "averaging": 60, "ratchet": 50.0, "ratchet_months": 5, "contracted": 4.0, "excess_price": 9.0}},
            "fixed": {"meter": {"name": "Meter", "amount": 6.0, "per": "month"}}, "taxes": {"vat": {"name": "Tax", "share": 7.0, "of": ["energy", "fixed"]}},
        },
        "tariff_before": {"energy": {"tiers": [{"up_to": 400.0, "price": 0.25}, {"price": 0.35}]}},
        "costs": {"work": {"name": "Work", "is_on": True, "amount": 300.0, "per": "kW"}},
        "upkeep": {"care": {"name": "Care", "is_on": True, "amount": 1.5, "per": "% of purchase"}},
        "replacements": {"inverter": {"name": "Inverter", "is_on": True, "amount": 900.0, "per": "plant", "every": 11}},
        "grants": {"town": {"name": "Town", "is_on": True, "amount": 500.0, "share": 4.0}},
        "loans": {"bank": {"name": "Bank", "is_on": True, "share": 40.0, "interest": 4.0, "years": 9, "repayment": "annuity"}},
        "tax_relief": {"office": {"name": "Office", "is_on": True, "share": 90.0, "years": 15, "rate": 20.0}},
    },
    "accepted": {"small-array:/inverters/main/model": {"reason": "More modules follow.", "title": "Inverter oversized", "actual": 0.5}},
    "subarrays": {
        "a": {"surface": "field", "module": "veltrane-430", "modules_per_string": 18, "strings": 2, "inverter": "main", "tracker": 1,
            "cable": {"length": 28, "planned": {"longest": 28, "mean": 21}, "section": 4, "conductor": "copper", "laying": "open air", "ambient": 55, "circuits": 2, "drop_limit": 1},
            "main_cable": {"length": 40, "conductor": "copper", "laying": "conduit", "ambient": 30, "circuits": 1, "drop_limit": 1}},
        "b": {"surface": "roof", "module": "thornby-250", "modules_per_string": 17, "strings": 1, "inverter": "main", "tracker": 1},
        "c": {"surface": "roof", "module": "veltrane-430", "modules_per_string": 9, "strings": 1, "inverter": "side", "tracker": 1},
        "d": {"surface": "turning", "module": "veltrane-430", "modules_per_string": 18, "strings": 1, "inverter": "main", "tracker": 2, "optimiser": "hexley-op600"},
        "e": {"surface": "dish", "module": "veltrane-430", "modules_per_string": 9, "strings": 1, "inverter": "side", "tracker": 2},
        "f": {"surface": "bench", "module": "veltrane-430", "modules_per_string": 9, "strings": 1, "inverter": "side", "tracker": 3},
    },
    "losses": {
        "soiling": 2, "soiling_by_month": [1 + 0.2 * m for m in range(12)], "quality": 1, "light_induced": 1, "mismatch": 1, "dc_wiring": 1.5,
        "degradation": 0.6, "year_of_operation": 9, "degradation_of_current": 70, "ac_wiring": 1, "dc_laying": "conduit", "dc_conductor": "copper", "unavailability": 1,
    },
    "models": {"transposition": "perez", "incidence": "fresnel", "temperature": "faiman", "wind_factor": 0.7},
}  # fmt: skip
DOCUMENT = freeze(WHOLE, PARTS)
# These stand in place of horizon and obstacles, and of one another.
BY_HAND = {
    "shade_factor": {"factor": 0.9, "is_measured": True, "statement": "Seen"},
    "shade_table": {
        "access": [[0.6 + 0.01 * hour + 0.01 * month for hour in range(24)] for month in range(12)],
        "is_measured": False,
        "statement": "",
        "points": 2,
        "source": "Survey",
    },
}

# A design of its own with a scene: what stands there, and modules on two of its faces.
SCENE = {
    "name": "Scene",
    "site": {"name": "Somewhere", "latitude": 43.62, "longitude": 11.31, "horizon": [{"azimuth": 90, "elevation": 6}, {"azimuth": 200, "elevation": 2}]},
    "weather": {"digest": WEATHER.digest, "title": "Year"},
    "scene": {
        "buildings": {
            "barn": {
                "name": "Barn", "x": 1, "y": 2, "azimuth": 185, "length": 12, "width": 9, "eave": 4, "gable": {"pitch": 25, "back_pitch": 30},
                "dormers": {"d": {"x": 3, "y": -3, "width": 1.5, "height": 1.1, "pitch": 20}},
            },
            "store": {"name": "Store", "x": 0, "y": -16, "length": 12, "width": 10, "eave": 3, "flat": {"parapet": 0.5, "thickness": 0.3}},
        },
        "chimneys": {"flue": {"name": "Flue", "on": "barn", "x": -1, "y": -2, "length": 0.7, "width": 0.6, "height": 1.5, "azimuth": 180}},
        "pipes": {"vent": {"name": "Vent", "on": "store", "x": 1, "y": 1, "diameter": 0.3, "height": 1}},
        "silos": {"silo": {"name": "Silo", "x": 9, "y": -8, "diameter": 3, "height": 9, "cone": 1}},
        "walls": {"fence": {"name": "Fence", "x": 0, "y": -9, "azimuth": 180, "length": 8, "height": 5, "thickness": 0.1, "light": 0.4}},
        "poles": {"mast": {"name": "Mast", "x": -7, "y": -8, "diameter": 0.4, "height": 12, "base": 0.5}},
        "trees": {
            "oak": {
                "name": "Oak", "x": -9, "y": -9, "height": 9, "crown": "ellipsoid", "diameter": 6, "trunk": 2, "trunk_diameter": 0.5, "is_evergreen": False,
                "light_in_leaf": 0.2, "light_bare": 0.7, "leaf_out": 4, "leaf_fall": 11, "growth": 0.2,
            },
        },
        "years_ahead": 2,
    },
    "surfaces": {
        "south": {"face": "barn/roof-1", "mounting": "roof, flush", "albedo": 0.3, "layout": {
            "module_rows": {f"r{k}": {"first": 1 + 9 * k, "count": 9, "u": 0.5, "v": 0.4 + 1.8 * k, "step": 1.2, "is_landscape": False, "missing": [9 * k + 9]} for k in range(2)},
            "modules": {"m3": {"u": 2.9, "v": 0.41, "is_landscape": False}},
        }},
        "flat": {"face": "store/roof", "mounting": "open rack", "layout": {
            "module": "veltrane-430", "orientation": "landscape", "gap": 0.03, "rule_set": "plain", "own_set": {"title": "Ours", "source": "Handbook", "distances": {"eave": 0.25}}, "setbacks": {"step": 0.3}, "edges": {"2": 0.5}, "most": 12,
            "keep_outs": {"walk": {"name": "Walkway", "u": 8, "v": 8, "length": 2, "width": 0.6}}, "racks": {"tilt": 12, "azimuth": 170, "pitch": 2, "ground_cover": 50, "clear_hour": 10, "is_paired": False, "height": 0.2}, "roads": {"width": 1.0, "every": 6.0, "across_every": 9.0}, "is_staggered": False, "exit_u": 1.0, "exit_v": 0.5,
            "modules": {f"r{k}": {"u": 0.6 + 1.8 * (k % 4), "v": 0.6 + 2.0 * (k // 4), "is_landscape": True} for k in range(12)},
        }},
    },
    "inverters": {"main": {"model": "hexley-20"}},
    "subarrays": {
        "a": {"surface": "south", "module": "veltrane-430", "modules_per_string": 8, "strings": 2, "inverter": "main", "tracker": 1},
        "b": {"surface": "flat", "module": "veltrane-430", "modules_per_string": 12, "inverter": "main", "tracker": 2, "string_plan": [[f"r{k}" for k in range(12)]]},
    },
}  # fmt: skip
SCENE_DOCUMENT = freeze(SCENE, PARTS)
# Stands in place of a grid, and of what a battery does there.
WITHOUT_GRID = {"off_grid": {"autonomy": 2.0, "depth": 70.0, "performance": 75.0, "inverter_margin": 30.0, "voltage": 24.0, "accepted_loss": 2.0, "generator": {
    "power": 3.0, "start": 25.0, "stop": 75.0, "least": 40.0, "fuel": 0.3, "idle": 0.1, "quiet": "22-7", "fuel_price": 2.0,
}}}  # fmt: skip

OFF_GRID_DOCUMENT = DOCUMENT | {"storage": DOCUMENT["storage"] | WITHOUT_GRID}
ON_BUS = {
    "site": {"latitude": 43.62, "longitude": 11.31},
    "surfaces": {"roof": {"tilt": 30}},
    "inverters": {"main": {"controller": "corvane-c60", "count": 1, "warmer": 3.0}},
    "subarrays": {"a": {"surface": "roof", "module": "quillon-410", "modules_per_string": 3, "strings": 3, "inverter": "main"}},
    "demand": {
        "sources": {
            "house": {"name": "House", "yearly": {"energy": 1800.0}},
            "lamps": {"name": "Lamps", "appliances": {"items": {"lamp": {"power": 40.0, "number": 3.0, "current": "DC"}}}},
        }
    },
    "storage": {
        "bank": {
            "energy": 9.0,
            "power": 3.0,
            "efficiency": 94.0,
            "converter": 96.0,
            "least": 5.0,
            "leakage": 3.0,
            "standby": 12.0,
        },
        "off_grid": {
            "voltage": 48.0,
            "inverter": "corvane-s3",
            "cables": {"battery": 2.5, "controllers": 4.0, "direct": 8.0, "drop": 1.5, "direct_drop": 2.0},
        },
    },
}
ON_DC_SIDE = DOCUMENT | {"storage": DOCUMENT["storage"] | {"bank": DOCUMENT["storage"]["bank"] | {"inverter": "main"}}}

# Leaves that are for people alone.
WORDS = {
    "name",
    "title",
    "maker",
    "source",
    "date",
    "year",
    "id",
    "digest",
    "format",
    "statement",
    "surge",
    "phase",
    "category",
}
ALIKE = ("surfaces", "inverters", "subarrays")  # collections of things of one kind
OTHERS = {
    "open rack": "integrated", "roof, flush": "open rack", "perez": "hay-davies", "fresnel": "ashrae", "faiman": "king", "conduit": "buried", "copper": "aluminium",
    "corvane-c60": "corvane-c20", "corvane-s3": "corvane-h6", "quillon-410": "thornby-250", "veltrane-430": "thornby-250", "thornby-250": "veltrane-430", "hexley-20": "corvane-4x", "corvane-4x": "hexley-20", "field": "roof", "roof": "field",
    "main": "side", "side": "main", "turning": "roof", "dish": "roof", "bench": "roof", "clearness": "neighbouring days", "ridley": "erbs", "mono": "CdTe", "poly": "mono",
    "buried": "conduit", "open air": "surface", "aluminium": "copper", "L2": "L3", "brackwell-50": "brackwell-100", "hexley-op600": "hexley-op450", "Europe/Rome": "Asia/Tokyo", "22-7": "21-6", "household": "office", "pellworth-5": "pellworth-10", "dear hours": "own use", "office": "shop", "shop": "farm", "7-12": "8-13", "weekdays": "every day", "6-8 18-21": "7-9", "by the sun": "at once", "cheapest hours": "at once", "at once": "by the sun", "8-17": "9-16", "8-20": "9-19", "9-12": "9-14", "10-12": "9-13", "05-01": "06-02", "12-25": "03-03", "6-22": "6-23", "22-6": "23-6", "0-24": "6-22", "month": "day", "plant": "kW", "kW": "plant", "% of purchase": "plant", "annuity": "bullet", "energy": "fixed", "fixed": "energy", "TT": "TN-S", "iec": "nec", "none": "bonded",
}  # fmt: skip


def leaves(value, path=()):
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from leaves(inner, (*path, key))
    elif isinstance(value, list) and value:
        for i in sorted({0, len(value) - 1}):  # the entries of a list are alike
            yield from leaves(value[i], (*path, i))
    else:
        yield path


def once_each(paths):
    """Of the things of a collection the first that has a field: a stage reads it of all of them alike."""
    found = {}
    for path in paths:
        found.setdefault((path[0], *path[2:]) if path[0] in ALIKE and len(path) > 2 else path, path)
    return list(found.values())


def value_at(document, path):
    for step in path:
        document = document[step]
    return document


def changed(path, whole=DOCUMENT) -> list[Design]:
    """Valid designs in which the leaf alone is another; several trials, since a value may be at the end of its range."""
    found = []
    old = value_at(whole, path)
    if isinstance(old, bool):
        trials = [not old]
    elif isinstance(old, str):
        trials = [OTHERS[old]] if old in OTHERS else ["other"]
    else:
        trials = [old + 1, old - 1] if isinstance(old, int) else [old * 1.004, old * 0.996, old + 0.5, old - 0.5]
    for new in trials:
        document = copy.deepcopy(whole)
        at = document
        for step in path[:-1]:
            at = at[step]
        at[path[-1]] = new
        try:
            found.append(Design.read(document))
        except ValueError:
            continue
    return found


def outcome(design: Design, cache: StageCache | None):
    results = simulate(design, WEATHER, PARTS, cache, {METER.digest: METER})
    used = results.after.demand
    demand = None if used is None else {key: float(power @ np.arange(power.size)) for key, power in used.by_source.items()}
    return results.annual, [entry.energy for entry in results.cascade.entries], figures_of(results), demand


@pytest.fixture(scope="module")
def warm():
    cache = StageCache()
    # The chain of stages is shared while somebody has it: the unchanged year is held as long as others are compared with it.
    held = simulate(Design.read(DOCUMENT), WEATHER, PARTS, cache, {METER.digest: METER})
    outcome(held.design, cache)
    yield cache
    assert held.first is not None


@pytest.fixture(scope="module")
def unchanged(warm):
    return outcome(Design.read(DOCUMENT), warm)


MOVED: list[bool] = []
SHEETS = [path for path in leaves(DOCUMENT) if path[0] == "parts" and path[-1] not in WORDS]
# A stage that reads a datasheet has all of it in its key: a third of its values stands for the rest.
EVERY = once_each(path for path in leaves(DOCUMENT) if path[0] != "parts" and path[-1] not in WORDS) + SHEETS[::3]


def test_the_whole_design_has_every_leaf_of_the_schema():
    """A field that is added to the design must be added to the document above, or this test does not look at it."""
    schema = Design.model_json_schema()["$defs"]
    present = {
        str(step)
        for document in (DOCUMENT, BY_HAND, SCENE_DOCUMENT, WITHOUT_GRID, ON_DC_SIDE, ON_BUS)
        for path in leaves(document)
        for step in path
    }
    for name in (
        "Site",
        "WeatherReference",
        "Surface",
        "Rows",
        "InverterSet",
        "StringCable",
        "CableRun",
        "AcCable",
        "Connection",
        "Wiring",
        "OwnRules",
        "SubArray",
        "Losses",
        "Models",
        "HorizonPoint",
        "Tracking",
        "TwoAxisTracking",
        "GapFilling",
        "HeightCorrection",
        "MonthlyFactors",
        "Calibration",
        "WarmerClimate",
        "SkyObstacle",
        "ShadeFactor",
        "RegionSite",
        "MapPicture",
        "ShadeTable",
        "TiltChange",
        "Layout",
        "PlacedModule",
        "Racks",
        "Source",
        "Appliance",
        "Appliances",
        "PerArea",
        "Interval",
        "Heating",
        "Cooling",
        "HotWater",
        "Vehicle",
        "Pump",
        "DemandCharge",
        "Storage",
        "Bank",
        "Peak",
        "OffGrid",
        "Generator",
        "Cost",
        "Upkeep",
        "Replacement",
        "Grant",
        "Loan",
        "TaxRelief",
    ):
        assert set(schema[name]["properties"]) <= present, name


@pytest.mark.parametrize("whole", [WHOLE, SCENE], ids=["whole", "scene"])
def test_every_part_that_a_design_names_is_copied_into_it(whole):
    """Whatever stands anywhere in the design under the id of a part is frozen, of every kind."""
    values = {value_at(whole, path) for path in leaves(whole)} - {None}
    named = {kind: {value for value in values if isinstance(value, str) and value in PARTS.of(kind)} for kind in KINDS}
    assert named["modules"] and named["inverters"]
    assert {kind: set(parts) for kind, parts in freeze(whole, PARTS)["parts"].items()} == {k: n for k, n in named.items() if n}


# What lies behind the meter: that the chain before it reads nothing of it is tried once, of all its leaves together.
BEHIND = ("demand", "storage", "money")


BEFORE_THE_METER = {
    "IntervalSun", "Weather", "SunAndWeather", "Attitude", "PlaneIrradiance", "EffectiveIrradiance", "ModulePower", "TrackerPower", "InverterOutput", "Balance",
}  # fmt: skip


@pytest.fixture(scope="module")
def to_the_meter():
    """Makes caches that have the chain before the meter, and nothing of what follows it."""
    whole = StageCache()
    outcome(Design.read(DOCUMENT), whole)
    kept = [(key, made) for shelf in (whole._lasting, whole._passing) for key, (made, _) in shelf.kept.items()]
    before = [(key, made) for key, made in kept if type(made).__name__ in BEFORE_THE_METER]
    assert {type(made).__name__ for _, made in before} == BEFORE_THE_METER, "each of these stages has results"

    def cold() -> StageCache:
        cache = StageCache()
        for key, made in before:
            cache._put(key, made, lasting=True)
        return cache

    return cold


def test_nothing_before_the_meter_reads_what_lies_behind_it(warm):
    """Every leaf behind it is another at once, with all that is kept of the unchanged year."""
    document = copy.deepcopy(DOCUMENT)
    moved = 0
    for path in (path for path in EVERY if path[0] in BEHIND):
        for design in changed(path, document)[:1]:
            document, moved = design.as_kept(), moved + 1
    assert moved > 100
    cold = outcome(Design.read(document), None)
    assert outcome(Design.read(document), warm) == cold


# Every third leaf is tried in the quick tests, all of them in the whole ones.
@pytest.mark.parametrize(
    "path",
    [pytest.param(path, id="/".join(map(str, path)), marks=[pytest.mark.slow] if i % 3 else []) for i, path in enumerate(EVERY)],
)
def test_a_changed_leaf_gives_the_same_with_a_warm_cache_as_cold(warm, unchanged, to_the_meter, path):
    designs = changed(path)
    if not designs:
        pytest.skip("no other value is valid by itself")
    cold = outcome(designs[0], to_the_meter() if path[0] in BEHIND else None)
    assert outcome(designs[0], warm) == cold
    MOVED.append(cold != unchanged)


@pytest.fixture(scope="module")
def warm_scene():
    cache = StageCache()
    held = simulate(Design.read(SCENE_DOCUMENT), WEATHER, PARTS, cache)
    outcome(held.design, cache)
    yield cache
    assert held.first is not None


ON_SCENE = [
    p
    for p in leaves({k: SCENE_DOCUMENT[k] for k in ("scene", "surfaces", "subarrays")})
    if p[-1] not in WORDS and (len(p) < 5 or p[3] != "modules" or p[4] in ("m3", "r5"))
]


@pytest.mark.parametrize(
    "path",
    [
        pytest.param(path, id="/".join(map(str, path)), marks=[pytest.mark.slow] if i % 4 else [])
        for i, path in enumerate(ON_SCENE)
    ],
)
def test_a_changed_leaf_of_the_scene_gives_the_same_with_a_warm_cache_as_cold(warm_scene, path):
    designs = changed(path, SCENE_DOCUMENT)
    if not designs:
        pytest.skip("no other value is valid by itself")
    warm_outcome = outcome(designs[0], warm_scene)
    near_shade.forget()
    assert warm_outcome == outcome(designs[0], None)


@pytest.mark.parametrize("path", [("storage", *path) for path in leaves(WITHOUT_GRID)], ids="/".join)
def test_a_changed_leaf_of_a_place_without_a_grid_gives_the_same_with_a_warm_cache_as_cold(warm, to_the_meter, path):
    for design in changed(path, OFF_GRID_DOCUMENT)[:1]:
        assert outcome(design, warm) == outcome(design, to_the_meter())


@pytest.mark.parametrize(
    "path",
    [
        pytest.param((room, *path), id="/".join(map(str, (room, *path))), marks=[pytest.mark.slow] if i % 4 else [])
        for room in ("inverters", "connection", "storage")
        for i, path in enumerate(leaves(ON_DC_SIDE[room]))
        if path[-1] not in WORDS
    ],
)
def test_a_changed_leaf_around_a_battery_on_the_dc_side_gives_the_same_with_a_warm_cache_as_cold(warm, to_the_meter, path):
    for design in changed(path, ON_DC_SIDE)[:1]:
        assert outcome(design, warm) == outcome(design, to_the_meter() if path[0] == "storage" else None)


@pytest.mark.parametrize(
    "path",
    [(room, *path) for room in ("inverters", "subarrays", "storage") for path in leaves(ON_BUS[room])],
    ids=lambda path: "/".join(map(str, path)),
)
def test_a_changed_leaf_of_a_battery_bus_gives_the_same_with_a_warm_cache_as_cold(path):
    cache = StageCache()
    outcome(Design.read(ON_BUS), cache)
    for design in changed(path, ON_BUS)[:1]:
        try:
            cold = outcome(design, None)
        except ValueError:  # a controller that the voltage is too high for, or a part that is none
            continue
        assert outcome(design, cache) == cold


@pytest.mark.parametrize("kind", BY_HAND)
def test_shade_by_hand_stands_in_place_of_all_that_is_calculated(warm, unchanged, kind):
    by_hand = Design.read(DOCUMENT | {"site": DOCUMENT["site"] | {kind: BY_HAND[kind]}})
    bare = {k: v for k, v in DOCUMENT["site"].items() if k not in ("horizon", "obstacles")}
    alone = Design.read(DOCUMENT | {"site": bare | {kind: BY_HAND[kind]}})
    assert outcome(by_hand, warm) == outcome(by_hand, None) == outcome(alone, warm) != unchanged


def test_the_designs_of_this_contract_differ_in_what_they_give():
    """The contract holds nothing if no leaf changes anything: most numbers of the design must move the year."""
    if len(MOVED) < 0.9 * len(EVERY):
        pytest.skip("the leaves were not all tried in this process")
    assert sum(MOVED) > 0.5 * len(MOVED)


@dataclasses.dataclass(frozen=True)
class Inputs:
    number: float
    words: tuple[str, ...] = ()


def test_a_key_tells_every_field_apart_and_refuses_what_it_cannot():
    assert key_of(Inputs(1.0)) == key_of(Inputs(1.0))
    assert len({key_of(Inputs(x, w)) for x in (1.0, math.nextafter(1.0, 2)) for w in ((), ("a",), ("a", "b"), ("ab",))}) == 8
    with pytest.raises(TypeError, match="ndarray"):
        key_of(Inputs(np.ones(3)))  # type: ignore[arg-type]
