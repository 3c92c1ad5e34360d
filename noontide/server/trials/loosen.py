"""Values that are let loose in a draft, follow loose ones, or are held again."""

from pydantic import BaseModel, ConfigDict, Field, model_validator

from noontide.core.design import Design
from noontide.core.electrical import Catalogue
from noontide.core.trials.loosening import Size, keys_of, let_follow, let_loose, let_size_loose, without, without_tie
from noontide.core.trials.study import Study

MOST_ID = 10**12  # of what is asked for: the database holds no longer one


class Loosening(BaseModel):
    """A value of the design that is let loose, or held again."""

    model_config = ConfigDict(extra="forbid")

    pointers: list[str] = Field([], max_length=200)
    keys: list[str] = Field([], max_length=12, description="of loose values that are held again, where they have no pointers")
    size: Size | None = Field(
        None,
        description="in place of a value: the size of the array, in modules on the sunniest places, of the battery, or of the inverters beside the array",
    )
    follows: str | None = Field(
        None, max_length=40, description="a loose value that the one at the pointer follows, in place of being let loose itself"
    )
    loose: bool = True
    of: int | None = Field(None, ge=1, le=MOST_ID, description="a set whose study the draft begins with, where there is no draft")

    @model_validator(mode="after")
    def _names_a_value(self) -> "Loosening":
        if not self.pointers and (self.size is None if self.loose else not self.keys):
            raise ValueError("Name a value by its pointer.")
        return self


def loosened(study: Study | None, asked: Loosening, design: Design, parts: Catalogue) -> Study | None:
    """The study as it is asked for; None where nothing is loose any more.

    Raises
    ------
    StudyError, pydantic.ValidationError
        If there is no such value, or it cannot be let loose.
    """
    if asked.loose and asked.follows is not None and study is not None:
        return let_follow(study, design, asked.pointers[0], asked.follows)
    if asked.loose and asked.size is not None:
        return let_size_loose(study, design, asked.size, parts)
    if asked.loose:
        return let_loose(study, design, asked.pointers, parts)
    if study is None:
        return None
    for pointer in asked.pointers:
        study = without_tie(study, pointer)
    return without(study, {*asked.keys, *keys_of(study, asked.pointers)})
