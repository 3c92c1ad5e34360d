"""Weather that cannot be: clocks that are off, beams above the sun's own, no light at all."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.checks import find_checks
from noontide.core.design import Design, merge_patch
from noontide.core.simulation import simulate
from noontide.core.sun import interval_sun
from noontide.core.weather import fill_missing_columns
from noontide.core.weather.closure import closure
from noontide.parts import built_in_parts
from tests.conftest import SOUTH_ROOF, simulated_weather

PARTS = built_in_parts()
WEATHER = simulated_weather(43.62, 11.31, 412, 1)
MODELS = ["perez", "reindl", "hay-davies", "isotropic"]


def design(tilt=90.0, azimuth=0.0, **more) -> Design:
    return Design.read(merge_patch(SOUTH_ROOF, {"surfaces": {"barn": {"tilt": tilt, "azimuth": azimuth}}} | more))


def moved(hours: int):
    names = ("ghi", "dni", "dhi", "temperature", "wind", "pressure")
    return replace(
        WEATHER,
        **{name: np.roll(getattr(WEATHER, name), hours) for name in names},
        given=("ghi", "temperature", "wind", "pressure"),
    )


@settings(max_examples=12)
@given(st.integers(-12, 12), st.floats(0, 90), st.floats(0, 360), st.sampled_from(MODELS))
def test_no_clock_makes_a_plane_brighter_than_the_sun_without_an_error(hours, tilt, azimuth, model):
    results = simulate(design(tilt, azimuth, models={"transposition": model}), moved(hours), PARTS)
    brightest = results.planes[0].free.max()
    if brightest > 1500:
        assert "irradiance-implausible" in {c.rule for c in find_checks(results) if c.severity == "error"}
    assert brightest < 3000
    assert results.modules[0].cell_temperature.max() < 130
    assert results.cascade.residual < 1e-9


@pytest.mark.parametrize("hours", [-6, -2, 2, 6])
def test_a_clock_off_by_more_than_an_hour_is_an_error_and_its_remedy_fixes_it(hours):
    results = simulate(design(30, 180), moved(hours), PARTS)
    (check,) = [c for c in find_checks(results) if c.rule == "weather-clock"]
    assert (check.severity, check.actual) == ("error", abs(hours))
    patch = merge_patch({"weather": {"digest": "0" * 32}}, check.remedies[0].patch)
    fixed = Design.read(merge_patch(results.design.as_kept(), patch))
    again = simulate(fixed, moved(hours), PARTS)
    assert "weather-clock" not in {c.rule for c in find_checks(again)}
    assert again.annual.energy == pytest.approx(simulate(design(30, 180), WEATHER, PARTS).annual.energy, rel=1e-9)


@pytest.mark.parametrize("model", MODELS)
def test_light_at_night_is_isotropic_diffuse(model):
    """A lamp at midnight: half of it falls on a wall, whichever way the wall faces."""
    lamp = np.zeros(8760)
    lamp[::24] = 40.0
    columns = {"ghi": WEATHER.ghi + lamp, "dni": WEATHER.dni, "dhi": WEATHER.dhi + lamp, "temperature": WEATHER.temperature}
    weather = fill_missing_columns(WEATHER.calendar, WEATHER.place, columns, title="lamp")
    by_azimuth = [
        simulate(design(90, azimuth, models={"transposition": model}), weather, PARTS).quantity("poa")[::24]
        for azimuth in (0, 180)
    ]
    # Half of the sky, and half of what ground of albedo 0.2 reflects.
    assert np.allclose(by_azimuth, 40 * (0.5 + 0.2 * 0.5))


@pytest.mark.parametrize("model", MODELS)
def test_a_beam_above_the_extraterrestrial_is_capped_and_reported(model):
    columns = {name: getattr(WEATHER, name) for name in ("ghi", "dhi", "temperature")} | {"dni": WEATHER.dni * 2.5}
    weather = fill_missing_columns(WEATHER.calendar, WEATHER.place, columns, title="strong")
    results = simulate(design(30, 180, models={"transposition": model}), weather, PARTS)
    assert np.all(results.sky.dni <= results.sky.extraterrestrial * (1 + 1e-12))
    assert np.all(results.planes[0].free >= 0)
    assert {"weather-beam", "weather-closure"} <= {c.rule for c in find_checks(results)}


def test_beam_on_the_horizontal_in_the_dni_column_is_named_and_its_remedy_gives_the_energy_back():
    sun = interval_sun(WEATHER.calendar, 43.62, 11.31, 412)
    horizontal = np.zeros(8760)
    horizontal[sun.interval_index] = WEATHER.dni[sun.interval_index] * sun.cos_zenith
    columns = {name: getattr(WEATHER, name) for name in ("ghi", "dhi", "temperature", "wind")}
    wrong = fill_missing_columns(WEATHER.calendar, WEATHER.place, columns | {"dni": horizontal}, title="wrong")
    right = fill_missing_columns(WEATHER.calendar, WEATHER.place, columns | {"dni": WEATHER.dni}, title="right")
    results = simulate(design(30, 180), wrong, PARTS)
    (check,) = [c for c in find_checks(results) if c.rule == "weather-closure"]
    assert check.severity == "error"
    assert "beam on the horizontal" in check.detail
    true = simulate(design(30, 180), right, PARTS)
    assert "weather-closure" not in {c.rule for c in find_checks(true)}
    assert results.annual.energy < 0.9 * true.annual.energy
    fixed = merge_patch(results.design.as_kept(), merge_patch({"weather": {"digest": "0" * 32}}, check.remedies[0].patch))
    assert simulate(Design.read(fixed), wrong, PARTS).annual.energy == pytest.approx(true.annual.energy, rel=2e-3)


def test_a_swapped_column_is_a_closure_finding_with_figures():
    columns = {"ghi": WEATHER.ghi, "dni": WEATHER.dhi, "dhi": WEATHER.dni, "temperature": WEATHER.temperature}
    weather = fill_missing_columns(WEATHER.calendar, WEATHER.place, columns, title="swapped")
    found = closure(weather, interval_sun(weather.calendar, 43.62, 11.31, 412))
    assert found is not None and not found.is_beam_horizontal
    assert found.hours_off > 500
    residual = weather.ghi[found.worst_interval] - weather.dhi[found.worst_interval]
    assert abs(found.worst) <= abs(residual) + weather.dni[found.worst_interval]


def test_three_columns_of_which_one_was_derived_cannot_contradict_each_other():
    columns = {"ghi": WEATHER.ghi, "temperature": WEATHER.temperature}
    weather = fill_missing_columns(WEATHER.calendar, WEATHER.place, columns, title="one")
    assert closure(weather, interval_sun(weather.calendar, 43.62, 11.31, 412)) is None


def test_a_dark_year_closes():
    dark = {"ghi": np.zeros(8760), "temperature": np.full(8760, 5.0)}
    results = simulate(design(30, 180), fill_missing_columns(WEATHER.calendar, WEATHER.place, dark, title="dark"), PARTS)
    assert results.cascade.residual < 1e-12
    assert results.annual.energy < 0
    assert (results.annual.performance_ratio, results.annual.specific_yield < 0) == (0.0, True)
    find_checks(results)


def test_shade_given_by_hand_is_a_loss_and_not_a_dimmer_plane(hill_weather, parts, roof_document):
    """IEC 61724-1: the reference yield is that of an unshaded sensor in the plane, whatever shades the array."""
    clear = simulate(Design.read(roof_document), hill_weather, parts).annual
    given = {"is_measured": True, "statement": "Measured on site", "factor": 0.8}
    shaded_document = roof_document | {"site": roof_document["site"] | {"shade_factor": given}}
    shaded = simulate(Design.read(shaded_document), hill_weather, parts).annual
    assert shaded.plane_irradiation == pytest.approx(clear.plane_irradiation, rel=1e-12)
    assert shaded.performance_ratio / clear.performance_ratio == pytest.approx(shaded.energy / clear.energy, rel=1e-12)
    assert 0.7 < shaded.energy / clear.energy < 0.85
