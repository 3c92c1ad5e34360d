"""The one place that writes schemes and their revisions. Every verb is one transaction that holds the write lock."""

from django.db import transaction
from django.utils import timezone

from noontide.core.design import Design, difference, freeze, merge_patch
from noontide.core.verbs.catalogue import VERBS, ImpossibleAct, applied
from noontide.core.verbs.editing import edited
from noontide.server.accounts.models import User, local_user
from noontide.server.parts_library.library import library_of
from noontide.server.problems import Problem
from noontide.server.projects.evaluation_key import key_of_document
from noontide.server.projects.libraries import libraries_of
from noontide.server.projects.merging import conflicts, pointer_of, value_at
from noontide.server.projects.models import Project, Revision, Scheme
from noontide.server.projects.thinning import document_of, make_whole, thin

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


class StaleRevision(Problem):
    """An edit was based on a revision whose values have changed since."""

    def __init__(self, newest: int, paths: list[tuple[str, ...]], document: dict):
        self.newest = newest
        findings = [{"pointer": pointer_of(p), "detail": "Changed since.", "value": value_at(document, p)} for p in paths[:20]]
        named = ", ".join(finding["pointer"] for finding in findings[:3])
        detail = f"The scheme is now at revision {newest}" + (f"; {named} changed since." if named else ".")
        super().__init__(
            412,
            "stale-revision",
            "The scheme has changed",
            f"{detail} Read it again, then repeat the edit.",
            errors=findings,
            newest=newest,
        )


class NothingToWalk(Problem):
    """There is nothing to undo, or nothing to redo."""

    def __init__(self, title: str):
        super().__init__(409, "nothing-there", title)


@transaction.atomic
def begin_project(name: str, document: dict, customer: str = "", note: str = "", author: User | None = None) -> Project:
    """A project with scheme A, pinned.

    Raises
    ------
    pydantic.ValidationError, DesignError
        If the document is not a valid design; nothing is written.
    """
    author = author or local_user()
    project = Project.objects.create(name=name, customer=customer, note=note, owner=author)
    project.pinned = begin_scheme(project, document, author)
    project.save(update_fields=["pinned"])
    return project


@transaction.atomic
def begin_scheme(project: Project, document: dict, author: User | None = None) -> Scheme:
    """A further scheme of a project, under the next letter."""
    kept = freeze(document, library_of(author or project.owner))
    scheme = Scheme.objects.create(project=project, letter=_next_letter(project))
    scheme.head = Revision.objects.create(
        scheme=scheme,
        number=1,
        first_number=1,
        document=kept,
        evaluation_key=key_of_document(kept),
        author=author or project.owner,
    )
    scheme.save(update_fields=["head"])
    _touch(project.pk)
    return scheme


@transaction.atomic
def revise(scheme: Scheme, patch: dict, *, based_on: int, author: User | None = None, gesture: str = "") -> Revision:
    """Apply a JSON Merge Patch and keep the result as the next revision.

    An edit based on an older revision is accepted where the values that it touches have not changed since. Edits of one gesture
    are one revision, and one undo.

    Raises
    ------
    StaleRevision
        If a value that the patch touches has changed since `based_on`, or there is no such revision.
    pydantic.ValidationError, DesignError
        If the patched document is not a valid design. In all these cases nothing is written.
    """
    head = _locked_head(scheme)
    if based_on != head.number:
        base = _document_at(scheme, based_on)
        if base is None:
            raise StaleRevision(head.number, [], head.document)
        if changed := conflicts(patch, base, head.document):
            raise StaleRevision(head.number, changed, head.document)
    kept = edited(head.document, patch, library_of(author or scheme.project.owner))
    if kept == head.document:
        return head
    newest = scheme.revisions.order_by("-number").values_list("number", flat=True)[0]
    number, key = newest + 1, key_of_document(kept)
    # Numbers rise along children: what has the newest number has none.
    is_same_gesture = gesture and gesture == head.gesture and head.author_id == (author.pk if author else None)
    if is_same_gesture and newest == head.number:
        if head.parent is not None:
            before = document_of(head.parent)
            head.patch = difference(before, kept)
            head.is_difference = merge_patch(before, head.patch) == kept
        head.number, head.document, head.evaluation_key = number, kept, key
        head.save(update_fields=["number", "document", "patch", "is_difference", "evaluation_key"])
        _touch(scheme.project_id)
        return head
    change = difference(head.document, kept)
    revision = Revision.objects.create(
        scheme=scheme,
        number=number,
        first_number=number,
        parent=head,
        document=kept,
        patch=change,
        is_difference=merge_patch(head.document, change) == kept,
        gesture=gesture,
        evaluation_key=key,
        author=author,
    )
    return _move_head(scheme, revision)


def act(
    scheme: Scheme, verb: str, arguments: dict, *, based_on: int, author: User | None = None, gesture: str = ""
) -> tuple[Revision, dict, str]:
    """Apply a verb of the core to the head, and keep the result as an edit; the revision, the patch and the words.

    Raises
    ------
    Problem
        If it cannot be done to this design.
    StaleRevision, pydantic.ValidationError, DesignError
        As for an edit; in all these cases nothing is written.
    """
    # No lock is held meanwhile: modules of a field, or strings found anew, take seconds. What others change in that time is
    # found by `revise`, which goes by the same revision as the one who asked.
    try:
        design = Design.read(scheme.head.document)
        libraries = libraries_of(design, author or scheme.project.owner) if VERBS[verb].looks_into_libraries else None
        patch, words = applied(design, verb, arguments, libraries)
    except ImpossibleAct as error:
        raise Problem(422, "impossible-act", "This cannot be done", str(error)) from None
    return revise(scheme, patch, based_on=based_on, author=author, gesture=gesture), patch, words


@transaction.atomic
def undo(scheme: Scheme, *, based_on: int) -> Revision:
    """Go back to the revision before; nothing is lost."""
    head = _exact_head(scheme, based_on)
    if head.parent is None:
        raise NothingToWalk("There is nothing to undo.")
    moved = _move_head(scheme, head.parent)
    thin(head.pk)
    return moved


@transaction.atomic
def redo(scheme: Scheme, *, based_on: int) -> Revision:
    """Go forward again along the newest edit made from here."""
    head = _exact_head(scheme, based_on)
    following = head.children.order_by("-number").first()
    if following is None:
        raise NothingToWalk("There is nothing to redo.")
    return _move_head(scheme, following)


@transaction.atomic
def fork(scheme: Scheme, name: str = "", author: User | None = None) -> Scheme:
    """A new scheme that starts as a copy of this one."""
    document = dict(_locked_head(scheme).document)
    document["name"] = name or f"{document.get('name') or scheme.letter}, changed"[:120]
    return begin_scheme(scheme.project, document, author)


@transaction.atomic
def pin(scheme: Scheme) -> Project:
    """Make this scheme the one that the others are compared with."""
    project = Project.objects.get(pk=scheme.project_id)
    if Scheme.objects.get(pk=scheme.pk).deleted is not None:
        raise Problem(409, "deleted", "The scheme is deleted", "Restore it before it is pinned.")
    project.pinned = scheme
    project.save(update_fields=["pinned", "changed"])
    return project


@transaction.atomic
def rename(project: Project, values: dict) -> Project:
    """Change the name, customer or note of a project; what is not named stays as it is by then."""
    Project.objects.filter(pk=project.pk).update(**values, changed=timezone.now())
    project.refresh_from_db()
    return project


@transaction.atomic
def delete(thing: Project | Scheme) -> None:
    """Delete a project or a scheme; it can be restored. The pinned scheme stays.

    Raises
    ------
    Problem
        If the scheme is pinned by the time that the lock is held.
    """
    if isinstance(thing, Scheme) and Project.objects.filter(pk=thing.project_id, pinned=thing.pk).exists():
        raise Problem(409, "pinned", "The pinned scheme cannot be deleted", "Pin another scheme first, then delete this one.")
    type(thing).objects.filter(pk=thing.pk).update(deleted=timezone.now())


@transaction.atomic
def restore(thing: Project | Scheme) -> None:
    """Bring back what was deleted."""
    type(thing).objects.filter(pk=thing.pk).update(deleted=None)


def _locked_head(scheme: Scheme) -> Revision:
    """The head as it is now; settings open transactions as IMMEDIATE, so that it holds the write lock."""
    return Revision.objects.get(pk__in=Scheme.objects.filter(pk=scheme.pk).values("head_id"))


def _exact_head(scheme: Scheme, based_on: int) -> Revision:
    head = _locked_head(scheme)
    if head.number != based_on:
        raise StaleRevision(head.number, [], head.document)
    return head


def _document_at(scheme: Scheme, number: int) -> dict | None:
    """The document of a revision; amid a gesture, that from before it, so that all the gesture's values count as changed."""
    found = scheme.revisions.select_related("parent").filter(first_number__lte=number, number__gte=number).first()
    if found is None:
        return None
    if found.number == number:
        return document_of(found)
    return document_of(found.parent) if found.parent else None


def _move_head(scheme: Scheme, revision: Revision) -> Revision:
    make_whole(revision)
    scheme.head = revision
    scheme.save(update_fields=["head"])
    # What stands right before the head is kept whole: an undo and the next edit of a gesture need it.
    if revision.parent is not None and revision.parent.parent_id is not None:
        thin(revision.parent.parent_id)
    _touch(scheme.project_id)
    return revision


def _touch(project_id: int) -> None:
    Project.objects.filter(pk=project_id).update(changed=timezone.now())


def _next_letter(project: Project) -> str:
    used = project.schemes.count()
    return LETTERS[used] if used < len(LETTERS) else f"{LETTERS[used // 26 - 1]}{LETTERS[used % 26]}"
