"""Coaster's core: paths, pace, facing, pictures and files, without any interface."""

__version__ = "0.5.0"
