"""Planes that move, through the whole chain."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from pydantic import ValidationError

from noontide.core.access.sky_picture import day_of_planes, sun_paths
from noontide.core.brief.paragraphs import paragraphs
from noontide.core.checks import find_checks
from noontide.core.design import Design
from noontide.core.simulation import simulate
from noontide.core.sun import solar_position
from noontide.parts import built_in_parts
from tests.conftest import simulated_weather

PARTS = built_in_parts()
SITE = {"latitude": 43.62, "longitude": 11.31, "elevation": 412}
WEATHER = simulated_weather(43.62, 11.31, 412, 1)
ROWS = {"pitch": 5.0, "width": 2.0, "count": 20}
SEASONS = {"changes": {"a": {"month": 4, "tilt": 15}, "b": {"month": 10, "tilt": 55}}}


def design_of(surface, site=SITE):
    return Design.read(
        {
            "format": "noontide-design/5",
            "site": site,
            "surfaces": {"s": {"mounting": "open rack", **surface}},
            "inverters": {"i": {"model": "hexley-20"}},
            "subarrays": {
                "a": {"surface": "s", "module": "veltrane-430", "modules_per_string": 18, "strings": 2, "inverter": "i"}
            },
        }
    )


def year_of(surface, site=SITE, weather=WEATHER):
    return simulate(design_of(surface, site), weather, PARTS)


def share(results, key):
    return results.cascade[key].share


def test_one_tilt_by_hand_is_that_fixed_tilt_in_rows_behind_hills():
    hills = SITE | {"horizon": [{"azimuth": 60, "elevation": 8}, {"azimuth": 280, "elevation": 5}]}
    by_hand = year_of({"azimuth": 200, "rows": ROWS, "seasonal_tilt": {"changes": {"a": {"month": 3, "tilt": 28}}}}, hills)
    fixed = year_of({"azimuth": 200, "tilt": 28, "rows": ROWS}, hills)
    assert_allclose(by_hand.delivered, fixed.delivered, rtol=1e-9, atol=1e-6)


def test_an_axis_that_hardly_turns_is_a_level_plane():
    assert year_of({"tracking": {"maximum": 1}}).annual.plane_irradiation == pytest.approx(
        year_of({"tilt": 0}).annual.plane_irradiation, rel=0.02
    )


def test_two_axes_get_all_of_the_direct_normal_beam():
    results = year_of({"two_axis_tracking": {"maximum_tilt": 90}})
    assert_allclose(results.planes[0].beam, results.sky.dni, rtol=1e-12)


def test_the_more_freely_a_plane_moves_the_more_it_receives():
    received = [
        year_of(surface).annual.plane_irradiation
        for surface in (
            {"tilt": 33},
            {"seasonal_tilt": SEASONS, "azimuth": 180},
            {"tracking": {"maximum": 60}},
            {"two_axis_tracking": {}},
        )
    ]
    assert received == sorted(received)
    assert len(set(received)) == 4


@pytest.mark.parametrize("slope", [0, 6, -6])
def test_rows_that_turn_back_have_no_shade_of_beam_and_those_that_do_not_have(slope):
    with_it = year_of({"rows": ROWS, "tracking": {"maximum": 90, "slope": slope}})
    without = year_of({"rows": ROWS, "tracking": {"maximum": 90, "slope": slope, "backtracking": False}})
    # The sun may stand above the horizon and yet below the slope of the ground, which shades every row but the first.
    shade = with_it.planes[0].shaded
    assert np.all((shade < 1e-6) | (shade == 1))
    assert np.mean(shade == 1) < (0.1 if slope else 1e-9)
    assert np.mean(without.planes[0].shaded > 0.05) > 0.2
    assert share(with_it, "partial_shade") == pytest.approx(0, abs=1e-6)
    assert share(without, "partial_shade") < -0.05
    for results in (with_it, without):
        assert abs(results.cascade.residual) < 1e-9


def test_a_tracker_of_the_south_mirrors_one_of_the_north():
    """Over a whole year the sun of both turns the row as far."""
    south = SITE | {"latitude": -43.62}
    north_year, south_year = (year_of({"tracking": {"maximum": 60}}, site) for site in (SITE, south))
    lengths = [np.abs(r.attitudes[0].rotation).sum() for r in (north_year, south_year)]
    assert lengths[0] == pytest.approx(lengths[1], rel=0.01)


def test_at_the_pole_and_without_any_light_a_tracker_still_stands_somewhere():
    pole = {"latitude": 90.0, "longitude": 0.0}
    weather = simulated_weather(89.9, 0.0, 0, 0)
    for surface in ({"tracking": {}, "rows": ROWS}, {"two_axis_tracking": {}}, {"seasonal_tilt": SEASONS}):
        results = year_of(surface, pole, weather)
        assert np.isfinite(results.annual.energy)
        assert np.isfinite(results.quantity("plane_tilt")).all()


@pytest.mark.parametrize(
    ("surface", "said"),
    [
        ({"tracking": {}, "two_axis_tracking": {}}, "moves in one way"),
        ({"tracking": {}, "seasonal_tilt": SEASONS}, "moves in one way"),
        ({"two_axis_tracking": {}, "rows": ROWS}, "Remove the rows"),
        ({"tracking": {}, "rows": {"pitch": 1.9, "width": 2.0}}, "pitch over 2.00 m"),
        ({"seasonal_tilt": {"changes": {}}}, "at least 1"),
        ({"seasonal_tilt": {"changes": {"a": {"month": 2, "day": 30, "tilt": 1}}}}, "Month 2 has 29 days"),
        ({"seasonal_tilt": {"changes": {"a": {"month": 2, "tilt": 1}, "b": {"month": 2, "day": 1, "tilt": 9}}}}, "changes twice"),
        ({"tracking": {"maximum": 0}}, "greater than or equal to 1"),
    ],
)
def test_a_motion_that_cannot_be_is_refused_in_words(surface, said):
    with pytest.raises(ValidationError, match=said):
        design_of(surface)


def sentence(surface):
    found = next(p for p in paragraphs(design_of(surface), None, None) if p.bench == "surfaces")
    return "".join(run.text for run in found.runs)


def test_the_brief_says_how_a_surface_moves():
    assert sentence({"name": "Field", "tracking": {}, "rows": ROWS}) == (
        "On the Field (turning about a north-south axis up to ±55, backtracking, rows 5 apart) 36 modules. "
    )
    assert "turning about an axis towards S 12° W tilted 5 up to ±60)" in sentence(
        {"tracking": {"axis_azimuth": 192, "axis_tilt": 5, "maximum": 60}}
    )
    assert "following the sun on two axes, tilt up to 80)" in sentence({"two_axis_tracking": {}})
    assert "tilted by hand: 15 from 1 April, 55 from 1 October; azimuth 180S)" in sentence({"seasonal_tilt": SEASONS})


def codes(surface):
    return {check.rule: check for check in find_checks(year_of(surface)) if check.bench == "surfaces"}


def test_checks_of_surfaces_that_move():
    assert codes({"tracking": {}, "rows": ROWS}) == {}
    roof = codes({"tracking": {}, "mounting": "roof, flush"})["moving-mounting"]
    assert roof.remedies[0].patch == {"surfaces": {"s": {"mounting": "open rack"}}}
    off = codes({"tracking": {"backtracking": False}, "rows": {**ROWS, "pitch": 3.5}})["no-backtracking"]
    assert off.actual > off.limit == 3
    windy = float(np.quantile(WEATHER.wind, 0.5))
    assert "stowed" in codes({"tracking": {"stow_wind": max(windy, 3.0)}})
    assert "stowed" not in codes({"tracking": {"stow_wind": 59}})


def test_the_paths_of_the_sun_are_the_suns_own():
    paths = sun_paths(design_of({}).site, WEATHER.calendar)
    at = 200 * 144 + 61
    time = np.datetime64(f"{WEATHER.calendar.year}-01-01T00:00", "m") + np.timedelta64(at * 10 - 60, "m")
    sun = solar_position(time, 43.62, 11.31, 412)
    assert (paths.elevation[at], paths.azimuth[at]) == pytest.approx((90 - float(sun.apparent_zenith), float(sun.azimuth)))
    day = paths.elevation[172 * 144 : 173 * 144]
    assert day.argmax() / 6 == pytest.approx(paths.noon[172], abs=1 / 6)
    assert np.count_nonzero(day > 0) / 6 == pytest.approx(paths.day_length[172], abs=0.25)


def test_a_day_of_planes_has_those_that_move():
    document = design_of({"tracking": {"maximum": 60}}).as_kept()
    document["surfaces"] |= {"roof": {"tilt": 20}, "dish": {"two_axis_tracking": {}}}
    day = day_of_planes(Design.read(document), WEATHER.calendar, 172)
    assert set(day.stances) == {"s", "dish"}
    assert day.stances["s"].rotation[45] < -20 < 20 < day.stances["s"].rotation[105]
    assert_allclose(day.stances["dish"].tilt[60:84], day.zenith[60:84])
