"""Checks of the sky's obstacles against the array and the scene: counted twice, or too near for one horizon."""

import math
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from noontide.core.checks.finding import Check, Remedy
from noontide.core.design.document import Design
from noontide.core.design.site import SkyObstacle
from noontide.core.scene import Body
from noontide.core.scene.document import Box, Tree
from noontide.core.simulation.results import Results

Floats = NDArray[np.float64]
SAME_AZIMUTH, SAME_DISTANCE, SAME_SHARE = 10.0, 3.0, 0.3  # [°], [m], of the distance and of the height: one object entered twice
DEPTH = 1.0  # of what was entered as a rectangle on the sky [m]


def check_obstacles(r: Results) -> Iterator[Check]:
    """Findings about obstacles of the sky that the scene has too, or that one horizon cannot describe."""
    site, design = r.design.site, r.design
    if site.shade_factor is not None or site.shade_table is not None:
        return
    middle = array_middle(design)
    across = site.array_across
    for key, obstacle in site.obstacles.items():
        name, at, distance = obstacle.name or key, f"/site/obstacles/{key}", obstacle.distance
        delete = Remedy("Delete it under Sky", {"site": {"obstacles": {key: None}}})
        twin = None if middle is None else _twin(design, obstacle, middle)
        if twin is not None:
            yield Check(
                "obstacle-twice", "caution", f"{name} is counted twice: under Sky and in the scene",
                f"{twin.name or name} of the scene stands in the same direction at the same distance. Delete one of them.", "sky", at, 2, 1, "",
                "Noontide rule: each object once", (delete,),
            )  # fmt: skip
            continue
        if distance is None:
            continue
        into = () if middle is None else _into_scene(design, key, obstacle, middle)
        cure = (
            "In the scene each module has its own shade."
            if middle is not None
            else "Place the surfaces on faces of the scene, where each module has its own shade."
        )
        if distance < across / 2:
            yield Check(
                "obstacle-within", "caution", f"{name} stands within the array",
                f"It is {distance:g} m from the middle of an array {across:,.0f} m across, and one horizon applies to all of it. {cure}", "sky",
                f"{at}/distance", distance, across / 2, "m", "Noontide rule: outside the array", into,
            )  # fmt: skip
        elif middle is not None and distance < site.near_limit:
            yield Check(
                "obstacle-near", "caution", f"{name} is too near for one horizon",
                f"It is {distance:g} m from the middle of the array; the view from the nearest part applies to all of it. {cure}", "sky",
                f"{at}/distance", distance, site.near_limit, "m", "Limit of near obstacles", into,
            )  # fmt: skip


def array_middle(design: Design) -> Floats | None:
    """Of the faces that carry surfaces, weighted by area: x, y, z [m]; None where no surface is on a face."""
    scene = design.built_scene
    faces = [face for s in design.surfaces.values() if s.face is not None and (face := scene.face(s.face)) is not None]
    if not faces:
        return None
    return np.average([face.outline.mean(axis=0) for face in faces], axis=0, weights=[max(face.area, 1e-9) for face in faces])


def _twin(design: Design, obstacle: SkyObstacle, middle: Floats) -> Body | None:
    """What of the scene is the same object, by azimuth, distance and height over the array."""
    seen = _measures(obstacle)
    if seen is None:
        return None
    azimuth, distance, width, height = seen
    wide = max(SAME_AZIMUTH, math.degrees(math.atan2(width / 2, distance)))
    scene = design.built_scene
    carrying = {face.solid for s in design.surfaces.values() if s.face and (face := scene.face(s.face))}
    for body in scene.bodies:
        if body.id in carrying:
            continue
        low, high = _extent(body)
        east, north = ((low + high) / 2 - middle)[:2]
        turn = (math.degrees(math.atan2(east, north)) - azimuth + 180) % 360 - 180
        rise = high[2] - middle[2]
        if (
            abs(turn) <= wide
            and abs(math.hypot(east, north) - distance) <= max(SAME_DISTANCE, SAME_SHARE * distance)
            and abs(rise - height) <= max(SAME_DISTANCE, SAME_SHARE * height)
        ):
            return body
    return None


def _measures(obstacle: SkyObstacle) -> tuple[float, float, float, float] | None:
    """Azimuth of its middle [°], distance, width and height over the array [m]; None where it is far."""
    if obstacle.distance is None:
        return None
    if not obstacle.outline:
        return obstacle.azimuth or 0.0, obstacle.distance, obstacle.width or 0.0, obstacle.height or 0.0
    turns = np.unwrap([p.azimuth for p in obstacle.outline], period=360)
    half = min(np.ptp(turns) / 2, 89.0)
    top = max(p.elevation for p in obstacle.outline)
    return (
        float((turns.max() + turns.min()) / 2 % 360),
        obstacle.distance,
        float(2 * obstacle.distance * np.tan(np.radians(half))),
        float(obstacle.distance * np.tan(np.radians(top))),
    )


def _extent(body: Body) -> tuple[Floats, Floats]:
    """Lowest and highest x, y, z of a body."""
    if body.ellipsoid is not None:
        x, y, z, level, upright = body.ellipsoid
        reach = np.array([level, level, upright])
        return np.array([x, y, z]) - reach, np.array([x, y, z]) + reach
    return body.points.min(axis=0), body.points.max(axis=0)


def _into_scene(design: Design, key: str, obstacle: SkyObstacle, middle: Floats) -> tuple[Remedy, ...]:
    """The act that takes an obstacle from the sky into the scene: what lets light through as a tree, what is opaque as a box."""
    seen = _measures(obstacle)
    if seen is None:
        return ()
    azimuth, distance, width, height = seen
    turn = math.radians(azimuth)
    new: dict = {
        "name": obstacle.name or "Obstacle",
        "x": round(float(middle[0]) + distance * math.sin(turn), 2),
        "y": round(float(middle[1]) + distance * math.cos(turn), 2),
        "height": round(height + float(middle[2]), 2),
    }
    light = obstacle.light_by_month or (obstacle.light,) * 12
    kind, model = ("trees", Tree) if any(light) else ("boxes", Box)
    if kind == "trees":
        new |= {"diameter": round(width, 2), "trunk": round(min(2.0, new["height"] / 3), 2)}
        new |= {"light_by_month": list(light)} if len(set(light)) > 1 else {"is_evergreen": True, "light_in_leaf": light[0]}
    else:
        new |= {"length": round(width, 2), "width": DEPTH, "azimuth": round((azimuth + 180) % 360, 1)}
    limits = model.model_json_schema()["properties"]
    if any(
        not limits[f].get("minimum", -math.inf) <= v <= limits[f].get("maximum", math.inf)
        for f, v in new.items()
        if isinstance(v, float)
    ):
        return ()
    place = key if key not in getattr(design.scene, kind) else f"{key}-sky"
    return (Remedy("Put it into the scene", {"site": {"obstacles": {key: None}}, "scene": {kind: {place: new}}}),)
