"""Write all that the studio keeps into one file; it may go on running."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from coaster.errors import CoreError
from studio.projects import keeping


class Command(BaseCommand):
    help = "Write all that the studio keeps into one file."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, help="the zip file to write")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            size = keeping.backup(settings.DATA, options["file"])
        except CoreError as error:
            raise CommandError(str(error)) from error
        except OSError as error:
            raise CommandError(f"{error.filename}: {error.strerror}.") from error
        self.stdout.write(f"{options['file']} holds all of it, {size / 1e6:.1f} MB.")
