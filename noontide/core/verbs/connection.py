"""What the grid asks and is, with a first value where none is known yet."""

from typing import Any

from pydantic import Field

from noontide.core.design import Design
from noontide.core.design.circuits import Collector
from noontide.core.fields import Document
from noontide.core.verbs.shared import ImpossibleAct

USUAL_SHARE = 0.7  # of the inverters' rated power, that is often let into the grid
USUAL_RESISTANCE = 0.1  # of a conductor some hundred metres from the transformer [ohm]


class LimitExport(Document):
    limit: float | None = Field(None, ge=0, le=1e6, title="Export limit [kW]; by itself a share of the inverters' power")


class SetImpedance(Document):
    resistance: float | None = Field(None, ge=0, le=10, title="Grid resistance, a conductor [Ω]")


class JoinStations(Document):
    length: float | None = Field(None, ge=1, le=50_000, title="Cable from station to station [m]")


def limit_export(design: Design, given: LimitExport) -> tuple[dict[str, Any], str]:
    """A limit of the export, as given or a usual share of what the inverters can give.

    Raises
    ------
    ImpossibleAct
        If no limit is given and there is no inverter yet.
    """
    limit = given.limit
    if limit is None:
        units = design.parts.inverters
        rated = sum(one.count * units[one.model].ac_power for one in design.inverters.values() if one.model in units)
        if not rated:
            raise ImpossibleAct("There is no inverter yet. Say to how many kW the export is limited.")
        limit = float(f"{USUAL_SHARE * rated / 1000:.3g}")
    return {"connection": {"export_limit": limit}}, f"Export is limited to {limit:g} kW."


def set_impedance(design: Design, given: SetImpedance) -> tuple[dict[str, Any], str]:
    """The resistance of the grid, as given or a first value."""
    resistance = USUAL_RESISTANCE if given.resistance is None else given.resistance
    return {"connection": {"resistance": resistance}}, f"{resistance:g} Ω a conductor; the operator of the grid knows it."


def join_stations(design: Design, given: JoinStations) -> tuple[dict[str, Any], str]:
    """A medium-voltage cable from station to station and to the grid.

    Raises
    ------
    ImpossibleAct
        If there is no transformer.
    """
    if design.connection.transformer is None:
        raise ImpossibleAct("There is no transformer, so no medium voltage. Choose one first.")
    length = Collector.model_fields["length"].default if given.length is None else given.length
    return {"connection": {"collector": {"length": length}}}, f"Medium-voltage cable of {length:g} m from station to station."
