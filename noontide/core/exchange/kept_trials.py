"""Sets of trials in a project file: the study, the design that it was run on, and its runs as a table."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from noontide.core.exchange.archive import ArchiveError
from noontide.core.fields import first_fault
from noontide.core.trials.runs_table import RunColumns
from noontide.core.trials.study import MOST_RUNS, Study

Floats = NDArray[np.float64]
State = Literal["draft", "paused", "cancelled", "done", "failed"]
HALF = 2**32  # the digest of a design is two numbers of 32 bits, which a float holds
AROUND = 5  # columns beside values and figures: run, whether it is done, seconds, and the digest of its design


@dataclass(frozen=True)
class KeptTrials:
    """A set of trials of a scheme."""

    letter: str  # of the scheme
    study: Study
    document: dict  # of the design that was run
    revision: int
    state: State
    total: int  # runs that the study has
    seconds: float  # that it has run for
    created: str  # ISO 8601
    runs: RunColumns | None = None  # of a draft none


class TrialsEntry(BaseModel):
    """What the list of an archive says of a set."""

    model_config = ConfigDict(extra="forbid")

    letter: str = Field(pattern="^[A-Z]{1,3}$")
    study: dict[str, Any]
    file: str
    revision: int = Field(ge=1)
    state: State
    total: int = Field(ge=0, le=MOST_RUNS)
    seconds: float = Field(ge=0)
    created: str = Field("", max_length=40)
    values: str = ""
    figures: list[str] = Field([], max_length=200)
    errors: dict[str, str] = Field({}, max_length=MOST_RUNS)


def pack_trials(number: int, one: KeptTrials, write: Callable[[str, object], None]) -> dict[str, Any]:
    """The entry of a set, its files written: designs as documents, runs as a table."""
    path = f"trials/{number}.json"
    write(path, one.document)
    entry = TrialsEntry(
        letter=one.letter, study=one.study.model_dump(mode="json", exclude_unset=True), file=path, revision=one.revision, state=one.state,
        total=one.total, seconds=one.seconds, created=one.created,
    )  # fmt: skip
    if one.runs is not None:
        entry.values, entry.figures = f"trials/{number}.npy", list(one.runs.keys)
        entry.errors = {str(run): words for run, words in sorted(one.runs.errors.items())}
        write(entry.values, table_of_runs(one.runs))
    return entry.model_dump()


def unpack_trials(
    entry: TrialsEntry, letters: Collection[str], design: Callable[[str], dict], table: Callable[[str], Floats]
) -> KeptTrials:
    """A set of trials of an archive.

    Raises
    ------
    ArchiveError
        If its study or design is none, or its table is not that of its runs.
    """
    if entry.letter not in letters:
        raise ArchiveError(f"project.json has trials of scheme {entry.letter}, which it does not have.")
    try:
        study = Study.model_validate(entry.study)
    except ValidationError as error:
        raise ArchiveError(f"{entry.file}: the study is none. {first_fault(error)}") from None
    runs = None
    if entry.values:
        try:
            runs = runs_of_table(study, table(entry.values), tuple(entry.figures), entry.errors)
        except ValueError as error:
            raise ArchiveError(f"{entry.values}: {error}") from None
    return KeptTrials(
        entry.letter, study, design(entry.file), entry.revision, entry.state, entry.total, entry.seconds, entry.created, runs
    )


def table_of_runs(runs: RunColumns) -> Floats:
    """Runs as rows of numbers: run, loose values, figures, whether it is done, seconds, and its design's digest in two halves."""
    high, low = runs.designs // np.uint64(HALF), runs.designs % np.uint64(HALF)
    around = (runs.is_done.astype(float), runs.seconds, high.astype(float), low.astype(float))
    return np.column_stack([runs.numbers.astype(float), runs.values, runs.figures, *around])


def runs_of_table(study: Study, table: Floats, keys: tuple[str, ...], errors: Mapping[str, str]) -> RunColumns:
    """What was made a table.

    Raises
    ------
    ValueError
        If the table has not the columns of the study's runs, or numbers of runs that cannot be.
    """
    values, width = len(study.loose), AROUND + len(study.loose) + len(keys)
    if table.ndim != 2 or table.shape[1] != width:
        raise ValueError(f"runs of this study have {width} columns; the table is {' × '.join(map(str, table.shape))}.")
    numbers, rest = table[:, 0], table[:, 1:]
    around = rest[:, values + len(keys) :]
    whole = np.concatenate([numbers[:, np.newaxis], around[:, 2:]], axis=1)
    if not np.isfinite(whole).all() or (whole < 0).any() or (whole != np.floor(whole)).any() or (whole >= HALF).any():
        raise ValueError("numbers and digests of runs are whole numbers from 0 on.")
    if len(table) > MOST_RUNS or len(np.unique(numbers)) < len(numbers):
        raise ValueError("a run is there twice.")
    if any(not run.isdecimal() for run in errors):
        raise ValueError("what went wrong goes by the number of a run.")
    designs = around[:, 2].astype(np.uint64) * np.uint64(HALF) + around[:, 3].astype(np.uint64)
    return RunColumns(
        numbers.astype(np.int64), rest[:, :values].copy(), keys, rest[:, values : values + len(keys)].copy(), around[:, 0] > 0.5, designs,
        around[:, 1].copy(), {int(run): str(words)[:300] for run, words in errors.items()},
    )  # fmt: skip
