"""The course of use over the day, the week and the year by kind of building: made up, typical in its form.

Hours are relative to one another; months are relative to the mean. A shape says when energy is used, never how much.
"""

from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
ShapeName = Literal["household", "office", "shop", "workshop", "cold store", "farm", "school", "even"]
EVEN = (1.0,) * 24


@dataclass(frozen=True)
class Shape:
    """Relative use by hour of weekdays and of days off, and by month in the north; in the south months are half a year later."""

    weekday: tuple[float, ...]  # (24,)
    day_off: tuple[float, ...]  # (24,)
    months: tuple[float, ...]  # (12,)

    def month(self, is_southern: bool) -> Floats:
        return np.roll(np.array(self.months), 6 if is_southern else 0)


def _day(*parts: tuple[int, float]) -> tuple[float, ...]:
    """Hours from (until hour, value) pairs."""
    values: list[float] = []
    for until, value in parts:
        values += [value] * (until - len(values))
    return tuple(values)


SHAPES: dict[ShapeName, Shape] = {
    "household": Shape(
        _day((5, 0.45), (6, 0.6), (8, 1.1), (12, 0.8), (14, 1.0), (17, 0.85), (19, 1.5), (22, 1.7), (23, 1.1), (24, 0.7)),
        _day((6, 0.45), (8, 0.7), (10, 1.1), (13, 1.4), (17, 1.1), (19, 1.4), (22, 1.6), (23, 1.1), (24, 0.7)),
        (1.25, 1.2, 1.08, 0.97, 0.88, 0.82, 0.8, 0.81, 0.88, 0.99, 1.12, 1.2),
    ),
    "office": Shape(
        _day((6, 0.35), (7, 0.5), (8, 1.0), (12, 1.9), (13, 1.7), (17, 1.9), (18, 1.3), (20, 0.7), (24, 0.4)),
        _day((24, 0.35)),
        (1.08, 1.06, 1.0, 0.95, 0.94, 1.0, 1.03, 1.0, 0.97, 0.96, 1.0, 1.01),
    ),
    "shop": Shape(
        _day((6, 0.4), (8, 0.7), (9, 1.2), (19, 1.8), (20, 1.4), (24, 0.5)),
        _day((7, 0.4), (9, 0.7), (17, 1.3), (18, 0.9), (24, 0.4)),
        (1.04, 1.02, 0.98, 0.95, 0.95, 1.0, 1.05, 1.04, 0.98, 0.96, 1.0, 1.03),
    ),
    "workshop": Shape(
        _day((6, 0.2), (7, 0.9), (9, 2.2), (10, 1.8), (12, 2.3), (13, 1.0), (16, 2.1), (17, 1.2), (24, 0.25)),
        _day((24, 0.2)),
        (1.05, 1.05, 1.03, 1.0, 0.98, 0.97, 0.93, 0.85, 1.0, 1.03, 1.05, 1.06),
    ),
    "cold store": Shape(
        _day((6, 0.85), (10, 1.0), (18, 1.2), (22, 1.0), (24, 0.9)),
        _day((6, 0.85), (10, 0.95), (18, 1.1), (24, 0.9)),
        (0.82, 0.83, 0.88, 0.95, 1.05, 1.18, 1.25, 1.22, 1.1, 0.97, 0.89, 0.86),
    ),
    "farm": Shape(
        _day((5, 0.6), (8, 1.9), (11, 0.9), (16, 0.8), (19, 1.9), (21, 1.0), (24, 0.6)),
        _day((5, 0.6), (8, 1.9), (11, 0.8), (16, 0.75), (19, 1.9), (21, 0.9), (24, 0.6)),
        (1.02, 1.0, 0.98, 0.97, 0.98, 1.02, 1.06, 1.05, 1.0, 0.97, 0.97, 0.98),
    ),
    "school": Shape(
        _day((6, 0.3), (7, 0.8), (8, 1.6), (13, 2.2), (15, 1.6), (17, 0.9), (21, 0.5), (24, 0.3)),
        _day((24, 0.3)),
        (1.2, 1.1, 1.12, 0.95, 1.05, 0.95, 0.5, 0.45, 1.08, 1.15, 1.25, 1.2),
    ),
    "even": Shape(EVEN, EVEN, (1.0,) * 12),
}
assert set(SHAPES) == set(get_args(ShapeName))
