"""Put back what ``backup`` wrote; what was there before is set aside, not thrown away."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from coaster.errors import CoreError
from studio.projects import keeping


class Command(BaseCommand):
    help = "Put back all that a backup holds."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path, help="a file that backup wrote")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            aside = keeping.restore(options["file"], settings.DATA)
        except CoreError as error:
            raise CommandError(str(error)) from error
        except OSError as error:
            raise CommandError(f"{error.filename}: {error.strerror}.") from error
        words = f" What was there before is in {aside}." if aside else ""
        self.stdout.write(f"{options['file']} is put back.{words}")
