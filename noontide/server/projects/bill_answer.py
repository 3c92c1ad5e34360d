"""The bill of materials as an answer."""

from typing import Literal

from pydantic import BaseModel, ConfigDict

from noontide.core.costs.bill import Bill


class BillRow(BaseModel):
    model_config = ConfigDict(from_attributes=True)

    kind: str
    maker: str
    name: str
    use: str
    count: float
    unit: Literal["pcs", "m"]
    mass: float | None
    price_each: float | None
    price: float | None
    warranty: float | None
    note: str


class BillAnswer(BaseModel):
    """Every part of the plant; sums are of what is known."""

    revision: int
    currency: str
    lines: list[BillRow]
    mass: float
    price: float
    without_price: int


def bill_answer(bill: Bill, revision: int) -> BillAnswer:
    """The bill as an answer."""
    lines = [BillRow.model_validate(line) for line in bill.lines]
    return BillAnswer(
        revision=revision,
        currency=bill.currency,
        lines=lines,
        mass=bill.mass,
        price=bill.price,
        without_price=bill.without_price,
    )
