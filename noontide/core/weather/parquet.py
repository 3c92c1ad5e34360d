"""A year of ours as Parquet: a column for each quantity, and its passport in the schema's metadata."""

import io
import json

import numpy as np

from noontide.core.weather.passport import COLUMNS, passport_of, year_of
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.year import Weather

KEY = b"noontide:year"


def write_parquet(weather: Weather) -> bytes:
    """The year as a file; times are starts of the intervals on the local standard clock."""
    import pyarrow as pa
    import pyarrow.parquet as pq

    table = pa.table(
        {"time": weather.calendar.local_starts.astype("datetime64[ms]")} | {name: getattr(weather, name) for name in COLUMNS}
    )
    target = io.BytesIO()
    pq.write_table(table.replace_schema_metadata({KEY: json.dumps(passport_of(weather)).encode()}), target)
    return target.getvalue()


def has_passport(content: bytes) -> bool:
    """Whether a Parquet file is a year of ours."""
    return _metadata(content) is not None


def _metadata(content: bytes) -> bytes | None:
    try:
        import pyarrow.parquet as pq

        return (pq.read_schema(io.BytesIO(content)).metadata or {}).get(KEY)
    except Exception:  # the package has an error of its own for every layer; the reader of tables says which
        return None


def read_parquet(content: bytes) -> Weather:
    """A year that `write_parquet` wrote.

    Raises
    ------
    WeatherFileError
        If it is none.
    """
    import pyarrow.parquet as pq

    kept = _metadata(content)
    try:
        passport = json.loads(kept or b"null")
        table = pq.read_table(io.BytesIO(content), columns=[*COLUMNS])
        columns = {name: np.asarray(table[name], dtype=float) for name in COLUMNS}
    except Exception as error:  # as above
        raise WeatherFileError(f"The Parquet file cannot be opened: {str(error)[:120]}") from error
    return year_of(passport, columns)
