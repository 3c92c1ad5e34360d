"""What becomes of DC power in an inverter, interval by interval, compiled."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, error_model="numpy")
def convert_intervals(
    dc, voltage, volts, coefficients, ac_limit, dc_limit, night_power, caps, ac, clipping, conversion, night_use, held_back
):  # type: ignore[no-untyped-def]
    """Fill `ac` to `held_back`; loss coefficients are linear between the known voltages and constant beyond them."""
    last, share = volts.size - 1, 1 / ac_limit
    for t in range(dc.size):
        row = 0
        while row < last and voltage[t] >= volts[row + 1]:
            row += 1
        k0, k1, k2 = coefficients[row]
        if row < last and voltage[t] > volts[row]:
            part = (voltage[t] - volts[row]) / (volts[row + 1] - volts[row])
            upper = coefficients[row + 1]
            k0, k1, k2 = k0 + part * (upper[0] - k0), k1 + part * (upper[1] - k1), k2 + part * (upper[2] - k2)
        most = min((1 + k0 + k1 + k2) * ac_limit, dc_limit)
        clipping[t] = max(dc[t] - most, 0.0)
        left = dc[t] - clipping[t]
        for c in range(caps.shape[0]):
            p = min(caps[c, t] * share, 1.0)
            held_back[c, t] = max(left - (p + k0 + k1 * p + k2 * p**2) * ac_limit, 0.0) if p > 0 else left
            left -= held_back[c, t]
        # p + k1 p + k2 p^2 = over, in the form of the root that also holds for k2 = 0.
        over, linear = left * share - k0, 1 + k1
        p = 2 * over / (linear + np.sqrt(max(linear**2 + 4 * k2 * over, 0.0))) if over > 0 else 0.0
        ac[t] = min(p, 1.0) * ac_limit
        conversion[t] = left - ac[t]
        night_use[t] = 0.0 if p > 0 else night_power
