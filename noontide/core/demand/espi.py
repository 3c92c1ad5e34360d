"""Energy usage in ESPI (NAESB REQ.21, known as Green Button): an Atom feed with reading types and blocks of interval readings, in XML."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from noontide.core.weather.problems import WeatherFileError

Floats = NDArray[np.float64]
MOST_READINGS = 2_000_000
WATT_HOURS, WATTS = 72, 38  # codes of the unit of measure
FORWARD, REVERSE = 1, 19  # flow direction: to the customer, from the customer
CUMULATIVE = (1, 3)  # accumulation behaviour of a register's own readings


@dataclass(frozen=True)
class EspiBlocks:
    """Interval readings of the energy that goes to the customer."""

    start: Floats  # minutes of UTC since 1970
    power: Floats  # mean of each interval [kW]
    step: int  # [min]
    offset: float  # of the local clock from UTC, in standard time [min]
    notes: tuple[str, ...]


def is_espi(content: bytes) -> bool:
    """Whether a file is XML with interval readings of ESPI."""
    head = content[:4096].lstrip(b"\xef\xbb\xbf \r\n\t")
    return head.startswith(b"<") and b"IntervalReading" in content


def read_espi(content: bytes) -> EspiBlocks:
    """The interval readings of a feed.

    Raises
    ------
    WeatherFileError
        If the XML is damaged, or has no readings of energy or power that goes to the customer.
    """
    from defusedxml.common import DefusedXmlException
    from defusedxml.ElementTree import ParseError, fromstring

    try:
        root = fromstring(content)
    except (ParseError, DefusedXmlException, ValueError, RecursionError) as error:
        raise WeatherFileError(f"The XML cannot be read: {str(error)[:120]}. Download the file again.") from error
    notes: list[str] = []
    types = _reading_types(root)
    offset = 0.0
    for parameters in _every(root, "LocalTimeParameters"):
        offset = _number(parameters, "tzOffset", 0.0) / 60
    starts: list[float] = []
    durations: list[float] = []
    values: list[float] = []
    left_out = 0
    for entry, blocks in _entries(root):
        kind = types.get(entry) or (next(iter(types.values())) if len(types) == 1 else None)
        multiplier, unit, direction, behaviour = kind or (0.0, WATT_HOURS, FORWARD, 4.0)
        for block in blocks:
            if direction == REVERSE or unit not in (WATT_HOURS, WATTS) or behaviour in CUMULATIVE:
                left_out += 1
                continue
            for reading in _every(block, "IntervalReading"):
                period = next(_every(reading, "timePeriod"), None)
                if period is None:
                    continue
                duration = _number(period, "duration", 0.0)
                amount = _number(reading, "value", np.nan) * 10.0**multiplier
                if duration <= 0:
                    raise WeatherFileError("an interval reading has no duration", value=str(_number(period, "start", 0.0)))
                starts.append(_number(period, "start", np.nan) / 60)
                durations.append(duration / 60)
                values.append(amount / 1000 if unit == WATTS else amount / 1000 / (duration / 3600))
                if len(starts) > MOST_READINGS:
                    raise WeatherFileError(f"the file has more than {MOST_READINGS:,} readings. Save fewer years")
    if not starts:
        raise WeatherFileError("The file has no interval readings of energy or power that goes to the customer.")
    lengths, counts = np.unique(np.round(durations), return_counts=True)
    step = int(lengths[counts.argmax()])
    if not 1 <= step <= 1440 or 1440 % step:
        raise WeatherFileError(f"the readings last {step} min; a length that divides a day is needed")
    right = np.abs(np.array(durations) - step) < 0.5
    if not right.all():
        notes.append(f"{int((~right).sum())} readings of another length are left out.")
    if left_out:
        notes.append(f"{left_out} blocks of energy from the customer, of other units or of register readings are left out.")
    start, power = np.array(starts)[right], np.array(values)[right]
    order = np.argsort(start, kind="stable")
    return EspiBlocks(start[order], power[order], step, offset, tuple(notes))


def _local(element) -> str:
    return str(element.tag).rsplit("}", 1)[-1]


def _every(element, name: str):
    return (inner for inner in element.iter() if _local(inner) == name)


def _number(element, name: str, missing: float) -> float:
    found = next(_every(element, name), None)
    if found is None or found.text is None:
        return missing
    try:
        value = float(found.text)
    except ValueError:
        raise WeatherFileError(f"a number was expected in {name}", value=found.text[:40]) from None
    if not np.isfinite(value) or abs(value) > 1e15:
        raise WeatherFileError(f"{name} is out of range", value=found.text[:40])
    return value


def _reading_types(root) -> dict[str, tuple[float, float, float, float]]:
    """Multiplier, unit, direction and behaviour of each reading type, by the meter reading that it belongs to."""
    links: dict[str, str] = {}
    kinds: dict[str, tuple[float, float, float, float]] = {}
    for entry in _every(root, "entry"):
        own = [str(link.get("href", "")) for link in _every(entry, "link") if link.get("rel") == "self"]
        related = [str(link.get("href", "")) for link in _every(entry, "link") if link.get("rel") == "related"]
        if (kind := next(_every(entry, "ReadingType"), None)) is not None:
            values = tuple(
                _number(kind, name, missing)
                for name, missing in (
                    ("powerOfTenMultiplier", 0.0),
                    ("uom", WATT_HOURS),
                    ("flowDirection", FORWARD),
                    ("accumulationBehaviour", 4.0),
                )
            )
            if abs(values[0]) > 12:
                raise WeatherFileError("powerOfTenMultiplier is out of range", value=f"{values[0]:g}")
            kinds[own[0] if own else str(len(kinds))] = values  # type: ignore[assignment]
        elif next(_every(entry, "MeterReading"), None) is not None and own:
            for target in related:
                if "ReadingType" in target:
                    links[own[0]] = target
    found = {reading: kinds[kind] for reading, kind in links.items() if kind in kinds}
    return found or kinds


def _entries(root) -> list[tuple[str, list]]:
    """Interval blocks with the meter reading that each belongs to; blocks outside of entries have none."""
    found = []
    for entry in _every(root, "entry"):
        blocks = list(_every(entry, "IntervalBlock"))
        if blocks:
            links = [str(link.get("href", "")) for link in _every(entry, "link")]
            owner = next((link.split("/IntervalBlock")[0] for link in links if "/IntervalBlock" in link), "")
            found.append((owner, blocks))
    return found or [("", list(_every(root, "IntervalBlock")))]
