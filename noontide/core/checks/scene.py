"""Checks of the layout on the scene: modules that lie where they may not, strings without modules, modules without a string."""

from noontide.core.checks.finding import Check, Remedy
from noontide.core.plan.layouts import plans_with
from noontide.core.simulation.results import Results


def check_layout(r: Results) -> list[Check]:
    """Findings about the modules on the plan of each surface."""
    found: list[Check] = []
    plans = plans_with(r.design, {r.plant.surface_ids[s]: m for s, m in zip(r.plant.surface_of, r.plant.modules, strict=True)})
    for s, (key, surface) in enumerate(zip(r.plant.surface_ids, r.plant.surfaces, strict=True)):
        plan = plans.get(key)
        if plan is None or not plan.placed:
            continue
        members = [k for k in range(len(r.plant.subarrays)) if r.plant.surface_of[k] == s]
        name = surface.name or key
        if plan.tray:
            first, why = next(iter(plan.tray.items()))
            count = len(plan.tray)
            found.append(
                Check(
                    rule="module-off-face", severity="caution",
                    title=f"{count} module{'s' if count > 1 else ''} of {name} {'have' if count > 1 else 'has'} no place",
                    detail=f"Module {first} lies {why}. Modules without a place give nothing. Move them, or delete them.",
                    bench="scene", pointer=f"/surfaces/{key}/layout", actual=count, limit=0, unit="modules",
                    source="Geometry of the scene",
                    remedies=(Remedy("Delete them", {"surfaces": {key: {"layout": plan.layout.without(plan.tray)}}}),),
                )
            )  # fmt: skip
        wired = int(sum(r.plant.module_counts[k] for k in members))
        placed = len(plan.ids)
        if wired > placed:
            found.append(
                Check(
                    rule="strings-without-modules", severity="caution",
                    title=f"{wired - placed} modules of the strings are not on the plan of {name}",
                    detail=f"The strings have {wired} modules, the plan {placed}. What has no place takes the mean shade of the others.",
                    bench="scene", pointer=f"/surfaces/{key}/face", actual=wired, limit=placed, unit="modules", source="Count of modules",
                )
            )  # fmt: skip
        elif placed > wired:
            found.append(
                Check(
                    rule="modules-without-string", severity="caution",
                    title=f"{placed - wired} modules of {name} are on no string",
                    detail=f"The plan has {placed:,} modules, the strings {wired:,}. Those that are left over give nothing.",
                    bench="scene", pointer=f"/surfaces/{key}/module", actual=placed, limit=wired, unit="modules", source="Count of modules",
                )
            )  # fmt: skip
    return found
