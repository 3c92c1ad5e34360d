"""Cash of an investment against textbook calculations and its own invariants."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.money.cash import LOANS, PURCHASE, RELIEF, REPLACED, REST, SAVING, UPKEEP, Sizes, cash_of
from noontide.core.money.figures import annuity, npv
from noontide.core.money.terms import Money

SIZES = Sizes(dc_power=10.0, modules=24, inverters=2, area=48.0)


def cash(saving=1000.0, last=None, energy=10_000.0, degradation=0.0, materials=5000.0, **money):
    return cash_of(Money.model_validate(money), SIZES, materials, energy, degradation, saving, saving if last is None else last)


def test_the_purchase_adds_up_line_by_line():
    found = cash(
        costs={
            "a": {"amount": 300, "per": "kW"}, "b": {"amount": 10, "per": "module"}, "c": {"amount": 100, "per": "inverter"},
            "d": {"amount": 5, "per": "m²"}, "e": {"amount": 250}, "f": {"amount": 1e6, "is_on": False},
        },
        contingency=10, purchase_tax=20,
    ).purchase  # fmt: skip
    # 5000 + 3000 + 240 + 200 + 240 + 250 = 8930; + 10 % = 9823; + 20 % = 11787.60
    assert found.total == found.estimated == pytest.approx(11_787.60)


def test_an_own_figure_counts_and_the_estimate_stays():
    found = cash(own_purchase=7777.0)
    assert found.purchase.total == 7777 and found.purchase.estimated == 5000
    assert found.flows[PURCHASE][0] == -7777


def test_a_saving_grows_with_prices_and_falls_with_the_yield():
    found = cash(saving=1000, last=900, years=11, price_change=2)
    years = np.arange(11)
    assert found.flows[SAVING][1:] == pytest.approx((1000 - 10 * years) * 1.02**years)


def test_constant_flows_have_the_textbook_figures():
    found = cash(saving=1000, own_purchase=8000.0, years=20, interest=4)
    factor = (1 - 1.04**-20) / 0.04
    assert found.net_present_value == pytest.approx(1000 * factor - 8000, abs=1e-9)
    assert found.payback == pytest.approx(8)
    assert found.discounted_payback == pytest.approx(np.log(1 / (1 - 8000 * 0.04 / 1000)) / np.log(1.04), abs=0.02)
    assert npv(found.rate_of_return, found.total) == pytest.approx(0, abs=1e-6)
    assert found.levelised_cost == pytest.approx(8000 / (10_000 * factor), rel=1e-12)


def test_ageing_enters_the_levelised_cost_by_the_energy_of_each_year():
    found = cash(energy=10_000, degradation=0.01, own_purchase=8000.0, years=3, interest=0)
    assert found.energies.tolist() == pytest.approx([0, 10_000, 9_900, 9_800])
    assert found.levelised_cost == pytest.approx(8000 / 29_700)


@given(st.floats(0.5, 15), st.integers(1, 40), st.integers(1, 30), st.sampled_from(["annuity", "bullet"]))
def test_a_loan_at_the_rate_that_is_counted_with_changes_no_value(interest, loan_years, years, repayment):
    """Also one that runs longer than the years that are counted: what is owed then is paid."""
    plain = cash(own_purchase=9000.0, years=years, interest=interest)
    lent = cash(
        own_purchase=9000.0, years=years, interest=interest,
        loans={"bank": {"share": 60, "interest": interest, "years": loan_years, "repayment": repayment}},
    )  # fmt: skip
    assert lent.net_present_value == pytest.approx(plain.net_present_value, abs=1e-6)
    assert lent.levelised_cost == pytest.approx(plain.levelised_cost)


def test_a_loan_pays_its_annuity():
    found = cash(own_purchase=10_000.0, years=15, loans={"bank": {"share": 50, "interest": 5, "years": 10}})
    assert found.flows[LOANS][0] == 5000
    assert found.flows[LOANS][1:11] == pytest.approx(np.full(10, -5000 * float(annuity(0.05, 10))))
    assert found.flows[LOANS][11:].tolist() == [0] * 5


def test_yearly_costs_replacements_relief_and_rest_fall_into_their_years():
    found = cash(
        own_purchase=10_000.0, years=12, cost_change=10,
        upkeep={"a": {"amount": 1, "per": "% of purchase"}, "b": {"amount": 50}},
        replacements={"inverter": {"amount": 100, "per": "inverter", "every": 4}},
        tax_relief={"r": {"share": 100, "years": 5, "rate": 30}}, grants={"g": {"amount": 500, "share": 10}}, rest_value=5,
    )  # fmt: skip
    assert found.flows[UPKEEP][[1, 2]] == pytest.approx([-150, -165])
    assert np.flatnonzero(found.flows[REPLACED]).tolist() == [4, 8]  # in the last year nothing is replaced any more
    assert found.flows[REPLACED][4] == pytest.approx(-200 * 1.1**3)
    assert found.flows[RELIEF][:7].tolist() == pytest.approx([0, 600, 600, 600, 600, 600, 0])
    assert found.flows[REST][-1] == 500
    assert found.total[0] == pytest.approx(-10_000 + 1500)
    assert found.total == pytest.approx(sum(found.flows.values()))


def test_what_never_pays_has_no_payback_and_no_rate():
    found = cash(saving=0, own_purchase=100.0)
    assert (found.payback, found.discounted_payback, found.rate_of_return) == (None, None, None)
    assert cash(energy=0.0).levelised_cost is None


def test_one_currency_and_a_tariff_with_it():
    tariff = {"energy": {"price": 0.3}, "currency": "CHF"}
    with pytest.raises(ValueError, match="is in CHF and the design in EUR"):
        Money.model_validate({"tariff": tariff})
    with pytest.raises(ValueError, match="needs one with it"):
        Money.model_validate({"currency": "CHF", "tariff_before": tariff})
    assert Money.model_validate({"currency": "CHF", "tariff": tariff}).is_counted
