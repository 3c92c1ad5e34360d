"""Revisions kept as what changed: the head, the first and every so many have their document, the others are made from their parents'.

A design of forty roofs is hundreds of kilobytes, an edit of it some tens of bytes.
"""

from collections.abc import Iterable, Iterator

from django.db.models import F

from noontide.core.design import merge_patch
from noontide.server.projects.models import Revision

KEPT_WHOLE_EVERY = 50  # revisions, so that an old one is made from so many patches at most


def document_of(revision: Revision) -> dict:
    """The document of a revision, whole or made from those before it."""
    patches: list[dict] = []
    at = revision
    while at.document is None:
        patches.append(at.patch)
        assert at.parent is not None, "the first revision is kept whole"
        at = at.parent
    document: dict = at.document
    for patch in reversed(patches):
        document = merge_patch(document, patch)
    return document


def documents_in_order(revisions: Iterable[Revision]) -> Iterator[tuple[Revision, dict]]:
    """Revisions with their documents, each made once: they come in order of their numbers, which rise along children."""
    made: dict[int, dict] = {}
    for revision in revisions:
        document = revision.document
        if document is None:
            assert revision.parent_id is not None, "the first revision is kept whole"
            document = merge_patch(made[revision.parent_id], revision.patch)
        made[revision.pk] = document
        yield revision, document


def make_whole(revision: Revision) -> None:
    """Give a revision its document, as the head has it."""
    if revision.document is None:
        revision.document = document_of(revision)
        revision.save(update_fields=["document"])


def thin(pk: int) -> None:
    """Leave out the document of a revision that neither is the head nor stands right before it, where its patch makes it again."""
    some = Revision.objects.annotate(place=F("first_number") % KEPT_WHOLE_EVERY).exclude(place=0)
    some.filter(pk=pk, parent__isnull=False, is_difference=True, document__isnull=False).update(document=None)
