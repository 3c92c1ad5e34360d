"""The demo's three projects: whole, plausible, and none of them a place or a maker that exists."""

import pytest

from noontide.parts import built_in_parts
from noontide.server.demo import load_demo
from noontide.server.projects.models import Project

INVENTED = {"Veltrane", "Quillon", "Thornby", "Hexley", "Corvane"}


@pytest.fixture
def demo(api):
    said = list(load_demo(with_trials=False))
    return said, {project.name: project for project in Project.objects.all()}


def answers(api, project) -> list[dict]:
    return [api.get(f"/api/schemes/{scheme.pk}").json() for scheme in project.schemes.all()]


def test_it_says_what_it_loads_and_loads_it_once(demo):
    said, projects = demo
    assert set(projects) == {"Aldermoor Dairy", "Saltwick Hut", "Weir Cottage"}
    assert len(said) == 3
    list(load_demo(with_trials=False))
    assert Project.objects.count() == 3


def test_aldermoor_has_schemes_to_compare(demo):
    _, projects = demo
    assert 2 <= projects["Aldermoor Dairy"].schemes.count() <= 4
    assert projects["Aldermoor Dairy"].pinned is not None


@pytest.mark.parametrize(
    ("name", "specific_yield", "ratio"),
    [
        ("Aldermoor Dairy", (1200, 1500), (0.78, 0.9)),
        ("Saltwick Hut", (1000, 1450), (0.78, 0.95)),
        ("Weir Cottage", (850, 1150), (0.78, 0.95)),
    ],
)
def test_every_scheme_gives_a_year_that_an_engineer_believes(api, demo, name, specific_yield, ratio):
    for answer in answers(api, demo[1][name]):
        evaluation = answer["evaluation"]
        headline, cascade = evaluation["headline"], evaluation["cascade"]
        assert specific_yield[0] < headline["specific_yield"] < specific_yield[1], answer["letter"]
        assert ratio[0] < headline["performance_ratio"] < ratio[1], answer["letter"]
        assert cascade["residual"] < 1e-9
        assert [check["rule"] for check in evaluation["checks"] if check["severity"] == "error"] == []


def test_the_southern_project_faces_north_and_has_its_summer_in_january(api, demo):
    answer, _ = answers(api, demo[1]["Saltwick Hut"])
    assert answer["document"]["site"]["latitude"] < 0
    assert [s["face"] for s in answer["document"]["surfaces"].values()] == ["hut/roof-1", "hut/wall-1"]
    assert all(min(plane["azimuth"], 360 - plane["azimuth"]) < 45 for plane in answer["evaluation"]["faces"].values())
    monthly = answer["evaluation"]["headline"]["monthly_energy"]
    assert monthly[0] + monthly[11] > monthly[5] + monthly[6]


def test_its_weather_is_called_what_it_is(api, demo):
    for project in demo[1].values():
        for answer in answers(api, project):
            year = api.get(f"/api/weather/{answer['document']['weather']['digest']}").json()
            assert "not measured" in year["source"]
            assert year["summary"]["clock_warning"] == ""


def test_all_makers_are_invented():
    parts = built_in_parts()
    assert {part.maker for part in (*parts.modules.values(), *parts.inverters.values())} <= INVENTED
