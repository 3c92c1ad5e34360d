"""What is found once for each object."""

import gc
import weakref

import pytest

from noontide.core.once import once_for_each


class Thing:
    pass


def test_once_for_each_object_also_where_there_is_nothing_and_never_an_error():
    asked = []

    @once_for_each
    def find(thing):
        asked.append(thing)
        if len(asked) == 1:
            raise ValueError("not yet")
        return None

    one, other = Thing(), Thing()
    with pytest.raises(ValueError, match="not yet"):
        find(one)
    assert find(one) is None and find(one) is None and find(other) is None
    assert asked == [one, one, other]


def test_it_goes_with_its_object():
    @once_for_each
    def find(thing):
        return Thing()

    one = Thing()
    found = weakref.ref(find(one))
    gc.collect()
    assert found() is find(one)
    del one
    gc.collect()
    assert found() is None
