"""The circuits that meet on a battery bus: controllers, battery with inverter, and what takes direct current; each with its fuse and its cable."""

from dataclasses import dataclass
from functools import cached_property

from noontide.core.demand.totals import appliance_totals
from noontide.core.electrical.cables import CableChoice, NoSection, cable_section
from noontide.core.once import once_for_each
from noontide.core.simulation.results import Results

DC_FACTOR = 1.25
# Rated currents of fuses on the DC side of a battery that are made [A].
BUS_FUSES = (10.0, 16.0, 20.0, 25.0, 32.0, 40.0, 50.0, 63.0, 80.0, 100.0, 125.0, 160.0, 200.0, 250.0, 315.0, 400.0, 500.0, 630.0)
AIR = 40.0  # in a battery room [°C]


@dataclass(frozen=True)
class BusCircuit:
    """A pair of conductors on the bus."""

    key: str
    place: str  # in words
    fuse_title: str
    cable_title: str
    current: float  # at its largest power [A]
    words: str  # where the current comes from
    length: float  # one way [m]
    drop_limit: float  # [% of the bus's voltage]
    voltage: float  # [V]
    pointer: str
    count: int = 1

    @property
    def asked(self) -> float:
        """That fuse and cable carry [A]."""
        return DC_FACTOR * self.current

    @property
    def fuse(self) -> float | None:
        """Rating of its fuse [A]; None where none is made."""
        return next((size for size in BUS_FUSES if size >= self.asked * (1 - 1e-9)), None)

    @cached_property
    def cable(self) -> CableChoice | None:
        """Fine-stranded copper that carries what the fuse lets through; None where no section does."""
        if self.fuse is None:
            return None
        try:
            return cable_section(
                self.length, self.fuse, "copper", "surface", AIR, voltage=self.voltage, drop_limit=self.drop_limit, flexible=True, working_current=self.current
            )  # fmt: skip
        except NoSection:
            return None


@once_for_each
def bus_circuits(r: Results) -> tuple[BusCircuit, ...]:
    """All circuits of a design's battery bus, the battery's first; none where there is no bus."""
    plant, bus, place = r.plant, r.after.bus, r.design.storage.off_grid
    if bus is None or place is None:
        return ()
    volts, cables = place.voltage, place.cables
    through = bus.power * 1000 / bus.efficiency / volts
    direct = direct_peak(r) * 1000 / volts
    # Battery and inverter share the pair that carries both kinds of use.
    battery = BusCircuit(
        "battery", "the battery bus", "Battery fuse", "Battery cable", through + direct,
        f"{bus.power:.3g} kW of the inverter at {bus.efficiency:.0%} from {volts:g} V{f', and {direct:.3g} A of DC circuits' if direct else ''}",
        cables.battery, cables.drop, volts, "/storage/bank",
    )  # fmt: skip
    controllers = [
        BusCircuit(
            f"controller:{name}", one.name, "Fuse to the bus", "Cable to the bus", controller.current, f"{controller.current:g} A of the controller",
            cables.controllers, cables.drop, volts, f"/inverters/{name}/controller", int(one.count),
        )
        for name, one, controller in zip(plant.inverter_ids, plant.sets, plant.controllers, strict=True)
    ]  # fmt: skip
    if not direct:
        return (battery, *controllers)
    circuit = BusCircuit(
        "direct", "DC circuits", "Fuse of the DC circuits", "Cable of the DC circuits", direct, f"{direct * volts:,.0f} W of DC appliances at once from {volts:g} V",
        cables.direct, cables.direct_drop, volts, "/demand",
    )  # fmt: skip
    return (battery, *controllers, circuit)


def direct_peak(r: Results) -> float:
    """Coincident peak of all appliances on direct current [kW]."""
    sources = [one for one in r.design.demand.sources.values() if one.is_on and one.appliances is not None]
    lists = [(one.factor, one.appliances.of_current("DC")) for one in sources if one.appliances is not None]
    return sum(factor * appliance_totals(some).peak / 1000 for factor, some in lists if some.items)
