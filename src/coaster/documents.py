"""Classes of the document: frozen values that are checked when they are made.

Pydantic does that. It is read, and told of a class, when the first value is to be checked: to read
it takes a third of a command's time that makes a few values of numbers that it has checked itself.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from functools import cache, wraps
from typing import Annotated, Any, TypeVar, dataclass_transform

Kind = TypeVar("Kind")
STRICT = {"extra": "forbid", "allow_inf_nan": False}
"""What else there is of pydantic's settings is as usual."""
_KINDS = list[type]()
"""All classes in the order they were made: those that others hold come first."""
_trusted = ContextVar("trusted", default=False)


class Rule:
    """What holds for a value, in the words of pydantic's ``Field``, as in ``Rule(ge=0)``."""

    def __init__(self, **words: Any) -> None:
        self._words = words

    def __get_pydantic_core_schema__(self, source: Any, handler: Any) -> Any:
        from pydantic import Field

        return handler.generate_schema(Annotated[source, Field(**self._words)])


@dataclass_transform(frozen_default=True, field_specifiers=(field,))
def document(kind: type[Kind]) -> type[Kind]:
    """Make a class a frozen dataclass whose values are checked; its defaults are good as they are.

    Errors: pydantic's ValidationError, where one is made of what is against its rules.
    """
    made: Any = dataclass(frozen=True, slots=True)(kind)
    plain = made.__init__

    @wraps(plain)
    def checked(self: Kind, *values: Any, **named: Any) -> None:
        if (values or named) and not _trusted.get():
            _checker(made)(values, named, self)
        else:
            plain(self, *values, **named)

    made.__init__, made.__pydantic_config__ = checked, STRICT
    _KINDS.append(made)
    return made  # type: ignore[no-any-return]


@cache
def _checker(kind: Any) -> Callable[..., Any]:
    from pydantic import TypeAdapter
    from pydantic_core import ArgsKwargs

    adapter = TypeAdapter[Any](kind)
    # Where pydantic looks for it: so classes that hold this one have no need to work it out again.
    kind.__pydantic_core_schema__ = adapter.core_schema
    validate = adapter.validator.validate_python

    def check(values: tuple[Any, ...], named: dict[str, Any], made: object) -> None:
        validate(ArgsKwargs(values, named), self_instance=made)

    return check


def know_all() -> None:
    """Get ready for all classes there are: whoever has them all needs most of them."""
    for kind in _KINDS:
        _checker(kind)


@contextmanager
def trusted() -> Iterator[None]:
    """Check nothing that is made within, of values that are known to keep the rules: that takes a
    fifth of the time, and nobody has to read pydantic.
    """
    before = _trusted.set(True)
    try:
        yield
    finally:
        _trusted.reset(before)


def swapped(thing: Kind, **fields: Any) -> Kind:
    """Return a frozen value with other fields that need no checking, in a tenth of the time."""
    kind = type(thing)
    after = object.__new__(kind)
    for name in kind.__slots__:  # type: ignore[attr-defined]  # of dataclasses that have them
        object.__setattr__(after, name, fields[name] if name in fields else getattr(thing, name))
    return after
