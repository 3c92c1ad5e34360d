"""The string finder through HTTP: proposals that hold, patches that give what they promise, words for what does not go."""

import pytest

ASKED = {"surface": "barn", "module": "veltrane-430", "number": 36}


@pytest.fixture
def find(api, scheme):
    def ask(**more):
        return api.send("post", f"/api/schemes/{scheme.pk}/find-strings", ASKED | more)

    return ask


def test_proposals_come_with_their_own_year_and_best_yield_first(find):
    found = find().json()
    energies = [line["energy"] for line in found["proposals"]]
    assert energies == sorted(energies, reverse=True) and energies[0] > 15_000
    for line in found["proposals"]:
        assert line["modules"] == 36
        assert sum(s["count"] * t * n * length for s in line["shares"] for t, n, length in s["loads"]) == 36
        assert line["cold_voc"] <= line["maximum_voltage"]
        assert line["hot_vmp"] >= line["mppt_minimum"] - 1e-6
    assert all(line["reasons"] for line in found["rejected"])


def test_applying_a_proposal_gives_the_energy_that_it_promised(api, scheme, find):
    found = find(inverter="corvane-15t").json()
    best = found["proposals"][0]
    path = f"/api/schemes/{scheme.pk}"
    edited = api.send("patch", path, best["patch"], found["revision"]).json()
    assert edited["evaluation"]["headline"]["energy"] == pytest.approx(best["energy"], rel=1e-9)
    assert edited["evaluation"]["headline"]["dc_ac_ratio"] == pytest.approx(best["dc_ac_ratio"])
    assert "main" not in edited["document"]["inverters"] and "south" not in edited["document"]["subarrays"]
    assert (
        api.send("post", f"{path}/undo", None, edited["revision"]).json()["document"]["inverters"]["main"]["model"] == "hexley-20"
    )


def test_strings_of_other_surfaces_stay_as_they_are(api, scheme, find):
    path = f"/api/schemes/{scheme.pk}"
    more = {
        "surfaces": {"shed": {"tilt": 5}},
        "subarrays": {"other": {"surface": "shed", "module": "veltrane-430", "modules_per_string": 12, "inverter": "main", "tracker": 2}},
    }  # fmt: skip
    before = api.get(path).json()["revision"]
    api.send("patch", path, more, before)
    patch = find().json()["proposals"][0]["patch"]
    assert "main" not in patch["inverters"] and patch["subarrays"]["south"] is None
    assert not {"main", "other", "south"} & {key for key, value in patch["inverters"].items() if value}


def test_what_does_not_go_is_explained_with_what_does(find):
    found = find(number=5, inverter="hexley-20", lowest_ratio=0.05).json()
    assert found["proposals"] == []
    assert "MPP window starts at" in found["rejected"][0]["reasons"][0]
    assert found["rejected"][0]["nearest"][0] == 7


def test_a_wish_for_the_ratio_and_the_phases_is_kept(find):
    found = find(number=12, phases=1, lowest_ratio=1.0, highest_ratio=1.3).json()
    assert all(1.0 <= line["dc_ac_ratio"] <= 1.3 for line in found["proposals"])
    assert any("phases" in line["reasons"][0] for line in found["rejected"])


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"surface": "roof"}, "has no surface 'roof'"),
        ({"module": "nothing"}, "no 'nothing' among its modules"),
        ({"inverter": "nothing"}, "no 'nothing' among its inverters"),
        ({"number": 0}, "Enter 1 or more"),
        ({"lowest_ratio": 2, "highest_ratio": 1}, "above the highest"),
        ({"wish": 1}, "no value named"),
    ],
)
def test_a_wrong_wish_is_refused_in_words(find, more, words):
    answer = find(**more)
    assert answer.status_code == 422
    assert words in answer.content.decode()


def test_without_weather_there_is_nothing_to_find_for(api, project, scheme):
    path = f"/api/schemes/{scheme.pk}"
    api.send("patch", path, {"weather": None}, api.get(path).json()["revision"])
    answer = api.send("post", f"{path}/find-strings", ASKED)
    assert answer.status_code == 409 and "weather" in answer.json()["detail"]


def test_the_curve_of_a_tracker_at_a_moment(api, scheme):
    noon, night = 24 * 171 + 12, 24 * 171
    path = f"/api/schemes/{scheme.pk}/curve/south"
    found = api.get(f"{path}/{noon}").json()
    assert [m["modules"] for m in found["members"]] == [18] and found["mismatch"] == pytest.approx(0, abs=1e-9)
    assert found["lowest"] < found["maximum_voltage"] < found["highest"]
    currents = found["members"][0]["current"]
    assert currents == sorted(currents, reverse=True) and currents[-1] == pytest.approx(0, abs=1e-3)
    powers = [v * i for v, i in zip(found["voltage"], currents, strict=True)]
    assert max(powers) <= found["maximum_power"] * (1 + 1e-6)
    assert api.get(f"{path}/{night}").json()["maximum_power"] == 0
    assert api.get(f"{path}/99999").status_code == 422
    assert api.get(f"/api/schemes/{scheme.pk}/curve/north/{noon}").status_code == 404


def test_strings_of_two_directions_on_one_tracker_share_a_voltage(api, scheme):
    path = f"/api/schemes/{scheme.pk}"
    more = {
        "surfaces": {"east": {"tilt": 30, "azimuth": 90}},
        "subarrays": {"other": {"surface": "east", "module": "veltrane-430", "modules_per_string": 12, "inverter": "main"}},
    }
    api.send("patch", path, more, api.get(path).json()["revision"])
    found = api.get(f"{path}/curve/other/{24 * 171 + 9}").json()
    assert {m["surface"] for m in found["members"]} == {"barn", "east"}
    assert found["mismatch"] > 0.05


def test_string_fuses_are_said_with_the_voltages(api, scheme):
    path = f"/api/schemes/{scheme.pk}"
    assert api.get(f"{path}/voltages/south").json()["fuses"].startswith("No string fuses are needed")
    api.send("patch", path, {"subarrays": {"south": {"strings": 4}}}, api.get(path).json()["revision"])
    found = api.get(f"{path}/voltages/south").json()
    assert found["needs_fuses"] and "3 other strings can drive" in found["fuses"]


@pytest.mark.parametrize(
    ("need", "amount", "modules"),
    [("power", 15.48, 36), ("power", 15.5, 37), ("area", 36 * 1.722 * 1.134 + 0.01, 36), ("area", 71, 36)],
)
def test_a_power_or_an_area_becomes_a_number_of_modules(find, need, amount, modules):
    found = find(need=need, amount=amount, leave_over=3).json()
    assert found["number"] == modules
    best = found["proposals"][0]
    reached = best["modules"] * (0.43 if need == "power" else 1.722 * 1.134)
    assert best["short"] == pytest.approx(amount - reached)


def test_a_yearly_demand_is_met_by_as_many_modules_as_it_takes(find):
    found = find(need="energy", amount=12_000, leave_over=2).json()
    best = max(found["proposals"], key=lambda line: line["energy"])
    assert abs(best["energy"] - 12_000) < 0.1 * 12_000
    assert best["short"] == pytest.approx(12_000 - best["energy"])


def test_a_share_of_the_demand_is_its_energy(api, scheme, find):
    assert find(need="demand", amount=80).status_code == 409
    source = {"source": {"name": "House", "yearly": {"energy": 15_000}}}
    assert api.send("post", f"/api/schemes/{scheme.pk}/acts/add-source", source, revision=1).status_code == 200
    by_demand, by_energy = find(need="demand", amount=80).json(), find(need="energy", amount=12_000).json()
    assert by_demand["amount"] == pytest.approx(12_000) and by_demand["number"] == by_energy["number"]
    assert (
        by_demand["battery"].startswith(("About", "None"))
        and find(need="energy", amount=12_000, first=True).json()["battery"] == ""
    )
    assert [p["short"] for p in by_demand["proposals"]] == pytest.approx([p["short"] for p in by_energy["proposals"]], abs=1e-3)


def test_a_proposal_costs_what_its_modules_and_inverters_cost(find):
    line = find(inverter="corvane-15t").json()["proposals"][0]
    assert line["price"] == 36 * 67 + line["count"] * 1620
    assert line["price_a_kwh"] == pytest.approx(line["price"] / line["energy"])


def test_a_need_without_an_amount_is_refused(find):
    assert find(need="power").status_code == 422


def test_the_first_rows_are_a_few_of_all(find):
    first, every = find(first=True).json(), find().json()
    assert first["is_partial"] and not every["is_partial"] and 1 <= len(first["proposals"]) <= 4
    ways = [(line["inverter"], line["count"], line["shares"]) for line in every["proposals"]]
    assert sum((line["inverter"], line["count"], line["shares"]) in ways for line in first["proposals"]) >= 1


def test_two_models_together_are_proposed_and_written_to_the_design(api, scheme, find):
    found = find(number=97, mix=True).json()
    both = next(line for line in found["proposals"] if len({share["inverter"] for share in line["shares"]}) == 2)
    assert sum(s["count"] * t * n * length for s in both["shares"] for t, n, length in s["loads"]) == 97
    edited = api.send("patch", f"/api/schemes/{scheme.pk}", both["patch"], found["revision"]).json()
    assert {unit["model"] for unit in edited["document"]["inverters"].values()} == {share["inverter"] for share in both["shares"]}
    assert edited["evaluation"]["headline"]["energy"] == pytest.approx(both["energy"], rel=1e-9)
