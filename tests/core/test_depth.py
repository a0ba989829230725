"""Depth: where planes are seen, against a pinhole and quaternions of our own; cameras, what is cut
off, in which order all is drawn, and what edits make of it.
"""

from dataclasses import replace
from itertools import product
from pathlib import Path as File

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from coaster.commands import apply_all
from coaster.edits import becoming, frames, groups, layers, paths, rides, unseen
from coaster.edits import depth as edits
from coaster.edits.keys import Moment
from coaster.edits.spaces import space_of
from coaster.errors import EditRefused, SceneError
from coaster.export import vector
from coaster.export.drawers import painter_of
from coaster.formats import pathdata
from coaster.geometry import maps
from coaster.geometry.path import Path
from coaster.motion.copies import Copies
from coaster.motion.keys import Key
from coaster.motion.ride import Facing
from coaster.render import places, stage, svg
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.scene import codec
from coaster.scene.contents import Camera, Group, Line, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import Track
from tests.core.test_crowds import header_of
from tests.core.test_render import loop

STAGE = File(__file__).parents[2] / "src/studio/static/studio/js"
WIDTH, HEIGHT, LENGTH = 320, 200, 24
RING = "M60 100A100 100 0 0 1 260 100A100 100 0 0 1 60 100Z"
BOX = Shape("rectangle", 60, 40, "#e03020")


def scene(*layers, **values):
    return Scene(WIDTH, HEIGHT, length=LENGTH, background="#ffffff", layers=layers, **values)


def lantern(name="lantern", **pose):
    return Layer(name, name.capitalize(), BOX, Transform((160, 100), **pose))


def keyed(name, *values):
    return Track(name, tuple(Key(f"{name}{i}", 12 * i, float(v)) for i, v in enumerate(values)))


def picture(value, frame=0):
    return painter_of(value, File("/nowhere")).picture(frame)


def rotated(degrees, axis, points):
    """Turn points (n, 3) round an axis by quaternions, the right-handed way about it."""
    half = np.radians(degrees) / 2
    w, v = np.cos(half), np.sin(half) * np.asarray(axis, float)
    cross = np.cross(v, points)
    return points + 2 * w * cross + 2 * np.cross(v, cross)


def turned(pose, points):
    """Return points (n, 3) turned as a layer is: in its plane, swung, then tilted."""
    points = rotated(pose.turn, (0, 0, 1), points)
    points = rotated(pose.swing, (0, -1, 0), points)
    return rotated(pose.tilt, (-1, 0, 0), points)


def pinhole(points, angle=40.0):
    """Return where points (n, 3) are seen from right before the middle of the picture."""
    far = WIDTH / 2 / np.tan(np.radians(angle / 2))
    middle = np.array([WIDTH / 2, HEIGHT / 2])
    return middle + (points[:, :2] - middle) * (far / (far + points[:, 2:]))


CORNERS = np.array([[0, 0], [60, 0], [60, 40], [0, 40]], float)
ANGLES, PX = st.floats(-50, 50), st.floats(-60, 60)


def poses(spots):
    return st.builds(
        Transform, spots, scale=st.tuples(*[st.floats(0.5, 1.5)] * 2), turn=ANGLES, z=PX,
        tilt=ANGLES, swing=ANGLES, anchor_z=PX,
    )  # fmt: skip


@settings(max_examples=60, deadline=None)
@given(poses(st.just((20.0, -10.0))), poses(st.just((160.0, 100.0))))
def test_a_layer_in_a_group_is_seen_where_a_pinhole_sees_it(own, around):
    around = replace(around, scale=(around.scale[0], around.scale[0]))
    box = Layer("box", "Box", BOX, own, parent="pod")
    pod = Layer("pod", "Pod", Group(), around)
    seen = maps.apply_each(Evaluation(scene(box, pod)).motion("box").maps, CORNERS)[0]
    local = np.column_stack([(CORNERS - [30, 20]) * own.scale, np.full(4, -own.anchor_z)])
    there = turned(own, local) + np.array([*own.position, own.z])
    there = turned(around, around.scale[0] * (there - [0, 0, 0]) - [0, 0, around.anchor_z])
    there += [*around.position, around.z]
    np.testing.assert_allclose(seen, pinhole(there), atol=0.01)


def test_what_is_parallel_to_the_picture_stays_flat_and_is_smaller_as_it_is_farther():
    found = Evaluation(scene(lantern(z=100.0, turn=20.0))).motion("lantern").maps
    assert maps.is_flat(found)
    far = WIDTH / 2 / np.tan(np.radians(20))
    assert np.hypot(*found[0, :2]) == pytest.approx(far / (far + 100))
    assert maps.is_flat(Evaluation(scene(lantern())).motion("lantern").maps)


def test_a_camera_that_rests_where_the_viewer_is_changes_no_byte():
    layers = (
        lantern(turn=10.0),
        replace(lantern("other", scale=(0.5, 2.0)), keys=(keyed("x", 0, 300),)),
    )
    plain = scene(*layers)
    seen = scene(*layers, Layer("cam", "Camera", Camera(), Transform((160, 100))))
    assert Evaluation(plain)._known.viewer is None
    for frame in (0, 7):
        assert np.array_equal(picture(plain, frame), picture(seen, frame))


def test_what_a_camera_lies_on_is_seen_in_the_middle_and_a_wide_one_sees_more():
    cam = Layer("cam", "Camera", Camera(60.0), Transform((100, 60), z=50.0, tilt=20, swing=-30))
    value = scene(lantern("a"), cam)
    spot = Transform((100, 60), z=50.0)
    value = value.with_layers([replace(value.layer("a"), transform=spot)])
    seen = Evaluation(value)
    assert seen.spot(seen.motion("a"), 0) == pytest.approx((160, 100), abs=1e-9)
    wide, narrow = (
        scene(lantern(z=200.0), replace(cam, content=Camera(a), transform=Transform((160, 100))))
        for a in (120.0, 20.0)
    )
    sizes = [np.hypot(*Evaluation(each).motion("lantern").maps[0, :2]) for each in (wide, narrow)]
    assert sizes[0] < sizes[1]


def ring(*layers, tilt=70.0, by_depth=False, **values):
    """A group that is tilted, in which a ring is ridden."""
    path = Path("ring", "Ring", pathdata.subpaths(pathdata.runs(RING)), parent="pod")
    pod = Layer(
        "pod", "Pod", Group((160, 100), by_depth=by_depth), Transform((160, 100), tilt=tilt)
    )
    return scene(*(replace(each, parent="pod") for each in layers), pod, paths=(path,), **values)


def rider(name="rider", facing=None, offset=0.0, **pose):
    ride = replace(loop("ring", LENGTH), facing=facing or Facing("fixed"), offset=offset)
    return replace(lantern(name, **pose), ride=ride)


def test_a_camera_that_looks_at_a_rider_has_it_in_the_middle_wherever_both_go():
    value = ring(rider())
    crane = Path("crane", "Crane", pathdata.subpaths(pathdata.runs("M20 20L300 120")))
    ride = replace(loop("crane", LENGTH), facing=Facing("target", target="rider"))
    cam = Layer("cam", "Camera", Camera(50), Transform((160, 100), z=-20.0), ride=ride)
    value = replace(value, layers=(*value.layers, cam), paths=(*value.paths, crane))
    seen = Evaluation(value)
    spots = seen.spots_of(seen.motion("rider"))
    np.testing.assert_allclose(spots, np.broadcast_to([160.0, 100.0], spots.shape), atol=1e-6)


def test_a_face_is_to_the_viewer_however_its_group_lies():
    value = ring(rider(to_viewer=True), tilt=80.0)
    stand = Evaluation(value).motion("rider").stand
    far = WIDTH / 2 / np.tan(np.radians(20))
    middles = stand.space @ np.array([30.0, 20.0, 0.0, 1.0])
    to_eye = np.array([160.0, 100.0, -far]) - middles[:, :3]
    face = -np.cross(stand.space[:, :3, 0], stand.space[:, :3, 1])
    cosine = (to_eye * face).sum(1) / np.linalg.norm(to_eye, axis=1) / np.linalg.norm(face, axis=1)
    assert cosine == pytest.approx(np.ones(len(cosine)))


def test_a_rider_looks_at_a_layer_with_its_face():
    value = ring(rider(facing=Facing("target", target="post", looks="face")), lantern("post"))
    seen = Evaluation(value)
    stand, post = seen.motion("rider").stand, seen.motion("post").stand
    face = -np.cross(stand.space[:, :3, 0], stand.space[:, :3, 1])
    middle = np.array([30.0, 20.0, 0.0, 1.0])
    way = (post.space @ middle)[:, :3] - (stand.space @ middle)[:, :3]
    cosine = (way * face).sum(1) / np.linalg.norm(way, axis=1) / np.linalg.norm(face, axis=1)
    assert cosine == pytest.approx(np.ones(len(cosine)))


def test_what_passes_the_viewer_is_cut_off_and_nothing_is_seen_beyond_the_horizon():
    floor = Layer("floor", "Floor", Shape("rectangle", 4000, 4000, "#204080"),
                  Transform((160, 140), tilt=90.0))  # fmt: skip
    drawn = picture(scene(floor))
    blue = drawn[..., 2] < 100
    assert blue[150:].all()
    assert not blue[:99].any()


def test_a_picture_that_passes_the_viewer_is_cut_off_too(tmp_path):
    from PIL import Image

    from coaster.scene.contents import Picture

    Image.new("RGB", (40, 40), "#204080").save(tmp_path / "floor.png")
    floor = Layer(
        "floor", "Floor", Picture("floor.png", 4000, 4000), Transform((160, 140), tilt=90.0)
    )
    blue = painter_of(scene(floor), tmp_path).picture(0)[..., 2] < 100
    assert blue[150:].all()
    assert not blue[:99].any()


@pytest.mark.parametrize("z", [-436.0, -440.0, -1000.0, 1e6])
def test_what_is_at_the_viewer_or_behind_shows_nothing_and_is_said(z):
    value = scene(lantern(z=z))
    drawn = picture(value)
    if z < 0:
        assert (drawn == 255).all()
        (reason,) = unseen.reasons(value, "lantern", 0, lambda _: False)
        assert reason.words == "Lantern is behind the viewer here."


def test_what_is_seen_by_its_edge_is_said():
    value = scene(lantern(swing=90.0))
    assert (picture(value) == 255).all()
    (reason,) = unseen.reasons(value, "lantern", 0, lambda _: False)
    assert reason.words == "Lantern is seen by its edge alone here."


def test_frames_by_themselves_are_as_all_of_them_are():
    tilting = replace(lantern(), keys=(keyed("z", 0, -500, 200), keyed("tilt", 0, 60, 0)))
    going = replace(lantern("going"), keys=(keyed("z", 0, -500, 200),))
    evaluation = Evaluation(scene(tilting, going))
    for layer in evaluation.scene.layers:
        whole = evaluation.motion(layer.id).maps
        for frame in (0, 1, 11, 12, 24):
            (one,) = evaluation.motions_of([layer], Frames.one(frame))
            np.testing.assert_array_equal(one.maps[0], whole[frame])


def colours_at(value, frame, *spots):
    drawn = picture(value, frame)
    return ["".join(f"{c:02x}" for c in drawn[y, x, 2::-1]) for x, y in spots]


def test_by_depth_the_nearer_one_is_in_front_whatever_the_order():
    near, far = (
        replace(lantern(n, z=z), content=replace(BOX, fill=fill))
        for n, z, fill in (("near", -50.0, "#ff0000"), ("far", 50.0, "#0000ff"))
    )
    middle = [(160, 100)]
    for order in ((near, far), (far, near)):
        assert colours_at(scene(*order, by_depth=True), 0, *middle) == ["ff0000"]
    assert colours_at(scene(near, far), 0, *middle) == ["0000ff"]


def test_riders_and_copies_pass_before_and_behind_a_post():
    post = replace(
        lantern("post", to_viewer=True), content=replace(BOX, fill="#0000ff", height=160)
    )
    red = rider(offset=0.0, to_viewer=True)
    red = replace(red, ride=replace(red.ride, copies=Copies(2)))
    value = ring(red, post, by_depth=True)
    seen = Evaluation(value)
    for frame in range(LENGTH):
        here = seen.spot(seen.motion("rider"), frame)
        if abs(here[0] - 160) < 8:
            away, mid = (
                m.away[frame if len(m.away) > 1 else 0] for m in map(seen.motion, ("rider", "post"))
            )
            spot = int(here[0]), int(here[1])
            assert colours_at(value, frame, spot) == ["e03020" if away < mid else "0000ff"]
    # Of a copy, too: where one is before the post, the other is behind it.
    (behind,) = (m for m in seen.copies_of([value.layer("rider")])["rider"])
    post_away = seen.motion("post").away
    assert ((behind.away < post_away) != (seen.motion("rider").away < post_away))[1:11].all()


def test_the_stage_is_told_where_copies_lie():
    copied = rider(offset=0.0, to_viewer=True)
    copied = replace(copied, ride=replace(copied.ride, copies=Copies(3)))
    value = ring(copied)
    told = header_of(stage.pack(value))["layers"]
    (one,) = (each for each in told if each["id"] == "rider")
    assert [copy["space"][2] for copy in one["copies"]] == [15, 15]


def test_what_changes_places_in_depth_does_so_in_an_svg_of_a_frame_and_a_moving_one_says_so():
    going = replace(
        lantern("going"), content=replace(BOX, fill="#0000ff"), keys=(keyed("z", -90, 90),)
    )
    value = scene(lantern(), going, by_depth=True)
    texts = [svg.file(program_of(Evaluation(value)), frame, str) for frame in (0, 12)]
    assert texts[0].index("#e03020") < texts[0].index("#0000ff")
    assert texts[1].index("#0000ff") < texts[1].index("#e03020")
    assert (
        "What passes in front of others stays in the order of the first frame."
        in vector.left_out(value)
    )


def test_a_line_in_a_group_is_as_far_away_as_the_group():
    rail = Layer("rail", "Rail", Line("ring", "#0000ff", 8.0))
    value = ring(rail, tilt=0.0, by_depth=True)
    far = value.with_layers([replace(value.layer("pod"), transform=Transform((160, 100), z=80.0))])
    away = Evaluation(far).motion("rail").away
    assert away == pytest.approx([1 + 80 * np.tan(np.radians(20)) / 160])


def test_what_is_in_a_flat_group_lies_in_its_plane():
    box = Layer("box", "Box", BOX, Transform((0, 0), z=80.0, tilt=60.0), parent="pod")
    pod = Layer("pod", "Pod", Group(flat=True), Transform((160, 100)))
    found = Evaluation(scene(box, pod)).motion("box").maps
    assert maps.is_flat(found)
    corners = maps.apply_each(found, CORNERS)[0]
    # Tilted by 60 degrees it is half as high, and no edge is longer than the other.
    np.testing.assert_allclose(corners - [160, 100], (CORNERS - [30, 20]) * [1, 0.5], atol=1e-9)


def moved(value, edit):
    return apply_all(value, edit.commands)[0]


MOMENT = Moment(0.0, False)


def test_a_layer_in_depth_goes_where_the_hand_lets_it_go():
    value = ring(lantern("post"), tilt=50.0)
    after = moved(value, layers.move_to(value, "post", (200.0, 130.0), MOMENT))
    assert places.spot_of(after, "post", 0) == pytest.approx((200, 130), abs=0.01)
    nudged = moved(after, layers.nudge(after, ["post"], (10.0, -5.0), MOMENT))
    assert places.spot_of(nudged, "post", 0) == pytest.approx((210, 125), abs=0.01)


def test_there_is_no_place_beyond_the_horizon_and_nothing_is_changed():
    value = ring(lantern("post"), tilt=80.0)
    with pytest.raises(EditRefused, match="beyond its horizon"):
        layers.move_to(value, "post", (160.0, -400.0), MOMENT)


def test_the_stage_cuts_off_where_the_core_does():
    script = STAGE / "matrices.js"
    assert f"export const NEAR = {maps.NEAR}\n" in script.read_text()


def test_a_handle_of_a_tilted_layer_stays_under_the_hand():
    value = scene(lantern(tilt=50.0, swing=20.0))

    def corners(of):
        return maps.apply_each(Evaluation(of).motion("lantern").maps, CORNERS)[0]

    start, fixed = corners(value)[2], corners(value)[0]
    end = tuple(start + np.array([15.0, 10.0]))
    edit = frames.stretch(
        value, "lantern", (1, 1), tuple(start), end, MOMENT, even=False, about_anchor=False
    )
    after = corners(moved(value, edit))
    # It turns about its anchor, which has moved a little: the hand is followed but for perspective.
    assert after[2] == pytest.approx(end, abs=1.0)
    assert after[0] == pytest.approx(fixed, abs=1.0)


def test_what_is_not_seen_has_no_frame_to_be_dragged():
    value = scene(Layer("cam", "Camera", Camera(), Transform((160, 100))))
    with pytest.raises(EditRefused, match="Camera shows nothing here that could be framed"):
        frames.move_anchor(value, "cam", (20.0, 20.0), MOMENT)


def test_a_group_with_depth_is_not_dissolved_and_nothing_is_lost():
    value = ring(lantern("post"))
    with pytest.raises(EditRefused, match="Pod has depth, in which Post could not be kept"):
        groups.ungroup(value, "pod", 0)
    flat = moved(value, layers.place(value, "pod", {"tilt": 0.0}, MOMENT))
    assert groups.ungroup(flat, "pod", 0).commands


def test_a_path_is_made_of_what_is_seen_and_no_shape_in_depth_becomes_one():
    tilted = scene(lantern(tilt=50.0))
    after = moved(tilted, paths.outline(tilted, "lantern", 0))
    corners = np.array([node.position for node in after.paths[0].nodes()])
    seen = maps.apply_each(Evaluation(tilted).motion("lantern").maps, CORNERS)[0]
    np.testing.assert_allclose(corners, seen, atol=0.01)
    with pytest.raises(EditRefused, match="Lantern has depth, and a path lies in the plane"):
        becoming.to_path(tilted, "lantern", 0)
    value = ring(lantern("post"), tilt=50.0)
    before = picture(value)
    after = moved(value, becoming.to_path(value, "post", 0))
    assert np.abs(picture(after).astype(int) - before).mean() < 0.5


def test_a_camera_is_added_in_the_middle_and_rides_without_turning():
    value = moved(ring(rider()), layers.add(ring(rider()), "camera"))
    (cam,) = [layer for layer in value.layers if layer.content.can.view]
    assert cam.transform.position == (160.0, 100.0)
    attached = moved(value, rides.attach(value, cam.id, "ring"))
    assert attached.layer(cam.id).ride.facing.mode == "fixed"


def test_a_camera_sees_as_wide_as_is_said_and_keeps_it_in_keys():
    value = scene(Layer("cam", "Camera", Camera()))
    after = moved(value, edits.see(value, "cam", {"angle": 60.0}, MOMENT))
    assert after.layer("cam").content == Camera(60.0)
    pinned = moved(after, edits.see(after, "cam", {"angle": 20.0}, Moment(12.0, True)))
    assert [key.value for key in pinned.layer("cam").keys_of("angle")] == [20.0]
    with pytest.raises(EditRefused, match="is not a camera"):
        edits.see(scene(lantern()), "lantern", {"angle": 20.0}, MOMENT)


def test_how_a_layer_lies_and_what_a_group_keeps_are_set():
    value = ring(lantern("post"))
    after = moved(value, edits.lie(value, "post", anchor_z=30.0, to_viewer=True))
    assert after.layer("post").transform == replace(
        value.layer("post").transform, anchor_z=30.0, to_viewer=True
    )
    after = moved(after, edits.keep(after, "pod", flat=True, by_depth=True))
    assert after.layer("pod").content == Group((160, 100), flat=True, by_depth=True)
    assert moved(after, edits.keep(after, "", by_depth=True)).by_depth
    with pytest.raises(EditRefused, match="is not a group"):
        edits.keep(value, "post", flat=True)
    cam = scene(Layer("cam", "Camera", Camera()))
    with pytest.raises(EditRefused, match="it has no face to turn"):
        edits.lie(cam, "cam", to_viewer=True)


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [
        ("angle", 0.0, "at least 1"),
        ("angle", 180.0, "at most 170"),
        ("z", 1e9, "at most 1,000,000"),
    ],
)
def test_what_nobody_can_look_through_is_refused_in_words(field, value, words):
    data = codec.to_data(scene(Layer("cam", "Camera", Camera())))
    home = "content" if field == "angle" else "transform"
    data["layers"][0][home][field] = value
    with pytest.raises(SceneError, match=words):
        codec.from_data(data)


def test_a_seam_in_depth_is_found():
    whole = replace(lantern(), keys=(keyed("swing", 0, 180, 360),))
    assert seam_words(whole) == []
    assert seam_words(replace(lantern(), keys=(keyed("tilt", 0, 20, 40),))) == [
        "tilts or swings 40.0° at once"
    ]


def seam_words(layer):
    from coaster.render import seam

    (found,) = seam.report(Evaluation(scene(layer)))
    return [words for words in found.reasons() if "tilts" in words]


def test_maps_in_perspective_are_taken_back_and_told_nearby():
    rng = np.random.default_rng(5)
    for _ in range(20):
        m = np.array([1, 0.2, 30, -0.1, 0.8, 20, 1e-3, -5e-4, 1.0]) * rng.uniform(0.7, 1.3, 9)
        point = rng.uniform(0, 100, 2)
        there = maps.apply(m, point)
        assert maps.apply(maps.inverse(m), there) == pytest.approx(point)
        near = maps.around(m, point)
        assert maps.apply(near, point) == pytest.approx(there)
        step = np.array([1e-4, 2e-4])
        assert maps.apply(near, point + step) - there == pytest.approx(
            maps.apply(m, point + step) - there, rel=1e-3
        )
    corners = np.array(list(product((0.0, 10.0), repeat=2)))
    behind = np.array([[1, 0, 0, 0, 1, 0, 0, 0, -1.0]])
    assert np.isnan(maps.outline_of(behind, corners)).all()


def crosswise(**second):
    """Two boards of 60 x 40 px, one of which is swung by a quarter."""
    return scene(
        lantern("first"),
        replace(lantern("second"), transform=Transform(**{"position": (160, 100), "swing": 90.0, **second})),
    )  # fmt: skip


@pytest.mark.parametrize(
    ("pose", "told"),
    [
        ({}, True), ({"swing": 0.0}, False), ({"swing": 0.0, "z": 1.0}, False), ({"z": 29.0}, True), ({"z": 31.0}, False),
        ({"position": (189.0, 100.0)}, True), ({"position": (191.0, 100.0)}, False), ({"position": (160.0, 141.0)}, False),
        ({"tilt": 40.0, "swing": 0.0}, True),
    ],
)  # fmt: skip
def test_what_goes_through_each_other_is_said_where_it_is_sorted(pose, told):
    edit = edits.keep(crosswise(**pose), "", by_depth=True)
    assert bool(edit.notes) == told
    if told:
        assert edit.notes[0].startswith("First and Second go through each other")
    assert edits.keep(crosswise(**pose), "", by_depth=False).notes == ()


def test_what_is_in_a_group_goes_through_what_is_beside_it():
    pod = Layer("pod", "Pod", Group(), Transform((160, 100), swing=90.0))
    inner = replace(lantern("inner"), parent="pod", transform=Transform())
    value = scene(lantern("first"), inner, pod)
    assert edits.keep(value, "", by_depth=True).notes[0].startswith("First and Pod go through")


def test_a_figure_lies_where_it_is_pointed_at_also_under_a_camera():
    cam = Layer("cam", "Camera", Camera(40), Transform((200, 90), z=-60.0, tilt=25.0))
    value = scene(lantern(), cam)
    box = (60.0, 50.0, 80.0, 60.0)
    space = space_of(value, None, 0.0, 40.0)
    after = moved(value, paths.add_figure(value, "ellipse", box, paths.FigureLook(), space))
    nodes = after.paths[-1].nodes()
    assert {node.z for node in nodes} == {40.0}
    points = np.array([(*node.position, node.z) for node in nodes])
    seen = space_of(after, None, 0.0, 40.0).drawn(points)
    wanted = {(60.0, 80.0), (140.0, 80.0), (100.0, 50.0), (100.0, 110.0)}
    assert {(round(x, 3), round(y, 3)) for x, y in seen} == wanted
