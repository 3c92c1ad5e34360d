"""What a design is: the design document, its values with units, ranges and defaults, and how it is edited."""

from noontide.core.design.document import Design
from noontide.core.design.frozen import freeze
from noontide.core.design.merge_patch import difference, join_patches, merge_patch
from noontide.core.design.migrations import FORMAT
from noontide.core.design.size import DesignError

__all__ = ["FORMAT", "Design", "DesignError", "difference", "freeze", "join_patches", "merge_patch"]
