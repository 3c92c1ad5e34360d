"""Laying modules on a face as the Scene bench asks for it: all that fit, some by hand, or pairs."""

from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from noontide.core.access.solar_access import access_of
from noontide.core.design import join_patches, merge_patch
from noontide.core.design.document import Design, Surface
from noontide.core.design.layout import Layout
from noontide.core.design.module_rows import MOST_MODULES, Place
from noontide.core.electrical import Catalogue
from noontide.core.plan import FaceModules, groups_of, racks_beside
from noontide.core.plan.laying import laid_by_hand, proposed
from noontide.core.plan.layouts import free_plan, module_named, module_on, partner_of, plans_of
from noontide.core.scene import Body
from noontide.core.verbs.filling import added, backs_of, laid, surface_for
from noontide.server.problems import Problem
from noontide.server.projects.evaluator import STAGES
from noontide.server.projects.shade_answer import weather_sky

Corner = tuple[
    Annotated[float, Field(ge=-1e5, le=1e5)], Annotated[float, Field(ge=-1e5, le=1e5)], Annotated[float, Field(ge=-1e5, le=1e5)]
]
ASSUMED_PERFORMANCE = 0.8  # of an array that is not wired yet


class FillLimit(BaseModel):
    """What the modules may come to; as many as stay under it are laid, on the sunniest places."""

    model_config = ConfigDict(extra="forbid")

    of: Literal["modules", "power", "area", "energy"]
    value: float = Field(ge=0, le=1e9, description="a number, kW, m2, or kWh a year")


class FillRequest(BaseModel):
    model_config = ConfigDict(extra="forbid")

    surface: str = Field("", max_length=40)
    face: str = Field("", max_length=90, description="in place of a surface: a face of the scene, for which one is made")
    module: str = Field("", max_length=64, description="that is laid where no string says which")
    layout: dict = Field({}, description="a JSON Merge Patch of the surface's layout, to be tried first")
    limit: FillLimit | None = Field(None, description="in place of the layout's own number")
    within: tuple[Corner, Corner] | None = Field(
        None,
        description="two corners of an area on the face, east, north and up [m]: modules are added there beside those that lie; "
        "an area lower than a module asks for a row, and one point for one module",
    )

    @model_validator(mode="after")
    def _one_place(self) -> "FillRequest":
        if bool(self.surface) == bool(self.face):
            raise ValueError("Give a surface, or a face of the scene.")
        return self


class FillAnswer(BaseModel):
    """As many modules as fit; nothing is written."""

    revision: int
    module: str
    surface: str = Field(description="on which they are laid")
    count: int = Field(description="of modules, those of the backs of pairs included")
    portrait: int = Field(description="modules that fit in portrait")
    landscape: int
    usable_area: float = Field(description="[m2]")
    patch: dict = Field(description="a JSON Merge Patch that writes them to the design")
    words: str = Field(description="what it does")


def _sunniest(
    design: Design, key: str, plan: FaceModules, racks: list[Body], limit: FillLimit | None, performance: float
) -> dict[str, Place]:
    """As many modules as a limit allows: where it allows fewer than fit, those that receive most; numbered in reading order."""
    most = plan.layout.most if limit is None else _most(limit, plan)
    every = proposed(replace(plan, layout=plan.layout.model_copy(update={"most": None})))
    if most is None or (len(every) <= most and (limit is None or limit.of != "energy")):
        return every
    if most == 0 or design.weather is None:
        return dict(list(every.items())[:most])
    whole = replace(plan, layout=plan.layout.holding(every))
    surface = design.surfaces[key]
    access = access_of(design, surface, surface.tilt, surface.azimuth, groups_of(whole, racks), weather_sky(design), STAGES).value
    # Places of the same light are taken row by row, so that the modules lie together.
    order = sorted(range(len(whole.ids)), key=lambda k: (-round(float(access.annual[k]), 3), k))
    if limit is not None and limit.of == "energy":
        yields = access.received.sum(axis=0)[order] * plan.module.power / 1000 * performance
        most = int(np.searchsorted(np.cumsum(yields), limit.value * (1 + 1e-9), side="right"))
    kept = sorted(order[:most])
    return {f"m{number}": every[whole.ids[k]] for number, k in enumerate(kept, start=1)}


def _most(limit: FillLimit, plan: FaceModules) -> int:
    """Modules under a limit; of an energy, as many as there may be at all."""
    module = plan.module
    each = {"modules": 1.0, "power": module.power / 1000, "area": module.width * module.length}.get(limit.of, 1e-6)
    return int(min(limit.value * (1 + 1e-9) / each, MOST_MODULES))


def fill_answer(
    design: Design, parts: Catalogue, asked: FillRequest, revision: int, performance: float = ASSUMED_PERFORMANCE
) -> FillAnswer:
    """The modules that a surface holds, or those that are added to an area of it.

    Parameters
    ----------
    performance : float
        Energy over what the modules would give at their rated efficiency of the light that they receive, for a limit of energy.

    Raises
    ------
    Problem
        If the surface lies on no face of the scene, or no module says how large one is.
    """
    before: dict = {}
    key = asked.surface
    if asked.face:
        face = design.built_scene.face(asked.face)
        if face is None:
            raise Problem(409, "no-face", "The scene has no such face", f"'{asked.face[:90]}' is none of its faces.")
        key, before = surface_for(design, face, parts)
        design = Design.read(merge_patch(design.as_kept(), before))
    surface = _surface_on_face(design, key)
    model, module = module_on(design, key, parts)
    if asked.module:
        model, module = asked.module, module_named(design, asked.module, parts)
    if module is None:
        raise Problem(409, "no-module", "No module is chosen", "Say which module is to be laid, such as one of the library.")
    kept = surface.layout.model_dump(mode="json", exclude_unset=True) if surface.layout else {}
    layout = Layout.model_validate(merge_patch(kept, asked.layout)).holding({})
    plans = plans_of(design, parts)
    plan = free_plan(design, key, layout, module, plans)
    ways = {
        way: len(proposed(replace(plan, layout=layout.model_copy(update={"orientation": way, "most": None}))))
        for way in ("portrait", "landscape")
    }
    if asked.within is not None:
        lying = replace(plan, layout=Layout.model_validate(merge_patch(kept, asked.layout)))
        modules = laid_by_hand(lying, *lying.frame.into(np.array(asked.within))[:, :2])
        backs = backs_of(design, key, plan, modules)
        patch = added(design, key, modules, backs)
    else:
        racks = racks_beside({k: p for k, p in plans.items() if k != partner_of(design, key)}, key)
        modules = _sunniest(design, key, plan, racks, asked.limit, performance)
        backs = backs_of(design, key, plan, modules)
        most = {"most": len(modules)} if asked.limit is not None else {}
        typed = {"module": asked.module} if asked.module else {}
        patch = laid(design, key, {**asked.layout, **typed, **most}, model or "", modules, backs)
    count = len(modules) + (len(backs.modules) if backs is not None else 0)
    return FillAnswer(
        revision=revision, module=model or "", surface=key, count=count, usable_area=round(plan.usable.area, 2), **ways,
        patch=join_patches(before, patch), words=_words(count),
    )  # fmt: skip


def _words(count: int) -> str:
    return "No module fits there." if not count else "One module laid." if count == 1 else f"{count:,} modules laid."


def _surface_on_face(design: Design, key: str) -> Surface:
    surface = design.surfaces.get(key)
    face = design.built_scene.face(surface.face) if surface is not None and surface.face else None
    if surface is None or face is None:
        raise Problem(
            409, "no-face", "The surface lies on no face of the scene", f"Choose a face for '{key}' on the Scene bench first."
        )
    return surface
