"""What is wrong with a weather file, and where."""


class WeatherFileError(ValueError):
    """A file that cannot be read as it stands.

    Parameters
    ----------
    what : str
        The fault and how to put it right, in words that an interface can show unchanged.
    row : int, optional
        Line of the file, from 1.
    column : str, optional
        Name of the column.
    value : str, optional
        What stands there.
    """

    def __init__(self, what: str, *, row: int | None = None, column: str | None = None, value: str | None = None):
        self.what, self.row, self.column, self.value = what, row, column, value
        where = ", ".join(part for part in (f"line {row}" if row else "", f"column {column}" if column else "") if part)
        found = f" (found {value!r})" if value is not None else ""
        super().__init__(f"{where}: {what}{found}" if where else f"{what}{found}")
