"""Figures of an investment from its yearly flows: net present value, internal rate of return, payback, levelised cost."""

from collections.abc import Callable
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.optimize import brentq

Floats = NDArray[np.float64]
LOWEST_RATE, HIGHEST_RATE = -0.99, 2.0  # between which rates of return are looked for
TANGENT = 1e-12  # of the sum of the terms' sizes, under which the value at a turning point counts as zero


def npv(rate: ArrayLike, flows: ArrayLike) -> Floats:
    """Net present value of yearly flows.

    Parameters
    ----------
    rate : (...,)
        Of interest a year, above -1.
    flows : (..., years + 1)
        flows[0] at once, flows[t] at the end of year t.

    Raises
    ------
    ValueError
        If a rate is -1 or less, or there is no flow.

    References
    ----------
    Short, Packey and Holt (1995), NREL/TP-462-5173, eq. 3-1.
    """
    return np.asarray(np.sum(np.asarray(flows, dtype=float) * _discounts(rate, flows), axis=-1))


def irr(flows: ArrayLike) -> tuple[float, ...]:
    """Internal rates of return: every rate between -0.99 and 2 at which the net present value is zero, rising.

    Flows that change their sign once have one at most; others can have several, or none. Flows that are all zero have none.

    Notes
    -----
    The value is a polynomial in v = 1 / (1 + rate). Between the roots of its derivative it is monotone, so that nothing is missed:
    the derivatives are searched from the highest down. A root where the curve only touches zero is found as a turning point.

    References
    ----------
    Norstrom (1972), J. Financial and Quantitative Analysis 7, 1835-1839, on how many there can be.
    """
    terms = np.trim_zeros(np.asarray(flows, dtype=float), "b")
    if not np.isfinite(terms).all():
        raise ValueError("a flow is not a number")
    if terms.size < 2:
        return ()
    terms = terms / np.abs(terms).max()
    low, high = 1 / (1 + HIGHEST_RATE), 1 / (1 + LOWEST_RATE)
    signs = np.sign(terms[terms != 0])
    if np.count_nonzero(np.diff(signs)) == 1:
        # By Descartes' rule there is one root above zero, and it is simple.
        value = _polynomial(terms)
        if value(low) * value(high) > 0:
            return ()
        return (1 / float(brentq(value, low, high, xtol=1e-15, rtol=8.9e-16)) - 1,)
    return tuple(sorted(1 / v - 1 for v in _roots(terms, low, high)))


def _roots(terms: Floats, low: float, high: float) -> list[float]:
    """Roots of sum(terms[k] v^k) in [low, high], rising, each once."""
    terms = np.trim_zeros(terms, "b")
    if terms.size < 2:
        return []
    powers = np.arange(terms.size)
    turns = _roots(terms[1:] * powers[1:], low, high)
    ends = [low, *turns, high]

    value, size = _polynomial(terms), _polynomial(np.abs(terms))

    def is_zero(v: float) -> bool:
        return abs(value(v)) <= TANGENT * size(v)

    found: list[float] = []
    for a, b in pairwise(ends):
        if is_zero(a):
            found.append(a)
        elif not is_zero(b) and value(a) * value(b) < 0:
            found.append(float(brentq(value, a, b, xtol=1e-15, rtol=8.9e-16, maxiter=300)))
    if is_zero(high):
        found.append(high)
    return [v for k, v in enumerate(found) if k == 0 or v - found[k - 1] > 1e-12 * v]


def _polynomial(terms: Floats) -> Callable[[float], float]:
    """sum(terms[k] v^k) of one number; plain floats, which for the few years of a plant are ten times as fast as arrays."""
    backwards = terms[::-1].tolist()

    def value(v: float) -> float:
        found = 0.0
        for term in backwards:
            found = found * v + term
        return found

    return value


def counting_rate(flows: ArrayLike) -> float | None:
    """The rate of return that counts where there are several: that of flows whose running sum changes its sign once; None where it does not.

    References
    ----------
    Norstrom (1972): such flows have one positive rate of return.
    """
    roots = irr(flows)
    if len(roots) == 1:
        return roots[0]
    running = np.cumsum(np.asarray(flows, dtype=float))
    signs = np.sign(running[np.abs(running) > 0])
    positive = [root for root in roots if root > 0]
    if len(positive) == 1 and np.count_nonzero(np.diff(signs)) == 1 and running[-1] > 0:
        return positive[0]
    return None


def payback(flows: ArrayLike, rate: float = 0.0) -> float | None:
    """Years until the sum of the flows, discounted by the rate, is no longer negative; linear within a year. None when it never is.

    References
    ----------
    Short, Packey and Holt (1995), NREL/TP-462-5173, section 3.6.
    """
    values = np.asarray(flows, dtype=float)
    running = running_sum(values, rate)
    paid = np.flatnonzero(running >= -1e-12 * max(float(np.abs(values).max()), 1e-300))
    if not paid.size:
        return None
    t = int(paid[0])
    if t == 0:
        return 0.0
    return t - 1 + float(-running[t - 1] / (running[t] - running[t - 1]))


def lcoe(costs: ArrayLike, energies: ArrayLike, rate: ArrayLike) -> Floats:
    """Levelised cost of energy: the price of a kWh at which what is earned pays what it costs.

    Parameters
    ----------
    costs, energies : (..., years + 1)
        At once and at the end of each year; energies [kWh].

    Raises
    ------
    ValueError
        If there is no energy.

    References
    ----------
    Short, Packey and Holt (1995), NREL/TP-462-5173, eq. 4-2.
    """
    energy = npv(rate, energies)
    if np.any(energy <= 0):
        raise ValueError("Without energy there is no cost of it.")
    return np.asarray(npv(rate, costs) / energy)


def annuity(rate: ArrayLike, years: ArrayLike) -> Floats:
    """The equal payment at the end of every year that pays back a loan of 1, interest included (capital recovery factor).

    Raises
    ------
    ValueError
        If a rate is -1 or less, or the years are not above 0.

    References
    ----------
    Short, Packey and Holt (1995), NREL/TP-462-5173, eq. 2-10.
    """
    r, n = np.asarray(rate, dtype=float), np.asarray(years, dtype=float)
    if np.any(r <= -1) or not np.isfinite(r).all():
        raise ValueError(f"The rate must be above -1; it is {_first(r, r <= -1):g}.")
    if np.any(n <= 0):
        raise ValueError(f"The years must be above 0; they are {_first(n, n <= 0):g}.")
    grown = np.expm1(n * np.log1p(r))
    with np.errstate(divide="ignore", invalid="ignore"):
        found = r * (grown + 1) / grown
    return np.asarray(np.where(np.abs(grown) < 1e-14, 1 / n, found))


def _discounts(rate: ArrayLike, flows: ArrayLike) -> Floats:
    r, years = np.asarray(rate, dtype=float), np.shape(flows)[-1] if np.ndim(flows) else 0
    if not years:
        raise ValueError("There is no flow: give at least what is paid at once.")
    if np.any(r <= -1) or not np.isfinite(r).all():
        raise ValueError(f"The rate must be above -1; it is {_first(r, ~(r > -1)):g}.")
    return np.asarray((1 + r[..., np.newaxis]) ** -np.arange(years, dtype=float))


def _first(values: Floats, wrong: NDArray[np.bool_]) -> float:
    return float(np.broadcast_to(values, wrong.shape)[wrong].flat[0]) if wrong.any() else float("nan")


def running_sum(flows: ArrayLike, rate: float = 0.0) -> Floats:
    """The sum of the flows to each year, discounted by the rate, (years + 1,)."""
    values = np.asarray(flows, dtype=float)
    return np.asarray(np.cumsum(values * _discounts(rate, values)))
