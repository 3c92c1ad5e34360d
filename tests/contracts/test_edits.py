"""A design that is edited is the design that its patched document gives, whichever leaf is changed."""

import pytest
from pydantic import ValidationError

from noontide.core.design import Design, merge_patch
from tests.contracts.test_stage_keys import DOCUMENT, OTHERS, SCENE_DOCUMENT, leaves, value_at

WHOLES = {"whole": (DOCUMENT, Design.read(DOCUMENT)), "scene": (SCENE_DOCUMENT, Design.read(SCENE_DOCUMENT))}


def patch_of(document: dict, path: tuple) -> dict:
    """A merge patch that gives a leaf another value; a list is replaced whole."""
    old = value_at(document, path)
    new = not old if isinstance(old, bool) else OTHERS.get(old, "other") if isinstance(old, str) else old * 1.01 + 0.1
    while any(isinstance(step, int) for step in path):
        *path, step = path
        whole = value_at(document, path)
        new = [*whole[:step], new, *whole[step + 1 :]] if isinstance(step, int) else whole | {step: new}
    for step in reversed(path):
        new = {step: new}
    return new


def outcome(make) -> tuple:
    """The design with all that is derived in it, or what is wrong with it."""
    try:
        design = make()
    except ValidationError as error:
        return tuple((one["loc"], one["msg"]) for one in error.errors())
    return design.as_kept(), design.model_dump(), design.fingerprint


@pytest.mark.parametrize("whole", WHOLES)
def test_an_edit_is_the_reading_of_the_patched_document(whole):
    document, design = WHOLES[whole]
    refused, before = 0, design.as_kept()
    paths = [path for path in leaves(document) if path[0] != "format"]
    for path in paths:
        for patch in (patch_of(document, path), {path[0]: None}):
            edited = outcome(lambda patch=patch: design.edited(patch))
            assert edited == outcome(lambda patch=patch: Design.read(merge_patch(before, patch))), patch
            refused += not isinstance(edited[0], dict)
    assert 0 < refused < len(paths), "some values are refused, and not all"
    assert design.as_kept() == before and design.model_dump() == Design.read(before).model_dump()


def test_a_copy_with_another_value_forgets_what_was_found_of_the_first():
    bank = WHOLES["whole"][1].storage.bank
    assert bank.model_copy().fingerprint == bank.fingerprint
    other = bank.model_copy(update={"energy": 99.0})
    assert (
        other.fingerprint != bank.fingerprint
        and other.fingerprint == type(bank)(**bank.model_dump(exclude_unset=True) | {"energy": 99.0}).fingerprint
    )
    part = next(iter(WHOLES["whole"][1].parts.modules.values()))
    assert part.fingerprint != part.model_copy(update={"power": part.power + 1}).fingerprint


def test_what_is_left_alone_is_the_same_object():
    design = WHOLES["whole"][1]
    edited = design.edited({"storage": {"bank": {"energy": 12.0}}})
    assert edited.money is design.money and edited.surfaces["field"] is design.surfaces["field"]
    assert edited.storage is not design.storage


def test_what_is_not_set_is_one_default_for_all_designs_and_equal_values_have_one_hash():
    one, other = (Design.read({"name": name, "site": {"latitude": 44, "longitude": 11}}) for name in ("One", "Another"))
    assert one.losses is other.losses and one.money is other.money and one.parts is other.parts
    said = Design.read({"site": {"latitude": 44, "longitude": 11}, "losses": one.losses.model_dump()}).losses
    assert said == one.losses and hash(said) == hash(one.losses) and said.fingerprint != one.losses.fingerprint
