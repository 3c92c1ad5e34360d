"""Tariffs that ship: all made up, in the forms that tariffs come in."""

import json
from functools import cache
from importlib import resources

from noontide.core.money.tariff import Tariff, read_tariff


@cache
def built_in_tariffs() -> dict[str, Tariff]:
    """By their ids, in order."""
    folder = resources.files("noontide.tariffs")
    files = sorted((file for file in folder.iterdir() if file.name.endswith(".json")), key=lambda file: file.name)
    return {file.name.removesuffix(".json"): read_tariff(json.loads(file.read_text(encoding="utf-8"))) for file in files}
