"""What carries out renders: the task worker, which holds a file while it lives."""

from typing import Any

from django_tasks_db.management.commands import db_worker

from studio.jobs import presence


class Command(db_worker.Command):
    help = "Carry out what is in line: renders. At least one must run beside the server."

    def handle(self, *args: Any, **options: Any) -> None:
        with presence.working():
            super().handle(*args, **options)
