"""Frames a second of the Scene bench while its sheet is turned: a roof with 500 modules among 300 faces.

Run the application with the demo first, then `python -m bench.frames http://localhost:8017`. The browser draws in software.
"""

import itertools
import statistics
import sys

from playwright.sync_api import sync_playwright

from bench.shade import ShadeBench
from bench.speed import PARTS, PLACE, WEATHER

MODULES, FACES, SECONDS = 500, 300, 4.0
DRAWING = ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--ignore-gpu-blocklist"]
TURNING = """(seconds) => new Promise((done) => {
  const box = document.querySelector('.sheet').getBoundingClientRect()
  const at = (x, y) => ({ clientX: box.left + x, clientY: box.top + y, bubbles: true, pointerId: 1, button: 0, isPrimary: true })
  const sheet = document.querySelector('.sheet')
  sheet.setPointerCapture = () => {}
  sheet.dispatchEvent(new PointerEvent('pointerdown', at(30, 30)))
  const begun = performance.now()
  const times = []
  const step = (now) => {
    times.push(now)
    sheet.dispatchEvent(new PointerEvent('pointermove', at(30 + ((now - begun) / 6) % 600, 40)))
    if (now - begun < seconds * 1000) requestAnimationFrame(step)
    else { sheet.dispatchEvent(new PointerEvent('pointerup', at(30, 40))); done(times) }
  }
  requestAnimationFrame(step)
})"""


def main() -> None:
    address = sys.argv[1] if len(sys.argv) > 1 else "http://localhost:8017"
    roof = ShadeBench(MODULES, FACES, WEATHER, PARTS, PLACE.latitude, PLACE.longitude)
    document = roof.design().model_dump(mode="json", exclude_unset=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=DRAWING)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)
        page.wait_for_load_state("networkidle")
        token = next((c["value"] for c in page.context.cookies() if c["name"] == "csrftoken"), "")
        headers = {"X-CSRFToken": token, "Referer": address}
        project = page.request.post(f"{address}/api/projects", data={"name": "Frames", "document": document}, headers=headers)
        if not project.ok:
            raise SystemExit(f"The project was refused ({project.status}): {project.text()[:300]}")
        body = project.json()
        page.goto(f"{address}/projects/{body['id']}/{body['schemes'][0]['id']}/scene")
        page.locator(".sheet canvas").wait_for()
        page.wait_for_load_state("networkidle")
        page.wait_for_timeout(3000)
        times = page.evaluate(TURNING, SECONDS)
        page.request.delete(f"{address}/api/projects/{body['id']}", headers=headers)
        browser.close()
    steps = sorted(b - a for a, b in itertools.pairwise(times))
    print(
        f"{len(steps) / (times[-1] - times[0]) * 1000:.0f} frames a second; a frame takes {statistics.median(steps):.0f} ms at the median, "
        f"{steps[int(len(steps) * 0.95)]:.0f} ms at the 95th percentile"
    )


if __name__ == "__main__":
    main()
