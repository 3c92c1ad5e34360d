"""From the sentence to a design: how many modules, in which strings on which inverter, and what its year brings."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from math import ceil, floor
from typing import Any

import numpy as np

from noontide.core.access.orientations import Orientations, orientations_of
from noontide.core.behind_meter.storage_sizes import proposed_by_use
from noontide.core.costs.economics import cash_year_by_year
from noontide.core.demand.meter import at_the_meter
from noontide.core.design import Design, freeze, merge_patch
from noontide.core.electrical.datasheets import Module
from noontide.core.estimate.asked import EstimateRequest
from noontide.core.figures.months import table_of_months
from noontide.core.finding import (
    MOST_LEFT_OVER,
    MOST_NUMBER,
    CannotFind,
    FindRequest,
    FoundWays,
    ProposalLine,
    battery_for,
    best_way,
    find_strings,
    on_sale,
)
from noontide.core.money import bill
from noontide.core.simulation import Libraries, Results

SURFACE = "roof"
LARGEST_RATIO = 1.35  # of DC to AC power, where another way is possible
TRIAL_POWER = 3000.0  # W of a first array, whose yield by module hardly depends on the size
FEWEST_OF_A_TRIAL = 4
SIZES = 6  # that are looked at for the best value, and once more about the best of them
MOST_FOR_A_BILL = 3000  # modules that are looked through
CannotEstimate = CannotFind


@dataclass(frozen=True)
class Month:
    """Irradiation on the plane a day [kWh/m2], energy [kWh], and what the bill saves; None without a use."""

    irradiation: float
    energy: float
    value: float | None


@dataclass(frozen=True)
class Estimate:
    """A design as it could be built, and its year."""

    document: dict[str, Any]
    results: Results
    module: Module
    way: ProposalLine
    wanted: int  # modules
    limited_by: str  # what sets their number
    orientations: Orientations
    battery: str  # a size in words with its reason; empty without a use
    battery_taken: str  # what was put in, in words; empty where nothing was

    @property
    def against_best(self) -> float:
        """Irradiation on the modules over that of the best fixed plane, less 1."""
        tracks = self.results.design.surfaces[SURFACE].tracking is not None
        received = self.results.annual.plane_irradiation if tracks else self.orientations.surfaces[SURFACE]
        return received / self.orientations.best - 1

    @property
    def months(self) -> list[Month]:
        """Irradiation, energy and value by month."""
        after = self.results.after
        values: list[float | None] = [None] * 12
        if after.bill_before is not None and after.bill is not None:
            values = [was - now for was, now in zip(after.bill_before.by_month, after.bill.by_month, strict=True)]
        table = table_of_months(self.results).months
        return [Month(row.plane, row.energy, value) for row, value in zip(table, values, strict=True)]

    @property
    def hourly(self) -> np.ndarray:
        """Delivered power, (days, 24) [W]."""
        calendar = self.results.calendar
        return np.clip(self.results.delivered, 0, None).reshape(calendar.days, -1, 60 // calendar.step).mean(axis=2)


def estimate(asked: EstimateRequest, time_zone: str, libraries: Libraries) -> Estimate:
    """Size an array, find its strings and simulate its year.

    Of the ways to connect the modules it takes the one that leaves fewest over and, where modules and inverters have a price, whose energy costs least.
    A battery is put in where it is asked for and one is proposed; it is sized for the array, and not the array for it.

    Parameters
    ----------
    time_zone : str
        Of the place, by name.
    libraries : Libraries
        Parts, and the weather year of the place.

    Raises
    ------
    CannotEstimate
        If a part is unknown, nothing can be connected, or what is asked for cannot be reached; it has the blank that it is about.
    """
    parts = libraries.parts
    module = parts.modules.get(asked.module)
    if module is None:
        raise _unknown("module", asked.module)
    if asked.inverter and asked.inverter not in parts.inverters:
        raise _unknown("inverter", asked.inverter)
    if asked.battery and not asked.use:
        words = "A battery stores for a use. Say how much electricity is used in a year."
        raise CannotEstimate("no-use", "The use is missing", words, "/use")
    design = Design.read(freeze(_without_strings(asked, time_zone, libraries), parts))
    sold = replace(libraries, parts=parts if asked.inverter else parts.model_copy(update={"inverters": _on_sale(libraries)}))
    need, limited_by = _need(asked, design, module, sold)
    found, way = _fewest(asked, design, module, need, sold)
    document = freeze(merge_patch(design.as_kept(), way.patch), parts)
    whole = Design.read(document)
    year = libraries.year_of(whole)
    proposed, taken = proposed_by_use(year), ""
    if asked.battery and proposed is not None and proposed.energy > 0:
        bank, taken = battery_for(proposed.energy, parts, whole.money)
        document = freeze(merge_patch(document, {"storage": {"bank": bank}}), parts)
        year = libraries.year_of(Design.read(document))
    if asked.start == "area" and way.left_over:
        limited_by = f"string lengths: {way.left_over} of {found.number} modules are left over"
    return Estimate(
        document, year, module, way, found.number, limited_by, orientations_of(whole, libraries), "" if proposed is None else proposed.words, taken
    )  # fmt: skip


def _unknown(kind: str, part: str) -> CannotEstimate:
    words = f"There is no {kind} '{part}'. Choose one from the library."
    return CannotEstimate("unknown-part", f"Unknown {kind}", words, f"/{kind}")


def _on_sale(libraries: Libraries) -> dict:
    """String inverters of the last years."""
    return {key: unit for key, unit in on_sale(libraries.parts.inverters).items() if unit.kind == "string"}


def _need(asked: EstimateRequest, design: Design, module: Module, libraries: Libraries) -> tuple[dict[str, Any], str]:
    """What the finder looks for, and what sets the number of modules."""
    match asked.start:
        case "modules":
            return {"number": max(1, round(asked.amount))}, "the number of modules"
        case "power":
            return {"number": max(1, round(asked.amount * 1000 / module.power))}, "the requested power"
        case "area":
            fits = _fits(asked, module)
            return {"number": fits}, f"the area: {fits} modules of {module.area:.2f} m²"
        case "demand":
            return {"need": "energy", "amount": asked.amount}, "the yearly demand"
    if not asked.use:
        words = "Say how much electricity is used in a year, and what it costs."
        raise CannotEstimate("no-use", "The use is missing", words, "/use")
    if asked.start == "use":
        return {"need": "demand", "amount": asked.amount}, f"{asked.amount:g} % of the use, over the year"
    few = max(FEWEST_OF_A_TRIAL, round(TRIAL_POWER / module.power))
    if asked.start == "value":
        return {"number": _of_best_value(asked, design, module, few, libraries)}, "the best net present value"
    trial = _year_with(few, asked, design, module, libraries)
    return {"number": _for_the_bill(asked, trial)}, f"{asked.amount:g} % of the bill"


def _fits(asked: EstimateRequest, module: Module) -> int:
    """Modules that an area takes."""
    fits = floor(asked.amount / module.area)
    if fits < 1:
        words = f"One module needs {module.area:.2f} m²; enter at least that."
        raise CannotEstimate("too-small", "Not one module fits", words, "/amount")
    return fits


def _year_with(number: int, asked: EstimateRequest, design: Design, module: Module, libraries: Libraries) -> Results:
    """The year with some modules, connected in the best way."""
    way = best_way(_ways(asked, design, module, {"number": number}, libraries).proposals)
    return libraries.year_of(Design.read(merge_patch(design.as_kept(), way.patch)))


def _of_best_value(asked: EstimateRequest, design: Design, module: Module, few: int, libraries: Libraries) -> int:
    """The number of modules on an area whose net present value is the highest.

    From the few up to all that fit, each looked at with its own strings and inverters; then more closely about the best.

    Raises
    ------
    CannotEstimate
        If no number of them earns what it costs.
    """
    fits = min(_fits(asked, module), MOST_NUMBER)
    values: dict[int, float] = {}

    def look(numbers: Iterable[int]) -> None:
        for number in sorted(set(numbers) - set(values)):
            try:
                found = _year_with(number, asked, design, module, libraries)
            except CannotEstimate:  # so many make no strings
                continue
            values[number] = cash_year_by_year(found).net_present_value

    least = min(few, fits)
    look(round(least * (fits / least) ** (k / (SIZES - 1))) for k in range(SIZES))
    if values:
        known = sorted(values)
        at = known.index(max(values, key=lambda number: values[number]))
        below, above = known[max(at - 1, 0)], known[min(at + 1, len(known) - 1)]
        look(round(below + (above - below) * k / (SIZES - 1)) for k in range(SIZES))
    best = max(values, key=lambda number: values[number], default=0)
    if not values or values[best] <= 0:
        words = (
            f"No size earns what it costs: {best} modules come nearest. Change the prices or the use, or start from something else."
            if values
            else "No number of these modules makes strings on an inverter. Use another module or inverter."
        )
        raise CannotEstimate("no-value", "No size pays", words, "/amount")
    return best


def _ways(asked: EstimateRequest, design: Design, module: Module, need: dict[str, Any], libraries: Libraries) -> FoundWays:
    """Ways to connect the modules, all of them where that is possible."""
    if need.get("number", 1) > MOST_NUMBER:
        words = f"That takes {need['number']:,} modules; {MOST_NUMBER:,} or less are estimated. Ask for a part of it."
        raise CannotEstimate("too-many", "Too many modules", words, "/amount")
    wish = {"surface": SURFACE, "module": module.id, "inverter": asked.inverter, "first": True} | need
    usual = {"highest_ratio": LARGEST_RATIO}
    for more in (usual, {}, usual | {"leave_over": MOST_LEFT_OVER}, {"leave_over": MOST_LEFT_OVER}):
        found = find_strings(design, FindRequest.model_validate(wish | more), libraries)
        if found.proposals:
            break
    if not found.proposals:
        unit = libraries.parts.inverters.get(asked.inverter)
        which = f"a {unit.maker} {unit.name}" if unit else "any inverter of the library"
        raise CannotEstimate(
            "no-arrangement", "No valid string layout",
            f"{found.number} × {module.maker} {module.name}: no string length keeps the voltage limits of {which}. Use more modules, or another inverter or module.", "/amount",
        )  # fmt: skip
    return found


def _fewest(
    asked: EstimateRequest, design: Design, module: Module, need: dict[str, Any], libraries: Libraries
) -> tuple[FoundWays, ProposalLine]:
    """The ways for a need and the best of them; of an energy with as few modules as reach it behind that inverter."""
    found = _ways(asked, design, module, need, libraries)
    way = best_way(found.proposals)
    if "amount" in need and (enough := ceil(found.amount * way.modules / max(way.energy, 1e-9))) < way.modules:
        fewer = _ways(asked, design, module, {"number": enough}, libraries)
        if reaching := [one for one in fewer.proposals if one.energy >= found.amount]:
            return fewer, best_way(reaching)
    return found, way


def _for_the_bill(asked: EstimateRequest, trial: Results) -> int:
    """The fewest modules whose energy saves a share of the bill; the power of a trial grows with their number.

    Raises
    ------
    CannotEstimate
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
        raise CannotEstimate("no-bill", "There is no bill", "At a price of 0 there is nothing to save.", "/price")
    # More modules save more until what they add goes to the grid for less than they draw at night.
    counts = np.unique(np.geomspace(1, MOST_FOR_A_BILL, 60).astype(int)).tolist()
    shares = [share(count) for count in counts]
    enough = next((k for k, saved in enumerate(shares) if saved >= asked.amount), None)
    if enough is None:
        best = int(np.argmax(shares))
        raise CannotEstimate(
            "too-much", "So much of the bill cannot be saved",
            f"{counts[best]} modules save {shares[best]:.0f} % of it, and no number more; what goes to the grid earns too little. Ask for less, or for a share of the use.", "/amount",
        )  # fmt: skip
    low, high = counts[enough - 1] if enough else 0, counts[enough]
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if share(middle) >= asked.amount else (middle, high)
    return int(high)


def _without_strings(asked: EstimateRequest, time_zone: str, libraries: Libraries) -> dict[str, Any]:
    """The design of the sentence, before anything is connected."""
    weather, tracks = libraries.weather, asked.mounting == "tracker"
    name = "Trackers" if tracks else "Field" if asked.mounting == "open rack" else "Roof"
    mounted: dict[str, Any] = {"tilt": asked.tilt, "azimuth": asked.azimuth, "mounting": asked.mounting}
    document: dict[str, Any] = {
        "site": {
            "name": asked.place,
            "latitude": asked.latitude,
            "longitude": asked.longitude,
            "elevation": asked.elevation,
            "time_zone": time_zone,
        },
        "weather": {"digest": weather.digest, "title": weather.title} if weather is not None else None,
        "surfaces": {SURFACE: {"name": name} | ({"mounting": "open rack", "tracking": {}} if tracks else mounted)},
    }
    currency = {"currency": asked.currency} if asked.currency else {}
    if currency:
        document["money"] = currency
    if asked.use:
        document["demand"] = {"sources": {"use": {"name": "Use", "yearly": {"energy": asked.use, "shape": asked.use_shape}}}}
        document["money"] = currency | {
            "tariff": currency | {"name": "One price", "energy": {"price": asked.price}, "export": {"price": asked.export_price}},
            "costs": {"work": {"name": "Mounting and work", "amount": asked.work, "per": "kW"}},
        }
    return document
