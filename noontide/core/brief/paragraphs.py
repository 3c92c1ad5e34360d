"""The Brief as data: paragraphs of runs of text, values with their pointer, choices, parts, figures and links.

The browser draws them, a report sets them, a comparison diffs them. Things that are the same in many places fold into one
sentence, so that two hundred surfaces read like two.
"""

from collections import defaultdict
from collections.abc import Callable, Iterable
from typing import Any, Literal

from pydantic import BaseModel

from noontide.core.calendar import MONTHS
from noontide.core.design.circuits import SubArray
from noontide.core.design.document import Design, Surface
from noontide.core.simulation.results import Results

FOLD_FROM = 5  # of a kind, from which on things are told together
MOST_GROUPS = 4
COMPASS = ("north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west")
POINTS = ("N", "NNE", "NE", "ENE", "E", "ESE", "SE", "SSE", "S", "SSW", "SW", "WSW", "W", "WNW", "NW", "NNW")


class Run(BaseModel):
    """A piece of a paragraph."""

    kind: Literal["text", "value", "words", "choice", "part", "figure", "link"]
    text: str = ""  # as it reads; of a value the number as it stands in the design
    pointer: str = ""  # of a value, a choice or a part
    pointers: list[str] = []  # of a part that is used in several places
    label: str = ""  # for a screen reader
    part: Literal["", "module", "inverter"] = ""
    figure: str = ""  # key of the figure or working that it opens
    bench: str = ""
    surface: str = ""  # that a link picks


class Paragraph(BaseModel):
    """One paragraph of the Brief, for one bench."""

    bench: Literal["site", "weather", "sky", "surfaces", "circuits", "losses"]
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
        Paragraph(bench="surfaces", runs=_surfaces(design)),
        Paragraph(bench="circuits", runs=_circuits(design, results)),
        Paragraph(bench="losses", runs=_losses(design)),
    ]


def orientation_words(azimuth: float) -> str:
    """An azimuth in words: `S 12° W`, from the nearer of north and south."""
    a = azimuth % 360
    from_north = min(a, 360 - a) <= 90
    pole = "N" if from_north else "S"
    off = min(a, 360 - a) if from_north else abs(a - 180)
    if off < 0.05:
        return pole
    side = "E" if a < 180 else "W"
    return side if abs(off - 90) < 0.05 else f"{pole} {off:g}° {side}"


def _text(text: str) -> Run:
    return Run(kind="text", text=text)


def _value(pointer: str, value: float, label: str) -> Run:
    return Run(kind="value", text=f"{value:g}", pointer=pointer, label=label)


def _link(text: str, bench: str, surface: str = "") -> Run:
    return Run(kind="link", text=text, bench=bench, surface=surface)


def _site(design: Design) -> list[Run]:
    site = design.site
    place = f"{abs(site.latitude):.2f}° {'N' if site.latitude >= 0 else 'S'}, {abs(site.longitude):.2f}° {'E' if site.longitude >= 0 else 'W'}"
    return [
        _text(f"{site.name or 'A site'} at "),
        _link(place, "site"),
        _text(", elevation "),
        _value("/site/elevation", site.elevation, "Elevation of the site"),
        _text("."),
    ]


def _sky(design: Design, results: Results | None) -> list[Run]:
    """Horizon and obstacles, or the shade that stands in their place."""
    site = design.site
    lost = -results.cascade["horizon"].share if results else 0.0
    blocks = Run(kind="figure", text=f"{lost * 100:.1f} %", figure="loss_horizon")
    by_hand = site.shade_factor or site.shade_table
    if by_hand:
        how = "measured on site" if by_hand.is_measured else "estimated from afar"
        if site.shade_factor:
            factor = _value("/site/shade_factor/factor", site.shade_factor.factor, "Shade factor")
            return [
                _text("A "),
                _link("shade factor", "sky"),
                _text(" of "),
                factor,
                _text(f", {how}, in place of horizon and obstacles."),
            ]
        runs = [_text("A "), _link("table of solar access", "sky"), _text(f", {how}, in place of horizon and obstacles")]
        return [*runs, _text("; it takes "), blocks, _text(" of the light.")] if results else [*runs, _text(".")]
    top = max(site.horizon, key=lambda p: p.elevation, default=None)
    runs = []
    if top is not None and top.elevation > 0:
        runs = [
            _text("The "),
            _link("horizon", "sky"),
            _text(f" rises to {top.elevation:g}° in the {COMPASS[round(top.azimuth / 45) % 8]}"),
        ]
    if site.obstacles:
        names = [obstacle.name or key for key, obstacle in site.obstacles.items()]
        shown = _listed(names) if len(names) < FOLD_FROM else f"{len(names)} obstacles"
        runs += [_text("; in front of it: " if runs else "In front of the sky: "), _link(shown, "sky")]
    if not runs:
        return [_text("No "), _link("horizon", "sky"), _text(" obstructions.")]
    if results is None:
        return [*runs, _text(".")]
    return [*runs, _text(". Together they block " if site.obstacles else " and blocks "), blocks, _text(" of the light.")]


_ADJUSTED = {
    "gap_filling": "marked values filled",
    "height_correction": "corrected to the site's elevation",
    "monthly_factors": "irradiance scaled by month",
    "calibration": "calibrated by month",
    "warmer_climate": "a warmer climate",
}


def _weather(design: Design, results: Results | None, weather: Weather | None) -> list[Run]:
    if weather is None:
        return [_link("Choose a weather year…", "weather")]
    span = f"{weather['lowest']:.0f}\u00a0°C to {weather['highest']:.0f}\u00a0°C".replace("-", "\u2212")
    steps = [words for key, words in _ADJUSTED.items() if (step := getattr(design.weather, key, None)) is not None and step.is_on]
    annual = results.annual.horizontal_irradiation if steps and results is not None else weather["annual_ghi"]
    return [
        _link(weather["title"], "weather"),
        _text(f": {annual:,.0f}\u00a0kWh/m² a year on the horizontal, {span}{f'; adjusted: {_listed(steps)}' if steps else ''}."),
    ]


def _surfaces(design: Design) -> list[Run]:
    if not design.surfaces:
        return [_link("Add a surface…", "surfaces")]
    modules: dict[str, int] = defaultdict(int)
    for s in design.subarrays.values():
        modules[s.surface] += s.modules_per_string * s.strings * design.inverters[s.inverter].count
    if len(design.surfaces) >= FOLD_FROM:
        return _folded_surfaces(design.surfaces, modules)
    runs: list[Run] = []
    for key, surface in design.surfaces.items():
        name, count = surface.name or key, modules[key]
        runs += [
            _text("On the " if count else "The "),
            _link(name, "surfaces", key),
            _text(" ("),
            *_stance(key, surface, name),
        ]
        if surface.rows:
            runs += [
                _text(", rows "),
                _value(f"/surfaces/{key}/rows/pitch", surface.rows.pitch, f"Row pitch of {name}"),
                _text(" apart"),
            ]
        runs.append(_text(f") {_count(count, 'module')}. " if count else ") has no modules yet. "))
    return runs


def _stance(key: str, surface: Surface, name: str) -> list[Run]:
    """How a surface stands or moves."""
    at = f"/surfaces/{key}"
    azimuth = [
        _value(f"{at}/azimuth", surface.azimuth, f"Azimuth of {name}"),
        Run(kind="words", text=orientation_words(surface.azimuth), pointer=f"{at}/azimuth"),
    ]
    if turns := surface.tracking:
        up_to = _value(f"{at}/tracking/maximum", turns.maximum, f"Maximum rotation of {name}")
        runs = [_text(f"turning about {axis_words(turns.axis_azimuth)}")]
        if turns.axis_tilt:
            runs += [_text(" tilted "), _value(f"{at}/tracking/axis_tilt", turns.axis_tilt, f"Axis tilt of {name}")]
        runs += [_text(" up to ±"), up_to]
        return [*runs, _text(", backtracking")] if turns.backtracking and surface.rows else runs
    if faces := surface.two_axis_tracking:
        up_to = _value(f"{at}/two_axis_tracking/maximum_tilt", faces.maximum_tilt, f"Maximum tilt of {name}")
        return [_text("following the sun on two axes, tilt up to "), up_to]
    if seasonal := surface.seasonal_tilt:
        runs = [_text("tilted by hand: ")]
        changes = sorted(seasonal.changes.items(), key=lambda item: (item[1].month, item[1].day))
        for i, (change, to) in enumerate(changes):
            tilt = _value(
                f"{at}/seasonal_tilt/changes/{change}/tilt", to.tilt, f"Tilt of {name} from {to.day} {MONTHS[to.month - 1]}"
            )
            runs += [_text(", " if i else ""), tilt, _text(f" from {to.day} {MONTHS[to.month - 1]}")]
        return [*runs, _text("; azimuth "), *azimuth]
    return [_text("tilt "), _value(f"{at}/tilt", surface.tilt, f"Tilt of {name}"), _text(", azimuth "), *azimuth]


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
        runs += [_link(first, "surfaces", keys[0]), _text(f"{words}{_carried(modules, keys)}. ")]
    others = [key for _, keys in largest[len(shown) :] for key in keys]
    if others:
        words = f", {_tilt_span(surfaces, others)}, of other orientations: {_carried(modules, others)}. "
        runs += [_link(f"{len(others)} more surfaces", "surfaces"), _text(words)]
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
    tilts = [surfaces[key].tilt for key in keys]
    return f"{min(tilts):g}°" if min(tilts) == max(tilts) else f"{min(tilts):g}° to {max(tilts):g}°"


def _carried(modules: dict[str, int], keys: list[str]) -> str:
    count = sum(modules[key] for key in keys)
    return _count(count, "module") if count else "no modules yet"


def _circuits(design: Design, results: Results | None) -> list[Run]:
    if not design.inverters:
        return [_link("Add an inverter and strings…", "circuits")]
    strings: dict[str, list[tuple[str, SubArray]]] = defaultdict(list)
    for key, subarray in design.subarrays.items():
        strings[subarray.inverter].append((key, subarray))
    runs: list[Run] = []
    for members in _alike(design.inverters, lambda key: _inverter_kind(design, key, strings[key])):
        runs += _inverters(design, members, strings)
    if results is not None:
        runs += [
            _text("DC/AC ratio "),
            Run(kind="figure", text=f"{results.annual.dc_ac_ratio:.2f}", figure="dc_ac_ratio"),
            _text("."),
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
        else f"The modules of {_count(len(with_one), 'sub-array')} have"
    )
    return [_text(f" {which} an optimiser "), _link(_listed(names), "circuits"), _text(".")]


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
    runs = [_text(" "), _link(_sentence(_listed(words)), "circuits")] if words else []
    if main is not None:
        runs += [
            _text("; AC main of " if words else " AC main of "),
            _value("/connection/cable/length", main.length, "Length of the AC main cable"),
        ]
    return [*runs, _text(".")]


def _connection(design: Design) -> list[Run]:
    """What the grid asks beyond taking all of it at a power factor of 1."""
    connection, runs = design.connection, []
    if connection.transformer is not None:
        part = design.parts.transformers.get(connection.transformer)
        name = f"{part.maker} {part.name}" if part else connection.transformer
        runs += [_text(" Transformer "), _link(name, "circuits"), _text(".")]
    if connection.power_factor < 1:
        runs += [_text(" Power factor "), _value("/connection/power_factor", connection.power_factor, "Power factor"), _text(".")]
    if connection.export_limit is not None:
        runs += [
            _text(" Export is limited to "),
            _value("/connection/export_limit", connection.export_limit, "Export limit"),
            _text("."),
        ]
    if design.wiring.own_rules is not None or design.wiring.rules != "iec":
        title = design.wiring.own_rules.title if design.wiring.own_rules else "125 % of NFPA 70"
        runs += [_text(" Rules: "), _link(title, "circuits"), _text(".")]
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
    return unit.model, unit.count, tuple(sorted((s.tracker, s.strings, s.modules_per_string, s.module) for _, s in strings))


def _inverters(design: Design, members: list[str], strings: dict[str, list[tuple[str, SubArray]]]) -> list[Run]:
    """A sentence about one inverter set, or about several that are wired identically."""
    first = members[0]
    number = list(design.inverters).index(first) + 1
    unit, mine = design.inverters[first], sorted(strings[first], key=lambda pair: pair[1].tracker)
    runs: list[Run] = []
    if len(members) > 1:
        runs.append(_text(f"{len(members)} × "))
    elif unit.count > 1:
        runs += [_value(f"/inverters/{first}/count", unit.count, f"Number of inverters {number}"), _text(" ")]
    runs.append(
        Run(
            kind="part",
            part="inverter",
            text=unit.model,
            pointer=f"/inverters/{first}/model",
            pointers=[f"/inverters/{key}/model" for key in members],
            label=f"Inverter {number}",
        )
    )
    several = unit.count > 1 or len(members) > 1
    runs.append(_text(" each take " if several else " takes "))
    if not mine:
        return [*runs, _text("no strings yet. ")]
    if len(members) > 1 or len(mine) >= FOLD_FROM:
        # Wired identically: told once, edited on the bench.
        shapes: dict[tuple[int, int], int] = defaultdict(int)
        for _, s in mine:
            shapes[s.strings, s.modules_per_string] += 1
        words = [
            f"{trackers} × {_count(n, 'string')} of {length}" if trackers > 1 else f"{_count(n, 'string')} of {length}"
            for (n, length), trackers in shapes.items()
        ]
        runs.append(_link(_listed(words), "circuits"))
    else:
        for i, (key, s) in enumerate(mine):
            runs += [
                _text("" if i == 0 else " and " if i == len(mine) - 1 else ", "),
                _value(f"/subarrays/{key}/strings", s.strings, f"Parallel strings of {key}"),
                _text(" strings of " if s.strings > 1 else " string of "),
                _value(f"/subarrays/{key}/modules_per_string", s.modules_per_string, f"Modules per string of {key}"),
            ]
    own = [f"/subarrays/{key}/module" for member in members for key, _ in strings[member]]
    module = mine[0][1].module
    return [
        *runs,
        _text(" "),
        Run(kind="part", part="module", text=module, pointer=own[0], pointers=own, label=f"Module on inverter {number}"),
        _text(". "),
    ]


def _losses(design: Design) -> list[Run]:
    losses, models = design.losses, design.models
    monthly = losses.soiling_by_month
    soiling = (
        Run(kind="figure", text=f"{min(monthly):g} to {max(monthly):g} % by month", figure="loss_soiling")
        if monthly
        else _value("/losses/soiling", losses.soiling, "Soiling")
    )
    runs = [_text("Soiling "), soiling]
    for lead, field, label in (
        (", mismatch ", "mismatch", "Mismatch"),
        (", power tolerance ", "quality", "Power tolerance"),
        (", light-induced degradation ", "light_induced", "Light-induced degradation"),
        (", degradation ", "degradation", "Degradation a year"),
        (" a year in year ", "year_of_operation", "Year of operation"),
        *_wiring_shares(design),
        ("; unavailability ", "unavailability", "Unavailability"),
    ):
        runs += [_text(lead), _value(f"/losses/{field}", getattr(losses, field), label)]
    for lead, field, label in (
        (". Sky model ", "transposition", "Sky model"),
        ("; IAM ", "incidence", "Incidence angle modifier (IAM)"),
        ("; cell temperature ", "temperature", "Cell temperature model"),
    ):
        runs += [_text(lead), Run(kind="choice", text=getattr(models, field), pointer=f"/models/{field}", label=label)]
    return [*runs, _text(".")]


def _wiring_shares(design: Design) -> list[tuple[str, str, str]]:
    """The shares that stand for cables without a length; none where all have one."""
    shares = []
    if not all(s.cable or s.main_cable for s in design.subarrays.values()) or not design.subarrays:
        shares.append(("; DC wiring at rated power ", "dc_wiring", "DC wiring at rated power"))
    if not all(i.cable for i in design.inverters.values()) or not design.inverters:
        shares.append(("; AC wiring at rated power ", "ac_wiring", "AC wiring at rated power"))
    return shares


def _count(number: int, noun: str) -> str:
    return f"{number:,} {noun}{'' if number == 1 else 's'}"


def _listed(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"
