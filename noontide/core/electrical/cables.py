"""Sections of cables by ampacity and by voltage drop."""

from collections.abc import Mapping
from dataclasses import dataclass
from math import sqrt
from typing import Literal

from noontide.core.electrical.wiring import COEFFICIENTS

Conductor = Literal["copper", "aluminium"]
Method = Literal["open air", "surface", "conduit", "buried"]

# IEC 60228, Table 2: class 2, largest resistance at 20 °C by section [mm2: ohm/km].
RESISTANCES: dict[str, dict[float, float]] = {
    "copper": {
        1.5: 12.1, 2.5: 7.41, 4: 4.61, 6: 3.08, 10: 1.83, 16: 1.15, 25: 0.727, 35: 0.524, 50: 0.387, 70: 0.268, 95: 0.193,
        120: 0.153, 150: 0.124, 185: 0.0991, 240: 0.0754,
    },
    "aluminium": {
        10: 3.08, 16: 1.91, 25: 1.20, 35: 0.868, 50: 0.641, 70: 0.443, 95: 0.320, 120: 0.253, 150: 0.206, 185: 0.164, 240: 0.125,
    },
}  # fmt: skip
# IEC 60228, Table 3: class 5, tinned copper, of photovoltaic cables.
FLEXIBLE = {
    1.5: 13.7, 2.5: 8.21, 4: 5.09, 6: 3.39, 10: 1.95, 16: 1.24, 25: 0.795, 35: 0.565, 50: 0.393, 70: 0.277, 95: 0.210, 120: 0.164,
    150: 0.132, 185: 0.108, 240: 0.0817,
}  # fmt: skip
SECTIONS = tuple(RESISTANCES["copper"])


@dataclass(frozen=True)
class AmpacityTable:
    """Ampacities [A] by section [mm2] at an ambient temperature, for a conductor as hot as it may be [°C]."""

    source: str
    ambient: float
    hottest: float
    coolest: float  # ambient at which the standard's table of temperature factors begins [°C]; below it the factor stays
    ampacity: dict[float, float]

    def corrected(self, section: float, ambient: float, circuits: int) -> float:
        """At another ambient temperature [°C], beside other circuits [A]; 0 where the ambient is too hot."""
        if ambient >= self.hottest:
            return 0.0
        # Heat flows off with the difference of temperature and is made with the square of the current.
        factor = sqrt((self.hottest - max(ambient, self.coolest)) / (self.hottest - self.ambient))
        return self.ampacity[section] * factor * grouping_factor(circuits)

    def rise(self, section: float, current: float, circuits: int) -> float:
        """Of the conductor over the ambient at a current [K]; that at three times the ampacity at most."""
        load = min(current / (self.ampacity[section] * grouping_factor(circuits)), 3.0)
        return (self.hottest - self.ambient) * load**2


def _by_section(*ampacities: float, first: float = 1.5) -> dict[float, float]:
    sections = SECTIONS[SECTIONS.index(first) :]
    return dict(zip(sections, ampacities, strict=False))


# The ampacities below were entered without a copy of the standards at hand, and checked by the steps between sections and between the columns
# alone. The temperature factors of EN 50618:2014, Table A.4 (1.00 up to 60 °C, then 0.92 to 0.41 at 110 °C) and of IEC 60364-5-52:2009, Tables
# B.52.14 and B.52.15 (from 10 °C on) are those of the heat balance in `AmpacityTable.corrected` to their two digits.
_EN = "EN 50618:2014, Table A.3, two loaded cables touching, on a surface"
_FIXED2 = "IEC 60364-5-52:2009, Table B.52.3"
_FIXED3 = "IEC 60364-5-52:2009, Table B.52.5"
# Photovoltaic cable, single-core, 120 °C. Of the table's three columns (one cable free in air, one on a surface, two touching on a surface) the last:
# the two conductors of a string lie together, in open air too.
_TOUCHING = AmpacityTable(_EN, 60, 120, 60, _by_section(24, 33, 44, 57, 79, 107, 142, 176, 221, 278, 333, 390, 453, 515, 620))
FLEXIBLE_TABLES: dict[str, AmpacityTable] = {"open air": _TOUCHING, "surface": _TOUCHING}
# Cross-linked insulation, 90 °C, by conductor, loaded conductors and method: C on a surface, B1 in conduit, D1 in a duct in the ground.
FIXED_TABLES: dict[tuple[str, int, str], AmpacityTable] = {
    ("copper", 2, "surface"): AmpacityTable(_FIXED2 + ", method C", 30, 90, 10, _by_section(24, 33, 45, 58, 80, 107, 138, 171, 209, 269, 328, 382, 441, 506, 599)),
    ("copper", 2, "conduit"): AmpacityTable(_FIXED2 + ", method B1", 30, 90, 10, _by_section(23, 31, 42, 54, 75, 100, 133, 164, 198, 253, 306, 354, 393, 449, 528)),
    ("copper", 2, "buried"): AmpacityTable(_FIXED2 + ", method D1", 20, 90, 10, _by_section(25, 33, 43, 53, 71, 91, 116, 139, 164, 203, 239, 271, 306, 343, 395)),
    ("copper", 3, "surface"): AmpacityTable(_FIXED3 + ", method C", 30, 90, 10, _by_section(22, 30, 40, 52, 71, 96, 119, 147, 179, 229, 278, 322, 371, 424, 500)),
    ("copper", 3, "conduit"): AmpacityTable(_FIXED3 + ", method B1", 30, 90, 10, _by_section(20, 28, 37, 48, 66, 88, 117, 144, 175, 222, 269, 312, 342, 384, 450)),
    ("copper", 3, "buried"): AmpacityTable(_FIXED3 + ", method D1", 20, 90, 10, _by_section(21, 28, 36, 44, 58, 75, 96, 115, 135, 167, 197, 223, 251, 281, 324)),
    ("aluminium", 3, "surface"): AmpacityTable(_FIXED3 + ", method C", 30, 90, 10, _by_section(57, 76, 90, 112, 136, 174, 211, 245, 283, 323, 382, first=10)),
    ("aluminium", 3, "conduit"): AmpacityTable(_FIXED3 + ", method B1", 30, 90, 10, _by_section(52, 71, 93, 116, 140, 179, 217, 251, 267, 300, 351, first=10)),
    ("aluminium", 3, "buried"): AmpacityTable(_FIXED3 + ", method D1", 20, 90, 10, _by_section(46, 59, 75, 90, 106, 130, 154, 174, 197, 220, 253, first=10)),
}  # fmt: skip
# IEC 60364-5-52, Table B.52.17, item 1: bunched in air, on a surface, embedded or enclosed.
GROUPS = {1: 1.0, 2: 0.80, 3: 0.70, 4: 0.65, 5: 0.60, 6: 0.57, 7: 0.54, 8: 0.52, 9: 0.50, 12: 0.45, 16: 0.41, 20: 0.38}
REACTANCE = 0.08  # ohm/km of a low-voltage cable


@dataclass(frozen=True)
class CableChoice:
    """A section, with what it does at the given currents."""

    section: float  # [mm2]
    ampacity: float  # corrected for ambient and grouping [A]
    temperature: float  # of the conductor at the working current [°C]
    resistance: float  # of one conductor along the run at that temperature [ohm]
    voltage_drop: float  # at the working current [V]
    drop: float  # of the voltage [%]
    loss: float  # in all conductors at the working current [W]
    limited_by: Literal["ampacity", "voltage drop"]  # what asks for this section rather than the next smaller one
    source: str  # of the ampacity
    ambient: float  # [°C]


class NoSection(ValueError):
    """No section of the series serves; the message says what is in the way."""


@dataclass(frozen=True)
class Route:
    """A run of cable without its section.

    `voltage` is that between the conductors [V], `current` what the cable must carry [A], with the factors of the rule set in it;
    `working_current` [A] makes the voltage drop and the loss.
    """

    length: float  # one way [m]
    current: float
    working_current: float
    voltage: float
    material: Conductor = "copper"
    method: Method = "conduit"
    ambient: float = 30.0  # of the air, or of the ground for `buried` [°C]
    conductors: Literal[2, 3] = 2  # loaded ones
    circuits: int = 1  # side by side, this one included
    power_factor: float = 1.0
    flexible: bool = False  # photovoltaic cable (copper of class 5, 120 °C) in place of fixed cable (class 2, 90 °C)
    # Of uneven phases: conductors in which the working current makes the drop, phase to neutral, and those in which it makes the loss.
    uneven: tuple[float, float] | None = None

    @property
    def drop_conductors(self) -> float:
        """In which the working current makes the drop of `voltage`."""
        return self.uneven[0] if self.uneven else 2.0 if self.conductors == 2 else sqrt(3)

    @property
    def loss_conductors(self) -> float:
        """In which the working current makes the loss."""
        return self.uneven[1] if self.uneven else float(self.conductors)

    @property
    def sections(self) -> tuple[float, ...]:
        """That have an ampacity there, rising [mm2]."""
        table, resistances = _tables(self.material, self.method, self.conductors, self.flexible)
        return tuple(section for section in resistances if section in table.ampacity)

    def resistance_at_20(self, section: float) -> float:
        """Of one conductor along the run at 20 °C [ohm]."""
        return _tables(self.material, self.method, self.conductors, self.flexible)[1][section] * self.length / 1000

    def ampacity(self, section: float) -> float:
        """Corrected for ambient and grouping [A]."""
        table, _ = _tables(self.material, self.method, self.conductors, self.flexible)
        return table.corrected(section, self.ambient, self.circuits)

    def at(self, section: float, limited_by: Literal["ampacity", "voltage drop"] = "ampacity") -> CableChoice:
        """What a section does, whether it serves or not.

        Raises
        ------
        NoSection
            If the section has no ampacity there.
        """
        table, _ = _tables(self.material, self.method, self.conductors, self.flexible)
        if section not in table.ampacity:
            raise NoSection(
                f"{self.material} {self.method} has no ampacity for {section:g} mm²; sections are {', '.join(f'{s:g}' for s in self.sections)} mm²."
            )
        ampacity = self.ampacity(section)
        temperature = self.ambient + table.rise(section, self.working_current, self.circuits)
        resistance = self.resistance_at_20(section) * (1 + COEFFICIENTS[self.material] * (temperature - 20))
        reactive = sqrt(max(0.0, 1 - self.power_factor**2)) * REACTANCE * self.length / 1000
        drop = self.drop_conductors * self.working_current * (resistance * self.power_factor + reactive)
        loss = self.loss_conductors * self.working_current**2 * resistance
        return CableChoice(
            section,
            ampacity,
            temperature,
            resistance,
            drop,
            drop / self.voltage * 100,
            loss,
            limited_by,
            table.source,
            self.ambient,
        )

    def smallest(self, drop_limit: float) -> CableChoice:
        """The smallest section that carries the current with no more than a voltage drop [% of the voltage].

        Raises
        ------
        NoSection
            If no section serves.
        """
        limited: Literal["ampacity", "voltage drop"] = "ampacity"
        sections = self.sections
        for section in sections:
            if self.ampacity(section) < self.current:
                continue
            choice = self.at(section, limited)
            if choice.drop <= drop_limit * (1 + 1e-12):
                return choice
            limited = "voltage drop"
        section = sections[-1]
        if (ampacity := self.ampacity(section)) < self.current:
            raise NoSection(
                f"{self.current:.0f} A are more than {section:g} mm² carries there ({ampacity:.0f} A). Use cables in parallel or another laying method."
            )
        raise NoSection(
            f"Even {section:g} mm² drops more than {drop_limit:g} % over {self.length:g} m. Shorten the run, or raise voltage or limit."
        )


def grouping_factor(circuits: int) -> float:
    """Of the ampacity, for so many loaded circuits side by side; between the table's numbers the next larger one counts.

    Raises
    ------
    ValueError
        If there is no circuit, or more than the table has.
    """
    if not 1 <= circuits <= max(GROUPS):
        raise ValueError(f"From 1 to {max(GROUPS)} circuits can be grouped; there are {circuits}. Divide the route.")
    return GROUPS[min(n for n in GROUPS if n >= circuits)]


def cable_section(
    length: float,
    current: float,
    material: Conductor = "copper",
    method: Method = "conduit",
    ambient: float = 30.0,
    *,
    voltage: float,
    drop_limit: float = 1.0,
    conductors: Literal[2, 3] = 2,
    circuits: int = 1,
    power_factor: float = 1.0,
    flexible: bool = False,
    working_current: float | None = None,
) -> CableChoice:
    """The smallest section of the series that carries a current with no more than a voltage drop.

    Parameters
    ----------
    length : float
        Of the run, one way [m].
    current : float
        That the cable must carry, with the factors of the rule set already in it [A].
    material, method
        Conductor and laying method. `open air` is for flexible cable alone.
    ambient : float
        Of the air, or of the ground for `buried` [°C].
    voltage : float
        Between the conductors [V].
    drop_limit : float
        Of the voltage [%].
    conductors : int
        Loaded ones: 2 for DC and single-phase, 3 for three-phase.
    circuits : int
        Side by side, this one included.
    power_factor : float
        Of the load, 1 for DC.
    flexible : bool
        Photovoltaic cable (copper of class 5, 120 °C) in place of fixed cable (class 2, 90 °C).
    working_current : float, optional
        At which the voltage drops and power is lost [A]; `current` where it is not given.

    Raises
    ------
    ValueError
        If a value is out of its range; `NoSection` if no section serves.

    Notes
    -----
    The conductor's temperature is the ambient and a rise with the square of the current, that of the table at its ampacity. Aluminium with
    two loaded conductors takes the ampacities of three, on the safe side.

    References
    ----------
    IEC 60228 (sections, resistances), IEC 60364-5-52 (ampacities, correction by ambient temperature and grouping, voltage drop, annex G),
    EN 50618 (photovoltaic cable).
    """
    working = current if working_current is None else working_current
    for name, value, low, high in (
        ("length", length, 0, 1e5), ("current", current, 0, 1e5), ("voltage", voltage, 1, 1e5), ("drop_limit", drop_limit, 0.01, 50),
        ("power_factor", power_factor, 0.1, 1), ("ambient", ambient, -60, 119), ("working_current", working, 0, 1e5),
    ):  # fmt: skip
        if not low <= value <= high:
            raise ValueError(f"{name} must lie between {low:g} and {high:g}; it is {value:g}.")
    route = Route(length, current, working, voltage, material, method, ambient, conductors, circuits, power_factor, flexible)
    return route.smallest(drop_limit)


def present_value_factor(years: int, interest: float) -> float:
    """What a unit a year for some years is worth today; interest in [%]."""
    rate = interest / 100
    return float(years) if rate == 0 else (1 - (1 + rate) ** -years) / rate


@dataclass(frozen=True)
class SectionCost:
    """A section that serves, by what it costs over the years."""

    section: float  # [mm2]
    purchase: float  # of the cables of one run
    annual_loss: float  # [kWh]
    total: float  # purchase and the present value of what is lost


def economic_sections(
    route: Route,
    drop_limit: float,
    prices: Mapping[float, float],
    square_current_hours: float,
    energy_value: float,
    factor: float,
) -> list[SectionCost]:
    """The sections that serve, with purchase and loss over the years; the smallest total is the economic section.

    Parameters
    ----------
    prices : mapping
        Of a metre of the run with all its conductors, by section; sections without a price are left out.
    square_current_hours : float
        Sum over a year of the current's square by time [A2 h].
    energy_value : float
        Of a kWh.
    factor : float
        Present value of a unit a year (`present_value_factor`).

    References
    ----------
    IEC 60287-3-2, economic optimisation of power cable size.
    """
    found = []
    for section in route.sections:
        if section not in prices or route.ampacity(section) < route.current:
            continue
        choice = route.at(section)
        if choice.drop > drop_limit * (1 + 1e-12):
            continue
        loss = route.loss_conductors * choice.resistance * square_current_hours / 1000
        purchase = prices[section] * route.length
        found.append(SectionCost(section, purchase, loss, purchase + factor * energy_value * loss))
    return found


def _tables(material: str, method: str, conductors: int, flexible: bool) -> tuple[AmpacityTable, dict[float, float]]:
    if flexible:
        if material != "copper" or method not in FLEXIBLE_TABLES:
            raise ValueError(
                f"Photovoltaic cable is copper in open air or on a surface; {material}, {method} was asked for. Use fixed cable there."
            )
        return FLEXIBLE_TABLES[method], FLEXIBLE
    if material not in RESISTANCES:
        raise ValueError(f"A conductor is copper or aluminium; it is '{material}'.")
    key = (material, 3 if material == "aluminium" else conductors, method)
    if key not in FIXED_TABLES:
        raise ValueError(
            f"Fixed cable lies on a surface, in conduit or buried, with 2 or 3 loaded conductors; it is '{method}', {conductors}."
        )
    return FIXED_TABLES[key], RESISTANCES[material]
