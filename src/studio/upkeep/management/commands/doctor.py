"""Look a studio over."""

from typing import Any

from django.core.management.base import BaseCommand

from studio.upkeep import doctor


class Command(BaseCommand):
    help = "Look over libraries, disk, database, files and worker; status 1 if one is unwell."
    requires_system_checks: list[str] = []

    def handle(self, *args: Any, **options: Any) -> None:
        unwell = 0
        for found in doctor.examine():
            unwell += not found.well
            self.stdout.write(f"{'well' if found.well else 'LOOK'}  {found.what}: {found.words}")
        if unwell:
            raise SystemExit(1)
