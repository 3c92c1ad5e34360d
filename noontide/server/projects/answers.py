"""Answers about projects and schemes."""

from collections.abc import Iterable

from django.http import HttpResponse
from pydantic import ValidationError

from noontide.core.benches import BENCH_OF
from noontide.core.design import Design, DesignError
from noontide.server.projects.api_models import ProjectAnswer, ProjectCard, SchemeAnswer, SchemeLine
from noontide.server.projects.evaluation_key import is_current
from noontide.server.projects.evaluator import evaluator
from noontide.server.projects.models import Project, Revision, Scheme, StoredEvaluation


def scheme_answer(
    scheme: Scheme, revision: Revision, changed: Iterable[str] = (), status: int = 200, words: str = ""
) -> HttpResponse:
    """A scheme at a revision, with what is known of it within a moment. The document always comes."""
    evaluated = evaluator.ask(revision.document, scheme.pk, key=revision.evaluation_key)
    answer = SchemeAnswer(
        id=scheme.pk, project=scheme.project_id, letter=scheme.letter, revision=revision.number, can_undo=revision.parent_id is not None,
        can_redo=revision.children.exists(), document=revision.document, evaluation=evaluated.evaluation.model_copy(update={"key": evaluated.key}),
        changed=sorted({BENCH_OF[key] for key in changed if key in BENCH_OF}), words=words,
    )  # fmt: skip
    # Written by the model itself: through plain values first it takes five times as long.
    body = answer.model_dump_json()
    return HttpResponse(body, content_type="application/json", status=status, headers={"ETag": f'"{revision.number}"'})


def project_answer(project: Project) -> dict:
    """A project with its schemes."""
    return ProjectAnswer(**_project_fields(project, project.schemes.filter(deleted=None).select_related("head"))).model_dump(
        mode="json"
    )


def cards(projects: Iterable[Project]) -> list[dict]:
    """Cards of projects, from the figures that are kept; nothing is simulated for them but what was never asked before."""
    projects = list(projects)
    heads = {p.pk: p.pinned.head for p in projects if p.pinned and p.pinned.deleted is None and p.pinned.head}
    keys = {head.evaluation_key for head in heads.values() if is_current(head.evaluation_key)}
    kept = dict(StoredEvaluation.objects.filter(pk__in=keys).values_list("key", "summary"))
    return [_card(project, heads.get(project.pk), kept) for project in projects]


def _card(project: Project, head: Revision | None, kept: dict[str, dict]) -> dict:
    living = sorted((s for s in project.schemes.all() if s.deleted is None), key=lambda s: s.pk)
    base = _project_fields(project, living)
    document = head.document if head else {}
    given = document.get("site")
    site: dict = given if isinstance(given, dict) else {}
    summary, state = kept.get(head.evaluation_key if head else "", {}), "exact"
    if head and not summary:
        evaluated = evaluator.ask(document, head.scheme_id, patience=0.0)
        state = evaluated.state
        checks = evaluated.evaluation.checks
        summary = {"errors": sum(c.severity == "error" for c in checks), "cautions": sum(c.severity != "error" for c in checks)}
        if evaluated.evaluation.headline:
            summary |= evaluated.evaluation.headline.model_dump(
                include={"energy", "dc_power", "specific_yield", "monthly_energy"}
            )
    return ProjectCard(
        **base,
        state=state,
        latitude=_number(site.get("latitude")),
        longitude=_number(site.get("longitude")),
        place=str(site.get("name", "")),
        energy=summary.get("energy"),
        dc_power=summary.get("dc_power"),
        specific_yield=summary.get("specific_yield"),
        monthly_energy=summary.get("monthly_energy", []),
        planes=_planes(document),
        errors=summary.get("errors", 0),
        cautions=summary.get("cautions", 0),
    ).model_dump(mode="json")


def _project_fields(project: Project, schemes: Iterable[Scheme]) -> dict:
    lines = [
        SchemeLine(id=s.pk, letter=s.letter, name=str(s.head.document.get("name", "")), pinned=s.pk == project.pinned_id)
        for s in schemes
    ]
    return {
        "id": project.pk,
        "name": project.name,
        "customer": project.customer,
        "note": project.note,
        "is_copy": project.copy_of is not None,
        "changed": project.changed,
        "pinned": project.pinned_id,
        "schemes": lines,
    }


def _planes(document: dict) -> list[tuple[float, float, int]]:
    """Tilt, azimuth and modules of each surface, read from the document as it is: a card needs no more of it."""
    planes = []
    try:
        followed = _on_faces(document) if any("face" in s for s in document.get("surfaces", {}).values()) else {}
        for key, surface in document.get("surfaces", {}).items():
            modules = sum(
                s["modules_per_string"] * s.get("strings", 1) * document["inverters"][s["inverter"]].get("count", 1)
                for s in document.get("subarrays", {}).values()
                if s["surface"] == key
            )
            stance = followed.get(key, surface)
            planes.append((stance.get("tilt", 30.0), stance.get("azimuth", 180.0), modules))
    except (AttributeError, KeyError, TypeError):
        return []
    return planes


def _on_faces(document: dict) -> dict[str, dict[str, float]]:
    """Tilt and azimuth of the surfaces on faces of the scene; nothing where the document is no valid design."""
    try:
        surfaces = Design.read(document).surfaces
    except (ValidationError, DesignError):
        return {}
    return {key: {"tilt": s.tilt, "azimuth": s.azimuth} for key, s in surfaces.items() if s.face is not None}


def _number(value: object) -> float | None:
    return float(value) if isinstance(value, int | float) else None
