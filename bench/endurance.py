"""What a server bears: kills in the midst of edits, a day of edits of large plants, a first page of a hundred projects.

`python -m bench.endurance [kills|memory|first]` starts servers of its own on folders of their own and prints what it measured.
"""

import http.cookiejar
import json
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

import numpy as np

from noontide.core.calendar import Calendar
from noontide.core.weather import Place, as_text, fill_missing_columns

EDITS, KILLS = 1000, 20
MEMORY_LIMIT_MB = 700


class Server:
    """A server on a data folder, started, killed and started again; the calls carry its token."""

    def __init__(self, data: Path, demo: bool = True):
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.data, self.command = data, "demo" if demo else "serve"
        self.cookies = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.cookies))
        self.start()

    def start(self) -> None:
        command = [sys.executable, "-m", "noontide.cli", self.command, "--port", str(self.port), "--data", str(self.data)]
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        for _ in range(600):
            try:
                self.opener.open(f"http://localhost:{self.port}/", timeout=5).read()
                return
            except OSError:
                time.sleep(0.1)
        raise RuntimeError("the server did not start within 60 s")

    def kill(self) -> None:
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def call(self, path: str, body: Any = None, method: str | None = None, kind: str = "application/json", **headers: str) -> Any:
        data = body if isinstance(body, bytes) or body is None else json.dumps(body).encode()
        token = next((c.value or "" for c in self.cookies if c.name == "csrftoken"), "")
        request = urllib.request.Request(f"http://localhost:{self.port}{path}", data, method=method)
        for name, value in {"Content-Type": kind, "X-CSRFToken": token, **headers}.items():
            request.add_header(name.replace("_", "-"), value)
        with self.opener.open(request, timeout=120) as answer:
            return json.load(answer)

    def edit(self, scheme: dict[str, Any], patch: dict[str, Any]) -> dict[str, Any]:
        return self.call(
            f"/api/schemes/{scheme['id']}", patch, "PATCH", "application/merge-patch+json", If_Match=f'"{scheme["revision"]}"'
        )

    def resident(self) -> float:
        """Memory in use [MB]."""
        return self._memory("VmRSS")

    def highest(self) -> float:
        """Highest memory in use so far [MB]."""
        return self._memory("VmHWM")

    def _memory(self, field: str) -> float:
        for line in Path(f"/proc/{self.process.pid}/status").read_text().splitlines():
            if line.startswith(field):
                return int(line.split()[1]) / 1024
        return float("nan")


def first_scheme(server: Server, project: str = "Aldermoor Dairy") -> dict[str, Any]:
    found = next(p for p in server.call("/api/projects") if p["name"] == project)
    return server.call(f"/api/schemes/{found['pinned']}")


def many_planes(document: dict[str, Any], count: int) -> dict[str, Any]:
    roof, strings, inverter = (next(iter(document[kind].values())) for kind in ("surfaces", "subarrays", "inverters"))
    return document | {
        "surfaces": {f"s{i}": roof | {"tilt": 5 + i % 40, "azimuth": 90 + i * 13 % 180} for i in range(count)},
        "inverters": {f"i{i}": inverter for i in range((count + 1) // 2)},
        "subarrays": {
            f"a{i}": strings | {"surface": f"s{i}", "inverter": f"i{i // 2}", "tracker": i % 2 + 1} for i in range(count)
        },
    }


def kills() -> None:
    """Kill the server at random moments of a thousand edits; every edit that was answered must be there, whole."""
    rng = np.random.default_rng(9)
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        scheme = first_scheme(server)
        at = set(rng.choice(np.arange(1, EDITS), KILLS, replace=False).tolist())
        lost = unknown = 0
        surface = next(iter(scheme["document"]["surfaces"]))
        for i in range(EDITS):
            tilt = round(float(rng.uniform(0, 60)), 4)
            patch = {"surfaces": {surface: {"tilt": tilt}}}
            if i in at:
                # The kill falls into the time that an edit takes.
                killer = subprocess.Popen(["sh", "-c", f"sleep {rng.uniform(0, 0.06):.4f}; kill -9 {server.process.pid}"])
                try:
                    scheme, was_answered = server.edit(scheme, patch), True
                except (OSError, urllib.error.URLError, json.JSONDecodeError):
                    was_answered = False
                killer.wait()
                server.process.wait()
                server.start()
                found = server.call(f"/api/schemes/{scheme['id']}")
                kept = found["document"]["surfaces"][surface]["tilt"]
                if was_answered:
                    lost += found["revision"] != scheme["revision"] or kept != tilt
                else:
                    unknown += 1
                    lost += found["revision"] < scheme["revision"]
                scheme = found
            else:
                scheme = server.edit(scheme, patch)
        server.kill()
    print(f"kills: {KILLS} in {EDITS} edits, {lost} answered edits lost, {unknown} cut off before their answer")


def memory() -> None:
    """Sixty edits of forty planes, then forty edits of one roof in a year of minutes."""
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        scheme = first_scheme(server)
        started = server.resident()
        made = server.call("/api/projects", {"name": "Forty", "document": many_planes(scheme["document"], 40)})
        many = server.call(f"/api/schemes/{made['pinned']}")
        for i in range(60):
            many = server.edit(many, {"surfaces": {f"s{i % 40}": {"tilt": 7.3 + i / 3}}})
            server.call(f"/api/schemes/{many['id']}")
        print(
            f"memory: {started:.0f} MB at the start, {server.resident():.0f} MB after 60 edits of 40 planes, highest {server.highest():.0f} MB"
        )
        server.kill()
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        scheme = first_scheme(server)
        calendar = Calendar(2025, 1, 1.0)
        hour = np.arange(calendar.intervals) / 60 % 24
        ghi = np.round(np.maximum(0, 700 * np.sin((hour - 6) / 12 * np.pi)), 1)
        columns = {"ghi": ghi, "temperature": np.full(ghi.size, 15.0)}
        text = as_text(fill_missing_columns(calendar, Place(43.62, 11.31, 412.0), columns, title="Minutes"), "csv").encode()
        boundary = b"----noontide"
        body = (
            b"--" + boundary + b'\r\nContent-Disposition: form-data; name="file"; filename="minutes.csv"\r\n'
            b"Content-Type: text/csv\r\n\r\n" + text + b"\r\n--" + boundary + b"--\r\n"
        )
        year = server.call("/api/weather", body, "POST", f"multipart/form-data; boundary={boundary.decode()}")
        read = server.highest()
        scheme = server.edit(scheme, {"weather": {"digest": year["digest"], "title": "Minutes"}})
        surface = next(iter(scheme["document"]["surfaces"]))
        for i in range(40):
            scheme = server.edit(scheme, {"surfaces": {surface: {"tilt": 10 + i / 2}}})
            while (scheme := server.call(f"/api/schemes/{scheme['id']}"))["evaluation"]["state"] == "pending":
                time.sleep(0.2)
        print(
            f"memory: {read:.0f} MB at most while a year of minutes ({len(text) / 1e6:.0f} MB) was read, {server.resident():.0f} MB after 40 edits of it,"
            f" highest {server.highest():.0f} MB; the limit is {MEMORY_LIMIT_MB} MB"
        )
        server.kill()


def first() -> None:
    """The first page's list of a hundred projects, right after a restart."""
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        document = first_scheme(server)["document"]
        for i in range(97):
            changed = json.loads(json.dumps(document))
            next(iter(changed["surfaces"].values()))["tilt"] = 5 + i / 4
            made = server.call("/api/projects", {"name": f"Project {i}", "document": changed})
            while server.call(f"/api/schemes/{made['pinned']}")["evaluation"]["state"] == "pending":
                time.sleep(0.05)
        server.kill()
        server.start()
        times = []
        for _ in range(5):
            begun = time.perf_counter()
            count = len(server.call("/api/projects"))
            times.append(time.perf_counter() - begun)
        print(f"first page: {count} projects in {times[0] * 1000:.0f} ms after a restart, then {min(times[1:]) * 1000:.0f} ms")
        server.kill()


if __name__ == "__main__":
    for part in sys.argv[1:] or ["first", "memory", "kills"]:
        {"first": first, "memory": memory, "kills": kills}[part]()
