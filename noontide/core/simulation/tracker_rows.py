"""Rows of trackers that stand on a face of the scene: as far apart, as wide and as many as on the plan."""

from dataclasses import replace

import numpy as np

from noontide.core.design import Design
from noontide.core.design.surface import Rows, Surface
from noontide.core.plan import FaceModules
from noontide.core.plan.layouts import plans_with
from noontide.core.simulation.plant import Plant

LEAST_PITCH = 1.01  # of a row's width, however close modules were laid by hand


def with_tracker_rows(design: Design, plant: Plant) -> Plant:
    """The plant, its surfaces that turn on a face of the scene with the rows of their plan."""
    surfaces = dict(zip(plant.surface_ids, plant.surfaces, strict=True))
    turning = {
        subarray.surface: module
        # Of several types on a surface the first counts, as on its plan.
        for subarray, module in reversed(list(zip(plant.subarrays, plant.modules, strict=True)))
        if surfaces[subarray.surface].face is not None and surfaces[subarray.surface].tracking is not None
    }
    if not turning:
        return plant
    for key, plan in plans_with(design, turning).items():
        surfaces[key] = _in_rows(surfaces[key], plan)
    return replace(plant, surfaces=tuple(surfaces.values()))


def _in_rows(surface: Surface, plan: FaceModules) -> Surface:
    """The surface with its rows as they lie, and where there is none yet as the layout would lay them."""
    lying = [plan.placed[key] for key in plan.ids]
    is_landscape = lying[0].is_landscape if lying else plan.layout.orientation != "portrait"
    width = plan.slant_on(is_landscape)
    places = np.unique([round(place.v, 3) for place in lying])
    along = float(np.median(np.diff(places))) if places.size > 1 else plan.row_pitch or width
    # Rows lie along the ground; their pitch is measured level.
    slope = surface.tracking.slope if surface.tracking is not None else 0.0
    pitch = max(along, width * LEAST_PITCH) * float(np.cos(np.radians(slope)))
    groups = plan.module.bypass_diodes if is_landscape else 1  # portrait: shading the lowest cells limits the whole string
    count = int(places.size) or Rows.model_fields["count"].default
    found = Rows.model_construct(pitch=pitch, width=width, count=count, cell_groups=groups)
    return surface.model_copy(update={"rows": found})
