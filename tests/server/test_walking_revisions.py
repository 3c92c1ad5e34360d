"""Edits, undo and redo in any order, against a plain model of what a person expects of them."""

import copy
import random

import pytest

from noontide.core.design import merge_patch
from noontide.server.projects.models import Revision

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
    names = [revision.document.get("name") for revision in Revision.objects.filter(scheme=scheme).order_by("number")]
    assert names == ["South roof", "First thought", "Second thought"]


def test_the_figures_go_back_with_the_document(api, scheme):
    path = f"/api/schemes/{scheme.pk}"
    first = api.get(path).json()["evaluation"]["headline"]
    changed = api.send("patch", path, {"surfaces": {"barn": {"tilt": 40}}}, revision=1).json()["evaluation"]["headline"]
    back = api.send("post", f"{path}/undo", revision=2).json()["evaluation"]["headline"]
    assert changed["energy"] != first["energy"]
    assert back == first
