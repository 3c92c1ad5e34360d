"""The value that a check looks at, whether it finds fault or not: what a remedy makes of it."""

from noontide.core.checks.protection import protection_of
from noontide.core.simulation.results import Results


def measured(r: Results, rule: str, pointer: str) -> float | None:
    """The actual value of a rule at a place of the design, in the unit of its check; None where the rule has none or the place is gone."""
    steps = pointer.strip("/").split("/")
    if rule in ("cable-drop", "cable-ampacity"):
        run = r.cables.by_pointer.get(pointer)
        return None if run is None else run.choice.drop if rule == "cable-drop" else run.route.current
    if rule in ("voltage-rise", "imbalance"):
        return next((item.actual for item in protection_of(r) if item.key == rule), None)
    if rule == "clipping":
        return r.annual.clipped_share * 100
    if steps[0] == "inverters" and len(steps) > 1 and steps[1] in r.plant.inverter_ids:
        i = r.plant.inverter_ids.index(steps[1])
        power = r.plant.dc_power_of(i)
        return {"dc-power": power / 1000, "small-array": power / r.plant.inverters[i].ac_power}.get(rule)
    if steps[0] == "subarrays" and len(steps) > 1 and steps[1] in r.plant.subarray_ids:
        return _of_strings(r, rule, r.plant.subarray_ids.index(steps[1]))
    return None


def _of_strings(r: Results, rule: str, k: int) -> float | None:
    plant, volts = r.plant, r.string_limits[k]
    length = plant.subarrays[k].modules_per_string
    match rule:
        case "cold-open-circuit":
            return length * volts.cold_voc
        case "hot-working-voltage" | "full-power-voltage":
            return length * volts.hot_vmp
        case "start-voltage":
            return length * volts.hot_voc
        case "cold-working-voltage":
            return length * volts.cold_vmp
        case "short-circuit-current":
            return r.cables.short_circuit_current(plant.beside(k))
        case "tracker-current":
            return plant.working_current(plant.beside(k))
    return None
