"""Plugins of pydantic, of which commands need none."""

import importlib
import sys
from types import ModuleType
from typing import Any

LOADER = "pydantic.plugin._loader"


class _NoPlugins(ModuleType):
    """Stands for the module that finds plugins, and finds none. To read what is said of all that is
    installed, and to import what reads it, would be a sixth of a short command's time.

    Whatever else is asked of it the real one answers, as its name is pydantic's own affair.
    """

    get_plugins = staticmethod(tuple)

    def __getattr__(self, name: str) -> Any:
        if name.startswith("__"):
            raise AttributeError(name)
        sys.modules.pop(self.__name__, None)
        return getattr(importlib.import_module(self.__name__), name)


def look_for_none() -> None:
    """Have pydantic look for no plugins, unless it has done so."""
    sys.modules.setdefault(LOADER, _NoPlugins(LOADER))
