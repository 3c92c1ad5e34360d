"""What a design is: the scheme document, its values with units, ranges and defaults, and how it is edited."""

from noontide.core.scheme.document import FORMAT, HEAT_LOSS, Scheme
from noontide.core.scheme.merge_patch import merge_patch

__all__ = ["FORMAT", "HEAT_LOSS", "Scheme", "merge_patch"]
