"""A value known by its identity: to hash or compare all of it takes longer than what is asked."""

from typing import Generic, TypeVar

T = TypeVar("T")


class Same(Generic[T]):
    """One object in the place of its value; equal only where that is the very same one."""

    __slots__ = ("value",)

    def __init__(self, value: T) -> None:
        self.value = value

    def __hash__(self) -> int:
        return id(self.value)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Same) and self.value is other.value
