"""Takes the pictures of this folder from a running application with the demo loaded: `make screenshots`."""

import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

HERE = Path(__file__).resolve().parent
ARGUMENTS = ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--ignore-gpu-blocklist"]


def settle(page: Page, path: Path) -> None:
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(700)
    page.mouse.move(5, 795)
    page.screenshot(path=path)


def main(address: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        for theme in ("light", "dark"):
            page = browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme=theme, base_url=address)
            page.goto("/")
            if theme == "light":
                settle(page, HERE / "first-page.png")
            page.get_by_role("link", name="Open Aldermoor Dairy").click()
            page.get_by_role("navigation", name="Schemes").get_by_role("link").nth(1).click()
            for bench in ("Site", "Weather", "Surfaces", "Circuits", "Losses") if theme == "light" else ("Surfaces", "Losses"):
                page.get_by_role("navigation", name="The Brief").get_by_role("link", name=bench, exact=True).click()
                settle(page, HERE / (f"{bench.lower()}.png" if theme == "light" else f"{bench.lower()}-dark.png"))
            if theme == "dark":
                continue
            page.get_by_role("button", name="Cell temperature: show its working").click()
            settle(page, HERE / "working.png")
            page.keyboard.press("Escape")
            page.get_by_role("button", name="Module on inverter 1").click()
            settle(page, HERE / "parts.png")
            page.keyboard.press("Escape")
            page.get_by_role("link", name="Plot hourly values").click()
            settle(page, HERE / "hours.png")
            page.get_by_title("All values at this hour").click()
            settle(page, HERE / "moment.png")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://localhost:8017")
