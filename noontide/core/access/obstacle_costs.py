"""What each object of the scene that casts shade costs in a year."""

from collections.abc import Callable
from dataclasses import dataclass

from noontide.core.design import Design, merge_patch
from noontide.core.design.standing import kinds_of_objects, objects_that_cast, with_what_stands_on
from noontide.core.simulation import Libraries

MOST_OBSTACLES = 40  # that are ranked at once
Report = Callable[[int, int], None]


class ShadeReplaced(ValueError):
    """Shade given by hand stands in for the scene, so that no object of it costs anything."""


@dataclass(frozen=True)
class ObstacleCost:
    """An object of the scene, and the energy that a year would have more without it [kWh]."""

    id: str
    kind: str
    name: str
    energy: float


@dataclass(frozen=True)
class ObstacleCosts:
    """Energy of the year as it is [kWh], and the objects, the one that costs most first."""

    energy: float
    obstacles: list[ObstacleCost]


def obstacle_costs(design: Design, libraries: Libraries, report: Report | None = None) -> ObstacleCosts:
    """The year without each object of the scene that casts shade; buildings that carry modules are not asked.

    Parameters
    ----------
    report : function, optional
        Told how many of how many years are simulated.

    Raises
    ------
    ShadeReplaced
        If shade was given by hand for every surface.
    IncompleteDesign, UnknownPart, ImpossibleAdjustment
        As `simulate`.
    """
    if (words := what_replaces(design)) is not None:
        raise ShadeReplaced(words)
    document, kind_of = design.as_kept(), kinds_of_objects(design)
    before = libraries.year_of(design).annual.energy
    casting = objects_that_cast(design)[:MOST_OBSTACLES]
    found = []
    for done, key in enumerate(casting, start=1):
        alone = Design.read(merge_patch(document, {"scene": with_what_stands_on(design, [key])}))
        kind = kind_of[key]
        name = getattr(design.scene, kind)[key].name or kind.removesuffix("s").capitalize()
        found.append(ObstacleCost(key, kind, name, libraries.year_of(alone).annual.energy - before))
        if report is not None:
            report(done, len(casting))
    return ObstacleCosts(before, sorted(found, key=lambda one: -one.energy))


def what_replaces(design: Design) -> str | None:
    """That shade was given by hand for every surface, in words; none where the scene is calculated."""
    if design.site.shade_factor is not None:
        given = f"a shade factor of {design.site.shade_factor.factor:g}"
    else:
        on_scene = [surface for surface in design.surfaces.values() if surface.face is not None]
        if design.site.shade_table is None and not (on_scene and all(s.shade_table is not None for s in on_scene)):
            return None
        given = "measured solar access"
    return f"The year counts {given} in place of the scene, so that no object of it costs anything. Remove it on Sky to see what each does."
