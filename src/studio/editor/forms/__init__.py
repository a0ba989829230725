"""What the editor's controls send: each form turns what was typed into commands, or says what is wrong."""

from studio.editor.forms import keys, layers, nodes, paths, rides, scene, takes, transfers
from studio.editor.forms.base import FORMS, EditForm

__all__ = ["FORMS", "EditForm", "keys", "layers", "nodes", "paths", "rides", "scene", "takes", "transfers"]
