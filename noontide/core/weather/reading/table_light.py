"""The light of a table and how well it fits the sun under a reading."""

import numpy as np
from numpy.typing import NDArray

from noontide.core.weather.reading.clockwork import (
    Wall,
    standard_minutes,
)
from noontide.core.weather.reading.columns import (
    factor_of,
    without_codes,
)
from noontide.core.weather.reading.frame import Frame
from noontide.core.weather.reading.model import Reading
from noontide.core.weather.reading.sunfit import SunFit, fit_sun

Floats = NDArray[np.float64]


TELLING = 25.0  # min of disagreement with the sun from which it is spoken of


CLEAR_GAIN = 0.25  # of the misfit that a shift must take away


def light_of(reading: Reading, frame: Frame) -> Floats | None:
    for role in ("ghi", "beam_horizontal", "dhi", "dni"):
        if (column := reading.column(role)) is not None:
            values = without_codes(frame.coerced(column.place), reading.missing)
            factor, _ = factor_of(column.unit, role, reading.step)
            return np.maximum(values * factor, 0)
    return None


def middles_of(reading: Reading, wall: Wall) -> Floats:
    return standard_minutes(wall, reading) - reading.utc_offset * 60 + reading.step / 2


def fit_of(reading: Reading, wall: Wall, light: Floats) -> SunFit | None:
    if reading.latitude is None or reading.longitude is None:
        return None
    return fit_sun(middles_of(reading, wall), light, reading.step, reading.latitude, reading.longitude)
