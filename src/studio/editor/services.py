"""The only way to change a scene's document: edit, undo, redo, and a look ahead at an edit."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Self

from django.db import transaction
from django.utils import timezone
from pydantic import ValidationError

from coaster import commands as core_commands
from coaster.commands.base import Command
from coaster.commands.history import Heads
from coaster.commands.holding import held
from coaster.edits.edit import Edit, edit_of
from coaster.errors import CoreError, EditRefused
from coaster.scene import codec, limits
from coaster.scene.document import Scene as Document
from studio.projects import shown
from studio.projects.models import Revision, Scene
from studio.projects.querysets import Person
from studio.projects.services import allow

SNAPSHOT_EVERY = 50
LONGEST_WORDS = 200
JOINED_WITHIN = timedelta(milliseconds=500)
Plan = Callable[[Document], Edit]
"""From the scene as it stands to what was asked for."""


class StaleRevision(CoreError):  # noqa: N818 - an outcome, not a mistake
    """An edit of a part that was changed since in another window."""


@dataclass(frozen=True)
class Edited:
    """What was done: the scene before, where that is known, and after, the revision it has now, and
    the edit with its words.
    """

    before: Document | None
    after: Document
    revision: int
    edit: Edit
    words: str
    heads: Heads


def edit(
    user: Person, scene_pk: int, plan: Plan, *, base: int, nudge: bool = False, key: str = ""
) -> Edited:
    """Carry out a plan as one revision; a ``nudge`` is undone together with those of the same part
    just before it. One with the ``key`` of a revision since the base was carried out already.

    ``base`` is the revision the person was looking at. If the scene has moved on since, the
    plan is made on the scene as it is now, unless it touches what was changed meanwhile.

    Errors: StaleRevision; EditRefused and other CoreErrors: it does not fit. Nothing is changed.
    """
    seen = _seen(user, scene_pk)
    if (done := _done_already(seen, base, key)) is not None:
        return done
    # Before anything is locked: a plan may take long, and nobody else should wait for it.
    made = _Made.of(plan, seen)
    with transaction.atomic():
        scene = _locked(user, scene_pk)
        if (done := _done_already(scene, base, key)) is not None:
            return done
        if scene.document != seen.document:
            made = _Made.of(plan, scene)
        _check_base(scene, made.edit, base)
        shown.check(scene, made.before, made.after)
        last = _last(scene)
        # What changes nothing is no step of the history: undo must always be seen to do something.
        if made.after == made.before:  # nothing was asked for, or what is
            return Edited(made.before, made.before, scene.revision, made.edit, "", last.heads)
        number = scene.revision + 1
        words = _words(made.edit, made.before)
        commands = made.edit.commands
        # Arrow keys held down are one edit for undo, but each is kept at once.
        joins = nudge and _joins(last, user, commands)
        heads = last.heads.after_edit(number)
        step = _Step(number, words, commands, made.inverses, heads, joins, key)
        _append(scene, user, step, made.document)
        return Edited(made.before, made.after, number, made.edit, words, step.heads)


def _done_already(scene: Scene, base: int, key: str) -> Edited | None:
    """Return what came of an edit that is sent once more, as its answer was lost on the way."""
    done = scene.revisions.filter(number__gt=base, key=key).first() if key else None
    if done is None:
        return None
    return Edited(None, scene.value(), scene.revision, edit_of([]), done.words, _last(scene).heads)


@dataclass(frozen=True)
class _Made:
    """What comes of a plan on a scene as it was read, and how that is written down."""

    edit: Edit
    before: Document
    after: Document
    inverses: Sequence[Command]
    document: str

    @classmethod
    def of(cls, plan: Plan, scene: Scene) -> Self:
        before = scene.value()
        edit = _planned(plan, before)
        applied, inverses = core_commands.apply_all(before, edit.commands)
        # With what its layers show now: that is drawn as well.
        after = scene.completed(applied)
        limits.check_growth(before, after)
        return cls(edit, before, after, inverses, codec.to_json(after.alone(), indent=None))


def _last(scene: Scene) -> Revision:
    """Return the revision a scene is at; every scene has the one it began with."""
    return scene.revisions.latest("number")


def _words(edit: Edit, before: Document) -> str:
    """Return the words of the undo menu: the edit's own, or those of its first command."""
    return (edit.words or edit.commands[0].describe(before))[:LONGEST_WORDS]


def preview(user: Person, scene: Scene, plan: Plan, *, base: int) -> Edited:
    """Return what a plan would do to a scene as it was read, without doing it.

    Errors: as ``edit``; StaleRevision whenever the scene has moved on.
    """
    allow(user, scene.project)
    if base != scene.revision:
        # Any change: a look ahead is drawn beside what the window has, layer by layer.
        raise StaleRevision("The scene was changed in another window.")
    before = scene.value()
    wanted = _planned(plan, before)
    after = scene.completed(core_commands.applied(before, wanted.commands))
    return Edited(before, after, base, wanted, "", Heads())


def _planned(plan: Plan, scene: Document) -> Edit:
    """Make a plan; values that no command takes are refused in words.

    Errors: EditRefused.
    """
    try:
        made = plan(scene)
        commands, notes = held(scene, made.commands)
        return replace(made, commands=commands, notes=(*made.notes, *notes))
    except ValidationError as error:
        raise EditRefused(codec.words_of(error)) from error


def undo(user: Person, scene_pk: int, *, base: int = 0, key: str = "") -> Edited:
    """Take back the last edit, and those joined to it, as a new revision. One with the ``key`` of a
    revision since the ``base`` was carried out already.

    Errors: EditRefused: there is nothing to undo.
    """
    with transaction.atomic():
        scene = _locked(user, scene_pk)
        if (done := _done_already(scene, base, key)) is not None:
            return done
        heads = _last(scene).heads
        last = _at(scene, heads.undo)
        if last is None:
            raise EditRefused("There is nothing to undo.")
        chain = [last]
        while chain[-1].joins and (earlier := _at(scene, chain[-1].number - 1)):
            chain.append(earlier)
        # Newest first, as one takes back what one did last.
        inverses = [data for revision in chain for data in revision.inverses]
        before_undone = _heads_before(scene, chain[-1])
        number = scene.revision + 1
        words = f"Undo: {chain[-1].words}"[:200]
        after = heads.after_undo(number, before_undone)
        return _take_back(scene, user, inverses, _Taking(words, after, key))


def redo(user: Person, scene_pk: int, *, base: int = 0, key: str = "") -> Edited:
    """Do again what was undone last, as a new revision; ``key`` as for ``undo``.

    Errors: EditRefused: there is nothing to redo.
    """
    with transaction.atomic():
        scene = _locked(user, scene_pk)
        if (done := _done_already(scene, base, key)) is not None:
            return done
        heads = _last(scene).heads
        # The undo that is redone is a revision itself: its inverses bring back what it took.
        undone = _at(scene, heads.redo)
        if undone is None:
            raise EditRefused("There is nothing to redo.")
        before = _heads_before(scene, undone)
        number = scene.revision + 1
        words = undone.words.removeprefix("Undo: ")
        after = heads.after_redo(number, before)
        return _take_back(scene, user, undone.inverses, _Taking(words, after, key))


def _at(scene: Scene, number: int) -> Revision | None:
    """Return a revision, or None for 0 and for one that was tidied away."""
    return scene.revisions.filter(number=number).first() if number else None


def _heads_before(scene: Scene, revision: Revision) -> Heads:
    """Return the heads before a revision: none where the history begins with it."""
    before = scene.revisions.filter(number=revision.number - 1).first()
    return before.heads if before else Heads()


def undo_words(scene: Scene) -> tuple[str, str]:
    """Return what undo and redo would take back, in words; "" for nothing."""
    heads = _last(scene).heads
    steps = [number for number in (heads.undo, heads.redo) if number]
    words = dict(scene.revisions.filter(number__in=steps).values_list("number", "words"))
    return words.get(heads.undo, ""), words.get(heads.redo, "").removeprefix("Undo: ")


def _locked(user: Person, scene_pk: int) -> Scene:
    """Return the scene for writing; transactions are immediate, so no other write is under way."""
    return _seen(user, scene_pk)


def _seen(user: Person, scene_pk: int) -> Scene:
    """Return the scene as it is.

    Errors: PermissionDenied; EditRefused: it was deleted.
    """
    scene = Scene.objects.select_related("project").get(pk=scene_pk)
    allow(user, scene.project)
    if scene.deleted_at is not None:
        raise EditRefused(
            f"{scene.name} was deleted in another window; bring it back on the project's page."
        )
    return scene


def _check_base(scene: Scene, wanted: Edit, base: int) -> None:
    if not 0 <= base <= scene.revision:
        raise StaleRevision("This window shows a state the scene never had; it is shown afresh.")
    if base < scene.revision and not scene.revisions.filter(number=base + 1).exists():
        raise StaleRevision("This window shows a state that was tidied away; it is shown afresh.")
    theirs = [
        core_commands.from_data(data)
        # By what was touched, not by who: two people may edit two layers at once.
        for revision in scene.revisions.filter(number__gt=base)
        for data in revision.commands
    ]
    clash = core_commands.conflict(wanted.commands, theirs)
    if clash:
        # What the edit says of itself needs no more of the scene than the plan has seen.
        words = _words(wanted, scene.value()) if wanted.words else clash[0].describe(scene.value())
        raise StaleRevision(
            f"“{words}” was not done: the same was changed in another window. Here is how it is"
            " now."
        )


def _joins(last: Revision, user: Person, commands: Sequence[Command]) -> bool:
    """Whether an edit is one of a run of nudges: the same part, by the same hand, at once."""
    # Either way round: a clock that was set back must not join what lies a day apart.
    if last.number == 0 or abs(timezone.now() - last.made_at) > JOINED_WITHIN:
        return False
    if last.author_id != user.pk:
        return False
    # After an undo a nudge begins a run of its own.
    if last.heads.undo != last.number or len(last.commands) != len(commands):
        return False
    earlier = [core_commands.from_data(data) for data in last.commands]
    return all(a.merge(b) is not None for a, b in zip(earlier, commands, strict=True))


@dataclass(frozen=True)
class _Step:
    """One revision in the making."""

    number: int
    words: str
    commands: Sequence[Command]
    inverses: Sequence[Command]
    heads: Heads
    joins: bool = False
    key: str = ""


@dataclass(frozen=True)
class _Taking:
    """An undo or redo in the making: its words, the heads after it, and its key."""

    words: str
    heads: Heads
    key: str


def _take_back(scene: Scene, user: Person, stored: Sequence[object], taking: _Taking) -> Edited:
    before = scene.value()
    commands = [core_commands.from_data(data) for data in stored]
    after, inverses = core_commands.apply_all(before, commands)
    shown.check(scene, before, after)
    words, heads = taking.words, taking.heads
    step = _Step(scene.revision + 1, words, commands, inverses, heads, key=taking.key)
    _append(scene, user, step, codec.to_json(after.alone(), indent=None))
    return Edited(before, scene.completed(after), step.number, edit_of(commands), words, heads)


def _append(scene: Scene, user: Person, step: _Step, document: str) -> None:
    """Keep a revision, and the document as it is then."""
    # Both in one transaction: a document without its revision could not be undone.
    Revision.objects.create(
        scene=scene,
        number=step.number,
        author=allow(user, scene.project),
        words=step.words[:LONGEST_WORDS],
        commands=[core_commands.to_data(command) for command in step.commands],
        inverses=[core_commands.to_data(command) for command in step.inverses],
        undo=step.heads.undo,
        redo=step.heads.redo,
        joins=step.joins,
        key=step.key,
        # Every so often, so that no scene has to be replayed from its beginning.
        snapshot=document if step.number % SNAPSHOT_EVERY == 0 else "",
    )
    Scene.objects.filter(pk=scene.pk).update(
        document=document, revision=step.number, edited_at=timezone.now()
    )
