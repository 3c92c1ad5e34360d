import json

import pytest
from django.conf import settings
from django.test import Client

from noontide.core.weather import as_text
from noontide.server.projects.evaluator import evaluator
from noontide.server.projects.revising import begin_project
from noontide.server.weather_library.storing import opened, store


@pytest.fixture(autouse=True)
def own_data(tmp_path, db):
    """A data folder for each test; the cache of weather years must not outlive its library."""
    before = settings.DATA
    settings.DATA = tmp_path
    opened.cache_clear()
    # Everything in one thread: the test's transaction is seen by no other connection.
    patience, evaluator.patience = evaluator.patience, None
    evaluator.forget()
    yield
    settings.DATA, evaluator.patience = before, patience


class Api(Client):
    """The test client, speaking JSON; nothing of ours is mocked."""

    def send(self, method: str, path: str, body: object = None, revision: int | None = None, **more):
        headers = {"If-Match": f'"{revision}"'} if revision is not None else {}
        kind = "application/merge-patch+json" if method == "patch" and revision is not None else "application/json"
        return getattr(self, method)(
            path, data=None if body is None else json.dumps(body), content_type=kind, headers=headers, **more
        )


@pytest.fixture
def api() -> Api:
    return Api()


@pytest.fixture
def hill_year(hill_weather):
    return store(as_text(hill_weather, "csv").encode(), "hill.csv")


@pytest.fixture
def project(roof_document, hill_year):
    return begin_project("Aldermoor Dairy", roof_document | {"weather": {"digest": hill_year.digest, "title": hill_year.title}})


@pytest.fixture
def scheme(project):
    return project.pinned
