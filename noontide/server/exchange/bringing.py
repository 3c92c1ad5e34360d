"""A project brought in from its file: all of it, or nothing."""

from collections.abc import Callable
from dataclasses import dataclass
from uuid import UUID, uuid4

from django.db import transaction

from noontide.core.design import difference, freeze, merge_patch
from noontide.core.electrical.datasheets import KINDS
from noontide.core.exchange import ArchiveError, KeptRevision, KeptScheme, ProjectFile, unpack
from noontide.server.accounts.models import User
from noontide.server.demand_library import storing as use_storing
from noontide.server.files import write_whole
from noontide.server.parts_library.library import keep_parts, library_of, own_keys
from noontide.server.places.pictures import path_of
from noontide.server.problems import Problem
from noontide.server.projects.evaluation_key import key_of_document
from noontide.server.projects.models import Project, Revision, Scheme
from noontide.server.projects.thinning import KEPT_WHOLE_EVERY
from noontide.server.trials.bringing import bring_trials, moment_of
from noontide.server.uploads import read_apart
from noontide.server.weather_library import storing as weather_storing


@dataclass(frozen=True)
class Brought:
    """A project that was brought in, and what became of it in words."""

    project: Project
    words: tuple[str, ...]


def bring_in(content: bytes, user: User) -> Brought:
    """A project of a file, beside those that are there.

    Raises
    ------
    Problem
        If the file is damaged, too large or not what it says; nothing is written then.
    """
    found = _read(content)
    return _keep(found, user)


def look_into(content: bytes) -> tuple[str, ...]:
    """What a file would bring, in words; nothing is written.

    Raises
    ------
    Problem
        As for bringing it in.
    """
    return _told(_read(content))


def _read(content: bytes) -> ProjectFile:
    try:
        return read_apart(unpack, content)
    except ArchiveError as error:
        raise Problem(422, "project-file", "The project cannot be brought in", f"{error} Nothing was changed.") from None


def _told(found: ProjectFile) -> tuple[str, ...]:
    count = _counted(len(found.schemes), "scheme", "schemes")
    revisions = sum(len(scheme.revisions) for scheme in found.schemes)
    history = f" with {revisions} revisions" if found.has_history else ", without their history"
    words = [f"{found.name}: {count}{history}."]
    brings = [
        _counted(len(some), one, many)
        for some, one, many in (
            (found.weather, "weather year", "weather years"),
            (found.use, "series of measured use", "series of measured use"),
            (found.pictures, "picture", "pictures"),
            (found.trials, "set of trials", "sets of trials"),
        )
        if some
    ]
    if brings:
        words.append(f"It brings {', '.join(brings)}.")
    before = Project.objects.filter(uid=UUID(found.uid)).first()
    if before is not None:
        where = "is deleted here, and can be restored" if before.deleted else "is here already"
        words.append(f"The project that it was taken from, {before.name}, {where}: this one stands beside it as a copy.")
    return tuple(words)


def _counted(number: int, one: str, many: str) -> str:
    return f"{number} {one if number == 1 else many}"


@transaction.atomic
def _keep(found: ProjectFile, user: User) -> Brought:
    words = list(_told(found))
    for year in found.weather:
        weather_storing.keep(year.weather, year.content, year.file_name, year.kind, year.origin, user, year.reading)
    for use in found.use:
        reading = use.reading.model_dump(mode="json") if use.reading else {}
        use_storing.keep(use.series, use.content, use.file_name, reading, use.notes, user)
    for picture in found.pictures:
        if not path_of(picture.digest).exists():
            write_whole(path_of(picture.digest), picture.content)
    if found.parts is not None:
        words += _keep_parts(found, user)
    is_here = Project.objects.filter(uid=UUID(found.uid)).exists()
    project = Project.objects.create(
        uid=uuid4() if is_here else UUID(found.uid),
        copy_of=UUID(found.uid) if is_here else None,
        name=_free_name(found.name, user) if is_here else found.name,
        customer=found.customer,
        note=found.note,
        owner=user,
    )
    library = library_of(user)
    schemes: dict[str, Scheme] = {}
    for scheme in found.schemes:
        kept = schemes[scheme.letter] = _keep_scheme(project, scheme, user, lambda document: freeze(document, library))
        if scheme.letter == found.pinned:
            project.pinned = kept
    project.save(update_fields=["pinned"])
    for trials in found.trials:
        bring_trials(schemes[trials.letter], trials, freeze(trials.document, library))
    return Brought(project, tuple(words))


def _keep_parts(found: ProjectFile, user: User) -> list[str]:
    """Datasheets that are not here yet; one of the same id stays as it is, since designs carry their own."""
    words = []
    assert found.parts is not None
    before = own_keys(user)
    for kind in KINDS:
        given = found.parts.of(kind)
        new = {key: part for key, part in given.items() if (kind, key) not in before}
        try:
            keep_parts(user, kind, new)
        except ValueError as error:
            words.append(f"{error} The designs carry their datasheets all the same.")
            continue
        here = library_of(user).of(kind)
        differ = sorted(key for key, part in given.items() if key not in new and here[key].fingerprint != part.fingerprint)
        if differ:
            words.append(f"Of {', '.join(differ[:3])} another datasheet is in the library; the designs keep theirs.")
    return words


def _free_name(name: str, user: User) -> str:
    """The name with the first number that no other project bears."""
    taken = set(Project.objects.visible_to(user).filter(deleted=None).values_list("name", flat=True))
    return next(free for n in range(2, len(taken) + 3) if (free := f"{name[:110]} ({n})") not in taken)


def _keep_scheme(project: Project, scheme: KeptScheme, user: User, frozen: Callable[[dict], dict]) -> Scheme:
    kept = Scheme.objects.create(project=project, letter=scheme.letter)
    rows: dict[int, Revision] = {}
    documents: dict[int, dict] = {}
    for one in scheme.revisions:
        document = documents[one.number] = frozen(one.document)
        # A scheme without history begins here, whatever number it has.
        parent = rows.get(one.parent) if one.parent is not None else None
        before = documents[one.parent] if parent is not None and one.parent is not None else None
        rows[one.number] = _keep_revision(kept, one, document, parent, before, one.number == scheme.head, user)
    head = rows[scheme.head]
    for row in (head, *([head.parent] if head.parent else [])):
        if row.document is None:
            row.document = documents[row.number]
            row.save(update_fields=["document"])
    kept.head = head
    kept.save(update_fields=["head"])
    return kept


def _keep_revision(
    scheme: Scheme,
    one: KeptRevision,
    document: dict,
    parent: Revision | None,
    before: dict | None,
    is_head: bool,
    user: User,
) -> Revision:
    patch = difference(before, document) if before is not None else {}
    is_difference = before is not None and merge_patch(before, patch) == document
    first = one.first_number or one.number
    is_whole = is_head or not is_difference or first % KEPT_WHOLE_EVERY == 0
    row = Revision.objects.create(
        scheme=scheme, number=one.number, first_number=first, parent=parent, document=document if is_whole else None, patch=patch,
        is_difference=is_difference, gesture=one.gesture, evaluation_key=key_of_document(document), author=user,
    )  # fmt: skip
    if (made := moment_of(one.created)) is not None:
        # The clock of the row is set by the database when it is made.
        Revision.objects.filter(pk=row.pk).update(created=made)
    return row
