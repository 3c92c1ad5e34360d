"""The API against its own schema: whatever it is asked, it never fails and never answers what it did not announce."""

from pathlib import Path

import pytest
import schemathesis
from django.core.management import call_command
from django.core.signals import request_finished, request_started
from django.db import close_old_connections
from hypothesis import HealthCheck, given, settings
from schemathesis.specs.openapi.checks import response_schema_conformance, status_code_conformance

from noontide.server.projects.revising import begin_project

ROOT = Path(__file__).resolve().parents[2]


def drawn_schema(tmp_path_factory) -> str:
    target = tmp_path_factory.mktemp("schema") / "openapi.yaml"
    call_command("spectacular", file=str(target), verbosity=0)
    return target.read_text(encoding="utf-8")


def test_the_written_schema_is_the_one_that_is_served(tmp_path_factory):
    assert drawn_schema(tmp_path_factory) == (ROOT / "docs/api/openapi.yaml").read_text(encoding="utf-8"), (
        "run `make schema` and commit the result"
    )


def test_the_schema_is_openapi_3_1_and_names_every_answer(api):
    import yaml

    schema = yaml.safe_load(api.get("/api/schema").content)
    assert schema["openapi"].startswith("3.1")
    operations = [o for path in schema["paths"].values() for o in path.values() if isinstance(o, dict)]
    assert all(o["operationId"] and o.get("description") for o in operations)


@pytest.fixture
def open_connection(db):
    """The handler would close the database under the test's transaction after each request, as a server should."""
    for signal in (request_started, request_finished):
        signal.disconnect(close_old_connections)
    yield
    for signal in (request_started, request_finished):
        signal.connect(close_old_connections)


@pytest.mark.slow
def test_no_request_makes_the_server_fail(open_connection, roof_document):
    from django.core.handlers.wsgi import WSGIHandler

    begin_project("Fuzzed", roof_document)
    token = "a" * 32
    schema = schemathesis.openapi.from_wsgi("/api/schema", WSGIHandler())
    # Asking the service for weather would start jobs in other threads, outside of the test's transaction.
    operations = [found.ok() for found in schema.get_all_operations() if "weather/request" not in found.ok().path]
    assert len(operations) > 25

    for operation in operations:

        @settings(max_examples=15, suppress_health_check=list(HealthCheck), database=None)
        @given(operation.as_strategy())
        def never_fails(case):
            answer = case.call(
                headers={"Host": "localhost", "X-CSRFToken": token, "Accept-Encoding": "identity"}, cookies={"csrftoken": token}
            )
            assert answer.status_code < 500, f"{case.method} {case.formatted_path}: {answer.text[:500]}"
            if answer.status_code >= 400:
                assert answer.json()["title"]
            case.validate_response(answer, checks=[status_code_conformance, response_schema_conformance])

        never_fails()
