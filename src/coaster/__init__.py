"""Coaster's core: paths, pace, facing, pictures and files, without any interface.

In scripts: ``coaster.open``, ``coaster.new``, ``coaster.smooth``, ``coaster.plans`` (see
``coaster.work``).
"""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from coaster.work import Motion, Work, new, plans, smooth
    from coaster.work import open_work as open

__version__ = "0.5.0"
__all__ = ["Motion", "Work", "__version__", "new", "open", "plans", "smooth"]


def __getattr__(name: str) -> Any:
    # Read when it is asked for: whoever needs one part does not wait for all.
    if name not in __all__:
        raise AttributeError(f"coaster has no {name!r}")
    from coaster import work

    return getattr(work, "open_work" if name == "open" else name)
