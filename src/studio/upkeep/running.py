"""Running a studio: its folder made ready, a server and a worker kept up until interrupted."""

import contextlib
import ctypes
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from argparse import ArgumentParser
from collections.abc import Callable, Iterator
from typing import Any, NoReturn

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import DatabaseError

from studio.config import static
from studio.projects import keeping
from studio.projects.models import Scene
from studio.upkeep import doctor, tidy

PORT, NEXT_PORTS = 8000, 19
HERE = "127.0.0.1"
PR_SET_PDEATHSIG = 1
NICE = 10
"""The worker steps back behind the server, so that the editor stays quick while it renders."""


class Running(BaseCommand):
    """A command that starts the studio; ``prepare`` is what it does before."""

    def create_parser(self, *args: Any, **options: Any) -> CommandParser:
        """Let a bad option be one line, as everywhere on the command line."""
        parser = super().create_parser(*args, **options)
        parser.error = self._refuse  # type: ignore[method-assign]
        return parser

    def _refuse(self, message: str) -> NoReturn:
        name = type(self).__module__.rpartition(".")[2]
        print(f"coaster {name}: {message[:1].upper()}{message[1:].rstrip('.')}.", file=sys.stderr)
        raise SystemExit(2)

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument(
            "--port",
            type=int,
            help=f"the port to listen on ({PORT}, or the next that is free; 0 for any)",
        )
        parser.add_argument(
            "--host", default=HERE, help=f"the address to listen on ({HERE}: this machine alone)"
        )

    def prepare(self, options: dict[str, Any]) -> bool:
        """Do what comes before; return whether to go on and run."""
        return True

    def handle(self, *args: Any, **options: Any) -> None:
        with _ready():
            if not self.prepare(options):
                return
            host, port = host_of(options["host"]), free_port(options["port"])
            words = f"Coaster is at http://{host}:{port}/  (Ctrl-C stops it)"
            run(port, lambda: self.stdout.write(words), host)


@contextlib.contextmanager
def _ready() -> Iterator[None]:
    """Hold the data folder, with its tables and static files as this version needs them.

    Errors: CommandError: another studio holds it, or the disk or the database is ill.
    """
    try:
        held = keeping.hold(settings.DATA)
        if held is None:
            raise CommandError(
                f"A studio is running on {settings.DATA} already; stop it, or name another folder"
                " with COASTER_DATA."
            )
        with held:
            if doctor.used_by_later():
                raise CommandError(
                    f"The studio on {settings.DATA} was used by a later version of Coaster; start"
                    " that one, or put back a backup made before it. Nothing was changed."
                )
            call_command("migrate", verbosity=0, interactive=False)
            static.collect()
            tidy.sweep_at_start()
            yield
    except (DatabaseError, OSError) as error:
        raise CommandError(
            f"The studio on {settings.DATA} cannot run: {error}. ./coaster doctor looks it over;"
            " ./coaster restore puts back a backup."
        ) from error


def host_of(wanted: str) -> str:
    """Errors: CommandError: others would come to a studio in which nobody signs in."""
    if wanted not in (HERE, "localhost") and not settings.SERVER_MODE:
        raise CommandError(
            f"On {wanted} others could use this studio without signing in. Set COASTER_SERVER=yes"
            " (docs/server.md), or leave --host out."
        )
    return wanted


def free_port(wanted: int | None) -> int:
    """Return the port asked for; if none was, the usual one or one of the next that are free.

    Errors: CommandError: the one that was asked for is taken, or none is free.
    """
    if wanted is not None and not 0 <= wanted < 65536:
        raise CommandError(f"{wanted} is no port; ports are 0 (any) to 65535.")
    first = PORT if wanted is None else wanted
    last = first + NEXT_PORTS if wanted is None else first
    for port in range(first, last + 1):
        with socket.socket() as trial:
            trial.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                trial.bind(("127.0.0.1", port))
            except OSError:
                continue
            return int(trial.getsockname()[1])
    taken = f"The ports {first} to {last} are all" if last > first else f"Port {first} is"
    raise CommandError(f"{taken} in use, or not yours to take; name another with --port.")


def _server(port: int, host: str) -> subprocess.Popen[bytes]:
    options = [
        "--bind",
        f"{host}:{port}",
        "--workers",
        "1",
        "--threads",
        "8",
        "--timeout",
        "120",
        "--no-control-socket",
    ]
    # One process, so that what was worked out for a preview is there for the next one.
    server = [sys.executable, "-m", "gunicorn", "studio.config.wsgi", "--log-level", "warning"]
    return _child([*server, *options])


def _worker() -> subprocess.Popen[bytes]:
    worker = [
        sys.executable,
        "-m",
        "studio",
        "worker",
        "--interval",
        "0.3",
        "--no-startup-delay",
    ]
    # A process of its own: a render must not wait for the server, nor the other way round.
    return _child(["nice", "-n", str(NICE), *worker])


def _child(command: list[str]) -> subprocess.Popen[bytes]:
    """Start a process that ends when this one does, however that comes about."""
    return subprocess.Popen(command, preexec_fn=_end_with_parent)  # noqa: S603 - our own


def _end_with_parent() -> None:
    """Ask Linux for SIGTERM when the parent dies; elsewhere a killed parent leaves its children."""
    if sys.platform == "linux":
        ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)


def run(port: int, ready: Callable[[], object], host: str = HERE) -> None:
    """Keep server and worker running until interrupted; start again the one that ends."""
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    starts = {"server": lambda: _server(port, host), "worker": _worker}
    running = {name: start() for name, start in starts.items()}
    try:
        _wait_for(port, running["server"])
        _warm_up(port)
        ready()
        while True:
            time.sleep(0.5)
            for name, process in running.items():
                if process.poll() is not None:
                    running[name] = starts[name]()
    except KeyboardInterrupt:
        pass
    finally:
        # All are asked before the first is waited for.
        for process in running.values():
            process.terminate()
        for process in running.values():
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                process.kill()


def _warm_up(port: int) -> None:
    """Ask for the pages once, so that templates and scenes are loaded before a person does."""
    if settings.SERVER_MODE:  # it answers by https alone, and to those who are signed in
        return
    opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
    with contextlib.suppress(OSError):
        for path in [
            "",
            *(
                f"scenes/{scene.pk}/{part}"
                for scene in Scene.objects.all()[:1]
                for part in ("", "stage")
            ),
        ]:
            opener.open(f"http://127.0.0.1:{port}/{path}", timeout=20).read()


def _wait_for(port: int, server: subprocess.Popen[bytes]) -> None:
    for _ in range(150):
        with socket.socket() as trial:
            if trial.connect_ex(("127.0.0.1", port)) == 0:
                return
        if server.poll() is not None:
            raise CommandError("The server did not start; what it says is above.")
        time.sleep(0.1)
    raise CommandError("The server did not answer within 15 s.")
