"""The parts library that ships with the application: invented makers, values typical of their years."""

import json
from functools import cache
from importlib.resources import files

from noontide.core.electrical.datasheets import KINDS, Catalogue


@cache
def built_in_parts() -> Catalogue:
    """All parts that ship with the application."""
    here = files(__name__)
    kinds = {kind: json.loads((here / f"{kind}.json").read_text(encoding="utf-8")) for kind in KINDS}
    return Catalogue.model_validate({kind: {part["id"]: part for part in parts} for kind, parts in kinds.items()})
