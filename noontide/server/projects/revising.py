"""The one place that writes schemes and their revisions. Every verb is one transaction that holds the write lock."""

from django.db import transaction
from django.utils import timezone

from noontide.core.scheme import Scheme as Design
from noontide.core.scheme import merge_patch
from noontide.server.projects.models import Project, Revision, Scheme

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


class StaleRevision(Exception):
    """An edit was based on a revision that is no longer the newest."""

    def __init__(self, newest: int):
        self.newest = newest
        super().__init__(f"The scheme is now at revision {newest}. Read it again, then repeat the edit.")


class NothingToWalk(Exception):
    """There is nothing to undo, or nothing to redo."""


@transaction.atomic
def begin_project(name: str, document: dict, customer: str = "", note: str = "") -> Project:
    """A project with scheme A, pinned.

    Raises
    ------
    pydantic.ValidationError
        If the document is not a valid design; nothing is written.
    """
    project = Project.objects.create(name=name, customer=customer, note=note)
    project.pinned = begin_scheme(project, document)
    project.save()
    return project


@transaction.atomic
def begin_scheme(project: Project, document: dict) -> Scheme:
    """A further scheme of a project, under the next letter."""
    kept = Design.model_validate(document).as_kept()
    scheme = Scheme.objects.create(project=project, letter=_next_letter(project))
    scheme.head = Revision.objects.create(scheme=scheme, number=1, document=kept)
    scheme.save()
    project.save()
    return scheme


@transaction.atomic
def revise(scheme: Scheme, patch: dict, *, based_on: int) -> Revision:
    """Apply a JSON Merge Patch and keep the result as the next revision.

    Raises
    ------
    StaleRevision
        If `based_on` is not the revision at the head.
    pydantic.ValidationError
        If the patched document is not a valid design. In both cases nothing is written.
    """
    head = _locked_head(scheme, based_on)
    kept = Design.model_validate(merge_patch(head.document, patch)).as_kept()
    if kept == head.document:
        return head
    number = scheme.revisions.order_by("-number").values_list("number", flat=True)[0] + 1
    revision = Revision.objects.create(scheme=scheme, number=number, parent=head, document=kept, patch=patch)
    return _move_head(scheme, revision)


@transaction.atomic
def undo(scheme: Scheme, *, based_on: int) -> Revision:
    """Go back to the revision before; nothing is lost."""
    head = _locked_head(scheme, based_on)
    if head.parent is None:
        raise NothingToWalk("There is nothing to undo.")
    return _move_head(scheme, head.parent)


@transaction.atomic
def redo(scheme: Scheme, *, based_on: int) -> Revision:
    """Go forward again along the newest edit made from here."""
    head = _locked_head(scheme, based_on)
    following = head.children.order_by("-number").first()
    if following is None:
        raise NothingToWalk("There is nothing to redo.")
    return _move_head(scheme, following)


@transaction.atomic
def fork(scheme: Scheme, name: str = "") -> Scheme:
    """A new scheme that begins as this one stands."""
    document = dict(scheme.head.document)
    document["name"] = name or f"{document.get('name') or scheme.letter}, changed"
    return begin_scheme(scheme.project, document)


@transaction.atomic
def pin(scheme: Scheme) -> Project:
    """Make this scheme the one that the others are compared with."""
    project = scheme.project
    project.pinned = scheme
    project.save()
    return project


@transaction.atomic
def delete(thing: Project | Scheme) -> None:
    """Put a project or a scheme aside; it can be restored."""
    thing.deleted = timezone.now()
    thing.save()


@transaction.atomic
def restore(thing: Project | Scheme) -> None:
    """Bring back what was deleted."""
    thing.deleted = None
    thing.save()


def _locked_head(scheme: Scheme, based_on: int) -> Revision:
    head = Revision.objects.get(pk=Scheme.objects.values_list("head_id", flat=True).get(pk=scheme.pk))
    if head.number != based_on:
        raise StaleRevision(head.number)
    return head


def _move_head(scheme: Scheme, revision: Revision) -> Revision:
    scheme.head = revision
    scheme.save(update_fields=["head"])
    Project.objects.filter(pk=scheme.project_id).update(changed=timezone.now())
    return revision


def _next_letter(project: Project) -> str:
    used = project.schemes.count()
    return LETTERS[used] if used < len(LETTERS) else f"{LETTERS[used // 26 - 1]}{LETTERS[used % 26]}"
