"""What of a shelf of the library is still proposed."""

from collections.abc import Mapping
from typing import TypeVar

from noontide.core.electrical.datasheets import Part

YEARS_ON_SALE = 10  # an older part is not proposed; it can be chosen
Sheet = TypeVar("Sheet", bound=Part)


def on_sale(shelf: Mapping[str, Sheet]) -> dict[str, Sheet]:
    """The parts of the last years, by the newest of their shelf."""
    newest = max((sheet.year for sheet in shelf.values()), default=0)
    return {key: sheet for key, sheet in shelf.items() if sheet.year > newest - YEARS_ON_SALE}
