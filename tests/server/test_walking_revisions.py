"""Edits, undo and redo in any order, against a plain model of what a person expects of them."""

import copy
import json
import random
import uuid

import pytest
from hypothesis import given
from hypothesis import strategies as st

from noontide.core.design import difference, merge_patch
from noontide.server.projects.models import Revision
from noontide.server.projects.thinning import document_of

EDITS = [
    lambda r: {"surfaces": {"barn": {"tilt": r.randint(0, 60)}}},
    lambda r: {"surfaces": {"barn": {"azimuth": r.choice([90, 180, 270])}}},
    lambda r: {"losses": {"soiling": r.choice([None, 1, 4])}},
    lambda r: {"subarrays": {"south": {"strings": r.randint(1, 3)}}},
    lambda r: {"surfaces": {f"more-{r.randint(1, 3)}": r.choice([None, {"tilt": 45}])}},
    lambda r: {"name": r.choice(["One", "Two"])},
    lambda r: {"site": {"horizon": r.choice([None, [{"azimuth": 90, "elevation": 10}]])}},
]
WRONG = [{"surfaces": {"barn": {"tilt": 95}}}, {"subarrays": {"south": {"surface": "nowhere"}}}, {"losses": {"luck": 1}}]


class Expected:
    """A list of documents and a place in it; an edit cuts off what could have been redone."""

    def __init__(self, document: dict):
        self.past, self.future = [document], []

    @property
    def now(self) -> dict:
        return self.past[-1]

    def edit(self, document: dict) -> None:
        if document != self.now:
            self.past.append(document)
            self.future.clear()

    def undo(self) -> None:
        self.future.append(self.past.pop())

    def redo(self) -> None:
        self.past.append(self.future.pop())


@pytest.mark.parametrize("seed", range(5))
def test_a_long_walk_ends_where_it_should(api, scheme, seed):
    r = random.Random(seed)
    path = f"/api/schemes/{scheme.pk}"
    body = api.get(path).json()
    expected = Expected(body["document"])
    for _ in range(25):
        step = r.choice(["edit", "edit", "edit", "undo", "redo", "wrong", "stale"])
        before, revisions = copy.deepcopy(body), Revision.objects.filter(scheme=scheme).count()
        if step == "edit":
            patch = r.choice(EDITS)(r)
            body = api.send("patch", path, patch, revision=body["revision"]).json()
            assert body["document"] == merge_patch(expected.now, patch)
            expected.edit(body["document"])
        elif step in ("undo", "redo"):
            possible = len(expected.past) > 1 if step == "undo" else bool(expected.future)
            answer = api.send("post", f"{path}/{step}", revision=body["revision"])
            assert (answer.status_code == 200) == possible, (step, answer.content)
            if possible:
                getattr(expected, step)()
                body = answer.json()
        elif step == "wrong":
            assert api.send("patch", path, r.choice(WRONG), revision=body["revision"]).status_code == 422
            body = api.get(path).json()
        else:
            assert api.send("patch", path, {"name": "Late"}, revision=body["revision"] + 7).status_code == 412
            body = api.get(path).json()
        assert body["document"] == expected.now
        assert (body["can_undo"], body["can_redo"]) == (len(expected.past) > 1, bool(expected.future))
        if step in ("wrong", "stale"):
            assert (body["document"], body["revision"]) == (before["document"], before["revision"])
            assert Revision.objects.filter(scheme=scheme).count() == revisions


def test_no_revision_is_ever_taken_out(api, scheme):
    """What an edit cut off can no longer be redone, but the history still has it."""
    path = f"/api/schemes/{scheme.pk}"
    api.send("patch", path, {"name": "First thought"}, revision=1)
    api.send("post", f"{path}/undo", revision=2)
    api.send("patch", path, {"name": "Second thought"}, revision=1)
    names = [document_of(revision).get("name") for revision in Revision.objects.filter(scheme=scheme).order_by("number")]
    assert names == ["South roof", "First thought", "Second thought"]


def test_the_figures_go_back_with_the_document(api, scheme):
    path = f"/api/schemes/{scheme.pk}"
    first = api.get(path).json()["evaluation"]["headline"]
    changed = api.send("patch", path, {"surfaces": {"barn": {"tilt": 40}}}, revision=1).json()["evaluation"]["headline"]
    back = api.send("post", f"{path}/undo", revision=2).json()["evaluation"]["headline"]
    assert changed["energy"] != first["energy"]
    assert back == first


def test_revisions_are_kept_as_what_changed_and_every_one_can_be_made_again(api, scheme):
    r = random.Random(7)
    path = f"/api/schemes/{scheme.pk}"
    body = api.get(path).json()
    told = {body["revision"]: body["document"]}
    for step in range(70):
        if step % 11 == 10:
            body = api.send("post", f"{path}/undo", {}, revision=body["revision"]).json()
        else:
            gesture = str(uuid.UUID(int=step // 3 + 1))
            answer = api.send("patch", path, r.choice(EDITS)(r), revision=body["revision"], HTTP_EDIT=gesture)
            body = answer.json()
        told[body["revision"]] = body["document"]
    rows = list(Revision.objects.filter(scheme=scheme).order_by("number"))
    assert len(rows) > 15
    for row in rows:
        assert document_of(row) == told[row.number]
    whole = [row for row in rows if row.document is not None]
    assert len(whole) <= 4, [row.number for row in whole]
    assert json.dumps(api.get(path).json()["document"]) == json.dumps(body["document"])


documents = st.recursive(
    st.booleans() | st.integers(-9, 9) | st.text(max_size=2) | st.lists(st.integers(0, 3), max_size=2),
    lambda inner: st.dictionaries(st.sampled_from("abc"), inner, max_size=3),
    max_leaves=8,
).map(lambda value: value if isinstance(value, dict) else {"a": value})


@given(documents, documents)
def test_a_difference_makes_one_document_of_another(before, after):
    patch = difference(before, after)
    assert merge_patch(before, patch) == after
    assert difference(after, after) == {}
    assert (patch == {}) == (before == after)
