"""The parts that a user can choose from: those that ship, and the user's own."""

from collections.abc import Mapping

from django.db import transaction

from noontide.core.electrical import Catalogue
from noontide.core.electrical.datasheets import KINDS, Part
from noontide.parts import built_in_parts
from noontide.server.accounts.models import User
from noontide.server.parts_library.models import OwnPart


def library_of(user: User) -> Catalogue:
    """All parts of a user; an own part never stands for one that ships, since their ids differ."""
    shipped = built_in_parts()
    own: dict[str, dict] = {kind: {} for kind in KINDS}
    for row in OwnPart.objects.visible_to(user):
        own[row.kind][row.key] = row.datasheet
    if not any(own.values()):
        return shipped
    mine = Catalogue.model_validate(own)
    return shipped.model_copy(update={kind: {**shipped.of(kind), **mine.of(kind)} for kind in own})


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
    if len(before | set(parts)) > KINDS[kind].most_own:
        raise ValueError(
            f"At most {KINDS[kind].most_own} {kind} of your own are kept; there are {len(before)} already. Delete some first."
        )
    for key, part in parts.items():
        OwnPart.objects.update_or_create(
            owner=user, kind=kind, key=key, defaults={"datasheet": part.model_dump(mode="json", exclude_defaults=True)}
        )
