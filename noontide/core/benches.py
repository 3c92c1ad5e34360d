"""The benches of the workbench in the order of the work: the one list of their names."""

from typing import Literal, get_args

BenchName = Literal["site", "weather", "sky", "surfaces", "scene", "circuits", "demand", "storage", "losses", "money"]
BENCHES: tuple[BenchName, ...] = get_args(BenchName)

# The bench on which a part of the document is edited.
BENCH_OF: dict[str, BenchName] = {
    "site": "site",
    "weather": "weather",
    "surfaces": "surfaces",
    "scene": "scene",
    "views": "scene",
    "subarrays": "circuits",
    "inverters": "circuits",
    "parts": "circuits",
    "connection": "circuits",
    "wiring": "circuits",
    "losses": "losses",
    "models": "losses",
    "demand": "demand",
    "storage": "storage",
    "money": "money",
}
