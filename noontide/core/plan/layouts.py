"""The plans of a design: every surface on a face of its scene, with the module that lies there."""

from noontide.core.design.document import Design
from noontide.core.electrical.datasheets import Catalogue, Module
from noontide.core.plan.face_modules import FaceModules


def module_on(design: Design, key: str, parts: Catalogue) -> tuple[str | None, Module | None]:
    """The module that lies on a surface, with its id: that of the first strings there, else the layout's own; of the design's parts before the library's."""
    for subarray in design.subarrays.values():
        if subarray.surface == key:
            return subarray.module, design.parts.modules.get(subarray.module) or parts.modules.get(subarray.module)
    layout = design.surfaces[key].layout
    laid = layout.module if layout is not None else None
    return laid, (design.parts.modules.get(laid) or parts.modules.get(laid)) if laid else None


def plans_of(design: Design, parts: Catalogue) -> dict[str, FaceModules]:
    """The modules of every surface that has a layout, a face and a module."""
    found = {}
    for key, surface in design.surfaces.items():
        face = design.built_scene.face(surface.face) if surface.face else None
        _, module = module_on(design, key, parts)
        if face is not None and surface.layout is not None and module is not None:
            found[key] = FaceModules(face, surface.layout, module)
    return found


def strings_of(design: Design, key: str, plan: FaceModules) -> list[tuple[str, tuple[str, ...]]]:
    """The strings on a surface with their sub-array, in order: as drawn, else the next modules in reading order."""
    mine = {k: s for k, s in design.subarrays.items() if s.surface == key}
    drawn = {i for s in mine.values() for string in s.plan or () for i in string}
    free = iter([i for i in plan.ids if i not in drawn])
    strings = []
    for k, s in mine.items():
        many = s.strings * design.inverters[s.inverter].count
        strings += [
            (k, string)
            for string in s.plan
            or (tuple(i for _, i in zip(range(s.modules_per_string), free, strict=False)) for _ in range(many))
        ]
    return strings
