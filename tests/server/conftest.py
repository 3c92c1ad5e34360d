import json

import numpy as np
import pytest
from django.conf import settings
from django.test import Client

from noontide.core.weather import as_text
from noontide.server.jobs.kinds import kind_named
from noontide.server.projects.evaluator import evaluator
from noontide.server.projects.revising import begin_project
from noontide.server.projects.scheme_jobs import SCHEME_KINDS, asked_of
from noontide.server.weather_library.storing import opened, store


@pytest.fixture(scope="session")
def django_db_modify_db_settings(django_db_modify_db_settings_parallel_suffix):
    """A test's database need not outlive a power cut: where the disk of a busy machine stands still, no commit waits for it holding the lock."""
    options = settings.DATABASES["default"]["OPTIONS"]
    options["init_command"] = options["init_command"].replace("synchronous=FULL", "synchronous=OFF")
    options["timeout"] = 120


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


def found_by_job(scheme, name: str, arguments: dict | None = None, report=lambda progress, words: None):
    """What long work on a scheme finds, carried out here."""
    kind = kind_named(name)
    asked = asked_of(scheme, SCHEME_KINDS[name], arguments or {}, scheme.project.owner)
    return kind.work(kind.gather(asked), report)


def record_of(weather, years=(2021, 2022, 2023)) -> bytes:
    """A file of several years, each a tenth brighter than the one before."""
    lines = ["# latitude 43.62", "# longitude 11.31", "# elevation 412", "time;GHI [W/m2];temperature [C]"]
    for i, number in enumerate(years):
        starts = np.datetime64(f"{number}-01-01T00:00") + np.arange(8760) * np.timedelta64(60, "m")
        rows = zip(starts.astype(str), weather.ghi * (0.8 + 0.1 * i), weather.temperature, strict=True)
        lines += [f"{start};{ghi:.2f};{temperature:.2f}" for start, ghi, temperature in rows]
    return "\n".join(lines).encode()


def modules_of_rows(rows: list[dict]) -> list[dict]:
    """Every module of a drawn layout with its corners, as the browser makes them of rows."""
    found = []
    for row in rows:
        stem = row["first"].rstrip("0123456789")
        start = int(row["first"][len(stem) :] or 0)
        along, up = np.array(row["along"]), np.array(row["up"])
        for k in range(row["count"]):
            low = np.array(row["at"]) + k * np.array(row["step"])
            corners = [low.tolist(), (low + along).tolist(), (low + along + up).tolist(), (low + up).tolist()]
            found.append({"id": f"{stem}{start + k}" if k else row["first"], "number": row["number"] + k, "corners": corners})
    return found
