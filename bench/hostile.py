"""Thousands of damaged files of every kind against a running server, while another person edits.

`python -m bench.hostile [FILES]` starts a server of its own and prints what it measured: answers by status, the longest, the memory of
the server with all its processes, and by how much an edit is delayed.
"""

import io
import json
import random
import struct
import sys
import tempfile
import threading
import time
import urllib.error
from collections import Counter
from collections.abc import Callable
from pathlib import Path

import ezdxf
import laspy
import numpy as np
import openpyxl
import pyarrow as pa
import pyarrow.parquet as pq
import rasterio
import trimesh
from rasterio.transform import from_origin

from bench.endurance import Server, first_scheme
from noontide.parts import built_in_parts

FILES, UPLOADERS, LONGEST, MOST_MEMORY, MOST_DELAY = 5000, 2, 20.0, 1024.0, 0.3
EDITS_APART, ALONE = 0.25, 100  # s; edits before the files
SETTLED = 20.0  # s after the start, in which a server makes ready what it needs


def _weather() -> bytes:
    return Path("docs/examples/aldermoor.csv").read_bytes()


def _rows() -> list[list[str | float]]:
    return [["time", "ghi", "temperature"]] + [[f"2026-01-01 {h:02}:00", 40.0 * h, 8.0 + h] for h in range(24)]


def _workbook() -> bytes:
    book, out = openpyxl.Workbook(), io.BytesIO()
    for row in _rows():
        book.active.append(row)
    book.save(out)
    return out.getvalue()


def _parquet() -> bytes:
    head, *rows = _rows()
    out = io.BytesIO()
    pq.write_table(pa.table({str(name): [row[k] for row in rows] for k, name in enumerate(head)}), out)
    return out.getvalue()


def _records() -> bytes:
    head, *rows = _rows()
    return json.dumps([dict(zip(map(str, head), row, strict=True)) for row in rows]).encode()


def _mesh(kind: str) -> bytes:
    made = trimesh.creation.box((8, 6, 4)).export(file_type=kind)
    return made if isinstance(made, bytes) else made.encode()


def _drawing() -> bytes:
    document, out = ezdxf.new(), io.StringIO()
    document.modelspace().add_lwpolyline([(0, 0), (10, 0), (10, 6), (0, 6)], close=True)
    document.modelspace().add_3dface([(0, 0, 3), (10, 0, 3), (10, 3, 6), (0, 3, 6)])
    document.write(out)
    return out.getvalue().encode()


def _outlines() -> bytes:
    ring = [[11.31, 43.62], [11.3101, 43.62], [11.3101, 43.6201], [11.31, 43.6201], [11.31, 43.62]]
    feature = {"type": "Feature", "properties": {"height": 6}, "geometry": {"type": "Polygon", "coordinates": [ring]}}
    return json.dumps({"type": "FeatureCollection", "features": [feature]}).encode()


def _city() -> bytes:
    box = [[[0, 3, 2, 1]], [[4, 5, 6, 7]], [[0, 1, 5, 4]], [[1, 2, 6, 5]], [[2, 3, 7, 6]], [[3, 0, 4, 7]]]
    corners = [[x, y, z] for z in (0, 5) for x, y in ((0, 0), (9, 0), (9, 7), (0, 7))]
    solid = {"type": "Solid", "lod": "2", "boundaries": [box]}
    objects = {"house": {"type": "Building", "geometry": [solid]}}
    scale = {"scale": [1, 1, 1], "translate": [0, 0, 0]}
    return json.dumps(
        {"type": "CityJSON", "version": "2.0", "transform": scale, "CityObjects": objects, "vertices": corners}
    ).encode()


def _cloud() -> bytes:
    cloud, out = laspy.create(point_format=3, file_version="1.2"), io.BytesIO()
    rng = np.random.default_rng(4)
    cloud.x, cloud.y = rng.uniform(0, 12, 800), rng.uniform(0, 8, 800)
    cloud.z = 4 + 0.4 * np.asarray(cloud.y)
    cloud.write(out)
    return out.getvalue()


def _grid() -> bytes:
    rows = "\n".join(" ".join(str(100 + i + j) for i in range(30)) for j in range(30))
    return f"ncols 30\nnrows 30\nxllcorner 11.29\nyllcorner 43.60\ncellsize 0.001\nNODATA_value -9999\n{rows}\n".encode()


def _tiff() -> bytes:
    with rasterio.MemoryFile() as memory:
        values = np.add.outer(np.arange(30.0), np.arange(30.0)).astype("float32")
        profile = {"driver": "GTiff", "width": 30, "height": 30, "count": 1, "dtype": "float32", "crs": "EPSG:4326"}
        with memory.open(**profile, transform=from_origin(11.29, 43.64, 0.001, 0.001)) as out:
            out.write(values, 1)
        return bytes(memory.read())


def _png() -> bytes:
    import zlib

    def chunk(name: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))

    pixels = zlib.compress(b"".join(b"\0" + bytes(range(96)) for _ in range(32)))
    head = struct.pack(">IIBBBBB", 32, 32, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", pixels) + chunk(b"IEND", b"")


def _parts() -> bytes:
    modules = list(built_in_parts().modules.values())[:8]
    names = ["power", "voc", "isc", "vmp", "imp"]
    lines = [",".join(str(getattr(module, name)) for name in names) for module in modules]
    return "\n".join([",".join(names), *lines]).encode()


# Name of the file, what is in it, and where it goes.
KINDS: tuple[tuple[str, Callable[[], bytes], str], ...] = (
    ("weather.csv", _weather, "/api/weather/reading"), ("weather.xlsx", _workbook, "/api/weather/reading"), ("weather.parquet", _parquet, "/api/weather/reading"),
    ("weather.json", _records, "/api/weather/reading"), ("meter.xlsx", _workbook, "/api/use/reading"), ("meter.parquet", _parquet, "/api/use/reading"),
    ("house.obj", lambda: _mesh("obj"), "scene"), ("house.glb", lambda: _mesh("glb"), "scene"), ("house.stl", lambda: _mesh("stl"), "scene"), ("house.dxf", _drawing, "scene"),
    ("outlines.geojson", _outlines, "scene"), ("town.city.json", _city, "scene"), ("roof.las", _cloud, "scene"), ("region.geojson", _outlines, "/api/places/region"),
    ("heights.asc", _grid, "/api/places/horizon"), ("heights.tif", _tiff, "/api/places/horizon"), ("map.png", _png, "/api/pictures"),
    ("modules.csv", _parts, "/api/parts/import"), ("anything", _city, "/api/files/recognise"), ("anything.bin", _tiff, "/api/files/recognise"),
)  # fmt: skip
NUMBERS = (b"nan", b"inf", b"-1", b"0", b"1e308", b"1e-308", b"9" * 400, b"4294967295", b"", b"null", b"[]", b'"x"')


def damaged(content: bytes, r: random.Random) -> bytes:
    """A file with a few faults: cut off, doubled, bytes turned over, numbers that are none, parts left out."""
    data = bytearray(content)
    for _ in range(r.randint(1, 4)):
        way, at = r.randrange(6), r.randrange(max(len(data), 1))
        if way == 0:
            del data[at:]
        elif way == 1:
            del data[at : at + r.choice((1, 4, 64, 1024))]
        elif way == 2 and data:
            for _ in range(r.choice((1, 8, 64))):
                data[r.randrange(len(data))] = r.randrange(256)
        elif way == 3:
            data[at:at] = data[at : at + r.choice((16, 512, 4096))] * r.choice((2, 50))
        elif way == 4 and len(data) > 8:
            at = r.randrange(len(data) - 4)
            data[at : at + 4] = struct.pack("<I", r.choice((0, 1, 0x7FFFFFFF, 0xFFFFFFFF, 0x80000000)))
        else:
            places = [i for i in range(0, min(len(data), 20_000)) if 48 <= data[i] <= 57]
            if places:
                at = r.choice(places)
                data[at : at + 1] = r.choice(NUMBERS)
    return bytes(data[:4_000_000])


def form(name: str, content: bytes, fields: dict[str, str]) -> bytes:
    """A multipart form of a file and fields, with the boundary `noontide`."""
    parts = [
        f'--noontide\r\nContent-Disposition: form-data; name="{key}"\r\n\r\n{value}\r\n'.encode() for key, value in fields.items()
    ]
    head = f'--noontide\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\nContent-Type: application/octet-stream\r\n\r\n'
    return b"".join([*parts, head.encode(), content, b"\r\n--noontide--\r\n"])


class Day:
    """What happened, filled by several threads."""

    def __init__(self, server: Server, count: int):
        self.server, self.left, self.lock = server, iter(range(count)), threading.Lock()
        self.statuses: Counter[int] = Counter()
        self.longest = (0.0, "")
        self.failures: list[str] = []
        self.memory = 0.0

    def upload(self, samples: list[tuple[str, bytes, str]]) -> None:
        while True:
            with self.lock:
                number = next(self.left, None)
            if number is None:
                return
            r = random.Random(number)
            name, content, path = samples[number % len(samples)]
            fields = {"latitude": "43.62", "longitude": "11.31", "kind": "modules", "mapping": "{}", "keep": "false"}
            body = form(name, damaged(content, r), fields)
            begun = time.perf_counter()
            try:
                self.server.call(path, body, "POST", "multipart/form-data; boundary=noontide")
                status = 200
            except urllib.error.HTTPError as error:
                status = error.code
                error.read()
            took = time.perf_counter() - begun
            with self.lock:
                self.statuses[status] += 1
                self.longest = max(self.longest, (took, f"{name} of seed {number}"))
                if status >= 500:
                    self.failures.append(f"{name} of seed {number}: {status}")

    def watch(self, done: threading.Event) -> None:
        while not done.wait(0.5):
            self.memory = max(self.memory, _memory_of(self.server.process.pid))

    def edit(self, done: threading.Event, times: list[float], least: int) -> None:
        """Turn a roof a little, again and again, and note how long each edit takes until its Headline."""
        scheme, number = first_scheme(self.server), 0
        surface = next(iter(scheme["document"]["surfaces"]))
        while number < least or not done.is_set():
            number += 1
            begun = time.perf_counter()
            scheme = self.server.edit(scheme, {"surfaces": {surface: {"tilt": 5 + number * 0.37 % 60}}})
            while scheme["evaluation"]["state"] == "pending":
                time.sleep(0.01)
                scheme = self.server.call(f"/api/schemes/{scheme['id']}")
            times.append(time.perf_counter() - begun)
            time.sleep(EDITS_APART)
            if done.is_set() and number >= least:
                return


def _memory_of(pid: int) -> float:
    """Of a process and all below it, what they do not share counted once each [MB]."""
    total, waiting = 0.0, [pid]
    while waiting:
        one = waiting.pop()
        try:
            waiting += [int(child) for child in Path(f"/proc/{one}/task/{one}/children").read_text().split()]
            for line in Path(f"/proc/{one}/smaps_rollup").read_text().splitlines():
                if line.startswith("Pss:"):
                    total += int(line.split()[1]) / 1024
        except (OSError, ProcessLookupError):
            continue
    return total


def main() -> None:
    """Run the day, and say where a limit was broken."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else FILES
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder))
        scheme = first_scheme(server)
        day = Day(server, count)
        samples = [
            (name, make(), f"/api/schemes/{scheme['id']}/scene-reading" if path == "scene" else path)
            for name, make, path in KINDS
        ]
        time.sleep(SETTLED)
        alone: list[float] = []
        done = threading.Event()
        done.set()
        day.edit(done, alone, ALONE)
        among: list[float] = []
        done = threading.Event()
        beside = [threading.Thread(target=day.edit, args=(done, among, 0)), threading.Thread(target=day.watch, args=(done,))]
        uploading = [threading.Thread(target=day.upload, args=(samples,)) for _ in range(UPLOADERS)]
        begun = time.perf_counter()
        for thread in beside + uploading:
            thread.start()
        for thread in uploading:
            thread.join()
        done.set()
        for thread in beside:
            thread.join()
        took = time.perf_counter() - begun
        server.kill()
    answers = ", ".join(f"{n} x {status}" for status, n in sorted(day.statuses.items()))
    print(f"{count} damaged files of {len(KINDS)} kinds in {took:.0f} s: {answers}")
    print(
        f"longest answer {day.longest[0]:.1f} s ({day.longest[1]}; limit {LONGEST:g}); memory {day.memory:.0f} MB at most (limit {MOST_MEMORY:g})"
    )
    for name, share in (("median", 0.5), ("95th percentile", 0.95), ("99th percentile", 0.99)):
        before, beside_files = (1000 * sorted(times)[int(share * len(times))] for times in (alone, among))
        print(
            f"another person's edit, {name}: {before:.0f} ms alone, {beside_files:.0f} ms among the files (limit {MOST_DELAY * 1000:.0f} more)"
        )
    for failure in day.failures[:20]:
        print(f"  {failure}")


if __name__ == "__main__":
    main()
