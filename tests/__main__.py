"""Run every test: those of the browser's modules where node is, and pytest's on all cores.

Words are handed on to pytest; with any, only pytest runs. ``-n 0`` keeps it to one process.
"""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

MODULES = Path(__file__).parent / "js"
MOST_AT_ONCE = 4
"""Each process has a studio, a worker and a browser of its own."""

HANDED_OUT = 8
"""Tests a process takes at a time. Browser tests come first and are the long ones; by default
nearly all of them would go to one process, with the others idle at the end."""


def main(words: list[str]) -> int:
    # Hundreds of tests start Python: each would compile all of the project again.
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    if not words:
        code = _modules()
        if code:
            return code
    at_once = min(len(os.sched_getaffinity(0)), MOST_AT_ONCE)
    return int(pytest.main([f"-n{at_once}", f"--maxschedchunk={HANDED_OUT}", *words]))


def _modules() -> int:
    node = shutil.which("node")
    if node is None:
        print("node is not here: the tests of the browser's modules are left out.")
        return 0
    files = sorted(map(str, MODULES.glob("*.test.mjs")))
    return subprocess.run([node, "--test", "--test-reporter=spec", *files], check=False).returncode


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
