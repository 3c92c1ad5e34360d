"""The Brief as data: paragraphs of runs of text, values with their pointer, choices, parts, figures and links.

The browser draws them, a report sets them, a comparison diffs them. Things that are the same in many places fold into one
sentence, so that two hundred surfaces read like two.
"""

from collections import defaultdict
from collections.abc import Callable, Iterable
from typing import Any

from pydantic import BaseModel

from noontide.core.angles import wind
from noontide.core.benches import BenchName
from noontide.core.brief.after_meter import demand_runs, money_runs, storage_runs
from noontide.core.brief.runs import Run, count_of, fixed, link_run, listed, orientation_words, text_run, value_run
from noontide.core.brief.scene import scene_runs
from noontide.core.calendar import MONTHS
from noontide.core.design.circuits import SubArray
from noontide.core.design.document import Design
from noontide.core.design.surface import Surface
from noontide.core.simulation.results import Results

FOLD_FROM = 5  # of a kind, from which on things are told together
MOST_GROUPS = 4
POINTS = ("N", "NNE", "NE", "ENE", "E", "ESE", "SE", "SSE", "S", "SSW", "SW", "WSW", "W", "WNW", "NW", "NNW")


class Paragraph(BaseModel):
    """One paragraph of the Brief, for one bench."""

    bench: BenchName
    runs: list[Run]


Weather = dict[str, Any]


def paragraphs(design: Design, results: Results | None, weather: Weather | None) -> list[Paragraph]:
    """The whole Brief.

    Parameters
    ----------
    design : Design
    results : Results or None
        Of the design, where it has been simulated.
    weather : dict or None
        Title, annual GHI [kWh/m2] and the extremes of temperature [°C] of its weather year.
    """
    return [
        Paragraph(bench="site", runs=_site(design)),
        Paragraph(bench="weather", runs=_weather(design, results, weather)),
        Paragraph(bench="sky", runs=_sky(design, results)),
        Paragraph(bench="scene", runs=scene_runs(design)),
        Paragraph(bench="surfaces", runs=_surfaces(design)),
        Paragraph(bench="circuits", runs=_circuits(design, results)),
        Paragraph(bench="demand", runs=demand_runs(design, results)),
        Paragraph(bench="storage", runs=storage_runs(design, results)),
        Paragraph(bench="losses", runs=_losses(design)),
        Paragraph(bench="money", runs=money_runs(design, results)),
    ]


def _site(design: Design) -> list[Run]:
    site = design.site
    place = f"{abs(site.latitude):.2f}° {'N' if site.latitude >= 0 else 'S'}, {abs(site.longitude):.2f}° {'E' if site.longitude >= 0 else 'W'}"
    return [
        text_run(f"{site.name or 'A site'} at "),
        link_run(place, "site"),
        text_run(", elevation "),
        value_run("/site/elevation", site.elevation, "Elevation of the site"),
        text_run("."),
    ]


def _sky(design: Design, results: Results | None) -> list[Run]:
    """Horizon and obstacles, or the shade that stands in their place."""
    site = design.site
    lost = -results.cascade["horizon"].share if results else 0.0
    blocks = Run(kind="figure", text=f"{lost * 100:.1f} %", figure="loss_horizon")
    by_hand = site.shade_factor or site.shade_table
    if by_hand:
        how = "measured on site" if by_hand.is_measured else "estimated without a visit"
        if site.shade_factor:
            factor = value_run("/site/shade_factor/factor", site.shade_factor.factor, "Shade factor")
            return [
                text_run("A "),
                link_run("shade factor", "sky"),
                text_run(" of "),
                factor,
                text_run(f", {how}, in place of horizon and obstacles."),
            ]
        runs = [text_run("A "), link_run("table of solar access", "sky"), text_run(f", {how}, in place of horizon and obstacles")]
        return [*runs, text_run("; it takes "), blocks, text_run(" of the light.")] if results else [*runs, text_run(".")]
    top = max(site.horizon, key=lambda p: p.elevation, default=None)
    runs = []
    if top is not None and top.elevation > 0:
        runs = [
            text_run("The "),
            link_run("horizon", "sky"),
            text_run(f" rises to {top.elevation:g}° in the {wind(top.azimuth)}"),
        ]
    if site.obstacles:
        names = [obstacle.name or key for key, obstacle in site.obstacles.items()]
        shown = listed(names) if len(names) < FOLD_FROM else f"{len(names)} obstacles"
        runs += [text_run("; in front of it: " if runs else "In front of the sky: "), link_run(shown, "sky")]
    if not runs:
        return [text_run("No "), link_run("horizon", "sky"), text_run(" obstructions.")]
    if results is None:
        return [*runs, text_run(".")]
    return [*runs, text_run(". Together they block " if site.obstacles else " and blocks "), blocks, text_run(" of the light.")]


_ADJUSTED = {
    "gap_filling": "marked values filled",
    "height_correction": "corrected to the site's elevation",
    "monthly_factors": "irradiance scaled by month",
    "calibration": "calibrated by month",
    "warmer_climate": "a warmer climate",
}


def _weather(design: Design, results: Results | None, weather: Weather | None) -> list[Run]:
    if weather is None:
        return [link_run("Choose a weather year…", "weather")]
    span = f"{weather['lowest']:.0f}\u00a0°C to {weather['highest']:.0f}\u00a0°C".replace("-", "\u2212")
    steps = [words for key, words in _ADJUSTED.items() if (step := getattr(design.weather, key, None)) is not None and step.is_on]
    annual = results.annual.horizontal_irradiation if steps and results is not None else weather["annual_ghi"]
    return [
        link_run(weather["title"], "weather"),
        text_run(
            f": {annual:,.0f}\u00a0kWh/m² a year on the horizontal, {span}{f'; adjusted: {listed(steps)}' if steps else ''}."
        ),
    ]


def _surfaces(design: Design) -> list[Run]:
    if not design.surfaces:
        return [link_run("Add a surface…", "surfaces")]
    modules: dict[str, int] = defaultdict(int)
    for s in design.subarrays.values():
        modules[s.surface] += s.modules_per_string * s.strings * design.inverters[s.inverter].count
    if len(design.surfaces) >= FOLD_FROM:
        return _folded_surfaces(design.surfaces, modules)
    runs: list[Run] = []
    for key, surface in design.surfaces.items():
        name, count = surface.name or key, modules[key]
        runs += [
            text_run("On the " if count else "The "),
            link_run(name, "surfaces", key),
            text_run(" ("),
            *_stance(key, surface, name),
        ]
        if surface.rows:
            runs += [
                text_run(", rows "),
                value_run(f"/surfaces/{key}/rows/pitch", surface.rows.pitch, f"Row pitch of {name}"),
                text_run(" apart"),
            ]
        runs.append(
            text_run(f") {count_of(count, 'module')}. " if count else f") has {_carried(design.surfaces, modules, [key])}. ")
        )
    return runs


def _stance(key: str, surface: Surface, name: str) -> list[Run]:
    """How a surface stands or moves."""
    at = f"/surfaces/{key}"
    azimuth = [
        value_run(f"{at}/azimuth", surface.azimuth, f"Azimuth of {name}"),
        Run(kind="words", text=orientation_words(surface.azimuth), pointer=f"{at}/azimuth"),
    ]
    if turns := surface.tracking:
        up_to = value_run(f"{at}/tracking/maximum", turns.maximum, f"Maximum rotation of {name}")
        runs = [text_run(f"turning about {axis_words(turns.axis_azimuth)}")]
        if turns.axis_tilt and surface.face is None:  # on a face it follows the ground
            runs += [text_run(" tilted "), value_run(f"{at}/tracking/axis_tilt", turns.axis_tilt, f"Axis tilt of {name}")]
        runs += [text_run(" up to ±"), up_to]
        return [*runs, text_run(", backtracking")] if turns.backtracking and (surface.rows or surface.face) else runs
    if faces := surface.two_axis_tracking:
        up_to = value_run(f"{at}/two_axis_tracking/maximum_tilt", faces.maximum_tilt, f"Maximum tilt of {name}")
        return [text_run("following the sun on two axes, tilt up to "), up_to]
    if seasonal := surface.seasonal_tilt:
        runs = [text_run("tilted by hand: ")]
        changes = sorted(seasonal.changes.items(), key=lambda item: (item[1].month, item[1].day))
        for i, (change, to) in enumerate(changes):
            tilt = value_run(
                f"{at}/seasonal_tilt/changes/{change}/tilt", to.tilt, f"Tilt of {name} from {to.day} {MONTHS[to.month - 1]}"
            )
            runs += [text_run(", " if i else ""), tilt, text_run(f" from {to.day} {MONTHS[to.month - 1]}")]
        return [*runs, text_run("; azimuth "), *azimuth]
    if surface.face is not None:
        return [
            text_run(
                f"tilt {round(surface.tilt, 1):g}°, azimuth {round(surface.azimuth, 1):g}°, {orientation_words(round(surface.azimuth, 1))}"
            )
        ]
    return [text_run("tilt "), value_run(f"{at}/tilt", surface.tilt, f"Tilt of {name}"), text_run(", azimuth "), *azimuth]


def axis_words(azimuth: float) -> str:
    """The direction of an axis: `a north-south axis`, `an axis towards S 12° W`."""
    if azimuth % 180 == 0:
        return "a north-south axis"
    return "an east-west axis" if azimuth % 180 == 90 else f"an axis towards {orientation_words(azimuth)}"


def _folded_surfaces(surfaces: dict[str, Surface], modules: dict[str, int]) -> list[Run]:
    """Surfaces of one direction and kind in one sentence: twelve roofs, 18° to 22°, facing S."""
    groups: dict[tuple[str, bool, bool], list[str]] = defaultdict(list)
    for key, surface in surfaces.items():
        groups[_moves(surfaces, key), surface.rows is not None, modules[key] > 0].append(key)
    largest = sorted(groups.items(), key=lambda group: -len(group[1]))
    shown = largest if len(largest) <= MOST_GROUPS else largest[: MOST_GROUPS - 1]
    runs: list[Run] = []
    for (moves, has_rows, _), keys in shown:
        first = surfaces[keys[0]].name or keys[0]
        rest = f" and {len(keys) - 1} more" if len(keys) > 1 else ""
        span = f"{_tilt_span(surfaces, keys)}, " if moves.startswith("facing") else ""
        words = f"{rest}, {span}{moves}{', in rows' if has_rows else ''}: "
        runs += [link_run(first, "surfaces", keys[0]), text_run(f"{words}{_carried(surfaces, modules, keys)}. ")]
    others = [key for _, keys in largest[len(shown) :] for key in keys]
    if others:
        words = f", {_tilt_span(surfaces, others)}, of other orientations: {_carried(surfaces, modules, others)}. "
        runs += [link_run(f"{len(others)} more surfaces", "surfaces"), text_run(words)]
    return runs


def _moves(surfaces: dict[str, Surface], key: str) -> str:
    surface = surfaces[key]
    if surface.tracking:
        return f"turning about {axis_words(surface.tracking.axis_azimuth)}"
    if surface.two_axis_tracking:
        return "following the sun on two axes"
    point = POINTS[round(surface.azimuth / 22.5) % 16]
    return f"tilted by hand towards {point}" if surface.seasonal_tilt else f"facing {point}"


def _tilt_span(surfaces: dict[str, Surface], keys: list[str]) -> str:
    tilts = [round(surfaces[key].tilt, 1) for key in keys]
    return f"{min(tilts):g}°" if min(tilts) == max(tilts) else f"{min(tilts):g}° to {max(tilts):g}°"


def _carried(surfaces: dict[str, Surface], modules: dict[str, int], keys: list[str]) -> str:
    """The modules of strings on some surfaces; of those that have none, what lies on their plans."""
    if count := sum(modules[key] for key in keys):
        return count_of(count, "module")
    layouts = (surfaces[key].layout for key in keys)
    on_plan = sum(layout.size for layout in layouts if layout is not None)
    return f"{count_of(on_plan, 'module')} on the plan, in no strings yet" if on_plan else "no modules yet"


def _circuits(design: Design, results: Results | None) -> list[Run]:
    if not design.inverters:
        return [link_run("Add an inverter and strings…", "circuits")]
    strings: dict[str, list[tuple[str, SubArray]]] = defaultdict(list)
    for key, subarray in design.subarrays.items():
        strings[subarray.inverter].append((key, subarray))
    runs: list[Run] = []
    for members in _alike(design.inverters, lambda key: _inverter_kind(design, key, strings[key])):
        runs += _inverters(design, members, strings)
    if results is not None:
        runs += [
            text_run("DC/AC ratio "),
            Run(kind="figure", text=fixed(results.annual.dc_ac_ratio, 2), figure="dc_ac_ratio"),
            text_run("."),
        ]
    return [*runs, *_optimisers(design), *_cables(design), *_connection(design)]


def _optimisers(design: Design) -> list[Run]:
    """Which modules have optimisers."""
    with_one = [s for s in design.subarrays.values() if s.optimiser]
    if not with_one:
        return []
    models = sorted({s.optimiser for s in with_one if s.optimiser})
    parts = design.parts.optimisers
    names = [f"{parts[key].maker} {parts[key].name}" if key in parts else key for key in models]
    which = (
        "Each module has"
        if len(with_one) == len(design.subarrays)
        else f"The modules of {count_of(len(with_one), 'sub-array')} have"
    )
    return [text_run(f" {which} an optimiser "), link_run(listed(names), "circuits"), text_run(".")]


def _cables(design: Design) -> list[Run]:
    """The cables by their lengths, where there are any."""
    kinds = (
        ("string cables", [s.cable for s in design.subarrays.values() if s.cable]),
        ("DC mains", [s.main_cable for s in design.subarrays.values() if s.main_cable]),
        ("AC cables", [i.cable for i in design.inverters.values() if i.cable]),
    )
    words = []
    for name, cables in kinds:
        lengths = [cable.length for cable in cables]
        if lengths:
            span = f"{min(lengths):g}" if min(lengths) == max(lengths) else f"{min(lengths):g} to {max(lengths):g}"
            words.append(f"{name} of {span}\u00a0m")
    main = design.connection.cable
    if not words and main is None:
        return []
    runs = [text_run(" "), link_run(_sentence(listed(words)), "circuits")] if words else []
    if main is not None:
        runs += [
            text_run("; AC main of " if words else " AC main of "),
            value_run("/connection/cable/length", main.length, "Length of the AC main cable"),
        ]
    return [*runs, text_run(".")]


def _connection(design: Design) -> list[Run]:
    """What the grid asks beyond taking all of it at a power factor of 1."""
    connection, runs = design.connection, []
    if connection.transformer is not None:
        part = design.parts.transformers.get(connection.transformer)
        name = f"{part.maker} {part.name}" if part else connection.transformer
        if connection.stations == 1:
            runs += [text_run(" Transformer "), link_run(name, "circuits")]
        else:
            runs += [
                text_run(" "),
                value_run("/connection/stations", connection.stations, "Stations"),
                text_run(" stations with a "),
                link_run(name, "circuits"),
                text_run(" each"),
            ]
        if connection.collector is not None:
            where = ", then " if connection.stations == 1 else ", from one to the next "
            runs += [
                text_run(where),
                value_run("/connection/collector/length", connection.collector.length, "Medium-voltage cable"),
                text_run(" of medium voltage"),
            ]
        runs.append(text_run("."))
    if connection.power_factor < 1:
        runs += [
            text_run(" Power factor "),
            value_run("/connection/power_factor", connection.power_factor, "Power factor"),
            text_run("."),
        ]
    if connection.export_limit is not None:
        runs += [
            text_run(" Export is limited to "),
            value_run("/connection/export_limit", connection.export_limit, "Export limit"),
            text_run("."),
        ]
    if design.wiring.own_rules is not None or design.wiring.rules != "iec":
        title = design.wiring.own_rules.title if design.wiring.own_rules else "125 % of NFPA 70"
        runs += [text_run(" Rules: "), link_run(title, "circuits"), text_run(".")]
    return runs


def _sentence(text: str) -> str:
    return text[0].upper() + text[1:]


def _alike(keys: Iterable[str], kind_of: Callable[[str], object]) -> list[list[str]]:
    """Keys grouped by kind where there are many, else each alone."""
    every = list(keys)
    if len(every) < FOLD_FROM:
        return [[key] for key in every]
    groups: dict[object, list[str]] = defaultdict(list)
    for key in every:
        groups[kind_of(key)].append(key)
    return list(groups.values())


def _inverter_kind(design: Design, key: str, strings: list[tuple[str, SubArray]]) -> tuple:
    unit = design.inverters[key]
    return unit.part, unit.count, tuple(sorted((s.tracker, s.strings, s.modules_per_string, s.module) for _, s in strings))


def _inverters(design: Design, members: list[str], strings: dict[str, list[tuple[str, SubArray]]]) -> list[Run]:
    """A sentence about one inverter set, or about several that are wired identically."""
    first = members[0]
    number = list(design.inverters).index(first) + 1
    unit, mine = design.inverters[first], sorted(strings[first], key=lambda pair: pair[1].tracker)
    runs: list[Run] = []
    if len(members) > 1:
        runs.append(text_run(f"{len(members)} × "))
    elif unit.count > 1:
        runs += [value_run(f"/inverters/{first}/count", unit.count, f"Number of inverters {number}"), text_run(" ")]
    if unit.controller is not None:
        sheet = design.parts.controllers.get(unit.controller)
        runs.append(link_run(f"{sheet.maker} {sheet.name}" if sheet is not None else unit.controller, "storage"))
    else:
        runs.append(
            Run(
                kind="part",
                part="inverter",
                text=unit.part,
                pointer=f"/inverters/{first}/model",
                pointers=tuple(f"/inverters/{key}/model" for key in members),
                label=f"Inverter {number}",
            )
        )
    several = unit.count > 1 or len(members) > 1
    runs.append(text_run(" each take " if several else " takes "))
    if not mine:
        return [*runs, text_run("no strings yet. ")]
    if len(members) > 1 or len(mine) >= FOLD_FROM:
        # Wired identically: told once, edited on the bench.
        shapes: dict[tuple[int, int], int] = defaultdict(int)
        for _, s in mine:
            shapes[s.strings, s.modules_per_string] += 1
        words = [
            f"{trackers} × {count_of(n, 'string')} of {length}" if trackers > 1 else f"{count_of(n, 'string')} of {length}"
            for (n, length), trackers in shapes.items()
        ]
        runs.append(link_run(listed(words), "circuits"))
    else:
        for i, (key, s) in enumerate(mine):
            runs += [
                text_run("" if i == 0 else " and " if i == len(mine) - 1 else ", "),
                value_run(f"/subarrays/{key}/strings", s.strings, f"Parallel strings of {s.name}"),
                text_run(" strings of " if s.strings > 1 else " string of "),
                value_run(f"/subarrays/{key}/modules_per_string", s.modules_per_string, f"Modules per string of {s.name}"),
            ]
    own = [f"/subarrays/{key}/module" for member in members for key, _ in strings[member]]
    module = mine[0][1].module
    return [
        *runs,
        text_run(" "),
        Run(kind="part", part="module", text=module, pointer=own[0], pointers=tuple(own), label=f"Module on inverter {number}"),
        text_run(". "),
    ]


def _losses(design: Design) -> list[Run]:
    losses, models = design.losses, design.models
    monthly = losses.soiling_by_month
    soiling = (
        Run(kind="figure", text=f"{min(monthly):g} to {max(monthly):g} % by month", figure="loss_soiling")
        if monthly
        else value_run("/losses/soiling", losses.soiling, "Soiling")
    )
    runs = [text_run("Soiling "), soiling]
    for lead, field, label in (
        (", mismatch ", "mismatch", "Mismatch"),
        (", power tolerance ", "quality", "Power tolerance"),
        (", light-induced degradation ", "light_induced", "Light-induced degradation"),
        (", degradation ", "degradation", "Degradation a year"),
        (" a year in year ", "year_of_operation", "Year of operation"),
        *_wiring_shares(design),
        ("; unavailability ", "unavailability", "Unavailability"),
    ):
        runs += [text_run(lead), value_run(f"/losses/{field}", getattr(losses, field), label)]
    for lead, field, label in (
        (". Sky model ", "transposition", "Sky model"),
        ("; IAM ", "incidence", "Incidence angle modifier (IAM)"),
        ("; cell temperature ", "temperature", "Cell temperature model"),
    ):
        runs += [text_run(lead), Run(kind="choice", text=getattr(models, field), pointer=f"/models/{field}", label=label)]
    return [*runs, text_run(".")]


def _wiring_shares(design: Design) -> list[tuple[str, str, str]]:
    """The shares that stand for cables without a length; none where all have one."""
    shares = []
    if not all(s.cable or s.main_cable for s in design.subarrays.values()) or not design.subarrays:
        shares.append(("; DC wiring at rated power ", "dc_wiring", "DC wiring at rated power"))
    if not all(i.cable for i in design.inverters.values()) or not design.inverters:
        shares.append(("; AC wiring at rated power ", "ac_wiring", "AC wiring at rated power"))
    return shares
