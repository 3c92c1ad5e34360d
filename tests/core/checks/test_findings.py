"""Findings of the same words made one, whatever remedies each of them has."""

import copy

from noontide.core.checks import Check, Remedy, find_checks
from noontide.core.checks.finding import in_order
from noontide.core.design import Design
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts
from tests.conftest import SOUTH_ROOF

PARTS = built_in_parts()


def finding(*remedies):
    return Check("r", "error", "Same words", "Same detail", "circuits", "/a", 2, 1, "A", "", tuple(remedies))


def test_only_remedies_that_all_of_them_have_are_left_and_mend_all():
    one, other = (Remedy("Use 2", {"subarrays": {key: {"strings": 2}}}) for key in ("a", "b"))
    extra = Remedy("Use tracker 1", {"subarrays": {"b": {"tracker": 1}}})
    (found,) = in_order([finding(one), finding(extra, other)])
    assert found.remedies == (Remedy("Use 2", {"subarrays": {"a": {"strings": 2}, "b": {"strings": 2}}}),)
    (found,) = in_order([finding(one), finding()])
    assert found.remedies == ()


def test_two_inverters_with_the_same_finding_and_different_strings_have_a_result(hill_weather):
    """Four strings of one sub-array on a tracker, and two sub-arrays of two: the current is too high on both, in the same words."""
    document = copy.deepcopy(SOUTH_ROOF)
    document["inverters"] = {"one": {"model": "hexley-20"}, "two": {"model": "hexley-20"}}
    of = {"surface": "barn", "module": "veltrane-430", "modules_per_string": 10}
    document["subarrays"] = {"a": {**of, "strings": 4, "inverter": "one"}} | {
        k: {**of, "strings": 2, "inverter": "two"} for k in ("b", "c")
    }
    checks = find_checks(simulate(Design.read(document), hill_weather, PARTS))
    assert {"tracker-current", "short-circuit-current"} & {check.rule for check in checks}
