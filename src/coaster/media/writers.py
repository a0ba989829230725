"""The kinds of files that frames can be written to: one file and one line each."""

from coaster.errors import FormatError
from coaster.media.apng import APNG
from coaster.media.mp4 import MP4
from coaster.media.sequence import SEQUENCE
from coaster.media.webm import WEBM
from coaster.media.writing import Kind

KINDS: dict[str, Kind] = {kind.name: kind for kind in (MP4, WEBM, APNG, SEQUENCE)}


def kind_for(name: str) -> Kind:
    """Return the kind that a file's name asks for by its ending.

    Errors: FormatError: another ending.
    """
    found = next((kind for kind in KINDS.values() if name.lower().endswith(kind.ending)), None)
    if found is None:
        *most, last = [kind.ending for kind in KINDS.values()]
        raise FormatError(f"{name}: a render is a file that ends in {', '.join(most)} or {last}.")
    return found
