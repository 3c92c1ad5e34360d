"""On what the strings hang: inverters, or charge controllers on a battery bus."""

from typing import Any, Literal

from pydantic import Field

from noontide.core.design import Design
from noontide.core.fields import Document
from noontide.core.verbs.shared import ImpossibleAct


class HangStrings(Document):
    """What to hang them on."""

    kind: Literal["inverters", "controllers"] = Field(title="Kind of part")
    part: str = Field(min_length=1, max_length=80, title="Part")


def hang_strings(design: Design, given: HangStrings) -> tuple[dict[str, Any], str]:
    """All strings on inverters of one model, or on charge controllers of one; the sets stay as they are.

    Raises
    ------
    ImpossibleAct
        If there are no sets yet, or the place has a grid and controllers are asked for.
    """
    if not design.inverters:
        raise ImpossibleAct("There are no strings yet. Find strings first.")
    if given.kind == "controllers" and design.storage.off_grid is None:
        raise ImpossibleAct(
            "Charge controllers feed a battery where there is no grid. Say on the Storage bench that there is none."
        )
    if given.kind == "controllers":
        one: dict[str, Any] = {"model": None, "controller": given.part, "cable": None, "phase": None}
        words = "The strings hang on charge controllers."
    else:
        one, words = {"model": given.part, "controller": None}, "The strings hang on inverters."
    return {"inverters": dict.fromkeys(design.inverters, one)}, words
