"""What the editor's controls send: each form reads fields and calls a plan of the core."""

from studio.editor.forms import (
    carriers,
    footage,
    frames,
    gradients,
    insets,
    keys,
    layers,
    looping,
    masks,
    nodes,
    pasting,
    paths,
    rides,
    scene,
    several,
    takes,
    wakes,
)
from studio.editor.forms.base import FORMS, EditForm

__all__ = [
    "FORMS",
    "EditForm",
    "carriers",
    "footage",
    "frames",
    "gradients",
    "insets",
    "keys",
    "layers",
    "looping",
    "masks",
    "nodes",
    "pasting",
    "paths",
    "rides",
    "scene",
    "several",
    "takes",
    "wakes",
]
