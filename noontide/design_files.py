"""Designs from files, for the command line."""

import json
import sys
from pathlib import Path

from noontide.command_errors import INPUT_ERROR, fail


def read_design(path: str):
    """A design from a file, or from standard input for `-`; the command fails with words where it cannot be read."""
    from pydantic import ValidationError

    from noontide.core.design import Design, DesignError

    try:
        text = sys.stdin.read() if path == "-" else Path(path).read_text(encoding="utf-8")
        return Design.read(json.loads(text))
    except (OSError, UnicodeDecodeError) as error:
        fail(f"the design cannot be read: {error}")
    except (json.JSONDecodeError, RecursionError, DesignError) as error:
        fail(f"{path}: {error}")
    except ValidationError as error:
        for finding in error.errors()[:20]:
            place = "/" + "/".join(str(part) for part in finding["loc"])
            print(f"noontide: {path}: {place}: {finding['msg']}", file=sys.stderr)
        raise SystemExit(INPUT_ERROR) from None
