"""Datasheets in the design: choosing a part copies it, so that an edited library never changes an old design."""

from noontide.core.design.document import Design
from noontide.core.electrical.datasheets import Catalogue


def freeze(document: dict, library: Catalogue) -> dict:
    """The document with the datasheet of every part in use, copied from the library where it has none of its own yet.

    Copies that nothing uses any more are left out; a datasheet that differs from the library's stays.
    A part that is in neither place is left to the simulation to report.
    """
    design = Design.read(document)
    kept = {}
    for kind, used in (
        (
            "modules",
            {s.module for s in design.subarrays.values()}
            | {s.layout.module for s in design.surfaces.values() if s.layout is not None and s.layout.module},
        ),
        ("inverters", {unit.model for unit in design.inverters.values()}),
        ("optimisers", {s.optimiser for s in design.subarrays.values()} - {None}),
        ("transformers", {design.connection.transformer} - {None}),
    ):
        own, shelf = getattr(design.parts, kind), getattr(library, kind)
        parts = {
            key: part.model_dump(mode="json", exclude_unset=True)
            for key, part in own.items()
            if key in used or key not in shelf or part.fingerprint != shelf[key].fingerprint
        }
        for key in sorted(used - own.keys()):
            if key in shelf:
                parts[key] = shelf[key].model_dump(mode="json", exclude_unset=True) | {"digest": shelf[key].fingerprint}
        if parts:
            kept[kind] = parts
    return {key: value for key, value in design.as_kept().items() if key != "parts"} | ({"parts": kept} if kept else {})
