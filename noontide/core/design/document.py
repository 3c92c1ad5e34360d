"""The design: one alternative of a project, as a versioned JSON document.

Collections are objects by id rather than lists, so that a JSON Merge Patch can edit one value of one entry.
Percentages are numbers of percent, as in the interface. `Design.read` is the only way in.
"""

from collections import Counter
from collections.abc import Mapping
from typing import Any, Literal, Self

from pydantic import Field, model_validator

from noontide.core.demand.sources import Demand
from noontide.core.design.circuits import AcceptedCheck, CheckKey, Connection, InverterSet, SubArray, Wiring
from noontide.core.design.kept_view import KeptView
from noontide.core.design.losses import Losses, Models
from noontide.core.design.merge_patch import merge_patch
from noontide.core.design.migrations import FORMAT, upgrade
from noontide.core.design.site import Site
from noontide.core.design.size import check_size
from noontide.core.design.surface import Surface
from noontide.core.design.weather_reference import WeatherReference
from noontide.core.electrical.datasheets import Catalogue
from noontide.core.fields import Document, Id, Line
from noontide.core.money.terms import Money
from noontide.core.scene import BuiltScene, ImpossibleScene, Scene, build_scene
from noontide.core.storage.document import Storage

# Rooms that derive names and measures from one another when a design is read: they are read together.
TOGETHER = frozenset({"site", "scene", "surfaces", "inverters", "subarrays"})


class Design(Document):
    """One alternative design, whole. What is not set takes its default, and is not kept."""

    format: Literal["noontide-design/5"] = "noontide-design/5"
    name: Line = Field("", max_length=120, title="Name")
    site: Site
    weather: WeatherReference | None = None
    scene: Scene = Scene()
    surfaces: dict[Id, Surface] = Field({}, max_length=200)
    inverters: dict[Id, InverterSet] = Field({}, max_length=200)
    subarrays: dict[Id, SubArray] = Field({}, max_length=400)
    connection: Connection = Connection()
    wiring: Wiring = Wiring()
    losses: Losses = Losses()
    models: Models = Models()
    demand: Demand = Demand()
    storage: Storage = Storage()
    money: Money = Money()
    accepted: dict[CheckKey, AcceptedCheck] = Field({}, max_length=200, title="Accepted checks")
    views: dict[Id, KeptView] = Field({}, max_length=24, title="Views of the scene that are kept")
    parts: Catalogue = Field(Catalogue(), title="Datasheets of the parts in use")

    @classmethod
    def read(cls, document: Any) -> "Design":
        """A design from a document of any format there ever was.

        Raises
        ------
        DesignError
            If it is no design document, is too large, or comes from a later version.
        pydantic.ValidationError
            With a location for each invalid value.
        """
        check_size(document)
        return cls.model_validate(upgrade(document))

    def edited(self, patch: Mapping[str, Any]) -> "Design":
        """The design after a merge patch (RFC 7396): what `read` gives of the patched document, in less time.

        What the patch leaves alone is not read again: such rooms are this design's own, with all that was found of them.

        Raises
        ------
        DesignError, pydantic.ValidationError
            As `read`.
        """
        if "format" in patch:
            return Design.read(merge_patch(self.as_kept(), patch))
        anew = set(patch) | (TOGETHER if TOGETHER & set(patch) else set())
        rooms = merge_patch(self.model_dump(mode="json", exclude_unset=True, include=anew), patch)
        check_size(rooms)
        kept = {name: getattr(self, name) for name in self.model_fields_set - anew}
        return Design.model_validate(kept | rooms)

    @model_validator(mode="after")
    def _surfaces_follow_their_faces(self) -> Self:
        """Tilt, azimuth, area and name of a surface on a face are the face's own: derived at every reading, and never kept."""
        placed = {key: surface for key, surface in self.surfaces.items() if surface.face is not None}
        if self.scene.is_empty and not placed:
            return self
        try:
            built = self.built_scene
        except ImpossibleScene as problem:
            raise ValueError(f"{problem.pointer}: {problem.reason}") from problem
        for surface in placed.values():
            face = built.face(surface.face or "")
            if face is not None:
                surface.follow(face)
        return self

    @model_validator(mode="after")
    def _array_is_as_wide_as_its_surfaces(self) -> Self:
        self.site.follow(surface.area for surface in self.surfaces.values())
        return self

    @property
    def built_scene(self) -> BuiltScene:
        """Faces and bodies of the scene."""
        return build_scene(self.scene, is_southern=self.site.latitude < 0)

    @model_validator(mode="after")
    def _references_exist(self) -> Self:
        for key, subarray in self.subarrays.items():
            if subarray.surface not in self.surfaces:
                raise ValueError(f"Sub-array '{key}' is on surface '{subarray.surface}', which does not exist.")
            if subarray.inverter not in self.inverters:
                raise ValueError(f"Sub-array '{key}' feeds inverter '{subarray.inverter}', which does not exist.")
        bank = self.storage.bank
        if bank is not None and bank.inverter is not None and bank.inverter not in self.inverters:
            raise ValueError(
                f"The battery stands on the DC side of inverter '{bank.inverter}', which does not exist. Choose another, or couple the battery to the AC side."
            )
        return self

    @model_validator(mode="after")
    def _everything_has_a_name(self) -> Self:
        """What nobody named is called by its place: derived at every reading, and never kept."""
        for number, surface in enumerate(self.surfaces.values(), start=1):
            if not surface.name:
                surface.__dict__["name"] = f"Surface {number}"
        for number, unit in enumerate(self.inverters.values(), start=1):
            if not unit.name:
                unit.__dict__["name"] = f"Inverter {number}" if len(self.inverters) > 1 else "Inverter"
        on = Counter(subarray.surface for subarray in self.subarrays.values())
        told: Counter[str] = Counter()
        for subarray in self.subarrays.values():
            told[subarray.surface] += 1
            if not subarray.name:
                surface_name = self.surfaces[subarray.surface].name[:70]
                numbered = f"{surface_name}, strings {told[subarray.surface]}"
                subarray.__dict__["name"] = numbered if on[subarray.surface] > 1 else surface_name
        return self

    def as_kept(self) -> dict:
        """The document with only what was set, as JSON values."""
        return {"format": FORMAT} | self.model_dump(mode="json", exclude_unset=True)
