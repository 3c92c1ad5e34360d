import pytest

from noontide.parts import built_in_parts

PARTS = built_in_parts()
HERE = {"latitude": 51.31, "longitude": -2.36, "place": "Weir"}


def ask(api, **given):
    return api.send("post", "/api/estimate", HERE | given)


@pytest.mark.parametrize(("start", "amount", "modules"), [("power", 8.6, 20), ("modules", 12, 12), ("area", 40, 20)])
def test_an_estimate_starts_from_what_one_has(api, start, amount, modules):
    body = ask(api, start=start, amount=amount).json()
    assert (body["modules"], body["leftover"]) == (modules, 0)
    assert body["evaluation"]["headline"]["modules"] == modules
    assert len(body["year"]) == 365 * 24
    assert body["against_best"] <= 0


def test_no_inverter_of_another_age_is_proposed_but_one_can_be_chosen(api):
    for amount in (4.1, 4.3, 4.5):
        proposed = ask(api, start="power", amount=amount, module="veltrane-430").json()["inverter"]
        assert PARTS.inverters[proposed].year > 2016, amount
    chosen = ask(api, start="power", amount=4.2, module="thornby-250", inverter="corvane-4x").json()
    assert chosen["inverter"] == "corvane-4x"


def test_a_demand_is_met_within_half_a_module(api):
    body = ask(api, start="demand", amount=6000).json()
    assert body["evaluation"]["headline"]["energy"] == pytest.approx(6000, abs=450)


def test_an_estimate_goes_on_as_a_project_with_the_same_figures(api):
    body = ask(api, start="power", amount=8.6).json()
    project = api.send("post", "/api/projects", {"name": "Weir", "document": body["document"]}).json()
    scheme = api.get(f"/api/schemes/{project['pinned']}").json()
    assert scheme["evaluation"]["headline"] == body["evaluation"]["headline"]


@pytest.mark.parametrize(
    ("given", "pointer"),
    [
        ({"start": "area", "amount": 1}, "/amount"),
        ({"start": "modules", "amount": 1}, "/amount"),
        ({"amount": 5, "module": "none"}, "/module"),
        ({"amount": 5, "inverter": "none"}, "/inverter"),
        ({"amount": 5, "tilt": 100}, "/tilt"),
        ({"amount": -5}, "/amount"),
    ],
)
def test_what_cannot_be_estimated_is_told_at_its_blank(api, given, pointer):
    answer = ask(api, **given)
    assert answer.status_code == 422
    assert answer.json()["errors"][0]["pointer"] == pointer


def test_a_tracker_is_estimated_and_beats_every_fixed_plane(api):
    asked = {"amount": 50, "latitude": 37.0, "longitude": -4.0}
    fixed, turning = (
        api.send("post", "/api/estimate", asked | {"mounting": mounting}).json() for mounting in ("open rack", "tracker")
    )
    (surface,) = turning["document"]["surfaces"].values()
    assert surface["tracking"] == {} and surface["mounting"] == "open rack" and "tilt" not in surface
    assert turning["against_best"] > 0.05 > fixed["against_best"]
    yields = [found["evaluation"]["headline"]["specific_yield"] for found in (fixed, turning)]
    assert yields[1] > 1.05 * yields[0]


def test_use_and_price_give_the_money_and_its_months(api):
    body = ask(api, amount=6, use=4500, use_shape="household", price=0.32, export_price=0.07, work=500).json()
    figures = {f["key"]: f["value"] for f in body["evaluation"]["figures"]}
    assert figures["demand_energy"] == pytest.approx(4500)
    assert figures["saving"] == pytest.approx(sum(m["value"] for m in body["months"]), abs=0.01)
    assert sum(m["energy"] for m in body["months"]) == pytest.approx(body["evaluation"]["headline"]["energy"])
    assert figures["purchase"] > 500 * body["power"]
    bare = ask(api, amount=6).json()
    assert all(m["value"] is None for m in bare["months"]) and "demand" not in bare["document"]


@pytest.mark.parametrize("share", [25, 40, 75])
def test_a_share_of_the_bill_is_covered_by_the_fewest_modules(api, share):
    asked = {"start": "bill", "amount": share, "use": 4500, "price": 0.32, "export_price": 0.1}
    body = ask(api, **asked).json()
    figures = {f["key"]: f["value"] for f in body["evaluation"]["figures"]}
    # What is left over for string lengths, and the inverter of that size, move it a little.
    assert 100 * figures["bill_share"] == pytest.approx(share, abs=6)


def test_a_share_of_the_use_is_produced_over_the_year(api):
    body = ask(api, start="use", amount=80, use=9000).json()
    assert body["evaluation"]["headline"]["energy"] == pytest.approx(7200, rel=0.06)


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        ({"start": "bill", "amount": 50}, "how much electricity"),
        ({"start": "bill", "amount": 99, "use": 4000, "export_price": 0}, "cannot be saved"),
        ({"start": "bill", "amount": 50, "use": 4000, "price": 0}, "nothing to save"),
    ],
)
def test_a_share_that_cannot_be_covered_is_refused_in_words(api, asked, words):
    answer = ask(api, **asked)
    assert answer.status_code == 422 and words in answer.json()["detail"] + answer.json()["title"]
