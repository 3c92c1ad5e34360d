"""The irradiation of every orientation as the API answers it."""

from dataclasses import asdict

import numpy as np

from noontide.core.access.orientations import Orientations
from noontide.server.projects.api_models import OrientationAnswer, OrientationPrice


def orientation_answer(found: Orientations, revision: int) -> OrientationAnswer:
    """The map as lists, with the revision that it belongs to."""
    return OrientationAnswer(
        revision=revision, tilts=found.map.tilts.tolist(), azimuths=found.map.azimuths.tolist(),
        irradiation=np.round(found.map.irradiation, 2).tolist(), best_tilt=found.best_tilt, best_azimuth=found.best_azimuth, best=found.best,
        prices=[OrientationPrice(**asdict(price)) for price in found.prices], surfaces=found.surfaces,
    )  # fmt: skip
