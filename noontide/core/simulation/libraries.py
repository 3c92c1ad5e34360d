"""What a design is looked at with: the parts, weather and meter readings that it names, and the stages that are kept from look to look."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from noontide.core.demand.series import UseSeries
from noontide.core.design import Design
from noontide.core.electrical import Catalogue
from noontide.core.simulation.cache import Company, Kept, StageCache
from noontide.core.simulation.chain import corrected, simulate, sky_over
from noontide.core.simulation.plant import IncompleteDesign
from noontide.core.simulation.results import Results
from noontide.core.simulation.sun_and_weather import SunAndWeather
from noontide.core.weather import Weather


@dataclass(frozen=True)
class Libraries:
    """Parts, the weather year of the design, interval data of its demand by digest, and the kept stages."""

    parts: Catalogue = field(default_factory=Catalogue)
    weather: Weather | None = None
    series: Mapping[str, UseSeries] = field(default_factory=dict)
    stages: StageCache = field(default_factory=StageCache)

    def year_of(self, design: Design, company: Company | None = None) -> Results:
        """The simulated year of a design, in the company of others where there are any (see `simulate`).

        Raises
        ------
        IncompleteDesign, UnknownPart, ImpossibleAdjustment
            As `simulate`; the first also without weather.
        """
        return simulate(design, self._weather(), self.parts, self.stages, self.series, company)

    def sky_of(self, design: Design) -> Kept[SunAndWeather]:
        """The sun over the site of a design, joined to its weather.

        Raises
        ------
        IncompleteDesign, ImpossibleAdjustment
            Without weather, or where it cannot be adjusted as the design wants it.
        """
        return sky_over(design.site, corrected(self._weather(), design, self.stages), self.stages)

    def _weather(self) -> Weather:
        if self.weather is None:
            raise IncompleteDesign("The design has no weather year. Choose one first.", "/weather")
        return self.weather
