"""The kinds of files that frames can be written to: one file and one line each."""

from collections.abc import Iterable

from coaster.errors import FormatError
from coaster.media import mov, mp4, vectors
from coaster.media.apng import APNG
from coaster.media.gif import GIF
from coaster.media.sequence import SEQUENCE
from coaster.media.still import STILL
from coaster.media.webm import WEBM
from coaster.media.webp import WEBP
from coaster.media.writing import Kind

_ALL = (*mp4.KINDS, WEBM, *mov.KINDS, GIF, WEBP, APNG, SEQUENCE, STILL, *vectors.KINDS)
KINDS: dict[str, Kind] = {kind.name: kind for kind in _ALL}


def kind_for(name: str, wanted: str = "") -> Kind:
    """Return the kind that a file's name asks for by its ending; of several the first, or the one
    that is ``wanted``.

    Errors: FormatError: another ending, or one that does not fit what is wanted.
    """
    able = [kind for kind in KINDS.values() if name.lower().endswith(kind.ending)]
    if not able:
        endings = _either(dict.fromkeys(kind.ending for kind in KINDS.values()))
        raise FormatError(f"{name}: a render is a file that ends in {endings}.")
    if not wanted:
        return able[0]
    found = next((kind for kind in able if kind.name == wanted), None)
    if found is None:
        names = _either(kind.name for kind in able)
        raise FormatError(f"{name} cannot be written as {wanted}; its ending is that of {names}.")
    return found


def _either(names: Iterable[str]) -> str:
    *most, last = names
    return f"{', '.join(most)} or {last}" if most else last


def kind_named(name: str) -> Kind:
    """Errors: FormatError: no kind is called so."""
    if name not in KINDS:
        raise FormatError(f"{name[:40]!r} is no format of renders: there are {', '.join(KINDS)}.")
    return KINDS[name]
