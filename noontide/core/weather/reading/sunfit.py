"""The sun as a witness: by how much a file's clock must be shifted until its clearest days follow the sun."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.sun import solar_position

Floats = NDArray[np.float64]
DAYS_A_MONTH = 2
GRID = 15.0  # min
FURTHEST = 720.0  # min
BEND = 1.15  # of a clear day's irradiance over the cosine of the zenith, Haurwitz (1945) within 2 %
FINE = 5.0  # min


@dataclass(frozen=True)
class SunFit:
    """How well the light of the clearest days follows the sun, by shift."""

    shifts: Floats  # added to the file's times [min]
    misfit: Floats  # 0 where light and sun are alike, to 1
    best: float  # [min], to five minutes
    days: int
    profile: tuple[
        Floats, Floats, Floats
    ]  # hours after the file's midnight, mean light and mean clear sky of those days, both of their highest

    @property
    def gain(self) -> float:
        """What part of the misfit the best shift takes away."""
        now = float(np.interp(0.0, self.shifts, self.misfit))
        return 1 - float(self.misfit.min()) / now if now > 0 else 0.0


def fit_sun(middles: Floats, ghi: Floats, step: int, latitude: float, longitude: float) -> SunFit | None:
    """Try shifts on the clearest days.

    Parameters
    ----------
    middles : (rows,)
        Middle of each row's interval in UTC, as it is read so far [min since 1970].
    ghi : (rows,)
        [W/m2], NaN where it is missing.
    step : int
        [min].

    Returns
    -------
    SunFit or None
        None where there are not five days with light.
    """
    at, light, day = _clearest(middles, ghi, step, latitude, longitude)
    count = len(np.unique(day))
    if count < 5:
        return None
    sky = _ClearDays(at, day, step, latitude, longitude)

    def misfit(shift: float) -> float:
        model = sky.at(shift)
        both, own, bright = (np.bincount(day, weights=v, minlength=day.max() + 1) for v in (light * model, light**2, model**2))
        present = own > 0
        likeness = both[present] ** 2 / np.maximum(own[present] * bright[present], 1e-12)
        return float(1 - likeness.mean())

    shifts = np.arange(-FURTHEST, FURTHEST + 1, GRID)
    found = np.array([misfit(s) for s in shifts])
    rough = float(shifts[int(np.argmin(found))])
    fine = rough + np.arange(-GRID, GRID + 1, FINE)
    best = float(fine[int(np.argmin([misfit(s) for s in fine]))])
    return SunFit(shifts, found, best, count, _profile(at, light, sky.at(0.0), step))


class _ClearDays:
    """The clear sky over some days on a fine grid, summed up, so that its mean over any interval is one difference."""

    def __init__(self, at: Floats, day: NDArray[np.int64], step: int, latitude: float, longitude: float):
        self._half = step / 2
        span = 2 * (FURTHEST + step) + 2 * 1440
        self._points = int(span // FINE) + 1
        first = np.full(day.max() + 1, np.inf)
        np.minimum.at(first, day, at)
        first = np.floor((np.where(np.isfinite(first), first, 0.0) - FURTHEST - step) / FINE) * FINE
        grid = first[:, np.newaxis] + FINE * (np.arange(self._points) + 0.5)
        times = (grid * 60).astype("int64").astype("datetime64[s]")
        zenith = solar_position(times.ravel(), latitude, longitude).zenith.reshape(grid.shape)
        clear = np.maximum(np.cos(np.radians(zenith)), 0) ** BEND
        self._sums = np.concatenate([np.zeros((first.size, 1)), np.cumsum(clear, axis=1)], axis=1)
        self._offset, self._day = at - first[day], day

    def at(self, shift: float) -> Floats:
        """Mean over the interval of each row, shifted by so many minutes."""
        return (self._sum(shift + self._half) - self._sum(shift - self._half)) / (2 * self._half / FINE)

    def _sum(self, shift: float) -> Floats:
        place = np.clip((self._offset + shift) / FINE, 0, self._points)
        low = np.minimum(place.astype(np.int64), self._points - 1)
        below = self._sums[self._day, low]
        return below + (place - low) * (self._sums[self._day, low + 1] - below)


def guess_place(middles: Floats, ghi: Floats, step: int, utc_offset: float) -> tuple[float, float] | None:
    """Latitude and longitude under which the light would follow the sun, to a few degrees; for files that state none."""
    trials = []
    for latitude in np.arange(-60.0, 61.0, 10.0):
        fit = fit_sun(middles, ghi, step, latitude, 0.0)
        if fit is None:
            return None
        trials.append((float(fit.misfit.min()), latitude, fit.best))
    _, latitude, shift = min(trials)
    # Light that must be put later to suit Greenwich's sun belongs to a place east of it.
    longitude = (shift / 4 + 180) % 360 - 180
    if abs(longitude / 15 - utc_offset) > 3:
        longitude = utc_offset * 15
    return latitude, longitude


def _clearest(
    middles: Floats, ghi: Floats, step: int, latitude: float, longitude: float
) -> tuple[Floats, Floats, NDArray[np.int64]]:
    """Rows of the two clearest days of each month, with their day's number.

    Days run from the file's darkest hour, so that a clock that is far off does not cut them in the middle.
    """
    hour = np.floor(middles / 60).astype(np.int64) % 24
    light = np.nan_to_num(ghi)
    by_hour = np.bincount(hour, weights=light, minlength=24)
    darkest = int(np.argmin(np.convolve(np.tile(by_hour, 3), np.ones(5), "same")[24:48]))
    days = np.floor((middles - darkest * 60) / 1440).astype(np.int64)
    first = days.min()
    rows, sums = np.bincount(days - first), np.bincount(days - first, weights=light)
    numbers = np.arange(rows.size) + first
    noon = (numbers * 1440 + darkest * 60 + 720).astype("int64").astype("datetime64[m]")
    whole = (rows >= 0.3 * 1440 / step) & (sums > 0)
    declination = np.radians(23.44) * np.sin(2 * np.pi * ((numbers % 365.25) - 80) / 365.25)
    phi = np.radians(latitude)
    half = np.arccos(np.clip(-np.tan(phi) * np.tan(declination), -1, 1))
    above = half * np.sin(phi) * np.sin(declination) + np.cos(phi) * np.cos(declination) * np.sin(half)
    clearness = np.where(whole & (above > 0.15), sums / np.maximum(above, 0.15), 0.0)
    month = noon.astype("datetime64[M]").astype(np.int64) % 12
    chosen = [
        n
        for m in range(12)
        for n in np.argsort(np.where(month == m, clearness, 0.0))[::-1][:DAYS_A_MONTH]
        if clearness[n] > 0 and month[n] == m
    ]
    best = max((clearness[n] for n in chosen), default=0.0)
    chosen = [n for n in chosen if clearness[n] > 0.55 * best]
    place = np.full(rows.size, -1)
    place[chosen] = np.arange(len(chosen))
    mine = np.flatnonzero(place[days - first] >= 0)
    if step < GRID:
        mine = mine[:: int(GRID // step)]  # a quarter of an hour is near enough
    return middles[mine], light[mine], place[(days - first)[mine]]


def _profile(at: Floats, light: Floats, sky: Floats, step: int) -> tuple[Floats, Floats, Floats]:
    bins = 1440 // max(step, 15)
    place = np.floor((at % 1440) / (1440 / bins)).astype(np.int64) % bins
    count = np.maximum(np.bincount(place, minlength=bins), 1)
    means = [np.bincount(place, weights=v, minlength=bins) / count for v in (light, sky)]
    return (np.arange(bins) + 0.5) * 24 / bins, *(m / max(float(m.max()), 1e-9) for m in means)  # type: ignore[return-value]
