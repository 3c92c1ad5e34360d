import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from noontide.core.irradiance import fresnel
from noontide.core.irradiance.incidence import mean_iam_of_sky
from noontide.core.shading.horizon import Horizon, dome_view
from noontide.core.shading.rows import (
    RowGeometry,
    lit_halves,
    profile_angle,
    row_views,
    shaded_fraction,
    shaded_groups,
    strip_lit_fraction,
)


def rows_of(tilt=30.0, pitch=5.0, width=2.0, azimuth=180.0, count=10):
    return RowGeometry(tilt, azimuth, width, pitch, count)


@st.composite
def row_fields(draw):
    tilt, width = draw(st.floats(1, 60)), draw(st.floats(0.5, 4))
    return rows_of(tilt, width * np.cos(np.radians(tilt)) + draw(st.floats(0.2, 8)), width)


@given(row_fields(), st.floats(1, 89))
def test_row_shade_is_where_the_ray_over_the_front_edge_lands(rows, elevation):
    """A ray through the front row's top, walked point by point down the next row's face."""
    beta, psi = np.radians(rows.tilt), np.radians(elevation)
    up = np.linspace(0, rows.width, 4001)
    x, z = up * np.cos(beta) + rows.pitch, up * np.sin(beta)
    top_x, top_z = rows.width * np.cos(beta), rows.width * np.sin(beta)
    in_shade = z < top_z - (x - top_x) * np.tan(psi) - 1e-12
    assert shaded_fraction(rows, np.array([elevation])).item() == pytest.approx(in_shade.mean(), abs=6e-4)


@given(row_fields())
def test_crossed_strings_agree_with_a_sum_over_angles(rows):
    """Sky view of points up the row, each open from the front row's top to the plane itself."""
    beta = np.radians(rows.tilt)
    up = (np.arange(2000) + 0.5) / 2000 * rows.width
    mask = np.arctan2((rows.width - up) * np.sin(beta), rows.pitch - (rows.width - up) * np.cos(beta))
    # A long strip between the angle of the mask and the plane's own edge: (1 + cos(tilt + mask)) / 2 of the dome.
    view = np.mean((1 + np.cos(beta + mask)) / 2)
    assert row_views(rows).isotropic * (1 + np.cos(beta)) / 2 == pytest.approx(view, rel=1e-4)


def test_rows_far_apart_are_lone_rows():
    far = row_views(rows_of(pitch=5000.0))
    assert_allclose([far.isotropic, far.ground, far.strip_sky], 1, atol=1e-3)
    assert shaded_fraction(rows_of(pitch=5000.0), np.array([5.0])) == 0


@pytest.mark.parametrize("profile", [100.0, 149.0, 170.0])
def test_the_sun_behind_throws_no_shade_on_a_face(profile):
    assert shaded_fraction(rows_of(), np.array([profile])) == 0


@given(row_fields(), st.floats(5, 85))
def test_beam_is_on_a_row_or_on_the_ground_between(rows, elevation):
    """What passes one pitch of the field is caught by the lit face and the lit ground: the section keeps its light."""
    psi, beta = np.radians(elevation), np.radians(rows.tilt)
    assume(psi + beta < np.pi - 0.02)
    lit_row = (1 - shaded_fraction(rows, np.array([elevation])).item()) * rows.width * np.sin(beta + psi)
    lit_ground = strip_lit_fraction(rows, np.array([elevation])).item() * rows.pitch * np.sin(psi)
    assert lit_row + lit_ground == pytest.approx(rows.pitch * np.sin(psi), rel=1e-9)


def test_profile_angle_equals_elevation_for_a_sun_straight_ahead():
    assert_allclose(profile_angle(np.array([60.0, 60.0]), np.array([180.0, 0.0]), 180.0), [30.0, 150.0])
    assert profile_angle(np.array([60.0]), np.array([90.0]), 180.0).item() == pytest.approx(90)


def test_groups_of_cells_round_the_shade_up():
    assert_allclose(shaded_groups(np.array([0, 0.01, 0.34, 1.0]), 3), [0, 1 / 3, 2 / 3, 1])


def test_half_cut_modules_keep_their_upper_half():
    assert_allclose(lit_halves(np.array([0, 0.01, 0.5, 0.51, 1.0])), [1, 0.5, 0.5, 0, 0])


def test_overlapping_rows_are_refused():
    with pytest.raises(ValueError, match="need a pitch over"):
        rows_of(tilt=10, pitch=1.9, width=2.0)


def test_a_ring_of_hills_leaves_the_closed_form_share_of_the_dome():
    """An even horizon of height h leaves cos² h of the isotropic light on the flat."""
    ring = Horizon((0.0, 120.0, 240.0), (20.0, 20.0, 20.0))
    assert dome_view(ring, 0, 0, fresnel).isotropic == pytest.approx(np.cos(np.radians(20)) ** 2, rel=1e-4)


@pytest.mark.parametrize("width", [0.5, 1.0, 1.7, 3.0, 40.0])
@pytest.mark.parametrize(("tilt", "azimuth"), [(0, 0), (35, 180), (90, 150)])
def test_a_mast_however_narrow_keeps_its_share_of_the_sky(width, tilt, azimuth):
    """A column of sky 40° high, against a plain sum over fine cells of the dome; 0.2 % of what it hides."""
    edge = 1e-6
    mast = Horizon((163.3, 163.3 + edge, 163.3 + edge + width, 163.3 + 2 * edge + width), (0.0, 40.0, 40.0, 0.0))
    hidden = 1 - dome_view(mast, tilt, azimuth, fresnel).isotropic
    beta, phi = np.radians(tilt), np.radians(163.3 + (np.arange(400) + 0.5) / 400 * width - azimuth)[:, None]
    high = np.radians((np.arange(2000) + 0.5) / 2000 * 40)
    cosine = np.maximum(np.cos(beta) * np.sin(high) + np.sin(beta) * np.cos(high) * np.cos(phi), 0)
    share = np.sum(cosine * np.cos(high)) * np.radians(width) / 400 * np.radians(40) / 2000 / (np.pi * (1 + np.cos(beta)) / 2)
    assert hidden == pytest.approx(share, rel=2e-3)


@pytest.mark.parametrize("tilt", [0, 20, 45, 90])
def test_without_hills_nothing_is_hidden(tilt):
    view = dome_view(Horizon(), tilt, 200, fresnel)
    assert (view.isotropic, view.band) == (pytest.approx(1, abs=1e-6), 1)
    assert view.isotropic_iam == pytest.approx(mean_iam_of_sky(fresnel, tilt), rel=1e-3)


def test_a_horizon_wraps_and_is_linear_between_its_points():
    line = Horizon((10.0, 350.0), (10.0, 0.0))
    assert_allclose(line.elevation_at(np.array([0.0, 10.0, 180.0, 355.0])), [5.0, 10.0, 5.0, 2.5])
    assert_allclose(line.beam_seen(np.array([84.0, 84.0]), np.array([10.0, 355.0])), [0, 1])


@pytest.mark.parametrize("wrong", [((0, 0), (1, 2)), ((20, 10), (1, 2)), ((1, 2), (1,))])
def test_a_tangled_horizon_is_refused(wrong):
    with pytest.raises(ValueError, match="horizon"):
        Horizon(*wrong)
