"""Scenes from files that other programs wrote."""

from noontide.core.scene.importers.files import READERS, UnreadableScene, read_scene

__all__ = ["READERS", "UnreadableScene", "read_scene"]
