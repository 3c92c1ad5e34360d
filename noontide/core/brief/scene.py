"""The paragraph of the scene: buildings with what stands on and beside them, trees, neighbours."""

import math
from collections import Counter

from noontide.core.angles import wind
from noontide.core.brief.runs import Run, count_of, link_run, listed, text_run, value_run
from noontide.core.design.document import Design
from noontide.core.scene.document import Building, Round, Scene, Standing, Tree
from noontide.core.scene.placing import place_of
from noontide.core.scene.words import ROOF_WORDS, roof_of_building

MOST_TOLD = 4  # buildings, and things beside them, that are told one by one
NOUNS = {
    "chimneys": "chimney", "pipes": "pipe", "skylights": "skylight", "boxes": "box", "silos": "silo", "walls": "wall",
    "poles": "pole", "carports": "carport", "grounds": "ground", "trees": "tree", "meshes": "body",
}  # fmt: skip
PLURALS = {"box": "boxes", "body": "bodies"}


def scene_runs(design: Design) -> list[Run]:
    """What stands there, in sentences whose numbers can be edited."""
    scene = design.scene
    if scene.is_empty:
        return [link_run("No scene. Draw the building…", "scene")]
    own = {key: b for key, b in scene.buildings.items() if not b.is_neighbour}
    neighbours = len(scene.buildings) - len(own)
    runs: list[Run] = []
    for key in list(own)[:MOST_TOLD]:
        runs += _building(scene, key, own[key])
    if len(own) > MOST_TOLD:
        runs.append(text_run(f"{count_of(len(own) - MOST_TOLD, 'more building')}. "))
    runs += _around(scene, own)
    if neighbours:
        runs.append(text_run(f"{count_of(neighbours, 'neighbour')}. ".capitalize()))
    if scene.years_ahead:
        runs += [text_run("Trees as in "), value_run("/scene/years_ahead", scene.years_ahead, "Years of growth"), text_run(".")]
    return runs


def _building(scene: Scene, key: str, building: Building) -> list[Run]:
    name, at = building.name or "Building", f"/scene/buildings/{key}"
    runs = [link_run(name, "scene", thing=key)]
    if building.outline is None:
        runs += [
            text_run(", "), value_run(f"{at}/length", building.length, f"Length of {name}"), text_run(" x "),
            value_run(f"{at}/width", building.width, f"Width of {name}"),
        ]  # fmt: skip
    else:
        runs.append(text_run(f", {len(building.outline)} corners"))
    kind = roof_of_building(building)
    roof = getattr(building, kind)
    runs.append(text_run(f", {ROOF_WORDS[kind]}"))
    if roof is not None and hasattr(roof, "pitch"):
        runs += [text_run(" at "), value_run(f"{at}/{kind}/pitch", roof.pitch, f"Pitch of {name}")]
    runs += [
        text_run(", eave "), value_run(f"{at}/eave", building.eave, f"Eave of {name}"), text_run(", front azimuth "),
        value_run(f"{at}/azimuth", building.azimuth, f"Azimuth of the front of {name}"),
    ]  # fmt: skip
    on_it = Counter(NOUNS[kind] for kind in NOUNS for thing in getattr(scene, kind).values() if thing.on == key) + Counter(
        {"dormer": len(building.dormers)} if building.dormers else {}
    )
    if on_it:
        runs.append(text_run(f", with {listed([_some(count, noun) for noun, count in on_it.items()])}"))
    return [*runs, text_run(". ")]


def _some(count: int, noun: str) -> str:
    return f"a {noun}" if count == 1 else f"{count} {PLURALS.get(noun, noun + 's')}"


def _around(scene: Scene, own: dict[str, Building]) -> list[Run]:
    """Silos, trees and all else that stands on the ground, the nearest building named."""
    things = [(kind, key, thing) for kind in NOUNS for key, thing in getattr(scene, kind).items() if thing.on is None]
    runs: list[Run] = []
    for kind, key, thing in things[:MOST_TOLD]:
        name, at = thing.name or NOUNS[kind].capitalize(), f"/scene/{kind}/{key}"
        runs.append(link_run(name, "scene", thing=key))
        if isinstance(thing, Round | Tree):
            runs += [text_run(", "), value_run(f"{at}/diameter", thing.diameter, f"Diameter of {name}"), text_run(" across")]
        if hasattr(thing, "height"):
            runs += [text_run(", "), value_run(f"{at}/height", thing.height, f"Height of {name}"), text_run(" high")]
        runs.append(text_run(f"{_off(scene, thing, own)}. "))
    rest = Counter(NOUNS[kind] for kind, _, _ in things[MOST_TOLD:])
    if rest:
        runs.append(text_run(f"Also {listed([_some(count, noun) for noun, count in rest.items()])}. "))
    return runs


def _off(scene: Scene, thing: Standing, own: dict[str, Building]) -> str:
    """How far it stands from the nearest building, and on which side."""
    if not own:
        return ""
    place = place_of(thing, scene)
    found = []
    for building in own.values():
        corners = place_of(building, scene).out_of(building.corners)
        gap, (x, y) = _gap(corners.tolist(), place.x, place.y)
        found.append((gap, math.degrees(math.atan2(place.x - x, place.y - y)) % 360, building.name or "the building"))
    gap, azimuth, name = min(found)
    if gap < 0.05:
        return ""
    return f", {gap:.1f} m {wind(azimuth)} of {name}"


def _gap(corners: list[list[float]], x: float, y: float) -> tuple[float, tuple[float, float]]:
    """Distance of a point from an outline, and the outline's nearest point."""
    best = (math.inf, (0.0, 0.0))
    for (ax, ay), (bx, by) in zip(corners, corners[1:] + corners[:1], strict=True):
        length = (bx - ax) ** 2 + (by - ay) ** 2
        part = max(0.0, min(1.0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length)) if length else 0.0
        near = (ax + part * (bx - ax), ay + part * (by - ay))
        best = min(best, (math.hypot(x - near[0], y - near[1]), near))
    return best
