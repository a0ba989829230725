"""Sentences that Python made, in the language of who reads them.

They are made, kept and logged in English, as the history of a scene and the words of a render are
read by others than who caused them, and the core knows of no readers. Where they are shown, they
are looked up in a catalogue of sentences, ``said.po``: as they are, or by the pattern that they
were made by, ``{name} has no mask.``, whose values go into the translation at their names.
"""

import re
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Self

from babel.messages.mofile import read_mo
from django.conf import settings
from django.utils.translation import get_language

SOURCE = "en"
GIVEN = re.compile(r"\{(\w+)\}")
OWN_NAMES = re.compile(r"(name|names|path|file|label|shown|text|cell|item)\d*")
"""Values that people named or typed: never translated, whatever else is called so."""
SENTENCES = re.compile(r"(?<=[.!?]) (?=\S)")
DEEPEST, LONGEST = 4, 10
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
    # Within a sentence the first word of what stands alone elsewhere is small.
    if found := catalogue.whole.get(text) or catalogue.whole.get(text[:1].upper() + text[1:]):
        return found
    if depth == DEEPEST:
        return text
    label, parted, rest = text.partition(": ")  # as forms complain of a field
    if parted and label in catalogue.whole:
        return f"{catalogue.whole[label]}: {_told(rest, language, depth + 1)}"
    for pattern in catalogue.patterns:
        if len(text) > LONGEST * pattern.letters:
            break
        if match := pattern.made.fullmatch(text):
            return pattern.filled(
                {
                    name: value if OWN_NAMES.fullmatch(name) else _told(value, language, depth + 1)
                    for name, value in match.groupdict().items()
                }
            )
    sentences = SENTENCES.split(text)
    if len(sentences) == 1:
        return text
    return " ".join(_told(sentence, language, depth + 1) for sentence in sentences)


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
            made += f"(?P={part})" if part in seen else f"(?P<{part}>.+?)"
            seen.add(part)
        return re.compile(made, re.DOTALL)

    def filled(self, values: dict[str, str]) -> str:
        return GIVEN.sub(lambda given: values[given[1]], self.told)

    @property
    def letters(self) -> int:
        """How much of it is always there."""
        return len(GIVEN.sub("", self.source))


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
