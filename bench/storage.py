"""What comes after the meter, timed: sizes of batteries, a map of a place without a grid, edits of a price and of a battery."""

import statistics
import time
from collections.abc import Callable

import numpy as np

from noontide.core.calendar import Calendar
from noontide.core.design import Design, merge_patch
from noontide.core.figures.catalogue import figures_of
from noontide.core.money.billing import bill
from noontide.core.simulation import StageCache, simulate
from noontide.core.storage import Battery, dispatch, off_grid, own_use, totals
from noontide.core.weather import Weather
from noontide.parts import built_in_parts
from noontide.tariffs import built_in_tariffs

PARTS = built_in_parts()
HOURS = np.arange(8760)
SUN = np.maximum(0, np.sin((HOURS % 24 - 6) / 12 * np.pi)) * np.random.default_rng(1).uniform(0.1, 1, 8760)
USE = np.where((HOURS % 24 >= 17) & (HOURS % 24 < 22), 3.0, 0.6)
DAIRY = built_in_tariffs()["dairy-demand"]


def fastest(work: Callable[[], object], repeats: int) -> float:
    """The best time of a few [s]."""
    times = []
    for _ in range(repeats):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def sizes() -> float:
    """150 combinations of energy, power and array, a year each [s]."""
    energy, power, array = (
        axis.reshape(-1) for axis in np.meshgrid(np.linspace(1, 30, 10), [2.0, 4.0, 8.0], [3.0, 6.0, 9.0, 12.0, 15.0])
    )
    battery = Battery(energy, 0.1, 1, 0.1, power, power, 0.96, 0.96, 1e-5)
    return fastest(lambda: dispatch(USE, array[:, np.newaxis] * SUN, battery, own_use()), 5)


def reliability_map() -> float:
    """24 x 24 sizes of array and battery without a grid [s]."""
    battery = Battery(np.linspace(5, 140, 24), 0.2, 1, 0.6, 5, 5, 0.95, 0.95, 1e-5)
    arrays = np.linspace(4, 20, 24)[:, np.newaxis, np.newaxis] * SUN
    return fastest(lambda: totals(USE, arrays, battery, off_grid(2.0, 0.3, 0.7)), 3)


def bill_of_minutes() -> float:
    """A year of minutes in a tariff with periods and demand charges [s]."""
    calendar = Calendar(step=1, utc_offset=1)
    taken, given = np.repeat(USE, 60) / 60, np.repeat(SUN, 60) / 60
    return fastest(lambda: bill(DAIRY, taken, given, calendar, "Europe/Rome"), 3)


class Edits:
    """Edits of one value of a design with a demand, a tariff and perhaps a battery, with the cache of the edit before."""

    def __init__(self, design: Design, weather: Weather):
        self._weather = weather
        money = {"tariff": DAIRY.model_dump(mode="json", exclude_unset=True)}
        self._bare = design.as_kept()
        self._whole = merge_patch(
            self._bare,
            {"demand": {"sources": {"h": {"name": "House", "yearly": {"energy": 9000}}}}, "money": money, "storage": {"bank": {"energy": 8}, "peak": {}}},
        )  # fmt: skip

    def _median(self, document: dict, patches: list[dict]) -> float:
        cache, times = StageCache(), []
        figures_of(simulate(Design.read(document), self._weather, PARTS, cache))
        for patch in patches:
            changed = merge_patch(document, patch)
            start = time.perf_counter()
            figures_of(simulate(Design.read(changed), self._weather, PARTS, cache))
            times.append(time.perf_counter() - start)
        return statistics.median(times)

    def of_price(self) -> float:
        """A price of the tariff [s]."""
        key = next(iter(DAIRY.energy.periods))
        return self._median(
            self._whole, [{"money": {"tariff": {"energy": {"periods": {key: {"price": 0.2 + n / 100}}}}}} for n in range(15)]
        )

    def of_battery(self) -> float:
        """The size of the battery, with the least peak of every month sought anew [s]."""
        return self._median(self._whole, [{"storage": {"bank": {"energy": 5 + n}}} for n in range(15)])

    def _tilts(self) -> list[dict]:
        surface = next(iter(self._bare["surfaces"]))
        return [{"surfaces": {surface: {"tilt": 10 + 3 * n}}} for n in range(15)]

    def of_tilt(self) -> float:
        """A tilt, with demand and tariff on and no battery [s]."""
        return self._median(merge_patch(self._whole, {"storage": None}), self._tilts())

    def of_tilt_alone(self) -> float:
        """A tilt without demand and tariff [s]."""
        return self._median(self._bare, self._tilts())
