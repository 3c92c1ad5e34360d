"""A design to a target: modules on the sunniest places first, in strings on inverters that are found for them, as many as the target asks for."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from math import ceil, floor, inf
from typing import Any, Literal

import numpy as np
from pydantic import Field

from noontide.core.access.orientations import orientations_of
from noontide.core.behind_meter.storage_sizes import propose, size_curve
from noontide.core.design import Design, difference, freeze, join_patches, merge_patch
from noontide.core.electrical import Catalogue
from noontide.core.electrical.fleet import USUAL_RATIO
from noontide.core.fields import Document, Id
from noontide.core.figures.catalogue import FIGURE_OF
from noontide.core.finding import MOST_LEFT_OVER, CannotFind, FindRequest, ProposalLine, battery_for, best_way, find_strings
from noontide.core.layout import ImpossibleFace
from noontide.core.plan.filling import surface_for
from noontide.core.plan.layouts import module_named
from noontide.core.simulation import ImpossibleAdjustment, IncompleteDesign, Libraries, Results, UnknownPart
from noontide.core.verbs.batteries import SMALLEST, SizeBattery, size_battery
from noontide.core.verbs.fill import Fill, FillLimit, fill, light_on
from noontide.core.verbs.shared import ImpossibleAct, must_be_there
from noontide.core.verbs.strings import without_strings

MOST_PLACES = 4_000  # modules in all, for which strings are found while somebody waits
WITHOUT_AREA = 400  # modules that a surface may take whose area is not known
FEWER = 4  # modules that may be left away, where no strings are found for so many
SIZES = 8  # that are looked at for the best value, before the best of them is looked at more closely
RATIO_RANGES = (0.05, 0.15, 0.4)  # within which a DC/AC ratio is looked for, one after the other
NO_FACES = "The design has neither a surface nor a roof that could take modules. Draw one, or add a surface."
Told = Callable[[float, str], None]


class FindStrings(Document):
    """Strings and inverters found anew, for the modules that are there or for a number of them."""

    surface: Id | None = Field(None, title="Surface; all that have modules where none is named")
    number: int | None = Field(None, ge=1, le=MOST_PLACES, title="Modules")
    inverter: str = Field("", max_length=64, title="Inverter; any of the library where none is named")
    ratio: float | None = Field(
        None, gt=0.1, le=5, title="DC/AC ratio that inverters are chosen for; the usual range where none is named"
    )


class DesignTo(Document):
    """What the array is to reach, and where its modules may go."""

    of: Literal["modules", "power", "energy", "use", "bill", "value"] = Field(
        "energy", description="a number, kW, kWh a year, % of the use or of the bill; or the best net present value"
    )
    amount: float = Field(0, ge=0, le=1e9, description="of the target; not of the best value")
    faces: tuple[str, ...] = Field(
        (), max_length=200, description="faces or surfaces; all roofs, or all surfaces, where none is named"
    )
    module: str = Field("", max_length=64, description="the one that the design has where none is named")
    inverter: str = Field("", max_length=64, description="any of the library where none is named")
    battery: bool = Field(False, description="with the battery that is proposed for it")


def string_anew(design: Design, given: FindStrings, libraries: Libraries) -> tuple[dict[str, Any], str]:
    """Strings and inverters for the modules of a surface, the cheapest energy of those that leave the fewest over.

    Raises
    ------
    ImpossibleAct
        If there is no such surface, it has no modules, or nothing can be connected.
    """
    if given.surface is not None:
        must_be_there("surface", given.surface, design.surfaces)
    keys = [given.surface] if given.surface else [key for key in design.surfaces if _modules_on(design, key)]
    if not keys:
        raise ImpossibleAct("No surface has modules that could be connected.")
    whole: dict[str, Any] = {}
    words = []
    for key in keys:
        number = given.number or _modules_on(design, key)
        model = _model(design, key, "")
        way = _way(design, key, model, number, given.inverter, libraries, given.ratio)
        if way is None:
            name = design.surfaces[key].name or key
            raise ImpossibleAct(
                f"No inverter takes {number} modules of {name} within its limits. Choose another number of modules."
            )
        whole = join_patches(whole, way.patch)
        design = Design.read(freeze(merge_patch(design.as_kept(), way.patch), libraries.parts))
        words.append(f"{way.modules} modules on {_inverters(way, design, libraries.parts)}")
    return whole, f"{'; '.join(words)}."


def design_to(design: Design, given: DesignTo, libraries: Libraries, told: Told | None = None) -> tuple[dict[str, Any], str]:
    """An array that reaches a target with as few modules as do, or the one of the best net present value.

    What stands on other faces stays. Where all places together do not reach the target, all of them are filled, and that is said.

    Raises
    ------
    ImpossibleAct
        If there is no place for modules, no weather, or no figure to go by.
    """
    builder = _Builder(design, given, libraries)
    number, words = _number(builder, given, told or (lambda share, said: None))
    made = builder.built(number)
    if given.battery:
        made, said = _with_battery(made, libraries)
        words = f"{words} {said}"
    return difference(design.as_kept(), made.as_kept()), words


@dataclass(eq=False)
class _Builder:
    """Arrays of any number of modules on the places of a design, the sunniest first; each is built and simulated once."""

    design: Design
    given: DesignTo
    libraries: Libraries
    _built: dict[int, Design] = field(default_factory=dict)
    _years: dict[int, Results] = field(default_factory=dict)

    @cached_property
    def begun(self) -> tuple[Design, dict[str, bool]]:
        """The design with a surface for each face, and these surfaces: whether modules are laid on them."""
        scene = self.design.built_scene
        faces = {face.id: face for face in scene.faces if face.kind == "roof"}
        named = self.given.faces or tuple(faces) or tuple(self.design.surfaces)
        document, keys = self.design.as_kept(), dict[str, bool]()
        for name in named:
            design = Design.read(document)
            if name in design.surfaces:
                keys[name] = design.surfaces[name].face is not None
                continue
            face = scene.face(name)
            if face is None:
                raise ImpossibleAct(f"The design has no face or surface '{name}'.")
            on_it = next((key for key, one in design.surfaces.items() if one.face == name), None)
            if on_it is None:
                on_it, patch = surface_for(design, face, self.libraries.parts)
                document = merge_patch(document, patch)
            keys[on_it] = True
        if not keys:
            raise ImpossibleAct(NO_FACES)
        return Design.read(document), keys

    @cached_property
    def places(self) -> list[tuple[float, str]]:
        """What each place receives [kWh/m2] and its surface, the sunniest first."""
        design, keys = self.begun
        found: list[tuple[float, str]] = []
        try:
            planes = orientations_of(design, self.libraries).surfaces if not all(keys.values()) else {}
            for key, is_laid in keys.items():
                model = _model(design, key, self.given.module)
                if is_laid:
                    found += [(float(light), key) for light in light_on(design, key, model, self.libraries)]
                    continue
                module = module_named(design, model, self.libraries.parts)
                area = design.surfaces[key].area
                room = floor(area / module.area) if area and module is not None else WITHOUT_AREA
                found += [(float(planes[key]), key)] * room
        except (ImpossibleFace, ImpossibleAdjustment, IncompleteDesign, UnknownPart) as error:
            raise ImpossibleAct(str(error)) from error
        if not found:
            raise ImpossibleAct("No module fits on any of these faces, between their setbacks.")
        # Of the same light those of one surface together, so that strings are long.
        return sorted(found, key=lambda place: (-round(place[0], 1), place[1]))[:MOST_PLACES]

    def built(self, number: int) -> Design:
        """The design with so many modules, or a few less where no strings are found for so many."""
        if number not in self._built:
            self._built[number] = self._build(number)
        return self._built[number]

    def year(self, number: int) -> Results:
        """Its year.

        Raises
        ------
        ImpossibleAct
            If it has none: no weather, or nothing that could be connected.
        """
        if number not in self._years:
            try:
                self._years[number] = self.libraries.year_of(self.built(number))
            except (IncompleteDesign, UnknownPart, ImpossibleAdjustment) as error:
                raise ImpossibleAct(str(error)) from error
        return self._years[number]

    def figure(self, number: int, read: Callable[[Results], float], none: float = 0.0) -> float:
        """A figure of its year; `none` for so few modules that nothing can be connected."""
        return read(self.year(number)) if self.built(number).subarrays else none

    def _build(self, number: int) -> Design:
        design, keys = self.begun
        wanted = dict.fromkeys(keys, 0)
        for _, key in self.places[:number]:
            wanted[key] += 1
        for key, is_laid in keys.items():
            design = self._on(design, key, wanted[key], is_laid)
        return design

    def _on(self, design: Design, key: str, count: int, is_laid: bool) -> Design:
        """A number of modules on one surface, connected; none where no strings are found for about so many."""
        model, parts = _model(design, key, self.given.module), self.libraries.parts
        for fewer in range(min(FEWER, count) + 1 if count else 0):
            if count - fewer < 1:
                break
            placed = self._laid(design, key, count - fewer, model) if is_laid else design
            way = _way(placed, key, model, count - fewer, self.given.inverter, self.libraries)
            if way is None:
                continue
            if is_laid and way.left_over:
                placed = self._laid(design, key, way.modules, model)
            return Design.read(freeze(merge_patch(placed.as_kept(), way.patch), parts))
        return Design.read(merge_patch(design.as_kept(), _bare(design, key, key not in self.design.surfaces)))

    def _laid(self, design: Design, key: str, count: int, model: str) -> Design:
        limit = FillLimit(of="modules", value=count)
        patch, _ = fill(design, Fill(surface=key, module=model, limit=limit), self.libraries)
        return Design.read(freeze(merge_patch(design.as_kept(), patch), self.libraries.parts))


def _number(builder: _Builder, given: DesignTo, told: Told) -> tuple[int, str]:
    """How many modules a target asks for, and what came of it in words."""
    most = len(builder.places)
    module = module_named(builder.design, _model(builder.begun[0], builder.places[0][1], given.module), builder.libraries.parts)
    if given.of == "value":
        return _most_valuable(builder, most, told)
    if given.amount <= 0:
        raise ImpossibleAct("Say how much is asked for, above 0.")
    if given.of in ("modules", "power"):
        assert module is not None
        wanted = ceil(given.amount if given.of == "modules" else given.amount * 1000 / module.power - 1e-9)
        number = min(wanted, most)
        short = "" if number == wanted else f" {wanted:,} are asked for: all that fit are laid."
        return number, f"{_said(builder, number)}{short}"
    read = _reader(given.of)
    have = builder.figure(most, read)
    told(0.15, f"{most} modules give {_short(have)}")
    if have < given.amount:
        unit = "kWh" if given.of == "energy" else "%"
        return (
            most,
            f"{_said(builder, most)} That is {_short(have)} of the {_short(given.amount)} {unit} that are asked for: all places are filled.",
        )
    low, high = 0, most  # high reaches it
    guess = ceil(most * given.amount / max(have, 1e-9))
    step = 0
    while high - low > 1:
        step += 1
        number = min(max(guess, low + 1), high - 1)
        reached = builder.figure(number, read)
        told(min(0.9, 0.15 + 0.08 * step), f"{number} modules give {_short(reached)}")
        if reached >= given.amount:
            high = number
        else:
            low = number
        # By proportion twice, then by halves: energy grows nearly evenly, a bill does not.
        guess = ceil(number * given.amount / max(reached, 1e-9)) if step < 3 else (low + high) // 2
        if not low < guess < high:
            guess = (low + high) // 2
    return high, _said(builder, high)


def _most_valuable(builder: _Builder, most: int, told: Told) -> tuple[int, str]:
    read = _reader("value")
    values: dict[int, float] = {}

    def look(number: int) -> None:
        if 1 <= number <= most and number not in values:
            values[number] = builder.figure(number, read, -inf)
            told(min(0.95, len(values) / (SIZES + 5)), f"{number} modules are worth {_short(values[number])}")

    for number in np.unique(np.ceil(np.linspace(most / SIZES, most, SIZES)).astype(int)):
        look(int(number))
    reach = max(1, most // SIZES)
    while reach > 1:
        reach //= 2
        best = max(values, key=lambda number: (values[number], -number))
        look(best - reach)
        look(best + reach)
    best = max(values, key=lambda number: (values[number], -number))
    return (
        best,
        f"{_said(builder, best)} Of {len(values)} sizes up to {most} modules it has the best net present value, {values[best]:,.0f}.",
    )


def _short(value: float) -> str:
    return f"{value:,.0f}" if abs(value) >= 1000 else f"{value:.4g}"


def _reader(of: str) -> Callable[[Results], float]:
    """The figure that a target is read from."""
    key = {"energy": "energy", "bill": "bill_share", "value": "net_present_value", "use": "energy"}[of]

    def read(results: Results) -> float:
        figure = FIGURE_OF[key]
        value = figure.value(results) if figure.is_there(results) else None
        if of == "use":
            used = FIGURE_OF["demand_energy"].value(results) if FIGURE_OF["demand_energy"].is_there(results) else None
            if not used:
                raise ImpossibleAct("The design has no demand. Say on the Demand bench who uses the energy.")
            return 100 * results.annual.energy / used
        if value is None:
            raise ImpossibleAct(
                f"The design has no {figure.title.lower()}. Add {'a tariff' if of == 'bill' else 'what it needs'} on the Money bench."
            )
        return 100 * value if of == "bill" else value

    return read


def _with_battery(design: Design, libraries: Libraries) -> tuple[Design, str]:
    """The battery that is proposed for the design; as it is where none is."""
    results = libraries.year_of(design)
    found = propose(results, size_curve(results)) if results.after.has_demand else None
    if found is None:
        return design, "No battery is proposed for it."
    storage = design.storage
    if storage.bank is None and storage.off_grid is None and found.energy >= SMALLEST:
        parts = libraries.parts.model_copy(update={"batteries": {**libraries.parts.batteries, **design.parts.batteries}})
        bank, words = battery_for(found.energy, parts, design.money)
        return Design.read(freeze(merge_patch(design.as_kept(), {"storage": {"bank": bank}}), parts)), f"Battery: {words}."
    patch, words = size_battery(design, SizeBattery(energy=found.energy))
    return Design.read(merge_patch(design.as_kept(), patch)), f"Battery: {words}"


def _said(builder: _Builder, number: int) -> str:
    results = builder.year(number)
    surfaces = results.design.surfaces
    names = [surfaces[key].name or key for key in builder.begun[1] if key in surfaces and _modules_on(results.design, key)]
    where = ", ".join(names[:4]) + (" and others" if len(names) > 4 else "")
    return f"{results.annual.modules} modules, {results.annual.dc_power:.4g} kW, on {where}: {results.annual.energy:,.0f} kWh a year."


def _way(
    design: Design, key: str, model: str, number: int, inverter: str, libraries: Libraries, ratio: float | None = None
) -> ProposalLine | None:
    """The way to connect modules that leaves the fewest over; of those the one nearest to a DC/AC ratio where one is asked for, else whose energy costs least, or that brings most."""
    if libraries.weather is None:
        raise ImpossibleAct("The design has no weather year, by which strings are compared. Choose one first.")
    ranges: list[dict[str, float]] = [{}] if ratio is None else [_about(ratio, share) for share in RATIO_RANGES]
    for over in (0, min(MOST_LEFT_OVER, number - 1)):
        for range_ in ranges:
            asked = FindRequest(
                surface=key, module=model, number=number, inverter=inverter, leave_over=over, first=True, **range_
            )
            try:
                ways = find_strings(design, asked, libraries, near=ratio or USUAL_RATIO).proposals
            except CannotFind as error:
                raise ImpossibleAct(str(error)) from error
            if ways and ratio is not None:
                fewest = min(way.left_over for way in ways)
                return min((way for way in ways if way.left_over == fewest), key=lambda way: abs(way.dc_ac_ratio - ratio))
            if ways:
                return best_way(ways)
    return None


def _about(ratio: float, share: float) -> dict[str, float]:
    """The range of DC/AC ratios that lies within a share of one."""
    return {"lowest_ratio": ratio * (1 - share), "highest_ratio": min(ratio * (1 + share), 5.0)}


def _model(design: Design, key: str, named: str) -> str:
    """The module that is laid: the named one, that of the surface's strings or layout, or of any string of the design."""
    surface = design.surfaces[key]
    laid = surface.layout.module if surface.layout is not None else None
    own = next((one.module for one in design.subarrays.values() if one.surface == key), None)
    other = next((one.module for one in design.subarrays.values()), None)
    found = named or laid or own or other
    if found is None:
        raise ImpossibleAct("No module is chosen. Say which is to be laid, such as one of the library.")
    return found


def _modules_on(design: Design, key: str) -> int:
    counts: Mapping[str, int] = {name: unit.count for name, unit in design.inverters.items()}
    laid = design.surfaces[key].layout
    strings = sum(
        one.strings * one.modules_per_string * counts.get(one.inverter, 1)
        for one in design.subarrays.values()
        if one.surface == key
    )
    return laid.size if laid is not None and laid.size else strings


def _bare(design: Design, key: str, is_new: bool) -> dict[str, Any]:
    """A patch that takes modules and strings from a surface, with the inverters that nothing else hangs on; a new one goes itself."""
    gone = [name for name, one in design.subarrays.items() if one.surface == key]
    left = {design.subarrays[name].inverter for name in gone} - {
        one.inverter for name, one in design.subarrays.items() if name not in gone
    }
    patch: dict[str, Any] = without_strings(gone)
    if left:
        patch["inverters"] = dict.fromkeys(sorted(left))
    if is_new:
        patch["surfaces"] = {key: None}
    elif design.surfaces[key].layout is not None:
        patch["surfaces"] = {key: {"layout": None}}
    return patch


def _inverters(way: ProposalLine, design: Design, parts: Catalogue) -> str:
    unit = design.parts.inverters.get(way.inverter) or parts.inverters[way.inverter]
    return f"{f'{way.count} × ' if way.count > 1 else ''}{unit.maker} {unit.name}"
