"""How a value of the design is declared: its unit, range, default and the reason for the default, in one place.

Interfaces read all of it from the JSON Schema (`x-unit`, `x-step`, `x-reason`), so that no limit is written twice.
"""

import datetime
from typing import Annotated, Any, TypeVar

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

Id = Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]{0,39}$")]
ModuleId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,19}$")]  # of a module on a plan
Line = Annotated[str, Field(pattern=r"^[^\x00-\x1f\x7f\u2028\u2029\ufffe\uffff]*$")]  # a text of one line that any file may hold
Number = TypeVar("Number")
Monthly = Annotated[tuple[Number, ...], Field(min_length=12, max_length=12)]


def _checked_days(days: tuple[str, ...]) -> tuple[str, ...]:
    for day in days:
        try:
            datetime.date.fromisoformat(day if len(day) > 5 else f"2028-{day}")
        except ValueError:
            raise ValueError(f"'{day[:20]}' is no day. Write 05-01, or 2026-04-06.") from None
    return days


Holidays = Annotated[tuple[str, ...], AfterValidator(_checked_days)]


class Document(BaseModel):
    """Part of a design document: unknown keys are refused, and what is not set is not kept."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


def quantity(default: Any, title: str, unit: str, low: float, high: float, reason: str = "", step: float = 1.0) -> Any:
    """A number with a unit and a range; `...` as default where it must be given."""
    extra = {"x-unit": unit, "x-step": step} | ({"x-reason": reason} if reason else {})
    return Field(default, title=title, ge=low, le=high, json_schema_extra=extra)


def months(title: str, unit: str, step: float) -> Any:
    """Twelve numbers, January first, in place of one for the year."""
    extra = {"x-unit": unit, "x-step": step, "x-reason": "A single annual value is used."}
    return Field(None, title=title, json_schema_extra=extra)


def choice(default: Any, title: str, reason: str = "") -> Any:
    """One of a few words."""
    return Field(default, title=title, json_schema_extra={"x-reason": reason} if reason else {})
