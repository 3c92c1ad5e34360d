"""The parts that a user can choose from: those that ship, and the user's own."""

from collections.abc import Mapping

from django.db import transaction

from noontide.core.electrical import Catalogue
from noontide.core.electrical.datasheets import Part
from noontide.parts import built_in_parts
from noontide.server.accounts.models import User
from noontide.server.parts_library.models import OwnPart

# With those that ship within what a catalogue holds.
MOST_OWN = {
    "modules": 300,
    "inverters": 150,
    "optimisers": 80,
    "transformers": 80,
    "cables": 120,
    "devices": 250,
    "batteries": 150,
    "controllers": 150,
}


def library_of(user: User) -> Catalogue:
    """All parts of a user; an own part never stands for one that ships, since their ids differ."""
    shipped = built_in_parts()
    own: dict[str, dict] = {kind: {} for kind in Catalogue.model_fields}
    for row in OwnPart.objects.visible_to(user):
        own[row.kind][row.key] = row.datasheet
    if not any(own.values()):
        return shipped
    mine = Catalogue.model_validate(own)
    return shipped.model_copy(update={kind: {**getattr(shipped, kind), **getattr(mine, kind)} for kind in own})


def own_keys(user: User) -> set[tuple[str, str]]:
    """Kind and id of the user's own parts."""
    return set(OwnPart.objects.visible_to(user).values_list("kind", "key"))


@transaction.atomic
def keep_parts(user: User, kind: str, parts: Mapping[str, Part]) -> None:
    """Keep datasheets as the user's own; one of the same id is replaced. Designs carry copies and do not change.

    Raises
    ------
    ValueError
        If there would be more than a library holds; nothing is kept then.
    """
    before = set(OwnPart.objects.visible_to(user).filter(kind=kind).values_list("key", flat=True))
    if len(before | set(parts)) > MOST_OWN[kind]:
        raise ValueError(
            f"At most {MOST_OWN[kind]} {kind} of your own are kept; there are {len(before)} already. Delete some first."
        )
    for key, part in parts.items():
        OwnPart.objects.update_or_create(
            owner=user, kind=kind, key=key, defaults={"datasheet": part.model_dump(mode="json", exclude_defaults=True)}
        )
