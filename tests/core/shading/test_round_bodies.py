"""What is round casts as it is: against rays through ellipsoids and cylinders, for any place, tilt and sun."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.scene import Scene, build_scene
from noontide.core.shading import shaded_fraction

RAYS = 160


def rays(quad, azimuth, elevation):
    """Points all over a rectangle, and the direction toward the sun."""
    u, v = (grid.ravel()[:, np.newaxis] for grid in np.meshgrid(*[(np.arange(RAYS) + 0.5) / RAYS] * 2))
    a, e = np.radians([azimuth, elevation])
    return quad[0] + u * (quad[1] - quad[0]) + v * (quad[3] - quad[0]), np.array(
        [np.cos(e) * np.sin(a), np.cos(e) * np.cos(a), np.sin(e)]
    )


def through_ellipsoid(points, toward, x, y, z, level, upright):
    size = np.array([level, level, upright])
    start, way = (points - [x, y, z]) / size, toward / size
    half, rest = start @ way, np.square(start).sum(axis=1) - 1
    inside = half**2 - (way @ way) * rest
    return (inside > 0) & (-half + np.sqrt(np.maximum(inside, 0)) > 0)


def through_cylinder(points, toward, x, y, radius, low, high):
    start, way = points[:, :2] - [x, y], toward[:2]
    half, rest = start @ way, np.square(start).sum(axis=1) - radius**2
    inside = half**2 - (way @ way) * rest
    root = np.sqrt(np.maximum(inside, 0))
    near, far = ((-half + sign * root) / (way @ way) for sign in (-1, 1))
    enter, leave = ((level - points[:, 2]) / toward[2] for level in (low, high))
    return (inside > 0) & (np.minimum(far, leave) > np.maximum(np.maximum(near, enter), 0))


@st.composite
def roofs(draw):
    """A cell group of a metre by 0.4 m, tilted to the south."""
    tilt, base, x = np.radians(draw(st.floats(0, 45))), draw(st.floats(0, 5)), draw(st.floats(-3, 3))
    rise = np.array([0, np.cos(tilt), np.sin(tilt)])
    first = np.array([x, 0, base])
    return np.array([first, first + [0.4, 0, 0], first + [0.4, 0, 0] + rise, first + rise])


suns = st.tuples(st.floats(100, 260), st.floats(4, 75))
places = st.tuples(st.floats(-6, 6), st.floats(-10, -2.5))


@settings(max_examples=120)
@given(roofs(), suns, places, st.floats(3, 14), st.floats(1, 8), st.floats(0, 0.45))
def test_a_crown_casts_as_an_ellipsoid(quad, sun, place, height, diameter, trunk):
    tree = {
        "x": place[0],
        "y": place[1],
        "height": height,
        "diameter": diameter,
        "trunk": trunk * height,
        "light_in_leaf": 0,
        "light_bare": 0,
    }
    crown = build_scene(Scene.model_validate({"trees": {"t": {**tree, "crown": "ellipsoid"}}})).bodies[0]
    expected = through_ellipsoid(*rays(quad, *sun), *crown.ellipsoid).mean()
    assert shaded_fraction(quad, [crown], *sun) == pytest.approx(expected, abs=0.006)  # rays alone miss by a few thousandths


@settings(max_examples=120)
@given(roofs(), suns, places, st.sampled_from([0.1, 0.5, 2.0, 4.0, 9.0]), st.floats(2, 15))
def test_a_silo_or_a_pole_casts_as_a_cylinder(quad, sun, place, diameter, height):
    if np.hypot(*place) < diameter / 2 + 4:
        place = (place[0], place[1] - diameter)
    silo = {"x": place[0], "y": place[1], "diameter": diameter, "height": height, "base": 0}
    body = build_scene(Scene.model_validate({"silos": {"s": silo}})).bodies[0]
    expected = through_cylinder(*rays(quad, *sun), *place, diameter / 2, 0, height).mean()
    assert shaded_fraction(quad, [body], *sun) == pytest.approx(expected, abs=0.01)


def test_a_sun_without_an_azimuth_has_no_shade_rather_than_none():
    quad = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0.0]])
    wall = np.array([[-5, -1, 0], [5, -1, 0], [5, -1, 5], [-5, -1, 5.0]])
    found = shaded_fraction(quad, [wall], [180.0, np.nan, 180.0], [30.0, 30.0, np.nan])
    assert found[0] == 1 and np.isnan(found[1:]).all()
