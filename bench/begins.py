"""How long a short command takes from its start to its file."""

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path as File

from bench.measure import Report, timed

ROOT = File(__file__).parents[1]
ROUNDS, REST_S = 15, 0.5
"""Machines that are shared give more to who has rested, as whoever types a command has."""
DRAWING = '<svg xmlns="http://www.w3.org/2000/svg"><path d="M10 90C60 10 140 10 190 90"/></svg>'


def begins() -> Report:
    """Each once a round, by turns."""
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as name:
        drawing, out = File(name) / "way.svg", File(name) / "out.csv"
        drawing.write_text(DRAWING)
        sample = "sample", str(drawing), "-o", str(out)
        plain = sys._base_executable
        runs = {
            "sample, by ./coaster": (plain, "-S", str(ROOT / "coaster"), *sample),
            "sample, by the Python it runs in": (sys.executable, "-m", "coaster", *sample),
            "import coaster": (sys.executable, "-c", "import coaster"),
            "import numpy": (sys.executable, "-c", "import numpy"),
            "nothing": (sys.executable, "-c", "pass"),
        }
        walls: dict[str, list[float]] = {what: [] for what in runs}
        for _ in range(ROUNDS):
            for what, words in runs.items():
                time.sleep(REST_S)
                walls[what].append(_wall(*words))
    middle = {what: statistics.median(each) for what, each in walls.items()}
    figures = {f"{what}, ms": 1e3 * wall for what, wall in middle.items()}
    by_hand = "sample, by ./coaster"
    figures[f"{by_hand}, the quickest, ms"] = 1e3 * min(walls[by_hand])
    figures[f"{by_hand} / import numpy"] = middle[by_hand] / middle["import numpy"]
    return Report("From start to file", figures, "`sample` 400 ms, `import coaster` 150 ms")


def _wall(*words: str) -> float:
    compiled = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}

    def run() -> None:
        subprocess.run(words, check=True, cwd=ROOT, env=compiled)

    return timed(run)[0]
