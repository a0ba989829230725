"""Signing in: how many may try, and how many at once."""

import threading
from typing import Any

from django.contrib.auth.forms import AuthenticationForm
from django.core.exceptions import ValidationError

AT_ONCE = 2
"""Each check takes a fifth of a second of a core: a crowd of guessers would take them all."""
PATIENCE_S = 3.0
_turns = threading.BoundedSemaphore(AT_ONCE)


class SignInForm(AuthenticationForm):
    """Checks few passwords at once; who waits too long is asked to come again."""

    error_messages = {"invalid_login": "That name and password do not belong together."}

    def clean(self) -> dict[str, Any]:
        if not _turns.acquire(timeout=PATIENCE_S):
            raise ValidationError("Many people are signing in right now; try again in a moment.")
        try:
            return super().clean()
        finally:
            _turns.release()
