"""What the bench Trials is told: sets, their outlook, their runs by columns, cells and fronts."""

from collections import OrderedDict
from datetime import datetime
from threading import Lock
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel, Field

from noontide.core.design import Design
from noontide.core.figures.catalogue import FIGURE_OF
from noontide.core.simulation import Results
from noontide.core.trials import Study, inputs_of, shared_by
from noontide.core.trials.loosening import followers_of
from noontide.core.trials.planning import COUNTED
from noontide.core.trials.runs_table import Cell, RunsTable, better_of, is_words
from noontide.core.trials.sharing import Outlook, outlook
from noontide.core.trials.study import COUNTED_WAYS, MOST_RUNS, MOST_SEARCHED, MOST_SEED, USUAL_RUNS, WAY_TITLES, Aim, Scalar
from noontide.core.verbs.catalogue import VERBS
from noontide.server.accounts.models import User
from noontide.server.apart import make_ready
from noontide.server.problems import Problem
from noontide.server.projects.evaluation_key import key_of_document
from noontide.server.projects.libraries import libraries_of
from noontide.server.trials.keeping import changed_since, planned, table_of, under_way
from noontide.server.trials.models import TrialSet

GOOD_SHARE = 2.0  # %
MOST_GOOD = 40
FIRST_AIMS = ("net_present_value", "energy")  # of those that can be aimed at
COUNT_TITLES = {"errors": "Open errors", "cautions": "Open cautions"}
State = Literal["draft", "running", "paused", "cancelled", "done", "failed", "interrupted"]


class TrialLine(BaseModel):
    """A set of trials in the list of a scheme."""

    id: int
    name: str
    title: str = Field(description="its name, or what is loose")
    state: State
    runs: int
    done: int
    created: datetime


class LooseLine(BaseModel):
    """A loose value with what the pictures need of it."""

    key: str
    title: str
    unit: str
    pointers: list[str]
    is_words: bool
    count: int | None = Field(description="how many values there are; none of a range without steps")
    values: list[bool | int | float | str | None] = Field(description="all of them, where they are at most 60")
    low: float | None
    high: float | None
    rooms: list[str] = Field(description="of the design that it changes")


class TieLine(BaseModel):
    """A value of the design that follows a loose one."""

    pointer: str
    title: str
    unit: str
    loose: str
    times: float
    plus: float


class Follower(BaseModel):
    """A value of the design that may follow a loose one."""

    pointer: str
    title: str


class FigureColumn(BaseModel):
    """A figure of the runs, and how it is shown."""

    key: str
    title: str
    unit: str
    decimals: int
    is_percentage: bool
    better: Literal["more", "less", ""]
    varies: bool = Field(True, description="not the same in all runs")


class OutlookAnswer(BaseModel):
    """What a study comes to before it is begun, or why it cannot be."""

    runs: int = 0
    solar_years: int = 0
    seconds: float = Field(0.0, description="in one process, as measured on the first few runs")
    problem: str = ""
    pointer: str = ""


class StudyWay(BaseModel):
    """A way in which values are tried."""

    key: str
    title: str
    is_counted: bool = Field(description="one says how many runs it has")
    most_runs: int


class StudyAim(BaseModel):
    """A figure that can be aimed at."""

    figure: str
    better: Literal["more", "less"]


class StudyAct(BaseModel):
    """Something that is done to the design of each run."""

    verb: str
    title: str
    arguments: dict[str, Any]


class StudyChoices(BaseModel):
    """What can be said in a study of this design."""

    ways: list[StudyWay]
    usual_runs: int
    least_runs: int
    least_seed: int
    most_seed: int
    aims: list[StudyAim] = Field(description="the first is proposed")
    figures: list[str] = Field(description="that can be held to a limit; the first is proposed, at most 0")
    acts: list[StudyAct] = Field(description="that can be done to the design of each run")
    followers: list[Follower] = Field(description="of a draft: values of the design that may follow a loose one")


class TrialAnswer(TrialLine):
    """A set of trials."""

    scheme: int
    revision: int
    study: dict[str, Any] | None
    message: str
    job: str | None
    failed: int
    kept: int = Field(description="runs that keep every limit")
    seconds: float
    changed: list[str] = Field(description="rooms of the scheme that were changed since: the set is out of date")
    loose: list[LooseLine]
    ties: list[TieLine]
    figures: list[FigureColumn] = Field(description="that the runs have; of a draft those of the design")
    outlook: OutlookAnswer | None = Field(description="of a draft")
    choices: StudyChoices


class TrialRun(BaseModel):
    """A run."""

    number: int
    state: Literal["done", "failed"]
    values: dict[str, bool | int | float | str | None]
    figures: dict[str, float | None]
    broken: list[str]
    error: str


class TrialRuns(BaseModel):
    """Some runs in their order."""

    total: int
    chosen: int = Field(description="that pass the filters")
    rows: list[TrialRun]
    ranges: dict[str, tuple[float, float]] = Field(description="least and most of each column of all runs")


class TrialCell(BaseModel):
    """Runs that fall on one place."""

    x: bool | int | float | str | None
    y: bool | int | float | str | None
    value: float | None
    run: int | None
    count: int
    kept: int
    low: float | None
    high: float | None


class TrialMap(BaseModel):
    """A figure over two loose values."""

    cells: list[TrialCell]


class TrialEffect(BaseModel):
    """A figure over one loose value."""

    key: str
    cells: list[TrialCell]


class TrialEffects(BaseModel):
    """A figure over each of the loose values."""

    effects: list[TrialEffect]


class TrialPoint(BaseModel):
    """A run in a picture of two figures."""

    run: int
    x: float
    y: float
    is_kept: bool
    is_front: bool


class TrialFront(BaseModel):
    """Two figures of the runs: those on the front, and others beside them."""

    points: list[TrialPoint]
    front: int
    total: int


class TrialGood(BaseModel):
    """The runs as good as the best, and what they have in common."""

    figure: str
    share: float
    count: int
    designs: int = Field(description="different ones that keep every limit")
    rows: list[TrialRun]
    common: list[str]


def trial_line(trial: TrialSet, going: list[int]) -> TrialLine:
    """A set in the list."""
    state: Any = trial.state
    if state == TrialSet.State.RUNNING and trial.pk not in going:
        # It may have come to its end since it was read.
        trial.refresh_from_db()
        state = "interrupted" if trial.state == TrialSet.State.RUNNING else trial.state
    return TrialLine(
        id=trial.pk, name=trial.name, title=_title(trial), state=state, runs=trial.total, done=trial.done, created=trial.created
    )


def trial_lines(scheme: Any) -> list[TrialLine]:
    """The sets of a scheme, the newest first."""
    going = under_way()
    return [trial_line(trial, going) for trial in scheme.trials.all()]


def trial_answer(trial: TrialSet, user: User) -> TrialAnswer:
    """All of a set but its runs."""
    study = Study.model_validate(trial.study) if trial.study else None
    is_draft = trial.state == TrialSet.State.DRAFT
    document = trial.scheme.head.document
    looked = _looked(trial, document, user) if is_draft and study is not None else None
    table = table_of(trial) if study is not None and not is_draft else None
    loose, figures = [], []
    if study is not None:
        shares = looked.shares if looked is not None else {}
        loose = [loose_line(study, key, shares.get(key, ())) for key in study.loose]
        figures = looked.figures if looked is not None else figure_columns(table, document) if table is not None else []
    line = trial_line(trial, under_way())
    needs_design = study is not None and (is_draft or bool(study.ties))
    design = Design.read(document if is_draft else trial.document) if needs_design else None
    return TrialAnswer(
        **line.model_dump(), scheme=trial.scheme_id, revision=trial.revision, study=trial.study, message=trial.message,
        job=str(trial.job) if trial.job else None, failed=trial.failed, kept=int(table.kept.sum()) if table is not None else 0,
        seconds=trial.seconds, changed=[] if is_draft else changed_since(trial, document), loose=loose,
        ties=tie_lines(study, design) if study is not None and design is not None else [], figures=figures,
        outlook=looked.answer if looked is not None else OutlookAnswer(problem="Nothing is loose.") if is_draft else None,
        choices=study_choices(figures, study if is_draft else None, design),
    )  # fmt: skip


ACTS = [StudyAct(verb="find-strings", title=VERBS["find-strings"].title, arguments={})]


def tie_lines(study: Study, design: Design) -> list[TieLine]:
    """What follows a loose value, in words."""
    titles = {one.pointer: one for one in inputs_of(design)}
    found = []
    for pointer, tie in study.ties.items():
        one = titles.get(pointer)
        title, unit = (pointer, "") if one is None else (one.title, one.unit)
        found.append(TieLine(pointer=pointer, title=title, unit=unit, loose=tie.loose, times=tie.times, plus=tie.plus))
    return found


def study_choices(figures: list[FigureColumn], study: Study | None = None, design: Design | None = None) -> StudyChoices:
    """Ways, aims and limits of a study over a design that has these figures, and what may follow a loose value of a draft."""
    followers = followers_of(study, design) if study is not None and design is not None else []
    ways = [
        StudyWay(key=key, title=title, is_counted=key in COUNTED_WAYS, most_runs=MOST_SEARCHED if key == "search" else MOST_RUNS)
        for key, title in WAY_TITLES.items()
    ]
    aims = [StudyAim(figure=one.key, better=one.better) for one in figures if one.better and one.key not in COUNTED]
    aims.sort(key=lambda aim: next((k for k, key in enumerate(FIRST_AIMS) if key == aim.figure), len(FIRST_AIMS)))
    return StudyChoices(
        ways=ways,
        usual_runs=USUAL_RUNS,
        least_runs=1,
        least_seed=0,
        most_seed=MOST_SEED,
        aims=aims,
        figures=[*COUNTED, *(one.key for one in figures if one.key not in COUNTED)],
        acts=ACTS,
        followers=[Follower(pointer=one.pointer, title=one.title) for one in followers],
    )


class _Looked(BaseModel):
    answer: OutlookAnswer
    figures: list[FigureColumn]
    shares: dict[str, tuple[str, ...]]


_LOOKED: OrderedDict[tuple[str, str], _Looked] = OrderedDict()
_lock = Lock()
MOST_LOOKED = 32


def _looked(trial: TrialSet, document: dict, user: User) -> _Looked:
    """What a draft comes to; measured once for a study over a design."""
    study = Study.model_validate(trial.study)
    key = (key_of_document(document), study.model_dump_json())
    with _lock:
        if key in _LOOKED:
            _LOOKED.move_to_end(key)
            return _LOOKED[key]
    found = _look(study, document, user)
    with _lock:
        _LOOKED[key] = found
        while len(_LOOKED) > MOST_LOOKED:
            _LOOKED.popitem(last=False)
    return found


def _look(study: Study, document: dict, user: User) -> _Looked:
    make_ready()  # for the runs that will be asked for
    try:
        plan, libraries = planned(study.model_dump(mode="json", exclude_unset=True), document, user)
        own = libraries.year_of(Design.read(document))
    except Problem as problem:
        pointer = problem.errors[0]["pointer"] if problem.errors else ""
        return _Looked(
            answer=OutlookAnswer(problem=problem.detail, pointer=pointer), figures=_figures_of_design(document, user), shares={}
        )
    found: Outlook = outlook(plan, libraries)
    answer = OutlookAnswer(runs=found.runs, solar_years=found.solar_years, seconds=found.seconds)
    return _Looked(answer=answer, figures=columns_of_results(own), shares=dict(plan.shares))


def _figures_of_design(document: dict, user: User) -> list[FigureColumn]:
    design = Design.read(document)
    try:
        return columns_of_results(libraries_of(design, user).year_of(design))
    except (ValueError, LookupError, ArithmeticError):
        return []


def columns_of_results(results: Results) -> list[FigureColumn]:
    """Every figure that a design has, and the findings that are open."""
    found = [
        _column(key, results.design.money.currency) for key, one in FIGURE_OF.items() if one.in_headline and one.is_there(results)
    ]
    return found + [_column(key, "") for key in COUNTED]


def figure_columns(table: RunsTable, document: dict) -> list[FigureColumn]:
    """Figures of the runs, in the order of the Headline."""
    currency = Design.read(document).money.currency
    ranges = table.ranges
    return [
        _column(key, currency).model_copy(update={"varies": key in ranges and ranges[key][0] < ranges[key][1]})
        for key in table.figure_keys
    ]


def _column(key: str, currency: str) -> FigureColumn:
    if key in COUNT_TITLES:
        return FigureColumn(key=key, title=COUNT_TITLES[key], unit="", decimals=0, is_percentage=False, better="less")
    one = FIGURE_OF[key]
    unit = one.unit.replace("{currency}", currency)
    return FigureColumn(
        key=key, title=one.title, unit=unit, decimals=one.decimals, is_percentage=one.is_percentage, better=one.better
    )


def loose_line(study: Study, key: str, rooms: tuple[str, ...]) -> LooseLine:
    """A loose value as the pictures need it."""
    one = study.loose[key]
    count = one.count
    values: list[Scalar] = [one.value(k) for k in range(count)] if count is not None and count <= 60 else []
    ends = [None, None] if is_words(one) else sorted(float(one.at(share)) for share in (0.0, 1.0))  # type: ignore[arg-type]
    return LooseLine(
        key=key, title=one.title or key, unit=one.unit, pointers=list(one.pointers), is_words=is_words(one), count=count, values=values,
        low=ends[0], high=ends[1], rooms=list(rooms),
    )  # fmt: skip


def runs_page(table: RunsTable, places: Any, chosen: int) -> TrialRuns:
    """Some runs, with what their columns range over."""
    return TrialRuns(total=len(table), chosen=chosen, rows=run_lines(table, places), ranges=table.ranges)


def run_lines(table: RunsTable, places: Any) -> list[TrialRun]:
    """Runs in their order."""
    runs = [table.run(int(place)) for place in places]
    return [
        TrialRun(number=one.number, state=one.state, values=one.values, figures=dict(one.figures), broken=list(one.broken), error=one.error)
        for one in runs
    ]  # fmt: skip


def cell_lines(cells: list[Cell]) -> list[TrialCell]:
    """Cells of a map or of an effect."""
    return [TrialCell.model_validate(vars(cell)) for cell in cells]


def front_answer(table: RunsTable, x: str, y: str) -> TrialFront:
    """Two figures: the runs on their front, by the aims or by what is better of each, and others beside them."""
    aims = [Aim(figure=key, better=better_of(table.study, key)) for key in (x, y)]
    on_front = table.front(aims)
    others = table.scattered(x, y)
    places = np.unique(np.concatenate([others, on_front]))
    marked = np.isin(places, on_front)
    xs, ys = table.column(x), table.column(y)
    points = [
        TrialPoint(run=int(table.numbers[p]), x=float(xs[p]), y=float(ys[p]), is_kept=bool(table.kept[p]), is_front=bool(m))
        for p, m in zip(places, marked, strict=True)
    ]
    return TrialFront(points=points, front=len(on_front), total=len(table))


def good_answer(table: RunsTable, aim: Aim, share: float) -> TrialGood:
    """The runs within a share of the best, and what they have in common."""
    places = table.good(aim, share / 100)
    designs = len(np.unique(table.columns.designs[table.kept]))
    runs = [table.run(int(place)) for place in places]
    return TrialGood(
        figure=aim.figure, share=share, count=len(places), designs=designs, rows=run_lines(table, places[:MOST_GOOD]),
        common=shared_by(runs, table.study) if runs else [],
    )  # fmt: skip


def _title(trial: TrialSet) -> str:
    if trial.name:
        return trial.name
    titles = [str(one.get("title") or key).split(",")[0] for key, one in ((trial.study or {}).get("loose") or {}).items()]
    return ", ".join(titles) or "Nothing is loose"
