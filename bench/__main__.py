"""Run the benchmarks, print them, and write docs/benchmarks.md. ``--json`` prints figures only."""

import datetime
import json
import sys
from pathlib import Path

from bench.measure import Report, machine

PAGE = Path(__file__).parents[1] / "docs" / "benchmarks.md"
HEAD = """# Benchmarks

Written by `./coaster bench`. Times do not carry to other machines; ratios within one run do.

{date}, {machine}.
"""


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


def main() -> int:
    words = sys.argv[1:]
    if {"-h", "--help"} & set(words):
        print(f"usage: coaster bench [--json]\n\n{__doc__}")
        return 0
    if set(words) - {"--json"}:
        print(
            f"coaster bench: {(set(words) - {'--json'}).pop()!r} is no option; there is --json.",
            file=sys.stderr,
        )
        return 2
    # Not before: each process that makes chunks begins with what this module imports.
    from bench import core, crowds, depth, editor, footage, house, layers, renders, takes

    reports: list[Report] = []
    for run in (
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
    ):
        print(
            f"{run.__module__.removeprefix('bench.')}: {run.__name__} ...",
            file=sys.stderr,
            flush=True,
        )
        made = run()
        reports += [made] if isinstance(made, Report) else made
    if words:
        print(json.dumps({r.title: r.figures for r in reports}, indent=2))
        return 0
    PAGE.write_text(page(reports))
    print(page(reports))
    return 0


if __name__ == "__main__":
    sys.exit(main())
