"""The size of the Earth, as a sphere."""

from math import pi

EARTH_RADIUS = 6_371_008.8  # mean, of the three semi-axes (IUGG) [m]
METRES_A_DEGREE = pi / 180 * EARTH_RADIUS  # of latitude
