"""Paths over HTTP: each tool and menu item, what it changes, what it says, and what it refuses."""

import json
import math
from dataclasses import replace

import pytest
from django.urls import reverse

from coaster.geometry.measure import measure_of
from coaster.geometry.path import Node, Path, Subpath
from coaster.motion.ride import AtNode, AtPercent, Peg
from studio.demo.scenes import path as path_of
from studio.projects import services
from studio.projects.models import Scene
from tests.studio.conftest import done_and_undone, now, refused_in_words


def at(*places: tuple[float, float], **options) -> tuple[Node, ...]:
    return tuple(
        Node(f"n{i + 1}", (float(x), float(y)), **options) for i, (x, y) in enumerate(places)
    )


ZIGZAG = Path("zigzag", "Zigzag", (Subpath(at((0, 0), (30, 40), (60, 0), (90, 40))),))
TAIL = Path("tail", "Tail", (Subpath(at((95, 40), (150, 40))),))


@pytest.fixture
def value(value):
    """The ring has a fish whose pegs stand on its nodes; a zigzag and its tail are nobody's."""
    ride = value.ride_of("fish")
    pegs = tuple(Peg(f"p{i}", 8.0 * i, AtNode(n)) for i, n in enumerate(["n1", "n2", "n3"]))
    fish = replace(
        value.layer("fish"), ride=replace(ride, pegs=(*pegs, Peg("end", 24.0, AtPercent(100.0))))
    )
    return replace(value.with_layer(fish), paths=(*value.paths, ZIGZAG, TAIL))


@pytest.fixture
def scene(project, value) -> Scene:
    return services.create_scene(project.owner, project, "Shapes", value)


def form(name: str, path: str = "zigzag", **fields) -> dict[str, str]:
    return {"form": name, "path": path} | {k: str(v) for k, v in fields.items()}


def z(value, node: str) -> Node:
    return value.path("zigzag").node(node)


def length(value, path: str) -> float:
    return measure_of(value.path(path).subpaths, "jump")[0].length


def run(value, path: str = "zigzag") -> Subpath:
    return value.path(path).subpaths[0]


def ids(value, path: str = "zigzag") -> list[str]:
    return [n.id for n in value.path(path).nodes()]


def places(value, layer: str = "fish") -> list[object]:
    return [p.place for p in value.ride_of(layer).pegs]


WORKS = {
    "draw the first piece": (
        {"form": "draw", "from_x": 10, "from_y": 20, "from_hx": 5, "x": 70, "y": 30},
        lambda v: run(v, "path").nodes == (
            Node("n1", (10, 20), (-5, 0), (5, 0), "even"), Node("n2", (70, 30)))),
    "draw on": (form("draw", x=120, y=0, hx=6, hy=8, bx=-3, by=-4),
                lambda v: z(v, "n5") == Node("n5", (120, 0), (-3, -4), (6, 8), "smooth")),
    "draw on at the start": (form("draw", x=-20, y=0, hx=-6, hy=0, end="first"),
                             lambda v: (ids(v)[0], run(v).nodes[0].handle_out) == ("n5", (6, 0))),
    "close a drawing": (form("draw", close="true", hx=9, hy=0),
                        lambda v: run(v).closed and z(v, "n1").handle_in == (-9, 0)),
    "figure": ({"form": "figure", "kind": "ellipse", "left": 10, "top": 20, "width": 60, "height": 40},
               lambda v: run(v, "ellipse").nodes[0].position == (40, 20)),
    "star": ({"form": "figure", "kind": "star", "left": 0, "top": 0, "width": 60, "height": 40, "points": 7,
              "inner": 30},
             lambda v: len(v.path("star").nodes()) == 14),
    "starter": ({"form": "starter", "layer": "box"},
                lambda v: v.path(v.ride_of("box").path).nodes()[0].position == (80, 60)),
    "example": ({"form": "example"},
                lambda v: v.path(v.ride_of("rider").path).loops and v.ride_of("rider").end == v.length),
    "move": (form("node-move", nodes="n2 n3", dx=5, dy=-1.5),
             lambda v: (z(v, "n2").position, z(v, "n3").position) == ((35, 38.5), (65, -1.5))),
    "line up": (form("node-move", nodes="n1 n2", y=7), lambda v: z(v, "n1").position[1] == z(v, "n2").position[1] == 7),
    "handle": (form("handle", nodes="n2", side="out", hx=8, hy=6), lambda v: z(v, "n2").handle_out == (8, 6)),
    "handle by length and angle": (form("handle", nodes="n2", side="in", length=10, angle=90),
                                   lambda v: z(v, "n2").handle_in == pytest.approx((0, 10))),
    "smooth": (form("node-change", nodes="n2", to="smooth"),
               lambda v: z(v, "n2").kind == "smooth" and z(v, "n2").handle_out[0] > 0),
    "auto": (form("node-change", nodes="n1 n2 n3 n4", to="auto"),
             lambda v: all(n.kind == "auto" for n in run(v).nodes) and z(v, "n1").handle_out != (0, 0)),
    "corner": (form("node-change", "ring", nodes="n1", to="corner"),
               lambda v: v.path("ring").node("n1").handle_out == (0, 0)),
    "break": (form("node-change", "ring", nodes="n1", to="break"),
              lambda v: v.path("ring").node("n1").kind == "corner" and v.path("ring").node("n1").handle_out != (0, 0)),
    "lock": (form("node-change", nodes="n1", to="lock"), lambda v: z(v, "n1").locked),
    "disable": (form("node-change", nodes="n2", to="disable"), lambda v: length(v, "zigzag") == pytest.approx(110)),
    "disable under a peg": (form("node-change", "ring", nodes="n2", to="disable"),
                            lambda v: places(v)[0] == AtNode("n1") and 15 < places(v)[1].percent < 35),
    "weight": (form("node-weight", nodes="n2", weight=50),
               lambda v: (z(v, "n2").weight, z(v, "n2").kind) == (0.5, "auto")),
    "delete": (form("node-delete", nodes="n2"), lambda v: ids(v) == ["n1", "n3", "n4"]),
    "delete under a peg": (form("node-delete", "ring", nodes="n3"),
                           lambda v: isinstance(places(v)[2], AtPercent) and len(v.path("ring").nodes()) == 3),
    "insert by place": (form("node-insert", x=15, y=20.5), lambda v: ids(v) == ["n1", "n5", "n2", "n3", "n4"]),
    "insert by share": (form("node-insert", percent=50), lambda v: z(v, "n5").position == pytest.approx((45, 20))),
    "insert under a rider": (form("node-insert", "ring", layer="fish", frame=4),
                             lambda v: len(v.path("ring").nodes()) == 5),
    "land": (form("node-land", nodes="n4", layer="box"), lambda v: z(v, "n4").position == (80, 60)),
    "land on a rider": (form("node-land", nodes="n4", layer="fish", frame=0),
                        lambda v: z(v, "n4").position == pytest.approx((20, 60))),
    "start": (form("node-cut", "ring", nodes="n2", to="start"),
              lambda v: ids(v, "ring")[0] == "n2" and places(v)[1] != AtNode("n2")),
    "split": (form("node-cut", nodes="n2", to="split"),
              lambda v: [len(s.nodes) for s in v.path("zigzag").subpaths] == [2, 3]),
    "cut open": (form("node-cut", "ring", nodes="n1", to="split"), lambda v: not run(v, "ring").closed),
    "join ends": (form("node-cut", nodes="n1 n4", to="join"), lambda v: run(v).closed),
    "move it": (form("path-transform", dx=10, dy=5), lambda v: z(v, "n1").position == pytest.approx((10, 5))),
    "scale it": (form("path-transform", sx=200, sy=200), lambda v: length(v, "zigzag") == pytest.approx(300)),
    "flip it": (form("path-transform", sx=-100), lambda v: z(v, "n1").position == pytest.approx((90, 0))),
    "turn it": (form("path-transform", turn=90, pivot_x=0, pivot_y=0),
                lambda v: z(v, "n3").position == pytest.approx((0, 60))),
    "turn some": (form("path-transform", nodes="n2 n3", turn=180, pivot_x=45, pivot_y=20),
                  lambda v: z(v, "n2").position == pytest.approx((60, 0)) and z(v, "n1").position == (0, 0)),
    "reverse": (form("path-arrange", to="reverse"), lambda v: ids(v) == ["n4", "n3", "n2", "n1"]),
    "reverse under a rider": (form("path-arrange", "ring", to="reverse"),
                              lambda v: [p.percent for p in places(v)][1] == pytest.approx(25, abs=0.1)),
    "close": (form("path-arrange", to="close"), lambda v: run(v).closed),
    "open": (form("path-arrange", "ring", to="open"), lambda v: not run(v, "ring").closed),
    "smooth all": (form("path-arrange", to="smooth"), lambda v: [n.kind for n in run(v).nodes] == ["smooth"] * 4),
    "lighter": (form("path-lighter", tolerance=60), lambda v: len(ids(v)) == 2),
    "colour": (form("rail", colour="#123456"), lambda v: v.path("zigzag").colour == "#123456"),
    "lock it": (form("rail", locked="true"), lambda v: v.path("zigzag").locked),
    "strength": (form("rail", strength=150), lambda v: v.path("zigzag").strength == 1.5),
    "duplicate": (form("copy"), lambda v: len(v.path("zigzag-2").nodes()) == 4),
    "duplicate a rider": ({"form": "copy", "layer": "fish"}, lambda v: v.ride_of("fish-2") == v.ride_of("fish")),
    "unlink": ({"form": "copy", "layer": "fish", "unlink": "true"},
               lambda v: v.ride_of("fish").path == "ring-fish-s-own" and v.layer("line").content.path == "ring"),
    "join another": (form("path-join", other="tail"), lambda v: len(ids(v)) == 6 and len(v.paths) == 2),
    "paste": ({"form": "path-data", "data": "M0 0L10 10L20 0"}, lambda v: len(v.path("pasted-path").nodes()) == 3),
    "type the data": (form("path-data", data="M0 0h50"), lambda v: length(v, "zigzag") == 50),
    "remove those that nothing uses": ({"form": "paths-unused"}, lambda v: [p.id for p in v.paths] == ["ring"]),
    "outline": ({"form": "outline", "layer": "box"}, lambda v: length(v, "box") == pytest.approx(60)),
}  # fmt: skip


@pytest.mark.parametrize("name", WORKS)
def test_each_tool_does_what_it_says_and_is_undone_exactly(name, post, scene, value):
    done_and_undone(post, scene, value, *WORKS[name])


REFUSED = [
    ({"form": "draw", "from_x": 5, "from_y": 5, "x": 5, "y": 5}, "lies on the first"),
    ({"form": "draw", "from_x": 5, "x": 5, "y": 5}, "no place"),
    (form("draw", x=90, y=40), "lies on the last one"),
    (form("draw", "ring", x=5, y=5), "Ring is closed"),
    ({"form": "figure", "kind": "star", "left": 1, "top": 1, "width": 0, "height": 9}, "width and a height"),
    ({"form": "figure", "kind": "ellipse", "left": 999999, "top": 1, "width": 900, "height": 9}, "further out"),
    ({"form": "starter", "layer": "fish"}, "rides Ring already"),
    (form("node-move", nodes="n9", dx=1), "not there any more"),
    (form("node-move", nodes="n1", dx="nan"), "Moved across: “nan” is not a number."),
    (form("node-move", nodes="n1", dx="1e6", x="1e7"), "outside"),
    (form("node-delete", nodes="n1 n2 n3 n4"), "keeps at least two nodes; delete the whole path"),
    (form("node-insert", percent=0), "a node at that place already"),
    (form("node-insert"), "Click on the curve"),
    (form("node-land", "ring", nodes="n1", layer="fish"), "rides this path itself"),
    (form("node-cut", nodes="n1", to="join"), "the two ends"),
    (form("node-cut", nodes="n1", to="start"), "Only a closed path"),
    (form("path-transform", sx=0), "scaled to nothing"),
    (form("path-arrange", to="open"), "open already"),
    (form("path-join", other="ring"), "in use by"),
    (form("path-join", other="zigzag"), "not joined to itself"),
    ({"form": "path-data", "data": "M0 0L10 x"}, "character 9"),
    ({"form": "path-data", "data": "M0 0"}, "draws nothing"),
    ({"form": "outline", "layer": "words"}, "Words is not a shape"),
]  # fmt: skip


@pytest.mark.parametrize(("fields", "words"), REFUSED)
def test_what_makes_no_path_gets_one_sentence_and_changes_nothing(
    post, scene, value, fields, words
):
    refused_in_words(post, scene, value, fields, 422, words)


LOCKED_OUT = ["draw on", "move", "smooth", "delete", "insert by share", "move it", "reverse", "lighter", "strength",
              "join another", "type the data", "join ends", "land"]  # fmt: skip


@pytest.mark.parametrize("name", LOCKED_OUT)
def test_a_locked_path_is_shaped_by_nothing(name, post, scene):
    assert post(**form("rail", locked="true")).status_code == 200
    refused_in_words(post, scene, now(scene), WORKS[name][0], 422, "Zigzag is locked")


def test_locked_nodes_stay_where_they_are(post, scene):
    post(**form("node-change", nodes="n2", to="lock"))
    kept = now(scene)
    refused_in_words(post, scene, kept, form("node-move", nodes="n2", dx=5), 422, "locked")
    refused_in_words(post, scene, kept, form("node-delete", nodes="n2"), 422, "locked")
    head = said(post(**form("node-move", nodes="n2 n3", dx=5)))
    assert "1 locked node stayed" in head["notes"][0]
    assert (z(now(scene), "n2").position, z(now(scene), "n3").position) == ((30, 40), (65, 0))
    post(**form("node-change", nodes="n2", to="unlock"))
    assert not z(now(scene), "n2").locked


def said(answer) -> dict:
    size = int.from_bytes(answer.content[8:12], "little")
    return json.loads(answer.content[12 : 12 + size])


def test_what_it_costs_is_said_before_and_after(post, scene):
    looked = said(post("preview", **form("path-lighter", tolerance=60)))
    assert looked["notes"] == said(post(**form("path-lighter", tolerance=60)))["notes"]
    assert "4 nodes become 2" in looked["notes"][0]
    assert "All 2 nodes are needed" in said(post(**form("path-lighter", tolerance=1)))["notes"][0]
    assert said(post(**form("node-delete", "ring", nodes="n2")))["notes"][-1].startswith(
        "Pegs of Fish"
    )
    assert said(post(**form("draw", x=200, y=0)))["select"] == {"path": "zigzag"}


def test_a_drag_of_one_node_and_a_drag_of_another_do_not_clash(post, scene):
    assert post(base=0, **form("node-move", nodes="n1", dx=5)).status_code == 200
    assert post(base=0, **form("node-move", nodes="n4", dx=7)).status_code == 200
    assert post(base=0, **form("node-move", nodes="n1", dx=9)).status_code == 409
    assert [z(now(scene), n).position[0] for n in ("n1", "n4")] == [5, 97]


def test_deleting_a_path_keeps_its_riders_standing_and_says_so(post, scene):
    head = said(post(form="delete", path="ring", frame=0))
    assert "Fish stays where it was" in head["notes"][0]
    assert math.dist(now(scene).layer("fish").transform.position, (20, 60)) < 0.1


def test_a_path_goes_out_as_svg_and_comes_back_the_same(client_of, anna, post, scene, value):
    answer = client_of(anna).get(reverse("path-svg", args=[scene.pk, "ring"]))
    assert answer["Content-Type"] == "image/svg+xml"
    assert 'filename="Ring.svg"' in answer["Content-Disposition"]
    text = answer.content.decode()
    data = text.split(' d="')[1].split('"')[0]
    assert post(form="path-data", data=data).status_code == 200
    again = now(scene).path("pasted-path")
    for mine, theirs in zip(again.nodes(), value.path("ring").nodes(), strict=True):
        assert mine.position == pytest.approx(theirs.position)
    assert client_of(anna).get(reverse("path-svg", args=[scene.pk, "gone"])).status_code == 404


def test_a_path_of_thousands_of_nodes_is_offered_to_be_made_lighter(client_of, anna, post, scene):
    data = "M0 0" + "".join(f"L{i / 20:.2f} {20 * math.sin(i / 400):.3f}" for i in range(1, 3000))
    assert post(form="path-data", data=data).status_code == 200
    card = (
        client_of(anna)
        .get(reverse("card", args=[scene.pk]), {"path": "pasted-path"})
        .content.decode()
    )
    assert "3000 nodes" in card
    assert "lighter" in card
    assert post(**form("path-lighter", "pasted-path", tolerance=0.5)).status_code == 200
    assert len(now(scene).path("pasted-path").nodes()) < 100


def test_two_riders_that_end_on_each_other_are_told_of(client_of, anna, post, scene):
    post(form="attach", layer="box", path="zigzag")
    post(form="copy", layer="box")
    card = client_of(anna).get(reverse("card", args=[scene.pk]), {"layer": "box"}).content.decode()
    assert "ends where Box 2 ends" in card
    post(form="course", layer="box-2", offset="-10")
    card = client_of(anna).get(reverse("card", args=[scene.pk]), {"layer": "box"}).content.decode()
    assert "ends where" not in card


def test_the_ring_of_the_tests_has_four_nodes():
    assert len(path_of("ring", "Ring", "M20 60A40 40 0 0 1 100 60A40 40 0 0 1 20 60Z").nodes()) == 4
