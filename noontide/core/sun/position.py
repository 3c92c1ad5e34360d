"""Where the sun stands: Meeus' apparent geocentric place, turned to the observer's own horizon."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.interpolate import PPoly

from noontide.core.angles import DEGREE, sin_cos, wrap_360
from noontide.core.sun.ephemeris import LATITUDE, LONGITUDE, RADIUS

Floats = NDArray[np.float64]
J2000 = np.datetime64("2000-01-01T12:00:00", "us")
ARCSECOND = np.pi / 648_000
SOLAR_PARALLAX = 8.794 * ARCSECOND  # at one astronomical unit
KNOT_DAYS = 3.0
LOWEST_SITE, HIGHEST_SITE = -500.0, 11_000.0  # [m] within which the standard atmosphere holds


@dataclass(frozen=True)
class SunPosition:
    """Topocentric place of the sun's centre; every field has the shape of the times asked for."""

    zenith: Floats  # without refraction [°]
    apparent_zenith: Floats  # with refraction [°]
    azimuth: Floats  # clockwise from north, 0..360 [°]
    distance: Floats  # Earth to sun [au]


def solar_position(
    times: ArrayLike,
    latitude: float,
    longitude: float,
    elevation: float = 0.0,
    pressure: float | None = None,
    temperature: float = 12.0,
) -> SunPosition:
    """Place of the sun for an observer.

    Parameters
    ----------
    times : datetime64, any shape
        UTC.
    latitude, longitude : float
        North and east positive [°].
    elevation : float
        Above sea level [m].
    pressure : float, optional
        Of the air [hPa]; from the elevation by the standard atmosphere where it is not given.
    temperature : float
        Of the air [°C]; both only bend the light.

    Raises
    ------
    ValueError
        If the latitude, longitude or pressure is out of range, or a time is missing.

    References
    ----------
    Meeus (1998), Astronomical Algorithms, 2nd ed., chapters 12, 16, 22, 25, 32 and 40, and Appendix III.
    Checked against the worked example of Reda and Andreas (2003), NREL/TP-560-34302.

    Examples
    --------
    >>> import numpy as np
    >>> sun = solar_position(np.datetime64("2003-10-17T19:30:30"), 39.742476, -105.1786, 1830.14, 820, 11)
    >>> float(sun.apparent_zenith.round(3)), float(sun.azimuth.round(3))
    (50.112, 194.34)
    """
    _check_place(latitude, longitude)
    if pressure is None:
        pressure = standard_pressure(elevation)
    if not 100 <= pressure <= 1100:
        raise ValueError(f"The pressure must be between 100 and 1100 hPa; it is {pressure:g}.")
    moments = np.asarray(times, dtype="datetime64[us]")
    if np.isnat(moments).any():
        raise ValueError("times must not be missing; at least one is NaT")
    days = days_since_j2000(moments)
    return seen_from(geocentric_path(days)(days), days, latitude, longitude, elevation, pressure, temperature)


def standard_pressure(elevation: float) -> float:
    """Air pressure of the standard atmosphere (ISO 2533) at a height above sea level [m], in [hPa].

    Raises
    ------
    ValueError
        Outside -500 to 11,000 m.
    """
    if not LOWEST_SITE <= elevation <= HIGHEST_SITE:
        raise ValueError(f"The elevation must be between {LOWEST_SITE:g} and {HIGHEST_SITE:g} m; it is {elevation:g} m.")
    return 1013.25 * (1 - 2.25577e-5 * elevation) ** 5.25588


def refraction(elevation: ArrayLike, pressure: float = 1010.0, temperature: float = 10.0) -> Floats:
    """Lift of the sun by the air [°] at a true elevation [°], [hPa], [°C]; none well below the horizon.

    References
    ----------
    Saemundsson, T. (1986), Sky and Telescope 72, 70; Meeus (1998), eq. 16.4.
    """
    true = np.asarray(elevation, dtype=float)
    up = true >= -0.8333
    lift = np.zeros(true.shape)
    seen = true[up]
    lift[up] = 1.02 / 60 / np.tan(np.radians(seen + 10.3 / (seen + 5.11))) * (pressure / 1010 * 283 / (273 + temperature))
    return lift


def rising_elevation(pressure: float, temperature: float) -> float:
    """True elevation of the sun's centre [°] when refraction lifts it onto the horizon; -34' at 1010 hPa and 10 °C."""
    elevation = -34 / 60
    for _ in range(20):
        elevation = -float(refraction(elevation, pressure, temperature))
    return elevation


@dataclass(frozen=True)
class GeocentricPlace:
    """The apparent sun as the Earth's centre sees it."""

    right_ascension: Floats  # from the mean equinox, as mean sidereal time counts [°]
    sin_declination: Floats
    distance: Floats  # [au]

    @property
    def cos_declination(self) -> Floats:
        return np.sqrt(1 - self.sin_declination**2)

    def sunset_hour_angle(self, latitude: float, rising_elevation: float) -> Floats:
        """Hour angle at which the sun's centre appears on the horizon [°]: 0 in polar night, 180 in polar day.

        `rising_elevation` is the true elevation that refraction lifts onto the horizon [°].
        """
        phi = np.radians(latitude)
        least = np.sin(np.radians(rising_elevation + SOLAR_PARALLAX / ARCSECOND / 3600))
        cosine = (least - np.sin(phi) * self.sin_declination) / np.maximum(np.cos(phi) * self.cos_declination, 1e-12)
        return np.arccos(np.clip(cosine, -1, 1)) / DEGREE


def days_since_j2000(times: NDArray[np.datetime64]) -> Floats:
    """Universal time as days since 2000-01-01 12:00."""
    return (times.astype("datetime64[us]") - J2000).astype(np.int64) / 86_400e6


def geocentric_path(days: Floats) -> Callable[[Floats], GeocentricPlace]:
    """The sun's geocentric place as a function of days since J2000, for days within the span of those given.

    The place changes so slowly that cubics between knots three days apart hold it to 0.1 arc seconds.
    """
    if days.size < 2 or (span := np.ptp(days)) / KNOT_DAYS + 8 > days.size:
        return lambda moments: GeocentricPlace(*_apparent_place(moments))
    knots = np.floor(days.min()) + KNOT_DAYS * (np.arange(np.ceil(span / KNOT_DAYS) + 6) - 3)
    curve = _cubic_hermite(knots, np.stack(_apparent_place(knots), axis=-1))
    return lambda moments: GeocentricPlace(*np.moveaxis(curve(moments), -1, 0))


def hour_angle(place: GeocentricPlace, days: Floats, longitude: float) -> Floats:
    """Local hour angle of the sun [°], positive after noon, not reduced to one turn."""
    return _sidereal_time(days) + longitude - place.right_ascension


def seen_from(
    place: GeocentricPlace, days: Floats, latitude: float, longitude: float, elevation: float, pressure: float, temperature: float
) -> SunPosition:
    """Turn the geocentric place to the horizon of an observer; arguments as for `solar_position`."""
    phi = np.radians(latitude)
    sin_angle, cos_angle = sin_cos(hour_angle(place, days, longitude))
    # Observer in Earth radii, Meeus chapter 11; the parallax is the shift of origin to that point.
    reduced = np.arctan(0.99664719 * np.tan(phi))
    parallax = SOLAR_PARALLAX / place.distance
    cos_declination = place.cos_declination
    meridian = cos_declination * cos_angle - (np.cos(reduced) + elevation / 6_378_140 * np.cos(phi)) * parallax
    east = -cos_declination * sin_angle
    pole = place.sin_declination - (0.99664719 * np.sin(reduced) + elevation / 6_378_140 * np.sin(phi)) * parallax
    north = pole * np.cos(phi) - meridian * np.sin(phi)
    up = meridian * np.cos(phi) + pole * np.sin(phi)
    true_elevation = np.arctan2(up, np.sqrt(east**2 + north**2)) / DEGREE
    return SunPosition(
        zenith=90 - true_elevation,
        apparent_zenith=90 - true_elevation - refraction(true_elevation, pressure, temperature),
        azimuth=wrap_360(np.arctan2(east, north) / DEGREE),
        distance=place.distance,
    )


def _check_place(latitude: float, longitude: float) -> None:
    if not -90 <= latitude <= 90:
        raise ValueError(f"The latitude must be between -90 and 90°; it is {latitude:g}.")
    if not -180 <= longitude <= 360:
        raise ValueError(f"The longitude must be between -180 and 180°; it is {longitude:g}.")


def _apparent_place(days: Floats) -> tuple[Floats, Floats, Floats]:
    shape = np.shape(days)
    dynamical = np.ravel(days) + _delta_t(np.ravel(days)) / 86_400
    centuries = dynamical / 36_525
    distance = _series(RADIUS, centuries / 10)
    longitude = _series(LONGITUDE, centuries / 10) + np.pi
    latitude = -_series(LATITUDE, centuries / 10)
    # FK5 frame and aberration, Meeus eqs. 25.9 and 25.10.
    longitude = longitude - 0.09033 * ARCSECOND - 20.4898 * ARCSECOND / distance
    nutation, obliquity = _nutation(centuries)
    longitude = longitude + nutation
    right_ascension = np.arctan2(np.sin(longitude) * np.cos(obliquity) - np.tan(latitude) * np.sin(obliquity), np.cos(longitude))
    sin_declination = np.sin(latitude) * np.cos(obliquity) + np.cos(latitude) * np.sin(obliquity) * np.sin(longitude)
    # The equation of the equinoxes is taken off here, where the knots are few, rather than added to the sidereal time.
    from_mean_equinox = np.unwrap(right_ascension) - nutation * np.cos(obliquity)
    return np.degrees(from_mean_equinox).reshape(shape), sin_declination.reshape(shape), distance.reshape(shape)


def _cubic_hermite(knots: Floats, values: Floats) -> PPoly:
    """Cubics between knots that stand evenly, with slopes by five-point differences; not for the two outer knots."""
    step = knots[1] - knots[0]
    slope = (values[:-4] - 8 * values[1:-3] + 8 * values[3:-1] - values[4:]) / (12 * step)
    left, secant = values[2:-3], (values[3:-2] - values[2:-3]) / step
    bend = slope[:-1] + slope[1:] - 2 * secant
    cubic = (bend / step**2, (secant - slope[:-1] - bend) / step, slope[:-1], left)
    return PPoly.construct_fast(np.stack(cubic), knots[2:-2])


def _series(powers: tuple[Floats, ...], millennia: Floats) -> Floats:
    total = np.zeros_like(millennia)
    for power, rows in enumerate(powers):
        total += (np.cos(rows[:, 1] + np.multiply.outer(millennia, rows[:, 2])) @ rows[:, 0]) * millennia**power
    return total * 1e-8


def _nutation(centuries: Floats) -> tuple[Floats, Floats]:
    """Nutation in longitude and true obliquity [rad]: the four largest terms, Meeus chapter 22."""
    node, sun, moon = (
        np.radians(start + rate * centuries)
        for start, rate in ((125.04452, -1934.136261), (280.4665, 36000.7698), (218.3165, 481267.8813))
    )
    longitude = -17.20 * np.sin(node) - 1.32 * np.sin(2 * sun) - 0.23 * np.sin(2 * moon) + 0.21 * np.sin(2 * node)
    tilt = 9.20 * np.cos(node) + 0.57 * np.cos(2 * sun) + 0.10 * np.cos(2 * moon) - 0.09 * np.cos(2 * node)
    mean = 84_381.448 - 46.8150 * centuries - 0.00059 * centuries**2 + 0.001813 * centuries**3
    return longitude * ARCSECOND, (mean + tilt) * ARCSECOND


def _sidereal_time(days: Floats) -> Floats:
    """Mean sidereal time at Greenwich [°], Meeus eq. 12.4; UT1 is taken as UTC."""
    centuries = days / 36_525
    return wrap_360(280.46061837 + 360.98564736629 * days + 0.000387933 * centuries**2)


def _delta_t(days: Floats) -> Floats:
    """Dynamical time less universal time [s], the polynomials of Espenak and Meeus (2006), NASA/TP-2006-214141."""
    year = 2000 + days / 365.2425
    seconds = np.empty_like(year)
    begin = -np.inf
    for end, epoch, unit, coefficients in _DELTA_T:
        piece = (year >= begin) & (year < end)
        if piece.any():
            seconds[piece] = np.polyval(coefficients, (year[piece] - epoch) / unit)
        begin = end
    return seconds


# Up to the year, counted from the year, in units of years, highest power first.
_DELTA_T = (
    (1941, 1820, 100, (32, 0, -20)),
    (1961, 1950, 1, (1 / 2547, -1 / 233, 0.407, 29.07)),
    (1986, 1975, 1, (-1 / 718, -1 / 260, 1.067, 45.45)),
    (2005, 2000, 1, (0.00002373599, 0.000651814, 0.0017275, -0.060374, 0.3345, 63.86)),
    (np.inf, 2000, 1, (0.005589, 0.32217, 62.92)),
)
