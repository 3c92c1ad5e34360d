"""The string finder over HTTP: it looks on the weather of the scheme, and for the figures of its stages."""

from noontide.core import finding
from noontide.core.design import Design
from noontide.core.finding import CannotFind, FindRequest, FoundWays
from noontide.server.accounts.models import User
from noontide.server.problems import Problem
from noontide.server.projects.libraries import libraries_of

CONFLICTS = ("not-complete", "no-demand")  # with the scheme as it is, not with what was asked


class FoundStrings(FoundWays):
    """What the finder found for a revision, best yield first."""

    revision: int


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
        raise Problem(
            409, "not-complete", "The scheme is incomplete", "Strings are found for the weather of the site; add it first."
        )
    try:
        found = finding.find_strings(design, asked, libraries)
    except CannotFind as error:
        raise Problem(409 if error.kind in CONFLICTS else 422, error.kind, error.title, str(error), error.pointer) from None
    return FoundStrings(revision=revision, **found.__dict__)
