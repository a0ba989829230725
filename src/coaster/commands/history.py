"""Undo and redo over an append-only history: which revision each would take back."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Heads:
    """The revision that undo takes back next, and the one that redo does; 0 for none.

    Undo appends the inverse of ``undo``; redo appends the inverse of ``redo``, which is itself
    an undo. Each revision keeps the heads after it, so that the state before any revision is
    known, and nothing else needs to be stored.
    """

    undo: int = 0
    redo: int = 0

    def after_edit(self, number: int) -> "Heads":
        """An edit can be undone; what was undone before it is no longer redone."""
        return Heads(number, 0)

    def after_undo(self, number: int, before_undone: "Heads") -> "Heads":
        """Revision ``number`` took back ``undo``, before which the heads were ``before_undone``."""
        return Heads(before_undone.undo, number)

    def after_redo(self, number: int, before_redone: "Heads") -> "Heads":
        """Revision ``number`` took back the undo ``redo``, before which they were
        ``before_redone``.
        """
        return Heads(number, before_redone.redo)
