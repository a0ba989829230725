"""Build the manual into a folder, to be read without the studio."""

from argparse import ArgumentParser
from pathlib import Path as File
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from coaster.errors import CoreError
from studio.manual import site


class Command(BaseCommand):
    help = "Build the manual, as pages to be read without the studio."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("-o", dest="out", type=File, default=File("manual"), metavar="FOLDER")

    def handle(self, *args: Any, **options: Any) -> None:
        out = options["out"].resolve()
        try:
            site.build(out)
        except CoreError as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"The manual begins at {out / 'index.html'}")
