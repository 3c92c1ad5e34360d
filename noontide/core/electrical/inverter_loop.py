"""What becomes of DC power in an inverter, interval by interval, compiled."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, error_model="numpy")
def convert_intervals(
    dc, voltage, volts, coefficients, ac_limit, dc_limit, night_power, caps, ac, clipping, conversion, night_use, held_back
):  # type: ignore[no-untyped-def]
    """Fill `ac` to `held_back`; loss coefficients are linear between the known voltages and constant beyond them."""
    last, share = volts.size - 1, 1 / ac_limit
    k = np.empty((3, dc.size))
    for i in range(3):
        k[i] = coefficients[0, i]
    for row in range(last):
        low, each = volts[row], 1 / (volts[row + 1] - volts[row])
        for i in range(3):
            rise = coefficients[row + 1, i] - coefficients[row, i]
            # Every piece adds its rise to what lies above it: no interval looks for its own, so that they are worked on side by side.
            for t in range(dc.size):
                k[i, t] += rise * min(max((voltage[t] - low) * each, 0.0), 1.0)
    k0, k1, k2 = k[0], k[1], k[2]
    for t in range(dc.size):
        most = min((1 + k0[t] + k1[t] + k2[t]) * ac_limit, dc_limit)
        clipping[t] = max(dc[t] - most, 0.0)
        conversion[t] = dc[t] - clipping[t]
    for c in range(caps.shape[0]):
        for t in range(dc.size):
            p = min(caps[c, t] * share, 1.0)
            over = max(conversion[t] - (p + k0[t] + k1[t] * p + k2[t] * p**2) * ac_limit, 0.0)
            held_back[c, t] = over if p > 0 else conversion[t]
            conversion[t] -= held_back[c, t]
    for t in range(dc.size):
        # p + k1 p + k2 p^2 = over, in the form of the root that also holds for k2 = 0.
        over, linear = conversion[t] * share - k0[t], 1 + k1[t]
        p = 2 * over / (linear + np.sqrt(max(linear**2 + 4 * k2[t] * over, 0.0)))
        p = p if over > 0 else 0.0
        ac[t] = min(p, 1.0) * ac_limit
        conversion[t] -= ac[t]
        night_use[t] = 0.0 if p > 0 else night_power
