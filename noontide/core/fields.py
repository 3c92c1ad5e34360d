"""How a value of the design is declared: its unit, range, default and the reason for the default, in one place.

Interfaces read all of it from the JSON Schema (`x-unit`, `x-step`, `x-reason`), so that no limit is written twice.
"""

import datetime
import hashlib
from collections.abc import Mapping
from functools import cached_property
from typing import Annotated, Any, Self, TypeVar

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

Id = Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]{0,39}$")]
ModuleId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,19}$")]  # of a module on a plan
Line = Annotated[str, Field(pattern=r"^[^\x00-\x1f\x7f\u2028\u2029\ufffe\uffff]*$")]  # a text of one line that any file may hold
Currency = Annotated[str, Field(pattern=r"^[A-Z]{3}$")]  # ISO 4217
Number = TypeVar("Number")
Monthly = Annotated[tuple[Number, ...], Field(min_length=12, max_length=12)]


LEAP_YEAR = 2028  # any


def checked_day(day: str) -> datetime.date:
    """A day as MM-DD of every year, or YYYY-MM-DD.

    Raises
    ------
    ValueError
        If there is no such day.
    """
    try:
        return datetime.date.fromisoformat(day if len(day) > 5 else f"{LEAP_YEAR}-{day}")
    except ValueError:
        raise ValueError(f"'{day[:20]}' is no day. Write 05-01, or 2026-04-06.") from None


def day_of_leap_year(day: str) -> int:
    """Number of a day from 0 in a year that has a 29 February."""
    return checked_day(day).replace(year=LEAP_YEAR).timetuple().tm_yday - 1


def words_of_day(number: int) -> str:
    """A day of a leap year from 0 in words: 3 March."""
    day = datetime.date(LEAP_YEAR, 1, 1) + datetime.timedelta(days=number)
    return f"{day.day} {day:%B}"


def _checked_days(days: tuple[str, ...]) -> tuple[str, ...]:
    for day in days:
        checked_day(day)
    return days


Holidays = Annotated[tuple[str, ...], AfterValidator(_checked_days)]


class Frozen(BaseModel):
    """Values that never change, so that what is found of them may be kept with them."""

    model_config = ConfigDict(extra="forbid", frozen=True, ignored_types=(cached_property,))

    def __hash__(self) -> int:
        """Of all values. What has a hash is no copy of a default for each design, but the default itself, with what was found of it."""
        return hash((type(self).__qualname__, self.model_dump_json()))

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """As everywhere, without what was found of the values before the update."""
        copied = super().model_copy(deep=deep)
        for name in copied.__dict__.keys() - type(self).model_fields:
            del copied.__dict__[name]
        return copied if update is None else BaseModel.model_copy(copied, update=update)


class Document(Frozen):
    """Part of a design document: unknown keys are refused, and what is not set is not kept."""

    model_config = ConfigDict(allow_inf_nan=False)

    @cached_property
    def fingerprint(self) -> str:
        """Hash of all that was set."""
        return hashlib.blake2b(self.model_dump_json(exclude_unset=True).encode(), digest_size=16).hexdigest()


def quantity(default: Any, title: str, unit: str, low: float, high: float, reason: str = "", step: float = 1.0) -> Any:
    """A number with a unit and a range; `...` as default where it must be given."""
    extra = {"x-unit": unit, "x-step": step} | ({"x-reason": reason} if reason else {})
    return Field(default, title=title, ge=low, le=high, json_schema_extra=extra)


def months(title: str, unit: str, step: float) -> Any:
    """Twelve numbers, January first, in place of one for the year."""
    extra = {"x-unit": unit, "x-step": step, "x-reason": "A single annual value is used."}
    return Field(None, title=title, json_schema_extra=extra)


def choice(default: Any, title: str, reason: str = "", words: dict[str, str] | None = None) -> Any:
    """One of a few words; `words` says how each reads where it reads otherwise."""
    extra: dict[str, Any] = ({"x-reason": reason} if reason else {}) | ({"x-words": words} if words else {})
    return Field(default, title=title, json_schema_extra=extra)


def part(kind: str, title: str, default: Any = ...) -> Any:
    """The id of a part of the library's `kind`; its datasheet is copied into the design."""
    return Field(default, max_length=64, title=title, json_schema_extra={"x-part": kind})


def first_fault(error: ValidationError) -> str:
    """The first thing that is wrong with a document: its place as a JSON pointer, and what is wrong there."""
    return placed_fault(error.errors()[0])


def placed_fault(error: Mapping[str, Any]) -> str:
    """A fault that pydantic found: its place as a JSON pointer, and what is wrong there."""
    return f"/{'/'.join(map(str, error['loc']))}: {fault_in_words(error)}"


def fault_in_words(error: Mapping[str, Any]) -> str:
    """What was expected in the place of a fault that pydantic found."""
    limits = error.get("ctx", {})
    match error["type"]:
        case "greater_than_equal":
            return f"Enter {limits['ge']:g} or more."
        case "less_than_equal":
            return f"Enter {limits['le']:g} or less."
        case "greater_than":
            return f"Enter more than {limits['gt']:g}."
        case "float_parsing" | "float_type":
            return "Enter a number."
        case "int_parsing" | "int_type" | "int_from_float":
            return "Enter a whole number."
        case "finite_number":
            return "Enter a finite number."
        case "extra_forbidden":
            return f"There is no value named '{str(error['loc'][-1])[:60]}' here."
        case "missing":
            return f"'{error['loc'][-1]}' is needed."
        case "string_pattern_mismatch" if "x00" in str(limits.get("pattern")):
            return "Enter a text of one line."
        case "literal_error":
            return f"Choose one of {limits['expected']}."
        case "too_short":
            return f"Give at least {limits['min_length']:,}."
        case "too_long":
            return f"Give at most {limits['max_length']:,}."
        case "string_too_long":
            return f"Write at most {limits['max_length']:,} characters."
        case "value_error":
            return str(limits.get("error", error["msg"]))
        case _:
            return str(error["msg"])[:300]


def in_one_line(error: Exception) -> str:
    """What went wrong, as it stands in a row of a table."""
    if isinstance(error, ValidationError):
        return first_fault(error)
    return " ".join(str(error).split())[:300] or type(error).__name__
