"""Noontide from Python: designs, a year's simulation, and its results as pandas tables.

from noontide import Design, read_design, read_weather, simulate

year = simulate(read_design("barn.json"), read_weather("hill.epw"))
year.figures["energy"], year.hours, year.months, year.cascade, year.checks
"""

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import Any

import pandas as pd

from noontide.core.checks import find_checks
from noontide.core.demand.series import UseSeries
from noontide.core.design import Design, merge_patch
from noontide.core.electrical import Catalogue
from noontide.core.exchange import ProjectFile, unpack
from noontide.core.figures.catalogue import FIGURES, figures_of
from noontide.core.figures.months import table_of_months
from noontide.core.simulation import Libraries, Results, StageCache
from noontide.core.simulation import simulate as run_chain
from noontide.core.verbs.catalogue import applied
from noontide.core.weather import Reading, Weather, read
from noontide.parts import built_in_parts


@dataclass(frozen=True, eq=False)
class Year:
    """A simulated year of a design. `results` holds every stage; the tables are made when they are asked for."""

    results: Results

    @cached_property
    def figures(self) -> pd.Series:
        """Every figure of the Headline that the design has, by key, in the units that `figure_units` names."""
        return pd.Series(figures_of(self.results), name="value", dtype=object)

    @cached_property
    def figure_units(self) -> pd.Series:
        """Title and unit of every figure, by key."""
        own = {figure.key: f"{figure.title} [{figure.unit_of(self.results) or '1'}]" for figure in FIGURES}
        return pd.Series({key: own[key] for key in self.figures.index}, name="title")

    @cached_property
    def hours(self) -> pd.DataFrame:
        """Every quantity of every interval; the index is the start of the interval on the local clock."""
        return self.results.hourly()

    @cached_property
    def months(self) -> pd.DataFrame:
        """Irradiation a day, temperature and energy by month, 1 to 12."""
        rows = table_of_months(self.results).months
        table = pd.DataFrame([vars(row) for row in rows], index=pd.RangeIndex(1, 13, name="month"))
        units = {"horizontal": "kWh/m2 a day", "plane": "kWh/m2 a day", "temperature": "Cel", "energy": "kWh", "specific_yield": "kWh/kW a day"}  # fmt: skip
        return table.rename(columns={key: f"{key} [{unit}]" for key, unit in units.items()})

    @cached_property
    def cascade(self) -> pd.DataFrame:
        """Where the energy goes [kWh], from the horizontal irradiation on; `share` is of what was there before the line."""
        entries = self.results.cascade.entries
        columns = ("key", "title", "group", "energy", "before", "share")
        return pd.DataFrame([{c: getattr(entry, c) for c in columns} for entry in entries]).set_index("key")

    @cached_property
    def checks(self) -> pd.DataFrame:
        """Findings about the design."""
        columns = ["rule", "severity", "title", "detail", "pointer", "actual", "limit", "unit", "accepted"]
        return pd.DataFrame([{c: getattr(check, c) for c in columns} for check in find_checks(self.results)], columns=columns)


@dataclass(frozen=True, eq=False)
class Project:
    """A project's file, opened: designs, weather years and measured use by what the designs name them."""

    file: ProjectFile
    _stages: StageCache = field(default_factory=StageCache)

    @cached_property
    def designs(self) -> dict[str, Design]:
        """By the scheme's letter."""
        return {scheme.letter: Design.read(scheme.document) for scheme in self.file.schemes}

    @cached_property
    def weather(self) -> dict[str, Weather]:
        """By digest."""
        return {year.weather.digest: year.weather for year in self.file.weather}

    @cached_property
    def use(self) -> dict[str, UseSeries]:
        """Measured use, by digest."""
        return {one.series.digest: one.series for one in self.file.use}

    @cached_property
    def parts(self) -> Catalogue:
        """The parts that ship, and the project's own."""
        shipped, own = built_in_parts(), self.file.parts
        if own is None:
            return shipped
        return shipped.model_copy(update={kind: {**shipped.of(kind), **own.of(kind)} for kind in type(own).model_fields})

    def simulate(self, letter: str) -> Year:
        """A year of a scheme with the weather that it names.

        Raises
        ------
        KeyError
            If there is no such scheme.
        ValueError
            If the scheme has no weather year in the file, or cannot be simulated.
        """
        design = self.designs[letter]
        digest = design.weather.digest if design.weather is not None else ""
        if digest not in self.weather:
            raise ValueError(f"Scheme {letter} names no weather year, or one that is not in the file.")
        return simulate(design, self.weather[digest], self.parts, series=self.use, stages=self._stages)


def read_design(path: str | Path) -> Design:
    """A design from a file.

    Raises
    ------
    OSError, ValueError
        If it cannot be read, or is no design.
    """
    return Design.read(json.loads(Path(path).read_text(encoding="utf-8")))


def read_weather(path: str | Path, reading: Reading | None = None) -> Weather:
    """A weather year from EPW, a weather table, or any table that can be recognised.

    Raises
    ------
    OSError, WeatherFileError
        If it cannot be read.
    """
    return read(path, reading)


def read_project(path: str | Path) -> Project:
    """A project from its file.

    Raises
    ------
    OSError, ArchiveError
        If it cannot be read, or is not what it says.
    """
    return Project(unpack(Path(path).read_bytes()))


def simulate(
    design: Design,
    weather: Weather,
    parts: Catalogue | None = None,
    *,
    series: Mapping[str, UseSeries] | None = None,
    stages: StageCache | None = None,
) -> Year:
    """A year of a design, interval by interval.

    Parameters
    ----------
    parts
        The library for parts that the design has no datasheet of; the one that ships where it is left out.
    series
        Measured use by digest, where the design names some.
    stages
        Kept by the caller from run to run: a change recomputes only what lies downstream of it.

    Raises
    ------
    ValueError
        If the design is incomplete, or cannot be simulated.
    """
    return Year(run_chain(design, weather, parts if parts is not None else built_in_parts(), stages, series))


def change(design: Design, patch: Mapping[str, Any]) -> Design:
    """The design with a JSON Merge Patch (RFC 7396) applied: `change(design, {"surfaces": {"barn": {"tilt": 40}}})`.

    Raises
    ------
    pydantic.ValidationError, DesignError
        If the result is no valid design.
    """
    return Design.read(merge_patch(design.as_kept(), dict(patch)))


def act(design: Design, verb: str, weather: Weather | None = None, **arguments: Any) -> Design:
    """The design after a verb of the core, such as `act(design, "fill-faces", face="barn:south")`; `noontide edit --help` lists them.

    Raises
    ------
    KeyError, pydantic.ValidationError, ImpossibleAct
        If there is no such verb, its arguments do not fit, or it cannot be done to this design.
    """
    return change(design, applied(design, verb, arguments, Libraries(built_in_parts(), weather))[0])
