"""Edits as earlier versions stored them, read as those of now, so that old revisions can be undone.

Up to 0.4.0 each field had a command of its own: ``{"kind": "layer.rename", "layer_id": ..., "name":
...}``.
"""

from typing import Any

Data = dict[str, Any]

_FIELDS: dict[str, tuple[str, str]] = {
    "layer.rename": ("layer", "layer_id"),
    "layer.show": ("layer", "layer_id"),
    "layer.lock": ("layer", "layer_id"),
    "layer.place": ("layer", "layer_id"),
    "layer.fill": ("layer", "layer_id"),
    "layer.time": ("layer", "layer_id"),
    "path.rename": ("path", "path_id"),
    "path.show": ("path", "path_id"),
    "path.lock": ("path", "path_id"),
    "path.colour": ("path", "path_id"),
    "path.strength": ("path", "path_id"),
    "path.shape": ("path", "path_id"),
    "path.drawn": ("path", "path_id"),
    "ride.facing": ("ride", "layer_id"),
    "ride.course": ("ride", "layer_id"),
    "ride.pegs": ("ride", "layer_id"),
    "ride.pace": ("ride", "layer_id"),
    "ride.time": ("ride", "layer_id"),
    "scene.frame": ("scene", ""),
    "scene.pace": ("scene", ""),
}
"""Kinds that are ``set`` now: whose fields they set, and which of theirs names the owner."""


def brought_up_to_date(data: Data) -> Data:
    """Return an edit's JSON in the form of now; one that is in that form stays as it is."""
    kind = data.get("kind")
    if kind in _FIELDS:
        owner, named = _FIELDS[kind]
        values = {key: value for key, value in data.items() if key not in ("kind", named)}
        return {"kind": "set", "owner": owner, "id": data.get(named, ""), "values": values}
    if kind == "layer.order":  # there were no groups
        moved = {key: value for key, value in data.items() if key not in ("kind", "index")}
        return {"kind": "layer.move", "parent": None, "place": data.get("index"), **moved}
    return data
