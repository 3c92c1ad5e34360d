"""Designs and other documents from files, for the command line."""

import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from noontide.command_errors import INPUT_ERROR, fail

Model = TypeVar("Model")


def read_design(path: str):
    """A design from a file, or from standard input for `-`; the command fails with words where it cannot be read."""
    from noontide.core.design import Design, DesignError

    try:
        return read_validated(path, "design", Design.read)
    except DesignError as error:
        fail(f"{path}: {error}")


def read_validated(path: str, title: str, read: Callable[[Any], Model]) -> Model:
    """What a reader of the core makes of a JSON document, from a file or from standard input for `-`; every invalid value is named with its place."""
    from pydantic import ValidationError

    from noontide.core.fields import placed_fault

    document = read_document(path, title)
    try:
        return read(document)
    except ValidationError as error:
        for finding in error.errors()[:20]:
            print(f"noontide: {path}: {placed_fault(finding)}", file=sys.stderr)
        raise SystemExit(INPUT_ERROR) from None


def read_document(path: str, title: str) -> Any:
    """A JSON document, from a file or from standard input for `-`."""
    try:
        return json.loads(sys.stdin.read() if path == "-" else Path(path).read_text(encoding="utf-8"))
    except (json.JSONDecodeError, RecursionError) as error:
        fail(f"{path} is no JSON: {error}")
    except (OSError, UnicodeDecodeError) as error:
        fail(f"the {title} cannot be read: {error}")


def write_design(document: dict, out: str) -> None:
    """Write a design document to a file, or to standard output where that is `-`; ends where it cannot be written."""
    text = json.dumps(document, indent=1, ensure_ascii=False)
    if out == "-":
        print(text)
        return
    try:
        Path(out).write_text(text + "\n", encoding="utf-8")
    except OSError as error:
        fail(f"the design cannot be written: {error}")
