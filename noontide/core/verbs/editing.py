"""An edit: a merge patch, the datasheets that it brings in, and what follows from the plan."""

from typing import Any

from noontide.core.design import freeze, merge_patch
from noontide.core.electrical import Catalogue
from noontide.core.verbs.planned_lengths import with_planned_lengths

MOVING = frozenset({"scene", "surfaces", "subarrays", "inverters", "parts"})  # parts of the document that a plan is made of


def edited(document: dict[str, Any], patch: dict[str, Any], parts: Catalogue) -> dict[str, Any]:
    """A document after a merge patch, as it is kept.

    Raises
    ------
    DesignError, pydantic.ValidationError
        If what comes of it is not a valid design.
    """
    kept = freeze(merge_patch(document, patch), parts)
    return with_planned_lengths(kept, parts) if MOVING.intersection(patch) else kept
