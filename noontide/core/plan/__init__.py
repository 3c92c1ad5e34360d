"""The plan: modules on the faces of the scene, and their cell groups."""

from noontide.core.plan.cell_groups import GroupTargets, groups_of, pieces_of, racks_beside
from noontide.core.plan.face_modules import FaceModules

__all__ = ["FaceModules", "GroupTargets", "groups_of", "pieces_of", "racks_beside"]
