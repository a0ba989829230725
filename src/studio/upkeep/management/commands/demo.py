"""Start the studio with the demo: load it, then run the server and a worker until interrupted."""

from argparse import ArgumentParser
from typing import Any

from studio.demo import loader
from studio.projects import services
from studio.upkeep.running import Running


class Command(Running):
    help = "Load the Tidepool Hall demo (once), start server and worker, print the address."

    def add_arguments(self, parser: ArgumentParser) -> None:
        super().add_arguments(parser)
        parser.add_argument(
            "--fresh",
            action="store_true",
            help="put the demo back as it was; yours goes to the bin",
        )
        parser.add_argument("--load-only", action="store_true", help="load the demo and stop")

    def prepare(self, options: dict[str, Any]) -> bool:
        made = loader.load(services.single_person(), fresh=options["fresh"])
        words = "loaded" if made else "as you left it (--fresh starts it over)"
        self.stdout.write(f"The demo {'was' if made else 'is'} {words}.")
        return not options["load_only"]
