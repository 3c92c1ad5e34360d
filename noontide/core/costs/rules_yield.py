"""The yield that a scheme of rules counts, by its table, beside the simulated one."""

from dataclasses import dataclass

from noontide.core.simulation.results import Results


@dataclass(frozen=True)
class RulesYield:
    """A sub-array by the table: its power, and what a kW of it is counted to yield; None outside the table."""

    key: str
    name: str
    power: float  # [kW]
    yield_of_kw: float | None  # [kWh/kW]


def rules_yields(r: Results) -> list[RulesYield]:
    """Every sub-array by the table of the design; none without a table."""
    table = r.design.money.yield_table
    if table is None:
        return []
    equator = 180.0 if r.design.site.latitude >= 0 else 0.0
    found = []
    for k, (key, subarray) in enumerate(zip(r.plant.subarray_ids, r.plant.subarrays, strict=True)):
        surface = r.design.surfaces[subarray.surface]
        moves = surface.tracking or surface.two_axis_tracking or surface.seasonal_tilt
        each = None if moves else table.yield_at(surface.tilt, surface.azimuth, equator)
        found.append(RulesYield(key, subarray.name, float(r.plant.module_counts[k] * r.plant.module_powers[k]) / 1000, each))
    return found


def rules_yield(r: Results) -> float | None:
    """Yield of the plant by the table, with its shade factor [kWh]; None without a table, or with a surface outside it."""
    table, found = r.design.money.yield_table, rules_yields(r)
    if table is None or any(one.yield_of_kw is None for one in found):
        return None
    return sum(one.power * one.yield_of_kw for one in found if one.yield_of_kw is not None) * table.shade_factor
