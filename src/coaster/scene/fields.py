"""What of a scene is filled in from outside: fields, each of one layer or path, by a name."""

from typing import Annotated

from pydantic import AfterValidator

from coaster.documents import Rule, document
from coaster.geometry.path import Id, Name
from coaster.scene.properties import PROPERTIES

WHOLE = ("text", "picture", "shape")
"""What is filled in that is no property: words, another picture, the course of a path."""
MOST_FIELDS = 100


def _known(what: str) -> str:
    if what not in WHOLE and what not in PROPERTIES:
        raise ValueError(f"there is nothing called {what!r:.40} to be filled in")
    return what


@document
class SceneField:
    """What is filled in under a ``name``: of a layer its ``text``, its ``picture`` or a property,
    of a path its ``shape``. One whose layer or path is gone fills in nothing.
    """

    name: Name
    of: Id
    what: Annotated[str, Rule(max_length=40), AfterValidator(_known)]
