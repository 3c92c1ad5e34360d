"""What a cable costs over the years, by its section: purchase, and the energy that it keeps."""

from collections.abc import Iterable
from math import sqrt

from noontide.core.electrical.cables import SectionCost, economic_sections, present_value_factor
from noontide.core.electrical.datasheets import Cable
from noontide.core.electrical.wiring import squares_with_neutral
from noontide.core.simulation.cables_in_use import SizedRun
from noontide.core.simulation.phases import power_on_phases
from noontide.core.simulation.results import Results


def costs_of(results: Results, run: SizedRun, cables: Iterable[Cable]) -> list[SectionCost]:
    """The sections that serve for a run, each with purchase and present value of its loss; none where the library has no prices."""
    money = results.design.money
    prices = {}
    for cable in cables:
        price = money.worth(cable.price, cable.currency)
        if price is not None and (times := times_laid(run, cable)):
            prices[cable.section] = times * price
    factor = present_value_factor(money.years, money.interest)
    return economic_sections(
        run.route, run.run.drop_limit, prices, _square_current_hours(results, run), money.energy_value, factor
    )


def times_laid(run: SizedRun, cable: Cable) -> int:
    """How many of a cable lie side by side for a run, with neutral and protective conductor; 0 where it does not serve."""
    route = run.route
    if cable.conductor != route.material or cable.is_photovoltaic != route.flexible:
        return 0
    if run.is_dc:
        return 2 if cable.cores == 1 else 0
    wanted = 5 if route.conductors == 3 else 3
    if route.material == "aluminium":
        return wanted if cable.cores == 1 else 0
    return 1 if cable.cores == wanted else 0


def _square_current_hours(results: Results, run: SizedRun) -> float:
    """Sum over the year of the square of a conductor's current by time [A2 h]."""
    hours, plant = results.sky.hours_per_interval, results.plant
    if run.is_dc:
        k = plant.subarray_ids.index(run.owner)
        current = results.subarray(k).point.current / (plant.subarrays[k].strings if run.kind == "string" else 1)
        return float((current**2).sum()) * hours
    connection = results.design.connection
    if run.kind == "AC main":
        # What makes the loss of all conductors, as the current of the fullest phase at `loss_conductors`.
        powers = power_on_phases(results.cables.phases.on_phase, [unit.delivered for unit in results.grid])
        squares = squares_with_neutral(powers / (connection.phase_voltage * connection.power_factor))
        return float(squares.sum()) * hours / run.route.loss_conductors
    ways = run.route.voltage * connection.power_factor * (sqrt(3) if run.route.conductors == 3 else 1)
    i = plant.inverter_ids.index(run.owner)
    power = results.grid[i].ac * plant.sets[i].count / run.count
    return float(((power / ways) ** 2).sum()) * hours
