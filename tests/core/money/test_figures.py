"""Figures of an investment against closed forms, and in words where there is none."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.money.figures import annuity, counting_rate, irr, lcoe, npv, payback

rates = st.floats(-0.5, 1.5)


def test_a_loan_by_hand():
    """1,000 at once and three times 402.11 at 10 %: the annuity of the textbook."""
    assert annuity(0.10, 3) * 1000 == pytest.approx(402.1148, abs=1e-4)
    assert npv(0.10, [-1000, *[402.114803625] * 3]) == pytest.approx(0, abs=1e-6)
    assert irr([-1000, *[402.114803625] * 3]) == pytest.approx((0.10,), abs=1e-9)
    assert annuity(0, 25) == pytest.approx(1 / 25, rel=1e-12)
    assert annuity(1e-12, 25) == pytest.approx(1 / 25, rel=1e-9)


@given(rates, st.integers(1, 60))
def test_an_annuity_pays_back_its_loan(rate, years):
    payment = float(annuity(rate, years))
    assert npv(rate, [-1.0, *[payment] * years]) == pytest.approx(0, abs=1e-9 * max(1, (1 + rate) ** -years))


@given(st.lists(rates, min_size=1, max_size=4, unique_by=lambda r: round(r, 2)), st.floats(0.1, 1000))
def test_every_rate_of_return_is_found(roots, scale):
    """Flows made of their roots: the product of (v (1 + r) - 1)."""
    flows = np.array([scale])
    for root in roots:
        flows = np.convolve(flows, [-1.0, 1 + root])
    found = irr(flows)
    assert len(found) == len(roots)
    assert found == pytest.approx(sorted(roots), abs=1e-6)


def test_flows_without_a_rate_with_several_and_with_none_at_all():
    assert irr([0, 0, 0]) == () == irr([5.0]) == irr([])
    assert irr([100, 50, 50]) == () == irr([-100, -10])
    assert irr([-1000, 2100, -1102.5]) == pytest.approx((0.05,), abs=1e-6), "it only touches zero"
    two = irr([-1000, 2300, -1320])  # 10 % and 20 %, the textbook's pump
    assert two == pytest.approx((0.10, 0.20), abs=1e-9)
    assert counting_rate([-1000, 2300, -1320]) is None
    assert counting_rate([-1000, 300, 400, 500, -50, 300]) == pytest.approx(irr([-1000, 300, 400, 500, -50, 300])[-1])
    with pytest.raises(ValueError, match="not a number"):
        irr([-1, float("nan")])


@given(st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=40))
def test_what_is_called_a_rate_of_return_is_one(flows):
    for rate in irr(flows):
        assert -0.99 - 1e-9 <= rate <= 2 + 1e-9
        size = npv(rate, np.abs(flows))
        assert abs(npv(rate, flows)) <= 1e-7 * max(float(size), 1e-12)


def test_payback_within_a_year_at_once_and_never():
    assert payback([-1000, 400, 400, 400]) == pytest.approx(2.5)
    assert payback([-1000, 440, 484, 532.4], rate=0.10) == pytest.approx(2.5)
    assert payback([0, 1]) == payback([10, -5]) == 0
    assert payback([-10, 1, 1]) is None
    assert payback([-10, 5, 5]) == 2


@given(rates, st.floats(1, 1e6), st.integers(1, 40))
def test_at_the_levelised_cost_an_investment_is_worth_nothing(rate, cost, years):
    energies = np.array([0.0, *[1000.0 * 0.995**t for t in range(years)]])
    costs = np.array([cost, *[cost / 50] * years])
    price = float(lcoe(costs, energies, rate))
    assert npv(rate, price * energies - costs) == pytest.approx(0, abs=1e-9 * float(npv(rate, costs)))


def test_shapes_broadcast_and_nonsense_is_named():
    flows = np.array([[-100.0, 60, 60], [-100.0, 50, 50]])
    assert npv([[0.0], [0.1]], flows).shape == (2, 2)
    assert npv(0.0, flows) == pytest.approx([20, 0])
    assert lcoe([[100, 0], [200, 0]], [0, 1000], 0.0) == pytest.approx([0.1, 0.2])
    for wrong, words in (
        (lambda: npv(-1, [1, 2]), "above -1; it is -1"),
        (lambda: npv(0.1, []), "no flow"),
        (lambda: lcoe([1, 1], [0, 0], 0.05), "Without energy"),
        (lambda: annuity(0.05, 0), "above 0"),
    ):
        with pytest.raises(ValueError, match=words):
            wrong()
