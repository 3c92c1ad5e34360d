"""Charge controllers as what strings hang on: their window, their limits and what they lose, at the voltage of the battery that they charge."""

from functools import lru_cache

from noontide.core.electrical.datasheets import ChargeController, EfficiencyCurve, Inverter

MEAN_CHARGING = 1.125  # voltage of a battery while it is charged, over its nominal one
RUN, START = 1.0, 5.0  # V that a tracking controller needs above the battery, to run and to start: usual of step-down converters
UNLIMITED = 4.0  # times the rated power that an array may offer: the current to the battery is the limit


@lru_cache(maxsize=256)
def as_unit(controller: ChargeController, voltage: float) -> Inverter:
    """A controller on a battery of a nominal voltage, as the chain of stages runs an inverter of one tracker; its AC side is the battery bus.

    A controller that tracks holds any voltage between the battery's and its own limit. One that only switches (PWM) has no window: the array runs
    at the battery's voltage, wherever that lies on its I-V curve.

    Raises
    ------
    ValueError
        If the battery is charged at more than the controller allows.
    """
    charging = MEAN_CHARGING * voltage
    lowest = charging + (RUN if controller.tracks else 0.0)
    if lowest > controller.maximum_voltage:
        raise ValueError(
            f"{controller.maker} {controller.name} allows {controller.maximum_voltage:g} V; a battery of {voltage:g} V is charged at {charging:g} V. Choose another controller, or a lower system voltage."
        )
    power = controller.current * charging
    flat = tuple((share, controller.efficiency) for share in (0.1, 0.5, 1.0))
    return Inverter(
        id=controller.id,
        maker=controller.maker,
        name=controller.name,
        year=controller.year,
        source=controller.source,
        ac_power=power,
        phases=1,
        trackers=1,
        maximum_dc_power=UNLIMITED * power,
        maximum_dc_voltage=controller.maximum_voltage,
        start_voltage=min(charging + (START if controller.tracks else 0.0), controller.maximum_voltage),
        mppt_minimum=lowest,
        full_power_minimum=lowest,
        mppt_maximum=controller.maximum_voltage if controller.tracks else lowest,
        # At the foot of its window a tracking controller passes what it gives; above it, less.
        maximum_tracker_current=controller.current / (controller.efficiency / 100) if controller.tracks else controller.current,
        maximum_short_circuit_current=controller.current,
        efficiency=(EfficiencyCurve(voltage=lowest, points=flat),),
        night_power=controller.own_consumption,
    )
