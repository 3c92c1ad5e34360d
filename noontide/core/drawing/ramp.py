"""The one ramp of heat maps: deep blue-green through rose to pale straw, rising evenly in lightness."""

import numpy as np
from numpy.typing import ArrayLike

STOPS = np.array([[18, 64, 74], [77, 95, 120], [154, 106, 128], [217, 138, 120], [241, 197, 143], [251, 241, 208]], dtype=float)
STEPS = 40  # that the eye tells apart on paper: cells of one step beside one another are drawn as one


def ramp(shares: ArrayLike) -> list[str]:
    """Colours of shares 0..1 as #rrggbb, in even steps."""
    values = np.clip(np.asarray(shares, dtype=float).ravel(), 0.0, 1.0)
    table = [_colour(step / STEPS) for step in range(STEPS + 1)]
    return [table[k] for k in np.round(values * STEPS).astype(int)]


def _colour(share: float) -> str:
    at = min(share, 0.9999) * (len(STOPS) - 1)
    low = int(at)
    r, g, b = np.round(STOPS[low] + (STOPS[low + 1] - STOPS[low]) * (at - low)).astype(int)
    return f"#{r:02x}{g:02x}{b:02x}"
