"""Scenes for the speed table: a large roof with its modules, neighbours and chimneys."""

import time

import numpy as np

from noontide.core.design import merge_patch
from noontide.core.design.document import Design
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.plan import groups_of
from noontide.core.plan.laying import proposed
from noontide.core.plan.layouts import forget_plans, plans_of
from noontide.core.simulation import Libraries, StageCache, near_shade
from noontide.core.simulation.chain import sky_over
from noontide.core.verbs.catalogue import applied
from noontide.core.weather import Weather

CHIMNEYS = 5


class Casting:
    """A scene whose shade is timed: cold, after one chimney has moved, and as a first look."""

    def design(self, shift: float = 0.0) -> Design:
        raise NotImplementedError

    def _cast(self, design: Design, is_coarse: bool = False) -> float:
        raise NotImplementedError

    def cold(self) -> float:
        """The whole year with nothing remembered [s]."""
        near_shade.forget()
        return self._cast(self.design())

    def moved(self) -> float:
        """The whole year again after one chimney has moved by 0.7 m [s]."""
        near_shade.forget()
        self._cast(self.design())
        return self._cast(self.design(0.7))

    def coarse(self) -> float:
        """A first look at the whole year with nothing remembered [s]."""
        near_shade.forget()
        return self._cast(self.design(), is_coarse=True)


class ShadeBench(Casting):
    """A shed roof with many modules of three cell groups, and so many boxes around that the faces are as many as asked for."""

    def __init__(self, modules: int, faces: int, weather: Weather, parts: Catalogue, latitude: float, longitude: float):
        self.latitude, self.longitude, self.faces = latitude, longitude, faces
        self.weather, self.parts, self.modules = weather, parts, modules
        self.placed: dict[str, dict] = {}
        (plan,) = plans_of(self.design(), parts).values()
        self.placed = {i: m._asdict() for i, m in proposed(plan).items()}
        (plan,) = plans_of(self.design(), parts).values()
        self.targets = groups_of(plan)
        cache = StageCache()
        self.sky = sky_over(self.design().site, weather, cache)
        self.sky.value  # noqa: B018  the sun and the weather are there before the clock starts
        self.hold = cache

    def design(self, shift: float = 0.0) -> Design:
        rows = int(np.ceil(np.sqrt(self.modules / 5)))
        length, width = 1.16 * self.modules / rows + 2, 1.75 * rows + 1
        boxes = {}
        for k in range(self.faces // 5 - CHIMNEYS - 1):
            turn, far = 2 * np.pi * k / max(self.faces // 5 - CHIMNEYS - 1, 1), max(length, width) * (0.75 + 0.12 * (k % 4))
            boxes[f"n{k}"] = {
                "x": round(far * np.sin(turn), 2),
                "y": round(far * np.cos(turn), 2),
                "length": 10,
                "width": 8,
                "height": 5 + 2 * (k % 5),
            }
        chimneys = {
            f"c{k}": {
                "on": "hall",
                "x": round(length * (k / CHIMNEYS - 0.4), 2) + (shift if k == 0 else 0),
                "y": round(width * 0.1 * (k - 2), 2),
                "height": 1.2,
            }
            for k in range(CHIMNEYS)
        }
        return Design.read(
            {
                "site": {"latitude": self.latitude, "longitude": self.longitude},
                "scene": {"buildings": {"hall": {"length": length, "width": width, "eave": 5, "shed": {"pitch": 12}}}, "boxes": boxes, "chimneys": chimneys},
                "surfaces": {"s": {"face": "hall/roof", "layout": {"module": "veltrane-430", "orientation": "portrait", "most": self.modules, "modules": self.placed}}},
            }
        )  # fmt: skip

    def _cast(self, design: Design, is_coarse: bool = False) -> float:
        bodies = design.built_scene.bodies
        inputs = near_shade.NearInputs(self.sky, self.targets, bodies, design.site.horizon_line, is_coarse)
        start = time.perf_counter()
        near_shade.cast_shadows(inputs)
        return time.perf_counter() - start


class Village(Casting):
    """Forty gable roofs of eleven modules each with a chimney, which all shade one another."""

    def __init__(self, weather: Weather, parts: Catalogue, latitude: float, longitude: float):
        self.latitude, self.longitude = latitude, longitude
        self.placed: dict[str, dict] = {}
        plans = plans_of(self.design(), parts)
        self.placed = {key: {i: m._asdict() for i, m in proposed(plan).items()} for key, plan in plans.items()}
        self.targets = [groups_of(plan) for plan in plans_of(self.design(), parts).values()]
        self.hold = StageCache()
        self.sky = sky_over(self.design().site, weather, self.hold)
        self.sky.value  # noqa: B018  there before the clock starts

    def design(self, shift: float = 0.0) -> Design:
        buildings = {
            f"b{k}": {"x": 22.0 * (k % 8), "y": 18.0 * (k // 8), "azimuth": 160 + 7 * (k % 5), "length": 12, "width": 9, "eave": 4 + k % 3, "gable": {"pitch": 30}}
            for k in range(40)
        }  # fmt: skip
        chimneys = {f"c{k}": {"on": f"b{k}", "x": 2.0 + (shift if k == 0 else 0), "y": -1.5, "height": 1.3} for k in range(40)}
        surfaces = {
            f"s{k}": {
                "face": f"b{k}/roof-1",
                "layout": {"module": "veltrane-430", "most": 11, "modules": self.placed.get(f"s{k}", {})},
            }
            for k in range(40)
        }
        site = {"latitude": self.latitude, "longitude": self.longitude}
        return Design.read({"site": site, "scene": {"buildings": buildings, "chimneys": chimneys}, "surfaces": surfaces})

    def _cast(self, design: Design, is_coarse: bool = False) -> float:
        bodies, horizon = design.built_scene.bodies, design.site.horizon_line
        start = time.perf_counter()
        for targets in self.targets:
            near_shade.cast_shadows(near_shade.NearInputs(self.sky, targets, bodies, horizon, is_coarse))
        return time.perf_counter() - start


class Field(Casting):
    """Rows of racks on level ground, far more modules than a roof has."""

    def __init__(self, length: float, width: float, weather: Weather, parts: Catalogue, latitude: float, longitude: float):
        document = {
            "site": {"latitude": latitude, "longitude": longitude},
            "scene": {"grounds": {"field": {"length": length, "width": width}}},
            "surfaces": {
                "s": {
                    "face": "field/ground", "mounting": "open rack",
                    "layout": {"module": "veltrane-430", "orientation": "portrait", "racks": {"tilt": 20, "pitch": 5.5, "height": 0.6}},
                }
            },
        }  # fmt: skip
        patch, _ = applied(Design.read(document), "fill", {"surface": "s"}, Libraries(parts))
        self.document, self.parts = merge_patch(document, patch), parts
        layout = self.design().surfaces["s"].layout
        self.modules = layout.size if layout is not None else 0
        cache = StageCache()
        self.sky = sky_over(self.design().site, weather, cache)
        self.sky.value  # noqa: B018  the sun and the weather are there before the clock starts
        self.hold = cache

    def design(self, shift: float = 0.0) -> Design:
        return Design.read(self.document)

    def _cast(self, design: Design, is_coarse: bool = False) -> float:
        forget_plans()
        start = time.perf_counter()
        (plan,) = plans_of(design, self.parts).values()
        near_shade.cast_shadows(near_shade.NearInputs(self.sky, groups_of(plan), (), design.site.horizon_line, is_coarse))
        return time.perf_counter() - start
