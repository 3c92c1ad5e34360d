"""The search against published test functions, with stated budgets; chance alone with the same budget; and what can be counted by hand."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from noontide.core.trials.search import Dimension, Search, crowding, dominates, fronts, searched

REAL = Dimension()
MIXED = [Dimension(21), REAL, Dimension(4, is_ordered=False)]


def along(shares, low, high):
    return low + shares * (high - low)


def sphere(shares):
    return [np.sum((along(shares, -5, 5) - 1.3) ** 2)]


def rosenbrock(shares):
    """Rosenbrock 1960."""
    x = along(shares, -2.048, 2.048)
    return [np.sum(100 * (x[1:] - x[:-1] ** 2) ** 2 + (1 - x[:-1]) ** 2)]


def rastrigin(shares):
    """Rastrigin 1974: many wells."""
    x = along(shares, -5.12, 5.12)
    return [10 * len(x) + np.sum(x**2 - 10 * np.cos(2 * np.pi * x))]


def ackley(shares):
    """Ackley 1987."""
    x = along(shares, -32, 32)
    return [-20 * np.exp(-0.2 * np.sqrt(np.mean(x**2))) - np.exp(np.mean(np.cos(2 * np.pi * x))) + 20 + np.e]


def branin(shares):
    """Branin 1972, less its least value 0.397887."""
    x, y = -5 + 15 * shares[0], 15 * shares[1]
    return [(y - 5.1 / (4 * np.pi**2) * x**2 + 5 / np.pi * x - 6) ** 2 + 10 * (1 - 1 / (8 * np.pi)) * np.cos(x) + 10 - 0.397887]


def mixed(shares):
    """A whole number, a real one and a choice; 0 at 13, 0.7 and the third."""
    whole, real, choice = int(shares[0] * 21), along(shares[1], -2, 2), int(shares[2] * 4)
    return [0.1 * (whole - 13) ** 2 + (real - 0.7) ** 2 + (3, 1, 0, 2)[choice]]


def zdt1(shares):
    """Zitzler, Deb and Thiele 2000: its front is 1 - sqrt(x)."""
    g = 1 + 9 * np.mean(shares[1:])
    return [shares[0], g * (1 - np.sqrt(shares[0] / g))]


# The optimum is found to within `near` in 9 of 10 seeds.
@pytest.mark.parametrize(
    ("function", "dimensions", "budget", "near"),
    [
        pytest.param(sphere, [REAL] * 5, 500, 0.05, id="sphere, 5 values"),
        pytest.param(rosenbrock, [REAL] * 2, 500, 0.03, id="Rosenbrock, 2 values"),
        pytest.param(rastrigin, [REAL] * 3, 1500, 1.01, id="Rastrigin, 3 values: the best well or one beside it"),
        pytest.param(ackley, [REAL] * 4, 1200, 0.05, id="Ackley, 4 values"),
        pytest.param(branin, [REAL] * 2, 200, 0.1, id="Branin, 2 values"),
        pytest.param(mixed, MIXED, 250, 0.001, id="whole, real and choice"),
    ],
)
def test_a_published_function_is_solved_and_chance_is_worse(function, dimensions, budget, near):
    found, better = [], 0
    for seed in range(10):
        _, worse = searched(function, dimensions, budget, seed)
        assert len(worse) == budget
        chance = np.random.default_rng(seed)
        by_chance = min(
            function(
                np.array([one.snapped(share) for one, share in zip(dimensions, chance.random(len(dimensions)), strict=True)])
            )[0]
            for _ in range(budget)
        )
        found.append(worse.min())
        better += worse.min() < by_chance
    assert np.sort(found)[8] < near
    assert better >= 9


def test_the_front_of_two_aims_is_found_over_its_whole_length():
    _, worse = searched(zdt1, [REAL] * 6, 1500, seed=1)
    on_front = worse[fronts(worse, np.zeros(len(worse))) == 0]
    assert np.mean(np.abs(on_front[:, 1] - (1 - np.sqrt(on_front[:, 0])))) < 0.05
    assert on_front[:, 0].min() < 0.02 and on_front[:, 0].max() > 0.95 and len(on_front) > 50


def test_a_seed_comes_again_and_another_does_not():
    runs = [searched(mixed, MIXED, 60, seed)[0] for seed in (3, 3, 4)]
    assert np.array_equal(runs[0], runs[1]) and not np.array_equal(runs[0], runs[2])


@given(counts=st.lists(st.integers(1, 5), min_size=1, max_size=3), budget=st.integers(1, 200), seed=st.integers(0, 99))
@settings(max_examples=40, deadline=None)
def test_no_design_is_asked_for_twice_and_a_small_study_is_tried_whole(counts, budget, seed):
    shares, _ = searched(lambda s: [float(np.sum(s))], [Dimension(count) for count in counts], budget, seed)
    assert len({tuple(one) for one in shares}) == len(shares) == min(budget, np.prod(counts))


def test_limits_come_before_aims():
    """The least x that keeps x at 0.6 or more."""
    search = Search([REAL], 150, seed=2)
    best = np.inf
    while len(shares := search.ask()):
        broken = np.maximum(0, 0.6 - shares[:, 0])
        search.tell(shares, shares, broken)
        if np.any(broken == 0):
            best = min(best, shares[broken == 0].min())
    assert 0.6 <= best < 0.605


def test_a_run_without_figures_ends_no_search():
    search = Search([REAL, REAL], 80, seed=1)
    asked = 0
    while len(shares := search.ask()):
        worse = np.where(shares[:, :1] > 0.5, np.inf, shares[:, :1] ** 2 + shares[:, 1:])
        search.tell(shares, worse, np.where(shares[:, 0] > 0.5, np.inf, 0.0))
        asked += len(shares)
    assert asked == 80


points = st.lists(st.tuples(st.integers(0, 6), st.integers(0, 6), st.sampled_from([0, 0, 1])), min_size=1, max_size=25)


@given(points)
def test_a_front_is_those_that_none_left_is_better_than(some):
    worse, broken = np.array([p[:2] for p in some], dtype=float), np.array([p[2] for p in some], dtype=float)
    rank = fronts(worse, broken)
    for a, b in itertools.permutations(range(len(some)), 2):
        if dominates(worse[a], broken[a], worse[b], broken[b]):
            assert rank[a] < rank[b]
    for k in np.flatnonzero(rank):
        assert any(rank[a] == rank[k] - 1 and dominates(worse[a], broken[a], worse[k], broken[k]) for a in range(len(some)))


def test_the_ends_of_a_front_are_the_loneliest():
    found = crowding(np.array([[0.0, 4.0], [1.0, 3.0], [3.9, 0.1], [4.0, 0.0]]))
    # By hand: neighbours of the second are 3.9 apart of 4 in both, of the third 3 of 4.
    assert found.tolist() == [np.inf, pytest.approx(2 * 3.9 / 4), pytest.approx(2 * 3 / 4), np.inf]
