"""How a person reads numbers, units and dates: chosen once, the same on the screen and on paper."""

import pytest


def sheets_of(api, scheme, pages: str = "built,yield") -> str:
    return "".join(sheet["svg"] for sheet in api.get(f"/api/schemes/{scheme.pk}/report?pages={pages}").json()["sheets"])


def test_what_is_chosen_stays_and_stands_on_paper(api, scheme):
    before = api.get("/api/habits").json()
    assert (before["numbers"], before["units"], before["thousands"], before["decimal"], before["conversions"]) == (
        "",
        "metric",
        ",",
        ".",
        {},
    )
    chosen = api.send("put", "/api/habits", {"numbers": "1.234,5", "units": "imperial", "dates": "2026-12-01"}).json()
    assert (chosen["thousands"], chosen["decimal"], chosen["conversions"]["m"]["unit"]) == (".", ",", "ft")
    assert api.get("/api/habits").json() == chosen
    energy = api.get(f"/api/schemes/{scheme.pk}").json()["evaluation"]["headline"]["energy"]
    svg = sheets_of(api, scheme)
    assert f"{energy:,.0f} kWh".replace(",", ".") in svg and "Air [°F]" in svg
    made = scheme.head.created
    assert f"{made:%Y-%m-%d}" in svg


@pytest.mark.parametrize(
    "given",
    [
        {"units": "furlongs"},
        {"numbers": "1_234"},
        {"dates": "yesterday"},
        {"x": 1},
        {"currency": "euros"},
        {"currency": "E1"},
        [],
    ],
)
def test_what_there_is_not_is_refused_and_changes_nothing(api, scheme, given):
    before = api.get("/api/habits").json()
    assert api.send("put", "/api/habits", given).status_code == 422
    assert api.get("/api/habits").json() == before


def test_prices_of_a_new_project_are_in_ones_own_currency(api, roof_document):
    assert api.send("put", "/api/habits", {"currency": "chf"}).json()["currency"] == "CHF"
    began = api.send("post", "/api/projects", {"name": "Mill", "document": roof_document}).json()
    scheme = api.get(f"/api/schemes/{began['schemes'][0]['id']}").json()
    assert scheme["document"]["money"] == {"currency": "CHF"}
    # What is brought with prices keeps theirs.
    priced = roof_document | {"money": {"currency": "SEK"}}
    kept = api.send("post", "/api/projects", {"name": "Weir", "document": priced}).json()
    assert api.get(f"/api/schemes/{kept['schemes'][0]['id']}").json()["document"]["money"]["currency"] == "SEK"
    asked = {"amount": 5, "latitude": 43.6, "longitude": 11.3, "use": 4000}
    found = api.send("post", "/api/estimate", asked).json()
    assert found["currency"] == "CHF" and found["document"]["money"]["tariff"]["currency"] == "CHF"
