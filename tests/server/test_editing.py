"""Edits as they come from several pages: on older ground, in gestures, with their author; and documents that always come."""

import json
import uuid

import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.design import Design, merge_patch
from noontide.parts import built_in_parts
from noontide.server.accounts.models import User
from noontide.server.projects.merging import conflicts
from noontide.server.projects.models import Project, Revision
from noontide.server.projects.revising import begin_project, revise

TILT = "/surfaces/barn/tilt"


def url(scheme, rest: str = "") -> str:
    return f"/api/schemes/{scheme.pk}{rest}"


def tilt(value: float) -> dict:
    return {"surfaces": {"barn": {"tilt": value}}}


def test_an_edit_on_older_ground_is_accepted_where_its_values_have_not_changed(api, scheme):
    revise(scheme, {"losses": {"soiling": 5}}, based_on=1)
    answer = api.send("patch", url(scheme), tilt(35), revision=1)
    assert answer.status_code == 200
    document = answer.json()["document"]
    assert (document["surfaces"]["barn"]["tilt"], document["losses"]["soiling"]) == (35, 5)


def test_an_edit_of_a_value_that_has_changed_names_it_with_what_it_is_now(api, scheme):
    revise(scheme, tilt(61), based_on=1)
    answer = api.send("patch", url(scheme), tilt(43) | {"losses": {"soiling": 4}}, revision=1)
    assert answer.status_code == 412
    assert [(e["pointer"], e["value"]) for e in answer.json()["errors"]] == [(TILT, 61)]
    scheme.refresh_from_db()
    assert "losses" not in scheme.head.document


def test_deleting_what_someone_else_has_edited_is_a_conflict(api, scheme):
    revise(scheme, tilt(61), based_on=1)
    assert api.send("patch", url(scheme), {"surfaces": {"barn": None}, "subarrays": None}, revision=1).status_code == 412


@pytest.mark.parametrize(
    ("theirs", "mine"),
    [
        ({"losses": {"soiling": 3}}, {"losses": {"quality": 1}}),
        ({"scene": {"chimneys": {"a": {"x": 1, "y": 2}}}}, {"scene": {"chimneys": {"b": {"x": 3, "y": 4}}}}),
        ({"scene": {"chimneys": {"a": {"x": 1, "y": 2}}}}, {"scene": {"trees": {"b": {"x": 3, "y": 4}}}}),
        ({"losses": {"soiling": 3}}, {"losses": {"soiling": 3}}),
    ],
    ids=["two losses", "two first chimneys", "two first objects", "one value alike"],
)
def test_first_values_of_a_collection_meet_only_where_they_are_one_value(api, scheme, theirs, mine):
    revise(scheme, theirs, based_on=1)
    answer = api.send("patch", url(scheme), mine, revision=1)
    assert answer.status_code == 200, answer.content
    both = merge_patch(theirs, mine)
    kept = answer.json()["document"]
    assert merge_patch(kept, both) == kept


def test_first_values_that_are_one_value_name_it(api, scheme):
    revise(scheme, {"losses": {"soiling": 3}}, based_on=1)
    answer = api.send("patch", url(scheme), {"losses": {"soiling": 4, "quality": 1}}, revision=1)
    assert [(e["pointer"], e["value"]) for e in answer.json()["errors"]] == [("/losses/soiling", 3)]


def test_a_first_value_inside_of_what_was_deleted_meanwhile_is_a_conflict(api, scheme):
    revise(scheme, {"surfaces": {"shed": {"tilt": 10, "azimuth": 90}}}, based_on=1)
    revise(scheme, {"surfaces": {"shed": None}}, based_on=2)
    answer = api.send("patch", url(scheme), {"surfaces": {"shed": {"albedo": 0.3}}}, revision=2)
    assert answer.status_code == 412
    assert [e["pointer"] for e in answer.json()["errors"]] == ["/surfaces/shed"]


documents = st.recursive(
    st.integers(0, 2), lambda inner: st.dictionaries(st.sampled_from("abc"), inner, max_size=3), max_leaves=8
).filter(lambda value: isinstance(value, dict))
patches = st.recursive(
    st.none() | st.integers(0, 2), lambda inner: st.dictionaries(st.sampled_from("abc"), inner, max_size=3), max_leaves=6
).filter(lambda value: isinstance(value, dict))


@given(documents, patches, patches)
def test_edits_that_do_not_conflict_give_the_same_in_either_order(base, first, second):
    """What is accepted is what both wanted, whoever was the first."""
    now = merge_patch(base, first)
    if not conflicts(second, base, now) and not conflicts(first, base, merge_patch(base, second)):
        assert merge_patch(now, second) == merge_patch(merge_patch(base, second), first)


def send_gesture(api, scheme, patch, revision, gesture):
    headers = {"If-Match": f'"{revision}"', "Edit": gesture}
    return api.patch(url(scheme), data=json.dumps(patch), content_type="application/merge-patch+json", headers=headers)


def test_forty_edits_of_one_drag_are_one_revision_and_one_undo(api, scheme):
    gesture, revision = str(uuid.uuid4()), 1
    for value in range(40):
        body = send_gesture(api, scheme, tilt(value + 0.5), revision, gesture).json()
        revision = body["revision"]
    assert Revision.objects.filter(scheme=scheme).count() == 2
    assert body["document"]["surfaces"]["barn"]["tilt"] == 39.5
    back = api.send("post", url(scheme, "/undo"), revision=revision).json()
    assert (back["document"]["surfaces"]["barn"]["tilt"], back["revision"]) == (18, 1)
    assert api.send("post", url(scheme, "/redo"), revision=1).json()["document"]["surfaces"]["barn"]["tilt"] == 39.5


def test_a_gesture_ends_where_another_edit_comes_between(api, scheme):
    gesture = str(uuid.uuid4())
    send_gesture(api, scheme, tilt(20), 1, gesture)
    api.send("patch", url(scheme), {"name": "Between"}, revision=2)
    send_gesture(api, scheme, tilt(21), 3, gesture)
    assert Revision.objects.filter(scheme=scheme).count() == 4


def test_an_edit_based_amid_a_gesture_is_checked_against_all_of_it(api, scheme):
    gesture = str(uuid.uuid4())
    for revision, value in ((1, 20), (2, 25), (3, 30)):
        send_gesture(api, scheme, tilt(value), revision, gesture)
    assert api.send("patch", url(scheme), {"losses": {"soiling": 1}}, revision=2).status_code == 200
    assert api.send("patch", url(scheme), tilt(44), revision=2).status_code == 412


@pytest.mark.parametrize("header", ["drag", "1234", "{}"])
def test_a_gesture_without_a_uuid_is_refused(api, scheme, header):
    answer = send_gesture(api, scheme, tilt(20), 1, header)
    assert (answer.status_code, answer.json()["title"]) == (400, "Edit must be a UUID")


def test_every_revision_has_its_author(api, scheme):
    api.send("patch", url(scheme), tilt(20), revision=1)
    assert [line["author"] for line in api.get(url(scheme, "/revisions")).json()] == ["Local user", "Local user"]


def test_what_belongs_to_someone_else_is_not_there(api, roof_document):
    other = User.objects.create(username="other")
    project = begin_project("Theirs", roof_document, author=other)
    assert api.get(f"/api/projects/{project.pk}").status_code == 404
    assert api.get(url(project.pinned)).status_code == 404
    assert api.send("patch", url(project.pinned), tilt(20), revision=1).status_code == 404
    assert "Theirs" not in {p["name"] for p in api.get("/api/projects").json()}


def test_a_part_in_use_is_frozen_with_the_design_and_goes_with_its_last_use(api, scheme):
    kept = Revision.objects.get(scheme=scheme).document["parts"]
    shelf = built_in_parts().modules["veltrane-430"]
    assert kept["modules"]["veltrane-430"]["digest"] == shelf.fingerprint
    assert (
        Design.read({"site": {"latitude": 0, "longitude": 0}, "parts": kept}).parts.modules["veltrane-430"].power == shelf.power
    )
    changed = api.send("patch", url(scheme), {"subarrays": {"south": {"module": "thornby-250"}}}, revision=1).json()["document"]
    assert set(changed["parts"]["modules"]) == {"thornby-250"}


def test_an_edited_library_does_not_change_an_old_design(api, scheme, monkeypatch):
    """The library's module becomes twice as strong; the design keeps the one that was chosen."""
    before = api.get(url(scheme)).json()["evaluation"]["headline"]
    library = built_in_parts()
    strong = library.modules["veltrane-430"].model_copy(update={"power": 860.0, "imp": 26.6, "isc": 28.0})
    other = library.model_copy(update={"modules": library.modules | {"veltrane-430": strong}})
    for module in ("parts_library.library", "projects.evaluator"):
        monkeypatch.setattr(f"noontide.server.{module}.built_in_parts", lambda: other)
    body = api.send("patch", url(scheme), {"name": "Renamed"}, revision=1).json()
    assert body["evaluation"]["headline"]["dc_power"] == before["dc_power"]


ODD = {
    "european above peak": ("inverters", "corvane-4x", {"european_efficiency": 96.2, "peak_efficiency": 96.15}),
    "one cell": (
        "modules",
        "veltrane-430",
        {"cells_in_series": 1, "voc": 0.72, "vmp": 0.6, "isc": 760.0, "imp": 720.0, "power": 432.0},
    ),
    "no resistance to speak of": ("modules", "veltrane-430", {"vmp": 38.9, "imp": 14.0, "power": 544.6, "isc": 14.05}),
    "a coefficient of nothing": ("modules", "veltrane-430", {"voc_coefficient": 0, "power_coefficient": 0, "isc_coefficient": 0}),
}


@pytest.mark.parametrize("name", ODD)
def test_an_odd_datasheet_is_refused_or_simulated_and_the_document_always_comes(api, scheme, name):
    kind, part, changes = ODD[name]
    shelf = getattr(built_in_parts(), kind)[part].model_dump(mode="json", exclude_unset=True)
    use = {"inverters": {"main": {"model": part}}} if kind == "inverters" else {}
    answer = api.send("patch", url(scheme), {"parts": {kind: {part: shelf | changes}}} | use, revision=1)
    assert answer.status_code in (200, 422)
    body = api.get(url(scheme)).json()
    assert body["document"]["site"]
    assert body["evaluation"]["state"] in ("exact", "failed")
    assert api.get("/api/projects").status_code == 200


def test_a_stored_document_that_no_longer_reads_comes_all_the_same_with_words_and_a_pointer(api, scheme):
    """As one from an older version that allowed what is refused now."""
    document = scheme.head.document | {"losses": {"soiling": 777}}
    Revision.objects.filter(pk=scheme.head_id).update(document=document, evaluation_key="x")
    body = api.get(url(scheme)).json()
    assert body["document"]["losses"]["soiling"] == 777
    assert (body["evaluation"]["state"], body["evaluation"]["problem"]["pointer"]) == ("failed", "/losses/soiling")
    (card,) = api.get("/api/projects").json()
    assert (card["state"], card["errors"]) == ("failed", 1)
    assert api.get(url(scheme, "/working/energy")).status_code == 409
    mended = api.send("patch", url(scheme), {"losses": {"soiling": 2}}, revision=1)
    assert mended.json()["evaluation"]["state"] == "exact"


def test_a_scheme_whose_weather_is_gone_answers_every_time(api, scheme):
    document = scheme.head.document | {"weather": {"digest": "0" * 32}}
    Revision.objects.filter(pk=scheme.head_id).update(document=document, evaluation_key="y")
    for _ in range(6):
        body = api.get(url(scheme))
        assert body.status_code == 200
        assert body.json()["evaluation"]["state"] == "open"


def test_figures_are_kept_by_their_key_over_a_restart(api, project, monkeypatch):
    from noontide.server.projects import evaluator as module

    first = api.get("/api/projects").json()
    module.evaluator.forget()
    monkeypatch.setattr(module, "simulate", None)  # would fail if it were asked
    assert api.get("/api/projects").json() == first
    scheme = project.pinned
    assert api.get(url(scheme)).json()["evaluation"]["headline"]["energy"] == first[0]["energy"]


def test_the_pinned_scheme_cannot_be_deleted_even_if_it_was_pinned_meanwhile(api, project, scheme):
    other = api.send("post", url(scheme, "/fork"), {}).json()
    stale = Project.objects.get(pk=project.pk)
    api.send("post", f"/api/schemes/{other['id']}/pin")
    assert stale.pinned_id == scheme.pk
    assert api.send("delete", f"/api/schemes/{other['id']}").status_code == 409


def test_name_and_note_edited_at_once_are_both_kept(api, project):
    """Each request writes what it names, and nothing that it read before."""
    one, other = Project.objects.get(pk=project.pk), Project.objects.get(pk=project.pk)
    from noontide.server.projects.revising import rename

    rename(one, {"name": "Newer"})
    rename(other, {"note": "noted"})
    project.refresh_from_db()
    assert (project.name, project.note) == ("Newer", "noted")


def test_answers_beside_the_figures_carry_their_revision(api, scheme):
    api.send("patch", url(scheme), tilt(20), revision=1)
    for path in ("/working/energy", "/moment/4000", "/orientation", "/voltages/south"):
        assert api.get(url(scheme, path)).json()["revision"] == 2, path
