"""What was stored in an earlier format is upgraded whole: documents, differences between them, undo and new edits."""

from django.apps import apps

from noontide.server.projects.models import Revision
from noontide.server.projects.revising import revise, undo
from noontide.server.projects.thinning import document_of, thin
from noontide.server.projects.upgrading import upgrade_documents

PICTURE = {
    "digest": "ab" * 32, "width_to_height": 1.5, "first_x": 0.1, "first_y": 0.2, "second_x": 0.9, "second_y": 0.2,
    "latitude": 43.62, "longitude": 11.31, "distance": 64, "azimuth": 92,
}  # fmt: skip


def as_format_4(value):
    """A document or a patch as it was kept before the picture and the strings had names of their own."""
    if not isinstance(value, dict):
        return value
    names = {"map_picture": "plan", "string_plan": "plan"}
    return {names.get(key, key): as_format_4(inner) for key, inner in value.items()}


def test_documents_and_differences_of_format_4_are_brought_to_todays_and_undo_leads_through_them(scheme):
    revise(scheme, {"site": {"map_picture": PICTURE}}, based_on=1)
    revise(scheme, {"subarrays": {"south": {"string_plan": [["m1", "m2"]]}}}, based_on=2)
    last = revise(scheme, {"site": {"map_picture": {"distance": 65}}}, based_on=3)
    now = {revision.number: document_of(revision) for revision in Revision.objects.filter(scheme=scheme)}
    thin(Revision.objects.get(scheme=scheme, number=2).pk)
    for revision in Revision.objects.filter(scheme=scheme):
        if revision.document is not None:
            revision.document = as_format_4(revision.document) | {"format": "noontide-design/4"}
        revision.patch = as_format_4(revision.patch)
        revision.save()
    assert "plan" in Revision.objects.get(pk=last.pk).document["site"]

    upgrade_documents(apps, None)

    assert {revision.number: document_of(revision) for revision in Revision.objects.filter(scheme=scheme)} == now
    scheme.refresh_from_db()
    after = revise(scheme, {"site": {"map_picture": {"distance": 66}}}, based_on=4)
    assert after.document["site"]["map_picture"]["distance"] == 66 and "plan" not in after.document["site"]
    undo(scheme, based_on=5)
    scheme.refresh_from_db()
    assert undo(scheme, based_on=scheme.head.number).document["site"]["map_picture"]["distance"] == 64
