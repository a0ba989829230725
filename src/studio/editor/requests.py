"""What a posted edit asks for: commands as JSON, or a form of the card."""

import json
from collections.abc import Mapping
from dataclasses import dataclass

from django.http import HttpRequest

from coaster import commands as core_commands
from coaster.edits.edit import Edit, edit_of
from coaster.errors import EditRefused
from coaster.render.stage import Glance
from studio.editor.forms import FORMS
from studio.editor.services import Plan
from studio.forms import first_words

MOST_COMMANDS = 500
MOST_BLOCKS = 20
FEW_DIGITS = 7
LONGEST_KEY = 60


@dataclass(frozen=True)
class EditRequest:
    """A plan, the revision it was made on, what the window calls it, and how it is looked at."""

    plan: Plan
    base: int
    nudge: bool = False
    key: str = ""
    glance: Glance | None = None


def base_of(posted: Mapping[str, str]) -> int:
    """Return the revision that a request was made on; -1, which no scene ever had, where it is not
    said.
    """
    base = posted.get("base", "")
    return int(base) if base.isdecimal() and len(base) < 2 * FEW_DIGITS else -1


def key_of(posted: Mapping[str, str]) -> str:
    """Return what the window calls what it sends; "" where it does not say."""
    return posted.get("key", "")[:LONGEST_KEY]


def playhead_of(request: HttpRequest) -> int:
    """Return the frame that is being looked at, round which is told first; 0 if none is said."""
    return _small(request.POST.get("playhead") or request.GET.get("playhead", "")) or 0


def _small(text: str) -> int | None:
    return int(text) if text.isdecimal() and len(text) < FEW_DIGITS else None


def blocks_of(request: HttpRequest) -> tuple[int, int, list[str]]:
    """Return the first block that is asked for, how many, and of which layers.

    Errors: EditRefused: it does not say so, or asks for more than are sent at once.
    """
    first, count = (_small(request.POST.get(name, "")) for name in ("first", "count"))
    if first is None or count is None or not 1 <= count <= MOST_BLOCKS:
        raise EditRefused(f"From 1 to {MOST_BLOCKS} blocks of frames are sent at once.")
    return first, count, request.POST.get("layers", "").split()


def read(request: HttpRequest) -> EditRequest:
    """Read a posted edit.

    Errors: EditRefused in one sentence: not JSON, no such form, or a field that makes no sense.
    """
    base = base_of(request.POST)
    if base < 0:
        raise EditRefused("The edit does not say which revision it was made on.")
    # Arrow keys say so; a drag is one edit anyway.
    nudge = request.POST.get("nudge") == "true"
    at = _small(request.POST.get("glance", ""))
    glance = None if at is None else Glance(at, request.POST.get("rider", ""))
    plan = _given(request) if "commands" in request.POST else _form_plan(request)
    return EditRequest(plan, base, nudge, key_of(request.POST), glance)


def _given(request: HttpRequest) -> Plan:
    edit = _commands(request.POST["commands"])
    # Commands name what they change; the scene has no say in what is asked.
    return lambda scene: edit


def _commands(text: str) -> Edit:
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise EditRefused("The edit is not readable JSON.") from error
    if not isinstance(data, list) or not 1 <= len(data) <= MOST_COMMANDS:
        raise EditRefused(f"An edit is a list of 1 to {MOST_COMMANDS} commands.")
    return edit_of(core_commands.from_data(item) for item in data)


def _form_plan(request: HttpRequest) -> Plan:
    name = request.POST.get("form", "")
    if name not in FORMS:
        raise EditRefused(f"There is no form called {name!r:.40}.")
    form = FORMS[name](request.POST)
    assert request.resolver_match is not None  # noqa: S101 - by its address
    form.scene_pk = request.resolver_match.kwargs["scene_id"]
    if not form.is_valid():
        raise EditRefused(first_words(form))
    # Not yet: on the scene as it is when its turn comes, which may be another.
    return lambda scene: form.edit(scene, request.user)
