"""Takes the pictures of this folder from a running application with the demo loaded: `make screenshots`."""

import re
import shutil
import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

HERE = Path(__file__).resolve().parent
ARGUMENTS = ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--ignore-gpu-blocklist"]


def settle(page: Page, path: Path) -> None:
    page.wait_for_load_state("networkidle")
    # On a busy machine an answer may still be on its way.
    page.get_by_role("main").get_by_text("Reading the").wait_for(state="hidden", timeout=30_000)
    page.wait_for_timeout(700)
    page.mouse.move(5, 795)
    page.screenshot(path=path)


def found_strings(page: Page) -> None:
    """Ways to connect the modules of the scheme's first surface."""
    page.get_by_role("navigation", name="The Brief").get_by_role("link", name="Circuits", exact=True).click()
    page.get_by_role("link", name="Strings", exact=True).click()
    page.get_by_role("button", name="Find strings…").click()
    page.get_by_role("table", name="Ways to connect the modules").wait_for(timeout=30_000)


def circuits_page(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="The Brief").get_by_role("link", name="Circuits", exact=True).click()
    page.get_by_role("link", name=name, exact=True).click()
    page.wait_for_load_state("networkidle")


def trials(page: Page, view: str) -> None:
    """The study that ships, in one of its pictures."""
    page.get_by_role("navigation", name="The Brief").get_by_role("link", name="Trials", exact=True).click()
    page.get_by_role("main").get_by_text("The best is").wait_for()
    page.get_by_role("navigation", name="Pictures of the runs").get_by_role("button", name=view, exact=True).click()
    page.wait_for_load_state("networkidle")


def scene_of(page: Page, project: str, scheme: str, thing: str, interval: int) -> None:
    """The Scene bench of a scheme, with one thing picked and the shadows of an hour."""
    page.goto("/")
    page.get_by_role("link", name=f"Open {project}").click()
    page.get_by_role("navigation", name="Schemes").get_by_role("link", name=re.compile(scheme)).click()
    page.get_by_role("navigation", name="The Brief").get_by_role("link", name="Scene", exact=True).click()
    exact = page.locator("button.handle").get_by_text("without shade")
    exact.wait_for()
    page.goto(page.url.split("?")[0] + f"?thing={thing}&at={interval}")
    exact.wait_for()
    page.get_by_text("preview, exact result follows").wait_for(state="detached", timeout=60_000)


def main(address: str) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium-headless-shell") or shutil.which("chromium"), args=ARGUMENTS
        )
        for theme in ("light", "dark"):
            page = browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme=theme, base_url=address)
            page.goto("/")
            if theme == "light":
                settle(page, HERE / "first-page.png")
            page.get_by_role("link", name="Open Aldermoor Dairy").click()
            page.get_by_role("navigation", name="Schemes").get_by_role("link").nth(1).click()
            if theme == "light":
                for bench in ("Site", "Weather", "Sky", "Surfaces", "Circuits", "Demand", "Storage", "Losses", "Money"):
                    page.get_by_role("navigation", name="The Brief").get_by_role("link", name=bench, exact=True).click()
                    page.get_by_role("main").get_by_role("heading", name=bench, exact=True).first.wait_for()
                    settle(page, HERE / f"{bench.lower()}.png")
            if theme == "dark":
                circuits_page(page, "One-line diagram")
                settle(page, HERE / "one-line-dark.png")
                trials(page, "Table")
                settle(page, HERE / "trials-dark.png")
                continue
            trials(page, "Map")
            page.wait_for_url(re.compile("[?&]view=map"))
            page.goto(f"{page.url}&x=array&y=battery")
            settle(page, HERE / "trials.png")
            page.get_by_role("navigation", name="The Brief").get_by_role("link", name="The design on paper").click()
            page.get_by_role("figure", name="Page 1 of").wait_for()
            settle(page, HERE / "report.png")
            page.get_by_role("navigation", name="The Brief").get_by_role("link", name="Money", exact=True).click()
            here = page.url
            scene_of(page, "Aldermoor Dairy", "The dairy as it stands", "silo", 18 * 24 + 10)
            settle(page, HERE / "scene.png")
            page.goto(here)
            found_strings(page)
            page.get_by_text("Looking for more").wait_for(state="hidden")
            settle(page, HERE / "finder.png")
            page.keyboard.press("Escape")
            page.get_by_role("navigation", name="The Brief").get_by_role("link", name="Losses", exact=True).click()
            page.get_by_role("button", name="Cell temperature: show its working").click()
            settle(page, HERE / "working.png")
            page.keyboard.press("Escape")
            page.get_by_role("button", name="Module on inverter 1").click()
            settle(page, HERE / "parts.png")
            page.keyboard.press("Escape")
            page.get_by_role("link", name="Plot hourly values").click()
            settle(page, HERE / "hours.png")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://localhost:8017")
