"""Bill of materials: every part of a design with its count or length, mass and price."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Literal
from weakref import WeakKeyDictionary

from noontide.core.behind_meter.bus_circuits import bus_circuits
from noontide.core.cells import Cell, as_csv
from noontide.core.checks.protection import WantedDevice, protection_of
from noontide.core.costs.wiring_costs import times_laid
from noontide.core.electrical.datasheets import Catalogue, Device, Part
from noontide.core.money.terms import Money
from noontide.core.once import once_for_each
from noontide.core.simulation.results import FirstChain, Results

Kind = Literal["modules", "inverters", "battery", "transformer", "cables", "protection", "metering"]
DEAREST = 1e9  # what a part without a price counts as where the cheapest is chosen
MOST_USES = 3  # that a line names
HEADINGS = ("kind", "maker", "name", "for", "count", "unit", "mass [kg]", "price each", "price", "warranty [years]", "note")


@dataclass(frozen=True)
class BillLine:
    """A part, how much of it, and what it weighs and costs in all; None where the datasheet does not say."""

    kind: Kind
    maker: str
    name: str
    use: str
    count: float  # pieces or metres
    unit: Literal["pcs", "m"]
    mass: float | None  # in all [kg]
    price_each: float | None
    price: float | None  # in all
    warranty: float | None  # [years]
    note: str = ""
    foreign: str = ""  # the currency of its datasheet's price, where it is not the design's


@dataclass(frozen=True)
class Bill:
    lines: tuple[BillLine, ...]
    currency: str

    @property
    def foreign(self) -> tuple[str, ...]:
        """Other currencies in which parts are priced, with a rate in the design or without."""
        return tuple(sorted({line.foreign for line in self.lines} - {""}))

    @property
    def mass(self) -> float:
        """Of all that is known [kg]."""
        return sum(line.mass or 0 for line in self.lines)

    @property
    def price(self) -> float:
        """Of all that is known."""
        return sum(line.price or 0 for line in self.lines)

    @property
    def without_price(self) -> int:
        """Lines whose price is not known."""
        return sum(line.price is None for line in self.lines)


@once_for_each
def materials_of(r: Results) -> Bill:
    """Everything that is bought for a simulated design, from the library that it was simulated with."""
    return bill_of(r, r.library)


def bill_of(r: Results, parts: Catalogue) -> Bill:
    """Everything that is bought for a design; cables and devices are the library's cheapest that serve.

    Parameters
    ----------
    parts : Catalogue
        The library, for cables and devices; modules, inverters and transformer are the design's own.
    """
    merged: dict[tuple, BillLine] = {}
    uses: dict[tuple, dict[str, None]] = {}
    generators, wiring = _without_the_battery(r, parts)
    for line in (*generators, *_battery(r), *wiring):
        key = (line.kind, line.maker, line.name, line.note)
        uses.setdefault(key, {})[line.use] = None
        merged[key] = _added(merged[key], line) if key in merged else line
    return Bill(tuple(replace(line, use=_folded(list(uses[key]))) for key, line in merged.items()), r.design.money.currency)


Lines = tuple[BillLine, ...]
# Of the chains to the inverters: what they need whatever battery stands behind them, at the prices of a library.
_NEEDED: WeakKeyDictionary[FirstChain, tuple[Catalogue, tuple, tuple[Lines, Lines]]] = WeakKeyDictionary()


def _without_the_battery(r: Results, parts: Catalogue) -> tuple[Lines, Lines]:
    """What stands before the battery in a bill, and what after it; designs that differ after the meter alone need the same of both."""
    prices = (r.design.money.currency, tuple(r.design.money.exchange.items()))
    held = None if r.plant.is_on_bus else _NEEDED.get(r.first)
    if held is not None and held[0] is parts and held[1] == prices:
        return held[2]
    generators = (*_modules(r), *_inverters(r), *_optimisers(r))
    wiring = (*_cables(r, parts), *_between_stations(r), *_on_the_bus(r, parts), *_devices(r, parts))
    if not r.plant.is_on_bus:  # there the battery's own cables and fuses are among them
        _NEEDED[r.first] = parts, prices, (generators, wiring)
    return generators, wiring


def _folded(uses: list[str]) -> str:
    """Uses of a line, each once; of many the first ones and how many there are besides."""
    if len(uses) <= MOST_USES:
        return "; ".join(uses)
    return f"{'; '.join(uses[: MOST_USES - 1])} and {len(uses) - MOST_USES + 1} more"


def _line(kind: Kind, part: Part, use: str, count: float, money: Money, unit: Literal["pcs", "m"] = "pcs") -> BillLine:
    each = money.worth(part.price, part.currency)
    foreign = part.currency if part.price is not None and part.currency != money.currency else None
    note = "" if foreign is None else f"{part.price:g} {foreign} each{', no exchange rate is set' if each is None else ''}"
    return BillLine(
        kind, part.maker, part.name, use, count, unit, None if part.mass is None else part.mass * count, each,
        None if each is None else each * count, part.warranty, note, foreign or "",
    )  # fmt: skip


def _added(line: BillLine, more: BillLine) -> BillLine:
    def total(a: float | None, b: float | None) -> float | None:
        return None if a is None or b is None else a + b

    return BillLine(
        line.kind, line.maker, line.name, line.use, line.count + more.count, line.unit, total(line.mass, more.mass), line.price_each,
        total(line.price, more.price), line.warranty, line.note, line.foreign,
    )  # fmt: skip


def _modules(r: Results) -> Iterator[BillLine]:
    for k, module in enumerate(r.plant.modules):
        yield _line(
            "modules",
            module,
            r.design.surfaces[r.plant.subarrays[k].surface].name,
            float(r.plant.module_counts[k]),
            r.design.money,
        )


def _optimisers(r: Results) -> Iterator[BillLine]:
    for k, optimiser in enumerate(r.plant.optimisers):
        if optimiser is not None:
            yield _line("inverters", optimiser, r.plant.subarrays[k].name, float(r.plant.module_counts[k]), r.design.money)


def _inverters(r: Results) -> Iterator[BillLine]:
    for one, unit in zip(r.plant.sets, r.plant.controllers or r.plant.inverters, strict=True):
        yield _line("inverters", unit, one.name, one.count, r.design.money)
    if r.plant.bus_inverter is not None:
        yield _line("inverters", r.plant.bus_inverter, "battery bus", 1, r.design.money)
    if r.plant.transformer is not None:
        yield _line("transformer", r.plant.transformer, "connection", r.design.connection.stations, r.design.money)


def _battery(r: Results) -> Iterator[BillLine]:
    bank, sheet, money = r.design.storage.bank, r.plant.battery, r.design.money
    if bank is None:
        return
    if sheet is not None:
        yield _line("battery", sheet, "storage", bank.series * bank.parallel, money)
    else:
        price = None if bank.price is None else bank.price * bank.energy
        yield BillLine("battery", "", f"Battery, {bank.energy:g} kWh", "storage", 1, "pcs", None, price, price, bank.life)


def _cables(r: Results, parts: Catalogue) -> Iterator[BillLine]:
    money = r.design.money
    for run in r.cables.runs:
        words = {"string": "strings", "DC main": "DC mains", "AC": "inverters", "AC main": "connection"}[run.kind]
        use, length = f"{words}: {run.serves}".strip(": "), run.run.mean_length * run.count
        fits = [
            (cable, times)
            for cable in parts.cables.values()
            if cable.section == run.choice.section and (times := times_laid(run, cable))
        ]
        if fits:
            cable, times = min(fits, key=lambda fit: fit[1] * (money.worth(fit[0].price, fit[0].currency) or DEAREST))
            yield _line("cables", cable, use, length * times, money, "m")
        else:
            ways = 2 if run.is_dc else 1
            yield _without_part("cables", f"{run.route.material} {run.choice.section:g} mm²", use, length * ways, "m")


def _between_stations(r: Results) -> Iterator[BillLine]:
    run, cable = r.design.connection.collector, r.cables.collector
    if run is not None and cable is not None:
        name = f"Medium voltage, {cable.material} {cable.section:g} mm², single-core"
        yield _without_part("cables", name, "stations", 3 * run.length * r.design.connection.stations, "m")


def _on_the_bus(r: Results, parts: Catalogue) -> Iterator[BillLine]:
    """Cables and fuses of a battery bus."""
    money = r.design.money
    for circuit in bus_circuits(r):
        cable, fuse = circuit.cable, circuit.fuse
        if fuse is not None:
            yield _without_part("protection", f"{circuit.fuse_title}, {fuse:g} A", circuit.place, circuit.count)
        if cable is None:
            continue
        length = 2 * circuit.length * circuit.count
        fits = [one for one in parts.cables.values() if one.section == cable.section and one.is_photovoltaic and one.cores == 1]
        if fits:
            cheapest = min(fits, key=lambda one: money.worth(one.price, one.currency) or DEAREST)
            yield _line("cables", cheapest, circuit.place, length, money, "m")
        else:
            yield _without_part("cables", f"copper {cable.section:g} mm², fine-stranded", circuit.place, length, "m")


def _without_part(kind: Kind, name: str, use: str, count: float, unit: Literal["pcs", "m"] = "pcs") -> BillLine:
    """What is needed and is in no library."""
    return BillLine(kind, "", name, use, count, unit, None, None, None, None, "none in the library")


def _devices(r: Results, parts: Catalogue) -> Iterator[BillLine]:
    money = r.design.money
    for item in protection_of(r):
        if item.device is None:
            continue
        device = device_for(item.device, parts.devices.values(), money)
        if device is not None:
            yield _line("protection", device, item.title, item.count, money)
        else:
            yield _without_part("protection", f"{item.title} {item.chosen}", item.place, item.count)
    # Beyond 80 A a meter measures by current transformers of 5 A.
    current = total if (total := r.cables.main_current * r.design.connection.stations) <= 80 else 5
    wanted = WantedDevice("meter", current, 230, 2) if r.cables.is_single_phase else WantedDevice("meter", current, 400, 4)
    meter = device_for(wanted, parts.devices.values(), money)
    if meter is not None:
        yield _line("metering", meter, "connection", 1, money)


def device_for(wanted: WantedDevice, devices: Iterable[Device], money: Money) -> Device | None:
    """The cheapest device of the library that does what is wanted; None where none does.

    A fuse has just the current that is wanted; of all others a larger one serves too.
    """

    def serves(device: Device) -> bool:
        if device.kind != wanted.kind or device.poles < wanted.poles or device.voltage < wanted.voltage - 1:
            return False
        if device.kind in ("residual-current device", "surge protective device") and device.type != wanted.type:
            return False
        # A DC device of a higher voltage class serves, an AC one of another voltage does not.
        if device.kind in ("AC breaker", "residual-current device", "meter") and device.poles != wanted.poles:
            return False
        if device.kind == "surge protective device" and (device.poles != wanted.poles):
            return False
        exact = device.kind in ("fuse", "AC breaker")
        return device.current == wanted.current if exact else device.current >= wanted.current - 1e-9

    def cost(device: Device) -> tuple[float, str]:
        worth = money.worth(device.price, device.currency)
        return (DEAREST if worth is None else worth, device.id)

    return min((d for d in devices if serves(d)), key=cost, default=None)


def bill_rows(bill: Bill) -> list[list[Cell]]:
    """The bill as a table with headings and a last row of sums."""
    rows: list[list[Cell]] = [[heading.replace("price", f"price [{bill.currency}]") for heading in HEADINGS]]
    for line in bill.lines:
        rows.append(
            [
                line.kind,
                line.maker,
                line.name,
                line.use,
                round(line.count, 2),
                line.unit,
                _rounded(line.mass),
                _rounded(line.price_each),
                _rounded(line.price),
                line.warranty,
                line.note,
            ]
        )
    missing = f"{bill.without_price} without price" if bill.without_price else ""
    rows.append(["sum", "", "", "", None, "", round(bill.mass, 1), None, round(bill.price, 2), None, missing])
    return rows


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def bill_as_csv(bill: Bill) -> str:
    return as_csv(bill_rows(bill))
