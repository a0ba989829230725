"""Making keys for programs, withdrawing them, and who comes in with one."""

import hashlib
import secrets
from datetime import timedelta

from django.contrib.auth.models import User
from django.core.exceptions import PermissionDenied
from django.db.models import Q
from django.utils import timezone

from coaster.errors import EditRefused
from studio.api.models import LONGEST_NAME, Key
from studio.projects.querysets import Person

BEGINS = "coaster_"
"""So that who finds one, in a log or a repository, knows what it is."""
MOST = 50
NOTED_EVERY = timedelta(minutes=1)


def make(user: Person, name: str) -> tuple[Key, str]:
    """Make a key of a person; return it with its text, which nobody can find out later.

    Errors: EditRefused: it has no name, or there are too many.
    """
    if not isinstance(user, User):
        raise PermissionDenied("Sign in to make a key.")
    name = name.strip()
    if not name or len(name) > LONGEST_NAME:
        raise EditRefused(f"Give the key a name of up to {LONGEST_NAME} letters; none was made.")
    if Key.objects.filter(owner=user).count() >= MOST:
        raise EditRefused(f"There are {MOST} keys; withdraw one that is not used. None was made.")
    text = BEGINS + secrets.token_urlsafe(32)
    return Key.objects.create(owner=user, name=name, digest=_digest(text)), text


def withdraw(user: Person, pk: int) -> None:
    """Errors: Key.DoesNotExist: it is nobody's, or somebody else's."""
    Key.objects.get(owner=user.pk, pk=pk).delete()


def owner_of(text: str) -> User | None:
    """Return whose key it is; None if it is no key, or that account is switched off."""
    # Long and drawn by chance, it needs no slow digest as a password does.
    found = Key.objects.select_related("owner").filter(digest=_digest(text)).first()
    if found is None or not found.owner.is_active:
        return None
    now = timezone.now()
    # One write a minute at most, however many requests come.
    stale = Q(used_at=None) | Q(used_at__lt=now - NOTED_EVERY)
    Key.objects.filter(stale, pk=found.pk).update(used_at=now)
    return found.owner


def _digest(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()
