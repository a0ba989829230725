"""The short way from attitude to attitude, against rotations by their axes."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from coaster.edits import depth as edits
from coaster.geometry import depth
from coaster.motion import turning
from coaster.motion.keys import Key
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import Track
from tests.core.test_depth import moved

STOPS = np.array([0.0, 12.0])
angle = st.floats(-4, 4)
attitude = st.tuples(angle, angle, angle)


def matrices(angles):
    turn, tilt, swing = np.atleast_2d(angles).T
    zero, one, cos, sin = np.zeros_like(turn), np.ones_like(turn), np.cos(turn), np.sin(turn)
    rows = np.stack([cos, -sin, zero, sin, cos, zero, zero, zero, one], 1)
    return depth.leaning(tilt, swing) @ rows.reshape(-1, 3, 3)


def apart(a, b):
    """Return the degrees of the rotation that is between two."""
    trace = np.einsum("nij,nij->n", a, b)
    return np.degrees(np.arccos(np.clip((trace - 1) / 2, -1, 1)))


def way(begin, end, times):
    met = np.array([begin, end], float)
    now = met[0] + (met[1] - met[0]) * np.asarray(times)[:, None] / 12
    return matrices(turning.short_way(STOPS, met, np.asarray(times, float), now))


@given(attitude, attitude)
def test_it_goes_evenly_by_one_rotation_and_meets_both_ends(begin, end):
    times = np.linspace(0, 12, 13)
    found = way(begin, end, times)
    ends = matrices([begin, end])
    assert np.allclose(found[[0, -1]], ends, atol=1e-7)
    whole = apart(ends[:1], ends[1:])[0]
    if np.allclose(begin, end) or whole > 179.9:  # half a turn goes either way
        return
    # Evenly, and no farther than from end to end: so it is the shortest way.
    steps = apart(found[:-1], found[1:])
    assert steps == pytest.approx(np.full(12, whole / 12), abs=2e-4)


def test_angles_are_the_same_attitude_also_where_it_is_swung_by_a_quarter():
    chance = np.random.default_rng(3)
    angles = chance.uniform(-3, 3, (500, 3))
    angles[:100, 2] = np.pi / 2
    angles[100:200, 2] = -np.pi / 2
    again = turning._angles(turning._quaternions(angles))
    assert np.abs(matrices(again) - matrices(angles)).max() < 1e-12


def test_before_and_after_it_rests_and_curves_may_lead_beyond():
    met, times = np.array([[0, 0, 0], [1.0, 0, 0]]), np.array([-5.0, 15.0, 6.0])
    now = np.array([[0, 0, 0], [1.0, 0, 0], [1.2, 0, 0]])
    assert turning.short_way(STOPS, met, times, now)[:, 0] == pytest.approx([0, 1, 1.2])


def board(**pose):
    def keys(name, *values):
        return Track(name, tuple(Key(f"{name}{i}", 12.0 * i, v) for i, v in enumerate(values)))

    box = Shape("rectangle", 60, 40, "#e03020")
    tracks = keys("turn", 350.0, 10.0), keys("swing", 0.0, 40.0)
    return Scene(320, 200, length=24, layers=(Layer("box", "Box", box, Transform((160, 100), **pose), keys=tracks),))  # fmt: skip


def test_a_layer_goes_the_short_way_if_it_is_told_to():
    plain, short = (Evaluation(board(short_way=on)).motion("box").maps[6] for on in (False, True))
    # Half way between 350 and 10 degrees: upside down by the angle's own way, upright by the short one.
    assert plain[0] < 0 < short[0]
    value = board()
    after = moved(value, edits.lie(value, "box", short_way=True))
    assert after == board(short_way=True)


def test_what_is_turned_in_its_plane_alone_stays_in_it():
    value = board(short_way=True)
    layer = value.layers[0]
    flat = Scene(320, 200, length=24, layers=(Layer("box", "Box", layer.content, layer.transform, keys=layer.keys[:1]),))  # fmt: skip
    maps = Evaluation(flat).motion("box").maps
    assert maps.shape[1] == 6
    turns = np.degrees(np.arctan2(maps[:13, 1], maps[:13, 0]))
    assert turns == pytest.approx(np.linspace(-10, 10, 13))
