"""What a layer travels with, without being in a group with it."""

from coaster.documents import document
from coaster.geometry.path import Id

LONGEST_CHAIN = 40
"""Carriers that are carried by carriers, at most."""


@document
class Carrier:
    """Another layer, from whose anchor a layer's place is told: in px that turn with it if
    ``turn``, and grow with it if ``scale``.
    """

    layer: Id
    turn: bool = False
    scale: bool = False
