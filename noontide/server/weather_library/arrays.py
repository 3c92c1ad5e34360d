"""The values of a weather year in a binary file that opens in milliseconds."""

import io
from pathlib import Path

import numpy as np

from noontide.core.calendar import Calendar
from noontide.core.weather import Place, Weather
from noontide.core.weather.passport import COLUMNS
from noontide.server.files import write_whole


def write_arrays(path: Path, weather: Weather) -> None:
    """Keep the columns as one table, (columns, intervals)."""
    buffer = io.BytesIO()
    np.save(buffer, np.stack([getattr(weather, name) for name in COLUMNS]), allow_pickle=False)
    write_whole(path, buffer.getvalue())


def read_arrays(path: Path, calendar: Calendar, place: Place, **words: object) -> Weather:
    """The year that was written.

    Raises
    ------
    ValueError
        If the file is not such a table.
    """
    table = np.load(path, allow_pickle=False)
    if table.shape != (len(COLUMNS), calendar.intervals):
        raise ValueError(f"{path.name} has the shape {table.shape}")
    return Weather(calendar, place, *table, **words)  # type: ignore[arg-type]
