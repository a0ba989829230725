"""Edits over HTTP and in the services: what they change, what they refuse, and that nothing is
lost.
"""

import threading
from datetime import timedelta

import pytest
from django.db import connection
from django.urls import reverse
from django.utils import timezone
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from coaster.commands.fields import set_layer, set_ride
from coaster.edits.edit import edit_of
from coaster.motion.copies import Copies
from coaster.motion.distance import Way
from coaster.motion.pace import pace_at_pegs
from coaster.motion.ride import Facing
from coaster.scene.document import Transform
from studio.editor import services
from studio.editor.services import StaleRevision
from studio.projects import replay
from studio.projects.models import Revision, Scene
from tests.studio.conftest import done_and_undone, now, refused_in_words


def way_of(value) -> Way:
    ride = value.ride_of("fish")
    return Way(value.path(ride.path), ride)


WORKS = {
    "facing": ({"form": "facing", "layer": "fish", "turn": "-90", "mode": "ahead", "ahead_s": "0,5"},
               lambda v: (v.ride_of("fish").facing.turn, v.ride_of("fish").facing.ahead_s) == (-90, 0.5)),
    "flip": ({"form": "facing", "layer": "fish", "flip_x": "true"}, lambda v: v.ride_of("fish").facing.flip_x),
    "seconds": ({"form": "time", "layer": "fish", "lasts_s": "0.5"}, lambda v: v.ride_of("fish").end == 15),
    "frames": ({"form": "time", "layer": "fish", "start_f": "3"},
               lambda v: (v.ride_of("fish").start, v.ride_of("fish").end) == (3, 27)),
    "laps": ({"form": "time", "layer": "fish", "laps": "2.5"},
             lambda v: v.ride_of("fish").pegs[-1].place.percent == 250),
    "pace": ({"form": "pace", "layer": "fish", "pace": "cubic-bezier(.2,0,.8,1)"},
             lambda v: v.ride_of("fish").pegs[0].leave.time == 0.2),
    "shift": ({"form": "course", "layer": "fish", "offset": "12.5 %"}, lambda v: v.ride_of("fish").offset == 12.5),
    "copies": ({"form": "copies", "layer": "fish", "count": "5", "each_scale": "80", "later_s": "0.5", "stray": "10"},
               lambda v: v.ride_of("fish").copies == Copies(5, later=15, scale=0.8, stray=0.1)),
    "copies on nodes": ({"form": "copies", "layer": "fish", "spread": "nodes"},
                        lambda v: v.ride_of("fish").copies.count == len(v.path("ring").nodes())),
    "copies at places": ({"form": "copies", "layer": "fish", "spread": "places", "places": "5 12,5; 40", "standing": "true"},
                         lambda v: v.ride_of("fish").copies == Copies(4, "places", places=(5, 12.5, 40), standing=True)),
    "copies of other hues": ({"form": "copies", "layer": "fish", "each_hue": "-40", "ahead_f": "3"},
                             lambda v: (v.ride_of("fish").copies.hue, v.ride_of("fish").copies.ahead) == (-40, 3)),
    "then anew": ({"form": "ride-then", "layer": "fish", "path": "+", "rest_s": "0.1", "turn_more": "90"},
                  lambda v: len(v.path(v.ride_of("fish").path).legs) == 2 and len(v.ride_of("fish").pegs) == 4),
    "chain": ({"form": "path-chain", "path": "ring", "then": "ring"}, lambda v: [x.path for x in v.paths[1].legs] == ["ring", "ring"]),
    "a life": ({"form": "wake", "layer": "box", "life_sizes": "50 120", "life_strengths": "100", "wake_at": ""},
               lambda v: (v.layer("box").wake.sizes, v.layer("box").wake.strengths) == ((0.5, 1.2), (1.0,))),
    "a life's colour": ({"form": "wake", "layer": "box", "wake_at": "0", "wake_colour": "#ff0000"},
                        lambda v: v.layer("box").wake.colours == ("#ff0000",)),
    "like another": ({"form": "wake", "layer": "box", "like": "words"}, lambda v: v.layer("box").wake.looks == ("words",)),
    "peg": ({"form": "peg", "layer": "fish", "add_at": "6"}, lambda v: v.ride_of("fish").pegs[1].place.percent == 25),
    "peg's speed": ({"form": "peg-pace", "layer": "fish", "peg": "p1", "speed": "100"},
                    lambda v: abs(pace_at_pegs(way_of(v))[0].leave * 30 - 100) < 1e-6),
    "peg's reach": ({"form": "peg-pace", "layer": "fish", "peg": "p1", "reach_out": "50"},
                    lambda v: v.ride_of("fish").pegs[0].leave.time == 0.5),
    "peg's time": ({"form": "peg-pace", "layer": "fish", "peg": "p2", "time_s": "0.6"},
                   lambda v: v.ride_of("fish").end == 18),
    "rest": ({"form": "ride-tool", "layer": "fish", "to": "hold", "peg": "p1", "frames": "6"},
             lambda v: [p.time for p in v.ride_of("fish").pegs] == [0, 6, 30]),
    "backwards": ({"form": "ride-tool", "layer": "fish", "to": "backwards"},
                  lambda v: [p.place.percent for p in v.ride_of("fish").pegs] == [100, 0]),
    "place": ({"form": "place", "layer": "box", "x": "10", "scale": "50", "opacity": "25"},
              lambda v: v.layer("box").transform == Transform((10, 60), scale=(0.5, 0.5), opacity=0.25)),
    "text": ({"form": "text", "layer": "words", "text": "Ebb\nflow", "weight": "700"},
             lambda v: v.layer("words").content.text == "Ebb\nflow"),
    "dashes": ({"form": "shape", "layer": "box", "dashed": "true", "cap": "butt", "join": "miter"},
               lambda v: (v.layer("box").content.dash, v.layer("box").content.cap, v.layer("box").content.join)
               == ((3, 3), "butt", "miter")),
    "longer dashes": ({"form": "line", "layer": "line", "dash_on": "30"}, lambda v: v.layer("line").content.dash == (30, 18)),
    "dashes that run": ({"form": "line", "layer": "line", "dash_offset": "40", "frame": "6", "pin": "true"},
                        lambda v: v.layer("line").keys_of("dashes")[0].value == 40),
    "stretched": ({"form": "layer-frame", "layer": "box", "part": "e", "from_x": "90", "from_y": "60", "to_x": "100", "to_y": "63"},
                  lambda v: v.layer("box").transform == Transform((85, 60), scale=(1.5, 1))),
    "in proportion": ({"form": "layer-frame", "layer": "box", "part": "se", "even": "true", "about_anchor": "true",
                       "from_x": "90", "from_y": "65", "to_x": "100", "to_y": "70"},
                      lambda v: v.layer("box").transform == Transform((80, 60), scale=(2, 2))),
    "knob": ({"form": "layer-frame", "layer": "box", "part": "knob", "from_x": "80", "from_y": "50", "to_x": "92", "to_y": "61",
              "steps": "true"}, lambda v: v.layer("box").transform.turn == 90),
    "anchor": ({"form": "layer-frame", "layer": "box", "part": "anchor", "to_x": "71", "to_y": "56", "near": "2"},
               lambda v: v.layer("box").transform == Transform((70, 55), (0, 0))),
    "each way": ({"form": "place", "layer": "box", "scale_y": "-50"}, lambda v: v.layer("box").transform.scale == (1, -0.5)),
    "depth": ({"form": "place", "layer": "box", "z": "120", "tilt": "30", "swing": "-20"},
              lambda v: v.layer("box").transform == Transform((80, 60), z=120, tilt=30, swing=-20)),
    "a node in depth": ({"form": "node-move", "path": "ring", "nodes": "n1", "deep": "80"}, lambda v: v.path("ring").nodes()[0].z == 80),
    "to the viewer": ({"form": "depth", "layer": "box", "to_viewer": "true", "anchor_z": "15"},
                      lambda v: v.layer("box").transform == Transform((80, 60), to_viewer=True, anchor_z=15)),
    "a shape in depth": ({"form": "add", "what": "star", "x": "30", "y": "40", "seen_at": "0", "level": "25"},
                         lambda v: v.layers[-1].transform.z == 25),
    "a text from above": ({"form": "add", "what": "text", "x": "30", "y": "-40", "seen_at": "0", "seen_from": "above", "level": "50"},
                          lambda v: v.layers[-1].transform == Transform((30, 50), z=40)),
    "a figure from the side": ({"form": "figure", "kind": "ellipse", "left": "10", "top": "20", "width": "40", "height": "60",
                                "seen_at": "0", "seen_from": "side", "level": "80"},
                               lambda v: {n.position[0] for n in v.paths[-1].nodes()} == {80} and sorted(n.z for n in v.paths[-1].nodes()) == [10, 30, 30, 50]),
    "the short way": ({"form": "depth", "layer": "box", "short_way": "true"}, lambda v: v.layer("box").transform.short_way),
    "farthest first": ({"form": "depth", "by_depth": "true"}, lambda v: v.by_depth),
    "a camera": ({"form": "add", "what": "camera"}, lambda v: v.layers[-1].content.angle == 40),
    "a light": ({"form": "add", "what": "light"}, lambda v: (v.layers[-1].content.type, v.layers[-1].transform.z) == ("light", -80)),
    "not lit": ({"form": "depth", "layer": "box", "lit": "false", "shine": "30"}, lambda v: (v.layer("box").lit, v.layer("box").shine) == (False, 0.3)),
    "nose down": ({"form": "facing", "layer": "fish", "dives": "true"}, lambda v: v.ride_of("fish").facing.dives),
    "filled in": ({"form": "field", "of": "text:words"}, lambda v: [(f.name, f.of, f.what) for f in v.fields] == [("Words", "words", "text")]),
    "into its curves": ({"form": "facing", "layer": "fish", "banks": "1.5"}, lambda v: v.ride_of("fish").facing.banks == 1.5),
    "a node from above": ({"form": "node-move", "path": "ring", "nodes": "n1", "dx": "4", "dy": "-30", "seen_from": "above", "seen_at": "0"},
                          lambda v: v.path("ring").nodes()[0].z == 30),
    "a handle from the side": ({"form": "handle", "path": "ring", "nodes": "n1", "side": "out", "hx": "12", "hy": "5", "seen_from": "side",
                                "seen_at": "0"}, lambda v: v.path("ring").nodes()[0].handle_z[1] == 12),
    "a handle's depth": ({"form": "handle", "path": "ring", "nodes": "n1", "side": "in", "deep": "7"},
                         lambda v: v.path("ring").nodes()[0].handle_z[0] == 7),
    "a layer from the side": ({"form": "place", "layer": "box", "to_x": "50", "to_y": "70", "seen_from": "side"},
                              lambda v: v.layer("box").transform == Transform((80, 70), z=50)),
    "drawn on a plane": ({"form": "draw", "from_x": "80", "from_y": "60", "x": "10", "y": "10", "seen_at": "0", "level": "40"},
                         lambda v: {n.z for n in v.paths[-1].nodes()} == {40}),
    "its face": ({"form": "facing", "layer": "fish", "mode": "target", "looks": "face"},
                 lambda v: v.ride_of("fish").facing.in_depth),
    "set apart": ({"form": "text", "layer": "words", "tracking": "12.5"}, lambda v: v.layer("words").content.tracking == 0.125),
    "wrapped": ({"form": "text", "layer": "words", "wrapped": "true"}, lambda v: 20 < v.layer("words").content.wrap < 80),
    "wrapped at": ({"form": "text", "layer": "words", "wrap": "25"}, lambda v: v.layer("words").content.wrap == 25),
    "outlined": ({"form": "text", "layer": "words", "stroked": "true"}, lambda v: v.layer("words").content.stroke_width == 1),
    "half opaque": ({"form": "shape", "layer": "box", "fill_alpha": "50"}, lambda v: v.layer("box").content.fill == "#3cb38b80"),
    "a key of alpha": ({"form": "shape", "layer": "box", "fill_alpha": "0", "frame": "4", "pin": "true"},
                       lambda v: v.layer("box").keys_of("colour")[0].value == "#3cb38b00"),
    "shape": ({"form": "shape", "layer": "box", "figure": "star", "stroked": "true"},
              lambda v: v.layer("box").content.stroke and v.layer("box").content.figure == "star"),
    "line": ({"form": "line", "layer": "line", "dashed": "true", "width": "3"}, lambda v: v.layer("line").content.dash),
    "rename": ({"form": "rename", "layer": "box", "title": "Crate"}, lambda v: v.layer("box").name == "Crate"),
    "rename path": ({"form": "rename", "path": "ring", "title": "Hoop"}, lambda v: v.path("ring").name == "Hoop"),
    "attach": ({"form": "attach", "layer": "box", "path": "ring"}, lambda v: v.ride_of("box").end == 24),
    "detach": ({"form": "detach", "layer": "fish", "frame": "12"},
               lambda v: not v.layer("fish").ride and abs(v.layer("fish").transform.position[0] - 100) < 0.1),
    "delete layer": ({"form": "delete", "layer": "box"}, lambda v: len(v.layers) == 3),
    "delete path": ({"form": "delete", "path": "ring"},
                    lambda v: not v.paths and [x.id for x in v.layers] == ["fish", "box", "words"]),
    "add": ({"form": "add", "what": "ellipse", "x": "5", "y": "6"},
            lambda v: v.layer("ellipse").transform.position == (5, 6)),
    "add line": ({"form": "add", "what": "line", "path": "ring"},
                 lambda v: [x.id for x in v.layers][:3] == ["line", "line-on-ring", "fish"]),
    "rate": ({"form": "scene", "rate": "29.97"}, lambda v: str(v.rate) == "29.97" and v.length == 24),
    "transparent": ({"form": "scene", "transparent": "true"}, lambda v: v.background is None),
    "longer": ({"form": "scene", "frames": "48"}, lambda v: (v.length, v.ride_of("fish").end) == (48, 48)),
    "commands": ({"commands": [{"kind": "layer.show", "layer_id": "box", "visible": False}]},
                 lambda v: not v.layer("box").visible),
}  # fmt: skip


@pytest.mark.parametrize("name", WORKS)
def test_each_control_changes_what_it_says_and_is_undone_exactly(name, post, scene, value):
    done_and_undone(post, scene, value, *WORKS[name])


REFUSED = [
    ({"form": "layer-frame", "layer": "box", "part": "e"}, 422, "goes to a place of the scene"),
    ({"form": "layer-frame", "layer": "box", "part": "e", "to_x": "9", "to_y": "9"}, 422, "A hand goes from one place"),
    ({"form": "layer-frame", "layer": "box", "part": "x", "to_x": "9", "to_y": "9"}, 422, "x"),
    ({"form": "layer-frame", "layer": "fish", "part": "anchor", "to_x": "9", "to_y": "9"}, 422, "Fish rides by its anchor"),
    ({"form": "facing", "layer": "fish", "turn": "inf"}, 422, "Turn by: “inf” is not a number."),
    ({"form": "facing", "layer": "fish", "turn": "4000"}, 422, "Turn by: 4000 ° is outside -3600 to 3600 °."),
    ({"form": "facing", "layer": "fish", "mode": "sideways"}, 422, "Facing: Select a valid choice"),
    ({"form": "facing", "layer": "box", "turn": "1"}, 422, "Box rides no path."),
    ({"form": "field", "of": ""}, 422, "What is to be filled in?"),
    ({"form": "field", "of": "picture:words"}, 422, "Words"),
    ({"form": "field", "remove": "Noon"}, 422, "There is no field"),
    ({"form": "facing", "layer": "fish", "banks": "90"}, 422, "Banks: 90 is outside -20 to 20"),
    ({"form": "node-move", "path": "ring", "nodes": "n1", "dx": "4", "seen_from": "below"}, 422, "Select a valid choice"),
    ({"form": "place", "layer": "fish", "to_x": "5", "to_y": "7", "seen_from": "above"}, 422, "its place is set by the ride"),
    ({"form": "node-move", "path": "ring", "nodes": "n1", "dy": "-1e6", "seen_from": "above", "seen_at": "0", "dx": "1e999"}, 422, "not a number"),
    ({"form": "facing", "layer": "gone", "turn": "1"}, 422, "no layer 'gone'"),
    ({"form": "place", "layer": "box", "z": "1e9"}, 422, "Depth: 1e+09 px is outside -1e+06 to 1e+06 px."),
    ({"form": "camera", "layer": "box", "angle": "40"}, 422, "Box is not a camera."),
    ({"form": "camera", "layer": "box", "angle": "180"}, 422, "Angle of view: 180 ° is outside 1 to 170 °."),
    ({"form": "light", "layer": "box", "spread": "90"}, 422, "Box is not a light."),
    ({"form": "light", "layer": "box", "brightness": "2000"}, 422, "Brightness: 2000 % is outside 0 to 1000 %."),
    ({"form": "depth", "layer": "line", "to_viewer": "true"}, 422, "give depth to the group it is in"),
    ({"form": "depth", "layer": "box", "flat": "true"}, 422, "Box is not a group."),
    ({"form": "time", "layer": "fish", "lasts_f": "0"}, 422, "more than 0 frames"),
    ({"form": "time", "layer": "fish", "laps": "0"}, 422, "0 laps goes nowhere"),
    ({"form": "pace", "layer": "fish", "pace": "bouncy"}, 422, "'bouncy' is not a pace"),
    ({"form": "pace", "layer": "fish", "pace": "cubic-bezier(2,0,0,1)"}, 422, "must lie in 0..1"),
    ({"form": "copies", "layer": "fish", "count": "100000"}, 422, "Copies: 100000 is outside 1 to 1000."),
    ({"form": "copies", "layer": "fish", "count": "0"}, 422, "Copies: 0 is outside 1 to 1000."),
    ({"form": "copies", "layer": "fish", "count": "2.5"}, 422, "Copies: 2.5 is no whole number."),
    ({"form": "copies", "layer": "fish", "count": "900", "each_scale": "120"}, 422, "last copy may be 1,000 times as large"),
    ({"form": "copies", "layer": "box", "count": "5"}, 422, "Box rides no path."),
    ({"form": "copies", "layer": "fish", "spread": "places", "places": "5 far"}, 422, "Places: “far” is not a number."),
    ({"form": "ride-then", "layer": "box", "path": "ring"}, 422, "Box rides no path."),
    ({"form": "ride-then", "layer": "fish", "path": "gone"}, 422, "no path 'gone'"),
    ({"form": "ride-then", "layer": "fish", "path": "+", "size_then": "0"}, 422, "Size then: 0 % is outside 1 to 10000 %."),
    ({"form": "path-chain", "path": "ring"}, 422, "Which path is to come then?"),
    ({"form": "path-chain", "path": "ring", "part": "on"}, 422, "there is nothing to part it from"),
    ({"form": "path-leg", "path": "ring", "leg": "g", "laps": "2"}, 422, "has no such part any more"),
    ({"form": "wake", "layer": "box", "life_strengths": "1 2 3 4 5 6 7 8 9"}, 422, "at most 8"),
    ({"form": "wake", "layer": "box", "like": "line"}, 422, "Particles do not look like"),
    ({"form": "wake", "layer": "box", "wake_at": "4", "wake_colour": "#ff0000"}, 422, "1 to 8 colours"),
    ({"form": "tint", "layer": "box", "under": "words"}, 422, "is not a picture"),
    ({"form": "accent", "layer": "box", "accent": "gone", "when": "peg"}, 422, "no such accent any more"),
    ({"form": "copies", "layer": "fish", "layers": "on"}, 422, "has no copies to make layers of"),
    ({"form": "peg", "layer": "fish", "add_at": "0"}, 422, "a peg at frame 0 already"),
    ({"form": "peg-pace", "layer": "fish", "peg": "p1", "speed": "1e5"}, 422, "run backwards"),
    ({"form": "peg-pace", "layer": "fish", "peg": "p1", "time_f": "24"}, 422, "pass its neighbour"),
    ({"form": "peg-pace", "layer": "fish", "peg": "gone", "time_f": "4"}, 422, "not there any more"),
    ({"form": "peg-pace", "layer": "fish", "peg": "p1"}, 422, "Nothing was typed"),
    ({"form": "text", "layer": "words", "text": "  "}, 422, "at least one letter"),
    ({"form": "text", "layer": "words", "text": "海"}, 422, "No font here has “海”"),
    ({"form": "scene", "width": "641"}, 422, "Width: 641 px is not an even whole number"),
    ({"form": "scene", "rate": "61"}, 422, "outside 12 to 60"),
    ({"form": "scene", "rate": "fast"}, 422, "not a number of frames a second"),
    ({"form": "scene", "seconds": "0.01"}, 422, "too few"),
    ({"form": "attach", "layer": "fish", "path": "ring"}, 422, "rides Ring already"),
    ({"form": "attach", "layer": "line", "path": "ring"}, 422, "cannot ride"),
    ({"form": "melt"}, 422, "no form called 'melt'"),
    ({"commands": "nonsense"}, 422, "not readable JSON"),
    ({"commands": "[]"}, 422, "1 to 500 commands"),
    ({"commands": "[" * 5000}, 422, "not readable JSON"),
    ({"form": "add", "what": "text", "base": "x"}, 422, "which revision"),
    ({"form": "add", "what": "text", "base": "99"}, 409, "never had"),
]  # fmt: skip


@pytest.mark.parametrize(("fields", "status", "words"), REFUSED)
def test_what_makes_no_sense_gets_one_sentence_and_changes_nothing(
    post, scene, value, fields, status, words
):
    refused_in_words(post, scene, value, fields, status, words)


def test_edits_on_a_stale_state_are_rebased_or_refused(post, scene):
    assert post(base=0, form="facing", layer="fish", turn="10").status_code == 200
    other = post(base=0, form="pace", layer="fish", pace="ease-in")
    assert other.status_code == 200
    clash = post(base=0, form="facing", layer="fish", turn="20")
    assert clash.status_code == 409
    assert "changed in another window" in clash.json()["words"]
    assert now(scene).ride_of("fish").facing.turn == 10
    assert Scene.objects.get().revision == 2


def test_history_is_append_only_and_leads_back_to_every_state(anna, scene, value):
    states = {0: value}
    for i in range(60):
        plan = (
            [set_layer("box", transform=Transform((i, i)))]
            if i % 7
            else [set_layer("box", visible=i % 2 == 0)]
        )
        services.edit(
            anna, scene.pk, lambda s, plan=plan: edit_of(plan), base=Scene.objects.get().revision
        )
        states[Scene.objects.get().revision] = now(scene)
    row = Scene.objects.get()
    assert row.revision == Revision.objects.count() - 1
    assert [bool(r.snapshot) for r in row.revisions.all()].count(True) == 2
    assert len(set(states.values())) > 50
    for number in (0, 1, 49, 50, 51, row.revision):
        assert replay.document_at(row, number) == states[number]


@given(st.lists(st.sampled_from(["edit", "undo", "redo"]), max_size=12))
@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_undo_and_redo_are_a_stack_of_documents(anna, project, value, actions):
    from studio.projects.services import create_scene

    scene = create_scene(anna, project, "Stack", value)
    done, undone = [value], []
    for i, action in enumerate(actions):
        Revision.objects.update(made_at=timezone.now() - timedelta(seconds=9))
        if action == "edit":
            plan = [set_layer("box", name=f"Box {i}")]
            done.append(
                services.edit(
                    anna, scene.pk, lambda s, p=plan: edit_of(p), base=_revision(scene)
                ).after
            )
            undone = []
        elif action == "undo" and len(done) > 1:
            undone.append(done.pop())
            services.undo(anna, scene.pk)
        elif action == "redo" and undone:
            done.append(undone.pop())
            services.redo(anna, scene.pk)
        else:
            with pytest.raises(services.EditRefused, match="nothing to"):
                (services.undo if action == "undo" else services.redo)(anna, scene.pk)
        assert now(scene) == done[-1]
        words = services.undo_words(Scene.objects.get(pk=scene.pk))
        assert [bool(w) for w in words] == [len(done) > 1, bool(undone)]


def _revision(scene) -> int:
    return Scene.objects.get(pk=scene.pk).revision


def test_nudges_at_once_are_undone_together(anna, scene, value, monkeypatch):
    monkeypatch.setattr(
        services, "JOINED_WITHIN", timedelta(minutes=1)
    )  # however slow the machine is
    for x in range(5):
        services.edit(
            anna,
            scene.pk,
            lambda s, x=x: edit_of([set_layer("box", transform=Transform((x, 0)))]),
            base=_revision(scene),
            nudge=True,
        )
    services.edit(
        anna,
        scene.pk,
        lambda s: edit_of([set_ride("fish", facing=Facing(turn=3))]),
        base=_revision(scene),
    )
    services.undo(anna, scene.pk)
    assert now(scene).layer("box").transform.position == (4, 0)
    services.undo(anna, scene.pk)
    assert now(scene) == value
    services.redo(anna, scene.pk)
    assert now(scene).layer("box").transform.position == (4, 0)


def test_an_edit_that_changes_nothing_makes_no_revision(post, scene):
    assert post(form="facing", layer="fish", turn="0").status_code == 200
    assert Scene.objects.get().revision == 0


@pytest.mark.django_db(transaction=True)
def test_edits_at_the_same_moment_are_all_kept_or_refused(anna, scene):
    outcomes = []

    def work(i: int) -> None:
        try:
            services.edit(
                anna,
                scene.pk,
                lambda s: edit_of([set_layer(["box", "fish"][i % 2], name=f"Name {i}")]),
                base=0,
            )
            outcomes.append("kept")
        except StaleRevision:
            outcomes.append("refused")
        finally:
            connection.close()

    threads = [threading.Thread(target=work, args=(i,)) for i in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(outcomes) == ["kept"] * 2 + ["refused"] * 6
    assert Scene.objects.get().revision == 2


def test_blocks_of_frames_are_for_the_revision_they_were_asked_for(client_of, scene):
    client = client_of(scene.project.owner)
    address = f"/scenes/{scene.pk}/blocks"
    asked = {"base": "0", "first": "0", "count": "2", "layers": "fish box"}
    found = client.post(address, asked)
    assert found.status_code == 200
    assert found.content[:4] == b"CSTR"
    assert client.post(address, asked | {"base": "7"}).status_code == 409
    for bad in (
        {"count": "0"},
        {"count": "500"},
        {"first": "-1"},
        {"first": "x"},
        {"layers": "nobody"},
    ):
        answer = client.post(address, asked | bad)
        assert answer.status_code == 422
        assert answer.json()["words"].endswith(".")


def test_when_a_rider_passes_a_node(client_of, scene):
    client, nodes = client_of(scene.project.owner), scene.value().path("ring").nodes()
    frames = [
        client.get(f"/scenes/{scene.pk}/layers/fish/passed/{n.id}").json()["frame"] for n in nodes
    ]
    assert frames[0] == 0
    assert frames == sorted(frames)
    for layer, node in (("fish", "none"), ("box", nodes[0].id), ("none", nodes[0].id)):
        assert client.get(f"/scenes/{scene.pk}/layers/{layer}/passed/{node}").status_code == 404


def test_an_edit_that_is_sent_again_is_one_edit(post, scene):
    """Its answer was lost on the way, and the window cannot know whether it was heard."""
    for _ in range(2):
        assert post(form="add", what="text", base=0, key="k1").status_code == 200
    assert [r.key for r in scene.revisions.all()] == ["", "k1"]
    assert post(form="add", what="text", base=0, key="k2").status_code == 200
    assert scene.revisions.count() == 3


def test_an_undo_that_is_sent_again_takes_back_one_edit(post, client_of, anna, scene):
    for base in (0, 1, 2):
        post(form="add", what="text", base=base)
    send = client_of(anna).post
    for step, kept in (("undo", 2), ("redo", 3)):
        fields = {"base": scene.revisions.count() - 1, "key": f"the {step}"}
        for _ in range(2):
            assert send(reverse(step, args=[scene.pk]), fields).status_code == 200
            assert len(now(scene).layers) - len(scene.value().layers) == kept


def test_a_colour_that_is_set_keeps_how_opaque_it_was(post, scene):
    assert post(form="shape", layer="box", fill_alpha="25").status_code == 200
    assert post(form="shape", layer="box", fill="#112233").status_code == 200
    assert now(scene).layer("box").content.fill == "#11223340"
    assert (
        post(form="several", layers="box words", property="colour", value="#445566").status_code
        == 200
    )
    assert now(scene).layer("box").content.fill == "#44556640"
    assert now(scene).layer("words").content.colour == "#445566"
    assert post(form="shape", layer="box", fill_alpha="100").status_code == 200
    assert now(scene).layer("box").content.fill == "#445566"
