"""A folder of designs as one table: every tilt and azimuth of a roof, in processes."""

import json
import tempfile
from pathlib import Path

import noontide

HERE = Path(__file__).parent


def main() -> None:
    design = noontide.read_design(HERE / "south-roof.json")
    (surface,) = design.surfaces
    with tempfile.TemporaryDirectory() as folder:
        for tilt in (10, 30):
            for azimuth in (150, 180):
                one = noontide.change(
                    design, {"surfaces": {surface: {"tilt": tilt, "azimuth": azimuth}}, "name": f"{tilt}, {azimuth}"}
                )
                Path(folder, f"{tilt}-{azimuth}.json").write_text(json.dumps(one.as_kept()), encoding="utf-8")
        table = noontide.batch(folder, weather=str(HERE / "aldermoor.csv"))
    print(table[["name", "energy", "specific_yield", "cautions"]].to_string(index=False))


# Each design is simulated in a process of its own, which begins by reading this file again: the guard keeps it from beginning anew.
if __name__ == "__main__":
    main()
