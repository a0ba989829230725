"""Accounts from the command line: the first one is made here."""

from argparse import ArgumentParser
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError

from coaster.errors import EditRefused
from studio.people import accounts


class Command(BaseCommand):
    help = "Make accounts for a studio of several people, and links to set their passwords."

    def add_arguments(self, parser: ArgumentParser) -> None:
        words = "add: an account; link: to a new password; off, on: let in no more, or again"
        parser.add_argument("action", choices=["add", "link", "off", "on", "list"], help=words)
        parser.add_argument("name", nargs="?", default="")
        parser.add_argument(
            "--staff", action="store_true", help="add one who looks after the others' accounts"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        # The first account is made before the studio was ever started.
        call_command("migrate", verbosity=0, interactive=False)
        try:
            self.stdout.write(self._done(options["action"], options["name"], options["staff"]))
        except EditRefused as error:
            raise CommandError(str(error)) from error

    def _done(self, action: str, name: str, staff: bool) -> str:
        if action == "list":
            return "\n".join(_row(user) for user in User.objects.order_by("username"))
        if not name:
            raise EditRefused(f"Whose account? Write: coaster account {action} NAME.")
        user = accounts.add(name, staff=staff) if action == "add" else accounts.named(name)
        if action in ("off", "on"):
            accounts.switch(user, on=action == "on")
            return f"{name} is switched {action}."
        host = settings.ALLOWED_HOSTS[0] if settings.ALLOWED_HOSTS else "HOST"
        days = settings.PASSWORD_RESET_TIMEOUT // 86_400
        return (
            f"https://{host}{accounts.password_link(user)}\nGive this to {name}: it sets the"
            f" password, once, for {days} days."
        )


def _row(user: User) -> str:
    marks = ["looks after accounts"] * user.is_staff + ["switched off"] * (not user.is_active)
    return "  ".join([user.username, *marks])
