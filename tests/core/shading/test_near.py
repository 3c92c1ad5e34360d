"""Near shading against closed forms, exact projection and a ray caster, and the laws that any shade obeys."""

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st

from noontide.core.scene.bodies import prism
from noontide.core.scene.frame import Frame, normal_of
from noontide.core.scene.placing import rectangle
from noontide.core.scene.solids import Body, circle
from noontide.core.shading import shaded_fraction, sky_access
from noontide.core.shading.near import Targets, beam_light, beam_light_again, casters_of

FLOOR = np.array([[0, 0, 0], [2, 0, 0], [2, 1, 0], [0, 1, 0.0]])


def toward(azimuth, elevation):
    a, e = np.radians(azimuth), np.radians(elevation)
    return np.stack([np.cos(e) * np.sin(a), np.cos(e) * np.cos(a), np.sin(e)], axis=-1)


def wall(y, height, half=500.0):
    return np.array([[-half, y, 0], [half, y, 0], [half, y, height], [-half, y, height]])


polygons = st.lists(st.tuples(*[st.floats(-3, 3)] * 9), min_size=1, max_size=6).map(
    lambda rows: [
        np.array(r).reshape(3, 3) + [0, 0, 2]
        for r in rows
        if np.linalg.norm(np.cross(np.array(r[3:6]) - r[:3], np.array(r[6:]) - r[:3])) > 0.1
    ]
)
suns = st.tuples(st.floats(0, 360), st.floats(3, 88))


@pytest.mark.parametrize("elevation", [5, 20, 22, 25, 26, 30, 60])
def test_a_wall_in_front_shades_as_far_as_its_height_over_the_tangent(elevation):
    reach = 1 / np.tan(np.radians(elevation))
    assert shaded_fraction(FLOOR, [wall(-2, 1)], 180, elevation) == pytest.approx(np.clip(reach - 2, 0, 1), abs=1e-6)


def test_the_shadow_of_a_pole_is_a_strip_of_its_width():
    pole = prism("p", "poles", "", circle(0.1, 64) + [1.0, -3], 0, 50)
    assert shaded_fraction(FLOOR, [pole], 180, 30) == pytest.approx(0.1 / 2, rel=2e-3)


def test_a_cylinder_shades_as_wide_as_it_is():
    silo = prism("s", "silos", "", circle(1.0, 64) + [1.0, -5], 0, 100)
    assert shaded_fraction(FLOOR, [silo], 180, 40) == pytest.approx(0.5, rel=2e-3)


def test_rows_in_a_scene_shade_as_the_closed_form_of_endless_rows():
    tilt, width, pitch = 30.0, 2.0, 3.5
    normal = np.array([0, -np.sin(np.radians(tilt)), np.cos(np.radians(tilt))])

    def row(y, left, right):
        frame = Frame(np.array([0, y, 0.0]), normal)
        return frame.out_of(np.array([[left, 0], [right, 0], [right, width], [left, width]]))

    for elevation in (8, 12, 16, 20):
        profile = np.radians(elevation)  # the sun stands square to the rows
        f = 1 - pitch / width * np.sin(profile) / np.sin(np.radians(tilt) + profile)
        got = shaded_fraction(row(0, -1, 1), [row(-pitch, -200, 200)], 180, elevation)
        assert got == pytest.approx(max(f, 0), abs=1e-6)


@settings(max_examples=50, deadline=None)
@given(polygons, suns, st.floats(0, 70), st.floats(0, 360))
def test_it_equals_exact_projection(casters, sun, tilt, azimuth):
    normal = np.array(
        [
            np.sin(np.radians(tilt)) * np.sin(np.radians(azimuth)),
            np.sin(np.radians(tilt)) * np.cos(np.radians(azimuth)),
            np.cos(np.radians(tilt)),
        ]
    )
    frame = Frame(np.zeros(3), normal)
    target = frame.out_of(np.array([[0, 0], [1.5, 0], [1.5, 1], [0, 1]]))
    local = frame.axes @ toward(*sun)
    if local[2] < 0.02:
        return
    shadows = []
    for caster in casters:
        points, kept = frame.into(caster), []
        for a, b in zip(np.roll(points, 1, axis=0), points, strict=True):
            if (a[2] > 0) != (b[2] > 0):
                kept.append(a + (b - a) * a[2] / (a[2] - b[2]))
            if b[2] > 0:
                kept.append(b)
        if len(kept) > 2:
            flat = np.array(kept)
            shadows.append(shapely.Polygon(flat[:, :2] - flat[:, 2:] * local[:2] / local[2]).buffer(0))
    exact = shapely.union_all(shadows).intersection(shapely.box(0, 0, 1.5, 1)).area / 1.5 if shadows else 0.0
    # What is within 0.1 mm of the plane casts nothing: under a low sun that is a strip of some millimetres.
    assert shaded_fraction(target, casters, *sun) == pytest.approx(exact, abs=3e-3)


@settings(max_examples=10, deadline=None)
@given(polygons, suns)
def test_a_ray_caster_sees_the_same(casters, sun):
    """Rays from a raster of points, against triangles (Moeller and Trumbore 1997)."""
    direction = toward(*sun)
    u, v = np.meshgrid((np.arange(60) + 0.5) / 30, (np.arange(60) + 0.5) / 60)
    origins = np.stack([u, v, np.zeros_like(u)], axis=-1).reshape(-1, 3)
    hit = np.zeros(len(origins), dtype=bool)
    for a, b, c in casters:
        e1, e2 = b - a, c - a
        p = np.cross(direction, e2)
        det = e1 @ p
        if abs(det) < 1e-12:
            continue
        t = origins - a
        q = np.cross(t, e1)
        s, r = t @ p / det, q @ direction / det
        hit |= (s >= 0) & (r >= 0) & (s + r <= 1) & (q @ e2 / det > 1e-4)
    assert shaded_fraction(FLOOR, casters, *sun) == pytest.approx(hit.mean(), abs=0.02)


@settings(max_examples=50, deadline=None)
@given(polygons, suns, st.floats(0, 360))
@example(  # a shadow that the target's corner cuts to a side of no length
    casters=[np.array([[0, 0, 2], [0, 0, 3], [0, 1, 2.0]]), np.array([[0, 1, -1], [0, 0, 2], [1, 0, 2.0]])],
    sun=(226.0, 55.0),
    turn=1.0,
)
def test_turning_all_changes_nothing(casters, sun, turn):
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    spin = np.array([[c, -s, 0], [s, c, 0], [0, 0, 1]])  # clockwise, as azimuths count
    before = shaded_fraction(FLOOR, casters, *sun)
    after = shaded_fraction(FLOOR @ spin, [k @ spin for k in casters], (sun[0] + turn) % 360, sun[1])
    assert after == pytest.approx(before, abs=1e-6)


@given(suns)
@settings(max_examples=30, deadline=None)
def test_without_a_caster_or_with_one_below_there_is_no_shade(sun):
    below = wall(-2, 1) - [0, 0, 3]
    assert shaded_fraction(FLOOR, [], *sun) == 0
    assert shaded_fraction(FLOOR, [below], *sun) == 0


def test_a_caster_away_from_the_sun_shades_nothing():
    assert shaded_fraction(FLOOR, [wall(-2, 10)], 0, 20) == 0
    assert shaded_fraction(FLOOR, [wall(-2, 10)], 180, -5) == 0


@settings(max_examples=20, deadline=None)
@given(st.floats(0.5, 6), st.floats(0.1, 4))
def test_access_falls_as_an_obstacle_grows(height, more):
    box = [prism("b", "boxes", "", rectangle(2, 2) + [1, -2], 0, h) for h in (height, height + more)]
    assert sky_access(FLOOR, [box[1]]) <= sky_access(FLOOR, [box[0]]) + 1e-6


def test_sky_access_before_an_endless_wall_is_half_one_plus_the_cosine():
    spot = FLOOR * 0.01
    for height in (0.5, 2, 10):
        assert sky_access(spot, [wall(-2, height, 1e5)]) == pytest.approx((1 + np.cos(np.arctan(height / 2))) / 2, abs=2e-3)


def test_a_corner_that_points_inward_is_measured_too():
    notched = np.array([[0, 0, 0], [2, 0, 0], [2, 2, 0], [1, 2, 0], [1, 1, 0], [0, 1, 0.0]])
    lid = np.array([[0, 0, 1], [1, 0, 1], [1, 5, 1], [0, 5, 1.0]])
    assert shaded_fraction(notched, [lid], 180, 89.999) == pytest.approx(1 / 3, abs=1e-4)


@pytest.mark.parametrize(
    ("target", "words"),
    [
        (FLOOR[:2], "polygon of shape"),
        (FLOOR * 0, "area"),
        (FLOOR + [[0, 0, 0], [0, 0, 1], [0, 0, 0], [0, 0, 0]], "not planar"),
        (FLOOR * np.nan, "not a number"),
    ],
)
def test_a_broken_target_is_refused(target, words):
    with pytest.raises(ValueError, match=words):
        shaded_fraction(target, [], 180, 30)


def test_light_through_two_crowns_is_the_product():
    crowns = [
        prism(f"t{k}", "trees", "", rectangle(100, 100) + [0, -60], 2 + k, 2.5 + k, (light,) * 12)
        for k, light in enumerate((0.5, 0.4))
    ]
    frame = Frame(np.zeros(3), np.array([0, 0, 1.0]))
    targets = Targets(frame, np.array([[[0, -60], [1, -60], [1, -59], [0, -59]]], dtype=float))
    light = beam_light(targets, casters_of(crowns, frame), toward(180, 80)[np.newaxis], np.zeros(1, np.int64))
    assert light[0, 0] == pytest.approx(0.2)


def test_what_is_found_again_after_a_move_is_what_is_found_from_scratch():
    frame = Frame(np.zeros(3), normal_of(np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0.4]])))
    cells = [[[u, v], [u + 0.9, v], [u + 0.9, v + 0.9], [u, v + 0.9]] for u in range(6) for v in range(4)]
    targets = Targets(frame, np.array(cells, dtype=float))
    fixed = [prism(f"b{k}", "boxes", "", rectangle(1, 1) + [k, -2], -2, 2 + k) for k in range(3)]
    old, new = (prism("c", "chimneys", "", rectangle(0.6, 0.6) + [x, 1.5], -2, 3) for x in (1.0, 3.0))
    rng = np.random.default_rng(1)
    suns = toward(rng.uniform(0, 360, 300), rng.uniform(3, 80, 300))
    months = np.zeros(300, np.int64)
    before = beam_light(targets, casters_of([*fixed, old], frame), suns, months)
    casters = casters_of([*fixed, new], frame)
    again = beam_light_again(targets, [*fixed, new], suns, months, before, [old, new])
    assert np.array_equal(again, beam_light(targets, casters, suns, months))
    assert not np.array_equal(again, before)


def test_a_zigzag_that_crosses_the_target_many_times_is_measured():
    teeth = [(-0.5 + k * 0.05, 1.5 if k % 2 else -0.5) for k in range(61)]
    ring = [*teeth, (2.7, 1.6), (-0.6, 1.6)]
    lid = np.array([(x, y, 1.0) for x, y in ring])
    exact = shapely.Polygon(ring).intersection(shapely.box(0, 0, 2, 1)).area / 2
    assert shaded_fraction(FLOOR, [lid], 180, 89.9999) == pytest.approx(exact, abs=1e-3)


def test_a_face_that_names_its_points_many_times_has_room_and_is_found_again():
    ring = np.array([0, 1, 2] * 33, dtype=np.int64)
    points = np.array([[0, 0, 1], [2, 0, 1], [2, 1, 1.0]])
    body, other = (
        Body(key, "meshes", "", points + [0, 0, up], np.zeros((0, 2), np.int64), (ring,)) for key, up in (("a", 0), ("b", 1))
    )
    frame = Frame(np.zeros(3), np.array([0, 0, 1.0]))
    targets = Targets(frame, FLOOR[np.newaxis, :, :2])
    sun, months = toward(180, 89.9999)[np.newaxis], np.zeros(1, np.int64)
    before = beam_light(targets, casters_of([body], frame), sun, months)
    again = beam_light_again(targets, [body, other], sun, months, before, [other])
    assert np.array_equal(again, beam_light(targets, casters_of([body, other], frame), sun, months))


@pytest.mark.parametrize("count", [3, 12, 60])
def test_many_shadows_over_one_another_are_their_union(count):
    """Slats at all angles over one another: few are cut out of the target exactly, very many are measured along lines."""
    rng = np.random.default_rng(count)
    slats = []
    for _ in range(count):
        middle, turn = rng.uniform([0, 0], [2, 1]), rng.uniform(0, np.pi)
        along, across = np.array([np.cos(turn), np.sin(turn)]) * 1.2, np.array([-np.sin(turn), np.cos(turn)]) * 0.02
        slats.append(
            np.array([middle - along - across, middle + along - across, middle + along + across, middle - along + across])
        )
    exact = shapely.union_all([shapely.Polygon(s) for s in slats]).intersection(shapely.box(0, 0, 2, 1)).area / 2
    raised = [np.column_stack([s, np.full(4, 1.0)]) for s in slats]
    got = shaded_fraction(FLOOR, raised, 180, 90 - 1e-7)
    assert got == pytest.approx(exact, abs=1e-6 if count <= 12 else 0.01)
