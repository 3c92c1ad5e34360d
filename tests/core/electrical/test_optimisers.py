"""Optimisers: their losses by hand, no coupling between modules, limits that are said."""

import numpy as np
import pytest
from numpy.testing import assert_allclose

from noontide.core.checks import find_checks
from noontide.core.costs.bill import bill_of
from noontide.core.design import Design, merge_patch
from noontide.core.electrical.loss_polynomial import fit_weighted
from noontide.core.electrical.optimisers import string_voltage
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts
from tests.conftest import SOUTH_ROOF, simulated_weather

PARTS = built_in_parts()
WEATHER = simulated_weather(43.62, 11.31, 412, 1)
WITH = {"subarrays": {"south": {"optimiser": "hexley-op600"}}}


def year_of(*changes):
    document = SOUTH_ROOF
    for change in changes:
        document = merge_patch(document, change)
    return simulate(Design.read(document), WEATHER, PARTS)


def test_each_module_is_at_its_maximum_and_the_loss_is_the_polynomials():
    results = year_of(WITH)
    subarray, optimiser = results.subarray(0), PARTS.optimisers["hexley-op600"]
    # All modules alike: before the optimisers the strings give what 36 modules at their own maximum give.
    module = results.modules[0]
    before = module.maximum * module.rating * 36 * 0.99  # light-induced degradation; no mismatch
    out = subarray.point.power
    k0, k1, k2 = fit_weighted(98.7, 99.3).coefficients[0]
    p = out / (36 * optimiser.power)
    bright = p > 0.01
    assert_allclose(before[bright], (out * (1 + k1) + 36 * optimiser.power * (k0 + k2 * p**2))[bright], rtol=1e-9)
    assert results.cascade["mismatch"].energy == 0 > results.cascade["optimisers"].energy
    assert results.cascade.residual < 1e-9


def test_the_string_is_held_at_one_voltage_and_gives_the_current_that_makes_its_power():
    results = year_of(WITH)
    point, held = results.subarray(0).point, string_voltage(PARTS.inverters["hexley-20"])
    giving = point.power > 0
    assert set(np.unique(point.voltage[giving])) == {held} == {(480 + 850) / 2}
    assert results.cascade["window"].energy == 0


def test_strings_of_other_direction_lose_nothing_to_one_another():
    two = {
        "surfaces": {"east": {"tilt": 40, "azimuth": 90}},
        "subarrays": {"east": {"surface": "east", "module": "veltrane-430", "modules_per_string": 12, "inverter": "main"}},
    }
    plain = year_of(two)
    optimised = year_of(two, WITH, {"subarrays": {"east": {"optimiser": "hexley-op600"}}})
    assert plain.cascade["parallel"].energy < -1 and optimised.cascade["parallel"].energy == 0
    assert {c.rule for c in find_checks(plain)} >= {"dissimilar-lengths"}
    assert not {c.rule for c in find_checks(optimised)} & {"dissimilar-lengths", "dissimilar-orientations", "mixed-optimisers"}
    mixed = {c.rule: c for c in find_checks(year_of(two, WITH))}["mixed-optimisers"]
    assert mixed.remedies[0].patch["subarrays"]["east"] == {"optimiser": "hexley-op600"}


@pytest.mark.parametrize(
    ("change", "rule"),
    [
        ({"modules_per_string": 6}, "optimiser-string"), ({"modules_per_string": 30}, "optimiser-string"), ({"modules_per_string": 9}, "optimiser-voltage"),
        ({"modules_per_string": 22}, "optimiser-power"), ({"module": "quillon-tf470"}, "optimiser-input"), ({"optimiser": "hexley-op450", "module": "thornby-620"}, "optimiser-module"),
    ],
)  # fmt: skip
def test_every_limit_is_checked(change, rule):
    assert rule in {c.rule for c in find_checks(year_of(WITH, {"subarrays": {"south": change}}))}


def test_the_bill_has_one_optimiser_a_module():
    line = next(line for line in bill_of(year_of(WITH), PARTS).lines if line.name == "OP 600")
    assert (line.count, line.price) == (36, 36 * 54)
