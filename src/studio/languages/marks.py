"""All texts of the studio, as its files have them: what the catalogues of a language have to hold.

Templates mark theirs as Django's translations have it, scripts by the tag ``tr`` of a template
literal. What Python says is found by how it reads: a literal of words, or an f-string, whose
values have the names that they have there.
"""

import ast
import io
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from babel.messages.extract import extract_python
from django.conf import settings
from django.utils.translation.template import templatize

from coaster.edits.layers import NEW_THINGS
from coaster.motion.wakes import READY
from coaster.scene.contents import KINDS
from coaster.scene.properties import TABLE
from studio.editor import panels
from studio.editor.forms.follows import CURVES

STUDIO = settings.PACKAGE
CORE = STUDIO.parent / "coaster"
MARKS = dict.fromkeys(("gettext", "ngettext", "pgettext", "_"))
Message = str | tuple[str, str]
"""A text, or one thing and several."""


def of_templates() -> set[tuple[str, Message]]:
    """Return all texts of templates, each with its context, "" where it has none."""
    found: set[tuple[str, Message]] = set()
    for file in STUDIO.rglob("*.html"):
        # In brackets indents are nothing that Python minds.
        source = io.BytesIO(f"({templatize(file.read_text())})".encode())
        for _, mark, words, _ in extract_python(source, MARKS, [], {}):
            match mark, words:
                case "ngettext", (str(one), str(several), *_):
                    found.add(("", (one, several)))
                case "pgettext", (str(context), str(text)):
                    found.add((context, text))
                case "_", str(text):  # what a tag is given; Django doubles its percent signs later
                    found.add(("", text.replace("%", "%%")))
                case _, str(text):
                    found.add(("", text))
    return found


def of_scripts() -> set[str]:
    """Return all texts of scripts, and words of the core's that these show: {0} stands for the
    first value, and so on.
    """
    scripts = (STUDIO / "static" / "studio" / "js").glob("*.js")
    found = {text for file in scripts for text in _tagged(file.read_text())}
    return found | KEYS | {word for word in shown_words() if word.islower()}


def _tagged(source: str) -> Iterator[str]:
    for start in re.finditer(r"(?<![\w.])tr`", source):
        text, at, values = "", start.end(), 0
        while source[at] != "`":
            if source.startswith("${", at):
                at = _behind(source, at + 2)
                text += f"{{{values}}}"
                values += 1
            else:
                at += source[at] == "\\"
                text += source[at]
                at += 1
        yield text


def _behind(source: str, at: int) -> int:
    """Return where the value that begins here is over."""
    depth = 1
    while depth:
        depth += {"{": 1, "}": -1}.get(source[at], 0)
        at += 1
    return at


READ_BY_OTHERS = (
    "studio/demo",
    "studio/config",
    "studio/upkeep",
    "studio/api/told.py",
    "studio/api/operations.py",
    "studio/languages",
    "/management/",
    "/migrations/",
    "coaster/cli",
)
"""Files that say nothing to who sits before the studio."""
WORDS = re.compile(r"[^\W\d_]|[\s\d.,;:!?'’“”…()×%°/–·&+\-\[\]#<>]")
"""What people read is made of letters and of these."""
COUNTED = re.compile(r'\|called:"([^"]+)"')
TOO_COMMON = {"{count} {noun}", "{count} {noun}s", "{name} {value}", "{family} {style}"}
"""What would be found in anything."""
OF_VALUES = {"{verb} {picked}"}
"""What is made of values alone, of which one is known by its look."""
KEYS = frozenset(("Alt", "Backspace", "Ctrl", "Delete", "Double click", "Drag", "End", "Enter"))
KEYS |= {"Home", "Menu", "Shift", "Space", "arrows", "click", "drag"}
_ALONE = """
Accent Anchor Background Begins Camera Close Delete Disable Ellipse Enable Faces Fast Font
Frames Free Glide Gradient Group Helper Join Key Layer Left Light Lock Loops Mask Mid Motion
Move Open Part Path Peg Picture Pin Pop Project Push Range Reverse Samples Seam Shape Shown
Slow Split Square Stagger Start Take Tall Undo Unlock Wall Wide Work Z file keys layer path
take
"""
ALONE = frozenset(_ALONE.split())
"""Verbs and nouns that stand alone in sentences."""
CODE = r"^[MC][\d{%]|^\{?\w*\}?</?[a-z]|\w\[|\] \|"
"""Path data, markup, and annotations."""


def of_python() -> set[str]:
    """Return all sentences, what reads like a part of one, counts with their nouns, and words that
    stand alone.
    """
    files = [file for part in (CORE, STUDIO) for file in part.rglob("*.py")]
    told = [file for file in files if not _is_for_others(file)]
    nouns = {noun for file in STUDIO.rglob("*.html") for noun in COUNTED.findall(file.read_text())}
    found = {text for file in told for text in _said(ast.parse(file.read_text()))}
    counts = {text for noun in nouns for text in _counts(noun)}
    return (found - TOO_COMMON) | counts | shown_words() | ALONE | OF_VALUES


def shown_words() -> set[str]:
    """Return the words of tables that are shown as they are, or beside what they are called by."""
    lists: list[Any] = [*panels.CHOICES.values(), *panels.LINE_UP.values(), panels.AFTERS, CURVES]
    rows = [row for each in lists for row in each]
    named = {row for row in rows if isinstance(row, str) and row[:1].isalpha()}
    labelled = {label for row in rows if isinstance(row, tuple) for label in row[1:]}
    sides = {row[0] for each in panels.LINE_UP.values() for row in each}
    kinds = {*KINDS, *NEW_THINGS, *READY, *(figure for figure, _ in panels.FIGURES)}
    looks, nodes = {look for look, _ in panels.LOOKS_WORDS}, {word for _, word in panels.KINDS}
    # Those of stops have numbers in them, and a pattern.
    properties = {row.words for row in TABLE if not re.search(r"\d", row.words)}
    plain = {word for word in labelled | sides if re.fullmatch("[A-Za-z]+", word)}
    return named | plain | kinds | looks | nodes | properties


def _is_for_others(file: Path) -> bool:
    named = file.relative_to(STUDIO.parent).as_posix()
    return any(part in named for part in READ_BY_OTHERS)


def _counts(noun: str) -> tuple[str, str]:
    return f"1 {noun}", f"{{count}} {noun}s"


def _said(tree: ast.Module) -> Iterator[str]:
    silent = set[int]()
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            silent.add(id(node.value))  # a docstring
        if isinstance(node, ast.JoinedStr):
            silent.update(id(part) for part in node.values)
        match node:
            case ast.Call(func=ast.Name(id="called"), args=[_, ast.Constant(value=str(noun))]):
                yield from _counts(noun)
            case ast.keyword(arg="label", value=ast.Constant(value=str(label))):
                yield label
        if isinstance(node, ast.JoinedStr | ast.Constant) and id(node) not in silent:
            text = _pattern(node)
            if reads_like_words(text):
                yield text


def reads_like_words(text: str) -> bool:
    fixed = re.sub(r"\{\w+\}", "", text)
    return (
        " " in text.strip()
        and re.search(r"[^\W\d_]{2}", fixed) is not None
        and all(WORDS.fullmatch(letter) for letter in fixed)
        and not re.search(CODE, text)
    )


def _pattern(node: ast.Constant | ast.JoinedStr) -> str:
    if isinstance(node, ast.Constant):
        return node.value.strip("\n") if isinstance(node.value, str) else ""
    text, named = "", dict[str, str]()
    for part in node.values:
        if isinstance(part, ast.Constant):
            text += str(part.value)
            continue
        assert isinstance(part, ast.FormattedValue)  # noqa: S101 - nothing else is in one
        source = ast.unparse(part.value)
        if source not in named:
            name = _name(part.value)
            taken = [each for each in named.values() if each.rstrip("0123456789") == name]
            named[source] = f"{name}{len(taken) + 1}" if taken else name
        text += f"{{{named[source]}}}"
    return text


def _name(value: ast.expr) -> str:
    """Return what a value is called where it is said."""
    match value:
        case ast.Name(id=name) | ast.Attribute(attr=name):
            return name.strip("_").lower() or "value"
        case ast.Call(func=ast.Name(id="called"), args=[_, _]):
            return "counted"
        case ast.Call(func=ast.Attribute(attr="join"), args=[given]):
            return _name(given)
        case ast.Call(func=ast.Attribute(value=inner, attr="capitalize" | "lower" | "rstrip")):
            return _name(inner)
        case ast.GeneratorExp(elt=inner) | ast.Subscript(value=inner):
            return _name(inner)
        case ast.Call(func=func):
            return _name(func)
        case _:
            return "value"
