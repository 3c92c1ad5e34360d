"""A battery of the library for a size."""

from typing import Any

from noontide.core.electrical import Catalogue
from noontide.core.finding.on_sale import on_sale
from noontide.core.money.terms import Money

NEAR = 0.25  # of the size, within which a battery is near enough to be chosen by its price
BUS_VOLTAGE = 40.0  # V, below which batteries are made for buses of 12 and 24 V, and not for an inverter at the grid


def battery_for(energy: float, parts: Catalogue, money: Money) -> tuple[dict[str, Any], str]:
    """A bank of a usable energy [kWh] as the design keeps it, and what it is in words.

    Of the batteries on sale for an inverter at the grid, as many in parallel as come nearest; of those near enough the one whose energy
    costs least, otherwise the nearest. Where the library has none, one of that size alone.
    """
    ranked = []
    for key, sheet in on_sale(parts.batteries).items():
        if sheet.voltage < BUS_VOLTAGE:
            continue
        each = sheet.capacity / 1000
        count = max(round(energy / each), 1)
        off, price = abs(count * each / energy - 1), money.worth(sheet.price, sheet.currency)
        ranked.append((off > NEAR, off if off > NEAR else 0.0, float("inf") if price is None else price / each, off, key, count))
    if not ranked:
        return {"energy": round(energy, 1)}, f"{energy:.3g} kWh"
    *_, key, count = min(ranked)
    sheet = parts.batteries[key]
    bank = {"model": key} | ({"parallel": count} if count > 1 else {})
    return bank, f"{count} × {sheet.maker} {sheet.name}, {count * sheet.capacity / 1000:.3g} kWh"
