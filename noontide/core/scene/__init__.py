"""The scene: solids, trees and ground; faces and edges derived from them."""

from noontide.core.scene.build import BuiltScene, ImpossibleScene, build_scene, faces
from noontide.core.scene.document import Scene
from noontide.core.scene.frame import Frame
from noontide.core.scene.solids import Body, Edge, Face, Hole

__all__ = ["Body", "BuiltScene", "Edge", "Face", "Frame", "Hole", "ImpossibleScene", "Scene", "build_scene", "faces"]
