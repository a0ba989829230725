"""Edits of a scene, each with its exact inverse; importing this registers every kind."""

from coaster.commands import layers, paths, rides, settings
from coaster.commands.base import KINDS, Command, apply_all, conflict, from_data, to_data

__all__ = ["KINDS", "Command", "apply_all", "conflict", "from_data", "layers", "paths", "rides", "settings", "to_data"]
