"""The Quick estimate: one sentence in, a whole scheme and its year out."""

from math import floor

import numpy as np

from noontide.core.electrical.arrangement import Arrangement, arrange, choose_inverter
from noontide.core.electrical.datasheets import Module
from noontide.core.scheme import Scheme as Design
from noontide.parts import built_in_parts
from noontide.server.places.finding import time_zone_at
from noontide.server.problems import Problem
from noontide.server.projects.drawing import orientation_of
from noontide.server.projects.evaluating import evaluate, results_of
from noontide.server.projects.shapes import EstimateAnswer, EstimateRequest
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.requesting import year_for

YEARS_ON_SALE = 10  # an older inverter is not proposed; it can be chosen
HOTTEST_CELL = 70.0  # °C, for a first choice of string lengths; the simulation's own is checked afterwards


def estimate(asked: EstimateRequest) -> EstimateAnswer:
    """Size, arrange and simulate.

    Raises
    ------
    Problem
        If a part is unknown or nothing can be arranged.
    ServiceFailed
        If there is no weather for the place.
    """
    zone, utc_offset = time_zone_at(asked.latitude, asked.longitude)
    year = year_for(asked.latitude, asked.longitude, asked.elevation, utc_offset, asked.place)
    parts = built_in_parts()
    module = parts.modules.get(asked.module)
    if module is None:
        raise Problem(
            422,
            "unknown-part",
            "There is no such module",
            f"There is no module '{asked.module}'. Choose one from the library.",
            "/module",
        )
    if asked.inverter and asked.inverter not in parts.inverters:
        raise Problem(
            422,
            "unknown-part",
            "There is no such inverter",
            f"There is no inverter '{asked.inverter}'. Choose one from the library.",
            "/inverter",
        )
    count, limited_by = _modules(asked, module, year)
    arrangement = _arrange(asked, count, module, year)
    design = _design(asked, zone, year, module, arrangement)
    evaluation = evaluate(design)
    results = results_of(design)
    facing = orientation_of(design)
    hourly = np.clip(results.delivered, 0, None).reshape(results.calendar.days, -1, 60 // results.calendar.step).mean(axis=2)
    most = max(float(hourly.max()), 1e-9)
    if asked.start == "area" and arrangement.modules < count:
        limited_by = f"the strings: {count - arrangement.modules} of {count} modules would be left over"
    return EstimateAnswer(
        document=design.as_kept(),
        evaluation=evaluation,
        modules=arrangement.modules,
        power=arrangement.modules * module.power / 1000,
        area=arrangement.modules * module.area,
        inverter=arrangement.inverter.id,
        inverters=arrangement.count,
        leftover=count - arrangement.modules,
        limited_by=limited_by,
        best_tilt=facing.best_tilt,
        best_azimuth=facing.best_azimuth,
        against_best=facing.surfaces["roof"] / facing.best - 1,
        year=np.round(hourly / most * 255).astype(int).ravel().tolist(),
    )


def _modules(asked: EstimateRequest, module: Module, year: WeatherYear) -> tuple[int, str]:
    """Modules for the amount asked, and what sets their number."""
    match asked.start:
        case "modules":
            return max(1, round(asked.amount)), "the number of modules"
        case "power":
            return max(1, round(asked.amount * 1000 / module.power)), "the power asked for"
        case "area":
            fits = floor(asked.amount / module.area)
            if fits < 1:
                raise Problem(
                    422,
                    "too-small",
                    "Not one module fits",
                    f"One module takes {module.area:.2f} m²; give at least that.",
                    "/amount",
                )
            return fits, f"the area: {fits} modules of {module.area:.2f} m²"
        case "demand":
            # A first kilowatt tells the specific yield, which hardly depends on the size.
            trial = _arrange(asked, max(4, round(3000 / module.power)), module, year)
            zone, _ = time_zone_at(asked.latitude, asked.longitude)
            results = results_of(_design(asked, zone, year, module, trial))
            needed = asked.amount / results.annual.specific_yield * 1000
            return max(1, round(needed / module.power)), "the yearly demand"


def _arrange(asked: EstimateRequest, count: int, module: Module, year: WeatherYear) -> Arrangement:
    coldest = year.summary["lowest_temperature"]
    parts = built_in_parts()
    if asked.inverter:
        found = arrange(count, module, parts.inverters[asked.inverter], coldest, HOTTEST_CELL)
    else:
        inverters = parts.inverters.values()
        newest = max(inverter.year for inverter in inverters)
        sold = [inverter for inverter in inverters if inverter.year > newest - YEARS_ON_SALE]
        found = choose_inverter(count, module, sold, coldest, HOTTEST_CELL)
    if found is None:
        which = (
            f"a {parts.inverters[asked.inverter].maker} {parts.inverters[asked.inverter].name}"
            if asked.inverter
            else "any inverter of the library"
        )
        raise Problem(
            422, "no-arrangement", "These modules make no string",
            f"{count} {module.maker} {module.name} make no string whose voltage suits {which}. Take more modules, or another inverter or module.", "/amount",
        )  # fmt: skip
    return found


def _design(asked: EstimateRequest, zone: str, year: WeatherYear, module: Module, arrangement: Arrangement) -> Design:
    return Design.model_validate(
        {
            "site": {
                "name": asked.place,
                "latitude": asked.latitude,
                "longitude": asked.longitude,
                "elevation": asked.elevation,
                "time_zone": zone,
            },
            "weather": {"digest": year.digest, "title": year.title},
            "surfaces": {
                "roof": {
                    "name": "Roof" if asked.mounting != "open rack" else "Field",
                    "tilt": asked.tilt,
                    "azimuth": asked.azimuth,
                    "mounting": asked.mounting,
                }
            },
            "inverters": {
                "main": {"model": arrangement.inverter.id} | ({"count": arrangement.count} if arrangement.count > 1 else {})
            },
            "subarrays": {
                f"tracker-{t}": {
                    "surface": "roof",
                    "module": module.id,
                    "modules_per_string": length,
                    "strings": strings,
                    "inverter": "main",
                    "tracker": t,
                }
                for t, (length, strings) in enumerate(arrangement.strings, start=1)
            },
        }
    )
