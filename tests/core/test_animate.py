"""A ride as SVG's own animation evaluates back to the same travel."""

import math
import re
from dataclasses import replace

import numpy as np
import pytest
from defusedxml.ElementTree import fromstring
from hypothesis import assume, given
from hypothesis import strategies as st
from svgelements import Move
from svgelements import Path as SvgPath

from coaster.errors import EditRefused
from coaster.formats import animate
from coaster.formats.pathdata import runs, subpaths
from coaster.geometry.path import Path
from coaster.motion import distance, easing
from coaster.motion.distance import Way
from coaster.motion.keys import Key
from coaster.motion.ride import AtPercent, Facing, Peg, Ride
from coaster.motion.sampling import simple_pegs
from coaster.motion.sections import Reach
from coaster.motion.travel import evaluate, looking_at
from tests.core import strategies as ours
from tests.core.test_timing import PEGS, WAVE

reach = st.builds(Reach, st.floats(0.01, 1), st.floats(-1.5, 3))


sections = st.lists(
    st.tuples(st.integers(1, 60), st.floats(0, 100), reach, reach), min_size=2, max_size=6
)


@given(ours.paths(), sections, st.booleans())
def test_key_points_times_and_splines_say_the_same_travel(path, some, forward):
    times = np.cumsum([t for t, *_ in some])
    rows = enumerate(zip(times, some, strict=True))
    pegs = tuple(Peg(f"p{i}", float(t), AtPercent(v), a, b) for i, (t, (_, v, a, b)) in rows)
    way = Way(path, Ride("path", pegs, never_backwards=forward))
    assume(way.length > 1)
    try:
        found = animate.motion_of(way)
    except EditRefused:
        assume(False)
    assert np.all((found.splines >= 0) & (found.splines <= 1))
    assert np.all(np.diff(found.times) >= 0)
    asked = np.linspace(times[0], times[-1], 41)
    wanted, _ = distance.travelled(way, asked)
    shares = [found.at((t - times[0]) / (times[-1] - times[0])) for t in asked]
    np.testing.assert_allclose(shares, np.clip(wanted / way.length, 0, 1), atol=1e-6)


def test_the_file_is_svg_with_the_ride_in_it():
    way = Way(WAVE, Ride("w", PEGS, Facing("along")))
    root = fromstring(animate.to_svg(way, 640, 360, 30.0))
    found = root.find(".//{http://www.w3.org/2000/svg}animateMotion").attrib
    assert (found["dur"], found["rotate"], found["calcMode"]) == ("4s", "auto", "spline")
    assert [float(v) for v in found["keyTimes"].split(";")] == pytest.approx([0, 1 / 3, 0.5, 1])
    assert [float(v) for v in found["keyPoints"].split(";")] == pytest.approx([0, 0.5, 0.6, 1])
    assert len(re.split(";", found["keySplines"])) == 3


@pytest.mark.parametrize(
    ("ride", "words"),
    [
        (Ride("w", PEGS[:1]), "stands still"),
        (Ride("w", (replace(PEGS[0], step="end"), *PEGS[1:])), "jumps from peg to peg"),
        (Ride("w", PEGS, offset=30), "past the ends"),
    ],
)
def test_what_svg_cannot_say_is_refused_in_words(ride, words):
    with pytest.raises(EditRefused, match=words):
        animate.motion_of(Way(WAVE, ride))


def played(text: str, share: float) -> tuple[np.ndarray, float]:
    """Where a file puts the arrow at a share of its time, and which way: as SVG has it."""
    ns = "{http://www.w3.org/2000/svg}"
    root = fromstring(text)
    told = {each.get("type"): each.get("values") for each in root.iter(f"{ns}animateTransform")}

    def at(kind: str) -> np.ndarray:
        rows = np.array([[float(v) for v in row.split()] for row in told[kind].split(";")])
        u = np.linspace(0, 1, len(rows))
        return np.array([np.interp(share, u, column) for column in rows.T])

    turned = float(at("rotate")[0]) if "rotate" in told else 0.0
    moved = root.find(f".//{ns}animateMotion")
    if moved is None:
        return at("translate"), turned
    numbers = {
        name: [float(v) for v in re.split("[; ]+", moved.get(name))]
        for name in ("keyPoints", "keyTimes", "keySplines")
    }
    motion = animate.Motion(
        np.array(numbers["keyPoints"]),
        np.array(numbers["keyTimes"]),
        np.reshape(numbers["keySplines"], (-1, 4)),
    )
    ridden = SvgPath(moved.get("path"))
    length = sum(s.length() for s in ridden if not isinstance(s, Move))
    left = motion.at(share) * length
    for piece in (s for s in ridden if not isinstance(s, Move)):
        if left <= piece.length() + 1e-9 or piece is ridden[-1]:
            break
        left -= piece.length()
    u = left / piece.length() if piece.length() else 0.0
    place, ahead = piece.point(u), piece.point(min(u + 1e-5, 1)) - piece.point(max(u - 1e-5, 0))
    own = {"auto": 0.0, "auto-reverse": 180.0}.get(moved.get("rotate"))
    if own is not None:
        turned += math.degrees(math.atan2(ahead.y, ahead.x)) + own
    return np.array([place.x, place.y]), turned


STRAIGHTS = Path("p", "P", subpaths(runs("M0 0L90 0M90 120L200 120M300 50h100v80h-100Z")))
RIDES = {
    "runs with a glide": Ride("p", simple_pegs(0, 40, 1, easing.EVEN)),
    "runs with a gap passed unseen": Ride("p", simple_pegs(0, 40, 1, easing.EVEN), gap="hide"),
    "runs with a jump": Ride("p", simple_pegs(0, 40, 1, easing.EVEN), gap="jump"),
    "backwards": Ride("p", (Peg("a", 0, AtPercent(100)), Peg("b", 40, AtPercent(0))), never_backwards=False),
    "to and fro": Ride("p", (Peg("a", 0, AtPercent(0)), Peg("b", 20, AtPercent(90)), Peg("c", 40, AtPercent(0))), never_backwards=False),
    "turned": Ride("p", simple_pegs(0, 40, 1, easing.EVEN), Facing(turn=30)),
    "reversed": Ride("p", simple_pegs(0, 40, 1, easing.EVEN), Facing("reversed")),
    "ahead": Ride("p", simple_pegs(0, 40, 1, easing.EVEN), Facing("ahead")),
    "fixed": Ride("p", simple_pegs(0, 40, 1, easing.EVEN), Facing("fixed", turn=12)),
    "softened": Ride("p", simple_pegs(0, 40, 1, easing.EVEN), Facing(settle_s=0.4), settle_s=0.3),
    "rolling": Ride("p", simple_pegs(0, 40, 1, easing.EVEN), Facing("roll")),
    "looking at a spot": Ride("p", simple_pegs(0, 40, 1, easing.EVEN), Facing("target", spot=(150, 400))),
}  # fmt: skip


@pytest.mark.parametrize("name", RIDES)
def test_the_file_shows_what_the_scene_shows(name):
    ride = RIDES[name]
    way = Way(STRAIGHTS, ride)
    text = animate.to_svg(way, 640, 360, 30.0)
    wanted = evaluate(way, np.arange(41.0), fps=30.0)
    if ride.facing.mode == "target":
        wanted = looking_at(wanted, way, np.array(ride.facing.spot), fps=30.0)
    unseen = way.is_unseen(wanted.along, wanted.travelled)
    told = re.search(r'"opacity" values="([01;]+)"', text)
    assert unseen.any() == (ride.gap == "hide") == bool(told)
    if told:
        assert told[1].split(";") == ["0" if hidden else "1" for hidden in unseen]
    for frame in (3, 7, 13, 22, 27, 34):
        place, turned = played(text, frame / 40)
        np.testing.assert_allclose(place, wanted.position[frame], atol=0.02)
        off = (turned - wanted.angle(ride.facing.turn)[frame] + 180) % 360 - 180
        assert abs(off) < 0.5, (name, frame)


def test_a_shift_by_keys_is_told_too_and_another_layer_cannot_be_faced():
    keys = (Key("k1", 0, 0.0), Key("k2", 40, 50.0))
    way = Way(STRAIGHTS, Ride("p", simple_pegs(0, 40, 0.5, easing.EVEN)), keys)
    wanted = evaluate(way, np.arange(41.0), fps=30.0)
    text = animate.to_svg(way, 640, 360, 30.0)
    np.testing.assert_allclose(played(text, 0.5)[0], wanted.position[20], atol=0.02)
    facing = Facing("target", target="fish")
    with pytest.raises(EditRefused, match="another layer"):
        animate.to_svg(Way(STRAIGHTS, Ride("p", PEGS, facing)), 640, 360, 30.0)
