"""What ``sample`` writes, against a plain computation that shares no code with it.

The curves are another library's, mapped point by point; lengths are sums of very short chords,
easing is bisected. Rows that fall on a node are compared in place only: a heading there has two
sides.
"""

import csv
import io
import math

import numpy as np
import pytest
import svgelements

from coaster.cli import main

FINE = 2001
SVG = '<svg xmlns="http://www.w3.org/2000/svg">'
MATRIX = (0.9, 0.35, -0.4, 1.1, 30.0, 12.0)
DRAWINGS = {
    "all commands": (
        "M10 10l20 5h30V60v-8C70 70 90 20 120 40S150 90 160 60s5-5 9 9"
        "Q180 20 190 60T220 60t9 9A30 50 20 1 0 260 90"
    ),
    "closed with an arc": "M0 0a120 60 15 0 1 180 90q-40 90 -140 40z",
    "cusp": "M0 0C200 200 0 200 200 0L300 40",
    "loop": "M0 100C400 -100 -200 -100 200 100",
    "zero handles": "M0 0C0 0 50 100 100 100S200 100 200 100C200 100 240 0 300 0",
    "doubled nodes": "M0 0L100 0L100 0L100 80C100 80 100 80 100 80L10 80",
    "gap": "M0 0C40 60 80 60 120 0M160 20L240 90",
    "closed and gap": "M0 0H60V60ZM120 0q30 40 60 0",
}
PACES = {"even": None, "ease-in": (0.42, 0, 1, 1), "ease-out": (0, 0, 0.58, 1), "ease-in-out": (0.42, 0, 0.58, 1),
         "cubic-bezier(0.2,0.1,0.3,0.95)": (0.2, 0.1, 0.3, 0.95)}  # fmt: skip


def way(data: str, gap: str) -> tuple[np.ndarray, bool, list[int]]:
    """Very many points along the way, whether it closes, and where the nodes are among them."""
    a, b, c, d, e, f = MATRIX
    points: list[complex] = []
    nodes = [0]
    path = svgelements.Path(data)
    for segment in path:
        if isinstance(segment, svgelements.Move):
            if points and gap == "jump":
                points.append(complex(math.nan, math.nan))
            points.append(complex(segment.end.x, segment.end.y))
        else:
            ends = (segment.start, segment.end)
            if isinstance(segment, svgelements.Close) and ends[0] == ends[1]:
                continue
            here = [segment.point(t) for t in np.linspace(0, 1, FINE)]
            points += [complex(p.x, p.y) for p in here]
        nodes.append(len(points) - 1)
    z = np.array(points)
    mapped = np.stack([a * z.real + c * z.imag + e, b * z.real + d * z.imag + f], axis=1)
    return mapped, data.lower().count("m") == 1 and data.lower().endswith("z"), nodes


def eased(u: float, curve) -> float:
    if curve is None:
        return u
    x1, y1, x2, y2 = curve
    low, high = 0.0, 1.0
    for _ in range(80):
        s = (low + high) / 2
        x = 3 * (1 - s) ** 2 * s * x1 + 3 * (1 - s) * s * s * x2 + s**3
        low, high = (s, high) if x < u else (low, s)
    return 3 * (1 - s) ** 2 * s * y1 + 3 * (1 - s) * s * s * y2 + s**3


@pytest.mark.parametrize("pace", PACES)
@pytest.mark.parametrize("name", DRAWINGS)
def test_positions_headings_and_distances(tmp_path, capsys, name, pace):
    gap = "jump" if name == "closed and gap" else "glide"
    points, closed, nodes = way(DRAWINGS[name], gap)
    laps, rows = (1.5, 41) if closed else (1, 41)
    (tmp_path / "a.svg").write_text(
        f'{SVG}<g transform="matrix{MATRIX}"><path d="{DRAWINGS[name]}"/></g></svg>'
    )
    words = [
        "--seconds",
        str(rows / 20),
        "--fps",
        "20",
        "--pace",
        pace,
        "--laps",
        str(laps),
        "--gap",
        gap,
    ]
    assert main(["sample", str(tmp_path / "a.svg"), *words]) == 0
    found = [
        {k: float(v) for k, v in r.items()}
        for r in csv.DictReader(io.StringIO(capsys.readouterr().out))
    ]
    assert len(found) == rows

    steps = np.hypot(*np.diff(points, axis=0).T)
    upto = np.concatenate([[0.0], np.cumsum(np.nan_to_num(steps))])
    at_nodes = upto[nodes]
    total = upto[-1]
    last_angle = None
    for i, row in enumerate(found):
        wanted = eased(i / rows if closed else i / (rows - 1), PACES[pace]) * laps * total
        assert row["travelled"] == pytest.approx(wanted, abs=2e-3)
        along = wanted % total if closed else min(wanted, total)
        near_node = np.abs(at_nodes - along).min() < 1e-2 or abs(along - total) < 1e-2
        k = min(max(int(np.searchsorted(upto, along)), 1), len(upto) - 1)
        while np.isnan(points[k]).any() or np.isnan(points[k - 1]).any() or steps[k - 1] == 0:
            k += 1 if k + 1 < len(upto) else -1
        share = (along - upto[k - 1]) / steps[k - 1]
        place = points[k - 1] + share * (points[k] - points[k - 1])
        if not (near_node and gap == "jump"):
            assert (row["x"], row["y"]) == pytest.approx(tuple(place), abs=1e-3)
        if not near_node and min(abs(k - node) for node in nodes) > 2:
            # A chord has the heading of its middle; between middles the turning is even.
            before, here, after = (
                math.atan2(*(points[j] - points[j - 1])[::-1]) for j in (k - 1, k, k + 1)
            )
            turning = (after - before + math.pi) % (2 * math.pi) - math.pi
            heading = math.degrees(here + (share - 0.5) * turning / 2)
            assert abs((row["angle"] - heading + 180) % 360 - 180) < 0.01
        if last_angle is not None:
            assert abs(row["angle"] - last_angle) <= 180 + 1e-6
        last_angle = row["angle"]


def test_headings_are_the_tangents_to_a_hundredth_of_a_degree(tmp_path, capsys):
    """On a parabola the heading at a place is known in closed form."""
    (tmp_path / "a.svg").write_text(f'{SVG}<path d="M-200 200Q0 -200 200 200"/></svg>')
    assert main(["sample", str(tmp_path / "a.svg"), "--seconds", "5", "--fps", "30"]) == 0
    for row in csv.DictReader(io.StringIO(capsys.readouterr().out)):
        x, y = float(row["x"]), float(row["y"])
        assert y == pytest.approx(x * x / 200, abs=1e-5)
        assert float(row["angle"]) == pytest.approx(math.degrees(math.atan(x / 100)), abs=1e-3)
