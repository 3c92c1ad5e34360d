"""Units that a reader may prefer to metres and degrees Celsius. Energy, power and what is per square metre of light stay as the trade has them."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Conversion:
    """To another unit: `factor` times the value, and `offset`."""

    unit: str
    factor: float
    offset: float = 0.0


# The international foot and mile of 1959, exact; the Fahrenheit scale by its definition.
IMPERIAL: dict[str, Conversion] = {
    "m": Conversion("ft", 1 / 0.3048),
    "m²": Conversion("ft²", 1 / 0.3048**2),
    "km": Conversion("mi", 1 / 1.609344),
    "°C": Conversion("°F", 1.8, 32.0),
}
METRE = Conversion("m", 1.0)
SYSTEMS: dict[str, dict[str, Conversion]] = {"metric": {}, "imperial": IMPERIAL}
# Marks of thousands and decimals, by how a number looks with them.
NUMBERS: dict[str, tuple[str, str]] = {
    "1,234.5": (",", "."),
    "1.234,5": (".", ","),
    "1 234,5": ("\u202f", ","),
    "1’234.5": ("’", "."),
}
DATES = ("1 December 2026", "2026-12-01")
