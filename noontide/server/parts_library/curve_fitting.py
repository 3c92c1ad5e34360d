"""A module fitted to measured points: its figures at standard test conditions beside those of the datasheet."""

from typing import Any

from pydantic import BaseModel, Field, ValidationError

from noontide.core.electrical import Module
from noontide.core.electrical.curve_fit import fit_curves, read_curves
from noontide.server.problems import Problem

SHOWN = 400  # points of each curve


class MeasuredPoints(BaseModel):
    irradiance: float
    cell_temperature: float
    voltage: list[float]
    current: list[float]


class CurveFitAnswer(BaseModel):
    """What a measured curve makes of a module."""

    deviation: float = Field(description="root mean square of the current, relative to Isc")
    values: dict[str, Any] = Field(description="of a datasheet with the fitted figures, ready to be kept")
    changes: dict[str, float] = Field(description="of power, isc, voc, imp and vmp against the datasheet, relative")
    curves: list[MeasuredPoints]


def fitted(content: bytes, module: Module, irradiance: float | None, temperature: float | None) -> CurveFitAnswer:
    """The fit of an uploaded table.

    Raises
    ------
    Problem
        If it is no table of points, or no curve comes near them.
    """
    try:
        curves = read_curves(content, irradiance, temperature)
        found = fit_curves(curves, module)
        datasheet = found.datasheet(module, f"{module.name}, measured"[:80])
    except ValidationError as error:
        words = str(error.errors()[0]["msg"]).removeprefix("Value error, ")
        raise Problem(422, "invalid-curve", "The fit makes no datasheet", words) from None
    except ValueError as error:
        raise Problem(422, "invalid-curve", "The curve cannot be used", str(error)) from None
    return CurveFitAnswer(
        deviation=found.deviation,
        values=datasheet.model_dump(mode="json", exclude={"id", "digest"}, exclude_defaults=True),
        changes={key: getattr(found, key) / getattr(module, key) - 1 for key in ("power", "isc", "voc", "imp", "vmp")},
        curves=[
            MeasuredPoints(
                irradiance=curve.irradiance,
                cell_temperature=curve.cell_temperature,
                voltage=curve.voltage[:SHOWN].tolist(),
                current=curve.current[:SHOWN].tolist(),
            )
            for curve in curves
        ],
    )
