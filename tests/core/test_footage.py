"""Footage: every frame of every kind of file found by its time, and played as it is asked to be."""

import zipfile
from fractions import Fraction
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from coaster.commands.clock import clock_for
from coaster.edits import footage as edits
from coaster.edits.edit import Edit
from coaster.edits.keys import Moment
from coaster.errors import CoreError, EditRefused, MediaError
from coaster.export.drawers import painter_of
from coaster.media import small
from coaster.media.readers import READERS, ending_of, look_into, open_footage
from coaster.motion.keys import Key
from coaster.motion.playing import NOTHING, Cut, elapsed, played
from coaster.motion.rate import Rate
from coaster.render.evaluate import Evaluation
from coaster.render.seam import report
from coaster.render.stage import pack
from coaster.scene import codec
from coaster.scene.contents import Footage, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.footage import FrameTimes
from coaster.scene.properties import Track
from tests.core.moving import SIZE, animated, film, number_on, stills

COUNT = 40
RANDOM = Random(3)
UNEVEN = np.cumsum([0, *(RANDOM.randint(1500, 6000) for _ in range(COUNT - 1))]).tolist()
QUIET = {"x265-params": "log-level=error"}
FILMS = {
    "plain.mp4": {},
    "29.97.mp4": {"rate": Fraction(30_000, 1001)},
    "1fps.mp4": {"rate": Fraction(1)},
    "1000fps.mp4": {"rate": Fraction(1000)},
    "uneven.mp4": {"stamps": UNEVEN},
    "groups.mp4": {"options": {"g": "12", "bf": "3"}},
    "open.mp4": {"options": {"g": "9", "x264-params": "open-gop=1:bframes=3"}},
    "444.mp4": {"pixels": "yuv444p", "size": (161, 65)},
    "hevc.mp4": {"codec": "libx265", "options": QUIET},
    "10bit.mp4": {"codec": "libx265", "pixels": "yuv420p10le", "options": QUIET},
    "av1.mp4": {"codec": "libsvtav1", "options": {"preset": "12"}},
    "vp9.webm": {"codec": "libvpx-vp9"},
    "uneven.webm": {"codec": "libvpx-vp9", "stamps": UNEVEN},
    "vp8.webm": {"codec": "libvpx"},
    "mpeg4.avi": {"codec": "mpeg4", "options": {"qscale": "2"}},
    "jpegs.avi": {"codec": "mjpeg", "pixels": "yuvj420p"},
    "groups.mkv": {"options": {"g": "10"}},
}
CLEAR = {
    "vp9.webm": ("libvpx-vp9", "yuva420p", {"auto-alt-ref": "0"}),
    "vp8.webm": ("libvpx", "yuva420p", {"auto-alt-ref": "0"}),
    "prores.mov": ("prores_ks", "yuva444p10le", {}),
    "png.mov": ("png", "rgba", {}),
    "rle.mov": ("qtrle", "argb", {}),
    "ffv1.mkv": ("ffv1", "bgra", {}),
}


def wrong(file, count=COUNT) -> list[int]:
    """Return the frames that are others than they should be: forwards, backwards, and anyhow."""
    found = []
    anyhow = RANDOM.sample(range(count), count)
    for order in (range(count), reversed(range(count)), anyhow):
        footage = open_footage(file)
        found += [i for i in order if number_on(footage.pixels(i)) != i]
        footage.close()
    return found


@pytest.mark.parametrize("name", FILMS)
def test_every_frame_of_a_film_is_the_one_it_should_be(tmp_path, name):
    file = film(tmp_path / name, COUNT, **FILMS[name])
    facts = look_into(file, name)
    assert (facts.count, facts.alpha) == (COUNT, False)
    assert wrong(file) == []
    stamps = FILMS[name].get("stamps")
    begins = FrameTimes(facts.ticks, facts.steps).begins()
    rate = FILMS[name].get("rate", Fraction(30))
    wanted = np.array(stamps) / 90_000 if stamps else np.arange(COUNT) / float(rate)
    # WebM tells time in whole milliseconds.
    assert np.abs(begins[:-1] - wanted).max() < (6e-4 if name.endswith("webm") else 1e-9)


@pytest.mark.parametrize("name", CLEAR)
def test_transparency_is_read_where_a_file_has_it(tmp_path, name):
    codec_name, pixels, options = CLEAR[name]
    how = {"codec": codec_name, "pixels": pixels, "options": options}
    file = film(tmp_path / name, COUNT, alpha=100, **how)
    assert look_into(file, name).alpha
    assert wrong(file) == []
    px = open_footage(file).pixels(5)[50, 90]
    assert abs(int(px[3]) - 100) <= 2
    assert np.abs(px[:3] - np.array([200, 120, 60]) * 100 / 255).max() <= 5  # premultiplied


@pytest.mark.parametrize(
    ("kind", "ending"), [("GIF", ".gif"), ("PNG", ".apng"), ("WEBP", ".awebp")]
)
def test_animated_pictures_are_films(tmp_path, kind, ending):
    file = animated(tmp_path / f"a{ending}", COUNT, kind, [40, 80] * (COUNT // 2))
    assert ending_of(file.read_bytes()[:4096]) == ending
    facts = look_into(file, "a")
    assert FrameTimes(facts.ticks, facts.steps).begins()[:4].tolist() == [0, 0.04, 0.12, 0.16]
    assert wrong(file) == []


def test_numbered_stills_go_by_their_numbers_and_gaps_are_said(tmp_path):
    file = stills(tmp_path / "s.zip", [*range(5, 25), *range(28, 48)])
    facts = look_into(file, "s")
    assert facts.steps == ((19, 1), (1, 4), (20, 1))
    assert not any("left out" in note for note in facts.notes)
    assert any("3 numbers are missing, the first after 24" in note for note in facts.notes)
    assert wrong(file) == []


@pytest.mark.parametrize(("turned", "corner"), [(90, (0, 0)), (-90, (-1, -1)), (180, (-1, 0))])
def test_films_are_turned_as_they_say(tmp_path, turned, corner):
    """The last bit of frame 512 is white: the px at the right end of the top row."""
    file = film(tmp_path / "t.mp4", 513, turned=turned)
    footage, (wide, high) = open_footage(file), SIZE
    shape = (wide, high) if turned % 180 else (high, wide)
    assert (footage.facts.height, footage.facts.width) == shape
    assert footage.pixels(512)[corner][1] > 200


def test_px_that_are_not_square_are_made_so_by_the_size(tmp_path):
    facts = look_into(film(tmp_path / "a.mp4", 3, shape=Fraction(16, 15)), "a")
    assert (facts.width, facts.height) == (pytest.approx(SIZE[0] * 16 / 15), SIZE[1])


@pytest.mark.parametrize("matrix", [1, 5, 9])
@pytest.mark.parametrize("full", [False, True])
def test_colours_are_as_the_file_says(tmp_path, matrix, full):
    import av
    from av.video.reformatter import ColorRange, Colorspace

    patch = np.zeros((64, 160, 3), np.uint8)
    patch[:, :80], patch[:, 80:] = (30, 160, 90), (220, 60, 40)
    with av.open(str(tmp_path / "c.mkv"), "w") as container:
        stream = container.add_stream("libx264", rate=30, options={"qp": "0"})
        stream.width, stream.height, stream.pix_fmt = 160, 64, "yuv444p"
        stream.codec_context.colorspace, stream.codec_context.color_range = matrix, 2 if full else 1
        frame = av.VideoFrame.from_ndarray(patch, format="rgb24").reformat(
            format="yuv444p",
            dst_colorspace=Colorspace(matrix),
            dst_color_range=ColorRange.JPEG if full else ColorRange.MPEG,
        )
        container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    found = open_footage(tmp_path / "c.mkv").pixels(0)[..., 2::-1].astype(int)
    assert np.abs(found - patch).max() <= 3


def test_what_breaks_off_is_played_as_far_as_it_goes(tmp_path):
    whole = film(tmp_path / "w.webm", COUNT, codec="libvpx-vp9").read_bytes()
    (tmp_path / "cut.webm").write_bytes(whole[: int(len(whole) * 0.6)])
    facts = look_into(tmp_path / "cut.webm", "cut")
    assert 5 < facts.count < COUNT
    assert "breaks off" in facts.notes[0]
    assert wrong(tmp_path / "cut.webm", facts.count) == []
    gif = animated(tmp_path / "w.gif", COUNT, "GIF").read_bytes()
    (tmp_path / "cut.gif").write_bytes(gif[: int(len(gif) * 0.6)])
    assert "breaks off" in look_into(tmp_path / "cut.gif", "cut").notes[0]


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.mp4", b"\0\0\0\x20ftypisom" + bytes(range(256)) * 20, "bring it in again"),
        ("a.gif", b"GIF89a", "cannot be read"),
        ("a.webm", b"\x1a\x45\xdf\xa3" + b"webm" * 50, "cannot be read"),
        ("a.zip", b"PK\x05\x06" + b"\0" * 18, "holds no numbered pictures"),
        ("a.zip", b"PK\x03\x04" + b"\0" * 80, "cannot be read"),
    ],
)
def test_what_cannot_be_read_is_said_in_one_sentence(tmp_path, name, data, words):
    (tmp_path / f"footage{name[1:]}").write_bytes(data)
    with pytest.raises(MediaError, match=words) as refusal:
        look_into(tmp_path / f"footage{name[1:]}", "my film")
    assert str(refusal.value).startswith("my film")
    assert str(tmp_path) not in str(refusal.value)


def test_a_picture_of_a_zip_that_is_far_too_large_is_left(tmp_path, monkeypatch):
    monkeypatch.setattr("coaster.media.animated.LARGEST_STILL", 20)
    with pytest.raises(MediaError, match="is larger than"):
        look_into(stills(tmp_path / "s.zip", [1]), "s")


def test_sound_alone_is_no_footage_and_sound_beside_is_said(tmp_path):
    assert look_into(film(tmp_path / "s.mp4", 4, sound=True), "s").notes == (
        "its sound is left out",
    )
    with pytest.raises(MediaError, match="is not there"):
        open_footage(tmp_path / "none.mp4")


def test_small_frames_are_those_of_the_film(tmp_path):
    file = film(tmp_path / "a.mp4", COUNT)
    for name in (file, animated(tmp_path / "b.gif", COUNT, "GIF")):
        footage = open_footage(name)
        made = list(small.blocks(footage))
        assert len(made) == small.blocks_in(COUNT) == 3
        frames = [frame for block in made for frame in small.unpacked(block)]
        seen = [number_on(small.cv2.imdecode(np.frombuffer(f, np.uint8), 1)) for f in frames]
        assert seen == list(range(COUNT))
        assert small.block(footage, 1) == made[1]
        assert list(small.blocks(footage, 2)) == made[2:]


def test_large_frames_are_small_ones(tmp_path):
    assert small.small_size(1920, 1080) == (960, 540)
    assert small.small_size(1080, 1920) == (304, 540)
    assert small.small_size(161, 65) == (160, 64)
    file = film(tmp_path / "a.mp4", 2, size=(1920, 1080))
    (frame, _) = small.unpacked(small.block(open_footage(file), 0))
    assert small.cv2.imdecode(np.frombuffer(frame, np.uint8), 1).shape == (540, 960, 3)


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    found = tmp_path_factory.mktemp("films")
    film(found / "a.mp4", 30)
    return found


def scene_of(length=35, fps=30, keys=(), **fields) -> Scene:
    times = FrameTimes(30, ((30, 1),))
    footage = Footage("a.mp4", *map(float, SIZE), times, **fields)
    tracks = (Track("speed", keys),) if keys else ()
    layer = Layer("f", "Film", footage, Transform((80, 32)), keys=tracks)
    return Scene(*SIZE, rate=Rate(fps), length=length, layers=(layer,), background="#ff0000")


def seen(folder, scene: Scene) -> list[int]:
    """Return the number on each frame of a scene; -1 where its background shows."""
    painter, found = painter_of(scene, folder), []
    for frame in range(scene.length):
        pixels = painter.picture(frame)
        bare = tuple(pixels[50, 50]) == (0, 0, 255, 255)
        found.append(-1 if bare else number_on(pixels))
    return found


ALL = list(range(30))
PLAYED = {
    "held": ({}, [*ALL, *[29] * 5]),
    "later": ({"starts": 3.0}, [0] * 3 + [*ALL, 29, 29]),
    "backwards": ({"speed": -1.0}, [*ALL[::-1], *[0] * 5]),
    "again": ({"after": "repeat"}, [*ALL, *range(5)]),
    "to and fro": ({"after": "return", "begin": 0.5}, [*range(15, 30), *range(28, 14, -1), *range(16, 22)]),
    "gone": ({"after": "vanish", "starts": 3.0}, [-1] * 3 + ALL + [-1] * 2),
    "gone backwards": ({"after": "vanish", "speed": -1.0}, [*ALL[::-1], *[-1] * 5]),
    "twice as fast": ({"speed": 2.0, "after": "repeat", "begin": 0.2, "end": 0.8}, [6, 8, 10, 12, 14, 16, 18, 20, 22] * 3 + [6, 8, 10, 12, 14, 16, 18, 20]),
    "stopped": ({"speed": 0.0, "begin": 0.5}, [15] * 35),
}  # fmt: skip


@pytest.mark.parametrize("how", PLAYED)
def test_footage_is_played_as_it_is_asked_to_be(folder, how):
    fields, wanted = PLAYED[how]
    assert seen(folder, scene_of(**fields)) == wanted


def test_a_fade_comes_round_and_changes_as_much_as_it_should(folder):
    scene = scene_of(length=24, after="repeat", fade=0.2)
    faces = Evaluation(scene).motion("f").faces
    rows = [faces.at(frame) for frame in range(25)]
    assert rows[24].picture == rows[0].picture == ("a.mp4", 24)
    assert [row.mix for row in rows[:3]] == [None, (1, 42 / 255), (2, 85 / 255)]
    assert rows[6].picture == ("a.mp4", 6)
    assert rows[23].picture == ("a.mp4", 23)
    first, faded = (painter_of(scene, folder).picture(i).astype(float) for i in (6, 3))
    # At 3 of 6 it is half the one and half the other.
    a, b = (open_footage(folder / "a.mp4").pixels(i).astype(float) for i in (27, 3))
    assert np.abs(faded - (a + b) / 2).max() <= 1.5
    assert (first != faded).any()


def test_keys_of_the_speed_are_integrated_the_same_whichever_frames_are_asked_for():
    keys = (Key("a", 0.0, 0.0), Key("b", 20.0, 2.0))
    frames = np.arange(31.0)
    gone = elapsed(frames, 0.0, 30.0, keys)
    assert gone[20] == pytest.approx(20 / 30, abs=1e-3)
    assert gone[30] - gone[20] == pytest.approx(20 / 30)
    assert elapsed(frames[17:19], 0.0, 30.0, keys).tolist() == gone[17:19].tolist()
    assert elapsed(frames, 5.0, 30.0, keys)[5] == 0


@given(
    gone=st.lists(st.floats(-50, 50), min_size=1, max_size=20),
    begin=st.floats(0, 0.9), length=st.floats(0.02, 1), fade=st.floats(0, 0.5),
    after=st.sampled_from(["hold", "repeat", "return", "vanish"]), backwards=st.booleans(),
)  # fmt: skip
def test_only_frames_of_the_cut_are_ever_seen(gone, begin, length, fade, after, backwards):
    begins = np.arange(31) / 30
    cut = Cut(begin, min(begin + length, 1.0), after, fade * min(length, 1 - begin))
    found = played(np.array(gone), cut, begins, backwards=backwards)
    first, last = int(np.floor(begin * 30 + 1e-4)), int(np.ceil(cut.end * 30 - 1e-4)) - 1
    inside = (found.index >= first) & (found.index <= max(first, last))
    assert np.all(inside | ((found.index == NOTHING) & (after == "vanish")))
    assert np.all((found.share >= 0) & (found.share < 1))


def do(scene: Scene, edit: Edit) -> Footage:
    from coaster.commands.base import apply_all

    done, inverses = apply_all(scene, edit.commands)
    assert apply_all(done, inverses)[0] == scene
    return done.layer("f").content


def test_it_lasts_as_long_as_it_is_told_to():
    lasting = do(
        scene_of(speed=-2.0), edits.play(scene_of(speed=-2.0), "f", {}, Moment(), lasts=4.0)
    )
    assert lasting.speed == -0.25
    looped = scene_of(after="repeat", fade=0.2)
    assert do(looped, edits.play(looped, "f", {}, Moment(), lasts=4.0)).speed == pytest.approx(0.2)
    keyed = scene_of(keys=(Key("a", 0.0, 1.0),))
    with pytest.raises(EditRefused, match="speed of Film has keys"):
        edits.play(keyed, "f", {}, Moment(), lasts=4.0)


@pytest.mark.parametrize(
    ("speed", "asked", "wanted"),
    [
        (1.0, {"start": 6.0}, (0.2, 1.0, 6.0)),
        (1.0, {"end": 24.0}, (0.0, 0.8, 0.0)),
        (2.0, {"start": 3.0}, (0.2, 1.0, 3.0)),
        (-1.0, {"start": 6.0}, (0.0, 0.8, 6.0)),
        (-1.0, {"end": 24.0}, (0.2, 1.0, 0.0)),
        (1.0, {"end": 90.0}, (0.0, 1.0, 0.0)),
        (1.0, {"start": -9.0}, (0.0, 1.0, 0.0)),
    ],
)
def test_trimmed_it_stays_where_it_is_in_time(folder, speed, asked, wanted):
    before = scene_of(speed=speed)
    cut = do(before, edits.trim(before, "f", **asked))
    assert (cut.begin, cut.out, cut.starts) == pytest.approx(wanted)
    after = seen(folder, scene_of(speed=speed, begin=cut.begin, end=cut.end, starts=cut.starts))
    shown = range(
        int(asked.get("start", 0)) if asked.get("start", 0) > 0 else 0,
        int(min(asked.get("end", 15), 15)),
    )
    assert [after[i] for i in shown] == [seen(folder, before)[i] for i in shown]


def test_nothing_is_left_of_it_is_refused():
    with pytest.raises(EditRefused, match="At least a frame"):
        edits.trim(scene_of(), "f", start=30.0)
    with pytest.raises(ValidationError, match="within its 1 s"):
        do(scene_of(), edits.play(scene_of(), "f", {"begin": 2.0}, Moment()))


def test_a_fade_that_has_no_room_any_more_is_shorter_and_that_is_said():
    scene = scene_of(after="repeat", fade=0.4)
    for edit in (
        edits.play(scene, "f", {"end": 0.4}, Moment()),
        edits.trim(scene, "f", start=18.0),
    ):
        assert do(scene, edit).fade == pytest.approx(0.2, abs=0.011)
        assert "Its fade is 6 frames now" in edit.notes[0]
    assert not edits.trim(scene, "f", start=3.0).notes


def test_pictures_with_one_number_are_said_to_be_left_out(tmp_path):
    file = stills(tmp_path / "s.zip", [1, 2])
    with zipfile.ZipFile(file, "a") as archive:
        archive.writestr("other/tank_0002.png", archive.read("tank_0002.png"))
    facts = look_into(file, "s")
    assert facts.count == 2
    assert any(
        "1 more with a number" in each and "other/tank_0002.png" in each for each in facts.notes
    )


def test_gaps_are_closed_and_all_of_it_played_again():
    uneven = FrameTimes(25, ((3, 1), (1, 4), (6, 1)))
    layer = Layer("f", "Film", Footage("s.zip", 10.0, 10.0, uneven, end=0.3))
    scene = Scene(160, 64, layers=(layer,))
    edit = edits.close_gaps(scene, "f")
    assert do(scene, edit).times.steps == ((10, 1),)
    assert edit.notes
    assert do(scene, edits.play_whole(scene, "f")).out == uneven.seconds


def test_another_rate_keeps_its_seconds():
    scene = scene_of(starts=15.0)
    command = clock_for(scene, Rate(60), 70)
    after = command.apply(scene)
    assert after.layer("f").content.starts == 30.0
    assert command.inverse(scene).apply(after) == scene


def test_the_seam_says_where_its_footage_does_not_come_round():
    seams = {
        length: report(Evaluation(scene_of(length=length, after="repeat")))[0]
        for length in (60, 70)
    }
    assert seams[60].clean
    assert seams[60].reasons() == []
    assert not seams[70].clean
    assert seams[70].reasons() == ["goes on with frame 0 of its footage where 10 would follow"]
    assert not report(Evaluation(scene_of(length=35)))[0].clean


def test_a_scene_file_holds_it_and_refuses_what_cannot_be():
    scene = scene_of(keys=(Key("a", 0.0, 1.0),), fade=0.2, after="repeat")
    data = codec.to_data(scene)
    assert codec.from_data(data) == scene
    content = data["layers"][0]["content"]
    for change in ({"begin": 3.0}, {"end": 0.0}, {"fade": 0.8}, {"asset": "../a.mp4"}, {"times": {"ticks": 1, "steps": [[36_001, 1]]}}):  # fmt: skip
        broken = {**data, "layers": [{**data["layers"][0], "content": {**content, **change}}]}
        with pytest.raises(CoreError):
            codec.from_data(broken)


def test_the_stage_is_told_each_frame_that_is_seen():
    scene = scene_of(after="repeat", fade=0.2)
    told = pack(scene)
    assert b'"mix":[' in told
    assert b'"film":{"from":0.0,"to":24.0,"after":"repeat"}' in told


def test_every_kind_is_known_by_its_content(tmp_path):
    made = [film(tmp_path / "a.mp4", 2), film(tmp_path / "a.avi", 2, codec="mpeg4"), film(tmp_path / "a.mov", 2),
            film(tmp_path / "a.webm", 2, codec="libvpx"), film(tmp_path / "a.mkv", 2), stills(tmp_path / "a.zip", [1])]  # fmt: skip
    for file in made:
        assert ending_of(file.read_bytes()[:4096]) == file.suffix
        assert file.suffix in READERS
    assert ending_of(b"\x89PNG\r\n\x1a\n" + b"\0" * 50) is None


@pytest.mark.parametrize("ending", [".mp4", ".gif"])
def test_what_is_drawn_on_footage_that_is_kept_stays_off_it(tmp_path, ending):
    """Footage that fills the frame is drawn on itself, unless it is kept for another time."""
    file = tmp_path / f"a{ending}"
    if ending == ".mp4":
        film(file, 4)
    else:
        animated(file, 4, "GIF")
    facts = look_into(file, file.name)
    content = Footage(file.name, facts.width, facts.height, FrameTimes(facts.ticks, facts.steps))
    veil = Layer("veil", "Veil", Shape("rectangle", 400, 400, "#ff000080"))
    scene = Scene(160, 64, length=4, layers=(Layer("f", "F", content, Transform((80, 32))), veil))
    painter = painter_of(scene, tmp_path)
    first = painter.picture(2)
    assert np.array_equal(painter.picture(2), first)
    assert np.array_equal(painter_of(scene, tmp_path).picture(2), first)
