"""Parts, rules of the wiring and setbacks that a team prefers: by region, by customer, or as favourites; kept as data."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from noontide.core.design.circuits import OwnRules
from noontide.core.design.layout import OwnSetbacks
from noontide.core.fields import Line
from noontide.server.accounts.models import User
from noontide.server.parts_library.models import PartsPreference
from noontide.server.problems import Problem

MOST = 100
Ids = Annotated[list[Annotated[str, Field(max_length=64)]], Field(max_length=500)]


class Preference(BaseModel):
    """A named set of parts, and the rules that go with it."""

    model_config = ConfigDict(extra="forbid")

    name: Annotated[Line, Field(min_length=1, max_length=80)]
    note: Annotated[Line, Field(max_length=200)] = ""
    modules: Ids = []
    inverters: Ids = []
    rules: OwnRules | None = None
    setbacks: Annotated[list[OwnSetbacks], Field(max_length=20)] = []


def preferences_of(user: User) -> list[Preference]:
    """All sets of a user, by name."""
    return [Preference.model_validate({"name": row.name, **row.body}) for row in PartsPreference.objects.visible_to(user)]


def keep_preference(user: User, preference: Preference) -> None:
    """Keep a set; one of the same name is replaced.

    Raises
    ------
    Problem
        If there are too many.
    """
    mine = PartsPreference.objects.visible_to(user)
    if mine.count() >= MOST and not mine.filter(name=preference.name).exists():
        raise Problem(422, "too-many", "Too many sets", f"At most {MOST} sets are kept. Delete one first.")
    body = preference.model_dump(mode="json", exclude={"name"}, exclude_none=True)
    PartsPreference.objects.update_or_create(owner=user, name=preference.name, defaults={"body": body})


def delete_preference(user: User, name: str) -> bool:
    """Whether there was a set of the name."""
    deleted, _ = PartsPreference.objects.visible_to(user).filter(name=name).delete()
    return deleted > 0
