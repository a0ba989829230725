"""What a posted edit asks for: commands as JSON, or a form of the card."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.http import HttpRequest

from coaster import commands as core_commands
from coaster.commands import Command
from coaster.errors import EditRefused
from coaster.render.stage import Glance
from coaster.scene.document import Scene
from studio.editor.forms import FORMS, EditForm
from studio.editor.services import Plan

MOST_COMMANDS = 500


@dataclass(frozen=True)
class Asked:
    """A plan, the revision it was made on, and what its form has to say once it is carried out."""

    plan: Plan
    base: int
    form: EditForm | None = None
    nudge: bool = False
    glance: Glance | None = None

    def title(self) -> str:
        """Return the form's own words for the undo menu, if it has any."""
        return self.form.title if self.form else ""

    def said(self) -> dict[str, Any]:
        """Return what is to be said and selected."""
        if self.form is None:
            return {}
        notes, select = self.form.notes, self.form.select
        return ({"notes": notes} if notes else {}) | ({"select": select} if select else {})


def read(request: HttpRequest) -> Asked:
    """Read a posted edit.

    Errors: EditRefused in one sentence: not JSON, no such form, or a field that makes no sense.
    """
    base = request.POST.get("base", "")
    if not base.isdecimal():
        raise EditRefused("The edit does not say which revision it was made on.")
    nudge = request.POST.get("nudge") == "true"
    at = request.POST.get("glance", "")
    glance = Glance(int(at), request.POST.get("rider", "")) if at.isdecimal() and len(at) < 7 else None
    if "commands" in request.POST:
        commands = _commands(request.POST["commands"])
        return Asked(lambda scene: commands, int(base), nudge=nudge, glance=glance)
    form = _form(request)
    return Asked(_plan(form), int(base), form, nudge, glance)


def _commands(text: str) -> list[Command]:
    try:
        data = json.loads(text)
    except (json.JSONDecodeError, RecursionError) as error:
        raise EditRefused("The edit is no readable JSON.") from error
    if not isinstance(data, list) or not 1 <= len(data) <= MOST_COMMANDS:
        raise EditRefused(f"An edit is a list of 1 to {MOST_COMMANDS} commands.")
    return [core_commands.from_data(item) for item in data]


def _form(request: HttpRequest) -> EditForm:
    name = request.POST.get("form", "")
    if name not in FORMS:
        raise EditRefused(f"There is no form called {name!r:.40}.")
    form = FORMS[name](request.POST)
    if not form.is_valid():
        raise EditRefused(form.words())
    form.user = request.user
    return form


def _plan(form: EditForm) -> Plan:
    def plan(scene: Scene) -> Sequence[Command]:
        return form.commands(scene)

    return plan
