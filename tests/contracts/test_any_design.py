"""Random designs with every kind of part beside every other: the balance closes, no limit is passed, nothing gives more than its light allows."""

import copy

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.storage_sizes import propose, size_curve
from noontide.core.checks import find_checks
from noontide.core.costs.bill import bill_of
from noontide.core.design.document import Design
from noontide.core.drawing import Text
from noontide.core.drawing.typeface import width_of
from noontide.core.drawings.one_line import one_line
from noontide.core.drawings.string_sheet import string_sheet
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.module_table import module_maximum
from noontide.core.figures.catalogue import figures_of
from noontide.core.plan.laying import proposed
from noontide.core.plan.layouts import plans_of
from noontide.core.report import PAGES, About, report_of
from noontide.core.simulation import StageCache, simulate
from noontide.parts import built_in_parts
from noontide.tariffs import built_in_tariffs
from tests.conftest import by_hand, simulated_weather

PARTS = built_in_parts()
WEATHER = simulated_weather(43.62, 11.31, 412, 1)
OPTIMISER = next(key for key, one in PARTS.optimisers.items() if one.power >= 430)
INVERTERS = sorted(key for key, unit in PARTS.inverters.items() if unit.kind in ("string", "micro", "hybrid"))
SCENE = {
    "buildings": {"barn": {"length": 20, "width": 10, "eave": 4, "gable": {"pitch": 25}}},
    "chimneys": {"c": {"on": "barn", "x": 2, "y": -2, "height": 1.5}},
    "trees": {"t": {"x": -5, "y": -10, "height": 9, "diameter": 6}},
    "walls": {"w": {"x": 4, "y": -8, "length": 6, "height": 6, "light": 0.4}},
    "grounds": {"yard": {"x": 60, "y": 0, "length": 30, "width": 20, "slope": 3}},
}
SURFACES = {
    "plane": {"tilt": 30, "azimuth": 150},
    "rows": {"tilt": 25, "azimuth": 190, "rows": {"pitch": 3, "width": 2, "count": 6, "cell_groups": 3}},
    "turning": {"rows": {"pitch": 4.5, "width": 2.1, "count": 6}, "tracking": {"axis_azimuth": 180, "backtracking": True}},
    "roof": {"face": "barn/roof-1", "layout": {"module": "veltrane-430", "most": 30}},
    "trackers": {
        "face": "yard/ground",
        "mounting": "open rack",
        "tracking": {},
        "layout": {"module": "veltrane-430", "most": 30, "racks": {"height": 1.2}},
    },
}


HOUSE = {"house": {"name": "House", "yearly": {"energy": 12_000}}}
CAR = {"car": {"name": "Car", "vehicle": {"timing": "by the sun"}}}
TARIFFS = {key: tariff.model_dump(mode="json", exclude_unset=True) for key, tariff in built_in_tariffs().items()}
STORAGES = [
    {}, {"bank": {"energy": 0}}, {"bank": {"model": "pellworth-10", "parallel": 3}, "peak": {}}, {"bank": {"energy": 30, "least": 20}, "serves": "dear hours", "reserve": 30},
    {"bank": {"energy": 5000, "power": 0.5}, "only_clipped": True}, {"bank": {"model": "tarnhelm-40", "series": 2}, "serves": "dear hours", "peak": {"limit": 3}, "from_grid": False},
]  # fmt: skip


def with_places():
    document = {"site": {"latitude": 43.62, "longitude": 11.31, "elevation": 412}, "scene": SCENE, "surfaces": SURFACES}
    plans = plans_of(Design.read(document), PARTS)
    document = copy.deepcopy(document)
    for key, plan in plans.items():
        document["surfaces"][key]["layout"]["modules"] = by_hand(proposed(plan))
    return document


PLACED = with_places()
BANKS = [{"energy": 12}, {"energy": 0}, {"energy": 3, "power": 0.3}, {"model": "pellworth-10", "parallel": 2}]


@st.composite
def designs(draw):
    document = copy.deepcopy(PLACED)
    document["inverters"] = {
        f"i{k}": {"model": draw(st.sampled_from(INVERTERS)), "count": draw(st.integers(1, 3)), "phase": draw(st.sampled_from([None, "L1", "L2"]))}
        for k in range(draw(st.integers(1, 2)))
    }  # fmt: skip
    document["subarrays"] = {}
    for k in range(draw(st.integers(1, 4))):
        surface = draw(st.sampled_from(sorted(SURFACES)))
        document["subarrays"][f"a{k}"] = {
            "surface": surface, "module": "veltrane-430" if surface == "roof" else draw(st.sampled_from(["veltrane-430", "quillon-410", "thornby-250"])),
            "modules_per_string": draw(st.integers(1, 20)), "strings": draw(st.integers(1, 3)), "inverter": draw(st.sampled_from(sorted(document["inverters"]))),
            "tracker": draw(st.integers(1, 2)), "optimiser": draw(st.sampled_from([None, None, "hexley-op600", "hexley-op450"])),
        }  # fmt: skip
    document["connection"] = draw(
        st.sampled_from([{}, {"cable": {"length": 40}, "power_factor": 0.9}, {"export_limit": 5, "cable": {"length": 20}}])
    )
    document["losses"] = {"year_of_operation": draw(st.sampled_from([1, 15])), "degradation": 0.5}
    document["demand"] = {"sources": draw(st.sampled_from([{}, HOUSE, HOUSE | CAR]))}
    document["money"] = draw(st.sampled_from([{}, {"tariff": TARIFFS["dairy-demand"]}, {"tariff": TARIFFS["valley-net"]}]))
    document["storage"] = copy.deepcopy(draw(st.sampled_from(STORAGES)))
    fed = document["subarrays"]["a0"]["inverter"]
    side = draw(st.sampled_from(["AC", "DC", "no grid", "bus"]))
    if side == "DC" and "bank" in document["storage"] and PARTS.inverters[document["inverters"][fed]["model"]].kind != "micro":
        document["storage"]["bank"]["inverter"] = fed
    elif side in ("no grid", "bus"):
        generator = draw(st.sampled_from([None, {"power": 3, "quiet": "22-7"}]))
        place = {"voltage": draw(st.sampled_from([24, 48]))} | ({"generator": generator} if generator else {})
        document["storage"] = {"bank": draw(st.sampled_from(BANKS)), "off_grid": place}
        if side == "bus":
            model = draw(st.sampled_from(["corvane-c60", "corvane-c20"]))
            document["inverters"] = {
                key: {"controller": model, "count": one["count"]} for key, one in document["inverters"].items()
            }
            for one in document["subarrays"].values():
                one["optimiser"], one["tracker"] = None, 1
    return document


def assert_sheets_tell_everything(results):
    """Every finding of the circuits is on the string sheet, every cable on the diagram, and no word stands on another or off the paper."""
    sheets = string_sheet(results, "Strings", "")
    words = squeezed(text_of(sheets))
    for check in find_checks(results):
        assert check.bench != "circuits" or (squeezed(check.title) in words and squeezed(check.detail) in words), check.title
    diagram = one_line(results, "a4", "Any", "Revision 1")
    drawn = text_of(diagram)
    for run in results.cables.runs:
        assert f"{run.choice.section:g} mm²" in drawn, run.title
    for sheet in [*sheets, *diagram]:
        assert_no_words_overlap(sheet)


def assert_report_has_every_page(results):
    """Every page is set or says why it is not, with the year's energy on the first one, and no table leaves its paper."""
    report = report_of(results, About("Any"), list(PAGES))
    assert set(report.pages) | {key for key, _ in report.left_out} == set(PAGES)
    assert f"{results.annual.energy:,.0f} kWh".replace("-", "−") in text_of(report.sheets[:1])
    for sheet in report.sheets:
        for mark in sheet.marks:
            assert not isinstance(mark, Text) or 0 <= mark.y <= sheet.height, mark.text


def text_of(sheets):
    return " ".join(mark.text for sheet in sheets for mark in sheet.marks if isinstance(mark, Text))


def squeezed(text):
    return "".join(text.split())


def assert_no_words_overlap(sheet):
    boxes = []
    for mark in sheet.marks:
        if isinstance(mark, Text) and mark.text.strip():
            wide = width_of(mark.text, mark.size, mark.is_bold)
            left = mark.x - {"start": 0, "middle": wide / 2, "end": wide}[mark.anchor]
            boxes.append((left, left + wide, mark.y - 0.7 * mark.size, mark.y, mark.text))
            assert left > -0.01 and left + wide < sheet.width + 0.01, mark.text
    for n, (a0, a1, b0, b1, one) in enumerate(boxes):
        for c0, c1, d0, d1, other in boxes[n + 1 :]:
            apart = a1 <= c0 + 0.3 or c1 <= a0 + 0.3 or b1 <= d0 + 0.3 or d1 <= b0 + 0.3
            assert apart, (one, other)


@pytest.mark.slow
@settings(max_examples=30)
@given(designs())
def test_any_design_closes_and_keeps_every_limit(document):
    design = Design.read(document)
    results = simulate(design, WEATHER, PARTS)
    assert results.cascade.residual < 1e-9
    plant = results.plant
    for k, subarray in enumerate(plant.subarrays):
        point, effective = results.subarray(k).point, results.effective[k]
        allowed = plant.inverters[plant.inverter_of[k]].tracker_input(subarray.tracker).current
        for values in (point.voltage, point.current, results.subarray(k).power):
            assert np.isfinite(values).all() and values.min() >= 0
        assert point.current.max() <= allowed * (1 + 1e-6)
        # No more than all modules in the brightest light of the surface, without a loss.
        parameters = fit_module(plant.modules[k]).parameters
        best = module_maximum(parameters, effective.direct + effective.diffuse, results.modules[k].cell_temperature).hot.power
        count = subarray.modules_per_string * subarray.strings
        assert np.all(point.power <= best * results.modules[k].rating * count * (1 + 1e-3) + 0.1)
        if (optimiser := plant.optimisers[k]) is not None:
            assert point.current.max() <= optimiser.output_current * subarray.strings * (1 + 1e-6)
        if point.banks is not None:
            assert point.banks.current.sum(axis=0).max() <= allowed * len(point.banks.current) * (1 + 1e-6)
    for unit, output in zip(plant.inverters, results.grid, strict=True):
        assert output.delivered.max() <= unit.ac_power * (1 + 1e-9)
    m = results.after.metered
    made = m.produced + m.imported + m.discharge + m.generated
    used = m.demand - m.unmet + m.own_use + m.sun_stored + m.grid_stored + m.exported
    assert np.allclose(made, used, rtol=0, atol=1e-9)
    assert min(float(flow.min()) for flow in vars(m).values() if isinstance(flow, np.ndarray)) >= -1e-12
    if (limit := design.connection.export_limit) is not None:
        assert m.exported.max() <= limit * results.calendar.hours_per_interval + 1e-9
    if (battery := battery_year(results)) is not None:
        most = float(results.after.storage.battery.charge_power) + 1e-9
        assert m.stored.max() <= battery.energy + 1e-9 and (m.sun_stored + m.grid_stored).max() <= most
        assert battery.lost > -1e-6 and np.isfinite(list(filter(None, figures_of(results).values()))).all()
        assert propose(results, size_curve(results)) is None or results.after.has_demand
    # Everything that speaks of it speaks, whatever the design.
    assert all(check.title and check.detail for check in find_checks(results))
    assert bill_of(results, PARTS).lines
    assert_sheets_tell_everything(results)
    assert_report_has_every_page(results)
    assert "nan" not in " ".join(check.detail for check in find_checks(results)).lower().split()


def test_optimised_strings_beside_shaded_ones_on_two_inverters():
    """The shaded strings differ from inverter to inverter, the optimised ones do not; together they pass the tracker's current."""
    document = copy.deepcopy(PLACED)
    document["inverters"] = {"i": {"model": "hexley-20", "count": 2}}
    strings = {"module": "veltrane-430", "modules_per_string": 16, "inverter": "i", "tracker": 1}
    document["subarrays"] = {
        "shaded": strings | {"surface": "roof", "modules_per_string": 15, "strings": 1},
        "apart": strings | {"surface": "plane", "strings": 3, "optimiser": OPTIMISER},
    }
    results = simulate(Design.read(document), WEATHER, PARTS)
    allowed = results.plant.inverters[0].tracker_input(1).current
    points = [results.subarray(k).point for k in range(2)]
    assert points[0].banks is not None
    assert sum(p.current for p in points).max() <= allowed * (1 + 1e-6)
    assert max(points[1].current) > 0.3 * allowed
    assert results.cascade.residual < 1e-9


@pytest.mark.slow
@settings(max_examples=6)
@given(designs())
def test_the_same_design_gives_the_same_year_beside_another_in_the_cache(document):
    cache = StageCache()
    simulate(Design.read({**document, "losses": {}}), WEATHER, PARTS, cache)
    warm = simulate(Design.read(document), WEATHER, PARTS, cache)
    cold = simulate(Design.read(document), WEATHER, PARTS)
    assert warm.annual.energy == cold.annual.energy
