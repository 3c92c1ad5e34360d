"""What each obstacle of a scene takes from one module: how much, in which months and at which hours."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from noontide.core.access.solar_access import monthly_light, plane_of
from noontide.core.design.document import Design
from noontide.core.plan import FaceModules, groups_of, racks_beside
from noontide.core.simulation.cache import Kept, StageCache
from noontide.core.simulation.near_shade import NearInputs, cast_shadows
from noontide.core.simulation.sun_and_weather import SunAndWeather

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Taker:
    """Irradiation that a module would have more without an obstacle [kWh/m2]; where two shade it at once, neither has it alone."""

    id: str
    kind: str
    name: str
    by_month: Floats  # (12,)
    by_hour: Floats  # of the direct light, hours of the local clock, (24,)

    @property
    def annual(self) -> float:
        return float(self.by_month.sum())


def takers_of(
    design: Design, key: str, plans: Mapping[str, FaceModules], module: str, sky: Kept[SunAndWeather], cache: StageCache
) -> list[Taker]:
    """The obstacles that take light from a module, the one that takes most first.

    Parameters
    ----------
    key : str
        Of the surface.
    plans : mapping
        Of all surfaces.
    module : str
        Id of a module that counts.
    """
    surface, bodies, plan = design.surfaces[key], design.built_scene.bodies, plans[key]
    alone = plan.layout.holding({module: plan.placed[module]})
    targets = replace(groups_of(replace(plan, layout=alone)), rows=groups_of(plan, racks_beside(plans, key)).rows)
    plane = plane_of(design, surface, surface.tilt, surface.azimuth, sky, cache).value
    light = sky.value

    def received(some: tuple) -> tuple[Floats, Floats]:
        near = cast_shadows(NearInputs(sky, targets, some, design.site.horizon_line))
        beam = near.beam.mean(axis=1, dtype=float)
        direct = plane.direct * (beam if near.place is None else beam[near.place])
        by_hour = np.bincount(light.hours.astype(int) % 24, direct, 24) * light.hours_per_interval / 1000
        return monthly_light(light, plane, near).mean(axis=1), by_hour

    whole_month, whole_hour = received(bodies)
    found = []
    own = plan.face.solid
    for body in {body.id: body for body in bodies}.values():
        if body.id == own:
            continue
        month, hour = received(tuple(b for b in bodies if b.id != body.id))
        found.append(Taker(body.id, body.kind, body.name, month - whole_month, hour - whole_hour))
    return sorted((t for t in found if t.annual > 1e-3), key=lambda t: -t.annual)
