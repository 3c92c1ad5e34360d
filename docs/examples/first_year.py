"""A year of a roof: its figures, its months, where its energy goes, and what a steeper tilt would give."""

from pathlib import Path

import noontide

HERE = Path(__file__).parent


def main() -> None:
    design = noontide.read_design(HERE / "south-roof.json")
    weather = noontide.read_weather(HERE / "aldermoor.csv")
    year = noontide.simulate(design, weather)
    print(f"{year.figures['energy']:,.0f} kWh a year, {year.figures['performance_ratio']:.1%} PR")
    print(year.months[["plane [kWh/m2 a day]", "energy [kWh]"]].round(1))
    print(year.cascade.query("energy != 0")[["title", "energy", "share"]].round(3))

    (surface,) = design.surfaces
    for tilt in (20, 30, 40):
        steeper = noontide.change(design, {"surfaces": {surface: {"tilt": tilt}}})
        print(f"tilt {tilt}°: {noontide.simulate(steeper, weather).figures['energy']:,.0f} kWh")


if __name__ == "__main__":
    main()
