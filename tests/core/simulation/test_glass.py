"""The choice of the datasheet's own incidence table, against the models and the glass that it stands for."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from pydantic import ValidationError

from noontide.core.checks import find_checks
from noontide.core.design import Design, merge_patch
from noontide.core.electrical import Catalogue, Module
from noontide.core.irradiance import martin_ruiz
from noontide.core.simulation import simulate
from noontide.parts import built_in_parts
from tests.conftest import simulated_weather

PARTS = built_in_parts()
WEATHER = simulated_weather(43.62, 11.31, 412, 1)
BARE = PARTS.modules["quillon-410"]
ANGLES = np.arange(2.0, 90.0, 2.0)


def with_table(table, name="measured") -> Module:
    return BARE.model_copy(update={"id": name, "incidence": tuple(map(tuple, table))})


def year(modules: list[Module], incidence: str):
    """A year of one string of each module, all on one steep wall where the glass matters."""
    scheme = Design.read(
        {
            "site": {"latitude": 43.62, "longitude": 11.31},
            "surfaces": {"wall": {"tilt": 80, "azimuth": 200}},
            "inverters": {"i": {"model": "hexley-10"}},
            "subarrays": {
                f"a{k}": {"surface": "wall", "module": m.id, "modules_per_string": 15, "inverter": "i", "tracker": k + 1}
                for k, m in enumerate(modules)
            },
            "models": {"incidence": incidence},
        }
    )
    return simulate(scheme, WEATHER, Catalogue(modules={m.id: m for m in modules}, inverters=PARTS.inverters))


def test_a_table_taken_from_a_model_gives_the_year_of_that_model():
    """The model's own values every two degrees: what is left is the straight line between them."""
    sampled = np.stack([ANGLES, martin_ruiz(np.cos(np.radians(ANGLES)))], axis=1)
    table, model = year([with_table(sampled)], "datasheet"), year([BARE], "martin-ruiz")
    assert table.cascade["reflection"].energy == pytest.approx(model.cascade["reflection"].energy, rel=5e-3)
    assert table.annual.energy == pytest.approx(model.annual.energy, rel=2e-4)


def test_a_table_of_ones_loses_nothing():
    clear = year([with_table([(30, 1), (60, 1), (90, 1)])], "datasheet")
    assert clear.cascade["reflection"].share == pytest.approx(0, abs=1e-5)


def test_a_module_without_a_table_has_the_loss_of_its_glass_and_a_check_that_says_so():
    both = year([BARE], "datasheet"), year([BARE], "fresnel")
    assert_allclose(both[0].delivered, both[1].delivered)
    (check,) = [c for c in find_checks(both[0]) if c.rule == "no-incidence-table"]
    mended = Design.read(merge_patch(both[0].design.as_kept(), check.remedies[0].patch))
    assert mended.models.incidence == "fresnel"
    assert not [c for c in find_checks(both[1]) if c.rule == "no-incidence-table"]


def test_modules_of_two_glasses_on_one_surface_get_each_their_own_light():
    dim = with_table([(20, 0.9), (60, 0.7), (80, 0.3)], "dim")
    results = year([BARE, dim], "datasheet")
    of_bare, of_dim = (light.mean for light in results.effective)
    assert np.all(of_dim <= of_bare)
    assert of_dim.sum() < 0.95 * of_bare.sum()


def test_where_the_model_asks_nothing_of_the_glass_modules_share_their_light():
    """A coated and an uncoated front: two planes to Fresnel, one to Martin and Ruiz."""
    uncoated = BARE.model_copy(update={"id": "uncoated", "coated_glass": False})
    different = {model: year([BARE, uncoated], model).effective for model in ("fresnel", "martin-ruiz")}
    assert different["fresnel"][0] is not different["fresnel"][1]
    assert different["martin-ruiz"][0] is different["martin-ruiz"][1]


@pytest.mark.parametrize(
    ("table", "told"),
    [
        pytest.param([(30, 1), (60, 0.9), (50, 0.8)], "50° comes after 60°", id="angles that fall"),
        pytest.param([(30, 1), (60, 0.9)], "at least 3 items", id="two points"),
        pytest.param([(30, 1), (60, 1.4), (80, 0.5)], "less than or equal to 1.1", id="more light than came"),
    ],
)
def test_a_table_that_cannot_be_is_refused(table, told):
    with pytest.raises(ValidationError, match=told):
        Module.model_validate(BARE.model_dump() | {"incidence": table})


@pytest.mark.parametrize("incidence", ["fresnel", "martin-ruiz", "ashrae"])
def test_glass_never_gains_and_no_diffuse_light_is_negative(incidence):
    """Under the darkest bands along the horizon that the model has, at any tilt, in every hour."""
    for latitude, tilt, azimuth in ((43.62, 60, 0), (-33.0, 85, 180), (65.0, 90, 90), (5.0, 40, 270)):
        weather = simulated_weather(latitude, 11.31, 300, 1)
        scheme = Design.read(
            {
                "site": {"latitude": latitude, "longitude": 11.31},
                "surfaces": {"s": {"tilt": tilt, "azimuth": azimuth}}, "inverters": {"i": {"model": "hexley-10"}},
                "subarrays": {"a": {"surface": "s", "module": BARE.id, "modules_per_string": 15, "inverter": "i"}},
                "models": {"incidence": incidence}, "losses": {"soiling": 0},
            }
        )  # fmt: skip
        results = simulate(scheme, weather, PARTS)
        effective, plane = results.effective[0], results.planes[0]
        assert effective.diffuse.min() >= 0
        assert (effective.mean - plane.poa).max() <= 1e-9
