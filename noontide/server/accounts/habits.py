"""How a person reads numbers, units and dates, the same on the screen and on paper, and in which money a project begins."""

import re
from datetime import datetime
from typing import Literal

from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field, field_validator
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from noontide.core.units import DATES, NUMBERS, SYSTEMS
from noontide.server.accounts.models import Habits, User
from noontide.server.problems import Problem

NumberStyle = Literal["", "1,234.5", "1.234,5", "1 234,5", "1’234.5"]
DateStyle = Literal["", "1 December 2026", "2026-12-01"]


class HabitsLine(BaseModel):
    """What a person has chosen; empty where it follows the language."""

    model_config = ConfigDict(extra="forbid")

    numbers: NumberStyle = ""
    units: Literal["metric", "imperial"] = "metric"
    dates: DateStyle = ""
    currency: str = Field("", max_length=12, description="that the prices of a new project are in; ISO 4217")

    @field_validator("currency")
    @classmethod
    def _currency_is_a_code(cls, currency: str) -> str:
        code = currency.strip().upper()
        if code and not re.fullmatch("[A-Z]{3}", code):
            raise ValueError(f"A currency is three letters of ISO 4217, such as EUR, not '{currency}'.")
        return code


class ConversionLine(BaseModel):
    """To the unit that is shown: `factor` times the value, and `offset`."""

    unit: str
    factor: float
    offset: float


class HabitsAnswer(HabitsLine):
    """What was chosen, what it means, and what there is to choose from."""

    thousands: str
    decimal: str
    conversions: dict[str, ConversionLine] = Field(description="by the unit in which values are kept")
    all_numbers: list[str]
    all_units: list[str]
    all_dates: list[str]


def habits_of(user: User) -> HabitsLine:
    """What a user has chosen."""
    kept = Habits.objects.filter(owner=user).first()
    return HabitsLine() if kept is None else HabitsLine.model_validate({k: getattr(kept, k) for k in HabitsLine.model_fields})


def day_of(moment: datetime, dates: str) -> str:
    """A day as it stands on paper."""
    return f"{moment:%Y-%m-%d}" if dates == DATES[1] else f"{moment.day} {moment:%B %Y}"


class HabitsView(APIView):
    @extend_schema(responses=HabitsAnswer, operation_id="habits")
    def get(self, request: Request) -> Response:
        """How one reads numbers, units and dates."""
        return Response(_answer(habits_of(request.user)))

    @extend_schema(request=HabitsLine, responses=HabitsAnswer, operation_id="set_habits")
    def put(self, request: Request) -> Response:
        """Choose how numbers, units and dates are shown; typed values are read back the same way."""
        if not isinstance(request.data, dict):
            raise Problem(422, "invalid-body", "A JSON object is needed")
        given = HabitsLine.model_validate(request.data)
        Habits.objects.update_or_create(owner=request.user, defaults=given.model_dump())
        return Response(_answer(given))


def _answer(habits: HabitsLine) -> dict:
    thousands, decimal = NUMBERS[habits.numbers or "1,234.5"]
    conversions = {
        unit: ConversionLine(unit=to.unit, factor=to.factor, offset=to.offset) for unit, to in SYSTEMS[habits.units].items()
    }
    return HabitsAnswer(
        **habits.model_dump(), thousands=thousands, decimal=decimal, conversions=conversions,
        all_numbers=list(NUMBERS), all_units=list(SYSTEMS), all_dates=list(DATES),
    ).model_dump(mode="json")  # fmt: skip
