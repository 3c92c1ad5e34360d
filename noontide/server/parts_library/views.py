from drf_spectacular.utils import extend_schema
from pydantic import BaseModel
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.electrical import Inverter, Module, fit_inverter, weighted_efficiency
from noontide.parts import built_in_parts


class ModuleLine(Module):
    area_square_metres: float
    efficiency_percent: float


class InverterLine(Inverter):
    european_efficiency: float
    peak_efficiency: float


class PartsAnswer(BaseModel):
    modules: list[ModuleLine]
    inverters: list[InverterLine]


class PartsView(APIView):
    @extend_schema(responses=PartsAnswer, operation_id="parts")
    def get(self, request: Request) -> Response:
        """The parts library with the figures that matter for a choice."""
        library = built_in_parts()
        modules = [
            ModuleLine(**m.model_dump(), area_square_metres=m.area, efficiency_percent=m.efficiency * 100)
            for m in library.modules.values()
        ]
        inverters = [_with_efficiencies(inverter) for inverter in library.inverters.values()]
        return Response(PartsAnswer(modules=modules, inverters=inverters).model_dump(mode="json"))


def _with_efficiencies(inverter: Inverter) -> InverterLine:
    """The weighted and the peak value, as stated or from the points."""
    weighted = inverter.european_efficiency or max(weighted_efficiency(k) for k in fit_inverter(inverter).coefficients)
    peak = inverter.peak_efficiency or max(e for curve in inverter.efficiency for _, e in curve.points)
    return InverterLine(**inverter.model_dump() | {"european_efficiency": weighted, "peak_efficiency": peak})
