"""Lines that are drawn: from here to there, in step with a rider, thinner and fainter at an end."""

import math
from dataclasses import replace

import numpy as np
import pytest

from coaster.commands import applied
from coaster.edits import carriers, layers, unseen
from coaster.edits.keys import Moment
from coaster.errors import EditRefused
from coaster.export import vector
from coaster.export.drawers import painter_of
from coaster.export.orders import Choices
from coaster.export.render import render
from coaster.formats import pathdata
from coaster.geometry.measure import MeasuredPath, measure_of
from coaster.geometry.path import Path
from coaster.geometry.pieces import Ribbon, pieces_between
from coaster.media.writers import KINDS
from coaster.motion.colours import from_hex
from coaster.motion.keys import Key
from coaster.motion.ride import AtPercent, Peg, Ride
from coaster.render import seam
from coaster.render.evaluate import Evaluation, forget
from coaster.render.frames import Frames
from coaster.scene.carriers import Carrier
from coaster.scene.contents import Line, Shape
from coaster.scene.document import Layer, Scene
from coaster.scene.properties import Track

CURVE = "M20 200C120 -40 260 420 380 120"
ROUND = "M200 100C255 100 300 145 300 200C300 255 255 300 200 300C145 300 100 255 100 200C100 145 145 100 200 100Z"
GAPPY = "M20 40L120 40M200 40L300 40L300 140"


def path_from(path_id: str, name: str, data: str) -> Path:
    return Path(path_id, name, pathdata.subpaths(pathdata.runs(data, tolerance=0.01)))


def pegs(*stops: tuple[float, float]) -> tuple[Peg, ...]:
    return tuple(Peg(f"p{i}", t, AtPercent(at)) for i, (t, at) in enumerate(stops))


def scene_of(data: str, line: Line, *stops: tuple[float, float], keys=(), length=24) -> Scene:
    path = path_from("way", "Way", data)
    rider = Layer(
        "rider", "Rider", Shape(width=8, height=8), ride=Ride("way", pegs(*(stops or ((0, 0),))))
    )
    trace = Layer("trace", "Trace", line, carrier=Carrier("rider"), keys=keys)
    if not stops:
        return Scene(400, 400, length=length, layers=(replace(trace, carrier=None),), paths=(path,))
    return Scene(400, 400, length=length, layers=(trace, rider), paths=(path,))


def drawn(scene: Scene, frame: int) -> list[np.ndarray]:
    """Return the runs that are stroked in a frame, as their cubics."""
    face = Evaluation(scene).motion("trace").face(frame)
    return [run.cubics for outline in face.outlines for run in outline.figure.runs]


def long(runs: list[np.ndarray]) -> float:
    return sum(MeasuredPath(run).length for run in runs)


@pytest.mark.parametrize(
    ("begin", "end", "closed", "pieces"),
    [(0.1, 0.7, False, 1), (-0.3, 1.4, False, 1), (0.8, 1.3, True, 1), (-0.2, 0.1, True, 1)],
)
def test_pieces_are_as_long_as_what_lies_between_and_go_on_through_the_start(
    begin, end, closed, pieces
):
    path = path_from("way", "Way", ROUND if closed else CURVE)
    measure, _ = measure_of(path.subpaths, "jump")
    owners = np.zeros(len(measure.segments), int)
    found = pieces_between(
        measure, owners, begin * measure.length, end * measure.length, loops=closed
    )
    assert len(found) == pieces
    wanted = end - begin if closed else min(end, 1) - max(begin, 0)
    assert long([each.cubics for each in found]) == pytest.approx(wanted * measure.length, rel=1e-9)
    joints = found[0].cubics
    assert np.abs(joints[1:, 0] - joints[:-1, 3]).max(initial=0) < 1e-9


def test_a_line_ends_where_its_rider_is_and_begins_where_that_began():
    scene = scene_of(CURVE, Line("way"), (2, 10), (20, 90))
    evaluation = Evaluation(scene)
    spots = evaluation.spots_of(evaluation.motion("rider"))
    whole = measure_of(scene.paths[0].subpaths, "jump")[0]
    for frame in (5, 11, 19, 23):
        (run,) = drawn(scene, frame)
        assert run[-1, 3] == pytest.approx(spots[frame], abs=2e-3)
        assert run[0, 0] == pytest.approx(whole.locate([0.1 * whole.length]).position[0], abs=2e-3)
    assert drawn(scene, 1) == []
    (reason,) = unseen.reasons(scene, "trace", 1, lambda name: True)
    assert reason.words == "Nothing of Trace is drawn here."


def test_ahead_of_a_rider_is_what_it_leaves_undrawn_behind():
    behind, ahead = (
        scene_of(CURVE, Line("way", ahead=side), (0, 0), (24, 100)) for side in (False, True)
    )
    whole = measure_of(behind.paths[0].subpaths, "jump")[0].length
    for frame in (3, 12, 20):
        assert long(drawn(behind, frame)) + long(drawn(ahead, frame)) == pytest.approx(
            whole, abs=0.01
        )


def test_a_trail_has_its_px_and_one_in_frames_what_the_rider_came_by():
    px = scene_of(ROUND, Line("way", trail=90), (0, 0), (24, 100))
    assert [long(drawn(px, frame)) for frame in (0, 7, 24)] == pytest.approx([90] * 3, abs=0.05)
    frames = scene_of(CURVE, Line("way", trail=6, trail_in="frames"), (0, 0), (12, 100))
    length = measure_of(frames.paths[0].subpaths, "jump")[0].length
    lengths = [long(drawn(frames, frame)) for frame in (0, 3, 9, 15, 18)]
    assert lengths == pytest.approx([0, length / 4, length / 2, length / 4, 0], abs=0.05)


def test_a_rider_that_runs_back_has_its_trail_where_it_came_from():
    scene = scene_of(CURVE, Line("way", trail=60, thin=(0, 1)), (0, 100), (20, 0))
    spot = Evaluation(scene).spot(Evaluation(scene).motion("rider"), 10)
    points = np.concatenate([run.reshape(-1, 2) for run in drawn(scene, 10)])
    # Where the rider is, it is as wide as it gets.
    near = points[np.hypot(*(points - spot).T) < 4]
    assert len(near) > 4
    assert np.ptp(points[np.hypot(*(points - spot).T) > 50], axis=0).max() < 12


def test_gaps_are_not_drawn_and_come_as_the_rider_passes_them():
    scene = scene_of(GAPPY, Line("way"), (0, 0), (24, 100))
    assert [len(drawn(scene, frame)) for frame in (4, 10, 20)] == [1, 1, 2]
    assert long(drawn(scene, 24)) == pytest.approx(300)
    alone = scene_of(GAPPY, Line("way", end=0.5))
    # Of what nobody rides, gaps have no length.
    assert long(drawn(alone, 0)) == pytest.approx(150)


def test_keys_draw_a_line_and_through_the_start_of_a_loop():
    track = Track("end", (Key("a", 0, 0.0), Key("b", 20, 1.0)))
    scene = scene_of(CURVE, Line("way"), keys=(track,))
    length = measure_of(scene.paths[0].subpaths, "jump")[0].length
    assert [long(drawn(scene, f)) for f in (0, 5, 20)] == pytest.approx(
        [0, length / 4, length], abs=0.02
    )
    through = scene_of(ROUND, Line("way", begin=0.9, end=0.2))
    assert long(drawn(through, 0)) == pytest.approx(
        0.3 * measure_of(through.paths[0].subpaths, "jump")[0].length, abs=0.02
    )


def test_dashes_stay_where_they_are_on_the_path():
    track = Track("begin", (Key("a", 0, 0.0), Key("b", 20, 0.5)))
    scene = scene_of(CURVE, Line("way", dash=(10, 10), dash_offset=3), keys=(track,))
    length = measure_of(scene.paths[0].subpaths, "jump")[0].length
    (outline,) = Evaluation(scene).motion("trace").face(10).outlines
    assert outline.pen.offset == pytest.approx(3 + length / 4)


def test_a_fade_adds_up_to_the_strength_that_is_wanted_at_each_share():
    line = Line("way", "#e4572ecc", 10, fade=0.2)
    scene = scene_of("M20 200L380 200", line)
    outlines = Evaluation(scene).motion("trace").face(0).outlines
    for share in (0.02, 0.3, 0.7, 0.98):
        x = 20 + 360 * share
        open_still = 1.0
        for outline in outlines:
            left, _, right, _ = outline.figure.bounds()
            if left <= x <= right:
                open_still *= 1 - from_hex(outline.fill)[3]
        assert 1 - open_still == pytest.approx(0.8 * (0.2 + 0.8 * share), abs=0.03)


def test_a_ribbon_is_as_wide_as_is_said_and_round_at_a_corner():
    places = np.array([[0, 0], [50, 0], [50, 0], [50, 50]], float)
    ahead = np.array([[1, 0], [1, 0], [0, 1], [0, 1]], float)
    ribbon = Ribbon(places, ahead, np.array([0, 10, 10, 20.0]))
    body, corner = ribbon.runs(round_start=False, round_end=False)
    assert np.ptp(body[..., 0]) == pytest.approx(60)
    assert corner.min(axis=(0, 1)) == pytest.approx([45, -5])
    assert len(corner) == 4
    assert len(ribbon.runs(2, round_start=False, round_end=True)) == 2
    # All of one sense, so that together they are one.
    areas = [
        0.5 * np.sum(r[:, 0, 0] * r[:, 3, 1] - r[:, 3, 0] * r[:, 0, 1]) for r in (body, corner)
    ]
    assert np.sign(areas[0]) == np.sign(areas[1])


def test_some_frames_are_as_they_are_in_all_and_a_loop_comes_round(tmp_path):
    line = Line("way", "#2040e0", 14, trail=120, thin=(0, 1), fade=0.1)
    scene = scene_of(ROUND, line, (0, 0), (150, 100), length=150)
    painter = painter_of(scene, tmp_path)
    assert (painter.picture(0) == painter.picture(150)).all()
    whole = Evaluation(scene).motion("trace").face(113)
    forget()
    (one,) = Evaluation(scene).motions_of([scene.layer("trace")], Frames.one(113))
    for a, b in zip(whole.outlines, one.face(113).outlines, strict=True):
        assert a.fill == b.fill
        assert all(
            (x.cubics == y.cubics).all() for x, y in zip(a.figure.runs, b.figure.runs, strict=True)
        )


def test_a_line_that_begins_anew_shows_at_the_seam():
    trailing, anew = (
        scene_of(ROUND, Line("way", trail=trail), (0, 0), (24, 100)) for trail in (90, None)
    )
    assert all(row.clean for row in seam.report(Evaluation(trailing)))
    (row,) = seam.broken(Evaluation(anew))
    # All of a ring 200 px across where nothing is at its start.
    assert row.reasons() == ["is drawn 283 px farther, or less far, at once"]


def test_a_file_that_moves_by_itself_says_that_it_does_not_fade(tmp_path):
    scene = scene_of(CURVE, Line("way", trail=60, fade=0), (0, 0), (24, 100))
    assert vector.left_out(scene) == ["Trace does not fade in such a file."]
    sizes = []
    for each in (scene, scene.with_layer(replace(scene.layer("trace"), content=Line("way")))):
        out = tmp_path / "scene.svg"
        render(each, tmp_path, out, Choices("svg").order(each), kind=KINDS["svg"])
        sizes.append(out.stat().st_size)
    assert sizes[0] < 2 * sizes[1]


def test_keyed_colour_and_width_hold_for_what_is_drawn_and_its_filling_stays():
    keys = (
        Track("width", (Key("a", 0, 4.0), Key("b", 20, 12.0))),
        Track("colour", (Key("c", 0, "#000000"), Key("d", 20, "#ffffff"))),
    )
    line = Line("way", width=4, end=0.5, fill="#3cb38b")
    motion = Evaluation(scene_of(ROUND, line, keys=keys)).motion("trace")
    filling, stroke = motion.face(10).outlines
    assert (filling.fill, filling.stroke, stroke.fill) == ("#3cb38b", None, None)
    assert stroke.stroke_width == pytest.approx(8)
    assert motion.paints is None


def test_only_riders_of_its_path_lead_a_line_and_one_that_leaves_it_leaves_it_whole():
    scene = scene_of(CURVE, Line("way"), (0, 0), (24, 100))
    other = Path("other", "Other", scene.paths[0].subpaths)
    scene = replace(scene, paths=(*scene.paths, other))
    free = replace(
        scene, layers=(replace(scene.layer("trace"), carrier=None), scene.layer("rider"))
    )
    edit = carriers.carry(free, ["trace"], "rider", 0)
    assert edit.words == "Rider leads Trace"
    assert applied(free, edit.commands).layer("trace").carrier == Carrier("rider")
    gone = scene.with_layer(replace(scene.layer("rider"), ride=Ride("other", pegs((0, 0)))))
    assert long(drawn(gone, 6)) == pytest.approx(long(drawn(gone, 20)))
    with pytest.raises(EditRefused, match="Rider does not ride"):
        carriers.carry(
            replace(gone, layers=(free.layer("trace"), gone.layer("rider"))), ["trace"], "rider", 0
        )


def test_the_look_of_a_line_takes_shares_of_its_ends():
    scene = scene_of(CURVE, Line("way"))
    edit = layers.line_look(scene, "trace", {"fade": 0.5}, Moment(0), thin=(0.25, None))
    content = applied(scene, edit.commands).layer("trace").content
    assert content.thin == (0.25, 1.0)
    assert content.fade == 0.5
    assert math.isclose(content.end, 1.0)
