import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from numpy.testing import assert_allclose

from noontide.core.angles import sin_cos, wrap_360

angles = arrays(float, 24, elements=st.floats(-1e4, 1e4, allow_subnormal=False))


@pytest.mark.parametrize(
    ("degrees", "sine", "cosine"),
    [(0, 0, 1), (30, 0.5, 3**0.5 / 2), (90, 1, 0), (180, 0, -1), (270, -1, 0), (-60, -(3**0.5) / 2, 0.5), (900, 0, -1)],
)
def test_known_angles(degrees, sine, cosine):
    assert_allclose(sin_cos(degrees), (sine, cosine), atol=4e-16 * (1 + abs(degrees) / 90))


@given(angles)
def test_any_angle_lies_on_the_unit_circle_where_the_library_puts_it(degrees):
    sine, cosine = sin_cos(degrees)
    assert_allclose(sine**2 + cosine**2, 1, rtol=1e-15)
    # Beyond one turn both carry the rounding of the angle in radians.
    assert_allclose((sine, cosine), (np.sin(np.radians(degrees)), np.cos(np.radians(degrees))), atol=1e-13)


@given(angles)
def test_a_turn_keeps_the_direction_and_lies_between_0_and_360(degrees):
    once = wrap_360(degrees)
    assert np.all((once >= 0) & (once <= 360))
    assert_allclose(sin_cos(once), sin_cos(degrees), atol=1e-11)


def test_shapes_are_kept():
    assert [a.shape for a in sin_cos(np.zeros((3, 1, 2)))] == [(3, 1, 2)] * 2
    assert [a.shape for a in sin_cos(45.0)] == [()] * 2
