"""An edit: a merge patch, the datasheets that it brings in, and what follows from the plan."""

from typing import Any

from noontide.core.design import freeze, merge_patch
from noontide.core.electrical import Catalogue
from noontide.core.verbs.planned_lengths import with_planned_lengths


def edited(document: dict[str, Any], patch: dict[str, Any], parts: Catalogue) -> dict[str, Any]:
    """A document after a merge patch, as it is kept.

    Raises
    ------
    DesignError, pydantic.ValidationError
        If what comes of it is not a valid design.
    """
    return with_planned_lengths(freeze(merge_patch(document, patch), parts), parts)
