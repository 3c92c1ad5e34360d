"""The table of solar access: a line for each surface, or for each module, by month and over the year."""

from collections.abc import Mapping, Sequence

import numpy as np

from noontide.core.access.solar_access import FaceAccess
from noontide.core.calendar import MONTHS

HEAD = [
    *(f"{month[:3]} [%]" for month in MONTHS),
    "year [%]",
    *(f"{month[:3]} [kWh/m2]" for month in MONTHS),
    "year [kWh/m2]",
    "orientation [%]",
    "product [%]",
]


def shade_table(
    found: Sequence[FaceAccess], by_module: bool = False, energy: Mapping[str, float] | None = None
) -> list[list[str]]:
    """Lines of solar access, irradiation, orientation factor and their product, the heading first.

    Parameters
    ----------
    by_module : bool
        A line for each module in place of one for each surface.
    energy : mapping, optional
        At the meter, by id of the surface [kWh]; the lines of surfaces show it where it is known.
    """
    lines = [["surface", "module" if by_module else "modules", *HEAD, *([] if by_module else ["energy [kWh]"])]]
    for one in found:
        access, factor = one.access, one.orientation
        if by_module:
            lines += [
                [one.name, key, *_values(access.received[:, k], access.free, float(access.annual[k]), factor)]
                for k, key in enumerate(one.targets.ids)
            ]
        else:
            count = 0 if one.is_pieces else len(one.targets.ids)
            given = (energy or {}).get(one.surface_id or "")
            values = _values(access.received.mean(axis=1), access.free, one.mean, factor)
            lines.append([one.name, str(count), *values, "" if given is None else f"{given:.1f}"])
    return lines


def _values(received: np.ndarray, free: np.ndarray, annual: float, factor: float) -> list[str]:
    """Numbers of a line; a month without any light has no solar access, and its place stays empty."""
    shares = [f"{100 * got / whole:.1f}" if whole > 1e-9 else "" for got, whole in zip(received, free, strict=True)]
    amounts = [f"{month:.2f}" for month in received]
    return [
        *shares,
        f"{100 * annual:.2f}",
        *amounts,
        f"{received.sum():.1f}",
        f"{100 * factor:.1f}",
        f"{100 * annual * factor:.1f}",
    ]
