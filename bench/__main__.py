"""Run the benchmarks, print them, and write docs/benchmarks.md. --json prints figures only; so do
parts that are named (core, crowds, depth ...), and then only those run.
"""

import datetime
import json
import sys
from collections.abc import Callable
from pathlib import Path

from bench.measure import Report, machine, taken

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks.md"
HEAD = """# Benchmarks

Written by `./coaster bench`. Times do not carry to other machines; ratios within one run do.

{date}, {machine}.
"""


MUCH = 0.03
"""Share of the time that others may take without a word."""


def number(value: float) -> str:
    if value == 0 or 1e-3 <= abs(value) < 1e7:
        return f"{value:,.0f}" if abs(value) >= 1000 else f"{value:.3g}"
    return f"{value:.1e}"


def page(reports: list[Report]) -> str:
    parts = [HEAD.format(date=datetime.datetime.now(datetime.UTC).date(), machine=machine())]
    for report in reports:
        rows = "".join(f"| {name} | {number(value)} |\n" for name, value in report.figures.items())
        notes = "".join(f"\n{note}\n" for note in report.notes)
        parts.append(
            f"## {report.title}\n\nTo reach: {report.reach}.\n\n| figure | value"
            f" |\n|---|---|\n{rows}{notes}"
        )
    return "\n".join(parts)


def done(run: Callable[[], Report | list[Report]]) -> list[Report]:
    """Run a benchmark; where others took much of the machine meanwhile, that is said."""
    part = run.__module__.removeprefix("bench.")
    print(f"{part}: {run.__name__} ...", file=sys.stderr, flush=True)
    before = taken()
    made = run()
    stolen, time = (now - then for now, then in zip(taken(), before, strict=True))
    reports = [made] if isinstance(made, Report) else made
    if stolen > MUCH * time:
        said = f"Others took {stolen / time:.0%} of this machine's time meanwhile."
        for report in reports:
            report.notes.append(said)
    return reports


def main() -> int:
    words = set(sys.argv[1:])
    if {"-h", "--help"} & words:
        print(f"usage: coaster bench [--json] [PART ...]\n\n{__doc__}")
        return 0
    # Not before: each process that makes chunks begins with what this module imports.
    from bench import begins, core, crowds, depth, editor, footage, house, layers, renders, takes

    runs = (
        begins.begins,
        core.arc_length,
        core.evaluation,
        core.lengths,
        core.render,
        core.floors,
        core.masks,
        renders.renders,
        crowds.crowds,
        depth.depth,
        takes.report,
        editor.editor,
        layers.layers,
        footage.footage,
        house.insets,
        house.followed,
        house.lists,
    )
    parts = {run.__module__.removeprefix("bench."): run for run in runs}
    if words - {"--json", *parts}:
        wrong = min(words - {"--json", *parts})
        print(
            f"coaster bench: {wrong!r} is no part; there are {', '.join(parts)}, and --json.",
            file=sys.stderr,
        )
        return 2
    chosen = words - {"--json"} or set(parts)
    reports = [
        report
        for run in runs
        if run.__module__.removeprefix("bench.") in chosen
        for report in done(run)
    ]
    if words:
        print(json.dumps({r.title: r.figures for r in reports}, indent=2))
        return 0
    PAGE.write_text(page(reports))
    print(page(reports))
    return 0


if __name__ == "__main__":
    sys.exit(main())
