"""A datasheet that is typed or pasted: what it says, what is wrong with it, and what the fit makes of it."""

from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from noontide.core.electrical import Inverter, Module
from noontide.core.electrical.datasheets import KINDS, Part
from noontide.core.electrical.part_slips import likely_slip
from noontide.core.electrical.parts_table import checked_part
from noontide.core.electrical.typed_datasheet import read_datasheet
from noontide.server.parts_library import inverter_page, module_page
from noontide.server.parts_library.inverter_page import InverterPage
from noontide.server.parts_library.module_page import ModulePage
from noontide.server.problems import Problem


class TypedRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    values: dict[str, Any] = Field({}, description="by field of the datasheet; they come before those of the text")
    text: str = Field("", max_length=40_000, description="lines pasted from a datasheet")
    keep: bool = Field(False, description="keep it as the user's own, if nothing is wrong")


class FieldFault(BaseModel):
    field: str
    reason: str


class TypedAnswer(BaseModel):
    """How a typed datasheet is understood."""

    values: dict[str, Any]
    faults: list[FieldFault]
    slip: str = Field(description="what has probably slipped, in words")
    converted: list[str]
    unread: list[str]
    id: str
    is_kept: bool
    module: ModulePage | None = None
    inverter: InverterPage | None = None


def understand(asked: TypedRequest, kind: str) -> tuple[TypedAnswer, Part | None]:
    """What typed values say, with the page of the part where nothing is wrong."""
    try:
        pasted = read_datasheet(asked.text, kind)
    except ValueError as error:
        raise Problem(422, "invalid-datasheet", "The lines cannot be read", str(error), "/text") from None
    known = KINDS[kind].model.model_fields
    unknown = sorted(set(asked.values) - set(known))
    if unknown:
        raise Problem(422, "unknown-field", "Unknown field", f"There is no field {', '.join(unknown)[:200]}.", "/values")
    values = pasted.values | {name: value for name, value in asked.values.items() if value not in (None, "")}
    part, faults = checked_part(values, kind)
    answer = TypedAnswer(
        values=values,
        faults=[FieldFault(field=field, reason=reason) for field, reason in faults],
        slip=likely_slip(values, kind) if part is not None else "",
        converted=pasted.converted,
        unread=pasted.unread,
        id=part.id if part is not None else "",
        is_kept=False,
        module=module_page.page_of(part) if isinstance(part, Module) else None,
        inverter=inverter_page.page_of(part) if isinstance(part, Inverter) else None,
    )
    return answer, part
