"""The compiled loops over intervals: the least limits of import, what is kept for later, and the dispatch itself.

They stand in one file: what is compiled is kept by the file that it is in, and would not notice a change in another.
"""

import numpy as np
from numba import njit

# Columns of the table of a battery. Sun and battery together give no more than OUTPUT: it is no limit where a battery has an inverter of its own.
ENERGY, MINIMUM, MAXIMUM, INITIAL, CHARGE, DISCHARGE, ETA_IN, ETA_OUT, LEAK, ETA_GRID, OUTPUT = range(11)
TINY = 1e-12
# Of a candidate the loops read d, its demand, p, its sun as it would arrive at the AC side, and x, what the chain has clipped already [kW]; b is its row of the table.


@njit(cache=True, nogil=True, inline="always")
def _spare(discharges, output, out, clipped):
    """What a battery may give beside what the inverter passes of the sun: nothing where it holds back some of it."""
    return min(discharges, output - out) if clipped == 0.0 else 0.0


@njit(cache=True, nogil=True)
def _least_limit(d, p, x, b, stored, begin, end, from_grid, step):
    """The least limit that can be held between two intervals, and what is stored after it.

    What is short where a limit breaks falls with the limit, piece by piece along a straight line and ever more slowly (the charge that the
    battery has room for grows no faster than the limit). So Newton's step from below never goes beyond the least limit, and ends on it.
    """
    high = limit = 0.0
    for t in range(begin, end):
        out = min(p[t], b[OUTPUT])
        high = max(high, d[t] - out)
        limit = max(limit, d[t] - out - _spare(b[DISCHARGE], b[OUTPUT], out, x[t]))
    left, more = _shaved(d, p, x, b, stored, begin, end, limit, from_grid, step)
    while more > 0.0:
        # A step lost in rounding still moves on.
        limit = min(max(limit + more, limit + TINY * max(1.0, limit)), high)
        left, more = _shaved(d, p, x, b, stored, begin, end, limit, from_grid, step)
    return limit, left


@njit(cache=True, nogil=True)
def least_limits(used, sun, clips, rows, table, starts, from_grid, step, first, last, limits):
    """Period by period, the least limit that can be held; each begins with what the one before leaves at its own limit."""
    for c in range(first, last):
        d, p, x, b = used[rows[0, c]], sun[rows[1, c]], clips[rows[5, c]], table[c]
        stored = b[INITIAL] * b[ENERGY]
        for k in range(starts.size - 1):
            limit, stored = _least_limit(d, p, x, b, stored, starts[k], starts[k + 1], from_grid, step)
            for t in range(starts[k], starts[k + 1]):
                limits[c, t] = limit


@njit(cache=True, nogil=True)
def limits_by_yesterday(used, sun, clips, rows, table, starts, from_grid, step, first, last, limits, day, serves, later):
    """Day by day, the limit that the day before would have needed, and what is kept for its peaks; where import breaks it, what has been paid for by then.

    `later` takes what own use leaves, and what the grid fills up to, (candidates, intervals).
    """
    for c in range(first, last):
        d, p, x, b = used[rows[0, c]], sun[rows[1, c]], clips[rows[5, c]], table[c]
        floor, top = b[MINIMUM] * b[ENERGY], b[MAXIMUM] * b[ENERGY]
        leak = 1 - min(b[LEAK] * step, 1.0)
        stored = b[INITIAL] * b[ENERGY]
        for k in range(starts.size - 1):
            peak = 0.0  # of the period so far
            begin = starts[k]
            while begin < starts[k + 1]:
                # Days end at midnight, and with the period.
                end = min((begin // day + 1) * day, starts[k + 1])
                known = max(begin - day, 0)
                limit, _ = _least_limit(d, p, x, b, stored, known, min(known + day, d.size), from_grid, step)
                limit = max(limit, peak)
                later[c, begin:end] = top
                if serves:
                    _kept_by_yesterday(d, b, limit, step, known, day, begin, end, later[c])
                for t in range(begin, end):
                    limits[c, t] = limit
                    stored *= leak
                    out = min(p[t], b[OUTPUT])
                    able = min(_spare(b[DISCHARGE], b[OUTPUT], out, x[t]), max(stored - floor, 0.0) * b[ETA_OUT] / step)
                    fits = max(top - stored, 0.0) / b[ETA_IN] / step
                    charge, given, taken, _, _, brought = _at_the_grid(
                        d[t] - out, p[t] - out + x[t], 0.0, b[ETA_IN], b[ETA_OUT], b[ETA_IN] / b[ETA_GRID], top, stored, able, b[CHARGE], fits, limit, np.inf,
                        later[c, t], later[c, t], 0.0, serves, from_grid, False, step,
                    )  # fmt: skip
                    stored += _gained(charge, brought, b[ETA_IN], b[ETA_IN] / b[ETA_GRID], step) - given * step / b[ETA_OUT]
                    peak = max(peak, taken)
                    limit = max(limit, peak)
                begin = end


@njit(cache=True, nogil=True)
def _shaved(d, p, x, b, stored, begin, end, limit, from_grid, step):
    """What is stored at the end of a period under an import limit, and 0; where it cannot be held, by how much more it could be where it breaks [kW]."""
    floor, top = b[MINIMUM] * b[ENERGY], b[MAXIMUM] * b[ENERGY]
    slope = 0.0  # of what is stored by the limit [h]
    leak = 1 - min(b[LEAK] * step, 1.0)
    for t in range(begin, end):
        stored, slope = stored * leak, slope * leak
        out = min(p[t], b[OUTPUT])
        net = d[t] - out
        if net > limit:
            gives = b[ETA_OUT] / step
            if net - min(_spare(b[DISCHARGE], b[OUTPUT], out, x[t]), max(stored - floor, 0.0) * gives) > limit + TINY * max(
                1.0, limit
            ):
                # Either more is stored by then, or import meets the use alone; what has leaked below the floor must come back first.
                return stored, min((net - limit - (stored - floor) * gives) / (1.0 + slope * gives), net - limit)
            stored -= (net - limit) * step / b[ETA_OUT]
            slope += step / b[ETA_OUT]
        else:
            own = min(max(-net, 0.0) + p[t] - out + x[t], b[CHARGE])
            bought, gains = 0.0, False
            if from_grid:
                bought, gains = limit - max(net, 0.0), True
                if bought > b[CHARGE] - own:
                    bought, gains = b[CHARGE] - own, False
            gain = (own * b[ETA_IN] + bought * b[ETA_GRID]) * step
            if gain >= top - stored:
                stored, slope = max(stored, top), 0.0
            else:
                stored += gain
                if gains:
                    slope += step * b[ETA_GRID]
    return max(stored, 0.0), 0.0


@njit(cache=True, nogil=True)
def _kept_for_peaks(d, p, x, b, limit, from_grid, step, kept):
    """What must be stored at the end of each interval so that the limits after it can be held [kWh]."""
    floor, top = b[MINIMUM] * b[ENERGY], b[MAXIMUM] * b[ENERGY]
    need = floor
    for t in range(d.size - 1, -1, -1):
        kept[t] = need
        out = min(p[t], b[OUTPUT])
        net = d[t] - out
        if net > limit[t]:
            need += min(net - limit[t], _spare(b[DISCHARGE], b[OUTPUT], out, x[t])) * step / b[ETA_OUT]
        else:
            own = min(max(-net, 0.0) + p[t] - out + x[t], b[CHARGE])
            bought = min(limit[t] - max(net, 0.0), b[CHARGE] - own) if from_grid else 0.0
            need -= (own * b[ETA_IN] + bought * b[ETA_GRID]) * step
        leak = 1 - min(b[LEAK] * step, 1.0)
        need = need / leak if leak > 0.0 else top
        need = min(max(need, floor), top)


@njit(cache=True, nogil=True)
def _kept_by_yesterday(d, b, limit, step, known, day, begin, end, kept):
    """The same for a day of which the use is expected to be that of the known one, and the next day's too; nobody knows whether the sun will help."""
    floor, top = b[MINIMUM] * b[ENERGY], b[MAXIMUM] * b[ENERGY]
    leak = 1 - min(b[LEAK] * step, 1.0)
    need = floor
    for turn in range(2):
        for t in range(day - 1, -1, -1):
            if turn == 1 and begin + t < end:
                kept[begin + t] = need
            if known + t < d.size:
                need += min(max(d[known + t] - limit, 0.0), min(b[DISCHARGE], b[OUTPUT])) * step / b[ETA_OUT]
                need = min(max(need / leak, floor), top) if leak > 0.0 else top


@njit(cache=True, nogil=True)
def _by_prices(d, p, x, b, prices, from_grid, ahead, step, kept, wanted):
    """For each interval what dearer ones ahead need: what own use leaves stored, and what the grid fills it up to [kWh].

    Both look ahead until energy can be had cheaper, or to the horizon; the sun that comes before the need is taken off it, and nothing is
    asked for beyond what the battery holds.
    """
    floor, top = b[MINIMUM] * b[ENERGY], b[MAXIMUM] * b[ENERGY]
    both, holds = b[ETA_GRID] * b[ETA_OUT], top - floor
    for t in range(d.size):
        end = min(t + 1 + ahead, d.size)
        kept[t] = floor + _needed(d, p, x, b, prices, t, end, prices[t], prices[t] * both if from_grid else -np.inf, holds, step)
        wanted[t] = floor
        if from_grid:
            wanted[t] += _needed(d, p, x, b, prices, t, end, prices[t] / both, prices[t], holds, step)


@njit(cache=True, nogil=True)
def _needed(d, p, x, b, prices, t, end, over, cheaper, holds, step):
    """What must be stored after an interval for those ahead that cost more than `over`, until one costs less than `cheaper` [kWh]."""
    last = t + 1
    while last < end and prices[last] >= cheaper - TINY:
        last += 1
    need = 0.0
    for k in range(last - 1, t, -1):
        out = min(p[k], b[OUTPUT])
        net = d[k] - out
        if net > 0.0 and prices[k] > over + TINY:
            need = min(need + min(net, _spare(b[DISCHARGE], b[OUTPUT], out, x[k])) * step / b[ETA_OUT], holds)
        own = max(-net, 0.0) + p[k] - out + x[k]
        if own > 0.0:
            need = max(need - min(own, b[CHARGE]) * step * b[ETA_IN], 0.0)
    return need


@njit(cache=True, nogil=True)
def _held_back_later(p, x, b, step, later):
    """What the inverter will hold back after each interval of the same day, as power that would store it in one interval [kW]: own use leaves room for it."""
    day, ahead = max(round(24 / step), 1), 0.0
    for t in range(p.size - 1, -1, -1):
        if (t + 1) % day == 0:
            ahead = 0.0
        later[t] = ahead
        ahead += min(p[t] - min(p[t], b[OUTPUT]) + x[t], b[CHARGE])


@njit(cache=True, nogil=True, inline="always")
def _gained(charge, brought, eta_in, rate, step):
    """What is stored of a charge, of which a part is brought by the grid or a generator, a kWh of which counts 1 / rate [kWh]."""
    if rate == 1.0:
        return charge * eta_in * step
    return (charge - brought + brought / rate) * eta_in * step


@njit(cache=True, nogil=True, inline="always")
def _at_the_grid(
    net, beyond, later, eta_in, eta_out, rate, top, stored, able, most, fits, limit, cut, kept, wanted, reserve, serves, from_grid, clipped_only, step
):  # fmt: skip
    """Charge, discharge, import, export, loss, and the charge brought by the grid of one interval: peaks first, then own use down to what is kept, then the grid up to what is wanted."""
    room = min(most, fits)
    charge = discharge = imported = exported = lost = brought = 0.0
    if net > 0.0:
        discharge = min(max(net - limit, 0.0), able)
        if serves and discharge < net:
            use = min(able, max(stored - max(kept, reserve), 0.0) * eta_out / step)
            discharge = min(net, max(discharge, use))
        imported = net - discharge
        if discharge == 0.0:
            charge = min(beyond, room)
        lost = beyond - charge
    else:
        surplus = -net
        # What the inverter would not pass goes first, and has its room kept.
        own = min(beyond, room)
        passed = min(max(surplus - cut, 0.0) if clipped_only else surplus, max(min(most, fits - later) - own, 0.0))
        charge = own + passed
        exported = min(surplus - passed, cut)
        lost = surplus - passed - exported + beyond - own
    if from_grid and discharge == 0.0:
        goal = max(max(wanted, min(reserve, top)) - stored, 0.0) / eta_in / step
        # What would go to the grid is stored first.
        more = min(min(room, goal) - charge, exported)
        if more > 0.0:
            charge += more
            exported -= more
        brought = min(min(most - charge, (min(fits, goal) - charge) * rate), limit - imported)
        if brought > 0.0:
            charge += brought
            imported += brought
        else:
            brought = 0.0
    return charge, discharge, imported, exported, lost, brought


@njit(cache=True, nogil=True)
def run_intervals(
    used, sun, clips, limits, cuts, reserves, rows, table, flags, prices, ahead, later, there, allowed, power, machine, step, first, last, found, sums,
):  # fmt: skip
    """The loop over intervals, candidate by candidate: flows into `found`, or sums where that is empty."""
    n = used.shape[1]
    serves, from_grid, for_peaks, clipped_only, by_yesterday = flags[0], flags[1], flags[2], flags[3], flags[4]
    keeps_flows = found.shape[0] > 0
    kept, wanted, for_later, held_back = np.zeros(n), np.zeros(n), np.zeros(n), np.zeros(n)
    for c in range(first, last):
        d, p, limit, cut, reserve, x, b = (
            used[rows[0, c]],
            sun[rows[1, c]],
            limits[rows[2, c]],
            cuts[rows[3, c]],
            reserves[rows[4, c]],
            clips[rows[5, c]],
            table[c],
        )
        energy, low, top, eta_in, eta_out = b[ENERGY], b[MINIMUM] * b[ENERGY], b[MAXIMUM] * b[ENERGY], b[ETA_IN], b[ETA_OUT]
        rate, most, discharges, output = eta_in / b[ETA_GRID], b[CHARGE], b[DISCHARGE], b[OUTPUT]
        by_prices = prices.size > 0
        kept[:] = low
        wanted[:] = low if by_prices or for_peaks else top
        if by_prices:
            _by_prices(d, p, x, b, prices, from_grid, ahead, step, kept, wanted)
        if for_peaks:
            # Own use leaves all that the sun does not bring back in time: what the grid gives again costs more than it saved. Prices know better.
            if by_yesterday:
                for_later[:] = later[c]
            else:
                _kept_for_peaks(d, p, x, b, limit, from_grid and by_prices, step, for_later)
            for t in range(n):
                kept[t] = max(kept[t], for_later[t])
            if not by_yesterday:
                _kept_for_peaks(d, p, x, b, limit, from_grid, step, for_later)
            for t in range(n):
                wanted[t] = max(wanted[t], for_later[t])
        held_back[:] = 0.0
        if output < np.inf:
            _held_back_later(p, x, b, step, held_back)
        stored, gap, runs, is_charging = b[INITIAL] * energy, 0.0, False, False
        if not keeps_flows:
            sums[11, c] = stored
        for t in range(n):
            stored -= stored * min(b[LEAK] * step, 1.0)
            charge = discharge = imported = exported = lost = unmet = made = brought = 0.0
            # What the inverter does not pass can be stored alone.
            out = min(p[t], output)
            net, beyond = d[t] - out, p[t] - out + x[t]
            able = min(_spare(discharges, output, out, x[t]), max(stored - low, 0.0) * eta_out / step)
            fits = max(top - stored, 0.0) / eta_in / step
            if there[t]:
                charge, discharge, imported, exported, lost, brought = _at_the_grid(
                    net, beyond, held_back[t], eta_in, eta_out, rate, top, stored, able, most, fits, limit[t], cut[t], kept[t], wanted[t], reserve[t] * energy, serves, from_grid, clipped_only, step,
                )  # fmt: skip
            else:
                largest = power[c] if allowed[t] else 0.0
                share = stored / energy if energy > 0.0 else 0.0
                if largest > 0.0 and machine[1] > machine[0]:
                    if share <= machine[0] + TINY:
                        is_charging = True
                    elif share >= machine[1] - TINY:
                        is_charging = False
                else:
                    is_charging = False
                short, own = max(net, 0.0), min(max(-net, 0.0) + beyond, min(most, fits))
                # What a generator can store beside the sun.
                room = max(min(most - own, (fits - own) * rate), 0.0)
                if is_charging:
                    made = min(largest, short + room)
                elif short > able:
                    made = min(largest, short - able)
                if made > 0.0:
                    made = max(made, min(machine[2] * largest, largest))
                if made < short:
                    discharge = min(short - made, able)
                    unmet = short - made - discharge
                else:
                    brought = min(made - short, room)
                if discharge == 0.0:
                    charge = own + brought
                lost = max(-net, 0.0) + beyond + max(made - short, 0.0) - charge
            stored += _gained(charge, brought, eta_in, rate, step) - discharge * step / eta_out
            if stored < 0.0:
                stored = 0.0
            if keeps_flows:
                found[0, c, t], found[1, c, t], found[2, c, t], found[3, c, t] = charge, discharge, stored, imported
                found[4, c, t], found[5, c, t], found[6, c, t], found[7, c, t] = exported, lost, unmet, made
                found[8, c, t] = brought
                continue
            sums[0, c] += charge * step
            sums[1, c] += discharge * step
            sums[2, c] += imported * step
            sums[3, c] += exported * step
            sums[4, c] += lost * step
            sums[5, c] += unmet * step
            sums[6, c] += made * step
            if unmet > 1e-9:
                gap += step
                sums[7, c] += step
                sums[8, c] = max(sums[8, c], gap)
            else:
                gap = 0.0
            if made > 0.0:
                sums[9, c] += step
                if not runs:
                    sums[10, c] += 1.0
            runs = made > 0.0
            sums[11, c] = min(sums[11, c], stored)
            sums[12, c] += stored / n
            sums[13, c] = max(sums[13, c], imported)


@njit(cache=True, nogil=True)
def balance_years(produced, demand, own_use, charge, discharge, curtailed, unmet, hours, found):
    """Energies at the meter of what batteries did, from powers of (years, intervals): made, direct, stored of the sun and otherwise, given again, brought, exported, cut and missing, (9, years, intervals) into `found`."""
    for k in range(found.shape[1]):
        for t in range(found.shape[2]):
            into, out = charge[k, t] * hours, discharge[k, t] * hours
            # Of what is lost the sun's part is the sun's; the rest ran through a generator at its least load.
            cut, missing = min(curtailed[k, t] * hours, produced[k, t]), unmet[k, t] * hours
            wanted, made = demand[k, t] + own_use[k, t] - missing, produced[k, t] - cut
            direct = min(made, wanted)
            of_sun = min(into, made - direct)
            found[0, k, t], found[1, k, t], found[2, k, t], found[3, k, t], found[4, k, t] = (
                made,
                direct,
                of_sun,
                into - of_sun,
                out,
            )
            # What is left of nothing by rounding is nothing.
            found[5, k, t] = max(wanted - direct - out + into - of_sun, 0.0)
            found[6, k, t] = max(made - direct - of_sun, 0.0)
            found[7, k, t], found[8, k, t] = cut, missing
