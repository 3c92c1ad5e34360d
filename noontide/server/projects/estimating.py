"""The Quick estimate over HTTP: place and weather come from the server, the rest from the core."""

from dataclasses import asdict

import numpy as np

from noontide.core.electrical.datasheets import Catalogue
from noontide.core.estimate import CannotEstimate
from noontide.core.estimate import estimate as estimated
from noontide.core.estimate.asked import EstimateRequest
from noontide.core.simulation import Libraries
from noontide.server.accounts.habits import habits_of
from noontide.server.accounts.models import User
from noontide.server.places.finding import time_zone_at
from noontide.server.problems import Problem
from noontide.server.projects.api_models import EstimateAnswer, EstimateMonth
from noontide.server.projects.evaluator import evaluator
from noontide.server.projects.stages import STAGES
from noontide.server.weather_library.edr import ServiceFailed, fetch_elevation
from noontide.server.weather_library.requesting import year_for
from noontide.server.weather_library.storing import load

# Of a year's irradiation, by the check of the shipped climatology against cities that it was not fitted to.
EXPECTED_ERROR = 0.07


def estimate(asked: EstimateRequest, parts: Catalogue, owner: User) -> EstimateAnswer:
    """Size, arrange and simulate, with the parts of a library; the weather year is the owner's.

    Raises
    ------
    Problem
        If a part is unknown or nothing can be arranged.
    ServiceFailed
        If there is no weather for the place.
    """
    asked = asked.model_copy(update={"currency": asked.currency or habits_of(owner).currency or None})
    zone, utc_offset = time_zone_at(asked.latitude, asked.longitude)
    if asked.elevation is None:
        asked = asked.model_copy(update={"elevation": _elevation(asked.latitude, asked.longitude)})
    elevation = asked.elevation or 0.0
    year = year_for(asked.latitude, asked.longitude, elevation, utc_offset, asked.place, owner)
    try:
        found = estimated(asked, zone, Libraries(parts, load(year.digest), {}, STAGES))
    except CannotEstimate as error:
        raise Problem(422, error.kind, error.title, str(error), error.pointer) from None
    way, module, best = found.way, found.module, found.orientations
    hourly = found.hourly
    return EstimateAnswer(
        elevation=elevation,
        weather_error=EXPECTED_ERROR if year.origin == "service" else None,
        document=found.document,
        evaluation=evaluator.ask(found.document, patience=30).evaluation,
        modules=way.modules,
        power=way.modules * module.power / 1000,
        area=way.modules * module.area,
        inverter=way.inverter,
        inverters=way.count,
        leftover=way.left_over,
        limited_by=found.limited_by,
        best_tilt=best.best_tilt,
        best_azimuth=best.best_azimuth,
        against_best=found.against_best,
        months=[EstimateMonth(**asdict(month)) for month in found.months],
        currency=found.results.design.money.currency,
        battery=found.battery,
        battery_taken=found.battery_taken,
        year=np.round(hourly / max(float(hourly.max()), 1e-9) * 255).astype(int).ravel().tolist(),
    )


def _elevation(latitude: float, longitude: float) -> float:
    try:
        return round(fetch_elevation(latitude, longitude))
    except ServiceFailed:
        return 0.0
