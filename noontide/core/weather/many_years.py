"""Many years of one place: means, the spread between years, exceedance, extremes of temperature, the drift of a sensor."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.special import ndtri

from noontide.core.sun import extraterrestrial_normal, interval_sun
from noontide.core.weather.clear_sky import ineichen_perez
from noontide.core.weather.year import Weather

Floats = NDArray[np.float64]
CLEAREST = 0.95  # quantile of the clear-sky index that follows the sensor and not the clouds
TURBIDITY = 3.0
DRIFT_ERRORS = 3.0  # standard errors that a trend must exceed to be called a drift
DRIFT_LEAST = 0.003  # a year
LEAST_FOR_DRIFT = 5  # years


@dataclass(frozen=True)
class TemperatureFacts:
    """Temperatures that electrical limits are chosen by [°C]."""

    record_low: float
    record_high: float
    mean_low: float  # mean of the yearly lowest
    mean_high: float
    low_2_percent: float  # below which 2 % of all intervals lie
    high_2_percent: float


@dataclass(frozen=True)
class Drift:
    """The trend of the clearest light of each year against the clear sky."""

    per_year: float  # relative
    standard_error: float

    @property
    def is_found(self) -> bool:
        return abs(self.per_year) > max(DRIFT_LEAST, DRIFT_ERRORS * self.standard_error)


@dataclass(frozen=True)
class ManyYears:
    """A record of several years."""

    years: tuple[int, ...]
    monthly_ghi: Floats  # (years, 12) [kWh/m2]
    annual_ghi: Floats  # (years,) [kWh/m2]
    temperature: TemperatureFacts
    drift: Drift | None  # where there are enough years

    @property
    def mean(self) -> float:
        return float(self.annual_ghi.mean())

    @property
    def spread(self) -> float:
        """Standard deviation between the years, relative to their mean; 0 for one year."""
        return variation(self.annual_ghi)

    @property
    def mean_months(self) -> Floats:
        """Mean of each month over the years, (12,) [kWh/m2]."""
        return self.monthly_ghi.mean(axis=0)

    @property
    def worst_month(self) -> int:
        """Month with the least mean irradiation, 0 = January."""
        return int(self.mean_months.argmin())

    def exceeded(self, probability: float) -> float:
        """Annual GHI that is exceeded with a probability 0..1 [kWh/m2]."""
        return exceedance(self.annual_ghi, probability)

    def closest(self, probability: float) -> int:
        """The year of the record whose GHI lies closest to what is exceeded with that probability."""
        return self.years[int(np.abs(self.annual_ghi - self.exceeded(probability)).argmin())]


def many_years(years: Sequence[Weather]) -> ManyYears:
    """The figures of a record.

    Raises
    ------
    ValueError
        If there is no year, or one of them is a typical year: its months were chosen, and vary less than those of any record.
    """
    if not years:
        raise ValueError("A record needs one year or more.")
    if typical := next((year for year in years if year.is_typical), None):
        raise ValueError(f"{typical.title} is a typical year, or one without a date: it is no year of a record.")
    monthly = np.array([y.calendar.monthly_sums(y.ghi) * y.calendar.hours_per_interval / 1000 for y in years])
    return ManyYears(
        years=tuple(y.calendar.year for y in years),
        monthly_ghi=monthly,
        annual_ghi=monthly.sum(axis=1),
        temperature=temperature_facts(years),
        drift=sensor_drift(years) if len(years) >= LEAST_FOR_DRIFT else None,
    )


def temperature_facts(years: Sequence[Weather]) -> TemperatureFacts:
    """Lowest and highest temperatures by record, by the mean of the yearly extremes, and by a 2 % choice."""
    lows, highs = np.array([y.temperature.min() for y in years]), np.array([y.temperature.max() for y in years])
    every = np.concatenate([y.temperature for y in years])
    low, high = np.quantile(every, [0.02, 0.98])
    return TemperatureFacts(
        float(lows.min()), float(highs.max()), float(lows.mean()), float(highs.mean()), float(low), float(high)
    )


def exceedance(values: ArrayLike, probability: float) -> float:
    """The value that is exceeded with a probability, of a normal distribution with the mean and the spread of `values`.

    Raises
    ------
    ValueError
        If the probability is not within 0 and 1, or there is no value.
    """
    if not 0 < probability < 1:
        raise ValueError(f"A probability lies between 0 and 1; it is {probability:g}.")
    sample = np.asarray(values, dtype=float)
    if not sample.size:
        raise ValueError("Exceedance needs one value or more.")
    deviation = float(sample.std(ddof=1)) if sample.size > 1 else 0.0
    return float(sample.mean() - ndtri(probability) * deviation)


def variation(values: ArrayLike) -> float:
    """Standard deviation of a sample relative to its mean; 0 for a single value."""
    sample = np.asarray(values, dtype=float)
    return float(sample.std(ddof=1) / sample.mean()) if sample.size > 1 and sample.mean() else 0.0


def sensor_drift(years: Sequence[Weather]) -> Drift:
    """Trend over the years of the 95th percentile of the clear-sky index under a high sun.

    Clouds come and go; what the clearest hours reach follows the sensor (and, slowly, the air).
    """
    clearest = []
    for year in years:
        sun = interval_sun(year.calendar, year.place.latitude, year.place.longitude, year.place.elevation)
        clear = ineichen_perez(sun.zenith, extraterrestrial_normal(sun.distance), TURBIDITY, max(year.place.elevation, 0.0)).ghi
        high = (sun.zenith < max(60.0, float(sun.zenith.min()) + 20)) & (sun.lit_fraction > 0.99)
        clearest.append(float(np.quantile(year.ghi[sun.interval_index][high] / clear[high], CLEAREST)))
    slope, error = _trend([y.calendar.year for y in years], clearest)
    mean = float(np.mean(clearest)) or 1.0
    return Drift(slope / mean, error / mean)


def _trend(x: Sequence[float], y: Sequence[float]) -> tuple[float, float]:
    """Slope of the least-squares line, and its standard error."""
    dx, dy = np.asarray(x) - np.mean(x), np.asarray(y) - np.mean(y)
    spread = float(dx @ dx)
    slope = float(dx @ dy) / spread
    left = max(float(dy @ dy) / spread - slope**2, 0.0)
    return slope, sqrt(left / (len(dx) - 2)) if len(dx) > 2 else 0.0
