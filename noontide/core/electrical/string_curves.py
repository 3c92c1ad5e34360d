"""Strings whose cell groups have unequal light, in parallel on a tracker: their global maximum, whatever the number of maxima.

The groups of a string carry one current; those that cannot are bypassed and cost their diode's drop. A string's curve is built piece by
piece between the currents at which one more kind of groups is bypassed: in each the voltage over the diodes of the weakest working groups is the
parameter, in which their current is explicit. Between the points the current is a monotone cubic of the voltage, so that several strings are
added up at one voltage, each piece of the sum has one maximum at most, and a piece whose box of voltage and current holds less than the best
so far is passed over. What is answered is solved again on the sum of the groups' own curves.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

from noontide.core.threads import in_chunks

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

# Depths of the points of a piece below its open end, in units of the ideality: close together where the exponential bends.
DEPTHS = np.array([0.0, 0.6, 1.3, 2.0, 2.8, 3.8, 5.2, 8.0, 16.0])
PIECE_POINTS = DEPTHS.size + 1
ROUGH, EXACT = 0.02, 1e-5  # of the ideality, of the last step of Newton's method, which squares what is left
DARK = 1e-9  # A of light current, below which a group gives nothing
REMEMBERED = 4  # banks of an hour whose answer serves an equal one


@dataclass(frozen=True)
class StringKinds:
    """The strings of a sub-array by how light falls on their groups: kinds of strings on every tracker in every interval.

    The kinds of tracker `b` in interval `t` are those from `first[t, b]` to `last[t, b]`; the levels of kind `i` from `level[i]` to `level[i + 1]`,
    by falling light.
    """

    first: Ints  # (intervals, banks)
    last: Ints  # (intervals, banks)
    weight: Floats  # strings of each kind, (kinds,)
    level: Ints  # (kinds + 1,)
    light: Floats  # of each level, from 0 as in full shade to 1 without any, (levels,)
    share: Floats  # of a string's groups at each level, (levels,)


@dataclass(frozen=True)
class CurveMember:
    """A sub-array on the tracker; circuits are of a module, (intervals,)."""

    kinds: StringKinds
    light_current: tuple[Floats, Floats]  # in full shade and without any [A]
    shunt_conductance: tuple[Floats, Floats]  # likewise [S]
    saturation_current: Floats  # [A]
    series_resistance: Floats  # [ohm]
    ideality: Floats  # [V]
    series: float  # modules in a string
    factor: float  # what tolerance, ageing and mismatch leave of the current
    drop: float  # of all bypass diodes of a module [V]

    @property
    def fields(self) -> Floats:
        """(7, intervals)"""
        shape = self.light_current[0].shape
        all_of = (*self.light_current, *self.shunt_conductance, self.saturation_current, self.series_resistance, self.ideality)
        return np.stack([np.broadcast_to(v, shape) for v in all_of]).astype(float)


@dataclass(frozen=True)
class CurvePoints:
    """Where the strings of a tracker work, (banks, intervals) or (members, banks, intervals)."""

    voltage: Floats  # of the strings [V]
    current: Floats  # of each member [A]
    alone: Floats  # power of each member's strings at their own best voltage [W]
    shared: Floats  # of each at the best common voltage [W]
    held: Floats  # at the best of the window [W]
    outside: NDArray[np.bool_]  # whether the best common voltage lies outside the window


@njit(cache=True, nogil=True, error_model="numpy")
def _diode(missing, saturation, conductance, ideality, close):  # type: ignore[no-untyped-def]
    """Voltage over the diode that takes up a current, and how it changes with that current."""
    straight = conductance + saturation / ideality
    if missing <= saturation:
        return (missing / straight, 1 / straight)
    # Both are above the root, from where Newton's method falls to it without a turn.
    u = ideality * np.log(1 + missing / saturation)
    if conductance > 0:
        u = min(u, missing / conductance)
    slope = straight
    for _ in range(60):
        rush = saturation * np.exp(u / ideality)
        slope = rush / ideality + conductance
        step = (missing + saturation - rush - u * conductance) / slope
        u += step
        if abs(step) < close * ideality:
            slope += rush * step / ideality**2
            break
    return (u, 1 / slope)


@njit(cache=True, nogil=True, error_model="numpy")
def _working(current, active, light, shunt, share, number, saturation, resistance, ideality, drop, close):  # type: ignore[no-untyped-def]
    """Voltage of a module, and its slope, while the first `active` levels work and the others are bypassed."""
    v, slope = 0.0, 0.0
    for j in range(number):
        if j < active:
            u, change = _diode(light[j] - current, saturation, shunt[j], ideality, close)
            v += share[j] * (u - current * resistance)
            slope -= share[j] * (change + resistance)
        else:
            v -= share[j] * drop
    return (v, slope)


@njit(cache=True, nogil=True, error_model="numpy")
def _exact(current, light, shunt, share, number, saturation, resistance, ideality, drop):  # type: ignore[no-untyped-def]
    """Voltage of a module at a current, every level bypassed or not by itself, and its slope."""
    v, slope = 0.0, 0.0
    for j in range(number):
        u, change = _diode(light[j] - current, saturation, shunt[j], ideality, EXACT)
        w = u - current * resistance
        if w > -drop:
            v += share[j] * w
            slope -= share[j] * (change + resistance)
        else:
            v -= share[j] * drop
    return (v, slope)


@njit(cache=True, nogil=True, error_model="numpy")
def add_curve(circuit, series, scale, points, at):  # type: ignore[no-untyped-def]
    """Points of a string from no current up, into columns of `points` from `at` on; the next free column.

    The circuit is that of `spread`. Rows: voltage, current, change of current with voltage before and after the point.
    """
    light, shunt, share, number, saturation, resistance, ideality, drop = circuit
    low = 0.0
    for j in range(number - 1, -1, -1):
        if light[j] <= DARK:
            continue
        # Where the diodes of this level take over.
        high = light[j]
        for _ in range(4):
            u = high * resistance - drop
            high = light[j] - saturation * (np.exp(u / ideality) - 1) - shunt[j] * u
        if high <= low:
            continue
        end = high * resistance - drop
        top, _ = _diode(light[j] - low, saturation, shunt[j], ideality, EXACT)
        for k in range(PIECE_POINTS):
            u = end if k == PIECE_POINTS - 1 else top - DEPTHS[k] * ideality
            if k < PIECE_POINTS - 1 and u <= end + 1e-6 * ideality:
                continue
            current = (
                low
                if k == 0
                else high
                if k == PIECE_POINTS - 1
                else light[j] - saturation * (np.exp(u / ideality) - 1) - shunt[j] * u
            )
            v, slope = _working(current, j + 1, light, shunt, share, number, saturation, resistance, ideality, drop, ROUGH)
            change = scale / series / slope
            points[0, at], points[1, at] = v * series, current * scale
            points[2, at], points[3, at] = change, change
            at += 1
        low = high
    return at


@njit(cache=True, nogil=True, error_model="numpy")
def _place(voltage, points, first, last):  # type: ignore[no-untyped-def]
    """The point after which a falling voltage lies, from `first` to `last - 2`."""
    a, b = first, last - 1
    while b - a > 1:
        middle = (a + b) // 2
        if points[0, middle] >= voltage:
            a = middle
        else:
            b = middle
    return a


@njit(cache=True, nogil=True, error_model="numpy")
def _cubic(voltage, points, k):  # type: ignore[no-untyped-def]
    """Current between two points, and its change with the voltage."""
    v0, v1, i0, i1 = points[0, k], points[0, k + 1], points[1, k], points[1, k + 1]
    h = v1 - v0
    if h >= 0:
        return (i1, 0.0)
    secant = (i1 - i0) / h
    # Fritsch and Carlson (1980), SIAM J. Numer. Anal. 17, 238-246: slopes up to three times the secant keep it monotone.
    d0, d1 = max(points[3, k], 3 * secant), max(points[2, k + 1], 3 * secant)
    t = (voltage - v0) / h
    a = d0 - secant
    b = d0 + d1 - 2 * secant
    value = i0 + h * t * (d0 + t * (-(2 * a + d1 - secant) + t * b))
    return (value, d0 + t * (-2 * (2 * a + d1 - secant) + 3 * t * b))


@njit(cache=True, nogil=True, error_model="numpy")
def total_at(voltage, points, ends, c0, c1):  # type: ignore[no-untyped-def]
    """Current of kinds of strings together at a voltage, and its change."""
    flow, change = 0.0, 0.0
    for c in range(c0, c1):
        first, last = ends[c], ends[c + 1]
        # Beyond its open-circuit voltage a kind carries nothing: blocking by fuse or diode is taken for granted, a current backwards is not modelled here.
        if last - first < 2 or voltage >= points[0, first]:
            continue
        if voltage <= points[0, last - 1]:
            flow += points[1, last - 1]
            continue
        value, slope = _cubic(voltage, points, _place(voltage, points, first, last))
        flow += value
        change += slope
    return (flow, change)


@njit(cache=True, nogil=True, error_model="numpy")
def _highest_open(points, ends, c0, c1):  # type: ignore[no-untyped-def]
    """The highest open-circuit voltage of kinds of strings; 0 without any that has a curve."""
    top = 0.0
    for c in range(c0, c1):
        if ends[c + 1] - ends[c] >= 2:
            top = max(top, points[0, ends[c]])
    return top


@njit(cache=True, nogil=True, error_model="numpy")
def best_voltage(lowest, highest, points, ends, c0, c1, volts, flows):  # type: ignore[no-untyped-def]
    """Where kinds of strings together give most between two voltages; 0 where none reaches the lowest."""
    number = 0
    upper = min(highest, _highest_open(points, ends, c0, c1))
    lower = max(lowest, 0.0)
    if upper <= 0 or lower > upper:
        return 0.0
    # The power of a sum of curves has a maximum between each two points of any of them, at most: all their points in one order bound the pieces.
    volts[number] = upper
    number += 1
    for c in range(c0, c1):
        for k in range(ends[c], ends[c + 1]):
            if lower < points[0, k] < upper:
                volts[number] = points[0, k]
                number += 1
    volts[number] = lower
    number += 1
    if c1 - c0 > 1:
        volts[:number] = np.sort(volts[:number])[::-1]
    best, where = -1.0, upper
    for k in range(number):
        flows[k] = total_at(volts[k], points, ends, c0, c1)[0]
        if volts[k] * flows[k] > best:
            best, where = volts[k] * flows[k], volts[k]
    for k in range(number - 1):
        v0, v1 = volts[k], volts[k + 1]
        # No point of a piece gives more than its highest voltage times its highest current; most pieces are left out by that.
        if v0 - v1 < 1e-9 or v0 * flows[k + 1] <= best * (1 + 1e-9):
            continue
        # In a piece the power is concave: its slope falls through zero once, or not at all.
        edge = 1e-7 * (v0 - v1)
        a, b = v1 + edge, v0 - edge
        fa, da = total_at(a, points, ends, c0, c1)
        fb, db = total_at(b, points, ends, c0, c1)
        ga, gb = fa + a * da, fb + b * db
        if ga <= 0 or gb >= 0:
            continue
        v = a
        for _ in range(24):
            v = a + (b - a) * min(max(ga / (ga - gb), 0.02), 0.98)
            f, d = total_at(v, points, ends, c0, c1)
            # The slope of the power, I + V dI/dV, whose zero is looked for.
            g = f + v * d
            if v * f > best:
                best, where = v * f, v
            if g > 0:
                a, ga = v, g
                # Half of what the other end had (the Illinois variant of the false position): without it one end stays for ever on a bent slope.
                gb *= 0.5
            else:
                b, gb = v, g
                ga *= 0.5
            if b - a < 1e-5 * v0 or abs(g) < 1e-6 * f:
                break
    return where


@njit(cache=True, nogil=True, error_model="numpy")
def _voltage_for(current, lowest, points, ends, c0, c1):  # type: ignore[no-untyped-def]
    """The voltage over `lowest` from which on kinds of strings together carry no more than a current."""
    # The current falls with the voltage all the way, so that halving is safe, and the upper end is always on the allowed side.
    high = max(lowest, _highest_open(points, ends, c0, c1))
    low = lowest
    for _ in range(50):
        middle = (low + high) / 2
        if total_at(middle, points, ends, c0, c1)[0] > current:
            low = middle
        else:
            high = middle
    return high


@njit(cache=True, nogil=True, error_model="numpy")
def within_current(most, voltage, highest, points, ends, c0, c1, volts, flows):  # type: ignore[no-untyped-def]
    """Where kinds of strings that work at a voltage give most once their current is limited: there, or at a higher voltage of the window."""
    if voltage <= 0 or total_at(voltage, points, ends, c0, c1)[0] <= most:
        return voltage
    bound = max(highest, voltage)
    raised = min(_voltage_for(most, voltage, points, ends, c0, c1), bound)
    return best_voltage(raised, bound, points, ends, c0, c1, volts, flows)


@njit(cache=True, nogil=True, error_model="numpy")
def flow_at(voltage, c, points, ends, circuit, series, scale):  # type: ignore[no-untyped-def]
    """Current of a kind of strings at a voltage, solved on the sum of its groups; the circuit is that of `spread`."""
    light, shunt, share, number, saturation, resistance, ideality, drop = circuit
    first, last = ends[c], ends[c + 1]
    if last - first < 2 or voltage >= points[0, first]:
        return 0.0
    if voltage <= points[0, last - 1]:
        return points[1, last - 1]
    k = _place(voltage, points, first, last)
    low, high = points[1, k] / scale, points[1, k + 1] / scale
    current = min(max(_cubic(voltage, points, k)[0] / scale, low), high)
    # The ends are a rough solution away from the curve.
    reach = 1e-3 * (high - low) + 1e-9 * high
    # Newton's steps on the exact sum of the groups, kept between two ends that close in: where one leaves them, the middle is taken.
    low, high = max(low - reach, 0.0), high + reach
    for _ in range(40):
        v, slope = _exact(current, light, shunt, share, number, saturation, resistance, ideality, drop)
        over = v * series - voltage
        if over > 0:
            low = current
        else:
            high = current
        if high <= low:
            break
        then = current - over / (series * slope) if slope < 0 else (low + high) / 2
        if then <= low or then >= high:
            then = (low + high) / 2
        done = abs(then - current) <= 1e-10 * high
        current = then
        if done:
            break
    return current * scale


@njit(cache=True, nogil=True, error_model="numpy")
def _same_kinds(first, last, other_first, other_last, weight, level, light, share):  # type: ignore[no-untyped-def]
    """Whether two trackers have the same kinds of strings."""
    if first == other_first and last == other_last:
        return True
    if last - first != other_last - other_first:
        return False
    for i in range(last - first):
        a, b = first + i, other_first + i
        if weight[a] != weight[b] or level[a + 1] - level[a] != level[b + 1] - level[b]:
            return False
        for k in range(level[a + 1] - level[a]):
            if light[level[a] + k] != light[level[b] + k] or share[level[a] + k] != share[level[b] + k]:
                return False
    return True


@njit(cache=True, nogil=True, error_model="numpy")
def spread(i, fields, drop, t, level, light, share, lights, shunts, shares):  # type: ignore[no-untyped-def]
    """The circuit of a kind in an interval: light currents, shunts and shares of its levels, how many there are, and what all have in common."""
    number = 0
    for k in range(level[i], level[i + 1]):
        # A level between the darkest and the brightest light has its photocurrent, and its shunt, in between: both follow the light in a straight line.
        if share[k] <= 0:
            continue
        lights[number] = fields[0, t] + light[k] * (fields[1, t] - fields[0, t])
        shunts[number] = fields[2, t] + light[k] * (fields[3, t] - fields[2, t])
        shares[number] = share[k]
        number += 1
    return (lights, shunts, shares, number, fields[4, t], fields[5, t], fields[6, t], drop)


@njit(cache=True, nogil=True, error_model="numpy")
def _operate(fields, series, factors, drops, first, last, weight, level, light, share, limits, most_kinds, most_points, most_levels, voltage, current, alone, shared, held, outside, start, end):  # type: ignore[no-untyped-def]  # fmt: skip
    """The trackers of some intervals, into the arrays of `CurvePoints`."""
    members, _, banks = first.shape
    lowest, highest, starting, most = limits
    points = np.empty((4, most_points))
    ends = np.empty(most_kinds + 1, np.int64)
    kind = np.empty(most_kinds, np.int64)
    scale = np.empty(most_kinds)
    of_member = np.empty(members + 1, np.int64)
    volts, flows = np.empty(most_points + 2), np.empty(most_points + 2)
    lights, shunts, shares = np.empty(most_levels), np.empty(most_levels), np.empty(most_levels)
    known = np.empty(REMEMBERED, np.int64)
    flow_of, tried, reached = np.empty(members), np.empty(4), np.empty(4)
    for t in range(start, end):
        number_known = 0
        for b in range(banks):
            found = -1
            for r in range(number_known):
                same = True
                for m in range(members):
                    if not _same_kinds(
                        first[m, t, b], last[m, t, b], first[m, t, known[r]], last[m, t, known[r]], weight, level, light, share
                    ):
                        same = False
                        break
                if same:
                    found = known[r]
                    break
            # Trackers of a set in the same light have the same result, to the last bit: most of a row of inverters is found once.
            if found >= 0:
                voltage[b, t] = voltage[found, t]
                for m in range(members):
                    current[m, b, t], alone[m, b, t], shared[m, b, t] = (
                        current[m, found, t],
                        alone[m, found, t],
                        shared[m, found, t],
                    )
                    held[m, b, t], outside[m, b, t] = held[m, found, t], outside[m, found, t]
                continue
            if number_known < REMEMBERED:
                known[number_known] = b
                number_known += 1
            at, kinds = 0, 0
            for m in range(members):
                of_member[m] = kinds
                for i in range(first[m, t, b], last[m, t, b]):
                    if weight[i] <= 0:
                        continue
                    circuit = spread(i, fields[m], drops[m], t, level, light, share, lights, shunts, shares)
                    kind[kinds], scale[kinds], ends[kinds] = i, factors[m] * weight[i], at
                    at = add_curve(circuit, series[m], scale[kinds], points, at)
                    kinds += 1
            of_member[members] = kinds
            ends[kinds] = at
            # Four voltages, each a line of the account: every sub-array at its own maximum, all at their common one, that inside the window, and
            # what the current limit leaves of it.
            free = best_voltage(0.0, np.inf, points, ends, 0, kinds, volts, flows)
            inside = free
            if free < lowest or free > highest:
                inside = best_voltage(lowest, highest, points, ends, 0, kinds, volts, flows)
            # Too dark to start: a tracker that cannot reach the starting voltage even without load stays off.
            idle = inside < starting and _highest_open(points, ends, 0, kinds) < starting
            final = inside if idle else within_current(most, inside, highest, points, ends, 0, kinds, volts, flows)
            total = 0.0
            tried[1], tried[2], tried[3] = free, inside, final
            for m in range(members):
                tried[0] = (
                    best_voltage(0.0, np.inf, points, ends, of_member[m], of_member[m + 1], volts, flows) if members > 1 else free
                )
                reached[:] = 0.0
                for c in range(of_member[m], of_member[m + 1]):
                    circuit = spread(kind[c], fields[m], drops[m], t, level, light, share, lights, shunts, shares)
                    flow = 0.0
                    # The curves are good enough to choose a voltage by; the current at it is solved exactly, so that no figure has the error of a spline.
                    for q in range(4):
                        if q == 0 or tried[q] != tried[q - 1]:
                            flow = flow_at(tried[q], c, points, ends, circuit, series[m], scale[c])
                        reached[q] += flow
                if idle:
                    reached[2], reached[3] = 0.0, 0.0
                alone[m, b, t], shared[m, b, t], held[m, b, t] = tried[0] * reached[0], free * reached[1], inside * reached[2]
                flow_of[m] = reached[3]
                total += reached[3]
                outside[m, b, t] = reached[1] > 0 and (free < lowest or free > highest)
            # What is left over the limit, to the last digits of the chosen voltage, is shared by all.
            throttle = most / total if total > most else 1.0
            voltage[b, t] = 0.0 if idle else final
            for m in range(members):
                current[m, b, t] = flow_of[m] * throttle


def most_of(level: Ints) -> tuple[int, int]:
    """Most points and most levels of a kind of strings."""
    most = int(np.diff(level).max(initial=1))
    return most * PIECE_POINTS + 1, most


def operate_curves(members: list[CurveMember], lowest: float, highest: float, start: float, most: float) -> CurvePoints:
    """Find the operating points of a tracker in each interval, for each inverter of a set.

    Parameters
    ----------
    members : list of CurveMember
        The sub-arrays on the tracker, over the same intervals.
    lowest, highest : float
        Voltage that the tracker can hold [V].
    start : float
        Open-circuit voltage from which it starts [V].
    most : float
        Largest operating current [A].

    Notes
    -----
    Where the current is over the limit the voltage rises until it fits, or further where a maximum at a higher voltage gives more; what is
    over it at the end of the window is throttled.

    References
    ----------
    De Soto et al. (2006), Solar Energy 80, 78-88, for the curve of a group; groups in series with one bypass diode each.
    """
    banks = max(member.kinds.first.shape[1] for member in members)
    intervals = members[0].light_current[0].size
    shape = len(members), banks, intervals
    voltage, outside = np.zeros((banks, intervals)), np.zeros(shape, dtype=np.bool_)
    current, alone, shared, held = (np.zeros(shape) for _ in range(4))
    offset_kind = np.cumsum([0, *(m.kinds.weight.size for m in members)])
    offset_level = np.cumsum([0, *(m.kinds.light.size for m in members)])
    first, last = (
        np.ascontiguousarray(
            np.stack(
                [
                    np.broadcast_to(getattr(m.kinds, name), (intervals, banks)) + at
                    for m, at in zip(members, offset_kind, strict=False)
                ]
            )
        )
        for name in ("first", "last")
    )
    level = np.concatenate([*(m.kinds.level[:-1] + at for m, at in zip(members, offset_level, strict=False)), offset_level[-1:]])
    weight, light, share = (
        np.concatenate([np.asarray(getattr(m.kinds, name), dtype=float) for m in members])
        for name in ("weight", "light", "share")
    )
    most_kinds = int((last - first).sum(axis=0).max(initial=1))
    most_points = int((level[last] - level[first]).sum(axis=0).max(initial=1)) * PIECE_POINTS + 1
    _, most_levels = most_of(level)
    inputs = (
        np.stack([m.fields for m in members]), np.array([m.series for m in members], dtype=float), np.array([m.factor for m in members], dtype=float), np.array([m.drop for m in members], dtype=float),
        first, last, weight, level, light, share, (float(lowest), float(highest), float(start), float(most)), most_kinds, most_points, most_levels,
        voltage, current, alone, shared, held, outside,
    )  # fmt: skip
    in_chunks(lambda begin, end: _operate(*inputs, begin, end), intervals)
    return CurvePoints(voltage, current, alone, shared, held, outside)
