"""Hourly series as answers: compact columns for the browser, JSON and CSV for everything else."""

import json

import numpy as np
import pandas as pd
from django.http import HttpResponse, JsonResponse

from noontide.core.simulation import Results
from noontide.core.simulation.quantities import quantities_of

COLUMNS = "application/vnd.noontide.columns"


def as_columns(results: Results, keys: list[str], subarray: str | None, revision: int) -> HttpResponse:
    """A JSON header, padded with spaces to a multiple of four bytes after its own length, then float32 columns.

    The layout is written down in docs/formats/columns.md.
    """
    known = quantities_of(results)
    columns = [results.quantity(key, subarray).astype("<f4") for key in keys]
    header = {
        "revision": revision,
        "step": results.calendar.step,
        "year": results.calendar.year,
        "utc_offset": results.calendar.utc_offset,
        "intervals": results.calendar.intervals,
        "columns": [{"key": key, "title": known[key].title, "unit": known[key].unit} for key in keys],
    }
    text = json.dumps(header).encode()
    text += b" " * (-len(text) % 4)
    body = len(text).to_bytes(4, "little") + text + b"".join(column.tobytes() for column in columns)
    return HttpResponse(body, content_type=COLUMNS)


def as_json(results: Results, keys: list[str], subarray: str | None, revision: int) -> JsonResponse:
    """Every value to its last digit."""
    known = quantities_of(results)
    columns = [
        {
            "key": key,
            "title": known[key].title,
            "unit": known[key].unit,
            "values": results.quantity(key, subarray).tolist(),
        }
        for key in keys
    ]
    return JsonResponse({"revision": revision, "start": [str(s) for s in results.calendar.local_starts], "columns": columns})


def as_csv(results: Results, keys: list[str], subarray: str | None, revision: int) -> HttpResponse:
    """A table with the start of each interval on the local clock."""
    known = quantities_of(results)
    table = pd.DataFrame({f"{key} [{known[key].unit}]": results.quantity(key, subarray) for key in keys})
    table.insert(0, "start", np.datetime_as_string(results.calendar.local_starts))
    answer = HttpResponse(table.to_csv(index=False), content_type="text/csv; charset=utf-8")
    answer.headers["Content-Disposition"] = f'attachment; filename="hourly-revision-{revision}.csv"'
    return answer
