"""Scenes from files: outlines, city models, meshes, points, height grids."""

from noontide.core.scene.importers.files import READERS, UnreadableScene, read_part, read_scene, scene_format

__all__ = ["READERS", "UnreadableScene", "read_part", "read_scene", "scene_format"]
