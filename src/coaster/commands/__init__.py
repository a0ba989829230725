"""Edits of a scene, each with its exact inverse; importing this registers every kind."""

from coaster.commands import clock, fields, layers, paths, rides, whole
from coaster.commands.base import KINDS, Command, applied, apply_all, conflict, from_data, to_data

__all__ = [
    "KINDS",
    "Command",
    "applied",
    "apply_all",
    "clock",
    "conflict",
    "fields",
    "from_data",
    "layers",
    "paths",
    "rides",
    "to_data",
    "whole",
]
