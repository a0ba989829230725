"""From a scene to pixels and to files: colours, counts, sameness between processes, seams."""

import json
import struct
from dataclasses import replace
from fractions import Fraction
from pathlib import Path as File

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from coaster.errors import MediaError, RenderCancelled, RenderError
from coaster.export import drawers as drawing
from coaster.export import render as rendering
from coaster.export.chunks import Watch
from coaster.export.drawers import Drawers, painter_of
from coaster.export.orders import order_for
from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.media.pictures import straight_rgba
from coaster.media.writers import KINDS
from coaster.media.writing import Job
from coaster.motion import easing
from coaster.motion.rate import Rate
from coaster.motion.ride import Facing, Ride
from coaster.motion.sampling import simple_pegs
from coaster.render import places, seam, stage
from coaster.render.evaluate import Evaluation
from coaster.render.meetings import meetings
from coaster.render.raster import Surface, disjoint
from coaster.render.sprites import Sprite, placed
from coaster.scene.contents import Line, Picture, Shape, Text
from coaster.scene.document import Layer, Scene, Transform

RING = Path(
    "ring", "Ring", pathdata.subpaths(pathdata.runs("M40 90A60 60 0 0 1 160 90A60 60 0 0 1 40 90Z"))
)
SLOPE = Path("slope", "Slope", pathdata.subpaths(pathdata.runs("M20 150L180 30")))


def loop(path: str = "ring", frames: int = 12, pace=easing.EVEN, **facing) -> Ride:
    return Ride(path, simple_pegs(0, frames, 1, pace), Facing(**facing))


@pytest.fixture
def folder(tmp_path: File) -> File:
    y, x = np.mgrid[0:40, 0:60]
    pixels = np.stack([x * 4, y * 6, 200 - x, np.full_like(x, 255)], axis=-1).astype(np.uint8)
    pixels[:8] = (0, 255, 0, 128)
    Image.fromarray(pixels).save(tmp_path / "fish.png")
    return tmp_path


@pytest.fixture
def scene() -> Scene:
    return Scene(
        200, 180, Rate(25), 12, "#204060",
        layers=(
            Layer("sky", "Sky", Shape("rectangle", 200, 40, "#ff8000"), Transform((100, 20))),
            Layer("line", "Line", Line("ring", "#ffffff", 3)),
            Layer("fish", "Fish", Picture("fish.png", 60, 40), Transform(), loop()),
            Layer("star", "Star", Shape("star", 30, 30, "#e0e040", "#000000", 2), Transform((20, 150)), loop("slope")),
            Layer("text", "Text", Text("Ebb", size=30, colour="#80ff80"), Transform((100, 20))),
            Layer("veil", "Veil", Shape("ellipse", 60, 60, "#ffffff80"), Transform((150, 140), opacity=0.5)),
        ),
        paths=(RING, SLOPE),
    )  # fmt: skip


def painted(scene: Scene, folder: File, frame: int = 0, scale: float = 1.0) -> np.ndarray:
    return straight_rgba(painter_of(scene, folder, scale).picture(frame))


def test_flat_colours_come_out_exactly_and_hidden_layers_not_at_all(scene, folder):
    shot = painted(scene, folder)
    assert shot[5, 5].tolist() == [255, 128, 0, 255]
    assert shot[100, 195].tolist() == [0x20, 0x40, 0x60, 255]
    veiled = [round(c + (255 - c) * 128 / 255 * 0.5) for c in (0x20, 0x40, 0x60)]
    assert np.abs(shot[140, 150, :3].astype(int) - veiled).max() <= 1
    hidden = scene.with_layer(replace(scene.layer("sky"), visible=False))
    assert painted(hidden, folder)[5, 5].tolist() == [0x20, 0x40, 0x60, 255]


def test_a_path_is_in_the_picture_only_if_a_line_strokes_it(scene, folder):
    bare = replace(scene, layers=tuple(x for x in scene.layers if x.id == "fish"))
    without = replace(
        bare, layers=(replace(bare.layers[0], ride=None, transform=Transform((40, 90))),), paths=()
    )
    assert (
        np.array_equal(painted(bare, folder), painted(without, folder)) is False
    )  # it faces along
    turned = replace(without.layers[0], transform=Transform((40, 90), turn=-90))
    assert (
        np.abs(
            painted(bare, folder).astype(int) - painted(without.with_layer(turned), folder)
        ).max()
        <= 2
    )
    hidden = replace(bare, paths=(replace(RING, visible=False), SLOPE))
    assert np.array_equal(painted(bare, folder, 7), painted(hidden, folder, 7))


@pytest.fixture
def eager(monkeypatch):
    """Start drawing processes whether they are worth it or not."""
    monkeypatch.setattr(drawing, "QUICK_S", -1.0)
    monkeypatch.setattr(drawing, "IDLE_REPORTS", 1)


def test_frames_do_not_depend_on_the_order_or_the_process_that_draws_them(scene, folder, eager):
    order = [5, 0, 11, 5, 3, 8, 1] * 900
    painter = painter_of(scene, folder)
    alone = {frame: painter.picture(frame) for frame in set(order)}
    for workers in (0, 2):
        by_others = 0
        with Drawers(scene, folder, workers=workers) as drawers:
            for frame, pixels in zip(order, drawers.frames(order), strict=True):
                assert np.array_equal(pixels, alone[frame])
                by_others += pixels is not drawers._own.pixels
                if workers and by_others < 40:
                    drawers.report_idle()
            again = [p.copy() for p in drawers.frames(list(range(12)))]
        assert np.array_equal(again[5], alone[5])
        assert (by_others > 50) is (workers > 0)


def test_quick_drawing_starts_no_process_and_slow_drawing_does(scene, folder, monkeypatch):
    for limit, processes in ((100.0, 0), (-1.0, 1)):
        monkeypatch.setattr(drawing, "QUICK_S", limit)
        with Drawers(scene, folder) as drawers:
            for _ in drawers.frames(list(range(8))):
                pass
            assert len(drawers._drawers) == processes


def test_drawing_only_what_moved_gives_the_same_frames(scene, folder):
    over = replace(
        scene, layers=(*scene.layers, replace(scene.layer("star"), id="s2", ride=loop(frames=7)))
    )
    painter = painter_of(over, folder)
    surface = Surface(np.empty((180, 200, 4), np.uint8))
    for frame in (3, 9, 0, 11, 11, 4):
        painter.repaint(frame, surface)
        assert np.array_equal(surface.pixels, painter.picture(frame))
    naive = straight_rgba(every_layer_in_full(over, folder, 4))
    assert np.abs(straight_rgba(surface.pixels).astype(int) - naive).max() <= 2


def every_layer_in_full(scene: Scene, folder: File, frame: int) -> np.ndarray:
    """Draw layer by layer onto one canvas, each through a painter of its own."""
    import skia

    from coaster.render.inks import as_image, canvas_on

    whole = painter_of(replace(scene, layers=()), folder).picture(0)
    for layer in scene.layers:
        alone = replace(scene, layers=(layer,), background=None)
        drawn = painter_of(alone, folder).picture(frame)
        canvas_on(whole).drawImage(as_image(drawn), 0, 0, paint=skia.Paint())
    return whole


@given(st.lists(st.tuples(*[st.integers(0, 30)] * 4), max_size=9))
def test_joined_boxes_cover_all_and_meet_nowhere(corners):
    boxes = [(min(a, c), min(b, d), max(a, c), max(b, d)) for a, b, c, d in corners]
    found = disjoint(boxes)
    covered = np.zeros((30, 30), int)
    for left, top, right, bottom in found:
        covered[top:bottom, left:right] += 1
    assert covered.max(initial=0) <= 1
    for left, top, right, bottom in boxes:
        assert covered[top:bottom, left:right].all()


def test_a_missing_picture_names_the_frame(scene, folder):
    (folder / "fish.png").unlink()
    missing = pytest.raises(RenderError, match=r"Frame 4 .*fish\.png is not there")
    with missing as failed, Drawers(scene, folder) as drawers:
        list(drawers.frames([4]))
    assert failed.value.frame == 4


def test_a_picture_that_another_process_misses_is_a_failed_render(scene, folder, eager):
    def until_it_fails(drawers: Drawers) -> None:
        for number, _ in enumerate(drawers.frames(list(range(12)) * 5000)):
            if number == 1:
                (folder / "fish.png").unlink()

    missing = pytest.raises(RenderError, match=r"could not be drawn: .*fish\.png is not there")
    with missing, Drawers(scene, folder, workers=1) as drawers:
        until_it_fails(drawers)


@pytest.mark.parametrize("angle", [0, 30, 90, 200])
@pytest.mark.parametrize("scale", [1.0, 0.6, 0.3])
def test_a_turned_picture_lies_where_its_map_says_and_keeps_its_mean(angle, scale):
    from coaster.geometry import affine
    from coaster.media.pictures import premultiplied

    rng = np.random.default_rng(1)
    smooth = np.kron(rng.integers(0, 255, (6, 8, 4)), np.ones((20, 20, 1))).astype(np.uint8)
    smooth[..., 3] = 255
    sprite = Sprite(premultiplied(smooth), 160, 120)
    place = affine.chain([affine.translation(150, 150), affine.rotation(np.radians(angle)),
                          affine.scaling(scale, scale), affine.translation(-80, -60)])  # fmt: skip
    ours = np.zeros((300, 300, 4), np.uint8)
    where = placed(sprite, place[None], (300, 300))
    left, top, right, bottom = where.boxes[0]
    ours[top:bottom, left:right] = where.patch(0)
    y, x = np.mgrid[0:300, 0:300] + 0.5
    a, b, c, d, e, f = place
    det = a * d - b * c
    u, v = (d * (x - e) - c * (y - f)) / det, (-b * (x - e) + a * (y - f)) / det
    inside = (u > 3 / scale) & (u < 160 - 3 / scale) & (v > 3 / scale) & (v < 120 - 3 / scale)
    wanted = smooth[v[inside].astype(int), u[inside].astype(int), :3][:, ::-1]
    found = ours[inside][:, :3]
    assert np.median(np.abs(found.astype(int) - wanted)) <= 1
    assert np.abs(found.mean(axis=0) - wanted.mean(axis=0)).max() < 2
    assert ours[..., 3].sum() / 255 == pytest.approx(160 * 120 * scale**2, rel=0.03)


def test_video_has_every_frame_the_size_and_the_colours(scene, folder, tmp_path):
    flat = replace(scene, layers=scene.layers[:1], length=59, rate=Rate(60))
    out = tmp_path / "out.mp4"
    rendering.render(flat, folder, out, order_for(flat, loops=2), workers=0)
    with av.open(str(out)) as container:
        stream = container.streams.video[0]
        context = stream.codec_context
        tags = (context.color_primaries, context.color_trc, context.colorspace, context.color_range)
        assert (context.pix_fmt, tags) == ("yuv420p", (1, 1, 1, 1))
        assert (stream.frames, stream.average_rate) == (118, 60)
        assert stream.duration * stream.time_base == Fraction(118, 60)
        pictures = [
            f.to_ndarray(format="rgb24", src_colorspace="ITU709") for f in container.decode(video=0)
        ]
    assert len(pictures) == 118
    for at, colour in (((20, 100), (255, 128, 0)), ((120, 100), (0x20, 0x40, 0x60))):
        assert np.abs(pictures[60][at].astype(int) - colour).max() <= 2
    head = out.read_bytes()
    assert head.index(b"moov") < head.index(b"mdat")


def test_webm_of_a_transparent_scene_keeps_its_alpha(scene, folder, tmp_path):
    out = tmp_path / "out.webm"
    clear = replace(scene, background=None)
    rendering.render(clear, folder, out, order_for(clear), workers=0)
    decoder = av.CodecContext.create("libvpx-vp9", "r")
    with av.open(str(out)) as container:
        frames = [
            f
            for packet in container.demux(video=0)
            for f in decoder.decode(packet if packet.size else None)
        ]
    assert len(frames) == 12
    shot = frames[0].to_ndarray(format="rgba")
    wanted = painted(clear, folder)
    assert shot[100, 195, 3] <= 3
    assert shot[20, 5, 3] >= 252
    assert np.abs(shot[..., 3].astype(int) - wanted[..., 3]).mean() < 3
    opaque = wanted[..., 3] == 255
    assert np.abs(shot[opaque][:, :3].astype(int) - wanted[opaque][:, :3]).mean() < 6


def test_a_stopped_or_failing_render_leaves_no_file(scene, folder, tmp_path):
    out = tmp_path / "out.mp4"
    seen = []
    with pytest.raises(RenderCancelled):
        rendering.render(scene, folder, out, order_for(scene), workers=0,
                     watch=Watch(seen.append, cancelled=lambda: len(seen) == 4))  # fmt: skip
    (folder / "fish.png").write_bytes(b"")
    with pytest.raises(RenderError):
        rendering.render(scene, folder, out, order_for(scene), workers=0)
    assert [p.name for p in tmp_path.iterdir()] == ["fish.png"]
    with pytest.raises(MediaError, match="could not be begun"):
        KINDS["mp4"].open(Job(tmp_path / "no" / "out.mp4", (64, 64), Fraction(25)))


@pytest.mark.parametrize(
    "bad", [{"first": 5, "last": 5}, {"last": 13}, {"loops": 0}, {"scale": 60.0}, {"scale": 0.001}]
)
def test_orders_that_cannot_be_carried_out_are_refused(scene, bad):
    with pytest.raises(ValueError, match=r"rames|loops|scale"):
        order_for(scene, **bad)


def test_the_seam_is_clean_for_a_loop_and_says_what_is_not(scene):
    found = {s.layer_id: s for s in seam.report(Evaluation(scene))}
    assert set(found) == {"fish", "star"}
    assert found["fish"].clean
    assert found["star"].position == pytest.approx(200)
    assert found["star"].reasons() == ["jumps 200.0 px"]
    jerk = scene.with_layer(replace(scene.layer("fish"), ride=loop(pace=easing.PRESETS["ease-in"])))
    assert "px/s at once" in seam.report(Evaluation(jerk))[0].reasons()[0]
    away = replace(SLOPE, subpaths=pathdata.subpaths(pathdata.runs("M-90 60H290")))
    unseen = replace(scene, paths=(RING, away))
    assert {s.layer_id: s.clean for s in seam.report(Evaluation(unseen))} == {
        "fish": True,
        "star": True,
    }


def unpacked(data: bytes):
    assert data[:4] == b"CSTR"
    version, size = struct.unpack("<II", data[4:12])
    assert version == stage.FORMAT
    return json.loads(data[12 : 12 + size]), np.frombuffer(data[12 + size :], "<f4")


def test_the_stage_gets_the_numbers_the_renderer_uses_and_only_what_changed(scene):
    head, numbers = unpacked(stage.pack(scene))
    for entry, motion in zip(head["layers"], Evaluation(scene).motions, strict=True):
        offset, count = entry["maps"]
        assert numbers[offset : offset + count] == pytest.approx(motion.maps.ravel(), abs=1e-3)
    offset, count = head["layers"][2]["ride"]["rows"]
    rows = numbers[offset : offset + count].reshape(13, len(stage.COLUMNS))
    assert rows[3, 5] == pytest.approx(25)
    turned = scene.with_layer(replace(scene.layer("fish"), ride=loop(turn=20)))
    head, _ = unpacked(stage.pack(turned, scene))
    assert [entry.get("same", False) for entry in head["layers"]] == [
        True,
        True,
        False,
        True,
        True,
        True,
    ]
    assert all(entry["same"] for entry in head["paths"])
    moved = scene.with_path(replace(SLOPE, subpaths=pathdata.subpaths(pathdata.runs("M0 0L9 9"))))
    head, _ = unpacked(stage.pack(moved, scene))
    assert [entry.get("same", False) for entry in head["layers"]] == [
        True,
        True,
        True,
        False,
        True,
        True,
    ]


@pytest.mark.parametrize("frame", [0, 3, 7, 12])
@pytest.mark.parametrize("mode", ["along", "reversed", "ahead", "fixed"])
def test_a_glance_shows_every_rider_as_it_is_in_that_frame(scene, frame, mode):
    turned = replace(loop(turn=20), facing=Facing(mode, 20.0, keep_upright=True))
    scene = scene.with_layer(replace(scene.layer("fish"), ride=turned))
    run = scene.path("ring").subpaths[0]
    node = replace(
        run.nodes[1], position=(run.nodes[1].position[0] + 9, run.nodes[1].position[1] - 20)
    )
    moved = scene.with_path(replace(scene.path("ring"), subpaths=(run.with_node(node),)))
    head, numbers = unpacked(stage.pack(moved, scene, glance=stage.Glance(frame, "star")))
    posed = {entry["id"]: entry["maps"] for entry in head["layers"] if entry.get("pose")}
    assert list(posed) == ["fish"]
    offset, count = posed["fish"]
    wanted = next(m for m in Evaluation(moved).motions if m.layer.id == "fish").map(frame)
    assert numbers[offset : offset + count] == pytest.approx(wanted, abs=1e-3)


def test_a_path_says_where_its_nodes_are_and_when_they_are_passed(scene):
    head, numbers = unpacked(stage.pack(scene))
    ring = next(p for p in head["paths"] if p["id"] == "ring")
    offset, count = ring["nodes"]
    rows = numbers[offset : offset + count].reshape(-1, 6)
    for row, node in zip(rows, scene.path("ring").nodes(), strict=True):
        assert row == pytest.approx([*node.position, *node.handle_in, *node.handle_out], abs=1e-3)
    assert ring["ids"] == [n.id for n in scene.path("ring").nodes()]
    fish = next(m for m in Evaluation(scene).motions if m.layer.id == "fish")
    for node in scene.path("ring").nodes():
        frame = places.passed(scene, "fish", node.id)
        near = np.hypot(*(fish.travel.position - node.position).T)
        assert (
            near[int(frame)]
            <= near.min() + np.hypot(*np.diff(fish.travel.position, axis=0).T).max() / 2 + 1e-6
        )


def test_quick_path_data_is_the_same_path(scene):
    for path in scene.paths:
        tidy, quick = (pathdata.subpaths(pathdata.runs(text)) for text in
                       (pathdata.to_path_data(path.subpaths), pathdata.quick_path_data(path.subpaths)))  # fmt: skip
        for a, b in zip(tidy, quick, strict=True):
            assert a.closed == b.closed
            assert a.segments() == pytest.approx(b.segments(), abs=1e-9)


def test_riders_that_end_on_each_other_are_found(scene):
    assert meetings(scene) == []
    twin = replace(scene.layer("star"), id="twin", name="Twin")
    both = replace(scene, layers=(*scene.layers, twin))
    assert meetings(both) == [("star", "twin")]
    apart = both.with_layer(replace(twin, ride=replace(twin.ride, offset=-20.0)))
    assert meetings(apart) == []


def test_a_drawing_process_that_is_killed_is_a_failed_render_not_a_hanging_one(
    scene, folder, eager
):
    import os
    import signal

    def until_it_is_killed(drawers: Drawers) -> None:
        for _ in drawers.frames(list(range(12)) * 5000):
            if drawers._drawers and drawers._drawers[0].ready:
                os.kill(drawers._drawers[0].process.pid, signal.SIGKILL)

    with (
        Drawers(scene, folder, workers=1) as drawers,
        pytest.raises(RenderError, match="process ended"),
    ):
        until_it_is_killed(drawers)
