import copy
import os

import numpy as np
import pytest
from hypothesis import HealthCheck, settings
from xdist.scheduler import LoadScopeScheduling

from noontide.core.calendar import Calendar
from noontide.core.design import Design, merge_patch
from noontide.core.design.layout import Layout
from noontide.core.weather import Place, Weather, fill_missing_columns
from noontide.parts import built_in_parts
from noontide.standins.climate import synthetic_year

settings.register_profile("house", deadline=None, max_examples=40, suppress_health_check=[HealthCheck.too_slow])
# Where nobody is there to look at a new finding, the same examples are tried each time, and fewer.
settings.register_profile("unattended", settings.get_profile("house"), derandomize=True, max_examples=25)
settings.load_profile("unattended" if os.environ.get("CI") else "house")
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "noontide.server.settings")

# A server and a browser, a warm cache of all leaves, the demo: what their files begin with is begun by one process.
TOGETHER = ("tests/browser/", "tests/contracts/test_stage_keys.py", "tests/server/test_demo.py")


class CostlyFilesTogether(LoadScopeScheduling):
    """Each test goes to whichever process is free, those of a costly file to one."""

    def _split_scope(self, nodeid: str) -> str:
        return nodeid.split("::", 1)[0] if nodeid.startswith(TOGETHER) else nodeid


def pytest_xdist_make_scheduler(config, log):
    return CostlyFilesTogether(config, log)


def simulated_weather(
    latitude: float, longitude: float, elevation: float = 0.0, utc_offset: float = 0.0, step: int = 60, year: int = 2026
) -> Weather:
    """A year of the stand-in climate, without the service around it."""
    calendar = Calendar(year, step, utc_offset)
    return fill_missing_columns(
        calendar,
        Place(latitude, longitude, elevation),
        synthetic_year(latitude, longitude, elevation, calendar),
        title="Simulated climate",
    )


@pytest.fixture(scope="session")
def hill_weather() -> Weather:
    return simulated_weather(43.62, 11.31, 412, 1)


@pytest.fixture(scope="session")
def parts():
    return built_in_parts()


# One pitched roof, two strings on one inverter.
SOUTH_ROOF = {
    "name": "South roof",
    "site": {"latitude": 43.62, "longitude": 11.31, "elevation": 412},
    "surfaces": {"barn": {"tilt": 18, "azimuth": 192}},
    "inverters": {"main": {"model": "hexley-20"}},
    "subarrays": {
        "south": {"surface": "barn", "module": "veltrane-430", "modules_per_string": 18, "strings": 2, "inverter": "main"}
    },
}


@pytest.fixture
def roof_document() -> dict:
    return copy.deepcopy(SOUTH_ROOF)


@pytest.fixture
def roof(roof_document) -> Design:
    return Design.read(roof_document)


def clear_day(hours: int = 24) -> np.ndarray:
    """A smooth day of irradiance, 0 at night [W/m2]."""
    return np.maximum(0, 900 * np.sin(np.linspace(-np.pi / 2, 3 * np.pi / 2, hours)))


def filled(document: dict, place: dict, parts) -> dict:
    """A design with modules on a surface or a face of its scene, laid in reading order."""
    from noontide.core.design import Design
    from noontide.core.simulation import Libraries
    from noontide.core.verbs.catalogue import applied
    from noontide.core.verbs.editing import edited

    patch, _ = applied(Design.read(document), "fill", place, Libraries(parts))
    return edited(document, patch, parts)


def lying(layout: dict) -> dict:
    """Every module of a layout in a document or a patch, by its id."""
    return Layout.model_validate(merge_patch({}, layout)).placed


def by_hand(placed) -> dict:
    """Modules as a document keeps those that were laid by hand, one by one."""
    return {key: place._asdict() for key, place in placed.items()}
