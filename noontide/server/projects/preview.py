"""What an edit would make of a scheme: figures and checks before it is made; nothing is written."""

from pydantic import BaseModel, ConfigDict, Field

from noontide.core.checks import Check, find_checks
from noontide.core.checks.measured import measured
from noontide.core.electrical import Catalogue
from noontide.core.verbs.editing import edited
from noontide.server.projects.evaluator import results_for


class PreviewRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    patch: dict = Field(description="a JSON Merge Patch (RFC 7396) of the design")
    rule: str = Field("", max_length=60, description="of the check that is looked at")
    pointer: str = Field("", max_length=200, description="of that check")


class PreviewAnswer(BaseModel):
    """Before and after an edit."""

    revision: int
    energy_before: float = Field(description="[kWh]")
    energy: float = Field(description="[kWh]")
    actual_before: float | None = Field(description="of the check that is looked at")
    actual: float | None
    unit: str
    solved: list[str] = Field(description="titles of open checks that are gone")
    found: list[str] = Field(description="titles of open checks that come with it")


def preview(document: dict, asked: PreviewRequest, library: Catalogue, revision: int) -> PreviewAnswer:
    """The year of a document with a patch, beside the year without it.

    Raises
    ------
    Problem
        If either cannot be simulated.
    pydantic.ValidationError, DesignError
        If the patched document is not a valid design.
    """
    before = results_for(document)
    after = results_for(edited(document, asked.patch, library))
    checks, then = _open(find_checks(before)), _open(find_checks(after))
    looked_at = next((check for check in checks.values() if (check.rule, check.pointer) == (asked.rule, asked.pointer)), None)
    return PreviewAnswer(
        revision=revision,
        energy_before=before.annual.energy,
        energy=after.annual.energy,
        actual_before=looked_at.actual if looked_at else measured(before, asked.rule, asked.pointer),
        actual=measured(after, asked.rule, asked.pointer),
        unit=looked_at.unit if looked_at else "",
        solved=[check.title for key, check in checks.items() if key not in then],
        found=[check.title for key, check in then.items() if key not in checks],
    )


def _open(checks: list[Check]) -> dict[str, Check]:
    return {check.key: check for check in checks if not check.accepted}
