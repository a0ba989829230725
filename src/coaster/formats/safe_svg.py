"""Drawings that are safe to use: well-formed, of a sane size, and nothing in them runs or loads."""

import base64
import re
from collections.abc import Iterator
from pathlib import Path as File
from xml.etree.ElementTree import Element, ParseError

import defusedxml.ElementTree as SafeTree
from defusedxml.common import DefusedXmlException

from coaster.errors import FormatError

LARGEST_FILE = 8_000_000
DEEPEST, MOST_DRAWN = 64, 50_000
_OUTSIDE = re.compile(r"url\(\s*['\"]?\s*(?!#|['\"]?#)(?!data:image/(?:png|jpeg|webp))", re.I)


def parse(source: File | bytes) -> Element:
    """Return the root element of a drawing that is safe to use.

    Errors: FormatError.
    """
    data = source if isinstance(source, bytes) else source.read_bytes()
    if not data.strip():
        raise FormatError("The file is empty.")
    if len(data) > LARGEST_FILE:
        raise FormatError(
            f"The drawing is {len(data) / 1e6:.0f} MB; at most {LARGEST_FILE / 1e6:.0f} MB are"
            " read."
        )
    try:
        root: Element = SafeTree.fromstring(data)
    except DefusedXmlException as error:
        raise FormatError(
            "The drawing defines entities or loads from outside; that is not read."
        ) from error
    except (ParseError, ValueError, LookupError) as error:
        raise FormatError(f"This is not a readable SVG: {error}.") from error
    if tag_of(root) != "svg":
        raise FormatError(f"This is no SVG: its root is <{tag_of(root) or '?'}>.")
    for element, depth in walk(root):
        if depth > DEEPEST:
            raise FormatError(f"The drawing is nested more than {DEEPEST} deep.")
        _refuse_unsafe(element)
    if _drawn_elements(root) > MOST_DRAWN:
        raise FormatError(
            f"The drawing uses its parts so often that it draws more than {MOST_DRAWN:,} of them."
        )
    return root


def _drawn_elements(root: Element) -> int:
    """Return how many elements are drawn when each ``use`` stands for what it refers to.

    Errors: FormatError: a part uses itself.
    """
    ids = {e.get("id"): e for e, _ in walk(root) if e.get("id")}
    counts: dict[Element, int] = {}
    # Without recursion: a hostile drawing is deeper than Python's stack.
    under_way: set[Element] = set()
    waiting = [root]
    while waiting:
        element = waiting[-1]
        if element in counts:
            waiting.pop()
            continue
        used = ids.get(reference(element)) if tag_of(element) == "use" else None
        inner = [*element, *([used] if used is not None else [])]
        missing = [e for e in inner if e not in counts]
        if not missing:
            # Kept from growing past all bounds: uses of uses double at each step.
            counts[element] = min(1 + sum(counts[e] for e in inner), MOST_DRAWN + 1)
            under_way.discard(element)
            continue
        if any(e in under_way for e in missing):
            raise FormatError("The drawing refers to itself: a part uses itself.")
        under_way.add(element)
        waiting += missing
    return counts[root]


def reference(element: Element) -> str:
    href = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
    return href.strip().removeprefix("#")


def embedded_pictures(root: Element) -> Iterator[bytes]:
    """Yield the pictures that a drawing holds as data.

    Errors: FormatError: data that cannot be decoded.
    """
    for element, _ in walk(root):
        for value in element.attrib.values():
            match = re.match(r"\s*data:image/\w+;base64,(.*)", value, re.S)
            if match:
                try:
                    yield base64.b64decode(match.group(1))
                except ValueError as error:
                    raise FormatError("A picture in the drawing is broken.") from error


def walk(root: Element) -> Iterator[tuple[Element, int]]:
    waiting = [(root, 0)]
    while waiting:
        element, depth = waiting.pop()
        yield element, depth
        waiting += [(child, depth + 1) for child in element]


def _refuse_unsafe(element: Element) -> None:
    tag = tag_of(element).lower()
    if tag in ("script", "foreignobject", "iframe"):
        raise FormatError(
            f"The drawing holds a <{tag}>; drawings that could run something are not read."
        )
    for key, value in element.attrib.items():
        name = key.rpartition("}")[2].lower()
        if name.startswith("on"):
            raise FormatError(
                f"The drawing holds a script in {name}; drawings that could run something are not"
                " read."
            )
        if name in ("href", "src") and not re.match(
            r"\s*(#|data:image/(png|jpeg|webp)[;,])", value
        ):
            raise FormatError(
                f"The drawing refers to something outside itself ({value[:40]!r}); that is not"
                " loaded."
            )
        if _OUTSIDE.search(value):
            raise FormatError(
                "The drawing refers to something outside itself in a style; that is not loaded."
            )
    if tag == "style" and (
        _OUTSIDE.search(element.text or "") or "@import" in (element.text or "")
    ):
        raise FormatError(
            "The drawing's style sheet refers to something outside itself; that is not loaded."
        )


def tag_of(element: Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""
