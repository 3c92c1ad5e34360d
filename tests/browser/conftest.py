"""A whole application for the journeys: its own data, the demo in it, the built front end, a real browser."""

import contextlib
import os
import re
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import pytest
from playwright.sync_api import Error as PlaywrightError
from playwright.sync_api import Page, expect, sync_playwright

from tests.browser.sketch import NAME as SKETCH
from tests.browser.sketch import begin_sketch

# Chromium without a window of its own opens a page in a sixth of the time.
CHROMIUM = next(filter(None, map(shutil.which, ("chromium-headless-shell", "chromium", "chromium-browser"))), "/usr/bin/chromium")
# WebGL in software; the page itself is put together without it, at three quarters of the time.
ARGUMENTS = ["--no-sandbox", "--enable-unsafe-swiftshader", "--disable-background-networking"]
expect.set_options(timeout=20_000)


def pytest_collection_modifyitems(items):
    for item in items:
        if "tests/browser" in str(item.path):
            item.add_marker(pytest.mark.browser)


class Application:
    """The server as a process that can be stopped and started again on the same port."""

    def __init__(self, data: Path):
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.data = data
        self.log = data.with_suffix(".log")
        self.process: subprocess.Popen | None = None

    @property
    def address(self) -> str:
        return f"http://localhost:{self.port}"

    def start(self) -> None:
        command = [sys.executable, "-m", "noontide.cli", "demo", "--port", str(self.port), "--data", str(self.data)]
        with self.log.open("ab") as log:
            self.process = subprocess.Popen(
                command, stdout=subprocess.DEVNULL, stderr=log, env=os.environ | {"NOONTIDE_DATA": str(self.data)}
            )
        for _ in range(900):
            try:
                urllib.request.urlopen(f"{self.address}/api/projects", timeout=5).read()
                return
            except OSError:
                time.sleep(0.1)
        raise RuntimeError("the server did not start within 90 s")

    def stop(self) -> None:
        if self.process:
            self.process.terminate()
            self.process.wait(timeout=20)


@pytest.fixture(scope="session")
def application(tmp_path_factory):
    running = Application(tmp_path_factory.mktemp("noontide"))
    running.start()
    yield running
    running.stop()


@pytest.fixture(scope="session")
def browser():
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        yield opened
        opened.close()


@pytest.fixture
def page(browser, application):
    context = browser.new_context(
        base_url=application.address,
        viewport={"width": 1280, "height": 800},
        device_scale_factor=0.5,
        color_scheme="light",
        reduced_motion="reduce",
    )
    context.grant_permissions(["clipboard-read", "clipboard-write"], origin=application.address)
    page = context.new_page()
    faults: list[str] = []
    page.on("pageerror", lambda error: faults.append(str(error)))
    yield page
    # What was typed last reaches the server before the page is gone, or the next journey would find half of it.
    with contextlib.suppress(AssertionError, PlaywrightError):
        expect(page.locator('aside[aria-label="Headline"] [aria-busy="true"]')).to_have_count(0, timeout=10_000)
    context.close()
    assert not faults, [*faults, application.log.read_text(encoding="utf-8", errors="replace")[-3000:]]


def open_project(page: Page, name: str, bench: str = "surfaces") -> None:
    """Go to a bench of a project's pinned scheme by its address."""
    projects = page.request.get("/api/projects").json()
    project = next(project for project in projects if project["name"] == name)
    page.goto(f"/projects/{project['id']}/{project['pinned']}/{bench}")
    expect(headline(page)).to_contain_text("Wh")


def open_sketch(page: Page, bench: str = "surfaces") -> None:
    """Go to a bench of an array alone: neither scene, use, battery nor money."""
    begin_sketch(page)
    open_project(page, SKETCH, bench)


def open_as_a_person_does(page: Page, name: str, bench: str) -> None:
    """Go to a project's pinned scheme from the first page."""
    page.goto("/")
    page.get_by_role("link", name=f"Open {name}").click()
    brief(page).get_by_role("link", name=bench.capitalize(), exact=True).click()
    expect(headline(page)).to_contain_text("Wh")


def landmark(page: Page, name: str):
    """A part of the workbench by its name; axe holds its role. Looking for roles counts the names of all that is on the page."""
    return page.locator(f'[aria-label="{name}"]')


def headline(page: Page):
    return landmark(page, "Headline").get_by_role("button", name="Annual energy")


def figure(page: Page, name: str):
    """A row of the Headline."""
    return landmark(page, "Headline").locator("dl div").filter(
        has=page.get_by_role("button", name=f"{name}: show its working")
    )  # fmt: skip


def brief(page: Page):
    return landmark(page, "The Brief")


def energy(page: Page) -> str:
    """The year's energy as the Headline shows it, once it is no longer on its way."""
    expect(landmark(page, "Headline").locator("[aria-busy=false]")).to_be_visible()
    return headline(page).inner_text().splitlines()[-1]


MOST_UNDOS = 60
LONGEST_UNDO = 60_000  # ms until the page has heard of the last one, on a machine that does much else
_UNDO = """async ({scheme, most}) => {
  const token = /(?:^|;\\s*)csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? ''
  let answer = await (await fetch(`/api/schemes/${scheme}`)).json()
  for (let n = 0; n < most && answer.can_undo; n++) {
    const headers = { 'If-Match': `"${answer.revision}"`, 'X-CSRFToken': token }
    const sent = await fetch(`/api/schemes/${scheme}/undo`, { method: 'POST', headers })
    answer = await (sent.ok ? sent : await fetch(`/api/schemes/${scheme}`)).json()
  }
  return { revision: answer.revision, can_undo: answer.can_undo }
}"""


def undo_all(page: Page) -> None:
    """Take back every edit of the open scheme, and wait until the page shows what it was."""
    page.keyboard.press("Escape")  # an open dialog would lie over the button
    energy(page)  # what was typed last has been sent
    scheme = int(re.search(r"/projects/\d+/(\d+)/", page.url)[1])
    undo = page.get_by_role("banner").get_by_role("button", name="Undo")
    # What the page was still about to send comes after what was taken back: once more, then.
    for patience in (LONGEST_UNDO // 4, LONGEST_UNDO):
        left = page.evaluate(_UNDO, {"scheme": scheme, "most": MOST_UNDOS})
        assert not left["can_undo"], f"After {MOST_UNDOS} undos there is still something to take back."
        try:
            expect(undo).to_be_disabled(timeout=patience)
            break
        except AssertionError:
            if patience == LONGEST_UNDO:
                raise
    energy(page)


def findings(page) -> list[str]:
    """Findings of axe of any weight, with the first place of each; in the dark theme too, which differs in nothing but its colours."""
    source = Path(__file__).resolve().parents[2] / "web/node_modules/axe-core/axe.min.js"
    page.evaluate(source.read_text(encoding="utf-8"))
    found = page.evaluate("axe.run(document, { resultTypes: ['violations'] })")["violations"]
    page.emulate_media(color_scheme="dark")
    try:
        expect(page.locator("html")).to_have_attribute("data-theme", "dark")
        colours = "axe.run(document, { resultTypes: ['violations'], runOnly: ['color-contrast', 'link-in-text-block'] })"
        found += page.evaluate(colours)["violations"]
    finally:
        page.emulate_media(color_scheme="light")
    return [f"{v['id']}: {v['nodes'][0]['html'][:160]} | {v['nodes'][0].get('failureSummary', '')[:300]}" for v in found]
