"""An edit in the browser until the new Headline stands there: 95th percentile over edits of the tilt.

Run the application with the demo first, then `python -m bench.browser http://localhost:8017`.
"""

import statistics
import sys
import time

from playwright.sync_api import sync_playwright

EDITS = 60


def main() -> None:
    address = sys.argv[1] if len(sys.argv) > 1 else "http://localhost:8017"
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address)
        page.get_by_role("link", name="Open Aldermoor Dairy").click()
        tilt = page.get_by_role("textbox", name="Tilt of Barn, south pitch")
        tilt.wait_for()
        page.wait_for_load_state("networkidle")
        # The time from the key to the changed figure is taken inside the page, from the key event to the mutation.
        page.evaluate(
            """() => {
              window.times = []; let begun = 0
              document.addEventListener('keydown', () => { begun = performance.now() }, true)
              const figure = document.querySelector('aside .figure')
              new MutationObserver(() => { if (begun) { window.times.push(performance.now() - begun); begun = 0 } })
                .observe(figure, { characterData: true, childList: true, subtree: true })
            }"""
        )
        tilt.focus()
        for i in range(EDITS):
            before = page.evaluate("window.times.length")
            # Two degrees at a time: the Headline has three digits, and a smaller step may not show.
            for _ in range(2):
                tilt.press("ArrowUp" if i < EDITS // 2 else "ArrowDown")
                time.sleep(0.08)
            page.wait_for_timeout(250)
            if page.evaluate("window.times.length") == before:
                continue
        times = sorted(page.evaluate("window.times"))
        tilt.press("Escape")
        page.wait_for_timeout(500)
        browser.close()
    print(
        f"{len(times)} edits shown: median {statistics.median(times):.0f} ms, 95th percentile {times[int(len(times) * 0.95)]:.0f} ms, longest {times[-1]:.0f} ms"
    )


if __name__ == "__main__":
    main()
