"""Formats of the design document, and the step from each to the next."""

from collections.abc import Callable
from typing import Any

from noontide.core.design.size import DesignError

FORMAT = "noontide-design/2"


def _from_scheme_1(document: dict) -> dict:
    """The first format, then called a scheme: parts were named but their datasheets did not have to be in the document."""
    return document | {"format": FORMAT}


# For each old format the step that leads to the next one.
STEPS: dict[str, Callable[[dict], dict]] = {"noontide-scheme/1": _from_scheme_1}


def upgrade(document: Any) -> dict:
    """The document in today's format, one step at a time; one without a format is taken as today's.

    Raises
    ------
    DesignError
        If it is no object or its format is unknown.
    """
    if not isinstance(document, dict):
        raise DesignError("A design is a JSON object.")
    while (name := document.get("format", FORMAT)) != FORMAT:
        if not isinstance(name, str) or name not in STEPS:
            known = ", ".join((*STEPS, FORMAT))
            raise DesignError(
                f"The format {str(name)[:60]!r} is unknown; known are {known}. It may come from a later version.", "/format"
            )
        document = STEPS[name](document)
    return document
