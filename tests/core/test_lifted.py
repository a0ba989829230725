"""Lines on paths in depth: drawn where the path is seen, in step with what rides it there."""

from dataclasses import replace

import numpy as np
import pytest

from coaster.geometry import bezier
from coaster.geometry.measure import measure_of
from coaster.geometry.path import Path
from coaster.motion.ride import Facing
from coaster.render.evaluate import Evaluation
from coaster.scene.carriers import Carrier
from coaster.scene.contents import Camera, Group, Line
from coaster.scene.document import Layer, Transform
from tests.core.test_depth import LENGTH, keyed, lantern, loop, picture, pinhole, scene
from tests.core.test_depth_paths import ROUND


def course(parent=None):
    return Path("round", "Round", (ROUND,), parent=parent)


def line(**look):
    return Layer("line", "Line", Line("round", "#ff0000", 4.0, **look))


def rider():
    return replace(lantern("rider"), ride=replace(loop("round", LENGTH), facing=Facing("fixed")))


def drawn(value, frame=0):
    """Return places (n, 2) close to each other along what is drawn of the line, and its outlines."""
    face = Evaluation(value).motion("line").faces.at(frame)
    runs = [run.cubics for outline in face.outlines for run in outline.figure.runs]
    cubics = np.concatenate(runs)
    t = np.linspace(0, 1, 33)
    places = [bezier.points_at(np.repeat(c[None], 33, 0), t) for c in cubics]
    return np.concatenate(places), face.outlines


def off(points, course):
    """Return how far points (n, 2) are from the nearest of a course's (m, 2)."""
    return np.linalg.norm(points[:, None] - course[None], axis=2).min(1)


def in_space(count=600):
    path = measure_of((ROUND,), "jump")[0]
    found = path.locate(np.linspace(0, path.length, count))
    return np.column_stack([found.position, found.deep])


def test_a_line_is_where_a_pinhole_sees_its_path():
    places, (outline,) = drawn(scene(line(), paths=(course(),)))
    seen = pinhole(in_space(20_000))
    assert off(places, seen).max() < 0.05
    assert off(seen[::200], places).max() < 2.0  # as far as places are apart
    assert outline.figure.runs[0].closed
    # As wide as where it is on the average.
    far = 160 / np.tan(np.radians(20))
    sizes = far / (far + in_space()[:, 2])
    assert outline.stroke_width == pytest.approx(4.0 * sizes.mean(), rel=0.03)


def test_it_goes_with_its_group_and_with_the_camera():
    pod = Layer("pod", "Pod", Group((160, 100)), Transform((150, 90), tilt=50.0), keys=(keyed("z", 0, 80),))  # fmt: skip
    cam = Layer("cam", "Camera", Camera(50), Transform((160, 100)), keys=(keyed("x", 160, 190),))
    inner = replace(rider(), parent="pod")
    value = scene(line(), inner, pod, cam, paths=(course("pod"),))
    seen = Evaluation(value)
    spots = seen.spots_of(seen.motion("rider"))
    for frame in (0, 7, 12, 20):
        places, _ = drawn(value, frame)
        assert off(spots[frame : frame + 1], places)[0] < 1.0
    assert not np.allclose(drawn(value, 0)[0], drawn(value, 12)[0])


@pytest.mark.parametrize("look", [{}, {"thin": (0.2, 1.0)}, {"fade": 0.5}, {"trail": 60.0}])
def test_what_draws_itself_has_its_tip_at_the_rider(look):
    traced = replace(line(**look), carrier=Carrier("rider"))
    value = scene(traced, rider(), paths=(course(),))
    seen = Evaluation(value)
    spots = seen.spots_of(seen.motion("rider"))
    for frame in (5, 11, 17):
        places, outlines = drawn(value, frame)
        assert outlines
        assert off(spots[frame : frame + 1], places)[0] < 2.5  # the width at its tip
        assert off(spots[frame + 4 : frame + 5], places)[0] > 8


def test_pieces_by_their_share_are_those_of_the_length_in_space():
    places, _ = drawn(scene(line(end=0.5), paths=(course(),)))
    half = pinhole(in_space(2001)[:1001])
    assert off(half[:1], places)[0] < 0.1
    assert off(half[-1:], places)[0] < 0.2
    assert off(pinhole(in_space(2001)[1100:1900]), places).min() > 2


def test_it_is_in_the_picture_and_what_is_behind_the_viewer_does_no_harm():
    shown = picture(scene(line(), paths=(course(),)))
    x, y = pinhole(in_space()[:1])[0].round().astype(int)
    assert shown[y, x, 2] > 200 > shown[y, x, 0]
    near = replace(ROUND, nodes=tuple(replace(node, z=node.z - 600.0) for node in ROUND.nodes))
    assert np.isfinite(picture(scene(line(), paths=(replace(course(), subpaths=(near,)),)))).all()


def test_colours_over_time_and_widths_are_those_of_the_frame():
    value = scene(replace(line(), keys=(keyed("width", 2, 8, 2),)), paths=(course(),))
    widths = [drawn(value, frame)[1][0].stroke_width for frame in (0, 12)]
    assert widths[1] == pytest.approx(4 * widths[0])


def test_a_path_in_its_plane_is_stroked_as_ever():
    flat = replace(ROUND, nodes=tuple(replace(node, z=0.0) for node in ROUND.nodes))
    value = scene(line(), lantern(z=50.0), paths=(replace(course(), subpaths=(flat,)),))
    motion = Evaluation(value).motion("line")
    assert len(motion.faces.first.outlines[0].figure.runs[0].cubics) == 4
