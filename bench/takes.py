"""Takes: nodes, deviation and time beside a textbook fit and polyline simplification, on the same
movements.
"""

from functools import partial

import numpy as np

from bench.measure import Report, best_of
from coaster.geometry import bezier, courses, knots, samples
from coaster.geometry.fitting import fit_cubics
from coaster.geometry.nearest import nearest
from coaster.motion import hand, takes
from coaster.motion.takes import Smoothing

TOLERANCES = (1.0, 4.0)
PATIENCE = 30
"""Candidates in a row that no piece reaches before it is believed that none does."""


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


HANDS = [
    {
        "seed": seed, "length": 2500, "rate": (60, 125, 240, 500, 750, 1000)[seed % 6],
        "tremor": (0.5, 1.0, 1.5, 2.0, 3.0)[seed % 5], "corners": seed % 4, "pauses": seed // 3 % 3,
        "whole_pixels": seed % 4 == 0, "uneven": seed % 7 == 0,
    }
    for seed in range(30)
]  # fmt: skip
"""As varied as hands and devices are: samples a second, tremor in px, rests, corners, whole px."""


def report() -> Report:
    """Thirty varied takes of 2,500 px, and one of 10,000 samples."""
    drawn = [hand.draw(**how) for how in HANDS]
    figures = _told(drawn)
    for tolerance in TOLERANCES:
        figures |= _fitted(drawn[:12], tolerance)
    figures |= _fewest(drawn[:6])
    figures |= _speeds()
    reach = (
        "nodes within 10 % of the fewest; at the suggested tolerance nearer to the movement than the samples;"
        " tremor within 15 %; corners as drawn; 100 ms at tolerance 4, 300 ms at 1"
    )
    return Report("Smoothing takes", figures, reach)


def _take(drawn: hand.HandTake) -> tuple[takes.Take, np.ndarray]:
    take = takes.checked_take(drawn.times, drawn.places)
    return take, samples.corners_of(take.places, 50, take.tremor, take.rate)


def _told(drawn: list[hand.HandTake]) -> dict[str, float]:
    """What is told of takes: their tremor, their corners, and what the suggested tolerance gives."""
    ratios, found, reported, false, near = [], 0, 0, 0, 0
    for each in drawn:
        take, corners = _take(each)
        true = float(np.sqrt(np.mean((each.places - each.truth) ** 2)))
        ratios.append(take.tremor / true)
        there = each.truth[each.corners.astype(int)]
        away = np.hypot(*(take.places[corners][:, None] - there[None]).transpose(2, 0, 1))
        found += (
            int((away.min(axis=0, initial=np.inf) < 10 + 4 * true).sum()) if len(corners) else 0
        )
        reported += len(corners)
        false += len(corners) if not len(there) else 0
        course = courses.fit(take.places, take.suggested, corners=corners, shake=take.tremor)
        near += _error(course, each) < np.sum((each.places - each.truth) ** 2)
    total = sum(len(each.corners) for each in drawn)
    return {
        "tremor told / true, least": min(ratios),
        "tremor told / true, most": max(ratios),
        "corners found, share of those drawn": found / total,
        "corners reported / drawn": reported / total,
        "corners reported in takes without any": false,
        "suggested tolerance: nearer to the movement than the samples, share of takes": near
        / len(drawn),
    }


def _error(course: courses.Course, drawn: hand.HandTake) -> float:
    places = bezier.points_at(course.run.segments()[course.segment], course.parameter)
    return float(np.sum((places - drawn.truth) ** 2))


def _fitted(drawn: list[hand.HandTake], tolerance: float) -> dict[str, float]:
    ours, theirs, line, error, raw, far = [], [], [], [], [], 0.0
    for each in drawn:
        take, corners = _take(each)
        course = courses.fit(take.places, tolerance, corners=corners, shake=take.tremor)
        px = float(np.hypot(*np.diff(each.truth, axis=0).T).sum()) / 1000
        ours.append((len(course.run.nodes) - 1) / px)
        theirs.append(len(textbook(take.places, tolerance)) / px)
        line.append((len(simplified(take.places, tolerance)) - 1) / px)
        error.append(_error(course, each) / len(each.truth))
        raw.append(np.mean(np.sum((take.places - each.truth) ** 2, axis=1)))
        far = max(far, float(nearest(course.run.segments(), take.places).distance.max()))
    return {
        f"tolerance {tolerance:g}: nodes a 1,000 px": float(np.mean(ours)),
        f"tolerance {tolerance:g}: the same, textbook least squares": float(np.mean(theirs)),
        f"tolerance {tolerance:g}: the same, polyline simplification": float(np.mean(line)),
        f"tolerance {tolerance:g}: largest deviation, px": far,
        f"tolerance {tolerance:g}: distance from the true movement / that of the samples": float(
            np.sqrt(np.mean(error) / np.mean(raw))
        ),
    }


def _fewest(drawn: list[hand.HandTake]) -> dict[str, float]:
    """Nodes beside the fewest that a dynamic programme finds over the same candidates."""
    ours = best = 0
    for each in drawn:
        take, corners = _take(each)
        course = courses.fit(take.places, 4.0, corners=corners, shake=take.tremor)
        ours += len(course.run.nodes) - 1
        best += programme(take.places, corners, 4.0, take.tremor)
    return {"tolerance 4: nodes / the fewest of a dynamic programme": ours / best}


def programme(places: np.ndarray, corners: np.ndarray, tolerance: float, shake: float) -> int:
    """Return the fewest pieces between candidate nodes, each measured on all of its samples; the
    directions at the candidates are given, and every piece that a search finds good is counted.
    """
    moved = np.concatenate([[True], np.any(np.diff(places, axis=0) != 0, axis=1)])
    p, sharp = places[moved], np.unique((np.cumsum(moved) - 1)[corners])
    candidates, line = knots.candidates(p, sharp, tolerance, shake, closed=False)
    settling = courses._Settling(p, line, tolerance, shake)
    last = len(candidates.sample) - 1
    walls = np.flatnonzero(np.isin(candidates.sample, sharp))
    fewest = np.full(last + 1, last + 1)
    fewest[0] = 0
    for i in range(last):
        ahead = walls[walls > i]
        end = int(ahead[0]) if len(ahead) else last
        misses, j = 0, i + 1
        while j <= end and misses < PATIENCE:
            ends = np.arange(j, min(j + 16, end + 1))
            for k, good in zip(
                ends, settling._tried(candidates, np.full(len(ends), i), ends), strict=True
            ):
                misses = 0 if good else misses + 1
                if good or k == i + 1:
                    # What no one piece does between neighbours takes another node on a sample.
                    fewest[k] = min(fewest[k], fewest[i] + (1 if good else 2))
            j = int(ends[-1]) + 1
    return int(fewest[last])


def _speeds() -> dict[str, float]:
    long = hand.draw(3, length=10_000 * 500 / 120)
    take, corners = _take(long)
    figures = {"samples of the long take": float(len(take.times))}
    for tolerance in TOLERANCES:
        fit = partial(courses.fit, take.places, tolerance, corners=corners, shake=take.tremor)
        fit_s = best_of(fit, 5)
        textbook_s = best_of(lambda: textbook(take.places, tolerance), 2)  # noqa: B023
        figures |= {
            f"long take, tolerance {tolerance:g}: fit, ms": fit_s * 1e3,
            f"long take, tolerance {tolerance:g}: textbook / fit, times as long": textbook_s
            / fit_s,
        }
    whole_s = best_of(lambda: takes.smooth(take, Smoothing(4.0), fps=30), 3)
    return figures | {"long take: all of it, with corners, pegs and figures, ms": whole_s * 1e3}
