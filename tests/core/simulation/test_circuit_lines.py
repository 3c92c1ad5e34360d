"""Circuits as they can be told from a design alone, against the checks and the figures of its simulation."""

import pytest

from noontide.core.checks import find_checks
from noontide.core.design import Design
from noontide.core.simulation import simulate
from noontide.core.simulation.circuit_lines import circuit_lines
from noontide.parts import built_in_parts

PARTS = built_in_parts()
OWN = {
    "parts": {
        "modules": {"mine": {**PARTS.modules["veltrane-430"].model_dump(mode="json", exclude_unset=True), "id": "mine", "name": "Shed 1"}},
        "inverters": {"box": {**PARTS.inverters["hexley-20"].model_dump(mode="json", exclude_unset=True), "id": "box", "name": "Box 2"}},
    }
}  # fmt: skip


def design(strings: dict, inverters: dict | None = None, own: dict | None = None) -> Design:
    return Design.read(
        {
            "site": {"latitude": 43.62, "longitude": 11.31},
            "surfaces": {"roof": {"tilt": 30, "azimuth": 180}},
            "inverters": inverters or {"a": {"model": "hexley-20"}},
            "subarrays": {key: {"surface": "roof", "module": "veltrane-430", "inverter": "a", "modules_per_string": 12, **values} for key, values in strings.items()},
            **(own or {}),
        }
    )  # fmt: skip


def test_a_designs_own_datasheets_are_used_and_named():
    lines = circuit_lines(
        design({"s": {"module": "mine", "modules_per_string": 17, "strings": 2}}, {"a": {"model": "box"}}, OWN), PARTS
    )
    module, inverter = PARTS.modules["veltrane-430"], PARTS.inverters["hexley-20"]
    (one,) = lines.inverters["a"].inputs
    assert (lines.inverters["a"].title, lines.subarrays["s"].title) == (f"{inverter.maker} Box 2", f"{module.maker} Shed 1")
    assert lines.inverters["a"].dc_power == pytest.approx(34 * module.power / 1000)
    assert one.current == pytest.approx(2 * module.imp)


def test_an_unknown_part_leaves_the_others_told():
    lines = circuit_lines(
        design(
            {"s": {}, "t": {"module": "nobody's"}, "u": {"inverter": "b"}},
            {"a": {"model": "hexley-20"}, "b": {"model": "none"}, "c": {"model": "hexley-20"}},
        ),
        PARTS,
    )
    assert set(lines.subarrays) == {"s"}
    assert set(lines.inverters) == {"a", "c"}
    assert lines.inverters["c"].inputs == ()


@pytest.mark.parametrize("strings", range(1, 6))
@pytest.mark.parametrize("optimiser", [None, "tether"])
def test_what_is_over_is_what_the_check_finds(hill_weather, strings, optimiser):
    chosen = next(iter(PARTS.optimisers)) if optimiser else None
    scheme = design({"s": {"modules_per_string": 17, "strings": strings, "tracker": 2, "optimiser": chosen}})
    lines = circuit_lines(scheme, PARTS)
    results = simulate(scheme, hill_weather, PARTS)
    found = [check for check in find_checks(results) if check.rule == "tracker-current"]
    (one,) = lines.inverters["a"].inputs
    assert one.is_over == bool(found)
    assert lines.inverters["a"].dc_ac_ratio == pytest.approx(results.annual.dc_ac_ratio)
    if found:
        assert found[0].actual == pytest.approx(one.current)
