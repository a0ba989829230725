"""Coaster's core: paths, pace, facing, pictures and files, without any interface."""

__version__ = "0.4.0"
