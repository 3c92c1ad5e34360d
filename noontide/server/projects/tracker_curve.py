"""The current-voltage curve of all strings on a tracker at one moment of the year."""

import numpy as np
from pydantic import BaseModel, Field

from noontide.core.electrical.combined_curve import SeriesString, combined_curve
from noontide.core.electrical.fitting import fit_module
from noontide.core.simulation import Results

POINTS = 121


class CurveStrings(BaseModel):
    """A sub-array's share of the curve."""

    subarray: str
    surface: str
    modules: int
    strings: int
    irradiance: float = Field(description="effective, mean over its modules [W/m2]")
    cell_temperature: float
    current: list[float] = Field(description="of its strings at each voltage [A]")


class CurveAnswer(BaseModel):
    """All strings of a tracker at one voltage, before mismatch, tolerance and cables."""

    revision: int
    interval: int
    inverter: str
    tracker: int
    voltage: list[float]
    members: list[CurveStrings]
    maximum_voltage: float = Field(description="where the strings together give most [V]")
    maximum_power: float = Field(description="[W]")
    mismatch: float = Field(description="what they lose by sharing one voltage, 0..1 of what each would give alone")
    lowest: float = Field(description="of the MPP window [V]")
    highest: float = Field(description="of the MPP window [V]")


def curve_of(results: Results, subarray: str, interval: int, revision: int) -> CurveAnswer:
    """The curve of the tracker that a sub-array hangs on.

    Raises
    ------
    KeyError
        If there is no such sub-array.
    """
    plant = results.plant
    if subarray not in plant.subarray_ids:
        raise KeyError(subarray)
    own = plant.subarrays[plant.subarray_ids.index(subarray)]
    mine = [k for k, s in enumerate(plant.subarrays) if (s.inverter, s.tracker) == (own.inverter, own.tracker)]
    index = results.joined.value.interval_index
    place = int(np.searchsorted(index, interval))
    is_lit = place < index.size and index[place] == interval
    light = [float(results.effective[k].mean[place]) if is_lit else 0.0 for k in mine]
    heat = [float(results.modules[k].cell_temperature[place]) if is_lit else 0.0 for k in mine]
    strings = [
        SeriesString(
            fit_module(plant.modules[k]).parameters, g, t, plant.subarrays[k].modules_per_string, plant.subarrays[k].strings
        )
        for k, g, t in zip(mine, light, heat, strict=True)
    ]
    found = combined_curve(strings, POINTS)
    inverter = plant.inverters[plant.inverter_of[mine[0]]]
    return CurveAnswer(
        revision=revision,
        interval=interval,
        inverter=own.inverter,
        tracker=own.tracker,
        voltage=np.round(found.voltage, 3).tolist(),
        members=[
            CurveStrings(
                subarray=plant.subarray_ids[k],
                surface=plant.subarrays[k].surface,
                modules=plant.subarrays[k].modules_per_string,
                strings=plant.subarrays[k].strings,
                irradiance=g,
                cell_temperature=t,
                current=np.round(row, 4).tolist(),
            )
            for k, g, t, row in zip(mine, light, heat, found.each, strict=True)
        ],
        maximum_voltage=found.maximum_voltage,
        maximum_power=found.maximum_power,
        mismatch=found.mismatch,
        lowest=inverter.mppt_minimum,
        highest=inverter.mppt_maximum,
    )
