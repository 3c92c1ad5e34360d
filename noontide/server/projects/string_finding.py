"""The string finder over HTTP: it looks on the weather of the scheme, and for the figures of its stages."""

from noontide.core import finding
from noontide.core.design import Design
from noontide.core.finding import CannotFind, FindRequest, FoundWays
from noontide.server.accounts.models import User
from noontide.server.jobs.kinds import Report
from noontide.server.problems import Problem
from noontide.server.projects.libraries import libraries_of
from noontide.server.projects.scheme_jobs import Given, OfRevision, scheme_kind

NO_WEATHER = "Strings are found for the weather of the site; add it first."
FIRST_SECONDS = 0.8  # after which the first rows are shown, however few
CONFLICTS = ("not-complete", "no-demand")  # with the scheme as it is, not with what was asked


class FoundStrings(FoundWays, OfRevision):
    """What the finder found for a revision, best yield first."""


def find_strings(document: dict, asked: FindRequest, revision: int, owner: User) -> FoundStrings:
    """Look for strings on a surface of a design, among its own parts and those of a library.

    Raises
    ------
    Problem
        If the surface or a part is unknown, or the design has no weather yet.
    """
    design = Design.read(document)
    if asked.surface not in design.surfaces:
        raise Problem(422, "unknown-surface", "Unknown surface", f"The scheme has no surface '{asked.surface}'.", "/surface")
    libraries = libraries_of(design, owner)
    if libraries.weather is None:
        raise Problem(409, "not-complete", "The scheme is incomplete", NO_WEATHER)
    try:
        found = finding.find_strings(design, asked, libraries, patience=FIRST_SECONDS if asked.first else None)
    except CannotFind as error:
        raise Problem(409 if error.kind in CONFLICTS else 422, error.kind, error.title, str(error), error.pointer) from None
    return FoundStrings(revision=revision, **found.__dict__)


def has_weather(design: Design, owner: User) -> None:
    """Refuse a design without a weather year, before a job begins."""
    if libraries_of(design, owner).weather is None:
        raise Problem(409, "not-complete", "The scheme is incomplete", NO_WEATHER)


@scheme_kind("find-strings", arguments=FindRequest, may_begin=has_weather)
def look_for_strings(given: Given, report: Report) -> FoundStrings:
    """Ways to connect the modules of a surface to inverters, each with its simulated year."""
    found = finding.find_strings(
        given.design, given.arguments, given.libraries, lambda done, of: report(done / of, f"{done} of {of} ways simulated")
    )
    return FoundStrings(revision=given.revision, **found.__dict__)
