"""A project with all that it is computed with, put together for its file."""

from collections.abc import Iterable, Iterator
from typing import Any

from noontide.core.demand.reading import UseReading
from noontide.core.design import Design
from noontide.core.design.frozen import parts_used
from noontide.core.electrical import Catalogue
from noontide.core.electrical.datasheets import KINDS
from noontide.core.exchange import KeptPicture, KeptRevision, KeptScheme, KeptTrials, KeptUse, KeptWeather, ProjectFile
from noontide.core.trials import Study
from noontide.core.weather import Reading
from noontide.server.accounts.models import User
from noontide.server.demand_library.models import MeasuredUse
from noontide.server.demand_library.storing import kept_use
from noontide.server.parts_library.models import OwnPart
from noontide.server.places.pictures import path_of
from noontide.server.projects.models import Project, Revision, Scheme
from noontide.server.projects.thinning import documents_in_order
from noontide.server.trials.keeping import table_of
from noontide.server.trials.models import TrialSet
from noontide.server.weather_library.models import WeatherYear
from noontide.server.weather_library.storing import load, source_of


def project_file_of(project: Project, user: User, with_history: bool) -> ProjectFile:
    """A project as it travels.

    Raises
    ------
    Problem
        If a weather year of it is damaged.
    """
    living = list(project.schemes.filter(deleted=None).select_related("head"))
    schemes = tuple(_scheme(scheme, with_history) for scheme in living)
    trials = tuple(_trials(living))
    documents = [revision.document for scheme in schemes for revision in scheme.revisions] + [one.document for one in trials]
    named = set().union(*(digests_in(document) for document in documents))
    return ProjectFile(
        uid=project.uid.hex,
        name=project.name,
        schemes=schemes,
        customer=project.customer,
        note=project.note,
        pinned=next((scheme.letter for scheme in living if scheme.pk == project.pinned_id), ""),
        weather=tuple(_weather(year) for year in WeatherYear.objects.filter(pk__in=named).order_by("pk")),
        use=tuple(_use(row) for row in MeasuredUse.objects.filter(pk__in=named).order_by("pk")),
        pictures=tuple(_pictures(sorted(named))),
        parts=_own_parts(user, [*(scheme.document for scheme in schemes), *(one.document for one in trials)]),
        trials=trials,
    )


def digests_in(value: Any) -> set[str]:
    """Every digest that a document names: of weather, measured use, pictures and datasheets."""
    if isinstance(value, dict):
        here = {digest} if isinstance(digest := value.get("digest"), str) else set()
        return here.union(*(digests_in(inner) for inner in value.values()))
    if isinstance(value, list):
        return set().union(*(digests_in(inner) for inner in value))
    return set()


def _trials(schemes: Iterable[Scheme]) -> Iterator[KeptTrials]:
    """Sets of trials with their runs, the oldest first; what is running travels as paused."""
    for scheme in schemes:
        for trial in reversed(scheme.trials.all()):  # type: ignore[attr-defined]
            if not trial.study:
                continue
            is_draft = trial.state == TrialSet.State.DRAFT
            state = TrialSet.State.PAUSED if trial.state == TrialSet.State.RUNNING else trial.state
            yield KeptTrials(
                scheme.letter, Study.model_validate(trial.study), trial.document, trial.revision, state, trial.total, trial.seconds,
                trial.created.isoformat(), None if is_draft else table_of(trial).columns,
            )  # fmt: skip


def _scheme(scheme: Scheme, with_history: bool) -> KeptScheme:
    head = scheme.head
    assert head is not None, "a scheme has a head from its first moment on"
    if not with_history:
        return KeptScheme(scheme.letter, head.number, (_revision(head, head.document, None),))
    every = scheme.revisions.select_related("parent", "author").order_by("number")
    return KeptScheme(
        scheme.letter, head.number, tuple(_revision(one, document, one.parent) for one, document in documents_in_order(every))
    )


def _revision(revision: Revision, document: dict, parent: Revision | None) -> KeptRevision:
    return KeptRevision(
        revision.number,
        document,
        parent.number if parent else None,
        revision.first_number,
        revision.gesture,
        revision.created.isoformat(),
        revision.author.get_username() if revision.author else "",
    )


def _weather(year: WeatherYear) -> KeptWeather:
    reading = year.reading.get("reading")
    return KeptWeather(
        load(year.digest),
        source_of(year).content,
        year.file_name,
        year.reading.get("format", "table"),
        year.origin,
        Reading.model_validate(reading) if reading else None,
    )


def _use(row: MeasuredUse) -> KeptUse:
    series, content = kept_use(row)
    return KeptUse(
        series, content, row.file_name, UseReading.model_validate(row.reading) if row.reading else None, tuple(row.notes)
    )


def _pictures(named: Iterable[str]) -> Iterator[KeptPicture]:
    for digest in named:
        # A picture goes by 64 digits, which no other digest of a document has.
        if len(digest) == 64 and (path := path_of(digest)).is_file():
            yield KeptPicture(digest, path.read_bytes())


def _own_parts(user: User, documents: Iterable[dict]) -> Catalogue | None:
    """The user's own parts that a scheme uses."""
    used: dict[str, set[str]] = {kind: set() for kind in KINDS}
    for document in documents:
        for kind, keys in parts_used(Design.read(document)).items():
            used[kind] |= keys
    own: dict[str, dict] = {}
    for row in OwnPart.objects.visible_to(user):
        if row.key in used[row.kind]:
            own.setdefault(row.kind, {})[row.key] = row.datasheet
    return Catalogue.model_validate(own) if own else None
