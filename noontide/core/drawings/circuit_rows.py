"""What hangs on each inverter, row by row, with identical inverters folded into their number."""

from dataclasses import dataclass

from noontide.core.checks.protection import Protection, protection_of
from noontide.core.simulation.cables_in_use import SizedRun
from noontide.core.simulation.results import Results

METALS = {"copper": "Cu", "aluminium": "Al"}


@dataclass(frozen=True)
class TrackerRow:
    """Identical trackers of one inverter."""

    trackers: int
    strings: tuple[str, ...]  # each kind of strings on it in words
    power: float  # of one tracker [kW]
    fuse: str
    switch: str
    string_cable: str
    main_cable: str


@dataclass(frozen=True)
class InverterRow:
    """Inverters that are wired identically."""

    title: str
    rating: str
    phases: int
    trackers: tuple[TrackerRow, ...]
    cable: str
    breaker: str
    residual: str
    surge: str
    is_micro: bool
    on_branch: int
    is_controller: bool = False


def fold(r: Results) -> list[tuple[InverterRow, int]]:
    """Inverters that are wired identically, and how many there are of them, in the order of the design."""
    return folded_rows(r, protection_by_key(r))


def protection_by_key(r: Results) -> dict[str, Protection]:
    return {item.key: item for item in protection_of(r)}


def folded_rows(r: Results, items: dict[str, Protection]) -> list[tuple[InverterRow, int]]:
    found: dict[InverterRow, int] = {}
    for i, one in enumerate(r.plant.sets):
        row = _inverter_row(r, i, items)
        found[row] = found.get(row, 0) + one.count
    return list(found.items())


def _inverter_row(r: Results, i: int, items: dict[str, Protection]) -> InverterRow:
    plant, unit, name = r.plant, r.plant.inverters[i], r.plant.inverter_ids[i]
    on = sorted((tracker, members) for (own, tracker), members in plant.on_trackers.items() if own == i)
    trackers: dict[tuple, int] = {}
    for tracker, members in on:
        row = _tracker_row(r, members, items, name, tracker)
        trackers[row] = trackers.get(row, 0) + 1
    run = r.cables.by_pointer.get(f"/inverters/{name}/cable")
    if plant.is_on_bus:
        controller = plant.controllers[i]
        return InverterRow(
            title=f"{unit.maker} {unit.name}",
            rating=f"{controller.current:g} A, {'MPPT' if controller.tracks else 'PWM'}",
            phases=1,
            trackers=tuple(TrackerRow(count, *row) for row, count in trackers.items()),
            cable="",
            breaker=rating_of(items, f"bus-fuse:controller:{name}"),
            residual="",
            surge=rating_of(items, f"dc-surge:{name}"),
            is_micro=False,
            on_branch=1,
            is_controller=True,
        )
    current = r.cables.branch_current(i)
    return InverterRow(
        title=f"{unit.maker} {unit.name}",
        rating=f"{unit.ac_power / 1000:g} kW, {current:.1f} A",
        phases=unit.phases,
        trackers=tuple(TrackerRow(count, *row) for row, count in trackers.items()),
        cable=cable_words(run) if run else "",
        breaker=rating_of(items, f"ac-breaker:{name}"),
        residual=rating_of(items, f"residual-current:{name}"),
        surge=rating_of(items, f"dc-surge:{name}"),
        is_micro=unit.kind == "micro",
        on_branch=round(plant.sets[i].count / r.cables.branches(i)),
    )


def rating_of(items: dict[str, Protection], key: str) -> str:
    item = items.get(key)
    return item.chosen if item is not None and item.state != "not needed" else ""


def _tracker_row(r: Results, members: tuple[int, ...], items: dict[str, Protection], name: str, tracker: int) -> tuple:
    plant = r.plant
    strings, power = [], 0.0
    # Strings of several sub-arrays may have cables of their own each.
    string_cables: dict[str, None] = {}
    main_cables: dict[str, None] = {}
    for k in members:
        subarray, module = plant.subarrays[k], plant.modules[k]
        strings.append(plant.strings_in_words(k))
        power += subarray.strings * subarray.modules_per_string * module.power / 1000
        key = plant.subarray_ids[k]
        if run := r.cables.by_pointer.get(f"/subarrays/{key}/cable"):
            string_cables[cable_words(run)] = None
        if run := r.cables.by_pointer.get(f"/subarrays/{key}/main_cable"):
            main_cables[cable_words(run)] = None
    fuse, switch = rating_of(items, f"string-fuse:{name}:{tracker}"), rating_of(items, f"dc-switch:{name}:{tracker}")
    return tuple(strings), round(power, 2), fuse, switch, " / ".join(string_cables), " / ".join(main_cables)


def cable_words(run: SizedRun) -> str:
    metal = METALS[run.route.material]
    return f"{run.choice.section:g} mm² {metal}, {run.route.length:g} m"
