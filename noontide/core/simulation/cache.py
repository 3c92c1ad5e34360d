"""Results of stages, found when they are asked for and kept by a key made of all that went into them.

The cache is bounded in bytes, and is the only state of the computation.
"""

import dataclasses
import hashlib
import operator
from collections import OrderedDict, defaultdict, deque
from collections.abc import Callable, Collection, Sequence
from functools import cached_property, lru_cache, partial
from operator import attrgetter
from threading import Lock
from types import UnionType
from typing import Any, Generic, Literal, TypeVar, Union, get_args, get_origin, get_type_hints, overload
from weakref import WeakValueDictionary, ref

import numpy as np

from noontide.core.demand.series import UseSeries
from noontide.core.electrical.datasheets import Part
from noontide.core.fields import Document
from noontide.core.plan.cell_groups import GroupTargets
from noontide.core.scene.solids import Body
from noontide.core.shading.horizon import Horizon
from noontide.core.weather.year import Weather

T = TypeVar("T")
I = TypeVar("I")  # noqa: E741
DEFAULT_LIMIT = 256 * 1024**2  # bytes
MOST_KNOWN = 4  # of what is shared that are found by their parts


class Company(defaultdict[str, dict[str, Any]]):
    """Of several designs the rows by their keys of what is found beside one another, group by group."""

    def __init__(self) -> None:
        super().__init__(dict)


@dataclasses.dataclass(frozen=True, slots=True)
class _Found:
    """In place of its row in a company: what was found for it."""

    value: Any


class Kept(Generic[T]):
    """The result of a stage, found when it is first asked for; as the input of a later stage it stands for its key.

    It holds the result no longer than somebody uses it: what keeps it for the next time is the cache, within its limit.
    """

    __slots__ = ("_find", "_seen", "_touch", "key")

    def __init__(self, key: str, find: Callable[[], T], touch: Callable[[], bool]):
        self.key = key
        self._find = find
        self._touch = touch
        self._seen: Callable[[], T | None] = lambda: None

    @property
    def is_there(self) -> bool:
        """Whether the result is kept, and need not be computed."""
        return self._touch()

    @property
    def value(self) -> T:
        """The result, from the cache or computed."""
        value = self._seen()
        if value is None:
            value = self._find()
            self._seen = ref(value)
        else:
            self._touch()
        return value


class CachedRows(Sequence[T]):
    """The results of a stage over its rows, each found when it is asked for."""

    def __init__(self, kept: Sequence[Kept[T]]):
        self._kept = kept

    def __len__(self) -> int:
        return len(self._kept)

    @overload
    def __getitem__(self, index: int) -> T: ...
    @overload
    def __getitem__(self, index: slice) -> "CachedRows[T]": ...
    def __getitem__(self, index: int | slice) -> "T | CachedRows[T]":
        return CachedRows(self._kept[index]) if isinstance(index, slice) else self._kept[index].value


def key_of(inputs: object) -> str:
    """Key of a stage's inputs: a frozen dataclass of plain values, datasheets, weather years and results of earlier stages.

    Raises
    ------
    TypeError
        If the inputs hold anything that this function cannot tell apart by its content.
    """
    return hashlib.blake2b(_text(inputs).encode(), digest_size=16).hexdigest()


def _text(value: Any) -> str:
    return _writer_of(type(value))(value)


@lru_cache(maxsize=256)
def _writer_of(kind: type) -> Callable[[Any], str]:
    """How the content of a type is written; found once, since every look-up of a row writes all its values."""
    if issubclass(kind, Kept):
        return attrgetter("key")
    if issubclass(kind, type(None) | bool | int | float | str):
        return repr
    if issubclass(kind, tuple | list):
        return lambda values: f"({','.join(map(_text, values))})"
    if issubclass(kind, Part | Horizon | Body | GroupTargets):
        return attrgetter("fingerprint")
    if issubclass(kind, Document):
        return lambda document: f"{kind.__qualname__}{document.fingerprint}"
    if issubclass(kind, Weather | UseSeries):
        return attrgetter("digest")
    if issubclass(kind, SharedInputs):
        return attrgetter("text")
    if _field_names(kind):
        return _text_of_fields
    raise TypeError(f"{kind.__name__} cannot be an input of a stage: it has no content that a key could be made of")


def _text_of_fields(value: Any) -> str:
    kind = type(value)
    return f"{kind.__qualname__}({','.join(map(_text, _fields_of(kind)(value)))})"


class SharedInputs:
    """Base of frozen dataclasses that are among the inputs of several stages: what their key is made of is found once."""

    @cached_property
    def text(self) -> str:
        return _text_of_fields(self)


@lru_cache(maxsize=256)
def _field_names(kind: type) -> tuple[str, ...]:
    """Of a dataclass; none for any other type. Remembered, since every look-up of a row asks for them."""
    return tuple(f.name for f in dataclasses.fields(kind)) if dataclasses.is_dataclass(kind) else ()


@lru_cache(maxsize=256)
def _fields_of(kind: type) -> Callable[[Any], tuple]:
    """Reads all fields of a dataclass at once."""
    names = _field_names(kind)
    return attrgetter(*names) if len(names) > 1 else lambda value: (getattr(value, names[0]),)


class _Shelf:
    """The most recently used results, at most `limit` bytes of arrays."""

    def __init__(self, limit: int):
        self.limit = limit
        self.kept: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self.bytes = 0

    def put(self, key: str, made: Any, size: int) -> None:
        self.kept[key] = made, size
        self.bytes += size
        while self.bytes > self.limit:
            _, (_, size) = self.kept.popitem(last=False)
            self.bytes -= size

    def clear(self) -> None:
        self.kept.clear()
        self.bytes = 0


class StageCache:
    """The most recently used results, at most `limit` bytes of arrays. Safe to share between threads.

    A quarter is for lasting results: what every edit asks for must not make room for the hours of a plane that none does.
    """

    def __init__(self, limit: int = DEFAULT_LIMIT):
        self._limit = limit
        self._lasting, self._passing = _Shelf(limit // 4), _Shelf(limit - limit // 4)
        self._shared: WeakValueDictionary[str, Any] = WeakValueDictionary()
        self._known: deque[tuple[tuple[object, ...], Callable[[], Any]]] = deque(maxlen=MOST_KNOWN)
        self._lock = Lock()

    def __reduce__(self) -> tuple[type["StageCache"], tuple[int]]:
        """In another process it begins empty."""
        return StageCache, (self._limit,)

    def __len__(self) -> int:
        return len(self._lasting.kept) + len(self._passing.kept)

    @property
    def bytes(self) -> int:
        """Size of all that is kept."""
        return self._lasting.bytes + self._passing.bytes

    def keep(self, inputs: I, compute: Callable[[I], T], lasting: bool = False) -> Kept[T]:
        """The result of a stage for its inputs, computed when it is asked for and not there."""
        key = key_of(inputs)
        return Kept(key, lambda: self._find(key, inputs, compute, lasting), lambda: self._touch(key))

    def keep_rows(self, rows: Sequence[I], compute: Callable[[I], T], lasting: bool = False) -> list[Kept[T]]:
        """The results of a stage for each of its rows. Equal rows have one result, and yet remain rows of their own."""
        return [self.keep(row, compute, lasting) for row in rows]

    def keep_together(
        self, rows: Sequence[I], compute: Callable[[list[I]], list[T]], lasting: bool = False, beside: dict[str, I] | None = None
    ) -> list[Kept[T]]:
        """The results of a stage whose rows are found in one call: when one of them is asked for, all that are not there.

        Parameters
        ----------
        beside : dict, optional
            A group of a company, that takes the rows of this call too: all in it are found together.
        """
        keys = [key_of(row) for row in rows]
        group: dict[str, Any] = {} if beside is None else beside
        for key, row in zip(keys, rows, strict=True):
            group.setdefault(key, row)

        def find(asked: str) -> T:
            if isinstance(held := group[asked], _Found):
                return held.value
            with self._lock:
                if (shelf := self._shelf_of(asked)) is not None:
                    return shelf.kept[asked][0]
                missing = {key: row for key, row in group.items() if not isinstance(row, _Found) and self._shelf_of(key) is None}
            try:
                made = dict(zip(missing, compute(list(missing.values())), strict=True))
            except Exception:
                # One that cannot be found must not take the others with it.
                made = {asked: compute([missing[asked]])[0]}
            for key, value in made.items():
                self._put(key, value, lasting)
                if beside is not None:
                    # A small cache may have no room for all of them: none is found twice while the company is together.
                    group[key] = _Found(value)
            return made[asked]

        return [Kept(key, partial(find, key), partial(self._touch, key)) for key in keys]

    def share(self, inputs: I, make: Callable[[I], T], parts: tuple[object, ...] = ()) -> T:
        """What is made of inputs and holds no arrays of its own, such as a chain of stages: the same one for as long as somebody has it.

        Parameters
        ----------
        parts : tuple of objects, optional
            By which it is found again without its inputs (`shared_by`).
        """
        key = key_of(inputs)
        found = self._shared.get(key)
        if found is None:
            found = self._shared[key] = make(inputs)
        with self._lock:
            self._known.append((parts, ref(found)))
        return found

    def shared_by(self, parts: tuple[object, ...]) -> Any:
        """What was shared last under the very same objects; None where nothing was, or nobody has it any more."""
        with self._lock:
            for known, held in reversed(self._known):
                if len(known) == len(parts) and all(map(operator.is_, known, parts)):
                    return held()
        return None

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._shared.clear()
            self._known.clear()
            self._lasting.clear()
            self._passing.clear()

    def _touch(self, key: str) -> bool:
        """Count a result as used just now, if it is kept; whether it is."""
        with self._lock:
            return self._shelf_of(key) is not None

    def _find(self, key: str, inputs: I, compute: Callable[[I], T], lasting: bool) -> T:
        with self._lock:
            if (shelf := self._shelf_of(key)) is not None:
                return shelf.kept[key][0]
        made = compute(inputs)
        self._put(key, made, lasting)
        return made

    def _put(self, key: str, made: object, lasting: bool) -> None:
        size = _bytes_of(made)
        with self._lock:
            shelf = self._lasting if lasting and size <= self._lasting.limit // 2 else self._passing
            # What alone is larger than the limit is handed out, and not kept.
            if self._shelf_of(key) is None and size <= shelf.limit:
                shelf.put(key, made, size)

    def _shelf_of(self, key: str) -> _Shelf | None:
        """Where a result is kept, counted as used just now."""
        for shelf in (self._passing, self._lasting):
            if key in shelf.kept:
                shelf.kept.move_to_end(key)
                return shelf
        return None


def _bytes_of(value: object) -> int:
    """Memory that a result holds alive, with a little for the object itself."""
    bases: dict[int, int] = {}
    _find_bases(value, bases)
    return 512 + sum(bases.values())


_SMALL = frozenset({str, int, float, bool, type(None)})


def _find_bases(value: object, bases: dict[int, int]) -> None:
    """Add the arrays that own the memory of a value, by identity."""
    walk = _walk_of(type(value))
    if walk is not None:
        walk(value, bases)


@lru_cache(maxsize=256)
def _walk_of(kind: type) -> Callable[[Any, dict[int, int]], None] | None:
    """How the arrays below a type are found; None where it may have none: a plain value, or a dataclass of them, as the lines of a bill are."""
    if issubclass(kind, np.ndarray):
        return _add_base
    if issubclass(kind, dict):
        return lambda values, bases: _walk_all(values.values(), bases)
    if issubclass(kind, tuple | list):
        return _walk_all
    if issubclass(kind, Kept) or not dataclasses.is_dataclass(kind):
        return None
    hints = get_type_hints(kind)
    names = tuple(name for name in _field_names(kind) if not _is_plain(hints[name]))
    if not names:
        return None

    def walk(value: Any, bases: dict[int, int]) -> None:
        for name in names:
            inner = getattr(value, name)
            if type(inner) is np.ndarray and inner.base is None:  # most are
                bases[id(inner)] = inner.nbytes
            else:
                _find_bases(inner, bases)

    return walk


def _add_base(array: np.ndarray, bases: dict[int, int]) -> None:
    while isinstance(array.base, np.ndarray):
        array = array.base
    bases[id(array)] = array.nbytes


def _walk_all(values: Collection[object], bases: dict[int, int]) -> None:
    if any(_walk_of(kind) is not None for kind in set(map(type, values))):
        for value in values:
            _find_bases(value, bases)


def _is_plain(hint: Any) -> bool:
    """Whether a field of this type holds one plain value."""
    if get_origin(hint) in (Union, UnionType):
        return all(_is_plain(one) for one in get_args(hint))
    return hint in _SMALL or get_origin(hint) is Literal
