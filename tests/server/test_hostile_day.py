"""What once made the server fail, or cost gigabytes: each gives words, soon, and the limits that hold are named."""

import io
import json
import time
import zipfile

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from rasterio import Affine

from noontide.core.design.module_rows import MOST_MODULES
from tests.conftest import lying
from tests.core.geotiffs import geotiff
from tests.server.test_hostile import refused, url


def sent(api, path: str, content: bytes, name: str, **more):
    return api.post(path, {"file": SimpleUploadedFile(name, content), **more})


def workbook_of_one_far_cell() -> bytes:
    """1.4 kB that state a sheet of sixteen thousand million cells."""
    kinds = "application/vnd.openxmlformats-officedocument.spreadsheetml"
    office, package = (
        "http://schemas.openxmlformats.org/officeDocument/2006/relationships",
        "http://schemas.openxmlformats.org/package/2006",
    )
    main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
    parts = {
        "[Content_Types].xml": f'<Types xmlns="{package}/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/xl/workbook.xml" ContentType="{kinds}.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="{kinds}.worksheet+xml"/></Types>',
        "_rels/.rels": f'<Relationships xmlns="{package}/relationships"><Relationship Id="r1" Type="{office}/officeDocument" Target="xl/workbook.xml"/></Relationships>',
        "xl/_rels/workbook.xml.rels": f'<Relationships xmlns="{package}/relationships"><Relationship Id="r1" Type="{office}/worksheet" Target="worksheets/sheet1.xml"/></Relationships>',
        "xl/workbook.xml": f'<workbook xmlns="{main}" xmlns:r="{office}"><sheets><sheet name="a" sheetId="1" r:id="r1"/></sheets></workbook>',
        "xl/worksheets/sheet1.xml": f'<worksheet xmlns="{main}"><dimension ref="A1:XFD1048576"/><sheetData><row r="1"><c r="A1" t="str"><v>power</v></c></row><row r="1048576"><c r="XFD1048576"><v>1</v></c></row></sheetData></worksheet>',
    }  # fmt: skip
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, text in parts.items():
            archive.writestr(name, text)
    return out.getvalue()


def coverage_of_one_moment(count: int = 8000) -> bytes:
    """Equal times, whose merge would have count squared rows."""
    names = ("ghi", "temperature")
    axes = {"x": {"values": [11.3]}, "y": {"values": [43.6]}, "t": {"values": ["2023-01-01T00:00:00Z"] * count}}
    ranges = {
        n: {"type": "NdArray", "dataType": "float", "axisNames": ["t"], "shape": [count], "values": [1] * count} for n in names
    }
    parameters = {n: {"type": "Parameter", "observedProperty": {"label": {"en": n}}, "unit": {"symbol": "W/m2"}} for n in names}
    domain = {"type": "Domain", "domainType": "PointSeries", "axes": axes}
    return json.dumps({"type": "Coverage", "domain": domain, "parameters": parameters, "ranges": ranges}).encode()


def records_with_differing_keys(count: int = 5000) -> bytes:
    return json.dumps([{f"k{i}": i} for i in range(count)]).encode()


WEATHER = {
    "far.xlsx": workbook_of_one_far_cell,
    "moment.json": coverage_of_one_moment,
    "keys.json": records_with_differing_keys,
}


@pytest.mark.parametrize("name", WEATHER)
@pytest.mark.parametrize("path", ["/api/weather", "/api/weather/reading"])
def test_a_small_file_of_weather_costs_little(api, path, name):
    begun = time.monotonic()
    refused(sent(api, path, WEATHER[name](), name))
    assert time.monotonic() - begun < 15


@pytest.mark.parametrize("content", [workbook_of_one_far_cell(), b"power,voc\n" + b",\n" * 1_500_000], ids=["far", "empty rows"])
def test_a_small_list_of_parts_costs_little(api, content):
    begun = time.monotonic()
    refused(sent(api, "/api/parts/import", content, "parts", kind="modules"))
    assert time.monotonic() - begun < 15


def glb_of_a_ring() -> bytes:
    document = {
        "asset": {"version": "2.0"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"children": [1]}, {"children": [0]}],
    }
    return json.dumps(document).encode()


def gltf_of_many_nodes(nodes: int = 4000) -> bytes:
    """One mesh of two hundred faces, four thousand times."""
    corners = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]] * 100, dtype="<f4")
    quads = np.arange(400, dtype="<u2").reshape(-1, 4)
    faces = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]]).ravel()
    import base64

    blob = corners.tobytes() + faces.tobytes()
    return json.dumps(
        {
            "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": list(range(nodes))}],
            "nodes": [{"mesh": 0, "translation": [2 * i, 0, 0]} for i in range(nodes)],
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
            "accessors": [
                {"bufferView": 0, "componentType": 5126, "count": 400, "type": "VEC3", "min": [0, 0, 0], "max": [1, 1, 0]},
                {"bufferView": 1, "componentType": 5123, "count": len(faces), "type": "SCALAR"},
            ],
            "bufferViews": [{"buffer": 0, "byteOffset": 0, "byteLength": corners.nbytes}, {"buffer": 0, "byteOffset": corners.nbytes, "byteLength": faces.nbytes}],
            "buffers": [{"byteLength": len(blob), "uri": "data:application/octet-stream;base64," + base64.b64encode(blob).decode()}],
        }
    ).encode()  # fmt: skip


DXF_WITHOUT_CORNERS = "\n".join(
    ["0", "SECTION", "2", "ENTITIES", "0", "3DFACE", "8", "0", "0", "ENDSEC", "0", "EOF", ""]
).encode()
SCENES = {
    "ring.gltf": glb_of_a_ring(),
    "many.gltf": gltf_of_many_nodes(),
    "face.dxf": DXF_WITHOUT_CORNERS,
    "list.json": json.dumps({"type": "CityJSON", "version": "2.0", "CityObjects": [1, 2], "vertices": []}).encode(),
    "fine.json": json.dumps({"type": "CityJSON", "version": "2.0", "transform": {"scale": [1, 1, 1], "translate": [0, 0, 0]}, "CityObjects": {"a": {"type": "Building", "geometry": [{"type": "Solid", "lod": "fine", "boundaries": []}]}}, "vertices": [[0, 0, 0]]}).encode(),
    "properties.geojson": json.dumps({"type": "FeatureCollection", "features": [{"type": "Feature", "geometry": {"type": "Polygon", "coordinates": [[[11.3, 43.6], [11.3001, 43.6], [11.3001, 43.6001], [11.3, 43.6]]]}, "properties": [1, 2]}]}).encode(),
    "grid.asc": b"ncols inf\nnrows inf\nxllcorner 0\nyllcorner 0\ncellsize 1\n1 2\n",
    "turned.tif": geotiff(np.ones((4, 4)), Affine(0, 0.001, 11.3, 0.001, 0, 43.6), "EPSG:4326"),
    "tiny.tif": geotiff(np.ones((4, 4)), Affine(1e-300, 0, 11.3, 0, -1e-300, 43.6), "EPSG:4326"),
}  # fmt: skip


@pytest.mark.parametrize("name", SCENES)
def test_a_hostile_scene_has_words(api, scheme, name):
    begun = time.monotonic()
    answer = sent(api, url(scheme, "/scene-reading"), SCENES[name], name)
    assert answer.status_code == 200 if name == "properties.geojson" else 400 <= answer.status_code < 500, answer.content[:300]
    assert time.monotonic() - begun < 20
    for path in ("/api/places/height", "/api/places/horizon"):
        if name in ("grid.asc", "tiny.tif"):
            refused(sent(api, path, SCENES[name], name, latitude=43.6, longitude=11.3))


@pytest.mark.parametrize("query", ["first=" + "9" * 5000 + "&last=1", "first=-1&last=2", "first=1e3&last=2", "spacing=" + "9" * 400, "spacing=nan"])  # fmt: skip
def test_no_question_of_shade_makes_it_fail(api, scheme, query):
    assert api.get(url(scheme, f"/shade?{query}")).status_code < 500


@pytest.mark.parametrize("many", ["fields", "files"])
def test_a_form_of_thousands_is_refused(api, many):
    fields = {
        f"f{i}": SimpleUploadedFile("x", b"1") if many == "files" else "1" for i in range(5000 if many == "fields" else 500)
    }
    refused(api.post("/api/weather", fields))


def test_a_field_larger_than_a_design_is_filled_as_far_as_one_can_be_kept(api, scheme):
    hall = {"buildings": {"hall": {"length": 300, "width": 300, "eave": 5, "shed": {"pitch": 5}}}}
    patch = {"scene": hall, "surfaces": {"s": {"face": "hall/roof", "layout": {"module": "veltrane-430"}}}}
    revision = api.send("patch", url(scheme), patch, revision=1).json()["revision"]
    filled = api.send("post", url(scheme, "/acts/fill"), {"surface": "s"}, revision=revision)
    assert filled.status_code == 200
    assert len(lying(filled.json()["document"]["surfaces"]["s"]["layout"])) == MOST_MODULES
