"""Money: what energy is worth by a tariff, and the figures of an investment."""

from noontide.core.money.billing import Bill, BillLine, bill
from noontide.core.money.figures import annuity, irr, lcoe, npv, payback
from noontide.core.money.tariff import Tariff, read_tariff

__all__ = ["Bill", "BillLine", "Tariff", "annuity", "bill", "irr", "lcoe", "npv", "payback", "read_tariff"]
