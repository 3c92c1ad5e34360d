"""How much of each room the tests run through, from the report of a run with coverage: `make coverage`.

Compiled loops run outside of Python and count as not run; what they do is tried by the tests of the rooms that call them.
"""

import json
import sys
from collections import defaultdict
from pathlib import Path


def by_room(files: dict[str, dict], depth: int = 3) -> list[tuple[str, int, int]]:
    """Rooms with the lines that can run and those that ran, the least covered first.

    Parameters
    ----------
    files : dict
        By path, with `summary`, as coverage.py writes them.
    depth : int
        Parts of a path that name a room, such as noontide/core/scene.
    """
    rooms: dict[str, list[int]] = defaultdict(lambda: [0, 0])
    for path, file in files.items():
        parts = Path(path).parts
        room = "/".join(parts[:depth] if len(parts) > depth else parts[:-1])
        summary = file["summary"]
        rooms[room][0] += summary["num_statements"]
        rooms[room][1] += summary["covered_lines"]
    return sorted(((room, of, ran) for room, (of, ran) in rooms.items() if of), key=lambda line: line[2] / line[1])


def main(report: str) -> None:
    """Print the rooms of a report."""
    rooms = by_room(json.loads(Path(report).read_text(encoding="utf-8"))["files"])
    print(f"{'room':<40}{'lines':>8}{'run':>8}{'share':>9}")
    for room, of, ran in [*rooms, ("all", sum(of for _, of, _ in rooms), sum(ran for *_, ran in rooms))]:
        print(f"{room:<40}{of:>8,}{ran:>8,}{ran / of:>8.1%}")


if __name__ == "__main__":
    main(sys.argv[1])
