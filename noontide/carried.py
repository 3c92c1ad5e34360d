"""What a worker is given to try designs: documents and arrays as data, by what they hold; and the chunk of runs that it does with them.

A worker keeps what it was sent, within a limit, so that weather and scenes travel to it once; what it does not have any more it asks
for. Nothing that travels is code.
"""

import hashlib
import io
import json
from collections import OrderedDict
from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass, field
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from noontide.code_version import code_version

MOST_BYTES = 1024**3  # of one content
KEPT_BYTES = 1024**3  # of contents that a worker keeps, in all
KEPT_STAGES = 128 * 1024**2  # bytes of stages, in each process
KEPT_STUDIES = 8  # opened designs and libraries, with their stages


@dataclass(frozen=True)
class Load:
    """All that the runs of a plan read, as bytes by digest; `needs` names what each is."""

    needs: dict[str, str]
    contents: dict[str, bytes] = field(repr=False)

    def chunk(self, tasks: Iterable[tuple[int, Mapping[str, Any]]]) -> bytes:
        """Runs as they are sent to a worker."""
        return _json({"version": _version(), "needs": self.needs, "tasks": [[number, dict(values)] for number, values in tasks]})


def load_of(plan: Any, libraries: Any) -> Load:
    """What the runs of a plan read: study and design, weather, meter readings and parts."""
    from noontide.core.weather.passport import COLUMNS, passport_of

    study = {"study": plan.study.model_dump(mode="json"), "document": dict(plan.document), "shares": dict(plan.shares)}
    parts = {"study": _json(study), "parts": libraries.parts.model_dump_json(exclude_defaults=True).encode()}
    if libraries.weather is not None:
        table = np.stack([getattr(libraries.weather, name) for name in COLUMNS])
        parts["weather"] = _arrays(passport_of(libraries.weather), table)
    for digest, one in libraries.series.items():
        about = {"title": one.title, "first_day": one.first_day, "step": one.step}
        parts[f"use {digest}"] = _arrays(about, one.power)
    needs = {name: hashlib.sha256(content).hexdigest() for name, content in parts.items()}
    return Load(needs, {needs[name]: content for name, content in parts.items()})


class Refused(RuntimeError):
    """A chunk that a worker does not do: of another version, or with contents that are not what they say."""


def run_chunk(chunk: bytes, contents: Mapping[str, bytes]) -> bytes:
    """The runs of a chunk, or the digests of what this worker has not yet got.

    Raises
    ------
    Refused
        With words.
    """
    asked = json.loads(chunk)
    if asked["version"] != _version():
        raise Refused(f"This worker has another version of Noontide ({_version()}) than the server ({asked['version']}).")
    _take(contents)
    needs = asked["needs"]
    if missing := sorted({digest for digest in needs.values() if digest not in _CONTENTS}):
        return _json({"missing": missing})
    from noontide.core.trials import run_tasks

    plan, libraries = _opened(needs)
    tasks = [(number, values) for number, values in asked["tasks"]]
    return _json({"runs": [asdict(one) for one in run_tasks(plan, tasks, libraries)]})


def runs_of(answer: bytes) -> tuple[list[Any], list[str]]:
    """The runs that a worker sends back, and what it does not have."""
    from noontide.core.trials import Run

    told = json.loads(answer)
    return [Run(**{**one, "broken": tuple(one["broken"])}) for one in told.get("runs", ())], told.get("missing", [])


@cache
def _version() -> str:
    """Of the code that server and worker have to share."""
    return code_version(Path(__file__))


_CONTENTS: OrderedDict[str, bytes] = OrderedDict()
_STUDIES: OrderedDict[str, tuple[Any, Any]] = OrderedDict()


def _take(contents: Mapping[str, bytes]) -> None:
    """Keep what was sent; what was used longest ago goes where there is no room."""
    for digest, content in contents.items():
        if len(content) > MOST_BYTES or hashlib.sha256(content).hexdigest() != digest:
            raise Refused("A content is not what its digest says, or too large.")
        _CONTENTS[digest] = content
    while len(_CONTENTS) > 1 and sum(map(len, _CONTENTS.values())) > KEPT_BYTES + sum(map(len, contents.values())):
        _CONTENTS.popitem(last=False)


def _opened(needs: Mapping[str, str]) -> tuple[Any, Any]:
    """The plan and the libraries of these contents; studies of the same libraries share the stages."""
    from noontide.core.design import Design
    from noontide.core.trials import Plan, Study

    for digest in needs.values():
        _CONTENTS.move_to_end(digest)
    key = json.dumps(needs, sort_keys=True)
    if key not in _STUDIES:
        about = json.loads(_CONTENTS[needs["study"]])
        shares = {name: tuple(rooms) for name, rooms in about["shares"].items()}
        plan = Plan(Study.model_validate(about["study"]), Design.read(about["document"]).as_kept(), shares)
        libraries = next(
            (held for other, (_, held) in _STUDIES.items() if _libraries_key(json.loads(other)) == _libraries_key(needs)), None
        )
        _STUDIES[key] = (plan, libraries or _libraries(needs))
    _STUDIES.move_to_end(key)
    while len(_STUDIES) > KEPT_STUDIES:
        _STUDIES.popitem(last=False)
    return _STUDIES[key]


def _libraries_key(needs: Mapping[str, str]) -> dict[str, str]:
    return {name: digest for name, digest in needs.items() if name != "study"}


def _libraries(needs: Mapping[str, str]) -> Any:
    from noontide.core.demand.series import UseSeries
    from noontide.core.electrical import Catalogue
    from noontide.core.simulation import Libraries, StageCache
    from noontide.core.weather.passport import COLUMNS, year_of

    weather = None
    if "weather" in needs:
        passport, table = _opened_arrays(_CONTENTS[needs["weather"]])
        weather = year_of(passport, dict(zip(COLUMNS, table, strict=True)))
    series = {}
    for name, digest in needs.items():
        if name.startswith("use "):
            about, power = _opened_arrays(_CONTENTS[digest])
            series[name.removeprefix("use ")] = UseSeries(about["title"], about["first_day"], about["step"], power)
    return Libraries(Catalogue.model_validate_json(_CONTENTS[needs["parts"]]), weather, series, StageCache(KEPT_STAGES))


def _arrays(about: dict[str, Any], table: Any) -> bytes:
    buffer = io.BytesIO()
    about_bytes = np.frombuffer(_json(about), dtype=np.uint8)
    np.savez(buffer, about=about_bytes, table=np.ascontiguousarray(table, dtype=np.float64))
    return buffer.getvalue()


def _opened_arrays(content: bytes) -> tuple[dict[str, Any], Any]:
    with np.load(io.BytesIO(content), allow_pickle=False) as file:
        return json.loads(file["about"].tobytes()), file["table"]


def _json(value: Any) -> bytes:
    return json.dumps(value, sort_keys=False).encode()
