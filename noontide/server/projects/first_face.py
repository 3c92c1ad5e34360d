"""The first face that is filled in a project that began without a scene: it takes the strings of the plane that stood for it, found anew."""

from noontide.core.design import Design, join_patches, merge_patch
from noontide.core.electrical import Catalogue
from noontide.core.finding import FindRequest
from noontide.core.verbs.filling import stand_in, strings_taken_over
from noontide.server.problems import Problem
from noontide.server.projects.laying_answer import FillAnswer
from noontide.server.projects.string_finding import find_strings

LEFT_OVER = 2  # modules that may stay without a string
MOST_FOUND = 4000  # modules for which strings are found while somebody waits; more take tens of seconds


def with_strings(design: Design, found: FillAnswer, shelf: Catalogue) -> FillAnswer:
    """What was laid, with strings: where one plane of no building has them and the face none, they are the face's.

    They are found anew for the modules on it; where the library has no inverter for that number, they move as they are.
    """
    if not found.count:
        return found
    document = merge_patch(design.as_kept(), found.patch)
    filled = Design.read(document)
    loose = stand_in(filled, found.surface)
    if loose is None:
        return found
    name = filled.surfaces[loose].name or loose
    taken = strings_taken_over(filled, loose, found.surface)
    model = next(s.module for s in filled.subarrays.values() if s.surface == loose)
    layout = filled.surfaces[found.surface].layout
    count = len(layout.placed) if layout is not None else 0
    try:
        if count > MOST_FOUND:
            raise Problem(422, "many-modules", "Too many modules to find strings for at once")
        asked = FindRequest(surface=found.surface, module=model, number=count, leave_over=min(LEFT_OVER, count - 1), first=True)
        ways = find_strings(merge_patch(document, taken), asked, found.revision, shelf).proposals
    except Problem:  # without weather there is no year to compare by, and a very large field is found as a task of its own
        ways = []
    if not ways:
        words = (
            f"{found.words} They take the strings of {name} as they are: find strings for {count} modules on the Circuits bench."
        )
        return found.model_copy(update={"patch": join_patches(found.patch, taken), "words": words})
    best = ways[0]
    inverter = filled.parts.inverters.get(best.inverter) or shelf.inverters[best.inverter]
    title = f"{inverter.maker} {inverter.name}"
    number = f"{best.count} × {title}" if best.count > 1 else title
    words = f"{found.words} They take the place of {name}, in strings found anew: {best.modules} modules on {number}."
    return found.model_copy(update={"patch": join_patches(join_patches(found.patch, taken), best.patch), "words": words})
