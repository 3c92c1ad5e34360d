"""Rows of trackers that stand on a face of the scene: as far apart, as wide and as many as on the plan."""

from dataclasses import replace

import numpy as np

from noontide.core.design import Design
from noontide.core.design.surface import Rows, Surface
from noontide.core.electrical.datasheets import Module
from noontide.core.plan import FaceModules
from noontide.core.plan.layouts import plans_with
from noontide.core.simulation.plant import Plant

LEAST_PITCH = 1.01  # of a row's width, however close modules were laid by hand


def with_tracker_rows(design: Design, plant: Plant) -> Plant:
    """The plant, its surfaces that turn on a face of the scene with the rows of their plan."""
    turning = {
        key: plant.modules[plant.surface_of.tolist().index(s)]
        for s, (key, surface) in enumerate(zip(plant.surface_ids, plant.surfaces, strict=True))
        if surface.face is not None and surface.tracking is not None
    }
    if not turning:
        return plant
    plans = plans_with(design, turning)
    surfaces = [
        _in_rows(surface, plans[key], turning[key]) if key in turning and key in plans else surface
        for key, surface in zip(plant.surface_ids, plant.surfaces, strict=True)
    ]
    return replace(plant, surfaces=tuple(surfaces))


def _in_rows(surface: Surface, plan: FaceModules, module: Module) -> Surface:
    """The surface with its rows as they lie, and where there is none yet as the layout would lay them."""
    lying = [plan.placed[key] for key in plan.ids]
    is_landscape = lying[0].is_landscape if lying else plan.layout.orientation != "portrait"
    width = module.width if is_landscape else module.length
    places = np.unique([round(place.v, 3) for place in lying])
    along = float(np.median(np.diff(places))) if places.size > 1 else plan.row_pitch or width
    # Rows lie along the ground; their pitch is measured level.
    slope = surface.tracking.slope if surface.tracking is not None else 0.0
    pitch = max(along, width * LEAST_PITCH) * float(np.cos(np.radians(slope)))
    groups = module.bypass_diodes if is_landscape else 1  # portrait: shading the lowest cells limits the whole string
    count = int(places.size) or Rows.model_fields["count"].default
    found = Rows.model_construct(pitch=pitch, width=width, count=count, cell_groups=groups)
    return surface.model_copy(update={"rows": found})
