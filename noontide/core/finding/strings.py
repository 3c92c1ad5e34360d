"""Ways to connect the modules of a surface, each with its own simulated year, ready to be written to the design."""

from collections.abc import Callable, Sequence
from math import ceil, floor
from time import monotonic
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from noontide.core.behind_meter.storage_sizes import proposed_by_use
from noontide.core.checks import limits_of
from noontide.core.design import Design
from noontide.core.design.naming import fresh
from noontide.core.electrical.datasheets import Catalogue, Inverter, Module
from noontide.core.electrical.finder import Explanation, loads_of
from noontide.core.electrical.fleet import (
    EACH_MORE,
    HIGHEST_RATIO,
    LOWEST_RATIO,
    USUAL_RATIO,
    Proposal,
    Wish,
    mixtures,
    proposals,
    ratio_of,
)
from noontide.core.plan.filling import room_on
from noontide.core.simulation import IncompleteDesign, Libraries, Results

MOST_SIMULATED, FIRST_SIMULATED = 24, 4
MIXED_MODELS, MOST_MIXED = 8, 10  # that are mixed, and mixtures that are simulated
FIRST_MODELS = 5  # that the first rows are looked for among

MOST_OF_A_SET = 1000  # inverters
MOST_LEFT_OVER = 20
MOST_NUMBER = 1_000_000  # modules that strings are looked for; more than a plan keeps, since a field can be estimated without one
PROBE = "probe"
Need = Literal["modules", "power", "area", "energy", "demand"]


class CannotFind(ValueError):
    """Why no strings can be looked for: a kind and a title for programs and people, words, and the argument that it is about."""

    def __init__(self, kind: str, title: str, words: str, pointer: str = ""):
        self.kind, self.title, self.pointer = kind, title, pointer
        super().__init__(words)


class FindRequest(BaseModel):
    """What strings are looked for."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    surface: str = Field(max_length=40)
    module: str = Field(max_length=64)
    number: int = Field(1, ge=1, le=MOST_NUMBER, description="modules on the surface, where nothing else is needed")
    need: Need = Field("modules", description="what is needed: a number of modules, or what they must reach")
    amount: float = Field(
        0,
        ge=0,
        le=1e9,
        description="of the need: power [kW], area [m2], energy a year [kWh], or share of the demand of the year [%]",
    )
    inverter: str = Field("", max_length=64, description="a model; every one of the library where it is empty")
    leave_over: int = Field(0, ge=0, le=MOST_LEFT_OVER, description="modules that may stay without a string")
    lowest_ratio: float = Field(LOWEST_RATIO, gt=0, le=5)
    highest_ratio: float = Field(HIGHEST_RATIO, gt=0, le=5)
    phases: Literal[1, 3] | None = None
    mix: bool = Field(False, description="two models together too: the larger ones full, the rest on a smaller one")
    first: bool = Field(False, description="only the first few rows, of the models that suit best; the rest is asked for apart")

    @model_validator(mode="after")
    def _ratios_rise(self) -> "FindRequest":
        if self.lowest_ratio > self.highest_ratio:
            raise ValueError(f"The lowest DC/AC ratio is {self.lowest_ratio:g}, above the highest of {self.highest_ratio:g}.")
        if self.need != "modules" and self.amount <= 0:
            raise ValueError("Say how much is needed, above 0.")
        return self


class ShareLine(BaseModel):
    """Identical inverters of a proposal and what hangs on each."""

    inverter: str
    count: int
    loads: list[tuple[int, int, int]] = Field(description="trackers, strings on each, modules in a string")


class ProposalLine(BaseModel):
    """A way to connect the modules, with the figures that are compared."""

    inverter: str
    count: int
    shares: list[ShareLine]
    modules: int
    left_over: int
    dc_ac_ratio: float
    cold_voc: float = Field(description="of the longest string at the lowest temperature [V]")
    maximum_voltage: float
    hot_vmp: float = Field(description="of the shortest string at the hottest cells [V]")
    cold_vmp: float = Field(description="of the longest string [V]")
    mppt_minimum: float
    mppt_maximum: float
    current: float = Field(description="Imp of the strings on the fullest tracker [A]")
    maximum_current: float
    energy: float = Field(description="of the year, delivered [kWh]")
    clipped_share: float = Field(description="of the DC energy")
    hours_outside_window: float
    unevenness: float = Field(description="of the strings' lengths, 0 where all are alike")
    price: float | None = Field(description="of modules and inverters, where both datasheets have one")
    price_a_kwh: float | None = Field(description="the same over the year's energy")
    short: float = Field(description="what the need is missed by; negative where there is more [kW, m2 or kWh]")
    patch: dict = Field(description="merge patch that writes it to the design")


class RejectedLine(BaseModel):
    """A model that takes none of the wished numbers, and why."""

    inverter: str
    reasons: list[str]
    nearest: list[int] = Field(description="numbers of modules that are possible")


class FoundWays(BaseModel):
    """What the finder found, best yield first."""

    lowest: float = Field(description="air temperature that Voc is taken at [°C]")
    highest_cell: float = Field(description="cell temperature that Vmp is taken at [°C]")
    longest: int = Field(description="longest string that a proposal has [modules]")
    number: int = Field(description="modules that were looked for")
    amount: float = Field(description="of the need that they were counted for; of a share of the demand its energy [kWh]")
    room: int | None = Field(
        description="modules that the surface has room for: on its plan, on its face or by its area; null where nothing limits it"
    )
    is_partial: bool = Field(description="the first rows of a search whose rest is still to come")
    more: int = Field(description="proposals beyond those that were simulated")
    battery: str = Field(description="a size of battery for the best of them, with its reason; empty without a demand")
    proposals: list[ProposalLine]
    rejected: list[RejectedLine]


def find_strings(
    design: Design,
    asked: FindRequest,
    libraries: Libraries,
    report: Callable[[int, int], None] | None = None,
    patience: float | None = None,
    near: float = USUAL_RATIO,
) -> FoundWays:
    """Look for strings on a surface of a design, among its own parts and those of a library.

    Parameters
    ----------
    report : function, optional
        Told how many of how many ways are simulated.
    patience : float, optional
        Seconds, after which no further way is simulated; for rows to begin with, since what is found then depends on the machine.
    near : float, optional
        DC/AC ratio by which the first few models are chosen.

    Raises
    ------
    CannotFind
        If the surface or a part is unknown, the design cannot be simulated, or a share of a demand is asked for that there is not.
    """
    shelf = libraries.parts
    if asked.surface not in design.surfaces:
        raise CannotFind("unknown-surface", "Unknown surface", f"The scheme has no surface '{asked.surface}'.", "/surface")
    module = _part(design, shelf, "modules", asked.module, "/module")
    assert isinstance(module, Module)  # of that kind
    library = dict(shelf.inverters) | dict(design.parts.inverters)
    # Microinverters and inverters without a grid are found where they are named.
    every = [unit for unit in library.values() if unit.kind in ("string", "hybrid")]
    wanted = [_part(design, shelf, "inverters", asked.inverter, "/inverter")] if asked.inverter else every
    probe = _simulated(design, libraries, _trial(asked, wanted[0].id))
    asked = _by_energy(asked, probe)
    limits = limits_of(probe)[0]
    wish = Wish(asked.leave_over, asked.lowest_ratio, asked.highest_ratio, asked.phases, probe.cables.rules.array_current)

    def look(number: int) -> tuple[list[Proposal], dict[str, Explanation]]:
        found, rejected = proposals(number, module, wanted, limits.lowest, limits.highest_cell, wish)
        return [p for p in found if all(share.count <= MOST_OF_A_SET for share in p.shares)], rejected

    number = _number(asked, module, probe)
    if asked.first:
        wanted = sorted(wanted, key=lambda unit: _suits(unit, number * module.power, near))[:FIRST_MODELS]
    found, rejected = look(number)
    if asked.need == "energy" and found:
        # Once more with what a module gives behind an inverter and its cables.
        first = _line(design, libraries, asked, module, (found[0],))
        number = _within(ceil(asked.amount / max(first.energy / first.modules, 1e-9)))
        found, rejected = look(number)
    ways: list[tuple[Proposal, ...]] = [(proposal,) for proposal in found]
    if asked.mix and not asked.first:
        few = sorted(every, key=lambda unit: _suits(unit, number * module.power))[:MIXED_MODELS]
        two = mixtures(number, module, few, limits.lowest, limits.highest_cell, wish)
        ways = [*two[:MOST_MIXED], *ways]
    shown = ways[: FIRST_SIMULATED if asked.first else MOST_SIMULATED]
    pairs, begun = [], monotonic()
    for done, parts in enumerate(shown, start=1):
        pairs.append((_line(design, libraries, asked, module, parts), parts))
        if report is not None:
            report(done, len(shown))
        if patience is not None and monotonic() - begun > patience:
            break
    pairs.sort(key=lambda pair: (pair[0].left_over, -pair[0].energy))
    lines = [line for line, _ in pairs]
    best = pairs[0][1] if pairs and not asked.first else None
    proposed = None if best is None else proposed_by_use(_simulated(design, libraries, _circuits(asked, best, set())))
    return FoundWays(
        lowest=limits.lowest,
        highest_cell=limits.highest_cell,
        number=number,
        amount=asked.amount,
        room=room_on(design, asked.surface, module, shelf),
        is_partial=asked.first,
        longest=max((p.lengths[1] for parts in shown for p in parts), default=0),
        more=len(ways) - len(pairs),
        battery="" if proposed is None else proposed.words,
        proposals=lines,
        rejected=[_rejected(key, said) for key, said in rejected.items()],
    )


def best_way(ways: Sequence[ProposalLine]) -> ProposalLine:
    """The way that leaves fewest modules over; of those the one whose energy costs least, or that brings most."""
    fewest = min(way.left_over for way in ways)
    some = [way for way in ways if way.left_over == fewest]
    priced = [(way.price_a_kwh, k) for k, way in enumerate(some) if way.price_a_kwh is not None]
    return some[min(priced)[1]] if priced else max(some, key=lambda way: way.energy)


def _suits(unit: Inverter, power: float, ratio: float = USUAL_RATIO) -> float:
    """How far a model is from taking a DC power in whole inverters at a ratio; smaller is better."""
    count = power / (ratio * unit.ac_power)
    return abs(count - max(round(count), 1)) / max(count, 1e-9) + EACH_MORE * count


def _by_energy(asked: FindRequest, probe: Results) -> FindRequest:
    """A share of the demand as the energy that it is."""
    if asked.need != "demand":
        return asked
    used = probe.after.demand
    if used is None or not (energy := float(used.total.sum()) * probe.sky.hours_per_interval) > 0:
        raise CannotFind(
            "no-demand",
            "The scheme has no demand",
            "The design has no demand. Say on the Demand bench who uses the energy, or look for another amount.",
            "/need",
        )
    return asked.model_copy(update={"need": "energy", "amount": asked.amount / 100 * energy})


def _number(asked: FindRequest, module: Module, probe: Results) -> int:
    """How many modules a need takes; of an energy a first guess, from what a module gives at its own maximum."""
    match asked.need:
        case "power":
            return _within(ceil(asked.amount * 1000 / module.power - 1e-9))
        case "area":
            return _within(floor(asked.amount / module.area + 1e-9))
        case "energy":
            hours = probe.sky.hours_per_interval / 1000
            each = float(probe.modules[0].maximum.sum()) * hours
            return _within(ceil(asked.amount / max(each, 1e-9)))
    return asked.number


def _within(number: int) -> int:
    if number > MOST_NUMBER:
        words = f"That takes {number:,} modules; strings are found for {MOST_NUMBER:,} or less. Look for a part of them."
        raise CannotFind("too-many", "Too many modules", words, "/amount")
    return max(number, 1)


def _part(design: Design, shelf: Catalogue, kind: str, name: str, pointer: str) -> Module | Inverter:
    part = design.parts.of(kind).get(name) or shelf.of(kind).get(name)
    if part is None:
        raise CannotFind("unknown-part", "Unknown part", f"The library has no '{name}' among its {kind}.", pointer)
    return part


def _trial(asked: FindRequest, inverter: str) -> dict:
    """One module on an inverter: what its cells and its light are does not depend on the strings."""
    string = {"surface": asked.surface, "module": asked.module, "modules_per_string": 1, "inverter": PROBE}
    return {"inverters": {PROBE: {"model": inverter}}, "subarrays": {PROBE: string}}


def _simulated(design: Design, libraries: Libraries, circuits: dict) -> Results:
    """The year of a surface alone with given circuits; light and modules come from the stages that the scheme itself uses."""
    alone = design.model_dump(mode="json", exclude_unset=True, exclude={"inverters", "subarrays"}) | circuits
    try:
        return libraries.year_of(Design.read(alone))
    except IncompleteDesign as error:
        raise CannotFind("not-complete", "The scheme is incomplete", str(error)) from None


def _line(design: Design, libraries: Libraries, asked: FindRequest, module: Module, parts: tuple[Proposal, ...]) -> ProposalLine:
    annual = _simulated(design, libraries, _circuits(asked, parts, set())).annual
    modules = sum(part.modules for part in parts)
    lengths = [length for part in parts for length in part.lengths]
    each = [(part.count, design.money.worth(part.inverter.price, part.inverter.currency)) for part in parts]
    each.append((modules, design.money.worth(module.price, module.currency)))
    price = None if any(p is None for _, p in each) else sum(count * p for count, p in each if p is not None)
    reached = {"modules": modules, "power": modules * module.power / 1000, "area": modules * module.area}
    wanted = {"modules": float(asked.number)}.get(asked.need, asked.amount)
    # Of two models the figures of the one that is nearer to its limits.
    cold, hot = (
        max(parts, key=_near_the_top),
        min(parts, key=lambda part: part.lengths[0] * part.limits.hot_vmp / part.inverter.mppt_minimum),
    )
    full, parallel = max(
        ((part, _parallel(part)) for part in parts), key=lambda pair: pair[1] / pair[0].inverter.maximum_tracker_current
    )
    return ProposalLine(
        inverter=parts[0].inverter.id,
        count=sum(part.count for part in parts),
        shares=[
            ShareLine(inverter=part.inverter.id, count=share.count, loads=loads_of(share.strings))
            for part in parts
            for share in part.shares
        ],
        modules=modules,
        left_over=parts[0].left_over,
        dc_ac_ratio=ratio_of(parts, module),
        cold_voc=cold.lengths[1] * cold.limits.cold_voc,
        maximum_voltage=cold.limits.maximum_voltage,
        hot_vmp=hot.lengths[0] * hot.limits.hot_vmp,
        cold_vmp=cold.lengths[1] * cold.limits.cold_vmp,
        mppt_minimum=hot.inverter.mppt_minimum,
        mppt_maximum=cold.inverter.mppt_maximum,
        current=parallel * module.imp,
        maximum_current=full.inverter.maximum_tracker_current,
        energy=annual.energy,
        clipped_share=annual.clipped_share,
        hours_outside_window=annual.hours_outside_window,
        unevenness=(max(lengths) - min(lengths)) / max(lengths),
        price=price,
        price_a_kwh=price / annual.energy if price is not None and annual.energy > 0 else None,
        short=wanted - reached.get(asked.need, annual.energy),
        patch=_patch(design, asked, parts),
    )


def _near_the_top(part: Proposal) -> float:
    return part.lengths[1] * part.limits.cold_voc / part.limits.maximum_voltage


def _parallel(part: Proposal) -> int:
    """Strings on the fullest tracker."""
    return max(len(strings) for share in part.shares for strings in share.strings)


def _circuits(asked: FindRequest, parts: tuple[Proposal, ...], taken: set[str]) -> dict:
    """Inverter sets and sub-arrays of a proposal, with ids that are not taken."""
    inverters: dict[str, dict] = {}
    subarrays: dict[str, dict] = {}
    for model, share in ((part.inverter.id, share) for part in parts for share in part.shares):
        unit = fresh("inverter", taken | set(inverters))
        inverters[unit] = {"model": model} | ({"count": share.count} if share.count > 1 else {})
        for tracker, strings in enumerate(share.strings, 1):
            if strings:
                string = fresh("strings", taken | set(subarrays))
                subarrays[string] = {
                    "surface": asked.surface, "module": asked.module, "modules_per_string": strings[0], "inverter": unit,
                    **({"strings": len(strings)} if len(strings) > 1 else {}), **({"tracker": tracker} if tracker > 1 else {}),
                }  # fmt: skip
    return {"inverters": inverters, "subarrays": subarrays}


def _patch(design: Design, asked: FindRequest, parts: tuple[Proposal, ...]) -> dict:
    """What replaces the strings of the surface by a proposal; inverters that only they hung on go with them."""
    gone = {key for key, s in design.subarrays.items() if s.surface == asked.surface}
    kept = {s.inverter for key, s in design.subarrays.items() if key not in gone}
    left = {s.inverter for key, s in design.subarrays.items() if key in gone} - kept
    # An id that goes is not used again: a merge patch would leave old values under it.
    found = _circuits(asked, parts, set(design.inverters) | set(design.subarrays))
    return {
        "inverters": dict.fromkeys(sorted(left)) | found["inverters"],
        "subarrays": dict.fromkeys(sorted(gone)) | found["subarrays"],
    }


def _rejected(key: str, said: Explanation) -> RejectedLine:
    return RejectedLine(inverter=key, reasons=list(said.reasons), nearest=list(said.nearest))
