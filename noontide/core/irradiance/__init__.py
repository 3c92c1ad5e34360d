"""Irradiance on planes: incidence, transposition of the sky, reflection at the ground and at the glass."""

from noontide.core.irradiance.geometry import cos_incidence
from noontide.core.irradiance.incidence import ashrae, fresnel, from_table, martin_ruiz
from noontide.core.irradiance.orientation import DirectedLight, OrientationMap, directed_light, orientation_map
from noontide.core.irradiance.transposition import (
    PerezBrightness,
    SkyDiffuse,
    ground_reflected,
    hay_davies,
    isotropic,
    perez,
    perez_brightness,
    reindl,
)

__all__ = [
    "DirectedLight",
    "OrientationMap",
    "PerezBrightness",
    "SkyDiffuse",
    "ashrae",
    "cos_incidence",
    "directed_light",
    "fresnel",
    "from_table",
    "ground_reflected",
    "hay_davies",
    "isotropic",
    "martin_ruiz",
    "orientation_map",
    "perez",
    "perez_brightness",
    "reindl",
]
