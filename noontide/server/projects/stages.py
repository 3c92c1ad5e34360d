"""The results of stages that are kept from edit to edit, for all schemes together."""

import os

from noontide.core.simulation import StageCache

STAGES = StageCache(int(os.environ.get("NOONTIDE_CACHE_MB", "96")) * 1024**2)
