"""Adjustments of a year, each of which can be left out again: filling, height, monthly factors, calibration, a warmer climate."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from noontide.core.calendar import MONTHS
from noontide.core.sun import extraterrestrial_normal, interval_sun, solar_time, standard_pressure
from noontide.core.weather.clear_sky import ineichen_perez
from noontide.core.weather.decomposition import erbs, ridley
from noontide.core.weather.synthesis import synthesise
from noontide.core.weather.year import FILLED, SUSPECT, Place, Step, Weather

Floats = NDArray[np.float64]
FillMethod = Literal["clearness", "neighbouring days", "synthetic"]
LAPSE = 6.5  # K/km of the standard atmosphere
NEIGHBOURS = 5  # days on either side
TURBIDITY = 3.0


def _adjusted(weather: Weather, words: str, **columns: object) -> Weather:
    made = replace(weather, **columns)  # type: ignore[arg-type]
    return replace(made, notes=(*weather.notes, words), steps=(*weather.steps, Step("adjusted", words)))


def split_by_course(weather: Weather) -> Weather:
    """The year with beam and diffuse light split by the course of GHI (Ridley et al. 2010), where both were derived from GHI alone."""
    if {"dni", "dhi"} & set(weather.given):
        return weather
    calendar, place = weather.calendar, weather.place
    sun = interval_sun(calendar, place.latitude, place.longitude, place.elevation)
    cosine, above, lit = (np.zeros(calendar.intervals) for _ in range(3))
    index = sun.interval_index
    above[index], cosine[index], lit[index] = extraterrestrial_normal(sun.distance), sun.cos_zenith, sun.lit_fraction
    dni, dhi = ridley(weather.ghi, cosine, above, lit, solar_time(calendar, place.longitude), 60 // calendar.step)
    return _adjusted(weather, "DNI and DHI are derived from the course of GHI (Ridley et al. 2010).", dni=dni, dhi=dhi)


def scale_months(weather: Weather, factors: Sequence[float]) -> Weather:
    """The year with its irradiances times a factor for each month; DNI stays within the extraterrestrial, what is over becomes diffuse.

    Raises
    ------
    ValueError
        If there are not twelve factors of 0 or more.
    """
    by_month = np.asarray(factors, dtype=float)
    if by_month.shape != (12,) or not (by_month >= 0).all():
        raise ValueError("Twelve factors of 0 or more are needed.")
    scaled = by_month[weather.calendar.months]
    sun = interval_sun(weather.calendar, weather.place.latitude, weather.place.longitude, weather.place.elevation)
    index = sun.interval_index
    ghi, dni = weather.ghi * scaled, weather.dni * scaled
    above = np.full(dni.size, np.inf)
    above[index] = extraterrestrial_normal(sun.distance)
    over = np.maximum(dni - above, 0)
    dhi = weather.dhi * scaled
    dhi[index] += over[index] * sun.cos_zenith
    words = f"Irradiance times {_span(by_month)} by month."
    return _adjusted(weather, words, ghi=ghi, dni=dni - over, dhi=dhi)


def calibrate(weather: Weather, monthly_ghi: Sequence[float]) -> Weather:
    """The year with the monthly irradiation of another source [kWh/m2]; the days keep their own course.

    Raises
    ------
    ValueError
        If there are not twelve values, or a month has no light to be scaled.
    """
    target = np.asarray(monthly_ghi, dtype=float)
    if target.shape != (12,) or not (target >= 0).all():
        raise ValueError("Twelve monthly values of 0 or more are needed.")
    own = weather.calendar.monthly_sums(weather.ghi) * weather.calendar.hours_per_interval / 1000
    dark = (own <= 0) & (target > 0)
    if dark.any():
        raise ValueError(
            f"{MONTHS[int(np.argmax(dark))]} has no light that could be scaled to {target[np.argmax(dark)]:g} kWh/m²."
        )
    factors = np.divide(target, own, out=np.ones(12), where=own > 0)
    made = scale_months(weather, factors.tolist())
    words = f"Calibrated to {target.sum():,.0f} kWh/m² a year, by month {_span(factors)} of the file's."
    return _adjusted(weather, words, ghi=made.ghi, dni=made.dni, dhi=made.dhi)


def correct_height(weather: Weather, elevation: float, lapse: float = LAPSE) -> Weather:
    """The year as at another elevation [m]: temperature by the lapse rate [K/km], pressure by the standard atmosphere."""
    rise = elevation - weather.place.elevation
    if abs(rise) < 0.5:
        return weather
    temperature = weather.temperature - lapse * rise / 1000
    pressure = weather.pressure * standard_pressure(elevation) / standard_pressure(weather.place.elevation)
    words = f"Temperature {-lapse * rise / 1000:+.1f} K and pressure for {elevation:,.0f} m instead of {weather.place.elevation:,.0f} m."
    place = Place(weather.place.latitude, weather.place.longitude, elevation)
    return _adjusted(weather, words.replace("-", "−"), temperature=temperature, pressure=pressure, place=place)


def warm(weather: Weather, shift: Sequence[float]) -> Weather:
    """The year in a warmer climate: kelvins added by month.

    Raises
    ------
    ValueError
        If there are not twelve values.
    """
    by_month = np.asarray(shift, dtype=float)
    if by_month.shape != (12,):
        raise ValueError("Twelve temperature shifts are needed.")
    words = f"Temperature {_span(by_month, '+.1f')} K by month."
    return _adjusted(weather, words, temperature=weather.temperature + by_month[weather.calendar.months])


def fill_marked(weather: Weather, method: FillMethod) -> Weather:
    """The year with its marked irradiances (filled before, or suspect) found again by a named method; they stay marked.

    Parameters
    ----------
    method : str
        `clearness`: the clear-sky index, straight between the hours before and after, over each day's own clear sky.
        `neighbouring days`: the mean clear-sky index of the same hour in the five days before and after that are not marked.
        `synthetic`: hours drawn for the site with the monthly means of what is not marked.

    Raises
    ------
    ValueError
        If there is no such method, or nothing is unmarked.
    """
    marked = (weather.flags & (FILLED | SUSPECT)) > 0
    if not marked.any():
        return weather
    if marked.all():
        raise ValueError("Every interval is marked; there is nothing to fill from.")
    calendar, place = weather.calendar, weather.place
    sun = interval_sun(calendar, place.latitude, place.longitude, place.elevation)
    clear, cosine, above, lit = (np.zeros(calendar.intervals) for _ in range(4))
    index = sun.interval_index
    above[index], cosine[index], lit[index] = extraterrestrial_normal(sun.distance), sun.cos_zenith, sun.lit_fraction
    clear[index] = ineichen_perez(sun.zenith, above[index], TURBIDITY, max(place.elevation, 0.0)).ghi * sun.lit_fraction
    known = ~marked & (clear > 20)
    if not known.any():
        raise ValueError("No unmarked interval has enough light to fill from.")
    match method:
        case "clearness":
            times = np.arange(calendar.intervals)
            ratio = np.interp(times, times[known], weather.ghi[known] / clear[known])
            ghi = np.where(marked, np.clip(ratio, 0, 1.2) * clear, weather.ghi)
        case "neighbouring days":
            ghi = np.where(marked, _of_neighbours(weather.ghi, clear, known, calendar.days) * clear, weather.ghi)
        case "synthetic":
            ghi = np.where(marked, _drawn(weather, known, clear), weather.ghi)
        case _:
            raise ValueError(f"There is no filling method '{method}'. Choose clearness, neighbouring days or synthetic.")
    dni, dhi = weather.dni.copy(), weather.dhi.copy()
    dni[marked], dhi[marked] = erbs(ghi[marked], cosine[marked], np.maximum(above[marked], 1.0), lit[marked])
    hours = float(np.count_nonzero(marked & (clear > 0))) * calendar.hours_per_interval
    words = f"{hours:,.0f} h of light filled: {_METHODS[method]}."
    return _adjusted(
        weather, words, ghi=ghi, dni=dni, dhi=dhi, flags=np.where(marked, weather.flags | np.uint8(FILLED), weather.flags)
    )


_METHODS: dict[str, str] = {
    "clearness": "clear-sky index, linear between the hours around",
    "neighbouring days": "clear-sky index of the same hour in the neighbouring days",
    "synthetic": "drawn with the monthly means",
}


def _of_neighbours(ghi: Floats, clear: Floats, known: NDArray[np.bool_], days: int) -> Floats:
    """Mean clear-sky index of each interval's hour over the neighbouring days; that of the whole year where there are none."""
    ratio = np.where(known, np.divide(ghi, clear, out=np.zeros_like(ghi), where=clear > 0), 0.0).reshape(days, -1)
    counted = known.reshape(days, -1).astype(float)
    total, number = np.zeros_like(ratio), np.zeros_like(ratio)
    for by in range(-NEIGHBOURS, NEIGHBOURS + 1):
        total, number = total + np.roll(ratio, by, axis=0), number + np.roll(counted, by, axis=0)
    mean = float(ratio.sum() / counted.sum())
    return np.divide(total, number, out=np.full_like(total, mean), where=number > 0).ravel()


def _drawn(weather: Weather, known: NDArray[np.bool_], clear: Floats) -> Floats:
    """Hours of a synthetic year with the clearness of each month's known hours."""
    calendar, place = weather.calendar, weather.place
    whole = float(weather.ghi[known].sum() / clear[known].sum())
    targets = []
    for month in range(12):
        of = calendar.months == month
        seen = clear[of & known].sum()
        ratio = float(weather.ghi[of & known].sum() / seen) if seen > 0 else whole
        targets.append(min(ratio, 1.0) * float(clear[of].sum()) * calendar.hours_per_interval / 1000)
    drawn = synthesise(targets, place.latitude, place.longitude, place.elevation, seed=1)
    start = round(calendar.utc_offset - drawn.calendar.utc_offset)
    hourly = np.roll(drawn.ghi, start)
    days = np.minimum(np.arange(calendar.intervals) // (calendar.intervals // calendar.days), drawn.calendar.days - 1)
    hours = (np.arange(calendar.intervals) % (calendar.intervals // calendar.days) * calendar.hours_per_interval).astype(np.int64)
    return np.minimum(hourly[days * 24 + hours], 1.2 * clear)


def _span(values: Floats, form: str = ".2f") -> str:
    low, high = float(values.min()), float(values.max())
    text = format(low, form) if high - low < 5e-3 else f"{format(low, form)} to {format(high, form)}"
    return text.replace("-", "−")
