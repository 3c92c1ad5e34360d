"""Single hours of a simulated year, worked out again one number at a time: scalars, textbook forms, bracketed roots.

Nothing here calls the stages; only the datasheet's fitted parameters are taken over, since the fit has tests of its own.
"""

from math import acos, asin, cos, degrees, exp, log, pi, radians, sin, tan

import numpy as np
import pytest
from scipy.optimize import brentq, minimize_scalar

from noontide.core.design import Design
from noontide.core.electrical import fit_inverter, fit_module
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts
from tests.conftest import SOUTH_ROOF

PARTS = built_in_parts()
MODULE, INVERTER = PARTS.modules["veltrane-430"], PARTS.inverters["hexley-20"]
TILT, FACING, ALBEDO, SOILING = radians(18), radians(192), 0.2, 0.02
# Table 6 of Perez et al. (1990), the bins that the chosen hours fall in are read from all of them.
BINS = [1.065, 1.23, 1.5, 1.95, 2.8, 4.5, 6.2, float("inf")]
F11 = [-0.008, 0.130, 0.330, 0.568, 0.873, 1.132, 1.060, 0.678]
F12 = [0.588, 0.683, 0.487, 0.187, -0.392, -1.237, -1.600, -0.327]
F13 = [-0.062, -0.151, -0.221, -0.295, -0.362, -0.412, -0.359, -0.250]
F21 = [-0.060, -0.019, 0.055, 0.109, 0.226, 0.288, 0.264, 0.156]
F22 = [0.072, 0.066, -0.064, -0.152, -0.462, -0.823, -1.127, -1.377]
F23 = [-0.022, -0.029, -0.026, -0.014, 0.001, 0.056, 0.131, 0.251]


@pytest.fixture(scope="module")
def year(hill_weather):
    return simulate(Design.read(SOUTH_ROOF), hill_weather, PARTS)


def through_glass(angle: float) -> float:
    """Coated glass: two surfaces and 2 mm of glass, De Soto et al. (2006), by sines and tangents."""

    def surface(outer: float, n1: float, n2: float) -> tuple[float, float]:
        inner = asin(n1 / n2 * sin(outer))
        if outer < 1e-9:
            return 1 - ((n2 - n1) / (n2 + n1)) ** 2, inner
        s, p = sin(inner - outer) ** 2 / sin(inner + outer) ** 2, tan(inner - outer) ** 2 / tan(inner + outer) ** 2
        return 1 - (s + p) / 2, inner

    first, inside = surface(angle, 1.0, 1.3)
    second, inside = surface(inside, 1.3, 1.526)
    return first * second * exp(-4 * 0.002 / cos(inside))


def mean_modifier(sees) -> float:
    """Of what a plane sees, by a grid over its half space; `sees` tells whether a direction counts, by its height."""
    top = bottom = 0.0
    for theta in (np.arange(300) + 0.5) / 300 * pi / 2:
        for phi in (np.arange(180) + 0.5) / 180 * pi:
            height = cos(theta) * cos(TILT) + sin(theta) * sin(TILT) * cos(phi)
            if sees(height):
                weight = cos(theta) * sin(theta)
                top += weight * through_glass(theta) / through_glass(0.0)
                bottom += weight
    return top / bottom


@pytest.fixture(scope="module")
def diffuse_modifiers():
    return mean_modifier(lambda height: height > 0), mean_modifier(lambda height: height < 0)


def light_of(year, i: int, modifiers: tuple[float, float]) -> tuple[float, float]:
    """Plane irradiance and effective irradiance of an interval [W/m2]."""
    weather = year.weather
    dni, dhi, ghi = weather.dni[i], weather.dhi[i], weather.ghi[i]
    zenith, azimuth = radians(90 - year.quantity("sun_elevation")[i]), radians(year.quantity("sun_azimuth")[i])
    cosine = cos(zenith) * cos(TILT) + sin(zenith) * sin(TILT) * cos(azimuth - FACING)
    above = year.sky.extraterrestrial[list(year.sky.interval_index).index(i)]
    mass = 1 / (cos(zenith) + 0.50572 * (96.07995 - degrees(zenith)) ** -1.6364)
    epsilon = ((dhi + dni) / dhi + 1.041 * zenith**3) / (1 + 1.041 * zenith**3)
    delta = dhi * mass / above
    b = next(k for k, limit in enumerate(BINS) if epsilon < limit)
    f1, f2 = max(0.0, F11[b] + F12[b] * delta + F13[b] * zenith), F21[b] + F22[b] * delta + F23[b] * zenith
    beam = dni * max(cosine, 0)
    around = dhi * f1 * max(cosine, 0) / max(cos(zenith), cos(radians(85)))
    dome, band, ground = dhi * (1 - f1) * (1 + cos(TILT)) / 2, dhi * f2 * sin(TILT), ghi * ALBEDO * (1 - cos(TILT)) / 2
    direct = through_glass(acos(cosine)) / through_glass(0.0)
    # The band lies between sky and ground; its share is small, and its modifier is taken on the plane's own line of slope.
    turns = (np.arange(400) + 0.5) / 400 * pi / 2
    slope = [sin(TILT) * cos(t) for t in turns]
    band_modifier = sum(c * through_glass(acos(c)) for c in slope) / sum(slope) / through_glass(0.0)
    effective = ((beam + around) * direct + dome * modifiers[0] + band * band_modifier + ground * modifiers[1]) * (1 - SOILING)
    return beam + around + dome + band + ground, effective


def module_power(effective: float, celsius: float) -> tuple[float, float, float]:
    """Power, voltage and current at the maximum of the implicit single-diode equation."""
    p = fit_module(MODULE).parameters
    kelvin = celsius + 273.15
    light = effective / 1000 * (float(p.light_current) + float(p.isc_coefficient) * (kelvin - 298.15))
    gap = 1.121 * (1 - 0.0002677 * (kelvin - 298.15))
    saturation = float(p.saturation_current) * (kelvin / 298.15) ** 3 * exp((1.121 / 298.15 - gap / kelvin) / 8.617333262e-5)
    a, rs, g = (
        float(p.modified_ideality) * kelvin / 298.15,
        float(p.series_resistance),
        float(p.shunt_conductance) * effective / 1000,
    )

    def current(v: float) -> float:
        return brentq(
            lambda i: light - saturation * (exp((v + i * rs) / a) - 1) - (v + i * rs) * g - i, -50, light + 1, xtol=1e-13
        )

    top = a * log(light / saturation + 1)
    found = minimize_scalar(lambda v: -v * current(v), bounds=(0.5 * top, top), method="bounded", options={"xatol": 1e-9})
    return -found.fun, found.x, current(found.x)


@pytest.mark.parametrize(("day", "hour"), [(171, 12), (171, 7), (20, 11), (105, 15), (300, 9), (230, 17)])
def test_an_hour_worked_out_by_hand(year, diffuse_modifiers, day, hour):
    i = day * 24 + hour
    plane, effective = light_of(year, i, diffuse_modifiers)
    assert year.quantity("poa")[i] == pytest.approx(plane, rel=1e-3)
    assert year.quantity("effective")[i] == pytest.approx(effective, rel=1.5e-3)

    effective = float(year.quantity("effective")[i])
    celsius = year.weather.temperature[i] + year.quantity("poa")[i] / (22.0 + 4.5 * 0.7 * year.weather.wind[i])
    assert year.quantity("cell_temperature")[i] == pytest.approx(celsius, abs=0.01)

    power, voltage, current = module_power(effective, celsius)
    factor = MODULE.power / module_power(1000.0, 25.0)[0] * 0.99 * 0.99
    volts, amperes = 18 * voltage, 2 * current * factor
    assert year.quantity("string_voltage")[i] == pytest.approx(volts, rel=1e-4)
    assert volts * amperes == pytest.approx(36 * power * factor, rel=1e-9)
    rated = 2 * MODULE.imp
    core = year.weather.temperature[i] + 15 * (amperes / rated) ** 2  # in open air, by the square of the load
    resistance = 0.015 * (18 * MODULE.vmp) / rated * (1 + 0.00393 * (core - 20))
    dc = volts * amperes - amperes**2 * resistance
    assert year.quantity("dc_power")[i] == pytest.approx(dc, rel=1e-5)

    k0, k1, k2 = (float(k) for k in fit_inverter(INVERTER).at(volts))
    p = brentq(lambda p: p + k0 + k1 * p + k2 * p * p - dc / 20_000, 0, 1)
    ac = p * 20_000
    assert year.quantity("ac_power")[i] == pytest.approx(ac, rel=1e-6)
    assert year.quantity("delivered")[i] == pytest.approx((ac - 0.01 * ac**2 / 20_000) * 0.99, rel=1e-6)


def test_the_year_is_the_sum_of_its_hours_over_the_rated_power(year):
    energy = sum(float(power) for power in year.delivered) / 1000
    assert year.annual.specific_yield == pytest.approx(energy / (36 * 0.43), rel=1e-9)
    light = sum(float(g) for g in year.quantity("poa")) / 1000
    assert year.annual.performance_ratio == pytest.approx(energy / (36 * 0.43) / light, rel=1e-9)
