"""The API's schema: every operation declares its errors too."""

from drf_spectacular.openapi import AutoSchema
from drf_spectacular.plumbing import ResolvedComponent
from pydantic import BaseModel, ConfigDict


class FindingAnswer(BaseModel):
    """What is wrong with one value."""

    pointer: str
    detail: str


class ProblemAnswer(BaseModel):
    """Problem details (RFC 9457); further members depend on the type."""

    model_config = ConfigDict(extra="allow", title="ProblemAnswer")

    type: str
    title: str
    status: int
    detail: str = ""
    errors: list[FindingAnswer] = []
    request_id: str = ""


READING = {"404", "500", "503"}
WRITING = READING | {"400", "403", "409", "412", "413", "415", "422", "428"}


class ApiSchema(AutoSchema):
    """Adds problem details to what each view declares."""

    def _get_response_bodies(self, direction: str = "response") -> dict:
        bodies = super()._get_response_bodies(direction)
        component = self._problem_reference()
        codes = (READING | {"400", "409", "422", "502"}) if self.method == "GET" else WRITING | {"502"}
        for code in sorted(codes):
            bodies.setdefault(
                code, {"description": "Problem details", "content": {"application/problem+json": {"schema": component}}}
            )
        return bodies

    def _problem_reference(self) -> dict:
        component = ResolvedComponent(name="ProblemAnswer", type=ResolvedComponent.SCHEMA, object="ProblemAnswer")
        if component not in self.registry:
            schema = ProblemAnswer.model_json_schema(mode="serialization", ref_template="#/components/schemas/{model}")
            for name, inner in schema.pop("$defs", {}).items():
                nested = ResolvedComponent(name=name, type=ResolvedComponent.SCHEMA, object=name, schema=inner)
                if nested not in self.registry:
                    self.registry.register(nested)
            component.schema = schema
            self.registry.register(component)
        return component.ref
