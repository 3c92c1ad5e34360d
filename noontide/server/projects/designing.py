"""An array designed to a target, as a job on a scheme: the patch that writes it, and what it comes to in words."""

from typing import Any

from noontide.core.verbs.shared import ImpossibleAct
from noontide.core.verbs.targets import DesignTo, design_to
from noontide.server.jobs.kinds import Report
from noontide.server.projects.scheme_jobs import Given, OfRevision, scheme_kind
from noontide.server.projects.string_finding import has_weather


class DesignedTo(OfRevision):
    """What reaches the target."""

    patch: dict[str, Any]
    words: str


@scheme_kind("design-to", DesignTo, may_begin=has_weather)
def designed_to(given: Given, report: Report) -> DesignedTo:
    """Modules on the sunniest places, in strings on inverters that are found for them, as many as a target asks for."""
    try:
        patch, words = design_to(given.design, given.arguments, given.libraries, report)
    except ImpossibleAct as error:
        raise ValueError(str(error)) from None
    return DesignedTo(revision=given.revision, patch=patch, words=words)
