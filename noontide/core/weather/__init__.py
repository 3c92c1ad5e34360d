"""Weather: years of irradiance, temperature and wind, from files and for files."""

from noontide.core.weather.decomposition import close_beam, erbs
from noontide.core.weather.files import as_text, parse, read, read_years, reading_of, recognise, write
from noontide.core.weather.problems import WeatherFileError
from noontide.core.weather.reading import Reading
from noontide.core.weather.statistics import WeatherSummary, distance_km, summarise
from noontide.core.weather.synthesis import synthesise
from noontide.core.weather.typical import choose_months, typical_year
from noontide.core.weather.year import Place, Step, Weather, fill_missing_columns

__all__ = [
    "Place",
    "Reading",
    "Step",
    "Weather",
    "WeatherFileError",
    "WeatherSummary",
    "as_text",
    "choose_months",
    "close_beam",
    "distance_km",
    "erbs",
    "fill_missing_columns",
    "parse",
    "read",
    "read_years",
    "reading_of",
    "recognise",
    "summarise",
    "synthesise",
    "typical_year",
    "write",
]
