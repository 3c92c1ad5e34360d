"""The Quick estimate: one sentence in, a whole scheme and its year out."""

from math import floor

import numpy as np

from noontide.core.behind_meter.storage_sizes import battery_words
from noontide.core.demand.meter import at_the_meter
from noontide.core.design import Design, freeze
from noontide.core.electrical.arrangement import Arrangement, arrange, choose_inverter
from noontide.core.electrical.datasheets import Catalogue, Module
from noontide.core.figures.months import table_of_months
from noontide.core.money import bill
from noontide.core.simulation import Results
from noontide.server.accounts.models import User
from noontide.server.places.finding import time_zone_at
from noontide.server.problems import Problem
from noontide.server.projects.api_models import EstimateAnswer, EstimateMonth, EstimateRequest
from noontide.server.projects.evaluator import evaluator, results_for
from noontide.server.projects.orientation import orientation_of
from noontide.server.weather_library.edr import ServiceFailed, fetch_elevation
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.requesting import year_for

# Of a year's irradiation, by the check of the shipped climatology against cities that it was not fitted to.
EXPECTED_ERROR = 0.07
YEARS_ON_SALE = 10  # an older inverter is not proposed; it can be chosen
HOTTEST_CELL = 70.0  # °C, for a first choice of string lengths; the simulation's own is checked afterwards


def estimate(asked: EstimateRequest, parts: Catalogue, owner: User) -> EstimateAnswer:
    """Size, arrange and simulate, with the parts of a library; the weather year is the owner's.

    Raises
    ------
    Problem
        If a part is unknown or nothing can be arranged.
    ServiceFailed
        If there is no weather for the place.
    """
    zone, utc_offset = time_zone_at(asked.latitude, asked.longitude)
    if asked.elevation is None:
        asked = asked.model_copy(update={"elevation": _elevation(asked.latitude, asked.longitude)})
    year = year_for(asked.latitude, asked.longitude, asked.elevation or 0.0, utc_offset, asked.place, owner)
    module = parts.modules.get(asked.module)
    if module is None:
        raise Problem(
            422,
            "unknown-part",
            "Unknown module",
            f"There is no module '{asked.module}'. Choose one from the library.",
            "/module",
        )
    if asked.inverter and asked.inverter not in parts.inverters:
        raise Problem(
            422,
            "unknown-part",
            "Unknown inverter",
            f"There is no inverter '{asked.inverter}'. Choose one from the library.",
            "/inverter",
        )
    count, limited_by = _modules(asked, module, year, parts)
    arrangement = _arrange(asked, count, module, year, parts)
    document = _document(asked, zone, year, module, arrangement, parts)
    evaluated = evaluator.ask(document, patience=30)
    results = results_for(document)
    orientation = orientation_of(Design.read(document))
    hourly = np.clip(results.delivered, 0, None).reshape(results.calendar.days, -1, 60 // results.calendar.step).mean(axis=2)
    most = max(float(hourly.max()), 1e-9)
    if asked.start == "area" and arrangement.modules < count:
        limited_by = f"string lengths: {count - arrangement.modules} of {count} modules are left over"
    return EstimateAnswer(
        elevation=asked.elevation or 0.0,
        weather_error=EXPECTED_ERROR if year.origin == "service" else None,
        document=document,
        evaluation=evaluated.evaluation,
        modules=arrangement.modules,
        power=arrangement.modules * module.power / 1000,
        area=arrangement.modules * module.area,
        inverter=arrangement.inverter.id,
        inverters=arrangement.count,
        leftover=count - arrangement.modules,
        limited_by=limited_by,
        best_tilt=orientation.best_tilt,
        best_azimuth=orientation.best_azimuth,
        against_best=results.annual.plane_irradiation / orientation.best - 1
        if asked.mounting == "tracker"
        else orientation.surfaces["roof"] / orientation.best - 1,
        months=_months(results, asked),
        currency=results.design.money.currency,
        battery=battery_words(results),
        year=np.round(hourly / most * 255).astype(int).ravel().tolist(),
    )


def _elevation(latitude: float, longitude: float) -> float:
    try:
        return round(fetch_elevation(latitude, longitude))
    except ServiceFailed:
        return 0.0


def _modules(asked: EstimateRequest, module: Module, year: WeatherYear, parts: Catalogue) -> tuple[int, str]:
    """Modules for the amount asked, and what sets their number."""
    match asked.start:
        case "modules":
            return max(1, round(asked.amount)), "the number of modules"
        case "power":
            return max(1, round(asked.amount * 1000 / module.power)), "the requested power"
        case "area":
            fits = floor(asked.amount / module.area)
            if fits < 1:
                raise Problem(
                    422,
                    "too-small",
                    "Not one module fits",
                    f"One module needs {module.area:.2f} m²; enter at least that.",
                    "/amount",
                )
            return fits, f"the area: {fits} modules of {module.area:.2f} m²"
        case "demand":
            # A first array gives the specific yield, which hardly depends on the size.
            trial = _arrange(asked, max(4, round(3000 / module.power)), module, year, parts)
            zone, _ = time_zone_at(asked.latitude, asked.longitude)
            results = results_for(_document(asked, zone, year, module, trial, parts))
            needed = asked.amount / results.annual.specific_yield * 1000
            return max(1, round(needed / module.power)), "the yearly demand"
        case "use" | "bill":
            if not asked.use:
                raise Problem(
                    422,
                    "no-use",
                    "The use is missing",
                    "Say how much electricity is used in a year; a share of it is to be covered.",
                    "/use",
                )
            trial = _arrange(asked, max(4, round(3000 / module.power)), module, year, parts)
            zone, _ = time_zone_at(asked.latitude, asked.longitude)
            results = results_for(_document(asked, zone, year, module, trial, parts))
            if asked.start == "use":
                needed = asked.amount / 100 * asked.use / results.annual.specific_yield * 1000
                return max(1, round(needed / module.power)), f"{asked.amount:g} % of the use, over the year"
            return _for_the_bill(asked, results), f"{asked.amount:g} % of the bill"


MOST_FOR_A_BILL = 3000  # modules that are looked through


def _for_the_bill(asked: EstimateRequest, trial: Results) -> int:
    """The fewest modules whose energy saves a share of the bill; the power of a trial grows with their number.

    Raises
    ------
    Problem
        If no number of modules saves so much.
    """
    calendar, zone, tariff = trial.calendar, trial.after.time_zone, trial.design.money.tariff
    before, used = trial.after.bill_before, trial.after.demand
    assert tariff is not None and before is not None and used is not None
    each = trial.delivered / 1000 / trial.annual.modules

    def share(count: int) -> float:
        metered = at_the_meter(each * count, used.total, calendar)
        return 100 * (1 - bill(tariff, metered.imported, metered.exported, calendar, zone).total / before.total)

    if not before.total > 0:
        raise Problem(422, "no-bill", "There is no bill", "At a price of 0 there is nothing to save.", "/price")
    # More modules save more until what they add goes to the grid for less than they draw at night.
    counts = np.unique(np.geomspace(1, MOST_FOR_A_BILL, 60).astype(int)).tolist()
    shares = [share(count) for count in counts]
    enough = next((k for k, saved in enumerate(shares) if saved >= asked.amount), None)
    if enough is None:
        best = int(np.argmax(shares))
        raise Problem(
            422, "too-much", "So much of the bill cannot be saved",
            f"{counts[best]} modules save {shares[best]:.0f} % of it, and no number more; what goes to the grid earns too little. Ask for less, or for a share of the use.", "/amount",
        )  # fmt: skip
    low, high = counts[enough - 1] if enough else 0, counts[enough]
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if share(middle) >= asked.amount else (middle, high)
    return high


def _months(results: Results, asked: EstimateRequest) -> list[EstimateMonth]:
    """Irradiation, energy and value by month."""
    table = table_of_months(results).months
    before, after = results.after.bill_before, results.after.bill
    values: list[float | None] = [None] * 12
    if asked.use and before is not None and after is not None:
        values = [was - now for was, now in zip(before.by_month, after.by_month, strict=True)]
    return [
        EstimateMonth(irradiation=row.plane, energy=row.energy, value=value) for row, value in zip(table, values, strict=True)
    ]


def _use_and_price(asked: EstimateRequest) -> dict:
    """Demand and money of the sentence; nothing where no use was said."""
    if not asked.use:
        return {}
    return {
        "demand": {"sources": {"use": {"name": "Use", "yearly": {"energy": asked.use, "shape": asked.use_shape}}}},
        "money": {
            "tariff": {"name": "One price", "energy": {"price": asked.price}, "export": {"price": asked.export_price}},
            "costs": {"work": {"name": "Mounting and work", "amount": asked.work, "per": "kW"}},
        },
    }


def _arrange(asked: EstimateRequest, count: int, module: Module, year: WeatherYear, parts: Catalogue) -> Arrangement:
    coldest = year.summary["lowest_temperature"]
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
            422, "no-arrangement", "No valid string layout",
            f"{count} × {module.maker} {module.name}: no string length keeps the voltage limits of {which}. Use more modules, or another inverter or module.", "/amount",
        )  # fmt: skip
    return found


def _surface(asked: EstimateRequest) -> dict:
    if asked.mounting == "tracker":
        return {"name": "Trackers", "mounting": "open rack", "tracking": {}}
    name = "Field" if asked.mounting == "open rack" else "Roof"
    return {"name": name, "tilt": asked.tilt, "azimuth": asked.azimuth, "mounting": asked.mounting}


def _document(
    asked: EstimateRequest, zone: str, year: WeatherYear, module: Module, arrangement: Arrangement, parts: Catalogue
) -> dict:
    return freeze(
        {
            "site": {
                "name": asked.place,
                "latitude": asked.latitude,
                "longitude": asked.longitude,
                "elevation": asked.elevation,
                "time_zone": zone,
            },
            "weather": {"digest": year.digest, "title": year.title},
            "surfaces": {"roof": _surface(asked)},
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
        | _use_and_price(asked),
        parts,
    )
