"""The parts library that ships with the application: invented makers, values typical of their years."""

import json
from functools import cache
from importlib.resources import files

from noontide.core.electrical.datasheets import Catalogue


@cache
def built_in_parts() -> Catalogue:
    """All modules and inverters that ship with the application."""
    here = files(__name__)
    modules, inverters = (json.loads((here / name).read_text(encoding="utf-8")) for name in ("modules.json", "inverters.json"))
    return Catalogue.model_validate({"modules": {m["id"]: m for m in modules}, "inverters": {i["id"]: i for i in inverters}})
