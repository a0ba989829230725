"""Seams that we made by hand, of every kind: each is found, named, and mended in the ways offered."""

import json
from dataclasses import replace

import numpy as np
import pytest

from coaster.cli import main
from coaster.commands.base import applied, apply_all
from coaster.edits import looping
from coaster.errors import EditRefused
from coaster.export.seams import seam_pictures
from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.media.readers import look_into
from coaster.motion import easing
from coaster.motion.copies import Copies
from coaster.motion.keys import Key
from coaster.motion.letters import Letters
from coaster.motion.rate import Rate
from coaster.motion.ride import Facing, Ride
from coaster.motion.sampling import simple_pegs
from coaster.render import seam
from coaster.render.evaluate import Evaluation
from coaster.scene import codec
from coaster.scene.contents import Footage, Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.footage import FrameTimes
from coaster.scene.properties import Track
from tests.core.moving import film

RING = Path(
    "ring", "Ring", pathdata.subpaths(pathdata.runs("M40 60A60 36 0 0 1 160 60A60 36 0 0 1 40 60Z"))
)
SLOPE = Path("slope", "Slope", pathdata.subpaths(pathdata.runs("M30 90C60 20 90 20 160 40")))
BASE = Scene(200, 120, Rate(24), 48, "#204060", paths=(RING, SLOPE))
SHAPE = Shape("rectangle", 24, 16, "#e0e0f0")


def rider(path="ring", start=0, frames=48, laps=1, pace=easing.EVEN, mode="along") -> Layer:
    ride = Ride(path, simple_pegs(start, start + frames, laps, pace), Facing(mode))
    return Layer("fish", "Fish", SHAPE, Transform(), ride)


def keyed(name: str, *values, content=SHAPE) -> Layer:
    keys = tuple(Key(f"k{i}", 12.0 * i, value) for i, value in enumerate(values))
    return Layer("fish", "Fish", content, Transform((60, 60)), keys=(Track(name, keys),))


def with_layer(layer: Layer) -> Scene:
    return replace(BASE, layers=(layer,))


def lettered(later=0.0) -> Layer:
    """Letters that come onto the slope, and leave it at its end."""
    one = rider("slope")
    riding = replace(one.ride, letters=Letters(later=later), beyond="hide")
    return replace(one, content=Text("Open", size=20, colour="#ffffff"), ride=riding)


SEAMS = {
    "an open path": (rider("slope"), "jumps", {"close", "fade"}),
    "an open path, upright": (rider("slope", mode="fixed"), "jumps", {"close", "return", "fade"}),
    "half a lap": (rider(laps=0.5), "jumps", {"whole", "smooth", "return", "fade"}),
    "laps that are not whole": (rider(laps=1.4), "jumps", {"whole", "return"}),
    "a ride that rests": (rider(frames=36), "px/s at once", {"whole", "length", "fade"}),
    "a late start": (rider(start=12, frames=36), "px/s at once", {"whole", "fade"}),
    "a pace": (rider(pace=easing.PRESETS["ease-in"]), "px/s at once", {"smooth", "fade"}),
    "place": (keyed("x", 20.0, 150.0), "jumps", {"keys", "fade"}),
    "turn": (keyed("turn", 0.0, 70.0), "turns +", {"keys", "fade"}),
    "size": (keyed("scale", 1.0, 2.0), "changes size by -", {"keys", "fade"}),
    "opacity": (keyed("opacity", 1.0, 0.4), "changes opacity by +60%", {"keys"}),
    "letters": (lettered(), "changes opacity by -100%", {"round", "close", "fade"}),
    "letters that come later": (lettered(2.0), "changes opacity by", {"close"}),
    "colour": (keyed("colour", "#ff0000", "#0000ff"), "changes its colour by 255", {"keys", "fade"}),
}  # fmt: skip


@pytest.mark.parametrize("name", SEAMS)
def test_a_seam_is_found_and_mended_in_every_way_that_is_offered(name, tmp_path):
    layer, words, wanted = SEAMS[name]
    scene = with_layer(layer)
    (found,) = seam.broken(Evaluation(scene))
    assert any(words in reason for reason in found.reasons())
    ways = list(looping.ways(scene, "fish"))
    assert wanted <= {way.name for way in ways}
    for way in ways:
        edit = looping.mend(scene, "fish", way.name)
        mended, inverses = apply_all(scene, edit.commands)
        assert not seam.broken(Evaluation(mended)), way.name
        assert seam_pictures(mended, tmp_path).clean, way.name
        assert applied(mended, inverses) == scene
        # Mended once it is not mended again.
        with pytest.raises(EditRefused):
            looping.mend_all(mended)


@pytest.mark.parametrize("name", SEAMS)
def test_all_of_it_takes_the_first_way_of_each(name):
    scene = with_layer(SEAMS[name][0])
    edit = looping.mend_all(scene)
    first = next(looping.ways(scene, "fish"))
    assert applied(scene, edit.commands) == applied(scene, first.edit.commands)
    assert edit.words == "Make it loop: 1 layer"
    assert edit.notes == (f"Fish: {first.words.lower()}.",)


def test_footage_is_played_whole_times_with_its_end_in_its_beginning(tmp_path):
    facts = look_into(film(tmp_path / "film.mp4", 60), "film.mp4")
    content = Footage("film.mp4", 120, 60, FrameTimes(facts.ticks, facts.steps))
    scene = with_layer(Layer("fish", "Fish", content, Transform((100, 60))))
    (found,) = seam.broken(Evaluation(scene))
    assert "of its footage" in found.reasons()[0]
    way = next(way for way in looping.ways(scene, "fish") if way.name == "film")
    mended = applied(scene, way.edit.commands)
    played = mended.layer("fish").content
    assert (played.after, played.fade) == ("repeat", pytest.approx(0.5))
    # 1.5 s of it, once in the 2 s of the scene.
    assert played.once / played.speed == pytest.approx(2.0)
    assert seam_pictures(mended, tmp_path).clean


def test_keys_behind_the_end_stay_and_one_at_the_end_is_set(tmp_path):
    times = (0.0, 24.0, 48.0, 60.0)
    made = tuple(Key(f"k{i}", time, 20.0 + 30 * i) for i, time in enumerate(times))
    layer = replace(keyed("x", 20.0), keys=(Track("x", made),))
    scene = with_layer(layer)
    mended = applied(scene, looping.mend(scene, "fish", "keys").commands)
    kept = mended.layer("fish").keys_of("x")
    assert [key.time for key in kept] == list(times)
    assert [key.value for key in kept] == [20.0, 50.0, 20.0, 110.0]
    assert not seam.broken(Evaluation(mended))


def test_what_does_not_help_is_refused_in_words():
    scene = with_layer(keyed("x", 20.0, 150.0))
    with pytest.raises(EditRefused, match="that does not help Fish"):
        looping.mend(scene, "fish", "close")
    with pytest.raises(EditRefused, match="no way called"):
        looping.mend(scene, "fish", "wish")
    with pytest.raises(EditRefused, match="nothing to mend"):
        looping.mend_all(with_layer(rider()))


def test_several_layers_are_mended_each_in_its_way():
    layers = (rider("slope"), replace(keyed("x", 20.0, 150.0), id="sign", name="Sign"))
    edit = looping.mend_all(replace(BASE, layers=layers))
    assert edit.words == "Make it loop: 2 layers"
    mended = applied(replace(BASE, layers=layers), edit.commands)
    assert not seam.broken(Evaluation(mended))


def test_unevenness_is_the_change_of_the_longest_step():
    assert seam.unevenness(Evaluation(with_layer(rider()))).max() < 0.05
    uneven = seam.unevenness(Evaluation(with_layer(rider(frames=24))))
    # It begins at once at the seam, and ends at once in the middle.
    assert sorted(np.flatnonzero(uneven > 2)) == [0, 24]
    assert seam.unevenness(Evaluation(BASE)).tolist() == [0.0] * 48
    # A jump at the seam is the last step, and the first is as much shorter.
    jumps = seam.unevenness(Evaluation(with_layer(rider("slope"))))
    assert np.flatnonzero(jumps > 20).tolist() == [0, 47]


def test_nobody_sees_uneven_steps_where_there_is_nothing_to_see():
    hasty = rider(frames=24)
    later = (Key("a", 0.0, 0.0, step="end"), Key("b", 12.0, 1.0))
    faded = seam.unevenness(Evaluation(with_layer(replace(hasty, keys=(Track("opacity", later),)))))
    assert np.flatnonzero(faded > 2).tolist() == [24]
    assert faded[:12].tolist() == [0.0] * 12
    # It darts about beside the picture, then comes into it.
    comes = seam.unevenness(Evaluation(with_layer(keyed("x", -900.0, -100.0, -400.0, 80.0))))
    assert comes[:24].tolist() == [0.0] * 24
    assert comes[36] > 20


def test_copies_and_letters_have_uneven_steps_too():
    text = lettered()
    assert seam.unevenness(Evaluation(with_layer(text))).max() < 0.01
    eased = simple_pegs(0, 48, 1, easing.PRESETS["ease-both"])
    hasty = replace(text, ride=replace(text.ride, pegs=eased))
    assert seam.unevenness(Evaluation(with_layer(hasty))).max() > 0.1
    hasty = rider(frames=24)
    both = replace(hasty, ride=replace(hasty.ride, copies=Copies(2, later=6.0)))
    uneven = seam.unevenness(Evaluation(with_layer(both)))
    assert np.flatnonzero(uneven > 2).tolist() == [0, 6, 24, 30]


def test_a_jump_that_hides_in_the_movement_is_clean_and_one_at_rest_is_not(tmp_path):
    whole = seam_pictures(with_layer(rider()), tmp_path)
    assert whole.clean
    assert whole.most <= 2
    assert whole.words.endswith(("which nobody sees.", "px by px."))
    # A twentieth of a px, where each step is seven.
    nearly = seam_pictures(with_layer(rider(laps=1 + 0.05 / 305)), tmp_path)
    assert nearly.most > 2
    assert nearly.clean
    assert "which nobody sees" in nearly.words
    jumps = seam_pictures(with_layer(rider(laps=1.1)), tmp_path)
    assert not jumps.clean
    assert jumps.differs[..., :3].max() == 255
    blinks = with_layer(keyed("opacity", 1.0, 1.0, 0.99, 0.97))
    assert not seam_pictures(blinks, tmp_path).clean


def test_check_says_the_same_on_the_command_line(tmp_path, capsys):
    file = tmp_path / "scene.json"
    for layer, clean in ((rider(), True), (rider("slope"), False)):
        file.write_text(codec.to_json(with_layer(layer)))
        assert main(["check", str(file), "--json"]) == (0 if clean else 1)
        told = json.loads(capsys.readouterr().out)
        assert told["clean"] is clean
        assert told["pixels"]["clean"] is clean
        assert bool(told["layers"][0]["reasons"]) is not clean
        assert len(told["unevenness_px"]) == 48
        main(["check", str(file)])
        words = capsys.readouterr().out.splitlines()[-2:]
        assert words[1] == ("The loop is clean." if clean else "The loop is not clean.")
        assert words[0].startswith("What would follow the last frame")
