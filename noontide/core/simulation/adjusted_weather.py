"""The stage before the sun: the weather year with the design's own corrections and adjustments, in one order."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from noontide.core.weather.adjusting import (
    FillMethod,
    calibrate,
    correct_height,
    fill_marked,
    scale_months,
    split_by_course,
    warm,
)
from noontide.core.weather.quality import examine_quality, with_marks
from noontide.core.weather.year import Weather, beam_from_horizontal, shift_clock

Twelve = tuple[float, ...]
NOT_TO_FILL = {"daylight-saving", "repeated-temperature", "repeated-wind"}  # no doubts about single irradiances


@dataclass(frozen=True)
class AdjustmentInputs:
    weather: Weather
    marks: str  # hash of the year's marks, where values that are marked are filled: its own digest has none
    beam_is_horizontal: bool
    clock_shift: float  # [h]
    filling: FillMethod | None
    fills_doubtful: bool
    splits_by_course: bool  # DNI and DHI that were derived are derived by the dynamic model
    elevation: float | None  # to which the height is corrected [m]
    lapse_rate: float  # [K/km]
    factors: Twelve | None
    monthly_ghi: Twelve | None  # [kWh/m2]
    warming: Twelve | None  # [K]


class ImpossibleAdjustment(ValueError):
    """An adjustment that this weather year does not allow; the message says why."""

    def __init__(self, pointer: str, why: str):
        self.pointer = pointer
        super().__init__(why)


def adjust_year(inputs: AdjustmentInputs) -> Weather:
    """First what the file meant (beam, clock), then what it lacks, then where it is, how bright, and how warm."""
    weather = inputs.weather
    if inputs.beam_is_horizontal:
        weather = beam_from_horizontal(weather)
    weather = shift_clock(weather, inputs.clock_shift)
    if inputs.filling is not None:
        with _named("gap_filling"):
            weather = fill_marked(_with_doubts(weather) if inputs.fills_doubtful else weather, inputs.filling)
    if inputs.splits_by_course:
        weather = split_by_course(weather)
    if inputs.elevation is not None:
        weather = correct_height(weather, inputs.elevation, inputs.lapse_rate)
    if inputs.factors is not None:
        weather = scale_months(weather, inputs.factors)
    if inputs.monthly_ghi is not None:
        with _named("calibration"):
            weather = calibrate(weather, inputs.monthly_ghi)
    return weather if inputs.warming is None else warm(weather, inputs.warming)


def _with_doubts(weather: Weather) -> Weather:
    return with_marks(weather, [doubt for doubt in examine_quality(weather) if doubt.rule not in NOT_TO_FILL])


@contextmanager
def _named(step: str) -> Iterator[None]:
    """What goes wrong inside is the step's."""
    try:
        yield
    except ValueError as error:
        raise ImpossibleAdjustment(f"/weather/{step}", str(error)) from error
