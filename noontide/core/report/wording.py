"""The words and numbers of a report as its reader has them: a language is a file, and so are its marks of numbers and dates.

Pages are written in English. What is set on paper passes here on its way: a text that the catalogue has is put into the reader's
language, with the numbers, names and texts at its `{}` put in likewise; names that the design gives to its things stay as they are.
"""

import json
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cache, cached_property
from importlib.resources import files
from typing import Any

from noontide.core.units import NUMBERS, SYSTEMS, Conversion

_NUMBER = re.compile(r"[−±+-]?\d+(?:,\d{3})*(?:\.\d+)?")
_QUANTITY = re.compile(
    r"(?<![\w.,])((?:[−+-]?\d+(?:,\d{3})*(?:\.\d+)? (?:to|×|x) )*[−+-]?\d+(?:,\d{3})*(?:\.\d+)?)([ \u00a0])(m²|m|km|°C)(?![\w/²³])"
)
_WITH_UNIT = re.compile(r"([−±+-]?\d+(?:,\d{3})*(?:\.\d+)?)([ \u00a0]?)(\D.{0,30})")
# Numbers among other text: not inside of a word, a date or a version.
_AMONG = re.compile(r"(?<![\w.,-])[−±+-]?\d+(?:,\d{3})*(?:\.\d+)?(?![\w,]|[.-]\w)")
_EDGES = re.compile(r"^([\s.,;:()]*)(.*?)([\s(,;:.…]*)$", re.DOTALL)
_SENTENCES = re.compile(r"(?<=[.;:]) ")
# A digest, and what is cited: a standard, or a work with its year.
_AS_IT_IS = re.compile(r"[0-9a-f]{12,}|.*(\bIEC \d|\bNFPA \d|\(\d{4}\)|\b(19|20)\d\d\)).*")
_NAME_WITH_NUMBER = re.compile(r"[^\W\d_].*\d|\d.*[^\W\d_]")
_LETTERS = re.compile(r"[^\W\d_]{2}")
_NAMING = {"name", "title", "customer", "maker", "source", "statement", "id", "time_zone", "date", "digest", "make", "file_name"}


class UnknownLanguage(ValueError):
    """A language, or a way to write numbers, that there is not."""


@dataclass(frozen=True)
class Language:
    """A catalogue: English texts, where `{}` stands for what differs, and the same in another language."""

    key: str
    name: str  # as its readers call it
    numbers: str  # one of NUMBERS
    texts: Mapping[str, str] = field(default_factory=dict)

    @cached_property
    def patterns(self) -> list[tuple[re.Pattern, str]]:
        """Texts with places for others in them, those with the most of their own first."""
        keys = sorted((key for key in self.texts if "{}" in key), key=lambda key: -len(key.replace("{}", "")))
        return [(re.compile("(.+?)".join(map(re.escape, key.split("{}"))), re.DOTALL), self.texts[key]) for key in keys]


@cache
def languages() -> dict[str, Language]:
    """Those that ship, by their keys."""
    found = {"en": Language("en", "English", "1,234.5")}
    for file in sorted((files("noontide.core.report") / "languages").iterdir(), key=lambda file: file.name):
        if file.name.endswith(".json"):
            read = json.loads(file.read_text(encoding="utf-8"))
            key = file.name.removesuffix(".json")
            found[key] = Language(key, read["name"], read["numbers"], read["texts"])
    return found


@dataclass
class Wording:
    """How a report reads: its language, its numbers, and the names that stay as they are.

    `missing` holds what the catalogue does not have; it stands in English.
    """

    language: Language
    marks: tuple[str, str]
    names: frozenset[str] = frozenset()
    units: Mapping[str, Conversion] = field(default_factory=dict)
    missing: set[str] = field(default_factory=set)
    _said: dict[str, str] = field(default_factory=dict)

    @property
    def is_plain(self) -> bool:
        """Whether everything stays as the pages write it."""
        return not self.language.texts and self.marks == NUMBERS["1,234.5"] and not self.units

    def say(self, text: str) -> str:
        """A text as its reader has it; blanks and marks at its ends stay."""
        if self.is_plain or not text.strip():
            return text
        if text not in self._said:
            self._said[text] = self._whole(text)
        return self._said[text]

    def converted(self, value: str, unit: str) -> tuple[str, str]:
        """A number as English writes it, in the reader's unit."""
        to = self.units.get(unit)
        if to is None:
            return value, unit
        decimals = len(value.partition(".")[2])
        found = float(value.replace(",", "").replace("−", "-")) * to.factor + to.offset
        return f"{found:,.{decimals}f}".replace("-", "−"), to.unit

    def _in_units(self, text: str) -> str:
        """The text with every quantity in the reader's units, ranges and sizes with their first numbers too."""
        if not self.units or text.strip() in self.names:
            return text

        def one(found: re.Match) -> str:
            unit = found[3]
            numbers = _NUMBER.sub(lambda number: self.converted(number[0], unit)[0], found[1])
            return f"{numbers}{found[2]}{self.converted('0', unit)[1]}"

        return _QUANTITY.sub(one, text)

    def _whole(self, text: str) -> str:
        text = self._in_units(text)
        found = self._known(text.strip())
        if found is not None:
            return text[: len(text) - len(text.lstrip())] + found + text[len(text.rstrip()) :]
        if _LETTERS.search(text) and self.language.texts:
            self.missing.add(text.strip())
        return self._numbers_in(text)

    def _known(self, text: str) -> str | None:
        """The text, where it is a name, a number, or the catalogue has it, whole or in parts."""
        if not text or text in self.names:
            return text
        text = text.replace("\u00a0", " ")
        if _NUMBER.fullmatch(text):
            return self._number(text)
        if not self.language.texts:
            return self._numbers_in(text)
        if (found := self.language.texts.get(text)) is not None:
            return found
        if not _LETTERS.search(text):
            # Signs alone: a unit, a bearing such as S 12° W, brackets.
            words = [self.language.texts.get(part, part) for part in re.split(r"(\W+)", text)]
            return self._numbers_in("".join(words))
        if (found := self._with_unit(text)) is not None or (found := self._by_pattern(text)) is not None:
            return found
        return text if _AS_IT_IS.fullmatch(text) else self._in_parts(text)

    def _with_unit(self, text: str) -> str | None:
        parts = _WITH_UNIT.fullmatch(text)
        if parts is None:
            return None
        unit = self._unit(parts[3])
        return None if unit is None else f"{self._number(parts[1])}{parts[2]}{unit}"

    def _unit(self, text: str) -> str | None:
        if text in self.language.texts:
            return self.language.texts[text]
        return text if text in self.names or not _LETTERS.search(text) else None

    def _by_pattern(self, text: str) -> str | None:
        for pattern, translated in self.language.patterns:
            found = pattern.fullmatch(text)
            if found is None:
                continue
            parts = [self._inside(part) for part in found.groups()]
            if None not in parts:
                return translated.format(*parts)
        return None

    def _inside(self, text: str) -> str | None:
        """What stands at the place of a pattern."""
        lead, core, trail = _EDGES.fullmatch(text).groups()  # type: ignore[union-attr]
        found = self._known(core) if core else core
        return None if found is None else lead + found + trail

    def _in_parts(self, text: str) -> str | None:
        lead, core, trail = _EDGES.fullmatch(text).groups()  # type: ignore[union-attr]
        if (lead or trail) and core:
            found = self._known(core)
            return None if found is None else lead + found + trail
        for split, joint in ((_SENTENCES, " "), (re.compile(", "), ", "), (re.compile(" and "), None)):
            parts = split.split(text)
            if len(parts) > 1:
                found_parts = [self._known(part) for part in parts]
                if None not in found_parts:
                    return (joint or f" {self.language.texts.get('and', 'and')} ").join(found_parts)  # type: ignore[arg-type]
        return None

    def _number(self, text: str) -> str:
        thousands, decimal = self.marks
        return text.translate({ord(","): thousands, ord("."): decimal})

    def _numbers_in(self, text: str) -> str:
        """The text with its numbers as the reader writes them; those of names stay."""
        if self.marks == NUMBERS["1,234.5"]:
            return text
        inside = [name for name in self.names if _NAME_WITH_NUMBER.search(name) and name in text]
        kept = {chr(0xE000 + i): name for i, name in enumerate(sorted(inside, key=len, reverse=True))}
        for mark, name in kept.items():
            text = text.replace(name, mark)
        text = _AMONG.sub(lambda found: self._number(found[0]), text)
        for mark, name in kept.items():
            text = text.replace(mark, name)
        return text


def wording(language: str = "en", numbers: str = "", names: Iterable[str] = (), units: str = "metric") -> Wording:
    """How a report reads; numbers as the language has them where nothing else is said.

    Raises
    ------
    UnknownLanguage
        If there is no such language, no such way to write numbers, or no such units.
    """
    known = languages()
    if language not in known:
        raise UnknownLanguage(f"There is no language {language[:20]!r}. Choose {', '.join(known)}.")
    if numbers and numbers not in NUMBERS:
        raise UnknownLanguage(f"Numbers are written {', '.join(NUMBERS)}; not {numbers[:20]!r}.")
    if units not in SYSTEMS:
        raise UnknownLanguage(f"Units are {' or '.join(SYSTEMS)}; not {units[:20]!r}.")
    chosen = known[language]
    kept = frozenset(name.strip() for name in names if name.strip())
    return Wording(chosen, NUMBERS[numbers or chosen.numbers], kept, SYSTEMS[units])


def names_in(value: Any) -> set[str]:
    """Every name that a document gives to its things: they are nobody's to translate."""
    found: set[str] = set()
    if isinstance(value, Mapping):
        for key, inner in value.items():
            if isinstance(inner, str):
                if key in _NAMING:
                    found.add(inner)
            else:
                # An id stands for a name where there is none.
                found |= names_in(inner) | ({key} if isinstance(inner, Mapping) and re.search(r"[-\d]", key) else set())
    elif isinstance(value, list | tuple):
        for inner in value:
            found |= names_in(inner)
    return found
