"""The battery of a design and what it is for, as it is kept in the document."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from noontide.core.electrical.datasheets import Battery as Datasheet
from noontide.core.fields import Document, Id, Monthly, choice, months, part, quantity
from noontide.core.hours import read_hours
from noontide.core.storage.battery import Battery

Serves = Literal["own use", "dear hours", "peaks alone"]
Known = Literal["the month", "yesterday"]
Share = Annotated[float, Field(ge=0, le=100)]
USUAL_HOURS = 2.0  # that a battery of no stated power takes to give its energy
USUAL_EFFICIENCY = 95.0  # round trip, DC [%]
HOURS_OF_A_MONTH = 730.0


class Bank(Document):
    """Batteries in series and parallel, or one of a size alone, with the inverter that couples them to the AC side, or on the DC side of the array's own."""

    inverter: Id | None = Field(None, title="On the DC side of")
    model: str | None = part("batteries", "Battery", None)
    series: int = quantity(1, "In series", "", 1, 200, "One.")
    parallel: int = quantity(1, "In parallel", "", 1, 2000, "One.")
    energy: float = quantity(10.0, "Usable energy", "kWh", 0, 1e6, "About what a household uses from evening to morning.", 1)
    power: float | None = quantity(
        None, "Power at the AC side", "kW", 0, 1e6, "Of the datasheet; half the energy in an hour without one.", 0.5
    )
    efficiency: float | None = quantity(
        None, "Efficiency, round trip, DC", "%", 50, 100, "Of the datasheet; 95 % without one.", 0.5
    )
    converter: float = quantity(97.0, "Efficiency of its inverter, one way", "%", 50, 100, "Usual for a battery inverter.", 0.5)
    least: float = quantity(0.0, "Charge that always stays", "%", 0, 95, "None: the energy is the usable one.", 5)
    leakage: float = quantity(2.0, "Self-discharge a month", "%", 0, 100, "Lithium cells.", 0.5)
    standby: float = quantity(10.0, "Standby of battery and inverter", "W", 0, 1e5, "A small system.", 5)
    price: float | None = quantity(None, "Price of a kWh without a datasheet", "", 0, 1e5, "Not known.", 10)
    worn: float = quantity(80.0, "Capacity left at the end of its life", "%", 30, 100, "When most are bought again.", 5)
    life: float = quantity(15.0, "Calendar life", "years", 1, 60, "Usual; the datasheet's comes first.", 1)


class Peak(Document):
    """Import kept under a limit, by month."""

    limit: float | None = quantity(None, "Highest import", "kW", 0, 1e6, "The least that the battery can hold in each month.", 1)
    known: Known = choice("the month", "What the least is found from", "The month, as a good forecast knows it.")


class Generator(Document):
    """A generator of a place without a grid, with a linear curve of its fuel."""

    power: float = quantity(2.0, "Power", "kW", 0.01, 1e5, "A small set.", 0.5)
    start: float = quantity(30.0, "Starts at a charge of", "%", 0, 100, "Before the battery is empty.", 5)
    stop: float = quantity(80.0, "Stops at a charge of", "%", 0, 100, "Leaves room for the sun.", 5)
    least: float = quantity(30.0, "Least load", "%", 0, 100, "Below it, engines soot.", 5)
    fuel: float = quantity(0.25, "Fuel of a kWh", "l/kWh", 0, 5, "The slope of a usual curve.", 0.05)
    idle: float = quantity(
        0.08, "Fuel of an hour without load, each kW of its power", "l/h", 0, 5, "The foot of a usual curve.", 0.01
    )
    quiet: str = Field("", max_length=200, title="Quiet hours")
    fuel_price: float = quantity(1.6, "Price of fuel", "per litre", 0, 100, "A made-up price.", 0.1)

    @model_validator(mode="after")
    def _hours_hold(self) -> Self:
        if self.quiet:
            read_hours(self.quiet)
        if self.stop < self.start:
            raise ValueError(
                f"A generator stops at a higher charge than it starts at; they are {self.stop:g} and {self.start:g} %."
            )
        return self


class BusCables(Document):
    """Cables of a battery bus, fine-stranded copper, each a pair."""

    battery: float = quantity(2.0, "Battery cable, one way", "m", 0.1, 200, "Battery beside its inverter.", 0.5)
    controllers: float = quantity(
        3.0, "Cable from a controller to the bus, one way", "m", 0.1, 200, "Controllers on the same wall.", 0.5
    )
    direct: float = quantity(10.0, "Cable of the DC circuits, one way", "m", 0.1, 500, "Lamps of a small house.", 1)
    drop: float = quantity(1.0, "Voltage drop on the bus at most", "%", 0.1, 10, "Usual beside a battery.", 0.5)
    direct_drop: float = quantity(3.0, "Voltage drop of the DC circuits at most", "%", 0.1, 20, "Usual for lamps.", 0.5)


class OffGrid(Document):
    """A place without a grid, and what its worksheet assumes."""

    autonomy: float = quantity(3.0, "Days without sun", "days", 0, 60, "A usual wish.", 0.5)
    depth: float = quantity(80.0, "Depth of discharge", "%", 5, 100, "Of lithium cells; lead has 50 %.", 5)
    performance: float = quantity(80.0, "Performance of the array", "%", 20, 100, "What heat, dirt, wires and charging leave.", 1)
    inverter_margin: float = quantity(25.0, "Margin of the inverter over the coincident peak", "%", 0, 300, "Usual.", 5)
    voltage: float = quantity(48.0, "System voltage", "V", 1, 1500, "Usual above a few kW.", 12)
    inverter: str | None = part("inverters", "Inverter of the battery bus", None)
    accepted_loss: float = quantity(
        1.0, "Share of the energy that may be missing", "%", 0.001, 50, "A few dull days a year.", 0.5
    )
    generator: Generator | None = Field(None, title="Generator")
    cables: BusCables = BusCables()


class Storage(Document):
    """A battery, and what it serves in the order in which it is said: peaks, then use or prices, less what is kept for an outage."""

    bank: Bank | None = Field(None, title="Battery")
    serves: Serves = choice("own use", "It serves", "Surplus of the sun is used in the evening.")
    peak: Peak | None = Field(None, title="Peaks of import")
    from_grid: bool = choice(True, "Charged from the grid too", "Where peaks or prices ask for it.")
    horizon: float = quantity(24.0, "Prices are known ahead for", "h", 1, 168, "A day.", 6)
    off_grid: OffGrid | None = Field(None, title="Without a grid")
    only_clipped: bool = choice(False, "Stores only what the export limit would cut off", "It stores all surplus.")
    reserve: float = quantity(0.0, "Kept for an outage", "%", 0, 100, "Nothing.", 5)
    reserve_by_month: Monthly[Share] | None = months("Kept for an outage by month", "%", 5)

    @model_validator(mode="after")
    def _has_peaks_to_serve(self) -> Self:
        if self.bank is not None and self.serves == "peaks alone" and self.peak is None:
            raise ValueError("A battery that serves peaks alone needs a peak. Set peak, or let it serve own use.")
        return self


def usable_energy(bank: Bank, datasheet: Datasheet | None) -> float:
    """Of a bank [kWh]."""
    if datasheet is None:
        return bank.energy
    return datasheet.capacity * bank.series * bank.parallel / 1000


def ac_power(bank: Bank, datasheet: Datasheet | None) -> float:
    """Charge and discharge power of a bank at the AC side [kW]."""
    if bank.power is not None:
        return bank.power
    if datasheet is None:
        return bank.energy / USUAL_HOURS
    return datasheet.power * bank.series * bank.parallel / 1000


def one_way(bank: Bank, datasheet: Datasheet | None, is_on_dc: bool = False) -> float:
    """Efficiency of one way: between the AC side and what is stored, battery and inverter together; on the DC side that of the battery alone."""
    round_trip = bank.efficiency or (datasheet.efficiency if datasheet is not None else USUAL_EFFICIENCY)
    own = float((round_trip / 100) ** 0.5)
    return own if is_on_dc else own * bank.converter / 100


def battery_of(bank: Bank, datasheet: Datasheet | None, is_on_dc: bool = False) -> Battery:
    """What a bank can do; it begins empty, as the year's last night leaves it."""
    each, power = one_way(bank, datasheet, is_on_dc), ac_power(bank, datasheet)
    return Battery(
        usable_energy(bank, datasheet),
        bank.least / 100,
        1.0,
        bank.least / 100,
        power,
        power,
        each,
        each,
        bank.leakage / 100 / HOURS_OF_A_MONTH,
    )


def life_of(bank: Bank, datasheet: Datasheet | None) -> float:
    """Calendar life [years]."""
    return datasheet.calendar_life if datasheet is not None and datasheet.calendar_life is not None else bank.life
