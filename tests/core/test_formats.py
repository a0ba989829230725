"""Files of every kind, read again by others: counts, times, colours, transparency, loops; and the
orders they are made by.
"""

from dataclasses import replace
from fractions import Fraction
from pathlib import Path as File

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from coaster.errors import FormatError, MediaError, RenderCancelled, RenderError
from coaster.export import chunks, orders
from coaster.export.chunks import Watch
from coaster.export.drawers import Drawers, painter_of
from coaster.export.estimate import estimated_size
from coaster.export.orders import READY, Choices, choices_of, data_of, order_for
from coaster.export.render import render
from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.media.writers import KINDS, kind_for, kind_named
from coaster.motion import easing
from coaster.motion.keys import Key
from coaster.motion.rate import Rate
from coaster.motion.ride import Ride
from coaster.motion.sampling import simple_pegs
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.render.raster import Painter
from coaster.scene.contents import Picture, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import Track

RING = Path(
    "ring", "Ring", pathdata.subpaths(pathdata.runs("M40 48A56 30 0 0 1 120 48A56 30 0 0 1 40 48Z"))
)
LEVELS = {"mp4": 6, "hevc": 6, "av1": 6, "webm": 6, "prores": 1, "mov-png": 0, "apng": 0, "gif": 5,
          "webp": 8}  # fmt: skip
"""By how many levels flat colours may be off once they were stored."""


@pytest.fixture
def scene() -> Scene:
    ride = Ride("ring", simple_pegs(0, 24, 1, easing.EVEN))
    return Scene(
        160, 96, Rate(24), 24, "#204060",
        layers=(
            Layer("sign", "Sign", Shape("rectangle", 40, 20, "#ff8000"), Transform((30, 20))),
            Layer("buoy", "Buoy", Shape("ellipse", 24, 24, "#e0e0f0"), Transform(), ride),
        ),
        paths=(RING,),
    )  # fmt: skip


def written(scene: Scene, folder: File, choices: Choices) -> File:
    kind = kind_named(choices.kind)
    out = folder / f"out{kind.ending}"
    render(scene, folder, out, choices.order(scene), kind=kind, workers=0)
    return out


def read(file: File) -> tuple[list[np.ndarray], list[float]]:
    """Return the frames, RGBA, and when they begin, as others read them."""
    if file.suffix in (".gif", ".webp"):
        pictures, begins, now = [], [], 0
        with Image.open(file) as image:
            for index in range(image.n_frames):
                image.seek(index)
                image.load()
                pictures.append(np.asarray(image.convert("RGBA")))
                begins.append(now / 1000)
                now += image.info["duration"]
        return pictures, [*begins, now / 1000]
    with av.open(str(file)) as container:
        stream = container.streams.video[0]
        if stream.codec_context.name == "vp9":
            decoder = av.CodecContext.create("libvpx-vp9", "r")
            frames = [f for packet in container.demux(stream) for f in decoder.decode(packet)]
        else:
            frames = list(container.decode(stream))
        begins = [float(frame.pts * stream.time_base) for frame in frames]
        return [frame.to_ndarray(format="rgba") for frame in frames], begins


@pytest.mark.parametrize("name", LEVELS)
@pytest.mark.parametrize("clear", [False, True])
def test_a_file_has_the_frames_times_and_colours_that_were_drawn(scene, tmp_path, name, clear):
    kind = KINDS[name]
    if clear and not kind.alpha:
        with pytest.raises(FormatError, match="has no transparency"):
            written(replace(scene, background=None), tmp_path, Choices(name))
        return
    shown = replace(scene, background=None) if clear else scene
    pictures, begins = read(written(shown, tmp_path, Choices(name)))
    assert len(pictures) == 24
    finest = {"gif": 0.0051, "webp": 0.0015, "webm": 0.001, "apng": 1e-4}.get(name, 1e-6)
    assert begins[:24] == pytest.approx([i / 24 for i in range(24)], abs=finest)
    if len(begins) > 24:
        assert begins[24] == pytest.approx(1.0, abs=finest)
    painter = painter_of(shown, tmp_path)
    for index in (0, 7, 23):
        drawn = painter.picture(index)[..., [2, 1, 0, 3]].astype(int)
        for y, x in ((20, 30), (90, 150)):
            found = pictures[index][y, x].astype(int)
            # What is not seen may have any colour.
            off = found - drawn[y, x] if found[3] else found[3:] - drawn[y, x, 3:]
            assert np.abs(off).max() <= LEVELS[name] + 1
        seen = np.abs(pictures[index].astype(int) - drawn)[drawn[..., 3] == 255]
        assert seen.mean() < 6


@pytest.mark.parametrize("quality", ["small", "usual", "best"])
@pytest.mark.parametrize("name", [kind.name for kind in KINDS.values() if kind.qualities])
def test_every_quality_makes_a_file_that_can_be_read(scene, tmp_path, name, quality):
    pictures, _ = read(written(scene, tmp_path, Choices(name, quality, last=5)))
    assert len(pictures) == 5


@pytest.mark.parametrize("name", ["gif", "webp", "apng"])
def test_what_a_browser_shows_as_a_picture_loops_for_ever(scene, tmp_path, name):
    with Image.open(written(scene, tmp_path, Choices(name))) as image:
        assert image.info["loop"] == 0


@pytest.mark.parametrize("fps", [Rate(30), Rate(24), Rate(50), Rate(30000, 1001), Rate(12)])
def test_a_gif_keeps_its_time_in_sum(scene, tmp_path, fps):
    choices = Choices("gif", fps=fps, loops=2)
    _, begins = read(written(scene, tmp_path, choices))
    lasts = choices.order(scene).count / fps.fps
    assert begins[-1] == pytest.approx(lasts, abs=0.0051)


def test_a_still_is_the_frame_that_was_asked_for(scene, tmp_path):
    out = written(scene, tmp_path, Choices("still", first=7, last=8))
    wanted = painter_of(scene, tmp_path).picture(7)[..., [2, 1, 0]]
    assert np.array_equal(np.asarray(Image.open(out)), wanted)
    with pytest.raises(FormatError, match="holds no more than 1, and 24 are asked for"):
        written(scene, tmp_path, Choices("still"))
    with pytest.raises(MediaError, match="could not be written"):
        render(scene, tmp_path, tmp_path / "no" / "x.png", order_for(scene, 3, 4), workers=0)
    assert [file.name for file in tmp_path.iterdir()] == ["out.png"]


def test_a_kind_is_told_by_the_ending_and_by_name():
    assert kind_for("loop.MOV").name == "prores"
    assert kind_for("loop.mov", "mov-png").name == "mov-png"
    with pytest.raises(FormatError, match="its ending is that of mp4, hevc or av1"):
        kind_for("loop.mp4", "gif")
    with pytest.raises(FormatError, match=r"ends in \.mp4, \.webm, .* or \.html"):
        kind_for("loop.avi")
    with pytest.raises(FormatError, match="no format of renders"):
        kind_named("avi")


def test_a_kind_that_needs_some_frames_says_so(scene, tmp_path):
    with pytest.raises(FormatError, match="HEVC has 5 frames or more, and 4 are asked for"):
        written(scene, tmp_path, Choices("hevc", last=4))
    assert len(read(written(scene, tmp_path, Choices("hevc", last=5)))[0]) == 5
    often = Choices("hevc", last=2, loops=4).order(scene)
    assert estimated_size(scene, tmp_path, often, KINDS["hevc"]) is None


@given(
    pictures=st.integers(1, 40),
    loops=st.integers(1, 4),
    returns=st.booleans(),
)
def test_there_and_back_meets_no_frame_twice_in_a_row(pictures, loops, returns):
    order = order_for(Scene(length=pictures), loops=loops, returns=returns)
    frames = order.frames()
    assert len(frames) == order.count
    assert set(frames) == set(range(pictures))
    steps = np.abs(np.diff([*frames, frames[0]]))
    # Round the seam, too; without a way back it is crossed at once.
    assert not returns or pictures < 3 or set(steps.tolist()) == {1}


def test_whole_loops_until_it_lasts_at_least_so_long(scene):
    assert order_for(scene, seconds=2.5).loops == 3
    assert order_for(scene, seconds=3.0).loops == 3
    assert order_for(scene, seconds=0.5, loops=2).loops == 2
    assert order_for(scene, high=48).scale == 0.5


@pytest.mark.parametrize(
    "bad",
    [
        {"first": 5, "last": 5}, {"last": 25}, {"first": 3, "last": 2}, {"loops": 0},
        {"scale": 60.0}, {"scale": 0.0}, {"high": 20_000}, {"shutter": 361}, {"shutter": -1},
        {"seconds": 9e6},
    ],
)  # fmt: skip
def test_what_cannot_be_made_is_refused_in_words(scene, bad):
    with pytest.raises(FormatError):
        Choices(**bad).order(scene)


def test_a_format_that_cannot_keep_the_time_says_so(scene):
    with pytest.raises(FormatError, match="ask for 50 or fewer"):
        Choices("gif", fps=Rate(60)).order(scene)


def test_choices_are_kept_without_what_is_usual_and_read_strictly():
    for choices in READY.values():
        assert choices_of(data_of(choices)) == choices
    assert data_of(Choices()) == {}
    told = Choices("gif", "best", 2, 9, loops=3, shutter=90, behind="none", returns=True)
    assert orders.words_of(told) == [
        "frames 2:9", "3 loops", "there and back", "blurred by 90°", "transparent",
        "for working on it further",
    ]  # fmt: skip
    for bad in ({"kinds": "gif"}, {"quality": "good"}, {"behind": "red"}, {"loops": "x"}, 7):
        with pytest.raises(FormatError, match="no choices of a render"):
            choices_of(bad)


def test_another_rate_shows_the_moments_between_and_meets_its_start(scene, tmp_path):
    order = order_for(scene, rate=Rate(30))
    assert order.count == 30
    plan = order.plan(scene)
    assert plan.moments == pytest.approx(np.arange(30) * 24 / 30)
    between = program_of(Evaluation(scene), at=Frames(plan.moments))
    wanted = Painter(between, None).picture(7)  # type: ignore[arg-type]
    with Drawers(scene, tmp_path, plan=plan, workers=0) as drawers:
        assert np.array_equal(next(drawers.frames([7])), wanted)
    # The same places as at its own rate, where the moments are the same.
    whole = painter_of(scene, tmp_path).picture(4)
    with Drawers(scene, tmp_path, plan=plan, workers=0) as drawers:
        assert np.array_equal(next(drawers.frames([5])), whole)


def test_blur_is_the_mean_of_what_is_seen_and_the_same_in_any_process(scene, tmp_path):
    order = order_for(scene, shutter=180, quality="best")
    plan = order.plan(scene)
    counts = np.diff(plan.begins)
    # A 24th of some 250 px a frame, half of it with the shutter open, in steps of 2 px.
    assert 2 <= counts.min() <= counts.max() <= 16
    sharp = Painter(program_of(Evaluation(scene), at=Frames(plan.moments)), None)  # type: ignore[arg-type]
    order_of_drawing = [5, 20, 5, 6]
    for workers in (0, 1):
        with Drawers(scene, tmp_path, plan=plan, workers=workers) as drawers:
            for index, pixels in zip(
                order_of_drawing, drawers.frames(order_of_drawing), strict=True
            ):
                moments = [sharp.picture(row).astype(float) for row in plan.rows(index)]
                assert np.abs(pixels - np.mean(moments, axis=0)).max() <= 0.5 + 1e-6


def test_what_is_not_seen_or_grows_in_its_place_is_blurred_as_it_looks(scene, tmp_path):
    """Who rides unseen adds no moments and takes none; a width that is keyed is a movement."""
    buoy = scene.layer("buoy")
    slow = replace(buoy, ride=Ride("ring", simple_pegs(0, 240, 1, easing.EVEN)))
    rider = replace(buoy, id="ghost", transform=Transform(opacity=0.0))
    plans = [
        order_for(each, shutter=360, quality="best").plan(each)
        for each in (replace(scene, layers=(slow,)), replace(scene, layers=(slow, rider)))
    ]
    assert np.array_equal(plans[0].begins, plans[1].begins)
    keys = (Key("a", 0.0, 10.0), Key("b", 24.0, 110.0))
    grows = replace(scene.layer("sign"), keys=(Track("size_x", keys),))
    both = replace(scene, layers=(grows, slow))
    plan = order_for(both, shutter=360, quality="best").plan(both)
    assert plan.moments[plan.rows(5)[0]] != 5.0
    sharp = Painter(program_of(Evaluation(both), at=Frames(plan.moments)), None)  # type: ignore[arg-type]
    with Drawers(both, tmp_path, plan=plan, workers=0) as drawers:
        blurred = next(drawers.frames([5])).astype(float)
    seen = np.mean([sharp.picture(row).astype(float) for row in plan.rows(5)], axis=0)
    around = np.s_[8:32, 0:90]
    assert np.abs(blurred - seen)[around].max() <= 0.5 + 1e-6


def test_a_picture_of_several_moments_that_cannot_be_drawn_is_refused_by_its_number(
    scene, tmp_path
):
    shown = replace(scene.layer("buoy"), content=Picture("gone.png", 24, 24))
    broken = replace(scene, layers=(scene.layer("sign"), shown))
    plan = order_for(broken, shutter=180).plan(broken)
    with (
        pytest.raises(RenderError, match=r"^Frame 7 could not be drawn: The picture gone\.png"),
        Drawers(broken, tmp_path, plan=plan, workers=0) as drawers,
    ):
        next(drawers.frames([7]))


def test_what_stands_still_stays_sharp_to_the_byte(scene, tmp_path):
    still = replace(scene, layers=scene.layers[:1])
    order = order_for(still, shutter=360)
    assert order.plan(still).sharp
    with Drawers(still, tmp_path, plan=order.plan(still), workers=0) as drawers:
        blurred = next(drawers.frames([3])).copy()
    assert np.array_equal(blurred, painter_of(still, tmp_path).picture(3))


@pytest.mark.parametrize("name", ["mp4", "gif", "apng", "prores", "webp"])
def test_the_size_is_foreseen_within_a_factor(scene, tmp_path, monkeypatch, name):
    monkeypatch.setattr("coaster.export.estimate.PATIENCE_S", 600.0)
    large = replace(scene, width=160, height=96)
    order = Choices(name, scale=4.0, loops=3).order(large)
    foreseen = estimated_size(large, tmp_path, order, KINDS[name])
    out = tmp_path / f"out{KINDS[name].ending}"
    render(large, tmp_path, out, order, kind=KINDS[name], workers=0)
    assert 0.3 < foreseen / out.stat().st_size < 3


def test_an_order_lays_a_colour_behind_or_nothing(scene, tmp_path):
    clear = replace(scene, background=None)
    pictures, _ = read(written(clear, tmp_path, Choices("apng", behind="#102030")))
    assert pictures[0][90, 150].tolist() == [0x10, 0x20, 0x30, 255]
    pictures, _ = read(written(scene, tmp_path, Choices("apng", behind="none")))
    assert pictures[0][90, 150, 3] == 0
    assert Fraction(24) == order_for(scene).rate.fraction


def joined(scene, tmp_path, monkeypatch, name, stop_at=None):
    """Render in parts of 6 frames, each of which is heard of; stopped first, where that is
    wanted.
    """
    monkeypatch.setattr(chunks, "CHUNK", 6)
    monkeypatch.setattr(chunks, "TELL_S", 0.0)
    kind, order, parts = KINDS[name], Choices(name).order(scene), tmp_path / "parts"
    out, seen = tmp_path / f"joined{kind.ending}", []
    if stop_at is not None:
        watch = Watch(seen.append, cancelled=lambda: len(seen) == stop_at)
        with pytest.raises(RenderCancelled):
            render(scene, tmp_path, out, order, kind=kind, workers=0, watch=watch, parts=parts)
        assert not out.exists()
        seen.append(None)
    watch = Watch(seen.append)
    render(scene, tmp_path, out, order, kind=kind, workers=0, watch=watch, parts=parts)
    return out, seen


@pytest.mark.parametrize("name", [kind.name for kind in KINDS.values() if kind.join])
def test_parts_are_joined_to_what_would_have_been_made_at_once(scene, tmp_path, monkeypatch, name):
    shown = replace(scene, background=None) if KINDS[name].alpha else scene
    whole, begins = read(written(shown, tmp_path, Choices(name)))
    out, _ = joined(shown, tmp_path, monkeypatch, name)
    pictures, joined_begins = read(out)
    assert joined_begins == pytest.approx(begins, abs=0.0011 if name == "webm" else 1e-9)
    for one, other in zip(pictures, whole, strict=True):
        seen = other[..., 3] == 255
        assert np.abs(one.astype(int) - other)[seen].mean() < 2
        assert np.array_equal(one[..., 3], other[..., 3]) or name == "webm"
    with av.open(str(out)) as container:
        assert container.duration == pytest.approx(1e6, abs=1001)


@pytest.mark.parametrize("name", [kind.name for kind in KINDS.values() if kind.join])
def test_a_part_is_the_same_to_the_byte_wherever_it_is_made(scene, tmp_path, monkeypatch, name):
    kind, files = KINDS[name], []
    for index, workers in enumerate((0, 2)):
        monkeypatch.setattr(chunks, "CHUNK", 6)
        parts = tmp_path / f"parts{index}"
        out = tmp_path / f"{index}{kind.ending}"
        order = order_for(scene)
        render(scene, tmp_path, out, order, kind=kind, workers=workers, parts=parts)
        files.append([file.read_bytes() for file in (*sorted(parts.iterdir()), out)])
    assert files[0] == files[1]
    # A part is that of its frames alone.
    part = tmp_path / f"part{kind.ending}"
    render(scene, tmp_path, part, order_for(scene, 6, 12), kind=kind, workers=0)
    assert part.read_bytes() == files[0][1]


@pytest.mark.parametrize("stop_at", [3, 10, 14, 23])
def test_what_was_stopped_goes_on_from_the_last_part_that_is_whole(
    scene, tmp_path, monkeypatch, stop_at
):
    out, seen = joined(scene, tmp_path, monkeypatch, "mp4", stop_at)
    first, then = seen[: seen.index(None)], seen[seen.index(None) + 1 :]
    # The part after the one that was heard of may have been finished meanwhile.
    kept = then[0] - 1
    assert kept % 6 == 0
    assert first[-1] - 6 < kept <= first[-1] + 6
    assert then[-1] == 24
    assert len(read(out)[0]) == 24


def test_a_part_that_is_broken_is_said_and_nothing_half_appears(scene, tmp_path, monkeypatch):
    monkeypatch.setattr(chunks, "CHUNK", 6)
    parts = tmp_path / "parts"
    parts.mkdir()
    (parts / "000000-000006.mp4").write_bytes(b"no film")
    with pytest.raises(MediaError, match="could not be joined"):
        render(scene, tmp_path, tmp_path / "x.mp4", order_for(scene), workers=0, parts=parts)
    assert [file.name for file in tmp_path.iterdir()] == ["parts"]
