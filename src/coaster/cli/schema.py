"""``schema``: the JSON Schema of scene files."""

import argparse
import json

from coaster.scene import codec


def add(parser: argparse.ArgumentParser) -> None:
    """It has no options."""


def run(options: argparse.Namespace) -> int:
    print(json.dumps(codec.json_schema(), indent=2))
    return 0
