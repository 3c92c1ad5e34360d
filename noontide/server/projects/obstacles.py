"""What each object of the scene costs in a year: a simulated year for each."""

from dataclasses import asdict

from pydantic import BaseModel, Field

from noontide.core.access.obstacle_costs import obstacle_costs, what_replaces
from noontide.core.design import Design
from noontide.server.accounts.models import User
from noontide.server.jobs.kinds import Report
from noontide.server.problems import Problem
from noontide.server.projects.scheme_jobs import Given, OfRevision, scheme_kind


class SceneObstacle(BaseModel):
    id: str
    kind: str
    name: str
    energy: float = Field(description="more in a year without it [kWh]")


class SceneObstacles(OfRevision):
    energy: float = Field(description="of the year as it is [kWh]")
    obstacles: list[SceneObstacle] = Field(description="the one that costs most first")


def _scene_is_counted(design: Design, owner: User) -> None:
    if (words := what_replaces(design)) is not None:
        raise Problem(409, "shade-replaced", "Shade given by hand replaces the scene", words)


@scheme_kind("obstacle-costs", may_begin=_scene_is_counted)
def rank_obstacles(given: Given, report: Report) -> SceneObstacles:
    """What each obstacle of the scene costs in a year."""
    found = obstacle_costs(given.design, given.libraries, lambda done, of: report(done / of, f"{done} of {of} objects simulated"))
    obstacles = [SceneObstacle(**asdict(one)) for one in found.obstacles]
    return SceneObstacles(revision=given.revision, energy=found.energy, obstacles=obstacles)
