"""The command line: the same computations as the studio's, without a browser."""

from coaster.cli.main import main

__all__ = ["main"]
