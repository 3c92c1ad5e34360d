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
        inverters = [
            InverterLine(
                **i.model_dump(),
                european_efficiency=max(weighted_efficiency(k) for k in fit_inverter(i).coefficients),
                peak_efficiency=max(e for curve in i.efficiency for _, e in curve.points),
            )
            for i in library.inverters.values()
        ]
        return Response(PartsAnswer(modules=modules, inverters=inverters).model_dump(mode="json"))
