"""The year's voltages of strings of every length near the present one, on the inverter's scale."""

import numpy as np

from noontide.core.checks import limits_of
from noontide.core.checks.strings import lowest_temperature
from noontide.core.electrical.fitting import fit_module
from noontide.core.electrical.single_diode import circuit, open_circuit_voltage
from noontide.core.simulation import Results
from noontide.server.projects.api_models import VoltageAnswer, VoltageRow

BIN = 10.0  # V


def voltages_of(results: Results, subarray: str, revision: int = 0) -> VoltageAnswer:
    """The year's voltages of a sub-array's string at every length near its own, on the inverter's scale.

    Raises
    ------
    KeyError
        If there is no such sub-array.
    """
    if subarray not in results.plant.subarray_ids:
        raise KeyError(subarray)
    k = results.plant.subarray_ids.index(subarray)
    inverter, module = results.plant.inverters[results.plant.inverter_of[k]], results.plant.modules[k]
    limits, power = limits_of(results)[k], results.modules[k]
    working = power.voltage
    opened = open_circuit_voltage(circuit(fit_module(module).parameters, results.effective[k].mean, power.cell_temperature))
    lit = power.maximum > 0.002 * module.power
    hours = results.calendar.hours_per_interval
    own = results.plant.subarrays[k].modules_per_string
    first = max(1, min(own, max(limits.most, 1)) - 4)
    lengths = sorted({*range(first, first + 7), own})
    edges = np.arange(0, limits.maximum_voltage * 1.18 + BIN, BIN)

    def row(n: int) -> VoltageRow:
        why = ""
        if n > limits.most:
            why = f"Voc {n * limits.cold_voc:,.0f} V at {limits.lowest:.0f} °C".replace("-", "\u2212")
        elif n < limits.start_fewest:
            why = f"Voc {n * limits.hot_voc:,.0f} V at {limits.highest_cell:.0f} °C cell temperature, below the start voltage"
        elif n < limits.fewest:
            why = f"Vmp {n * limits.hot_vmp:,.0f} V at {limits.highest_cell:.0f} °C cell temperature"
        return VoltageRow(
            length=n,
            working=(np.histogram(working[lit] * n, edges)[0] * hours).tolist(),
            open_circuit=(np.histogram(opened[lit] * n, edges)[0] * hours).tolist(),
            cold_open_circuit=n * limits.cold_voc,
            hot_working=n * limits.hot_vmp,
            fits=not why,
            why=why,
        )

    fuses = results.cables.fuses[int(results.plant.inverter_of[k]), results.plant.subarrays[k].tracker]
    words = fuses.reason
    if fuses.is_needed and fuses.sizes:
        words += f" Made in {', '.join(f'{size:g}' for size in fuses.sizes)} A."
    return VoltageAnswer(
        revision=revision, subarray=subarray, edges=edges.tolist(), rows=[row(n) for n in lengths], start=inverter.start_voltage,
        lowest=inverter.mppt_minimum, full_power=inverter.full_power_minimum, highest=inverter.mppt_maximum,
        limit=limits.maximum_voltage, limit_of=limits.maximum_of, coldest=limits.lowest,
        coldest_origin=lowest_temperature(results)[1], hottest_cell=limits.highest_cell,
        fuses=words, needs_fuses=fuses.is_needed,
    )  # fmt: skip
