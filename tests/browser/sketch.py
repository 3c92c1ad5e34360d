"""A project that the demo has not: an array alone, with neither scene, use, battery nor money, for the journeys that begin at nothing."""

from playwright.sync_api import Page

NAME = "Gannet Shed"
ALIKE = "Saltwick Hut"
DOCUMENT = {
    "name": "Roof and wall",
    "surfaces": {
        "roof": {"name": "Hut, north pitch", "tilt": 40, "azimuth": 352, "mounting": "roof, ventilated", "area": 22},
        "wall": {"name": "Hut, north wall", "tilt": 90, "azimuth": 352, "mounting": "open rack", "area": 9},
    },
    "inverters": {"one": {"model": "hexley-5"}},
    "subarrays": {
        "roof-1": {"surface": "roof", "module": "quillon-410", "modules_per_string": 8, "inverter": "one", "tracker": 1},
        "wall-1": {"surface": "wall", "module": "quillon-410", "modules_per_string": 4, "inverter": "one", "tracker": 2},
    },
    "losses": {"soiling": 3, "unavailability": 2},
}


def csrf(page: Page) -> dict[str, str]:
    """Header of requests that a test sends by itself, as the page does with its own."""
    return {"X-CSRFToken": next(cookie["value"] for cookie in page.context.cookies() if cookie["name"] == "csrftoken")}


def begin_sketch(page: Page) -> None:
    """The sketch as a project of its own, on the site and in the weather of a project of the demo; once for each server."""
    if not page.context.cookies():
        page.goto("/")
    projects = page.request.get("/api/projects").json()
    if any(project["name"] == NAME for project in projects):
        return
    alike = next(project for project in projects if project["name"] == ALIKE)
    there = page.request.get(f"/api/schemes/{alike['pinned']}").json()["document"]
    document = DOCUMENT | {"site": there["site"], "weather": there["weather"]}
    made = page.request.post("/api/projects", data={"name": NAME, "document": document}, headers=csrf(page))
    assert made.status == 201, made.text()
