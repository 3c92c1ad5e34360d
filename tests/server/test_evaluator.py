"""The states of an evaluation with real threads: pending, then exact; the newest wins; schemes do not block one another."""

import threading
import time

import pytest

from noontide.core.design import merge_patch
from noontide.server.projects import evaluation_key
from noontide.server.projects import evaluator as module
from noontide.server.projects.evaluator import Evaluator
from noontide.server.projects.models import StoredEvaluation

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def slow(monkeypatch):
    """A simulation that waits until it is let go."""
    gate, begun = threading.Event(), []
    real = module.simulate

    def simulate(design, *rest):
        begun.append(design.surfaces["barn"].tilt)
        assert gate.wait(20)
        return real(design, *rest)

    monkeypatch.setattr(module, "simulate", simulate)
    return gate, begun


def documents(scheme, tilts):
    return [merge_patch(scheme.head.document, {"surfaces": {"barn": {"tilt": t}}}) for t in tilts]


def wait_for(check, seconds=20.0):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if check():
            return
        time.sleep(0.02)
    raise AssertionError("it did not come about in time")


def test_what_takes_long_is_pending_first_and_exact_later_with_an_event(scheme, slow):
    gate, _ = slow
    evaluator, heard = Evaluator(patience=0.05), []
    evaluator.listen(lambda scheme_id, found: heard.append((scheme_id, found.state)))
    (document,) = documents(scheme, [21])
    began = time.monotonic()
    first = evaluator.ask(document, scheme.pk)
    assert time.monotonic() - began < 2
    assert (first.state, first.evaluation.headline) == ("pending", None)
    assert first.evaluation.brief, "the Brief comes before the figures"
    gate.set()
    wait_for(lambda: heard == [(scheme.pk, "exact")])
    assert evaluator.ask(document, scheme.pk).evaluation.headline is not None


def test_of_three_edits_the_newest_is_computed_and_one_that_has_not_begun_is_dropped(scheme, slow):
    gate, begun = slow
    evaluator = Evaluator(patience=0.01, workers=1)
    for document in documents(scheme, [31, 32, 33]):
        evaluator.ask(document, scheme.pk)
    wait_for(lambda: begun == [31])
    gate.set()
    newest = documents(scheme, [33])[0]
    wait_for(lambda: evaluator.ask(newest, scheme.pk).state == "exact")
    assert begun == [31, 33]


def test_one_scheme_does_not_wait_for_another(scheme, slow):
    gate, begun = slow
    evaluator = Evaluator(patience=0.01, workers=2)
    first, second = documents(scheme, [41, 42])
    evaluator.ask(first, 1)
    evaluator.ask(second, 2)
    wait_for(lambda: sorted(begun) == [41, 42])
    gate.set()


def test_a_simulation_that_raises_is_a_failed_state_with_words(scheme, monkeypatch):
    def broken(*_):
        raise FloatingPointError("overflow in a dark place")

    monkeypatch.setattr(module, "simulate", broken)
    found = Evaluator(patience=5).ask(documents(scheme, [51])[0], scheme.pk)
    assert found.state == "failed"
    # In words for a person, not the interpreter's; the circuits are there without figures.
    assert "undo the last edit" in found.evaluation.problem.detail
    assert "FloatingPointError" not in found.evaluation.problem.detail
    assert found.evaluation.circuits.inverters


def test_a_check_that_raises_takes_neither_the_figures_nor_other_findings_with_it(scheme, monkeypatch):
    from noontide.core import checks

    def broken(_):
        raise ValueError("zip() argument 2 is shorter than argument 1")

    first, *others = checks.CHECKERS
    document = documents(scheme, [52])[0]
    document["surfaces"]["roof" if "roof" in document["surfaces"] else next(iter(document["surfaces"]))]["tilt"] = 52
    monkeypatch.setattr(checks, "CHECKERS", ((broken, *first[1:]), *others))
    found = Evaluator(patience=None).ask(document, scheme.pk)
    assert found.state == "exact"
    assert found.evaluation.headline.energy > 0
    assert [check.title for check in found.evaluation.checks if check.rule == "not-checked"] == [
        "Not everything about strings was checked"
    ]


def test_figures_that_were_kept_in_another_shape_count_as_missing(api, scheme):
    energy = api.get(f"/api/schemes/{scheme.pk}").json()["evaluation"]["headline"]["energy"]
    for body in ({}, {"state": "exact"}, {"key": 1, "state": "sure", "headline": [1]}):
        assert StoredEvaluation.objects.update(body=body)
        module.evaluator.forget()
        answer = api.get(f"/api/schemes/{scheme.pk}")
        assert answer.status_code == 200
        assert answer.json()["evaluation"]["headline"]["energy"] == pytest.approx(energy)


def test_figures_kept_under_older_models_are_shown_neither_on_the_card_nor_in_the_scheme(api, scheme, monkeypatch):
    """A later version comes to a folder whose figures were made by an earlier one."""
    kept = api.get(f"/api/schemes/{scheme.pk}").json()["evaluation"]
    StoredEvaluation.objects.update(summary={"energy": 1.0}, body=kept | {"headline": kept["headline"] | {"energy": 1.0}})
    module.evaluator.forget()
    assert api.get(f"/api/schemes/{scheme.pk}").json()["evaluation"]["headline"]["energy"] == 1.0
    monkeypatch.setattr(evaluation_key, "RESULTS_VERSION", evaluation_key.RESULTS_VERSION[::-1])
    module.evaluator.forget()
    assert api.get("/api/projects").json()[0]["energy"] == pytest.approx(kept["headline"]["energy"])
    assert api.get(f"/api/schemes/{scheme.pk}").json()["evaluation"]["headline"]["energy"] == pytest.approx(
        kept["headline"]["energy"]
    )


def test_figures_reach_the_disk_a_moment_after_their_answer(scheme):
    evaluator = Evaluator()
    found = [evaluator.ask(document, scheme.pk) for document in documents(scheme, [22, 23])]
    wait_for(lambda: StoredEvaluation.objects.filter(pk__in=[one.key for one in found]).count() == 2)
    assert Evaluator().known(found[0].key).evaluation.headline.energy == found[0].evaluation.headline.energy


def test_figures_of_what_no_scheme_is_any_more_go_by_themselves(api, scheme):
    kept = api.get(f"/api/schemes/{scheme.pk}").json()["evaluation"]["key"]
    StoredEvaluation.objects.exclude(pk=kept).delete()  # of schemes of other tests, whose work has ended since
    StoredEvaluation.objects.bulk_create(StoredEvaluation(key=f"old-{k}", body={}, summary={}) for k in range(40))
    assert module.drop_old_evaluations(most=10) == 0  # some more may be there, so that not every edit looks through them
    StoredEvaluation.objects.bulk_create(StoredEvaluation(key=f"older-{k}", body={}, summary={}) for k in range(60))
    assert module.drop_old_evaluations(most=10) == 90
    assert StoredEvaluation.objects.filter(pk=kept).exists()
    assert StoredEvaluation.objects.count() == 11
