"""Checks of demand, tariff and money."""

from collections.abc import Iterator

from noontide.core.behind_meter.battery_year import battery_year
from noontide.core.behind_meter.off_grid import place_of, proof, worksheet
from noontide.core.checks.finding import Check, Remedy
from noontide.core.simulation.results import Results

FEWEST_CYCLES = 20.0  # a year, below which a battery lies idle
LEAST_UNSERVED = 0.005  # of a source's energy


def check_demand(r: Results) -> Iterator[Check]:
    """Sources that give no demand, and demand that is not served."""
    if (problem := r.after.problem) is not None:
        key = problem.pointer.removeprefix("/demand/sources/")
        remedies = (
            (Remedy("Leave this source out", {"demand": {"sources": {key: {"is_on": False}}}}),)
            if key in r.design.demand.sources
            else ()
        )
        yield Check("demand-source", "error", "The demand is not known", str(problem), "demand", problem.pointer, 0, 0, "", "Interval data", remedies)  # fmt: skip
        return
    used = r.after.demand
    if used is None:
        return
    hours = r.calendar.hours_per_interval
    if used.direct is not None and used.direct.any() and not r.plant.is_on_bus:
        energy = float(used.direct.sum()) * hours
        yield Check(
            "direct-current-without-bus", "caution", "Appliances on direct current without a battery bus", f"{energy:,.0f} kWh a year are counted behind the inverter like all else. A place without a grid whose strings hang on charge controllers has a bus for them.",
            "demand", "/demand", energy, 0, "kWh", "Energy balance at the meter",
        )  # fmt: skip
    for key, missed in used.unserved.items():
        served = float(used.by_source[key].sum()) * hours
        if missed <= LEAST_UNSERVED * (served + missed):
            continue
        source = r.design.demand.sources[key]
        cure = {
            "vehicle": "A stronger charger, or more hours at home, would serve it.",
            "hot_water": "A stronger element, or less water, would serve it.",
            "pump": "A stronger pump, a larger tank, more sun or more hours would serve it.",
        }.get(source.kind, "A higher limit of its power would serve it.")
        yield Check(
            "unserved-demand", "caution", f"{source.name}: {missed:,.0f} kWh a year cannot be served",
            f"Of {served + missed:,.0f} kWh that it asks for, {served:,.0f} kWh fit into its power and hours. {' '.join((*used.notes.get(key, ()), cure))}",
            "demand", f"/demand/sources/{key}", missed, 0, "kWh", "Energy balance of the source",
        )  # fmt: skip


def check_storage(r: Results) -> Iterator[Check]:
    """What does not go together in the battery and what it serves."""
    storage, year = r.design.storage, battery_year(r)
    if storage.bank is None or year is None:
        return
    at = "/storage/bank"
    if not r.after.has_demand:
        yield Check(
            "storage-without-demand", "caution", "A battery without a demand", "What it stores is used by nobody; it can only keep what an export limit would cut off. Add who uses the energy on the Demand bench.",
            "storage", at, 0, 0, "", "Energy balance at the meter",
        )  # fmt: skip
    elif year.energy > 0 and year.cycles < FEWEST_CYCLES:
        yield Check(
            "idle-battery", "caution", f"The battery is cycled {year.cycles:,.0f} times a year", "Most of it lies idle: it is large for what there is to store or to use. See the curve of sizes.",
            "storage", at, year.cycles, FEWEST_CYCLES, "", "Full cycles a year",
        )  # fmt: skip
    if r.after.serves_alone:
        found, (_, place) = proof(r), place_of(r)
        if found.loss_of_load * 100 > place.accepted_loss:
            cure = "A larger battery, more modules or a generator would serve it; the map of sizes shows which."
            yield Check(
                "loss-of-load", "caution", f"{found.dark_hours:,.0f} hours of the year stay dark", f"{found.loss_of_load:.2%} of the energy that is asked for is not served, {found.longest_gap:,.0f} h at a stretch. {found.words} {cure}",
                "storage", "/storage/off_grid", found.loss_of_load * 100, place.accepted_loss, "%", "Energy balance of every interval",
            )  # fmt: skip
        for line in worksheet(r):
            # That units are too few is said with the battery that they make.
            if line.is_short and line.key != "units_parallel":
                yield Check(
                    f"worksheet-{line.key}", "caution", f"{line.title}: {line.verdict}", f"The worksheet asks for {line.value:,.3g} {line.unit}: {line.rule}.",
                    "storage", "/storage/off_grid", line.chosen or 0.0, line.value, line.unit, "Worksheet",
                )  # fmt: skip
    yield from _controllers(r)
    if storage.bank.inverter is not None:
        unit = r.plant.inverters[r.plant.inverter_ids.index(storage.bank.inverter)]
        if unit.kind not in ("hybrid", "stand-alone"):
            yield Check(
                "no-battery-terminals", "caution", f"{unit.maker} {unit.name} has no terminals for a battery", f"By its datasheet it is a {unit.kind} inverter. Choose a hybrid inverter, or couple the battery to the AC side by an inverter of its own.",
                "storage", f"{at}/inverter", 0, 0, "", "Datasheet", (Remedy("Couple it to the AC side", {"storage": {"bank": {"inverter": None}}}),),
            )  # fmt: skip
    if storage.serves == "dear hours" and r.design.money.tariff is None:
        yield Check(
            "prices-unknown", "caution", "No prices to follow", "The battery serves the dearest hours, and the design has no tariff: it works for own use. Choose a tariff on the Money bench.",
            "storage", "/storage/serves", 0, 0, "", "Tariff", (Remedy("Serve own use", {"storage": {"serves": None}}),),
        )  # fmt: skip
    if storage.only_clipped and r.design.connection.export_limit is None:
        yield Check(
            "nothing-clipped", "caution", "Nothing is cut off", "The battery stores only what an export limit cuts off, and there is none.",
            "storage", "/storage/only_clipped", 0, 0, "", "Energy balance at the meter", (Remedy("Store all surplus", {"storage": {"only_clipped": None}}),),
        )  # fmt: skip
    sheet = r.plant.battery
    coldest, hottest = r.design.site.lowest_temperature, r.design.site.highest_temperature
    if sheet is not None and sheet.lowest_temperature is not None and coldest is not None and coldest < sheet.lowest_temperature:
        yield Check(
            "battery-cold", "caution", f"Down to {coldest:g} °C at the site", f"The battery works from {sheet.lowest_temperature:g} °C. Put it indoors.",
            "storage", at, coldest, sheet.lowest_temperature, "°C", "Datasheet",
        )  # fmt: skip
    if (
        sheet is not None
        and sheet.highest_temperature is not None
        and hottest is not None
        and hottest > sheet.highest_temperature
    ):
        yield Check(
            "battery-hot", "caution", f"Up to {hottest:g} °C at the site", f"The battery works up to {sheet.highest_temperature:g} °C. Put it into shade and air.",
            "storage", at, hottest, sheet.highest_temperature, "°C", "Datasheet",
        )  # fmt: skip


def _controllers(r: Results) -> Iterator[Check]:
    """Charge controllers that are not made for the voltage of the place."""
    place = r.design.storage.off_grid
    if place is None or not r.plant.is_on_bus:
        return
    for key, one, controller in zip(r.plant.inverter_ids, r.plant.sets, r.plant.controllers, strict=True):
        if place.voltage in controller.battery_voltages:
            continue
        known, largest = ", ".join(f"{volts:g}" for volts in controller.battery_voltages), controller.battery_voltages[-1]
        yield Check(
            "controller-voltage", "error", f"{one.name} is not made for {place.voltage:g} V", f"{controller.maker} {controller.name} charges batteries of {known} V. Choose another controller, or another system voltage.",
            "storage", f"/inverters/{key}/controller", place.voltage, max(controller.battery_voltages), "V", "Datasheet",
            (Remedy(f"System voltage {largest:g} V", {"storage": {"off_grid": {"voltage": largest}}}),),
        )  # fmt: skip


def check_money(r: Results) -> Iterator[Check]:
    """What does not go together in tariff and costs."""
    money, demand = r.design.money, r.after.has_demand
    if money.tariff is not None and r.after.is_off_grid:
        yield Check(
            "tariff-without-grid", "caution", "A tariff where there is no grid", f"Nothing is bought or sold: each kWh that is served counts {money.energy_value:g} {money.currency}, the value of energy.",
            "money", "/money/tariff", 0, 0, "", "Tariff", (Remedy("Remove the tariff", {"money": {"tariff": None, "tariff_before": None}}),),
        )  # fmt: skip
        return
    if money.tariff is not None and not demand and r.design.demand.sources == {}:
        yield Check(
            "bill-without-demand", "caution", "A tariff without a demand", "The bill then holds the sale of all energy and the standing charges only. Add who uses the energy on the Demand bench.",
            "money", "/money/tariff", 0, 0, "", "Tariff",
        )  # fmt: skip
    bill = r.after.bill
    if bill is None:
        return
    over = [line for line in bill.lines if line.kind == "demand" and line.title.endswith("over the contracted power")]
    if over:
        worst = max(over, key=lambda line: line.quantity)
        key = worst.key
        assert money.tariff is not None
        contracted = money.tariff.demand[key].contracted or 0.0
        wanted = round(contracted + worst.quantity + 0.5)
        yield Check(
            "contracted-power", "caution", f"Contracted power exceeded in {len({line.month for line in over})} months",
            f"The highest mean is {contracted + worst.quantity:,.1f} kW, {contracted:g} kW are contracted; the excess costs {sum(line.amount for line in over):,.2f} {bill.currency} a year.",
            "money", f"/money/tariff/demand/{key}/contracted", contracted + worst.quantity, contracted, "kW", money.tariff.name,
            (Remedy(f"Contract {wanted} kW", {"money": {"tariff": {"demand": {key: {"contracted": wanted}}}}}),),
        )  # fmt: skip
