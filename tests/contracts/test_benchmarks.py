"""The benchmarks find what they measure; they are run by hand."""

from importlib import import_module
from pathlib import Path

import pytest


@pytest.mark.parametrize("name", sorted(path.stem for path in Path("bench").glob("[a-z]*.py")))
def test_a_benchmark_names_what_is_there(name):
    assert import_module(f"bench.{name}").__doc__
