import numpy as np
import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.checks import find_checks
from noontide.core.design import Design, merge_patch
from noontide.core.figures.workings import working, working_keys
from noontide.core.simulation import StageCache, UnknownPart, simulate
from noontide.core.simulation.quantities import QUANTITIES
from noontide.core.weather import fill_missing_columns
from noontide.parts import built_in_parts
from tests.conftest import simulated_weather

PARTS = built_in_parts()
WEATHERS = [
    simulated_weather(43.62, 11.31, 412, 1),
    simulated_weather(-43.18, 172.9, 6, 12),
    simulated_weather(78, 15, 10, 1),
    simulated_weather(0, -60, 50, -4),
]
percent = st.floats(0, 10)


@st.composite
def motions(draw, rows):
    """Any way to move, or none."""
    turning = {"axis_azimuth": draw(st.floats(0, 360)), "axis_tilt": draw(st.floats(0, 60)), "slope": draw(st.floats(-30, 30))}
    turning |= {
        "maximum": draw(st.floats(1, 90)),
        "backtracking": draw(st.booleans()),
        "stow_wind": draw(st.none() | st.floats(3, 20)),
    }
    changes = {
        f"c{month}": {"month": month, "tilt": draw(st.floats(0, 90))} for month in draw(st.sets(st.integers(1, 12), min_size=1))
    }
    ways = [{}, {"tracking": turning}, {"seasonal_tilt": {"changes": changes}}]
    return draw(st.sampled_from(ways if rows else [*ways, {"two_axis_tracking": {"maximum_tilt": draw(st.floats(1, 90))}}]))


@st.composite
def schemes(draw):
    """Any design: hills, rows, several surfaces and inverters, every choice of model."""
    horizon = [{"azimuth": 40.0 * i, "elevation": e} for i, e in enumerate(draw(st.lists(st.floats(0, 30), max_size=8)))]
    surfaces = {}
    for i in range(draw(st.integers(1, 3))):
        tilt = draw(st.floats(0, 90))
        rows = (
            {"width": 2.0, "pitch": 2.1 + draw(st.floats(0, 6)), "cell_groups": draw(st.integers(1, 3))}
            if draw(st.booleans())
            else None
        )
        surfaces[f"s{i}"] = (
            {"tilt": tilt, "azimuth": draw(st.floats(0, 360))} | ({"rows": rows} if rows else {}) | draw(motions(rows))
        )
    subarrays = {
        f"a{i}": {
            "surface": draw(st.sampled_from(sorted(surfaces))),
            "module": draw(st.sampled_from(sorted(PARTS.modules))),
            "modules_per_string": draw(st.integers(1, 30)),
            "strings": draw(st.integers(1, 6)),
            "inverter": draw(st.sampled_from(["i0", "i1"])),
            "tracker": draw(st.integers(1, 2)),
        }
        for i in range(draw(st.integers(1, 4)))
    }
    losses = {
        name: draw(percent)
        for name in ("soiling", "quality", "light_induced", "mismatch", "dc_wiring", "ac_wiring", "unavailability")
    }
    models = {
        "transposition": draw(st.sampled_from(["perez", "reindl", "hay-davies", "isotropic"])),
        "incidence": draw(st.sampled_from(["fresnel", "martin-ruiz", "ashrae", "datasheet", "none"])),
        "temperature": draw(st.sampled_from(["faiman", "noct", "king"])),
    }
    inverters = {
        name: {"model": draw(st.sampled_from(sorted(PARTS.inverters))), "count": draw(st.integers(1, 3))} for name in ("i0", "i1")
    }
    site = {"latitude": 43.0, "longitude": 11.0, "horizon": horizon}
    return Design.read(
        {"site": site, "surfaces": surfaces, "inverters": inverters, "subarrays": subarrays, "losses": losses, "models": models}
    )


# A failing design is read as it is: making it smaller would take minutes.
@settings(max_examples=25, phases=[Phase.explicit, Phase.reuse, Phase.generate])
@given(schemes(), st.sampled_from(WEATHERS))
def test_the_cascade_closes_for_any_design_in_every_hour(scheme, weather):
    place = {"latitude": weather.place.latitude, "longitude": weather.place.longitude}
    scheme = Design.read(merge_patch(scheme.as_kept(), {"site": place}))
    results = simulate(scheme, weather, PARTS)
    assert results.cascade.residual < 1e-9
    assert results.annual.energy == pytest.approx(results.cascade.delivered, rel=1e-12)
    assert np.isfinite(results.delivered).all()
    for entry in results.cascade.entries:
        # Facing, light and warmth may gain; so may one of several unlike strings, but not their tracker.
        if not entry.line.may_gain:
            assert entry.energy <= 1e-6 * abs(results.cascade.start), entry.key


def test_a_designed_roof_gives_figures_of_the_right_size(roof, hill_weather):
    """Middle latitudes, good roof: 1,300 to 1,600 kWh/kW and a ratio of 0.80 to 0.90 are what is measured there."""
    annual = simulate(roof, hill_weather, PARTS).annual
    assert 1300 < annual.specific_yield < 1600
    assert 0.80 < annual.performance_ratio < 0.90
    assert annual.temperature_corrected_performance_ratio > annual.performance_ratio
    assert annual.capacity_factor == pytest.approx(annual.energy / (20 * 8760))
    assert annual.performance_ratio == pytest.approx(annual.specific_yield / annual.reference_yield)
    assert sum(annual.monthly_energy) == pytest.approx(annual.energy)


def test_two_inverters_alike_give_twice_of_one(roof_document, hill_weather):
    one = simulate(Design.read(roof_document), hill_weather, PARTS).annual
    two = simulate(Design.read(merge_patch(roof_document, {"inverters": {"main": {"count": 2}}})), hill_weather, PARTS).annual
    assert two.energy == pytest.approx(2 * one.energy, rel=1e-9)
    assert two.specific_yield == pytest.approx(one.specific_yield, rel=1e-9)


def test_east_and_west_are_alike_under_a_sky_that_is(roof_document):
    """A symmetric year: every day's light is the mean of the day and of its mirror image about solar noon."""
    weather = simulated_weather(43.62, 15.0, 0, 1)
    scheme = {"site": {"latitude": 43.62, "longitude": 15.0}}
    clear = weather.ghi.reshape(365, 24)
    mirrored = fill_missing_columns(
        weather.calendar,
        weather.place,
        {"ghi": ((clear + clear[:, ::-1]) / 2).ravel(), "temperature": np.full(8760, 10.0)},
        title="mirrored",
    )
    east, west = (
        simulate(
            Design.read(merge_patch(roof_document, scheme | {"surfaces": {"barn": {"azimuth": azimuth}}})),
            mirrored,
            PARTS,
        ).annual.energy
        for azimuth in (90, 270)
    )
    # The equation of time shifts the sun by up to a quarter of an hour, more to one side than to the other.
    assert east == pytest.approx(west, rel=0.01)


@pytest.mark.parametrize("step", [30, 15])
def test_finer_steps_of_the_same_hours_change_little(roof, hill_weather, step):
    fine = type(hill_weather.calendar)(2026, step, 1)
    repeat = 60 // step
    columns = {name: np.repeat(getattr(hill_weather, name), repeat) for name in ("ghi", "temperature", "wind", "pressure")}
    weather = fill_missing_columns(fine, hill_weather.place, columns, title="finer")
    hourly, finer = (simulate(roof, w, PARTS).annual.energy for w in (hill_weather, weather))
    assert finer == pytest.approx(hourly, rel=0.01)


def test_an_edit_gives_the_same_with_a_warm_cache_as_cold(roof_document, hill_weather):
    cache = StageCache()
    for patch in (
        {},
        {"surfaces": {"barn": {"tilt": 35}}},
        {"losses": {"soiling": 4}},
        {"inverters": {"main": {"count": 2}}},
        {"models": {"transposition": "isotropic"}},
    ):
        scheme = Design.read(merge_patch(roof_document, patch))
        warm, cold = simulate(scheme, hill_weather, PARTS, cache), simulate(scheme, hill_weather, PARTS)
        assert warm.summary() == cold.summary()


def test_a_shared_cache_tells_inverters_apart_by_their_names(hill_weather):
    """The same two models under swapped names: the strings hang on the other one each, and must not be mixed up."""
    cache = StageCache()

    def energy(inverters: dict, cache: StageCache | None) -> float:
        strings = {"module": "veltrane-430", "modules_per_string": 14, "strings": 2}
        document = {
            "site": {"latitude": 43.62, "longitude": 11.31},
            "surfaces": {"south": {"tilt": 30}, "north": {"tilt": 30, "azimuth": 0}},
            "inverters": inverters,
            "subarrays": {
                "s": {"surface": "south", "inverter": "one"} | strings,
                "n": {"surface": "north", "inverter": "two"} | strings,
            },
        }
        return simulate(Design.read(document), hill_weather, PARTS, cache).annual.energy

    for inverters in (
        {"one": {"model": "hexley-8"}, "two": {"model": "hexley-20"}},
        {"two": {"model": "hexley-8"}, "one": {"model": "hexley-20"}},
    ):
        assert energy(inverters, cache) == energy(inverters, None)


def test_the_cache_is_bounded_in_bytes(roof_document, hill_weather):
    cache = StageCache(limit=2_000_000)
    for tilt in range(5, 30, 5):
        simulate(Design.read(merge_patch(roof_document, {"surfaces": {"barn": {"tilt": tilt}}})), hill_weather, PARTS, cache)
        assert cache.bytes <= 2_000_000
    assert len(cache) > 3


def test_stages_leave_the_weather_as_it_was(roof, hill_weather):
    before = {name: getattr(hill_weather, name).copy() for name in ("ghi", "dni", "dhi", "temperature")}
    simulate(roof, hill_weather, PARTS)
    for name, values in before.items():
        assert_allclose(getattr(hill_weather, name), values, rtol=0)


def test_light_after_sunset_is_counted(roof, hill_weather):
    late = hill_weather.ghi.copy()
    late[0] = 5.0  # an hour after midnight
    columns = {"ghi": late, "dni": hill_weather.dni, "dhi": hill_weather.dhi, "temperature": hill_weather.temperature}
    results = simulate(roof, fill_missing_columns(hill_weather.calendar, hill_weather.place, columns, title="late"), PARTS)
    assert results.annual.horizontal_irradiation == pytest.approx(late.sum() / 1000)
    assert results.cascade.residual < 1e-9


def test_hourly_quantities_sum_to_the_cascade(roof, hill_weather):
    results = simulate(roof, hill_weather, PARTS)
    table = results.hourly()
    assert len(table) == 8760
    assert table["delivered [W]"].sum() / 1000 == pytest.approx(results.annual.energy)
    for entry in results.cascade.entries:
        if f"loss_{entry.key} [W]" in table:
            assert -table[f"loss_{entry.key} [W]"].sum() / 1000 == pytest.approx(entry.energy, abs=1e-6)
    assert set(QUANTITIES) == {column.split(": ")[-1].split(" [")[0] for column in table.columns}


def test_every_figure_shows_its_working(roof, hill_weather):
    results = simulate(roof, hill_weather, PARTS)
    for key in working_keys(results):
        shown = working(results, key)
        assert shown.equation and shown.inputs and shown.source
        assert shown.value == pytest.approx(getattr(results.annual, key, shown.value))
    with pytest.raises(KeyError):
        working(results, "luck")


@pytest.mark.parametrize(
    ("patch", "rule"),
    [
        ({"subarrays": {"south": {"modules_per_string": 26}}}, "cold-open-circuit"),
        ({"subarrays": {"south": {"modules_per_string": 4}}}, "hot-working-voltage"),
        ({"subarrays": {"south": {"strings": 3}}}, "short-circuit-current"),
        ({"subarrays": {"south": {"strings": 3}}}, "tracker-current"),
        ({"subarrays": {"south": {"modules_per_string": 24}}}, "cold-working-voltage"),
        (
            {"inverters": {"main": {"model": "hexley-10"}}, "subarrays": {"south": {"modules_per_string": 12}}},
            "full-power-voltage",
        ),
        ({"inverters": {"main": {"model": "hexley-8"}}}, "dc-power"),
        (
            {"inverters": {"main": {"model": "corvane-6t"}}, "subarrays": {"south": {"strings": 1, "modules_per_string": 22}}},
            "clipping",
        ),
        ({"subarrays": {"south": {"tracker": 5}}}, "no-such-tracker"),
        ({"surfaces": {"barn": {"area": 20}}}, "surface-area"),
        ({"site": {"latitude": 45}}, "weather-far"),
        ({"site": {"elevation": 1500}}, "weather-high"),
        ({"inverters": {"main": {"model": "hexley-110"}}}, "small-array"),
        (
            {"subarrays": {"more": {"surface": "barn", "module": "veltrane-430", "modules_per_string": 12, "inverter": "main"}}},
            "dissimilar-lengths",
        ),
    ],
)
def test_what_is_wrong_is_found_and_its_remedy_mends_it(roof_document, hill_weather, patch, rule):
    document = merge_patch(roof_document, patch)
    found = {c.rule: c for c in find_checks(simulate(Design.read(document), hill_weather, PARTS))}
    assert rule in found
    check = found[rule]
    assert check.margin > 0
    for remedy in check.remedies:
        mended = Design.read(merge_patch(document, remedy.patch))
        assert rule not in {c.rule for c in find_checks(simulate(mended, hill_weather, PARTS))}


def test_a_tracker_for_which_no_fuse_is_made_is_an_error_with_its_remedy(roof_document, hill_weather):
    """A module of 13.9 A that allows 20 A takes no fuse from 20.9 A on, and no third string without one."""
    module = PARTS.modules["veltrane-430"].model_copy(update={"isc": 13.9, "imp": 13.0, "vmp": 33.1, "maximum_series_fuse": 20.0})
    own = {"modules": {"own": module.model_dump(mode="json") | {"id": "own"}}}
    patch = {
        "parts": own,
        "subarrays": {"south": {"module": "own", "strings": 3}},
        "inverters": {"main": {"model": "hexley-110"}},
    }
    document = merge_patch(roof_document, patch)
    found = {c.rule: c for c in find_checks(simulate(Design.read(document), hill_weather, PARTS))}
    check = found["string-fuses"]
    assert check.severity == "error" and check.actual == pytest.approx(20.85) and check.limit == 20
    mended = Design.read(merge_patch(document, check.remedies[0].patch))
    assert mended.subarrays["south"].strings == 2
    assert "string-fuses" not in {c.rule for c in find_checks(simulate(mended, hill_weather, PARTS))}


def test_a_sound_design_has_no_errors(roof, hill_weather):
    assert [c for c in find_checks(simulate(roof, hill_weather, PARTS)) if c.severity == "error"] == []


def test_an_unknown_part_is_named_with_its_place(roof_document, hill_weather):
    document = merge_patch(roof_document, {"subarrays": {"south": {"module": "nobody-1"}}})
    with pytest.raises(UnknownPart, match="no module 'nobody-1'") as caught:
        simulate(Design.read(document), hill_weather, PARTS)
    assert caught.value.pointer == "/subarrays/south/module"


def test_a_row_field_loses_more_than_a_lone_row(roof_document, hill_weather):
    def energy(rows):
        return simulate(
            Design.read(merge_patch(roof_document, {"surfaces": {"barn": {"rows": rows}}})), hill_weather, PARTS
        ).annual.energy

    lone, wide, tight = energy(None), energy({"pitch": 8}), energy({"pitch": 3})
    assert lone > wide > tight
