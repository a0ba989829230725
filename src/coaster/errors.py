"""What the core refuses, in words a person can act on."""


class CoreError(Exception):
    """Base of every refusal of the core; ``str()`` is one clear sentence."""

    def __str__(self) -> str:
        return str(self.args[0]) if self.args else self.__class__.__name__


class GeometryError(CoreError, ValueError):
    """Coordinates that make no path: wrong shape, not finite, out of range."""


class SceneError(CoreError, ValueError):
    """A document that breaks the scene's rules."""


class UnknownId(CoreError, KeyError):  # noqa: N818 - it says what is wrong as it is
    """An id that the scene does not hold."""


class EditRefused(CoreError, ValueError):  # noqa: N818 - an outcome, not a mistake
    """A command that does not fit the scene as it is."""


class FormatError(CoreError, ValueError):
    """A file or text that cannot be read as what it claims to be."""


class MediaError(CoreError, ValueError):
    """A picture or video that cannot be decoded or encoded."""


class RenderError(CoreError, RuntimeError):
    """A render that failed; ``frame`` is the frame it failed on, if it is known."""

    def __init__(self, words: str, frame: int | None = None) -> None:
        super().__init__(words)
        self.frame = frame


class RenderCancelled(CoreError, RuntimeError):  # noqa: N818 - an outcome, not a mistake
    """A render that was asked to stop."""
