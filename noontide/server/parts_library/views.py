import json

from django.http import HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, Field, TypeAdapter, ValidationError, create_model
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.cells import XLSX
from noontide.core.electrical import Catalogue, Inverter, Module, fit_inverter, weighted_efficiency
from noontide.core.electrical.curve_fit import LARGEST as CURVE_LARGEST
from noontide.core.electrical.datasheets import KINDS
from noontide.core.electrical.parts_table import LARGEST, Fault, exported, read_parts
from noontide.parts import built_in_parts
from noontide.server.constant import constant
from noontide.server.list_of import list_of
from noontide.server.parsers import JSONParser
from noontide.server.parts_library.curve_fitting import CurveFitAnswer, fitted
from noontide.server.parts_library.inverter_page import InverterPage
from noontide.server.parts_library.inverter_page import page_of as inverter_page_of
from noontide.server.parts_library.library import keep_parts, library_of, own_keys
from noontide.server.parts_library.models import OwnPart
from noontide.server.parts_library.module_page import ModulePage, page_of
from noontide.server.parts_library.preferences import Preference, delete_preference, keep_preference, preferences_of
from noontide.server.parts_library.typed import FieldFault, TypedAnswer, TypedRequest, understand
from noontide.server.problems import Problem
from noontide.server.uploads import read_apart, uploaded

MOST_FAULTS = 200


class ModuleLine(Module):
    area_square_metres: float
    efficiency_percent: float
    is_own: bool = Field(False, description="a datasheet of the user's own")


class InverterLine(Inverter):
    european_efficiency: float
    peak_efficiency: float
    is_own: bool = Field(False, description="a datasheet of the user's own")


# Kinds whose lines say more than the datasheet.
LINES: dict[str, type[BaseModel]] = {"modules": ModuleLine, "inverters": InverterLine}
PartsAnswer: type[BaseModel] = create_model(
    "PartsAnswer",
    **{key: list[LINES.get(key, kind.model)] for key, kind in KINDS.items()},  # type: ignore[misc, call-overload]
    own=(list[str], Field(description="kind/id of the user's own parts")),
)


class FaultLine(BaseModel):
    """What is wrong in a row of a list, and where."""

    row: int
    column: str
    reason: str


class ImportAnswer(BaseModel):
    """How a list of parts is understood, and what was kept of it."""

    names: list[str] = Field(description="of the parts that can be read")
    changed: list[str] = Field(description="ids of own parts that differ from what is kept")
    same: list[str] = Field(description="ids of own parts that are kept already just so")
    faults: list[FaultLine]
    more_faults: int
    doubts: list[FaultLine] = Field(description="rows that can be read and look as if something had slipped")
    mapping: dict[str, str] = Field(description="heading and the field that it means")
    unused: list[str]
    kept: int


class PartsView(APIView):
    @extend_schema(responses=PartsAnswer, operation_id="parts")
    def get(self, request: Request) -> HttpResponseBase:
        """The parts library, the user's own parts with it, and the figures that matter for a choice."""
        if own := own_keys(request.user):
            return Response(_parts(library_of(request.user), own))
        return constant(request, _shipped)


def _shipped() -> dict:
    return _parts(built_in_parts(), set())


def _parts(library: Catalogue, own: set[tuple[str, str]]) -> dict:
    modules = [
        ModuleLine(
            **m.model_dump() | {"digest": m.fingerprint},
            area_square_metres=m.area,
            efficiency_percent=m.efficiency * 100,
            is_own=("modules", key) in own,
        )
        for key, m in library.modules.items()
    ]
    inverters = [_with_efficiencies(i, ("inverters", key) in own) for key, i in library.inverters.items()]
    parts = {kind: list(library.of(kind).values()) for kind in KINDS} | {"modules": modules, "inverters": inverters}
    return PartsAnswer(**parts, own=sorted(f"{kind}/{key}" for kind, key in own)).model_dump(mode="json")


class PartsImportView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        request={
            "multipart/form-data": {
                "type": "object",
                "properties": {
                    "file": {"type": "string", "format": "binary"},
                    "kind": {"type": "string", "enum": list(KINDS)},
                    "mapping": {"type": "string", "description": "headings and fields, as a JSON object"},
                    "keep": {"type": "string", "enum": ["true", "false"]},
                },
                "required": ["file", "kind"],
            }
        },
        responses=ImportAnswer,
        operation_id="import_parts",
    )
    def post(self, request: Request) -> Response:
        """Read a list of parts, CSV or XLSX; with `keep` the rows without faults become the user's own parts."""
        given = uploaded(request, LARGEST)
        kind = _kind(request)
        try:
            found = read_apart(read_parts, given.read(), kind, _mapping(request))
        except ValueError as error:
            raise Problem(422, "invalid-list", "The list cannot be used", str(error)) from None
        shipped = built_in_parts().of(kind)
        parts = {key: part for key, part in found.parts.items() if key not in shipped}
        faults = [*found.faults, *(_taken(key) for key in found.parts if key in shipped)]
        kept = {row.key: row.datasheet for row in OwnPart.objects.visible_to(request.user).filter(kind=kind)}
        same = [key for key, part in parts.items() if kept.get(key) == part.model_dump(mode="json", exclude_defaults=True)]
        is_kept = request.data.get("keep") == "true"
        if is_kept:
            try:
                keep_parts(request.user, kind, parts)
            except ValueError as error:
                raise Problem(422, "too-many-parts", "Too many parts", str(error)) from None
        answer = ImportAnswer(
            names=[f"{part.maker} {part.name}" for part in parts.values()],
            changed=[key for key in parts if key in kept and key not in same],
            same=same,
            faults=[FaultLine(row=f.row, column=f.column, reason=f.reason) for f in faults[:MOST_FAULTS]],
            doubts=[FaultLine(row=d.row, column=d.column, reason=d.reason) for d in found.doubts[:MOST_FAULTS]],
            more_faults=max(0, len(faults) - MOST_FAULTS),
            mapping=found.mapping,
            unused=list(found.unused),
            kept=len(parts) if is_kept else 0,
        )
        return Response(answer.model_dump(mode="json"))


class ModulePageView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("irradiance", float, description="of a moment [W/m2]"),
            OpenApiParameter("temperature", float, description="of the cells at that moment [°C]"),
        ],
        responses=ModulePage,
        operation_id="module_page",
    )
    def get(self, request: Request, key: str) -> Response:
        """A module's fitted parameters, its curves by light and temperature, and its efficiency over both."""
        module = library_of(request.user).modules.get(key)
        if module is None:
            raise Problem(404, "not-found", "Unknown module", f"The library has no module '{key}'.")
        asked = [_number_in(request, name, low, high) for name, low, high in (("irradiance", 1, 2000), ("temperature", -80, 150))]
        moment = (asked[0], asked[1]) if asked[0] is not None and asked[1] is not None else None
        return Response(page_of(module, moment).model_dump(mode="json"))


def _number_in(request: Request, name: str, low: float, high: float) -> float | None:
    text = request.query_params.get(name)
    if text is None:
        return None
    try:
        value = float(text)
    except ValueError:
        value = float("nan")
    if not low <= value <= high:
        raise Problem(422, "invalid-number", "Out of range", f"{name} lies between {low:g} and {high:g}; it is '{text[:30]}'.")
    return value


class CurveFitView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        request={
            "multipart/form-data": {
                "type": "object",
                "properties": {
                    "file": {"type": "string", "format": "binary"},
                    "irradiance": {"type": "string"},
                    "temperature": {"type": "string"},
                },
                "required": ["file"],
            }
        },
        responses=CurveFitAnswer,
        operation_id="fit_curve",
    )
    def post(self, request: Request, key: str) -> Response:
        """A module from measured points of its curve; what curves do not tell is as in this module. Nothing is kept."""
        module = library_of(request.user).modules.get(key)
        if module is None:
            raise Problem(404, "not-found", "Unknown module", f"The library has no module '{key}'.")
        given = uploaded(request, CURVE_LARGEST)
        answer = read_apart(fitted, given.read(), module, _amount(request, "irradiance"), _amount(request, "temperature"))
        return Response(answer.model_dump(mode="json"))


def _amount(request: Request, name: str) -> float | None:
    text = str(request.data.get(name) or "").strip().replace(",", ".")
    if not text:
        return None
    try:
        return float(text)
    except ValueError:
        raise Problem(422, "invalid-number", "A number was expected", f"{name} is '{text[:40]}'.", f"/{name}") from None


class InverterPageView(APIView):
    @extend_schema(responses=InverterPage, operation_id="inverter_page")
    def get(self, request: Request, key: str) -> Response:
        """An inverter's efficiency by load and voltage, its window, and its derating."""
        inverter = library_of(request.user).inverters.get(key)
        if inverter is None:
            raise Problem(404, "not-found", "Unknown inverter", f"The library has no inverter '{key}'.")
        return Response(inverter_page_of(inverter).model_dump(mode="json"))


class TypedPartView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(request=TypedRequest, responses=TypedAnswer, operation_id="type_part")
    def post(self, request: Request, kind: str) -> Response:
        """A datasheet as it is typed or pasted: what is understood, what is wrong, the fit; with `keep` it becomes the user's own."""
        if kind not in KINDS:
            raise Problem(404, "not-found", "Unknown kind", f"Choose among {', '.join(KINDS)}.")
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        asked = TypedRequest.model_validate(request.data)
        answer, part = understand(asked, kind)
        if asked.keep and part is not None:
            if part.id in built_in_parts().of(kind):
                answer.faults = [FieldFault(field="name", reason=_taken(part.id).reason)]
            else:
                try:
                    keep_parts(request.user, kind, {part.id: part})
                except ValueError as error:
                    raise Problem(422, "too-many-parts", "Too many parts", str(error)) from None
                answer.is_kept = True
        return Response(answer.model_dump(mode="json"))


class PartsExportView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("kind", str, enum=list(KINDS), required=True),
            OpenApiParameter("file", str, enum=["csv", "xlsx", "json"]),
            OpenApiParameter("own", bool, description="the user's own parts alone"),
        ],
        responses={
            (200, "text/csv"): OpenApiTypes.STR,
            (200, "application/json"): OpenApiTypes.OBJECT,
            (200, XLSX): OpenApiTypes.BINARY,
        },
        operation_id="export_parts",
    )
    def get(self, request: Request) -> HttpResponse:
        """Parts of a kind as a list, which can be imported again."""
        kind, ending = request.query_params.get("kind", ""), request.query_params.get("file", "csv")
        if kind not in KINDS or ending not in ("csv", "xlsx", "json"):
            raise Problem(422, "unknown-kind", "Unknown kind", f"Choose among {', '.join(KINDS)}; file is csv, xlsx or json.")
        parts = library_of(request.user).of(kind)
        if request.query_params.get("own") == "true":
            own = own_keys(request.user)
            parts = {key: part for key, part in parts.items() if (kind, key) in own}
        content, media = exported(parts.values(), kind, ending)
        answer = HttpResponse(content, content_type=media)
        answer.headers["Content-Disposition"] = f'attachment; filename="{kind}.{ending}"'
        return answer


class PartsSchemaView(APIView):
    @extend_schema(responses=OpenApiTypes.OBJECT, operation_id="parts_schema")
    def get(self, request: Request) -> Response:
        """JSON Schema of a file of parts."""
        return Response(Catalogue.model_json_schema())


class PreferencesView(APIView):
    parser_classes = [JSONParser]

    @extend_schema(responses=list_of(Preference), operation_id="part_preferences")
    def get(self, request: Request) -> Response:
        """Sets of preferred parts, by region, by customer, or favourites."""
        return Response([one.model_dump(mode="json") for one in preferences_of(request.user)])

    @extend_schema(request=Preference, responses=Preference, operation_id="keep_part_preference")
    def put(self, request: Request) -> Response:
        """Keep a set; one of the same name is replaced."""
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        preference = Preference.model_validate(request.data)
        keep_preference(request.user, preference)
        return Response(preference.model_dump(mode="json"))

    @extend_schema(
        parameters=[OpenApiParameter("name", str, required=True)], responses={204: None}, operation_id="delete_part_preference"
    )
    def delete(self, request: Request) -> Response:
        """Delete a set; parts and designs stay."""
        if not delete_preference(request.user, request.query_params.get("name", "")[:80]):
            raise Problem(404, "not-found", "Unknown set", "There is no set of this name.")
        return Response(status=204)


class OwnPartView(APIView):
    @extend_schema(responses={204: None}, operation_id="delete_part")
    def delete(self, request: Request, kind: str, key: str) -> Response:
        """Delete a part of one's own; designs that use it keep their copy."""
        get_object_or_404(OwnPart.objects.visible_to(request.user), kind=kind, key=key).delete()
        return Response(status=204)


def _kind(request: Request) -> str:
    kind = request.data.get("kind")
    if kind not in KINDS:
        raise Problem(422, "unknown-kind", "Unknown kind", f"Choose among {', '.join(KINDS)}.", "/kind")
    return kind


def _mapping(request: Request) -> dict[str, str]:
    text = request.data.get("mapping") or "{}"
    try:
        return TypeAdapter(dict[str, str]).validate_python(json.loads(text))
    except (TypeError, ValueError, RecursionError, ValidationError):
        raise Problem(
            422, "invalid-mapping", "The mapping cannot be read", "Send a JSON object of headings and fields.", "/mapping"
        ) from None


def _taken(key: str) -> Fault:
    return Fault(0, "id", f"'{key}' is a part that ships with the application. Give yours another id or name.")


def _with_efficiencies(inverter: Inverter, is_own: bool) -> InverterLine:
    """The weighted and the peak value, as stated or from the points."""
    weighted = inverter.european_efficiency or max(weighted_efficiency(k) for k in fit_inverter(inverter).coefficients)
    peak = inverter.peak_efficiency or max(e for curve in inverter.efficiency for _, e in curve.points)
    return InverterLine(
        **inverter.model_dump()
        | {"digest": inverter.fingerprint, "european_efficiency": weighted, "peak_efficiency": peak, "is_own": is_own}
    )
