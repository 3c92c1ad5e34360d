"""Shade and views of planes that move, against rays and against the exact view of each orientation."""

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.irradiance import fresnel
from noontide.core.irradiance.incidence import over_sky_and_ground
from noontide.core.irradiance.tracking import angle_about, rotation
from noontide.core.shading.horizon import Horizon, dome_view
from noontide.core.shading.rows import RowGeometry, section_shade, section_strip_lit, section_views, shaded_fraction
from noontide.core.shading.views import by_tilt, dome_views

HILLS = Horizon((20.0, 60.0, 85.0, 140.0, 250.0, 300.0), (2.0, 14.0, 6.0, 3.0, 18.0, 1.0))


@given(st.floats(-80, 80), st.floats(-70, 70), st.floats(-20, 20), st.floats(0.15, 0.9))
def test_shade_between_turning_rows_is_where_the_rays_over_the_neighbour_land(sun, turned, slope, cover):
    """Points across a row, each asked whether its ray to the sun meets a neighbour on either side; the ground slopes."""
    assume(abs(sun - turned) < 85)
    assume(abs(sun - slope) < 88)
    theta, lean, ground = np.radians([sun, turned, slope])
    along = np.array([np.cos(lean), -np.sin(lean)])  # across the row's width
    to_sun = np.array([np.sin(theta), np.cos(theta)])
    points = np.linspace(-0.5, 0.5, 2001)[:, np.newaxis] * along
    in_shade = np.zeros(2001, dtype=bool)
    for side in (1, -1):
        centre = side * np.array([np.cos(ground), -np.sin(ground)]) / cover
        # points + k to_sun = centre + t along
        solve = np.linalg.inv(np.column_stack([to_sun, -along]))
        k, t = solve @ (centre - points).T
        in_shade |= (k > 1e-9) & (np.abs(t) < 0.5)
    share = float(section_shade(np.array(sun - slope), np.array(turned - slope), cover))
    assert share == pytest.approx(in_shade.mean(), abs=2e-3)


@given(st.floats(0, 80), st.floats(0, 360), st.floats(-10, 10), st.floats(0.2, 0.8), st.floats(0, 15), st.floats(0, 360))
def test_rows_that_turn_back_shade_no_neighbour(zenith, azimuth, slope, level_cover, axis_tilt, axis_azimuth):
    turned = rotation(zenith, azimuth, axis_tilt, axis_azimuth, level_cover, slope, maximum=180.0)
    z, a = np.radians([zenith, azimuth])
    sun = angle_about(np.sin(z) * np.sin(a), np.sin(z) * np.cos(a), np.cos(z), axis_tilt, axis_azimuth)
    cover = level_cover * np.cos(np.radians(slope))
    assume(abs(sun - slope) < 89)
    assert section_shade(sun - slope, turned - slope, cover) < 1e-6


@given(st.floats(1, 80), st.floats(1, 179), st.floats(0.2, 0.9))
def test_fixed_rows_are_the_case_of_a_rotation_that_stays(tilt, profile, cover):
    assume(cover * np.cos(np.radians(tilt)) < 0.98)
    rows = RowGeometry(tilt, 180.0, 1.0, 1 / cover)
    psi, beta = np.radians([profile, tilt])
    expected = np.clip(1 - np.sin(psi) / np.sin(beta + psi) / cover, 0, 1) if profile + tilt < 179.9 else 0.0
    assert float(shaded_fraction(rows, np.array(profile))) == pytest.approx(expected, abs=1e-7)


@given(st.floats(-60, 60), st.floats(-60, 60), st.floats(0.1, 0.9))
def test_light_that_misses_the_rows_reaches_the_ground(sun, turned, cover):
    """What a row takes of the beam and what the strip gets are all there is, while no row shades another."""
    assume(section_shade(np.array(sun), np.array(turned), cover) == 0)
    taken = cover * abs(np.cos(np.radians(sun - turned)))
    lit = float(section_strip_lit(np.array(sun), np.array(turned), cover)) * np.cos(np.radians(sun))
    assert taken + lit == pytest.approx(np.cos(np.radians(sun)), abs=1e-9)


def test_views_of_many_tilts_are_those_of_each():
    tilts = np.array([0.0, 12.0, 37.5, 60.0])
    together = section_views(tilts, 0.45)
    for i, tilt in enumerate(tilts):
        alone = section_views(tilt, 0.45)
        assert_allclose([together.isotropic[i], together.band[i], together.ground[i], together.strip_sky[i]], [alone.isotropic, alone.band, alone.ground, alone.strip_sky], rtol=1e-12)  # fmt: skip


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 1000))
def test_the_dome_of_a_moving_plane_is_the_exact_one_at_any_of_its_orientations(seed):
    random = np.random.default_rng(seed)
    tilt, azimuth = random.uniform(0, 88, 60), random.uniform(0, 360, 60)
    views = dome_views(HILLS, tilt, azimuth, fresnel)
    exact = [dome_view(HILLS, float(t), float(a), fresnel) for t, a in zip(tilt, azimuth, strict=True)]
    assert_allclose(views.isotropic, [v.isotropic for v in exact], atol=2e-3)
    assert_allclose(views.isotropic_iam, [v.isotropic_iam for v in exact], atol=2e-3)
    # In the mean a third of what any one may be off; sixty random orientations vary by a half.
    assert np.mean(np.abs(views.isotropic - [v.isotropic for v in exact])) < 6e-4


def test_a_plane_that_turns_about_a_level_axis_is_exact_in_azimuth():
    tilt = np.linspace(0, 60, 200)
    azimuth = np.where(np.arange(200) % 2, 80.0, 260.0)
    views = dome_views(HILLS, tilt, azimuth, np.ones_like)
    exact = [dome_view(HILLS, float(t), float(a), np.ones_like).isotropic for t, a in zip(tilt, azimuth, strict=True)]
    assert_allclose(views.isotropic, exact, atol=2e-4)


def test_tables_over_the_tilt_are_exact_for_a_few_and_close_for_many():
    def find(tilt):
        return over_sky_and_ground(fresnel, tilt)

    few = by_tilt(find, np.array([7.3, 41.9, 7.3]))
    assert [few[0][0], few[1][1]] == [find(7.3)[0], find(41.9)[1]]
    many = np.random.default_rng(1).uniform(0, 90, 100)
    assert_allclose(by_tilt(find, many)[0], [find(float(t))[0] for t in many], atol=2e-5)
