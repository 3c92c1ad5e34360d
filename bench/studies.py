"""Studies of many designs in one process, timed: sizes of battery and array with their money, tilts and azimuths, inverters and strings."""

import time

from bench.storage import DAIRY, PARTS
from noontide.core.design import Design, merge_patch
from noontide.core.simulation import Libraries
from noontide.core.trials import Study, plan_of, run
from noontide.core.weather import Weather

AFTER_THE_METER = {
    "demand": {"sources": {"h": {"name": "House", "yearly": {"energy": 9000}}}},
    "storage": {"bank": {"energy": 8}},
    "money": {
        "tariff": DAIRY.model_dump(mode="json", exclude_unset=True),
        "costs": {"work": {"name": "Work", "amount": 500, "per": "kW"}},
    },
}


class Studies:
    """Over a plant of one sub-array."""

    def __init__(self, design: Design, weather: Weather):
        self._weather = weather
        self._alone = design
        self._whole = Design.read(merge_patch(design.as_kept(), AFTER_THE_METER))

    def _took(self, design: Design, study: dict) -> float:
        """All runs of a study, with nothing kept from before [s]."""
        plan, _ = plan_of(Study.model_validate(study), design, Libraries(PARTS, self._weather))
        libraries = Libraries(PARTS, self._weather)
        start = time.perf_counter()
        rows = list(run(plan, libraries))
        seconds = time.perf_counter() - start
        assert all(row.state == "done" for row in rows) and len({row.design for row in rows}) == plan.count
        return seconds

    def sizes(self, figure: str) -> float:
        """15 batteries at 10 lengths of the strings, to a figure [s]."""
        loose = {
            "battery": {"pointers": ["/storage/bank/energy"], "low": 2, "high": 30, "step": 2},
            "array": {"pointers": ["/subarrays/a0/modules_per_string"], "low": 8, "high": 17, "step": 1},
        }
        return self._took(self._whole, {"loose": loose, "figures": [figure]})

    def attitudes(self) -> float:
        """10 tilts at 10 azimuths of one surface, to the energy [s]."""
        loose = {
            "tilt": {"pointers": ["/surfaces/s0/tilt"], "low": 5, "high": 50, "step": 5},
            "azimuth": {"pointers": ["/surfaces/s0/azimuth"], "low": 90, "high": 270, "step": 20},
        }
        return self._took(self._alone, {"loose": loose, "figures": ["energy"]})

    def strings(self) -> float:
        """1,000 ways to connect: 20 inverters, 1 to 5 strings of 12 to 21 modules, to the energy [s]."""
        inverters = [key for key, unit in PARTS.inverters.items() if unit.kind == "string"][:20]
        loose = {
            "inverter": {"pointers": ["/inverters/i0/model"], "values": inverters},
            "strings": {"pointers": ["/subarrays/a0/strings"], "low": 1, "high": 5, "step": 1},
            "modules": {"pointers": ["/subarrays/a0/modules_per_string"], "low": 12, "high": 21, "step": 1},
        }
        return self._took(self._alone, {"loose": loose, "figures": ["energy"]})
