"""Remove what nobody needs any more."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand

from studio.upkeep import tidy


class Command(BaseCommand):
    help = (
        "Remove old task results, sessions that have run out, files that belong to nothing and, if"
        " COASTER_HISTORY says how many are wanted, old revisions."
    )

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--look", action="store_true", help="say what would go; remove nothing")

    def handle(self, *args: Any, **options: Any) -> None:
        found = tidy.find()
        if not options["look"]:
            tidy.remove(found)
        for each in found:
            size = f", {each.size / 1e6:.1f} MB" if each.size else ""
            self.stdout.write(f"{each.count:>6}  {each.words}{size}")
        self.stdout.write("Nothing was removed." if options["look"] else "All of it is removed.")
