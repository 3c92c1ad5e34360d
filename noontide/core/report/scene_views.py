"""Views of the scene on paper: bodies from where the eye stands, modules in the colours of what they receive, with the scale."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np
import shapely
from numpy.typing import NDArray

from noontide.core.access.solar_access import FaceAccess
from noontide.core.calendar import MONTHS, Calendar
from noontide.core.design import Design
from noontide.core.design.kept_view import KeptView
from noontide.core.drawing import Polyline, Sheet
from noontide.core.drawing.ramp import ramp
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.plan.layouts import plans_of

Floats = NDArray[np.float64]
FROM_ABOVE = 38.0  # elevation of the eye [°]
ASIDE = 35.0  # from the equator's side, at which ridges and ends are both seen [°]
SEASONS: dict[str, tuple[int, ...]] = {"Year": tuple(range(12)), "November to January": (10, 11, 0), "May to July": (4, 5, 6)}
MOST_MODULES = 4_000  # that are drawn one by one
DARK, PALE = np.array([201, 194, 178]), np.array([246, 242, 233])  # of walls away from the eye, and towards it
HIGHEST_LOW = 0.9
PLAIN = "#46535e"  # of modules that show the building alone
LIFTED = 0.01  # m towards the eye
LEAF = "#a9b79b"


@dataclass(frozen=True)
class _Shape:
    """A polygon on paper before it is scaled, with its distance from the eye."""

    points: Floats  # (n, 2)
    depth: float
    fill: str
    weight: float


@dataclass(frozen=True)
class Colours:
    """Of the modules of every surface, with what the ends of the ramp are; no ends where nothing is measured."""

    by_surface: Mapping[str, Sequence[str]]
    ends: tuple[str, str] | None = None


def usual_eye(latitude: float) -> tuple[float, float]:
    """Azimuth and elevation of the eye [°] where nobody chose: from the side of the equator."""
    return (180.0 if latitude >= 0 else 0.0) + ASIDE, FROM_ABOVE


def scene_view(
    design: Design, parts: Catalogue, colours: Colours, from_where: tuple[float, float],
    sheet: Sheet, x: float, y: float, width: float, height: float,
) -> None:  # fmt: skip
    """The scene as an eye far away sees it, from an azimuth and an elevation [°]."""
    turn, up = np.radians(from_where)
    eye = np.array([np.cos(up) * np.sin(turn), np.cos(up) * np.cos(turn), np.sin(up)])
    right = np.array([-np.cos(turn), np.sin(turn), 0.0])
    axes = np.stack([right, np.cross(eye, right)])
    shapes = [*_bodies(design, axes, eye), *_modules(design, parts, colours, axes, eye)]
    if not shapes:
        return
    every = np.concatenate([shape.points for shape in shapes])
    least, most = every.min(axis=0), every.max(axis=0)
    scale = min(width / max(most[0] - least[0], 1e-6), height / max(most[1] - least[1], 1e-6))
    middle = (least + most) / 2
    for shape in sorted(shapes, key=lambda shape: shape.depth):
        at = (shape.points - middle) * [scale, -scale] + [x + width / 2, y + height / 2]
        sheet.marks.append(Polyline(tuple((float(a), float(b)) for a, b in at), shape.weight, True, tone="soft", fill=shape.fill))


def least_access(found: Sequence[FaceAccess]) -> float:
    """The lower end of the scale: under the least of any season, in steps of a twentieth, and never so near its upper end that little seems much."""
    return _low(_share(one, months) for one in found for months in SEASONS.values())


def colours_of_access(found: Sequence[FaceAccess], months: Sequence[int], low: float) -> Colours:
    """What the modules receive in some months of what they would without shade; the ramp begins at `low`."""
    return _on_ramp({one.surface_id or "": _share(one, months) for one in found}, low)


def intervals_of(span: tuple[int, int], calendar: Calendar) -> tuple[int, int]:
    """The first and the last interval of a year that lie between two of its minutes."""
    last = calendar.intervals - 1
    return min(span[0] // calendar.step, last), min((span[1] - 1) // calendar.step, last)


def colours_of_view(found: Sequence[FaceAccess], view: KeptView) -> Colours:
    """The colours that a view shows; `found` knows its span where it has one."""
    months = range(12) if view.month is None else (view.month - 1,)
    light = {one.surface_id or "": _light(one, months, view.span is not None) for one in found}
    if view.quantity == "as built":
        return Colours({key: [PLAIN] * received.size for key, (received, _) in light.items()})
    if view.quantity == "irradiation":
        high = max((free for _, free in light.values()), default=0.0)
        shades = {key: ramp(received / high if high > 0 else received) for key, (received, _) in light.items()}
        return Colours(shades, ("0", f"{high:,.{3 if high < 10 else 0}f} kWh/m²"))
    shares = {}
    for one in found:
        received, free = light[one.surface_id or ""]
        share = received / free if free > 0 else np.ones(received.size)
        factor = 1.0 if view.quantity == "solar access" else one.orientation
        shares[one.surface_id or ""] = np.full(received.size, factor) if view.quantity == "orientation" else share * factor
    return _on_ramp(shares, _low(shares.values()))


def words_of(view: KeptView, calendar: Calendar) -> str:
    """What a view shows, and when."""
    if view.quantity == "as built":
        return "As built."
    when = "the year"
    if view.month is not None:
        when = MONTHS[view.month - 1]
    elif view.span is not None:
        begin = datetime(calendar.year, 1, 1)
        ends = (begin + timedelta(minutes=minute) for minute in view.span)
        when = " to ".join(f"{at.day} {MONTHS[at.month - 1]} {at:%H:%M}" for at in ends)
    return f"{view.quantity.capitalize()}: {when}." if view.quantity != "orientation" else "Orientation."


def scale_of(colours: Colours, sheet: Sheet, x: float, y: float, width: float) -> None:
    """The colours with what they mean."""
    if colours.ends is None:
        return
    steps = 40
    for k, colour in enumerate(ramp(np.linspace(0, 1, steps))):
        left = x + k * width / steps
        corners = ((left, y), (left + width / steps, y), (left + width / steps, y + 2.4), (left, y + 2.4))
        sheet.marks.append(Polyline(corners, 0.01, True, tone="soft", fill=colour))
    sheet.text(x, y + 6, colours.ends[0], 2.4, tone="soft")
    sheet.text(x + width, y + 6, colours.ends[1], 2.4, "end", tone="soft")


def _light(one: FaceAccess, months: Sequence[int], is_span: bool) -> tuple[Floats, float]:
    """What every module receives, and would without shade [kWh/m2], in some months or in the span that was asked for."""
    if is_span and one.during is not None:
        return one.during.received, one.during.free
    return one.access.received[list(months)].sum(axis=0), float(one.access.free[list(months)].sum())


def _share(one: FaceAccess, months: Sequence[int]) -> Floats:
    received, free = _light(one, months, False)
    return received / free if free > 0 else np.ones(received.size)


def _low(shares: Iterable[Floats]) -> float:
    return float(np.floor(min([*(one.min() for one in shares if one.size), HIGHEST_LOW]) * 20) / 20)


def _on_ramp(shares: Mapping[str, Floats], low: float) -> Colours:
    shades = {key: ramp((share - low) / max(1 - low, 1e-9)) for key, share in shares.items()}
    return Colours(shades, (f"{100 * low:.0f} %", "100 %"))


def _bodies(design: Design, axes: Floats, eye: Floats) -> list[_Shape]:
    built = design.built_scene
    shapes = []
    roofs = [
        (shapely.Polygon(face.outline[:, :2]), float((face.outline @ eye).mean())) for face in built.faces if face.kind == "roof"
    ]
    for face in built.faces:
        towards = float(face.normal @ eye)
        if towards <= 0 and face.kind != "ground":
            continue
        red, green, blue = np.round(DARK + (PALE - DARK) * max(towards, 0.0)).astype(int)
        depth = float((face.outline @ eye).mean()) - (1e6 if face.kind == "ground" else 0.0)
        if face.kind in ("side", "top"):
            # What stands on a roof is in front of it, however far up the slope.
            middle = shapely.Point(*face.outline[:, :2].mean(axis=0))
            under = [roof for outline, roof in roofs if outline.covers(middle)]
            depth = max([depth, *(roof + 2 * LIFTED + towards * 1e-3 for roof in under)])
        shapes.append(_Shape(face.outline @ axes.T, depth, f"#{red:02x}{green:02x}{blue:02x}", 0.15))
    solid = {face.solid for face in built.faces}
    for body in built.bodies:
        if body.id in solid or len(body.points) < 3:
            continue
        hull = shapely.convex_hull(shapely.MultiPoint(body.points @ axes.T))
        if isinstance(hull, shapely.Polygon):
            points = np.array(hull.exterior.coords)[:-1]
            shapes.append(_Shape(points, float((body.points @ eye).mean()), LEAF if body.kind == "trees" else "#d8d0bf", 0.15))
    return shapes


def _modules(design: Design, parts: Catalogue, colours: Colours, axes: Floats, eye: Floats) -> list[_Shape]:
    plans = plans_of(design, parts)
    shapes: list[_Shape] = []
    for surface, shades in colours.by_surface.items():
        plan = plans.get(surface)
        if plan is None or len(plan.ids) != len(shades) or len(shapes) + len(shades) > MOST_MODULES:
            continue
        for key, colour in zip(plan.ids, shades, strict=True):
            corners = plan.corners(key)
            # Modules lie on their face: never behind it, and those in front over those behind.
            depth = max(float((corners @ eye).mean()), float((plan.face.outline @ eye).mean())) + LIFTED
            shapes.append(_Shape(corners @ axes.T, depth, colour, 0.06))
    return shapes
