"""Time over HTTP: keys, pins, pegs and rides as wholes; what they change, what they refuse, undone
exactly.
"""

import json

import numpy as np
import pytest

from coaster.edits.transfers import take_ride
from coaster.motion.distance import Way
from coaster.motion.keys import Key
from coaster.motion.pace import is_stepping
from coaster.motion.ride import AtNode
from coaster.motion.sections import pace_of
from coaster.render.evaluate import Evaluation
from coaster.render.places import spots_of
from coaster.scene.document import Scene as Value
from coaster.scene.properties import Track
from studio.editor import library, services
from studio.projects.models import SavedRide
from studio.projects.services import create_project, create_scene
from tests.studio.conftest import done_and_undone, now, refused_in_words


def plain(*pairs) -> tuple[Key, ...]:
    return tuple(Key(f"k{i}", float(t), float(v)) for i, (t, v) in enumerate(pairs))


@pytest.fixture
def value(value) -> Value:
    """The scene with keys: the words hop on a curve of y, and both they and the fish fade."""
    words = value.layer("words")
    fade, hop = (
        Track("opacity", plain((0, 0), (12, 1))),
        Track("y", plain((0, 20), (4, 60), (8, 20))),
    )
    value = value.with_layer(replace_keys(words, hop, fade))
    return value.with_layer(replace_keys(value.layer("fish"), fade))


def replace_keys(layer, *tracks):
    return type(layer)(
        layer.id, layer.name, layer.content, layer.transform, layer.ride, keys=tracks
    )


def keys_of(value, layer, name):
    track = value.layer(layer).track(name)
    said = (
        [(k.time, k.value if isinstance(k.value, str) else round(k.value, 6)) for k in track.keys]
        if track
        else []
    )
    return said


def place(value, layer, frame):
    return tuple(spots_of(value, layer)[frame])


HOP = "words/y/k0 words/y/k1 words/y/k2"
SHAPED = {"arrive": [0.3, 0.3], "leave": [0.5, 0], "step": "none"}
COPIED = json.dumps(
    {"coaster-keys": {"y": [{"time": t, "value": v} | SHAPED for t, v in ((2, 1), (5, 9))]}}
)

WORKS = {
    "a key": ({"form": "key", "layer": "box", "property": "x", "frame": "6"},
              lambda v: keys_of(v, "box", "x") == [(6, 80)]),
    "a key with a value": ({"form": "key", "layer": "words", "property": "opacity", "frame": "20", "value": "40"},
                           lambda v: keys_of(v, "words", "opacity")[-1] == (20, 0.4)),
    "a key out": ({"form": "key", "layer": "words", "property": "y", "frame": "4", "to": "remove"},
                  lambda v: keys_of(v, "words", "y") == [(0, 20), (8, 20)]),
    "keys cleared stay as seen": ({"form": "key", "layer": "words", "property": "y", "frame": "4", "to": "clear"},
                                  lambda v: not keys_of(v, "words", "y")
                                  and v.layer("words").transform.position == (80, 60)),
    "a place at a key": ({"form": "place", "layer": "words", "y": "70", "frame": "4"},
                         lambda v: keys_of(v, "words", "y")[1] == (4, 70)),
    "a place between keys moves all": ({"form": "place", "layer": "words", "y": "30", "frame": "10"},
                                       lambda v: keys_of(v, "words", "y") == [(0, 30), (4, 70), (8, 30)]),
    "a place between keys, pinned": ({"form": "place", "layer": "words", "y": "30", "frame": "10", "pin": "true"},
                                     lambda v: keys_of(v, "words", "y")[3] == (10, 30)),
    "a scale pinned": ({"form": "place", "layer": "box", "scale": "50", "frame": "3", "pin": "true"},
                       lambda v: keys_of(v, "box", "scale") == [(3, 0.5)]),
    "moved": ({"form": "keys-move", "items": f"{HOP} fish/peg/p2", "by": "3"},
              lambda v: keys_of(v, "words", "y") == [(3, 20), (7, 60), (11, 20)] and v.ride_of("fish").end == 27),
    "stretched": ({"form": "keys-move", "items": HOP, "factor": "2", "about": "8"},
                  lambda v: [t for t, _ in keys_of(v, "words", "y")] == [-8, 0, 8]),
    "deleted": ({"form": "keys-delete", "items": "words/y/k1 words/opacity/k0 words/opacity/k1"},
                lambda v: keys_of(v, "words", "y") == [(0, 20), (8, 20)] and not keys_of(v, "words", "opacity")),
    "reversed": ({"form": "keys-reverse", "items": "words/opacity/k0 words/opacity/k1"},
                 lambda v: keys_of(v, "words", "opacity") == [(0, 1), (12, 0)]),
    "repeated": ({"form": "keys-repeat", "items": HOP, "times": "3", "stretch": "50", "fade": "25"},
                 lambda v: keys_of(v, "words", "y") == [(0, 20), (4, 60), (8, 20), (10, 30), (12, 20), (13, 22.5),
                                                        (14, 20)]),
    "staggered": ({"form": "keys-stagger", "items": "words/opacity/k0 words/opacity/k1 fish/opacity/k0 "
                                                    "fish/opacity/k1", "step": "5"},
                  lambda v: keys_of(v, "words", "opacity")[0][0] == 0 and keys_of(v, "fish", "opacity")[0][0] == 5),
    "a section's pace": ({"form": "keys-pace", "items": "words/y/k0", "pace": "ease-in"},
                         lambda v: v.layer("words").track("y").keys[0].leave.time == 0.42),
    "pegs' pace": ({"form": "keys-pace", "items": "fish/peg/p1 fish/peg/p2", "pace": "hold"},
                   lambda v: v.ride_of("fish").pegs[0].step == "end"),
    "a key's value and time": ({"form": "keys-value", "items": "words/opacity/k1", "value": "50", "time_s": "0.5"},
                               lambda v: keys_of(v, "words", "opacity")[1] == (15, 0.5)),
    "a key's reach": ({"form": "keys-value", "items": "words/y/k0", "side": "out", "reach": "0.6", "gain": "0"},
                      lambda v: v.layer("words").track("y").keys[0].leave.time == 0.6),
    "pasted": ({"form": "keys-paste", "layer": "box", "frame": "10", "data": COPIED},
               lambda v: keys_of(v, "box", "y") == [(10, 1), (13, 9)]
               and v.layer("box").track("y").keys[0].leave.time == 0.5),
    "pasted over": ({"form": "keys-paste", "layer": "words", "frame": "8", "data": COPIED},
                    lambda v: keys_of(v, "words", "y") == [(0, 20), (4, 60), (8, 1), (11, 9)]),
    "shown for a time": ({"form": "layer-time", "layer": "box", "from_s": "0.2", "to_f": "12"},
                         lambda v: v.layer("box").shown == (6, 12) and Evaluation(v).motion("box").opacity(3) == 0),
    "a first pin": ({"form": "pin", "layer": "box", "frame": "5", "x": "30", "y": "40"},
                    lambda v: place(v, "box", 0) == (30, 40) and keys_of(v, "box", "x") == [(5, 30)]),
    "a pin on a ride": ({"form": "pin", "layer": "fish", "frame": "6", "x": "60", "y": "10"},
                        lambda v: np.allclose(place(v, "fish", 6), (60, 10))
                        and isinstance(v.ride_of("fish").pegs[1].place, AtNode)),
    "a peg on its node": ({"form": "peg", "layer": "fish", "peg": "p2", "on": "node"},
                          lambda v: v.ride_of("fish").pegs[1].place.lap == 1),
    "to and fro": ({"form": "ride-tool", "layer": "fish", "to": "return"},
                   lambda v: np.allclose(place(v, "fish", 24), place(v, "fish", 0))
                   and np.allclose(place(v, "fish", 3), place(v, "fish", 21))),
    "stepping": ({"form": "ride-tool", "layer": "fish", "to": "step"}, lambda v: is_stepping(v.ride_of("fish").pegs)),
    "trimmed": ({"form": "time", "layer": "fish", "trim_end": "6"},
                lambda v: v.ride_of("fish").end == 6 and np.allclose(place(v, "fish", 20), (60, 20), atol=0.1)),
    "settling": ({"form": "facing", "layer": "fish", "settle_s": "0.2"},
                 lambda v: v.ride_of("fish").facing.settle_s == 0.2),
    "a place that settles": ({"form": "course", "layer": "fish", "settle_s": "0.5", "backwards": "true"},
                             lambda v: (v.ride_of("fish").settle_s, v.ride_of("fish").never_backwards) == (0.5, False)),
    "looking at a layer": ({"form": "facing", "layer": "fish", "mode": "target", "target": "box"},
                           lambda v: v.ride_of("fish").facing.target == "box"),
    "looking at a point": ({"form": "facing", "layer": "fish", "mode": "target", "spot_x": "7"},
                           lambda v: v.ride_of("fish").facing.spot == (7, 0)),
    "an angle at a node": ({"form": "facing", "layer": "fish", "mode": "nodes", "node": "n1", "angle": "45"},
                           lambda v: v.ride_of("fish").facing.angles[0].angle == 45),
    "rolling": ({"form": "facing", "layer": "fish", "mode": "roll", "axis": "y"},
                lambda v: v.ride_of("fish").facing.per_px == pytest.approx(360 / np.pi / 16, abs=1e-3)),
    "given away": ({"form": "ride-give", "layer": "fish", "to": "box"},
                   lambda v: v.ride_of("box") == v.ride_of("fish")),
    "drawn": ({"form": "pace-drawn", "layer": "fish", "stroke": "0,10 6,400 12,20 24,300"},
              lambda v: len(v.ride_of("fish").pegs) > 3 and v.ride_of("fish").end == 24),
    "baked": ({"form": "bake", "layer": "fish", "first": "0", "last": "24"},
              lambda v: v.layer("fish").ride is None and len(keys_of(v, "fish", "x")) == 25),
    "the pace of what is new": ({"form": "scene-pace", "pace": "ease-both"}, lambda v: v.pace == (0.42, 0, 0.58, 1)),
    "a colour pinned": ({"form": "text", "layer": "words", "colour": "#ff0000", "frame": "4", "pin": "true"},
                        lambda v: keys_of(v, "words", "colour") == [(4, "#ff0000")]
                        and v.layer("words").content.colour == "#16222e"),
    "a key of a fill": ({"form": "key", "layer": "box", "property": "colour", "frame": "2"},
                        lambda v: keys_of(v, "box", "colour") == [(2, "#3cb38b")]),
    "a width pinned": ({"form": "shape", "layer": "box", "width": "50", "frame": "2", "pin": "true"},
                       lambda v: keys_of(v, "box", "size_x") == [(2, 50)] and v.layer("box").content.width == 20),
    "a text's size keyed": ({"form": "key", "layer": "words", "property": "size", "frame": "2"},
                            lambda v: keys_of(v, "words", "size") == [(2, 20)]),
    "a line's width pinned": ({"form": "line", "layer": "line", "width": "9", "frame": "2", "pin": "true"},
                              lambda v: keys_of(v, "line", "width") == [(2, 9)]),
    "another rate": ({"form": "scene", "rate": "60"},
                     lambda v: keys_of(v, "words", "y") == [(0, 20), (8, 60), (16, 20)]),
}  # fmt: skip


@pytest.mark.parametrize("name", WORKS)
def test_each_control_changes_what_it_says_and_is_undone_exactly(name, post, scene, value):
    done_and_undone(post, scene, value, *WORKS[name])


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        (
            {"form": "key", "layer": "box", "property": "shift", "frame": "1"},
            "nothing to shift it along",
        ),
        ({"form": "key", "layer": "box", "property": "x", "to": "clear"}, "X of Box has no keys"),
        (
            {"form": "key", "layer": "box", "property": "opacity", "value": "400"},
            "Opacity is 0 to 100 %, not 400 %",
        ),
        (
            {"form": "key", "layer": "line", "property": "x", "frame": "1"},
            "a line has opacity",
        ),
        (
            {"form": "key", "layer": "fish", "property": "colour", "frame": "1"},
            "Fish has no colour to be keyed",
        ),
        (
            {"form": "key", "layer": "box", "property": "stroke", "frame": "1"},
            "Box has no stroke colour",
        ),
        (
            {"form": "place", "layer": "words", "opacity": "0", "frame": "20"},
            "Opacity is 0 to 100 %, not -100 %",
        ),
        ({"form": "keys-move", "items": "words/y/k0", "by": "4"}, "Two would stand at one time"),
        ({"form": "keys-move", "items": "words/y/gone", "by": "4"}, "not there any more"),
        (
            {"form": "keys-move", "items": "words/hue/k0", "by": "4"},
            "“words/hue/k0” is not a peg or key",
        ),
        ({"form": "keys-delete", "items": "fish/peg/p1 fish/peg/p2"}, "keeps at least one peg"),
        ({"form": "keys-reverse", "items": "words/y/k0 words/y/k2"}, "follow each other"),
        (
            {"form": "keys-reverse", "items": "fish/peg/p1"},
            "That is for keys; there are pegs of Fish",
        ),
        ({"form": "keys-repeat", "items": HOP, "times": "1"}, "Times: 1 is outside 2 to 1000"),
        ({"form": "keys-stagger", "items": HOP, "step": "1"}, "two layers or more"),
        (
            {"form": "keys-pace", "items": "words/y/k2", "pace": "even"},
            "After the last one nothing moves",
        ),
        ({"form": "keys-pace", "items": "words/y/k0", "pace": "wobbly"}, "'wobbly' is not a pace"),
        ({"form": "keys-paste", "layer": "box", "frame": "1", "data": "[]"}, "are not keys"),
        (
            {
                "form": "keys-paste",
                "layer": "box",
                "frame": "1",
                "data": '{"coaster-keys": {"x": []}}',
            },
            "are not keys",
        ),
        (
            {"form": "layer-time", "layer": "box", "from_f": "9", "to_f": "3"},
            "would end before it begins",
        ),
        ({"form": "pin", "layer": "line", "frame": "0", "x": "1", "y": "1"}, "it cannot be pinned"),
        ({"form": "pin", "layer": "box", "frame": "0", "x": "1"}, "has no place"),
        (
            {"form": "pin", "layer": "fish", "frame": "23.99999999", "x": "nan", "y": "1"},
            "X: “nan” is not a number",
        ),
        ({"form": "time", "layer": "fish", "trim_end": "-3"}, "Nothing of the ride would be left"),
        (
            {"form": "facing", "layer": "fish", "mode": "target", "target": "fish"},
            "itself or not there",
        ),
        (
            {"form": "facing", "layer": "fish", "mode": "nodes", "node": "gone", "angle": "1"},
            "no node 'gone'",
        ),
        ({"form": "ride-give", "layer": "box", "to": "fish"}, "Box rides no path"),
        ({"form": "ride-give", "layer": "fish", "to": "line"}, "cannot ride"),
        (
            {"form": "pace-drawn", "layer": "fish", "stroke": "a,b"},
            "not a list of frame,speed pairs",
        ),
        ({"form": "pace-drawn", "layer": "fish", "stroke": "1,2"}, "stroke over some time"),
        (
            {"form": "pace-drawn", "layer": "fish", "stroke": "1,inf 2,3"},
            "a place that is not a number",
        ),
        ({"form": "bake", "layer": "box"}, "Box rides no path"),
        (
            {"form": "bake", "layer": "fish", "first": "9", "last": "3"},
            "from a first to a later one",
        ),
        ({"form": "bake", "layer": "box", "back": "on"}, "nothing to fit a path to"),
        ({"form": "scene-pace", "pace": "hold"}, "begin with a curve"),
        ({"form": "ride-load", "layer": "box", "saved": "99"}, "not in the library any more"),
    ],
)
def test_what_makes_no_sense_gets_one_sentence_and_changes_nothing(
    post, scene, value, fields, words
):
    refused_in_words(post, scene, value, fields, 422, words)


def test_a_colour_between_its_keys_asks_for_one_of_them_or_the_pin(post, scene):
    post(base=0, form="key", layer="words", property="colour", frame="2")
    between = post(base=1, form="text", layer="words", colour="#00ff00", frame="9")
    assert (
        between.json()["words"] == "Colour of Words has 1 key: go to one of them, or turn on Pin."
    )
    assert post(base=1, form="text", layer="words", colour="#00ff00", frame="2").status_code == 200
    assert keys_of(now(scene), "words", "colour") == [(2, "#00ff00")]
    # What stands beside the keys is not what they say: setting that is a change, too; other fields
    # leave them alone.
    assert post(base=2, form="text", layer="words", colour="#16222e", frame="2").status_code == 200
    assert post(base=3, form="text", layer="words", leading="1.5", frame="2").status_code == 200
    assert keys_of(now(scene), "words", "colour") == [(2, "#16222e")]
    assert post(base=4, form="text", layer="words", colour="#00ff00", frame="2").status_code == 200
    assert (
        post(
            base=5, form="key", layer="words", property="colour", to="clear", frame="9"
        ).status_code
        == 200
    )
    assert now(scene).layer("words").content.colour == "#00ff00"


def test_the_pace_or_the_facing_of_a_ride_is_given_alone(post, scene):
    post(base=0, form="attach", layer="box", path="ring")
    post(base=1, form="facing", layer="box", mode="fixed", turn="30")
    post(base=2, form="pace", layer="box", pace="burst")
    box, fish = now(scene).ride_of("box"), now(scene).ride_of("fish")
    assert post(base=3, form="ride-give", layer="box", to="fish", only="pace").status_code == 200
    paced = now(scene).ride_of("fish")
    assert pace_of(paced.pegs) == pace_of(box.pegs) != pace_of(fish.pegs)
    assert (paced.path, paced.facing) == (fish.path, fish.facing)
    assert post(base=4, form="ride-give", layer="box", to="fish", only="facing").status_code == 200
    faced = now(scene).ride_of("fish")
    assert (faced.pegs, faced.path, faced.facing.turn) == (paced.pegs, fish.path, 30)
    assert (
        post(base=5, form="ride-give", layer="box", to="words", only="pace").json()["words"]
        == "Words rides no path."
    )


def test_two_pins_make_a_path_and_a_third_bends_it(post, scene):
    for base, (frame, x, y) in enumerate([(0, 10, 10), (20, 110, 10), (10, 60, 90)]):
        assert (
            post(
                base=base, form="pin", layer="box", frame=str(frame), x=str(x), y=str(y)
            ).status_code
            == 200
        )
    after = now(scene)
    np.testing.assert_allclose(
        [place(after, "box", f) for f in (0, 10, 20)], [(10, 10), (60, 90), (110, 10)]
    )
    assert keys_of(after, "box", "x") == []
    assert len(after.path(after.ride_of("box").path).nodes()) == 3


def test_a_ride_with_keys_of_x_says_which_of_them_rests_and_lets_them_go(
    client_of, anna, post, scene
):
    post(base=0, form="key", layer="box", property="x", frame="0")
    post(base=1, form="attach", layer="box", path="ring")
    client = client_of(anna)
    card = client.get(f"/scenes/{scene.pk}/card?layer=box").content.decode()
    assert "the ride does, the keys rest" in card
    assert post(base=2, form="keys-delete", items="box/x/key").status_code == 200
    assert "the keys rest" not in client.get(f"/scenes/{scene.pk}/card?layer=box").content.decode()


def test_a_layer_that_is_looked_at_can_be_deleted(post, scene):
    post(base=0, form="facing", layer="fish", mode="target", target="box")
    assert post(base=1, form="delete", layer="box").status_code == 200
    facing = now(scene).ride_of("fish").facing
    assert (facing.mode, facing.target, facing.spot) == ("target", None, (80, 60))


def test_keys_of_x_and_y_become_a_path_within_what_was_asked(post, scene):
    before = spots_of(now(scene), "fish")
    post(base=0, form="bake", layer="fish")
    done = post(base=1, form="bake", layer="fish", back="on", tolerance="0.5")
    assert done.status_code == 200
    after = now(scene)
    assert np.hypot(*(spots_of(after, "fish") - before).T).max() <= 0.5
    assert len(Way(after.path(after.ride_of("fish").path), after.ride_of("fish")).path.nodes()) < 12


def test_the_library_keeps_a_ride_and_gives_it_in_another_scene(
    client_of, anna, ben, project, scene, value, post
):
    client = client_of(anna)
    sheet = client.post(f"/scenes/{scene.pk}/rides/keep", {"layer": "fish", "title": "Ring round"})
    assert "Ring round" in sheet.content.decode()
    assert (
        "nothing to keep"
        in client.post(f"/scenes/{scene.pk}/rides/keep", {"layer": "box"}).content.decode()
    )
    other = create_scene(
        anna, project, "Other", Value(320, 240, length=48, layers=value.layers[2:3])
    )
    saved = SavedRide.objects.get()
    done = client.post(
        f"/scenes/{other.pk}/edit",
        {"base": 0, "form": "ride-load", "layer": "box", "saved": saved.pk},
    )
    assert done.status_code == 200
    taken = now(other)
    assert taken.ride_of("box").pegs == value.ride_of("fish").pegs
    assert taken.path("ring").subpaths == value.path("ring").subpaths
    # Once more, it is the same live path.
    client.post(
        f"/scenes/{other.pk}/edit", {"base": 1, "form": "detach", "layer": "box", "frame": "0"}
    )
    client.post(
        f"/scenes/{other.pk}/edit",
        {"base": 2, "form": "ride-load", "layer": "box", "saved": saved.pk},
    )
    assert len(now(other).paths) == 1
    # Nobody else's rides can be taken, or forgotten.
    theirs = create_scene(
        ben, create_project(ben, "Elsewhere"), "Theirs", Value(layers=value.layers[2:3])
    )
    stranger = client_of(ben)
    answer = stranger.post(
        f"/scenes/{theirs.pk}/edit",
        {"base": 0, "form": "ride-load", "layer": "box", "saved": saved.pk},
    )
    assert (answer.status_code, answer.json()["words"]) == (
        422,
        "The ride is not in the library any more.",
    )
    assert stranger.post(f"/scenes/{theirs.pk}/rides/{saved.pk}/forget").status_code == 404
    assert client.post(f"/scenes/{scene.pk}/rides/{saved.pk}/forget").status_code == 200
    assert not SavedRide.objects.exists()


def test_a_kept_ride_keeps_its_seconds_at_another_rate(anna, project, scene, value):
    saved = library.keep(anna, scene, "fish", "")
    assert saved.name == "Fish on Ring"
    fast = type(value.rate)(60)
    other = create_scene(
        anna, project, "Fast", Value(320, 240, rate=fast, layers=value.layers[2:3])
    )
    services.edit(anna, other.pk, lambda v: take_ride(v, "box", saved.value(), ""), base=0)
    assert now(other).ride_of("box").end == 48
