"""Clocks, medians, and what a benchmark reports."""

import os
import platform
import resource
import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np


@dataclass
class Report:
    """One benchmark: its figures by name, in the order they are to be read."""

    title: str
    figures: dict[str, float] = field(default_factory=dict)
    reach: str = ""
    notes: list[str] = field(default_factory=list)


def cpu_s() -> float:
    """CPU seconds of this process, its threads and the children that have ended."""
    total = 0.0
    for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN):
        used = resource.getrusage(who)
        total += used.ru_utime + used.ru_stime
    return total


def timed(work: Callable[[], object]) -> tuple[float, float]:
    """Return wall and CPU seconds of one call."""
    wall, cpu = time.perf_counter(), cpu_s()
    work()
    return time.perf_counter() - wall, cpu_s() - cpu


def taken() -> tuple[int, int]:
    """Return the time that others have taken, since the machine started, of the processors that
    this process may use, and all time of these, in ticks.

    Source: proc(5), /proc/stat: steal is the eighth.
    """
    mine = {f"cpu{number}" for number in os.sched_getaffinity(0)}
    lines = map(str.split, Path("/proc/stat").read_text().splitlines())
    ticks = np.sum([list(map(int, words[1:9])) for words in lines if words[0] in mine], axis=0)
    return int(ticks[7]), int(ticks.sum())


def undisturbed(work: Callable[[], object]) -> tuple[float, float]:
    """Return wall and CPU seconds of one call that keeps busy all processors it may use, without
    the share of these that others took meanwhile.
    """
    before = taken()
    wall, cpu = timed(work)
    stolen, time = (now - then for now, then in zip(taken(), before, strict=True))
    return wall * (1 - stolen / time), cpu


def best_of(work: Callable[[], object], rounds: int) -> float:
    """Return the median wall seconds of several calls, after one that warms up."""
    work()
    return statistics.median(timed(work)[0] for _ in range(rounds))


def p95(values: list[float]) -> float:
    return sorted(values)[max(0, round(0.95 * len(values)) - 1)]


def machine() -> str:
    lines = Path("/proc/cpuinfo").read_text().splitlines()
    model = next(
        (line.split(":")[1].strip() for line in lines if line.startswith("model name")), "?"
    )
    system = f"{platform.system()} {platform.release()}, Python {platform.python_version()}"
    return f"{os.cpu_count()} cores ({model}), {system}"
