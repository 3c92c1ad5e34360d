"""The speed table: each work in milliseconds and in units of S, one np.sin over 8,760 doubles in this process.

Imports and first calls are warm; result caches are cold unless a line says otherwise. A ratio over its limit is marked.
"""

import statistics
import time
from collections.abc import Callable

import numpy as np

from bench import storage
from bench.shade import Field, ShadeBench, Village
from bench.studies import Studies
from noontide.core.calendar import Calendar
from noontide.core.design import Design
from noontide.core.electrical import finder
from noontide.core.electrical.fleet import proposals
from noontide.core.simulation import StageCache, simulate
from noontide.core.sun import solar_position
from noontide.core.weather import Place, fill_missing_columns
from noontide.parts import built_in_parts
from noontide.standins.climate import synthetic_year

CALENDAR = Calendar(utc_offset=1)
PLACE = Place(43.62, 11.31, 412)
WEATHER = fill_missing_columns(
    CALENDAR, PLACE, synthetic_year(PLACE.latitude, PLACE.longitude, PLACE.elevation, CALENDAR), title="bench"
)
PARTS = built_in_parts()


def best_of(work: Callable[[], object], repeats: int) -> float:
    """Shortest of several times [s]."""
    times = []
    for _ in range(repeats):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return min(times)


def plant(subarrays: int, surfaces: int, tilt: float = 30.0) -> Design:
    return Design.read(
        {
            "site": {"latitude": PLACE.latitude, "longitude": PLACE.longitude, "elevation": PLACE.elevation},
            "surfaces": {f"s{i}": {"tilt": tilt + i * 0.5, "azimuth": (150 + 2 * i) % 360} for i in range(surfaces)},
            "inverters": {f"i{i}": {"model": "hexley-20"} for i in range((subarrays + 1) // 2)},
            "subarrays": {
                f"a{i}": {
                    "surface": f"s{i % surfaces}", "module": "veltrane-430", "modules_per_string": 17, "strings": 2, "inverter": f"i{i // 2}", "tracker": 1 + i % 2,
                }
                for i in range(subarrays)
            },
        }
    )  # fmt: skip


def whole_year(design: Design, cache: StageCache | None = None) -> float:
    results = simulate(design, WEATHER, PARTS, cache)
    return results.annual.energy + results.cascade.residual


def edit_of_tilt() -> float:
    """A year after each of 60 edits of the tilt, with the cache of the one before; the median [s]."""
    cache, times = StageCache(), []
    whole_year(plant(1, 1), cache)
    for tilt in np.linspace(5, 65, 60):
        scheme = plant(1, 1, float(tilt))
        start = time.perf_counter()
        whole_year(scheme, cache)
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def find_strings() -> float:
    """Ways for 1,000 modules over any of fifty inverters [s]."""
    units = [unit for unit in PARTS.inverters.values() if unit.kind == "string"]
    fifty = [unit.model_copy(update={"id": f"{unit.id}-{n}"}) for n in range(5) for unit in units][:50]

    def search() -> None:
        finder.forget()
        proposals(1000, PARTS.modules["veltrane-430"], fifty, -10.0, 70.0)

    return best_of(search, 3)


def list_arrangements() -> float:
    """The ways that are listed for 600 modules on the largest string inverter [s]."""
    largest = max((unit for unit in PARTS.inverters.values() if unit.kind == "string"), key=lambda unit: unit.ac_power)

    def search() -> None:
        finder.forget()
        finder.arrangements(600, PARTS.modules["veltrane-430"], largest, -10.0, 70.0)

    return best_of(search, 3)


def unit_now() -> float:
    """S as the clock of the processor stands now [s]."""
    points = np.linspace(0, 10, 8760)
    return best_of(lambda: np.sin(points), 1000)


def main() -> None:
    times = CALENDAR.utc_midpoints
    whole_year(plant(1, 1))
    works: list[tuple[str, Callable[[], float], float | None]] = [
        ("solar positions of a year", lambda: best_of(lambda: solar_position(times, PLACE.latitude, PLACE.longitude), 30), 30),
        ("a year of one sub-array, all stages", lambda: best_of(lambda: whole_year(plant(1, 1)), 30), 150),
        ("the same after an edit of tilt, cache warm", edit_of_tilt, 90),
        ("strings for 1,000 modules, 50 inverters", find_strings, 3000),
        ("a year of 40 sub-arrays on 8 surfaces", lambda: best_of(lambda: whole_year(plant(40, 8)), 10), None),
        ("a year of 40 sub-arrays on 40 surfaces", lambda: best_of(lambda: whole_year(plant(40, 40)), 10), None),
    ]
    roof = ShadeBench(500, 300, WEATHER, PARTS, PLACE.latitude, PLACE.longitude)
    large = ShadeBench(2000, 1000, WEATHER, PARTS, PLACE.latitude, PLACE.longitude)
    village = Village(WEATHER, PARTS, PLACE.latitude, PLACE.longitude)
    field = Field(420, 330, WEATHER, PARTS, PLACE.latitude, PLACE.longitude)
    roof.moved(), village.moved()
    works += [
        ("near shading, 500 modules x 3, 300 faces", lambda: min(roof.cold() for _ in range(3)), 4000),
        ("the same after one chimney has moved", lambda: min(roof.moved() for _ in range(3)), 600),
        ("a first, coarse look at it", lambda: min(roof.coarse() for _ in range(3)), 600),
        ("near shading, 2,000 modules x 3, 1,000 faces", large.cold, 100_000),
        ("near shading, 440 modules on 40 roofs", lambda: min(village.cold() for _ in range(2)), 30_000),
        ("the same after one chimney has moved", lambda: min(village.moved() for _ in range(3)), 1500),
        ("a first, coarse look at it", lambda: min(village.coarse() for _ in range(3)), 1000),
        (f"a field of {field.modules:,} modules in rows, a first look", lambda: min(field.coarse() for _ in range(3)), 10_000),
        ("the same, exact", lambda: min(field.cold() for _ in range(3)), 300_000),
        ("every way for 600 modules on one inverter of 250 kW", list_arrangements, 3000),
    ]
    edits = storage.Edits(plant(1, 1), WEATHER)
    works += [
        ("150 sizes of battery and array, a year each", storage.sizes, 1500),
        ("a map of 24 x 24 sizes without a grid", storage.reliability_map, 5000),
        ("a bill of a year of minutes", storage.bill_of_minutes, 300),
        ("an edit of a price, to the figures", edits.of_price, None),
        ("an edit of a battery, to the figures", edits.of_battery, None),
        ("an edit of tilt with demand and tariff, to the figures", edits.of_tilt, None),
        ("an edit of tilt without them, to the figures", edits.of_tilt_alone, None),
    ]
    studies = Studies(plant(1, 1), WEATHER)
    works += [
        (
            "150 batteries and arrays as a study, to self-sufficiency",
            lambda: min(studies.sizes("self_sufficiency") for _ in range(3)),
            1500,
        ),
        ("the same, to the net present value", lambda: min(studies.sizes("net_present_value") for _ in range(3)), 1500),
        ("100 tilts and azimuths as a study, to the energy", lambda: min(studies.attitudes() for _ in range(3)), 40 * 90),
        ("1,000 strings and inverters as a study, to the energy", studies.strings, 60_000),
    ]
    print(f"{'work':<52}{'ms':>9}{'S [ms]':>9}{'S':>9}{'limit S':>9}")
    units = [unit_now()]
    one = 0.0
    for name, work, limit in works:
        took = work()
        units.append(unit_now())
        # Processors change their clock: a work is held against the faster of the units before and after it.
        unit = min(units[-2:])
        ratio = took / unit
        if "one sub-array" in name:
            one = ratio
        most = 15 * one if limit is None else limit
        mark = "" if ratio <= most else "  over its limit"
        print(f"{name:<52}{took * 1000:>9.2f}{unit * 1000:>9.3f}{ratio:>9.1f}{most:>9.0f}{mark}")
    print(f"\nS, one np.sin over 8,760 doubles, took {min(units) * 1000:.3f} to {max(units) * 1000:.3f} ms.")


if __name__ == "__main__":
    main()
