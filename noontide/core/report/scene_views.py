"""Views of the scene on paper: bodies from far above, modules in the colours of what they receive, with the scale."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from noontide.core.access.solar_access import FaceAccess
from noontide.core.design import Design
from noontide.core.drawing import Polyline, Sheet
from noontide.core.drawing.ramp import ramp
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.plan.layouts import plans_of

Floats = NDArray[np.float64]
FROM_ABOVE = np.radians(38.0)  # elevation of the eye
ASIDE = 35.0  # from the equator's side, at which ridges and ends are both seen [°]
SEASONS: dict[str, tuple[int, ...]] = {"Year": tuple(range(12)), "November to January": (10, 11, 0), "May to July": (4, 5, 6)}
MOST_MODULES = 4_000  # that are drawn one by one
DARK, PALE = np.array([201, 194, 178]), np.array([246, 242, 233])  # of walls away from the eye, and towards it
HIGHEST_LOW = 0.9
LIFTED = 0.01  # m towards the eye
LEAF = "#a9b79b"


@dataclass(frozen=True)
class _Shape:
    """A polygon on paper before it is scaled, with its distance from the eye."""

    points: Floats  # (n, 2)
    depth: float
    fill: str
    weight: float


def scene_view(
    design: Design, parts: Catalogue, found: Sequence[FaceAccess], months: Sequence[int], low: float,
    sheet: Sheet, x: float, y: float, width: float, height: float,
) -> None:  # fmt: skip
    """The scene from the equator's side; modules from `low` of the free irradiation of some months to all of it."""
    turn = np.radians((180.0 if design.site.latitude >= 0 else 0.0) + ASIDE)
    eye = np.array([np.cos(FROM_ABOVE) * np.sin(turn), np.cos(FROM_ABOVE) * np.cos(turn), np.sin(FROM_ABOVE)])
    right = np.array([-np.cos(turn), np.sin(turn), 0.0])
    axes = np.stack([right, np.cross(eye, right)])
    shapes = [*_bodies(design, axes, eye), *_modules(design, parts, found, months, low, axes, eye)]
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
    shares = [_shares(one, months).min() for one in found for months in SEASONS.values() if one.access.received.size]
    return float(np.floor(min([*shares, HIGHEST_LOW]) * 20) / 20)


def scale_of_access(low: float, sheet: Sheet, x: float, y: float, width: float) -> None:
    """The colours with what they mean."""
    steps = 40
    for k, colour in enumerate(ramp(np.linspace(0, 1, steps))):
        left = x + k * width / steps
        corners = ((left, y), (left + width / steps, y), (left + width / steps, y + 2.4), (left, y + 2.4))
        sheet.marks.append(Polyline(corners, 0.01, True, tone="soft", fill=colour))
    sheet.text(x, y + 6, f"{100 * low:.0f} %", 2.4, tone="soft")
    sheet.text(x + width, y + 6, "100 %", 2.4, "end", tone="soft")


def _shares(one: FaceAccess, months: Sequence[int]) -> Floats:
    """Of what would be received without shade, in some months, by module."""
    free = float(one.access.free[list(months)].sum())
    received = one.access.received[list(months)].sum(axis=0)
    return np.asarray(received / free) if free > 0 else np.ones(received.size)


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


def _modules(
    design: Design, parts: Catalogue, found: Sequence[FaceAccess], months: Sequence[int], low: float, axes: Floats, eye: Floats
) -> list[_Shape]:
    plans = plans_of(design, parts)
    shapes: list[_Shape] = []
    for one in found:
        plan = plans.get(one.surface_id or "")
        shares = _shares(one, months)
        if plan is None or len(plan.ids) != shares.size or len(shapes) + shares.size > MOST_MODULES:
            continue
        colours = ramp((shares - low) / max(1 - low, 1e-9))
        for key, colour in zip(plan.ids, colours, strict=True):
            corners = plan.corners(key)
            # Modules lie on their face: never behind it, and those in front over those behind.
            depth = max(float((corners @ eye).mean()), float((plan.face.outline @ eye).mean())) + LIFTED
            shapes.append(_Shape(corners @ axes.T, depth, colour, 0.06))
    return shapes
