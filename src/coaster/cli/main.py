"""The commands, and how their refusals are said."""

import argparse
import gc
import importlib
import os
import select
import sys
from collections.abc import Sequence
from pathlib import Path as File
from typing import Any, NoReturn

from coaster import __version__
from coaster.errors import CoreError

WRONG, STOPPED, UNREAD = 2, 130, 141
"""The exit status of every refusal, said in one line on standard error; of what was stopped; and
where nobody reads on, as shells have it."""
ROOT = File(__file__).resolve().parents[3]
COMMANDS = {
    "sample": "write where a rider is in every frame, as CSV",
    "smooth": "make a drawn take a path of few nodes",
    "render": "render a scene",
    "export": "write where every layer is in every frame, as CSV, JSON or numpy arrays",
    "edit": "change a scene file the way the studio does",
    "drive": "let a layer do what a table of frames says, as CSV or JSON",
    "check": "report how clean a scene's loop is",
    "schema": "print the JSON Schema of scene files",
}
"""Each is a module of this package, which is read when it is asked for: most take a second."""
HANDED_OVER = {
    "demo": ("studio", "start the studio with the Tidepool Hall demo (--fresh starts it over)"),
    "serve": ("studio", "start the studio without the demo, for several people too"),
    "backup": ("studio", "write all that the studio keeps into one file, also while it runs"),
    "restore": ("studio", "put back what a backup holds; what was there before is set aside"),
    "tidy": ("studio", "remove what nobody needs any more (--look only says what would go)"),
    "doctor": ("studio", "look over libraries, disk, database, files and worker"),
    "account": ("studio", "accounts of a studio of several people: add, link, off, on, list"),
    "docs": ("studio", "build the manual, as pages to be read without the studio"),
    "test": ("tests", "run every test, browser included (words go to pytest)"),
    "bench": ("bench", "run the benchmarks (--json for figures only)"),
}
"""Commands that are programs of their own, beside the core."""


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        print(f"{self.prog}: {message[:1].upper()}{message[1:].rstrip('.')}.", file=sys.stderr)
        raise SystemExit(WRONG)


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command and return the exit status: 0, 1 (not clean), 2 (refused), 130 (stopped), 141
    (not read to its end).
    """
    words = list(sys.argv[1:] if argv is None else argv)
    # Threads of numpy's library would spin for a tenth of a second at the start of each process, on
    # the processor that another maker draws on; matrices here are too small for them.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    if not words:
        _parser().print_help()
        return 0
    if words[0] in HANDED_OVER:
        return _hand_over(words)
    try:
        options = _parser(words[0]).parse_args(words)
        status = int(_module(options.command).run(options))
        sys.stdout.flush()
        return status
    except (CoreError, OSError) as error:
        if isinstance(error, BrokenPipeError) and _nobody_reads():
            return UNREAD
        print(f"coaster {words[0]}: {_one_line(error)}", file=sys.stderr)
        return WRONG
    except KeyboardInterrupt:
        return STOPPED
    except ImportError as error:
        # A library that is struck while it begins says so in its own way.
        if isinstance(error.__cause__, KeyboardInterrupt):
            return STOPPED
        raise


def _hand_over(words: list[str]) -> int:
    module, _ = HANDED_OVER[words[0]]
    rest = words if module == "studio" else words[1:]
    if module != "studio":  # tests and benchmarks are found from there; files of a person are not
        os.chdir(ROOT)
    os.execv(sys.executable, [sys.executable, "-m", module, *rest])  # noqa: S606 - our own interpreter


def _nobody_reads() -> bool:
    """Whether who reads what is written has enough, as `head` has; what is left goes nowhere then.
    Other pipes than that one break for other reasons.
    """
    try:
        end = sys.stdout.fileno()
    except OSError:  # it is no file
        return False
    asked = select.poll()
    asked.register(end, 0)  # for errors, which are told in any case
    if not any(told & select.POLLERR for _, told in asked.poll(0)):
        return False
    os.dup2(os.open(os.devnull, os.O_WRONLY), end)
    return True


def _one_line(error: Exception) -> str:
    if isinstance(error, OSError) and error.strerror:
        return f"{error.filename}: {error.strerror}." if error.filename else f"{error.strerror}."
    return " ".join(str(error).split())


def _module(command: str) -> Any:
    """Import a command. Nothing that comes with it is ever rubbish: looking for some while it comes
    and once more at the end would be a quarter of a short command's time.
    """
    name = f"coaster.cli.{command}"
    if name in sys.modules:
        return sys.modules[name]
    gc.disable()
    try:
        return importlib.import_module(name)
    finally:
        gc.freeze()
        gc.enable()


def _parser(asked: str = "") -> _Parser:
    """Return the parser of all commands, with the options of the one that is asked for."""
    parser = _Parser(prog="coaster", description="Put things on paths, and render looping video.")
    parser.add_argument("--version", action="version", version=f"coaster {__version__}")
    # Its name is said: to find it out itself it would lay out the help, and measure the terminal.
    commands = parser.add_subparsers(
        dest="command", required=True, metavar="COMMAND", parser_class=_Parser, prog="coaster"
    )
    for name, (_, words) in HANDED_OVER.items():
        commands.add_parser(name, help=words)
    for name, words in COMMANDS.items():
        made = commands.add_parser(name, help=words, description=words.capitalize() + ".")
        if name == asked:
            _module(name).add(made)
    return parser
