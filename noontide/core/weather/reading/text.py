"""Bytes of a file as lines of text: encodings, and tables of other formats laid out as text."""

import io
import json
import zipfile
from collections.abc import Sized
from dataclasses import dataclass
from typing import Any

import pandas as pd

from noontide.core.cells import WIDEST_ROW, rows_of_sheet
from noontide.core.weather.coverage_json import is_coverage, table_of_coverage
from noontide.core.weather.problems import WeatherFileError

MOST_LINES = 1_300_000  # twenty years of ten minutes
LONGEST_LINE = 20_000
MOST_UNPACKED = 400 * 1024**2  # bytes of a workbook


@dataclass(frozen=True)
class Sheet:
    """Lines of a table, and what they were taken from."""

    lines: list[str]
    source: str = "text"
    encoding: str = "utf-8"
    sheet: str = ""
    sheets: tuple[str, ...] = ()


def open_sheet(content: bytes, sheet: str = "", encoding: str = "") -> Sheet:
    """The lines of a file: text, a workbook's sheet, Parquet, or JSON records.

    Raises
    ------
    WeatherFileError
        If it is none of these, or larger than any record of years.
    """
    if content[:4] == b"PK\x03\x04":
        return _workbook(content, sheet)
    if content[:4] == b"PAR1":
        return _parquet(content)
    if content[:2] == b"\x1f\x8b":
        raise WeatherFileError("This file is compressed (gzip). Unpack it, then load the file inside.")
    if content[:4] == b"\xd0\xcf\x11\xe0":
        raise WeatherFileError("This is a workbook of the old binary kind. Save it as .xlsx or as CSV, then load it.")
    text, encoding = _decoded(content, encoding)
    if text.lstrip()[:1] in ("[", "{") and (found := _json(text)) is not None:
        return found
    return Sheet(_lines(text), "text", encoding)


def _decoded(content: bytes, encoding: str) -> tuple[str, str]:
    for mark, name in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if content.startswith(mark):
            encoding = encoding or name
    if not encoding.startswith("utf-16") and b"\0" in content[:4096]:
        raise WeatherFileError("This is not a text file; a weather year comes as a table of text, XLSX, Parquet or JSON.")
    for name in (encoding, "utf-8", "cp1252", "latin-1"):
        if name:
            try:
                return content.decode(name), name
            except (UnicodeDecodeError, LookupError):
                continue
    raise WeatherFileError("The text of this file is in no known encoding. Save it as UTF-8.")


def _lines(text: str) -> list[str]:
    ends = text.count("\n") + text.count("\r")
    if ends > 2 * MOST_LINES:
        raise WeatherFileError(f"the file has {ends:,} lines; at most {MOST_LINES:,} are read. Save fewer years")
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    if len(lines) > MOST_LINES:
        raise WeatherFileError(f"the file has {len(lines):,} lines; at most {MOST_LINES:,} are read. Save fewer years")
    longest = max(range(len(lines)), key=lambda i: len(lines[i]))
    if len(lines[longest]) > LONGEST_LINE:
        raise WeatherFileError(
            f"a line has at most {LONGEST_LINE:,} characters; this one has {len(lines[longest]):,}", row=longest + 1
        )
    return lines


def _workbook(content: bytes, wanted: str) -> Sheet:
    import openpyxl

    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            names, size = archive.namelist(), sum(info.file_size for info in archive.infolist())
    except (zipfile.BadZipFile, ValueError, OSError) as error:
        raise WeatherFileError("This file is damaged: it begins as a workbook or an archive and does not end as one.") from error
    if "xl/workbook.xml" not in names:
        raise WeatherFileError("This is an archive (zip). Unpack it, then load the file inside.")
    if size > MOST_UNPACKED:
        raise WeatherFileError(f"The workbook unpacks to {size / 1e6:,.0f} MB; at most {MOST_UNPACKED / 1e6:,.0f} MB are read.")
    try:
        book = openpyxl.load_workbook(io.BytesIO(content), read_only=True, data_only=True)
        tables = {}
        for name in book.sheetnames:
            if hasattr(book[name], "iter_rows") and (not wanted or name == wanted):
                tables[name] = ["\t".join(map(_cell, row)) for row in _rows_of(book[name])]
    except WeatherFileError:
        raise
    except Exception as error:  # the package raises whatever its XML parser meets
        raise WeatherFileError(
            f"The workbook cannot be opened: {type(error).__name__}. Save it again, or save it as CSV."
        ) from error
    if not tables:
        raise WeatherFileError(f"The workbook has no sheet {wanted!r}." if wanted else "The workbook has no sheet with cells.")
    longest = max(tables, key=lambda name: len(tables[name]))
    return Sheet(tables[longest], "xlsx", "utf-8", longest, tuple(tables))


def _rows_of(sheet: Any) -> Any:
    try:
        for i, row in enumerate(rows_of_sheet(sheet)):
            if i >= MOST_LINES:
                raise WeatherFileError(f"the sheet has more than {MOST_LINES:,} rows. Save fewer years")
            yield row
    except WeatherFileError:
        raise
    except ValueError as error:
        raise WeatherFileError(str(error)) from None


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if hasattr(value, "isoformat"):
        return value.isoformat(sep=" ") if hasattr(value, "hour") and hasattr(value, "year") else value.isoformat()
    return str(value).replace("\t", " ").replace("\n", " ").replace("\r", " ")


def _parquet(content: bytes) -> Sheet:
    try:
        import pyarrow.parquet as pq

        table = pq.ParquetFile(io.BytesIO(content))
        if table.metadata.num_rows > MOST_LINES or table.metadata.num_columns > 400:
            raise WeatherFileError(
                f"the table has {table.metadata.num_rows:,} rows and {table.metadata.num_columns} columns; at most {MOST_LINES:,} and 400 are read"
            )
        frame = table.read().to_pandas()
    except ImportError as error:
        raise WeatherFileError("Parquet files need the package pyarrow, which is not installed here.") from error
    except WeatherFileError:
        raise
    except Exception as error:  # the package has an error of its own for every layer
        raise WeatherFileError(f"The Parquet file cannot be opened: {str(error)[:120]}") from error
    if not isinstance(frame.index, pd.RangeIndex):
        frame = frame.reset_index()
    return Sheet(_laid_out(frame), "parquet")


def _json(text: str) -> Sheet | None:
    """Records of a JSON array, alone or the longest one inside an object; the other entries stand above as preamble."""
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        return None
    above: list[str] = []
    if is_coverage(data):
        found = table_of_coverage(data)
        return Sheet([*found.preamble, *_laid_out(found.frame)], "json")
    if isinstance(data, dict):
        above = [f"{key}: {value}" for key, value in _flat(data)]
        records, columns = _longest(data)
        if columns:
            _check_width(columns)
            return Sheet([*above, *_laid_out(pd.DataFrame(columns))], "json")
        if not records:
            raise WeatherFileError("The JSON file has no array of records.")
        data = records
    if not all(isinstance(record, dict) for record in data[:100]):
        raise WeatherFileError("The JSON file must hold an array of records, one for each row.")
    if len(data) > MOST_LINES:
        raise WeatherFileError(f"the file has {len(data):,} records; at most {MOST_LINES:,} are read. Save fewer years")
    keys: set[str] = set()
    for record in data:
        keys.update(record if isinstance(record, dict) else ())
        _check_width(keys)
    return Sheet([*above, *_laid_out(pd.DataFrame.from_records(data))], "json")


def _check_width(columns: Sized) -> None:
    """Before a table is made of them."""
    if len(columns) > WIDEST_ROW:
        raise WeatherFileError(f"the records have more than {WIDEST_ROW} different entries; they are the columns of a table")


def _longest(data: dict, depth: int = 0) -> tuple[list, dict[str, list]]:
    """The longest array of records inside an object, or else its longest arrays of one length side by side."""
    records: list = []
    columns: dict[str, list] = {}
    lists = {str(key): value for key, value in data.items() if isinstance(value, list) and value}
    for value in lists.values():
        if isinstance(value[0], dict) and len(value) > len(records):
            records = value
    plain = {key: value for key, value in lists.items() if not isinstance(value[0], dict | list)}
    if plain:
        size = max(len(value) for value in plain.values())
        columns = {key: value for key, value in plain.items() if len(value) == size}
    for value in data.values():
        if isinstance(value, dict) and depth < 4:
            inner_records, inner_columns = _longest(value, depth + 1)
            records = max(records, inner_records, key=len)
            if _rows(inner_columns) > _rows(columns):
                columns = inner_columns
    return (records, {}) if len(records) >= _rows(columns) else ([], columns)


def _rows(columns: dict[str, list]) -> int:
    return len(next(iter(columns.values()), []))


def _flat(data: dict, depth: int = 0) -> list[tuple[str, Any]]:
    found: list[tuple[str, Any]] = []
    for key, value in list(data.items())[:200]:
        if isinstance(value, dict) and depth < 4:
            found += _flat(value, depth + 1)
        elif not isinstance(value, list | dict):
            found.append((str(key)[:80], str(value)[:200]))
    return found


def _laid_out(frame: pd.DataFrame) -> list[str]:
    # Stamps are written with their zone, so that the reader sees it.
    return frame.to_csv(sep="\t", index=False, lineterminator="\n").rstrip("\n").split("\n")
