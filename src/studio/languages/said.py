"""Sentences that Python made, in the language of who reads them.

They are made, kept and logged in English, as the history of a scene and the words of a render are
read by others than who caused them, and the core knows of no readers. Where they are shown, they
are looked up in a catalogue of sentences, ``said.po``: as they are, or by the pattern that they
were made by, ``{name} has no mask.``, whose values go into the translation at their names.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property, lru_cache, partial
from typing import Self

from babel.messages.mofile import read_mo
from django.conf import settings
from django.utils.translation import get_language

SOURCE = "en"
GIVEN = re.compile(r"\{(\w+)\}")
OWN_NAMES = re.compile(r"(name|names|path|file|shown|text|cell|item)\d*")
"""Values that people named or typed: never translated, whatever else is called so."""
SHAPES = {
    "counted": r"(?:\d+|an?) [a-z]+(?: [a-z]+)?",
    "count": r"\d+(?: [a-z]+){0,3}|an? [a-z]+",
    "picked": r"\d+ (?:keys?|pegs?|pegs and keys)",
    "number": r"-?[\d.e+-]+",
    "unit": ".*?",
    "more": ".*?",
    "where": ".*?",
}
"""How some values look, by their names; all others are anything that is something."""
TELLING = 4
"""So many letters is a value worth whose look is known."""
PARTED = {r"\n": any, r"(?<=[.!?]) ": any, ": ": any, "; ": all, ", ": all}
"""What stands between sentences, or parts of one, that were put together; and whether all of these
have to be known, as in a list.
"""
DEEPEST, LONGEST = 5, 10
"""How far sentences are within sentences, and how many times longer one may be than what is always
there of its pattern: longer ones are others, which only have some of its words.
"""


def language() -> str:
    """Return the language of who reads: ``en``, ``de``."""
    return (get_language() or SOURCE).split("-")[0]


def said(text: object) -> str:
    """Return a sentence in the language of the reader, or as it is where it is in no catalogue."""
    words = str(text)
    return words if language() == SOURCE else _told(words, language(), 0)


@lru_cache(maxsize=8192)
def _told(text: str, language: str, depth: int) -> str:
    catalogue = Catalogue.of(language)
    # What stands alone elsewhere may be small within a sentence, and the other way round.
    for words in (text, text[:1].upper() + text[1:], text[:1].lower() + text[1:]):
        if words in catalogue.whole:
            return catalogue.whole[words]
    if depth == DEEPEST:
        return text
    told = partial(_told, language=language, depth=depth + 1)
    label, parted, rest = text.partition(": ")  # as forms complain of a field
    if parted and label in catalogue.whole and told(rest) != rest:
        return f"{catalogue.whole[label]}: {told(rest)}"
    for pattern in catalogue.patterns:
        if len(text) > LONGEST * pattern.letters:
            break
        if match := pattern.made.fullmatch(text):
            values = match.groupdict().items()
            return pattern.filled(
                {key: value if OWN_NAMES.fullmatch(key) else told(value) for key, value in values}
            )
    return _by_parts(text, told)


def _by_parts(text: str, told: Callable[[str], str]) -> str:
    """Return what was put together of parts with those told that are known."""
    for between, enough in PARTED.items():
        # Parts, and between them what parts them.
        parts = re.split(f"({between})", text)
        known = [told(part) for part in parts[::2]]
        if known != parts[::2] and enough(map(_is_known, parts[::2], known)):
            parts[::2] = known
            return "".join(parts)
    bare = text.removesuffix(".")
    return text if bare == text else told(bare) + "."


def _is_known(part: str, told: str) -> bool:
    """Whether a part has a translation, or is a number, which needs none."""
    return told != part or not re.search(r"[^\W\d_]", part)


@dataclass(frozen=True)
class Pattern:
    """A sentence with values in it, and what it is in another language."""

    source: str
    told: str

    @cached_property
    def made(self) -> re.Pattern[str]:
        """What matches the sentences made by it; a value that is said twice is the same twice."""
        made, seen = "", set[str]()
        for i, part in enumerate(GIVEN.split(self.source)):
            if i % 2 == 0:
                made += re.escape(part)
                continue
            shape = SHAPES.get(part.rstrip("0123456789"), ".+?")
            made += f"(?P={part})" if part in seen else f"(?P<{part}>{shape})"
            seen.add(part)
        return re.compile(made, re.DOTALL)

    def filled(self, values: dict[str, str]) -> str:
        return GIVEN.sub(lambda given: values[given[1]], self.told)

    @property
    def letters(self) -> int:
        """How much of it is always there, or known by its look."""
        shaped = sum(name.rstrip("0123456789") in SHAPES for name in GIVEN.findall(self.source))
        return len(GIVEN.sub("", self.source)) + TELLING * shaped


@dataclass(frozen=True)
class Catalogue:
    """The sentences of one language, and those with values in them, the most telling first."""

    whole: dict[str, str]
    patterns: list[Pattern]

    @classmethod
    @lru_cache
    def of(cls, language: str) -> Self:
        file = settings.LOCALE_PATHS[0] / language / "LC_MESSAGES" / "said.mo"
        with file.open("rb") as read:
            pairs = {str(each.id): str(each.string) for each in read_mo(read) if each.id}
        patterns = [Pattern(id, told) for id, told in pairs.items() if GIVEN.search(id)]
        whole = {id: told for id, told in pairs.items() if not GIVEN.search(id)}
        return cls(whole, sorted(patterns, key=lambda each: -each.letters))
