"""The paragraphs of demand and money: who uses the energy, at what price, and what the plant costs and saves."""

from noontide.core.brief.runs import Run, count_of, fixed, link_run, listed, text_run, value_run
from noontide.core.demand.sources import Source
from noontide.core.design.document import Design
from noontide.core.figures.catalogue import FIGURE_OF
from noontide.core.simulation.results import Results
from noontide.core.storage.document import OffGrid

MOST_TOLD = 4  # sources that are told one by one


def demand_runs(design: Design, results: Results | None) -> list[Run]:
    """The sources in sentences whose numbers can be edited, and what the sun meets of them."""
    sources = {key: source for key, source in design.demand.sources.items() if source.is_on}
    resting = len(design.demand.sources) - len(sources)
    if not sources:
        if resting:
            return [link_run(f"{count_of(resting, 'source')} of demand", "demand"), text_run(", none of them in use.")]
        return [link_run("No demand. Add who uses the energy…", "demand")]
    runs: list[Run] = []
    for number, (key, source) in enumerate(list(sources.items())[:MOST_TOLD]):
        runs += [text_run(" " if number else ""), *_source(key, source)]
    if len(sources) > MOST_TOLD:
        runs += [text_run(" "), link_run(f"{count_of(len(sources) - MOST_TOLD, 'more source')}", "demand"), text_run(".")]
    if resting:
        runs.append(text_run(f" {count_of(resting, 'source')} not in use."))
    if results is not None and results.after.has_demand:
        runs += [
            text_run(" Together "),
            _figure(results, "demand_energy"),
            text_run(" a year, of which the sun meets "),
            _figure(results, "self_sufficiency"),
            text_run(" as it arises." if results.after.storage is None else " with the battery."),
        ]
    return runs


def _source(key: str, source: Source) -> list[Run]:
    at, name = f"/demand/sources/{key}", source.name
    runs = [link_run(name, "demand", thing=key)]
    times = [] if source.factor == 1 else [text_run(", times "), value_run(f"{at}/factor", source.factor, f"Factor of {name}")]
    if (one := source.appliances) is not None:
        runs.append(text_run(f": {count_of(len(one.items), 'appliance')}"))
        if one.margin:
            runs += [text_run(" and a margin of "), value_run(f"{at}/appliances/margin", one.margin, f"Margin of {name}")]
    elif (yearly := source.yearly) is not None:
        runs += [text_run(", "), value_run(f"{at}/yearly/energy", yearly.energy, f"Energy of {name}"), text_run(f" a year, {yearly.shape}")]  # fmt: skip
    elif (area := source.per_area) is not None:
        runs += [
            text_run(", "), value_run(f"{at}/per_area/use", area.use, f"Use of {name} by floor area"), text_run(" on "),
            value_run(f"{at}/per_area/area", area.area, f"Floor area of {name}"), text_run(f", {area.shape}"),
        ]  # fmt: skip
    elif (monthly := source.monthly) is not None:
        known = len(monthly.bills) or sum(energy is not None for energy in monthly.energies)
        runs.append(text_run(f": {count_of(known, 'bill')}, {monthly.shape}"))
    elif (interval := source.interval) is not None:
        runs.append(text_run(f", measured: {interval.title or 'a file'}"))
        if interval.energy is not None:
            runs += [text_run(", scaled to "), value_run(f"{at}/interval/energy", interval.energy, f"Energy of {name}")]
    elif (heating := source.heating) is not None:
        runs += [
            text_run(": heat loss "), value_run(f"{at}/heating/heat_loss", heating.heat_loss, f"Heat loss of {name}"),
            text_run(", COP "), value_run(f"{at}/heating/cop", heating.cop, f"COP of {name}"),
        ]  # fmt: skip
    elif (cooling := source.cooling) is not None:
        runs += [
            text_run(": heat gain "), value_run(f"{at}/cooling/heat_gain", cooling.heat_gain, f"Heat gain of {name}"),
            text_run(", COP "), value_run(f"{at}/cooling/cop", cooling.cop, f"COP of {name}"),
        ]  # fmt: skip
    elif (water := source.hot_water) is not None:
        runs += [text_run(", "), value_run(f"{at}/hot_water/litres", water.litres, f"Water of {name}"), text_run(f" a day, heated {water.timing}")]  # fmt: skip
    elif (vehicle := source.vehicle) is not None:
        runs += [
            text_run(", "), value_run(f"{at}/vehicle/weekday_km", vehicle.weekday_km, f"Kilometres of {name}"),
            text_run(f" a working day, charged {vehicle.timing}"),
        ]  # fmt: skip
    elif (pump := source.pump) is not None:
        runs += [
            text_run(", "), value_run(f"{at}/pump/volume", pump.volume, f"Water of {name}"), text_run(" a day up "),
            value_run(f"{at}/pump/head", pump.head, f"Head of {name}"), text_run(f", {pump.timing}"),
        ]  # fmt: skip
    return [*runs, *times, text_run(".")]


def storage_runs(design: Design, results: Results | None) -> list[Run]:
    """The battery and what it serves, in the order in which it serves it."""
    storage = design.storage
    bank = storage.bank
    if bank is None:
        return [link_run("No storage. Add a battery…", "storage")]
    at = "/storage/bank"
    if bank.model is not None:
        sheet = design.parts.batteries.get(bank.model)
        name = f"{sheet.maker} {sheet.name}" if sheet is not None else bank.model
        runs = [value_run(f"{at}/parallel", bank.parallel, "Batteries in parallel"), text_run(" × ")]
        if bank.series > 1:
            runs += [value_run(f"{at}/series", bank.series, "Batteries in series"), text_run(" × ")]
        runs.append(link_run(name, "storage"))
        if results is not None:
            runs += [text_run(", "), _figure(results, "battery_energy")]
    else:
        runs = [
            text_run("A "),
            link_run("battery", "storage"),
            text_run(" of "),
            value_run(f"{at}/energy", bank.energy, "Usable energy of the battery"),
        ]
    runs.append(text_run(". "))
    if bank.inverter is not None:
        name = design.inverters[bank.inverter].name
        runs += [
            text_run("It stands on the DC side of "),
            link_run(name, "circuits"),
            text_run(", and stores what that would hold back"),
        ]
        if results is not None and results.after.side is not None:
            runs += [text_run(": "), _figure(results, "clipped_stored"), text_run(" a year")]
        runs.append(text_run(". "))
    if storage.off_grid is not None:
        return [*runs, *_without_grid(storage.off_grid, results)]
    if storage.peak is not None:
        runs.append(text_run("First it keeps imports "))
        if storage.peak.limit is None:
            knows = (
                "as low as it can in each month"
                if storage.peak.known == "the month"
                else "as low as yesterday would have allowed"
            )
            runs.append(text_run(f"{knows}; "))
        else:
            runs += [text_run("under "), value_run("/storage/peak/limit", storage.peak.limit, "Highest import"), text_run("; ")]
    served = {
        "own use": "It keeps the sun's surplus for later use", "dear hours": "It serves the dearest hours ahead", "peaks alone": "it does nothing else",
    }[storage.serves]  # fmt: skip
    runs.append(text_run(served if storage.peak is None else served[0].lower() + served[1:]))
    if storage.only_clipped:
        runs.append(text_run(", of what the export limit would cut off"))
    if storage.reserve_by_month is not None:
        runs.append(text_run("; a reserve stays for an outage, by month"))
    elif storage.reserve:
        runs += [
            text_run("; "),
            value_run("/storage/reserve", storage.reserve, "Kept for an outage"),
            text_run(" stays for an outage"),
        ]
    runs.append(text_run("."))
    if results is not None:
        runs += [text_run(" In a year "), _figure(results, "battery_cycles"), text_run(" full cycles.")]
    return runs


def _without_grid(place: OffGrid, results: Results | None) -> list[Run]:
    at = "/storage/off_grid"
    runs = [
        text_run("There is no grid: it carries "),
        value_run(f"{at}/autonomy", place.autonomy, "Days without sun"),
        text_run(" by the worksheet"),
    ]
    if place.generator is not None:
        runs += [
            text_run(", with a generator of "),
            value_run(f"{at}/generator/power", place.generator.power, "Power of the generator"),
        ]
    runs.append(text_run("."))
    if results is not None and results.after.has_demand:
        runs += [text_run(" Hour by hour "), _figure(results, "dark_hours"), text_run(" stay dark.")]
    return runs


def money_runs(design: Design, results: Results | None) -> list[Run]:
    """Tariff, purchase and what comes of them."""
    money = design.money
    if not money.is_counted:
        return [link_run("No tariff or costs. Add what energy costs…", "money")]
    runs: list[Run] = []
    if money.tariff is not None:
        words = [link_run(money.tariff.name, "money")]
        if money.tariff_before is not None:
            words += [text_run(" in place of "), link_run(money.tariff_before.name, "money")]
        runs += [text_run("Buys at "), *words]
        if money.tariff.export is not None and money.tariff.export.price is not None:
            price = value_run("/money/tariff/export/price", money.tariff.export.price, "Price of exported energy")
            runs += [text_run(", sells at "), price]
        elif money.tariff.export is None and money.tariff.net_metering is None:
            runs.append(text_run(", with nothing paid for exported energy"))
        runs.append(text_run(". "))
    else:
        runs += [text_run("Each kWh counts "), value_run("/money/energy_value", money.energy_value, "Value of energy"), text_run(f" {money.currency}. ")]  # fmt: skip
    if results is not None:
        runs += [text_run("A purchase of "), _figure(results, "purchase"), text_run(" saves "), _figure(results, "saving"), text_run(" in the first year; payback "), _figure(results, "payback"), text_run(". ")]  # fmt: skip
    runs += [
        text_run("Counted over "), value_run("/money/years", money.years, "Years counted"), text_run(" years at "),
        value_run("/money/interest", money.interest, "Interest"), text_run(" interest"),
    ]  # fmt: skip
    paid = [("grant", money.grants), ("loan", money.loans)]
    others = [count_of(number, noun) for noun, items in paid if (number := sum(i.is_on for i in items.values()))]  # type: ignore[attr-defined]
    if others:
        runs += [text_run(", with "), link_run(listed(others), "money")]
    return [*runs, text_run(".")]


def _figure(results: Results, key: str) -> Run:
    """A figure as it reads, which opens its working."""
    figure = FIGURE_OF[key]
    value, unit = figure.value(results), figure.unit_of(results)
    if value is None:
        return Run(kind="figure", text=figure.without, figure=key)
    text = (
        f"{fixed(value * 100, figure.decimals)} %" if figure.is_percentage else f"{fixed(value, figure.decimals)} {unit}".strip()
    )
    return Run(kind="figure", text=text.replace(" ", "\u00a0").replace("-", "\u2212"), figure=key)
