"""Takes: nodes, deviation and time beside a textbook fit and polyline simplification, on the same
movements.
"""

from functools import partial

import numpy as np

from bench.measure import Report, best_of
from coaster.geometry import bezier, courses, samples
from coaster.geometry.fitting import fit_cubics
from coaster.geometry.nearest import nearest
from coaster.motion import hand, takes
from coaster.motion.takes import Smoothing

TOLERANCES = (1.0, 4.0)


def textbook(points: np.ndarray, tolerance: float) -> np.ndarray:
    """Fit least-squares cubics and split at the worst sample, after Schneider (1990); return the
    cubics.
    """
    found = []
    left = [(0, len(points) - 1, _way(points[:2]), _way(points[-2:]))]
    while left:
        a, b, start, end = left.pop()
        part = points[a : b + 1]
        fit = fit_cubics(part[None], start[None], end[None])
        if fit.deviation[0] <= tolerance or b - a < 2:
            found.append(fit.cubics[0])
            continue
        t = np.linspace(0, 1, len(part))
        curve = bezier.points_at(np.repeat(fit.cubics, len(part), axis=0), t)
        worst = a + 1 + int(np.argmax(np.hypot(*(curve - part).T)[1:-1]))
        middle = _way(points[[worst - 1, worst + 1]])
        left += [(worst, b, middle, end), (a, worst, start, middle)]
    return np.array(found)


def _way(pair: np.ndarray) -> np.ndarray:
    step = pair[-1] - pair[0]
    size = np.hypot(*step)
    return step / size if size else np.array([1.0, 0.0])


def simplified(points: np.ndarray, tolerance: float) -> np.ndarray:
    """Return the samples a polyline within a tolerance keeps, after Douglas and Peucker (1973)."""
    kept, left = {0, len(points) - 1}, [(0, len(points) - 1)]
    while left:
        a, b = left.pop()
        if b - a < 2:
            continue
        chord = points[b] - points[a]
        size = max(float(np.hypot(*chord)), 1e-12)
        off = points[a + 1 : b] - points[a]
        away = np.abs(off[:, 0] * chord[1] - off[:, 1] * chord[0]) / size
        if away.max() > tolerance:
            middle = a + 1 + int(np.argmax(away))
            kept.add(middle)
            left += [(a, middle), (middle, b)]
    return points[sorted(kept)]


def report() -> Report:
    """Twelve takes of 3,000 px with tremor of 1 px, and one of 10,000 samples."""
    drawn = [hand.draw(seed, length=3000, corners=seed % 3) for seed in range(12)]
    figures: dict[str, float] = {}
    for tolerance in TOLERANCES:
        ours, theirs, line, error, raw, far = [], [], [], [], [], 0.0
        for each in drawn:
            take = takes.checked_take(each.times, each.places)
            corners = samples.corners_of(take.places, 50, take.tremor)
            course = courses.fit(take.places, tolerance, corners=corners, shake=take.tremor)
            ours.append(len(course.run.nodes) - 1)
            theirs.append(len(textbook(take.places, tolerance)))
            line.append(len(simplified(take.places, tolerance)) - 1)
            places = bezier.points_at(course.run.segments()[course.segment], course.parameter)
            error.append(np.mean(np.sum((places - each.truth) ** 2, axis=1)))
            raw.append(np.mean(np.sum((take.places - each.truth) ** 2, axis=1)))
            far = max(far, float(nearest(course.run.segments(), take.places).distance.max()))
        figures |= {
            f"tolerance {tolerance:g}: nodes a 1,000 px": float(np.mean(ours)) / 3,
            f"tolerance {tolerance:g}: the same, textbook least squares": (
                float(np.mean(theirs)) / 3
            ),
            f"tolerance {tolerance:g}: the same, polyline simplification": float(np.mean(line)) / 3,
            f"tolerance {tolerance:g}: largest deviation, px": far,
            f"tolerance {tolerance:g}: distance from the true movement / that of the samples": (
                float(np.sqrt(np.mean(error) / np.mean(raw)))
            ),
        }
    long = hand.draw(3, length=10_000 * 500 / 120)
    take = takes.checked_take(long.times, long.places)
    corners = samples.corners_of(take.places, 50, take.tremor)
    for tolerance in TOLERANCES:
        fit = partial(courses.fit, take.places, tolerance, corners=corners, shake=take.tremor)
        fit_s = best_of(fit, 5)
        textbook_s = best_of(lambda: textbook(take.places, tolerance), 2)  # noqa: B023
        figures |= {
            f"10,000 samples, tolerance {tolerance:g}: fit, ms": fit_s * 1e3,
            f"10,000 samples, tolerance {tolerance:g}: textbook / fit, times as long": (
                textbook_s / fit_s
            ),
        }
    whole_s = best_of(lambda: takes.smooth(take, Smoothing(4.0), fps=30), 3)
    figures["10,000 samples: all of it, with corners, pegs and figures, ms"] = whole_s * 1e3
    reach = (
        "at most 8 nodes a 1,000 px at tolerance 4; 100 ms at tolerance 4, 300 ms at 1; nearer than"
        " the samples"
    )
    return Report("Smoothing takes", figures, reach)
