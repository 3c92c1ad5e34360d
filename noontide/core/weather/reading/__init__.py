"""How a table of weather is understood: recognised with reasons, changed by hand where that is needed, and then applied."""

from noontide.core.weather.reading.assemble import apply_reading, years_of
from noontide.core.weather.reading.model import ColumnReading, Finding, Reading
from noontide.core.weather.reading.recognise import Recognised, examine, recognise_content

__all__ = [
    "ColumnReading",
    "Finding",
    "Reading",
    "Recognised",
    "apply_reading",
    "examine",
    "recognise_content",
    "years_of",
]
