"""Crowds: many that look the same, drawn at once, against each of them drawn by itself."""

import json
import struct
from dataclasses import replace

import numpy as np
import pytest

from coaster.export.drawers import planned
from coaster.export.orders import order_for
from coaster.geometry import affine
from coaster.motion.copies import Copies
from coaster.motion.keys import Key
from coaster.motion.wakes import MOST_ALIVE, READY, Wake
from coaster.render import raster, stage, svg
from coaster.render.display import Crowd, program_of
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.render.kernel import lay, parted
from coaster.render.raster import Painter
from coaster.scene.carriers import Carrier
from coaster.scene.contents import Group, Picture, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import Track
from tests.core.test_render import RING, loop

LENGTH = 60
SPRAY = replace(READY["dust"], rate=150, life=0.9)


class Drawn:
    """A picture with a clear corner and a soft edge."""

    def __init__(self) -> None:
        ys, xs = np.mgrid[0:24, 0:32]
        alpha = np.clip((xs + ys - 6) * 20, 0, 255)
        self.px = np.stack([alpha // 2, alpha // 3, alpha, alpha], axis=-1).astype(np.uint8)

    def pixels(self, asset: str, index: int) -> np.ndarray:
        return self.px

    def is_opaque(self, asset: str) -> bool:
        return False


def scene_of(content, wake: Wake | None, **more) -> Scene:
    mother = Layer("mother", "Mother", Shape(width=8, height=8), ride=loop(RING.id, LENGTH))
    left = Layer("left", "Left", content, wake=wake, carrier=Carrier("mother", turn=True), **more)
    layers = (left, mother)
    return Scene(240, 200, background="#204060", length=LENGTH, layers=layers, paths=(RING,))


def copied(content, count: int = 60) -> Scene:
    ride = replace(loop(RING.id, LENGTH), copies=Copies(count, turn=20.0, opacity=0.98, stray=0.5))
    layer = Layer("one", "One", content, Transform((0, 0)), ride=ride)
    return Scene(240, 200, background="#204060", length=LENGTH, layers=(layer,), paths=(RING,))


def pictures(monkeypatch, scene: Scene, frames=(0, 31), scale: float = 2.0) -> list[np.ndarray]:
    """Return frames as a crowd and one by one, (2, n, h, w, 4)."""
    found = []
    for few in (0, 10**6):
        monkeypatch.setattr(raster, "FEW", few)
        monkeypatch.setattr(raster, "FEW_ROWS", 10**9)
        painter = Painter(program_of(Evaluation(scene)), Drawn(), scale)
        found.append([painter.picture(frame).astype(int) for frame in frames])
    return np.array(found)


DISC = Shape("ellipse", 12, 12, "#ff8000", stroke="#ffffff", stroke_width=2)


@pytest.mark.parametrize(
    "scene",
    [
        scene_of(DISC, SPRAY),
        scene_of(Picture("a.png", 16, 12), SPRAY),
        scene_of(Shape("star", 9, 9), SPRAY),
        copied(DISC),
        copied(Picture("a.png", 16, 12)),
    ],
    ids=["discs", "pictures", "stars", "copied discs", "copied pictures"],
)
def test_a_crowd_looks_as_each_of_it_drawn_by_itself(monkeypatch, scene):
    crowd, alone = pictures(monkeypatch, scene)
    off = np.abs(crowd - alone)
    assert alone.std() > 5
    if isinstance(scene.layers[0].content, Picture):
        # The other way knows places to a thirty-second of a px only.
        assert off.max() <= 32
        assert off.mean() < 0.2
    else:
        # Edges lie on other px of the picture that is laid.
        assert off.mean() < 1
        assert (off.max(axis=-1) > 64).mean() < 0.004


def test_what_is_large_is_drawn_by_itself_and_a_turned_group_takes_all_along(monkeypatch):
    large = scene_of(Shape("ellipse", 400, 400, "#ff8000"), SPRAY)
    small = scene_of(DISC, SPRAY)
    pod = Layer("pod", "Pod", Group(), Transform((20, 10), turn=25.0, opacity=0.5))
    left, mother = small.layers
    turned = replace(small, layers=(replace(left, parent="pod"), pod, mother))
    for scene in (large, turned):
        crowd, alone = pictures(monkeypatch, scene)
        assert alone.std() > 5
        assert np.abs(crowd - alone).mean() < 1


def test_each_px_is_mixed_of_the_four_round_it_and_laid_over():
    """Against the same in floating point."""
    rng = np.random.default_rng(3)
    alpha = rng.integers(0, 256, (10, 14))
    alpha[[0, -1]] = alpha[:, [0, -1]] = 0
    px = np.stack([alpha * s // 4 for s in (1, 2, 3, 4)], axis=-1).astype(np.uint8)
    ground = np.full((40, 50, 4), (90, 60, 30, 255), np.uint8)
    found = affine.chain(
        [affine.translation(24, 18), affine.rotation(0.7), affine.scaling(1.8, 1.3),
         affine.translation(-7, -5)]
    )  # fmt: skip
    into = ground.copy()
    words = into.view(np.uint32)[..., 0]
    sheet = parted(np.ascontiguousarray(px).view(np.uint32)[..., 0])
    lay(words, sheet, np.array([[0, 0, 14, 10]]), found[None], np.array([0.75]))

    ys, xs = np.mgrid[0:40, 0:50] + 0.5
    u, v = np.moveaxis(
        affine.apply_each(affine.inverse(found)[None], np.stack([xs, ys], -1).reshape(-1, 2))[0],
        -1,
        0,
    )
    u, v = u - 0.5, v - 0.5
    inside = (u > 0) & (u < 13) & (v > 0) & (v < 9)
    x, y = np.clip(u, 0, 12).astype(int), np.clip(v, 0, 8).astype(int)
    fx, fy = (u - x)[:, None], (v - y)[:, None]
    there = (
        (px[y, x] * (1 - fx) + px[y, x + 1] * fx) * (1 - fy)
        + (px[y + 1, x] * (1 - fx) + px[y + 1, x + 1] * fx) * fy
    ) * 0.75 * inside[:, None]  # fmt: skip
    flat = ground.reshape(-1, 4)
    wanted = there + flat * (1 - there[:, 3:] / 255)
    off = np.abs(into.reshape(-1, 4) - wanted)
    assert inside.sum() > 200
    assert off.max() <= 3
    assert off.mean() < 0.6


def test_a_crowd_out_of_sight_is_drawn_nowhere_in_what_is_drawn_apart(monkeypatch):
    monkeypatch.setattr(raster, "FEW", 0)
    left, mother = scene_of(DISC, SPRAY).layers
    away = replace(mother, ride=None, transform=Transform((9_000, 9_000)))
    box = Layer("box", "Box", Shape(width=20, height=20), Transform((100, 100)), parent="pod")
    pod = Layer("pod", "Pod", Group(), blend="multiply")
    layers = (replace(left, parent="pod"), box, pod, away)
    far = replace(scene_of(DISC, SPRAY), layers=layers)
    picture = Painter(program_of(Evaluation(far)), Drawn()).picture(20)
    assert (picture[5, 5, :3] == (0x60, 0x40, 0x20)).all()
    assert (picture[100, 100, :3] != (0x60, 0x40, 0x20)).any()


def test_any_frame_is_the_same_from_anywhere_and_the_loop_is_exact(monkeypatch):
    monkeypatch.setattr(raster, "FEW", 0)
    scene = scene_of(DISC, SPRAY)
    painter = Painter(program_of(Evaluation(scene)), Drawn())
    assert (painter.picture(0) == painter.picture(LENGTH)).all()
    played = [painter.picture(frame) for frame in (29, 30)][1]
    alone = Painter(program_of(Evaluation(scene), at=Frames.one(30)), Drawn())
    assert (alone.picture(0) == played).all()


def test_keys_of_its_colour_are_those_of_all(monkeypatch):
    track = Track("colour", (Key("a", 0, "#ff0000"), Key("b", 30, "#0000ff")))
    scene = scene_of(Shape("ellipse", 12, 12, "#ff0000"), SPRAY, keys=(track,))
    crowd, alone = pictures(monkeypatch, scene, frames=(0, 15, 30))
    assert np.abs(crowd - alone).mean() < 1
    assert crowd[0, ..., 2].max() > crowd[2, ..., 2].max() + 100


def test_a_blurred_crowd_is_the_mean_of_sharp_ones(monkeypatch, tmp_path):
    monkeypatch.setattr(raster, "FEW", 0)
    scene = scene_of(DISC, replace(SPRAY, speed=300))
    order = order_for(scene, shutter=180.0)
    plan = order.plan(scene)
    assert plan is not None
    assert len(plan.moments) >= 2 * LENGTH
    blurred = planned(scene, tmp_path, 1.0, plan)
    surface = raster.Surface(np.empty((200, 240, 4), np.uint8))
    found = blurred.painted(20, surface).astype(float)
    sharp = Painter(program_of(Evaluation(scene), at=Frames(plan.moments)), None)
    mean = np.mean([sharp.picture(row).astype(float) for row in plan.rows(20)], axis=0)
    assert np.abs(found - mean).mean() < 0.6


def test_files_and_the_stage_have_each_of_it_up_to_a_number(monkeypatch):
    scene = scene_of(DISC, SPRAY)
    program = program_of(Evaluation(scene))
    (crowd,) = (step for step in program.steps if isinstance(step, Crowd))
    count = len(crowd.items(20))
    assert count > 80
    assert svg.file(program, 20, lambda *_: "").count("<g") >= count
    told = header_of(stage.pack(scene))["layers"][0]["crowd"]
    assert told["lanes"] == crowd.many.lanes
    assert told["maps"][1] == 6 * told["opacities"][1] == 6 * told["lanes"] * (LENGTH + 1)
    monkeypatch.setattr(stage, "MOST_ON_STAGE", 50)
    fewer = header_of(stage.pack(scene))["layers"][0]["crowd"]
    assert 25 < fewer["lanes"] <= 50
    one = stage.pack(scene, scene, glance=stage.Glance(20, "mother"))
    assert header_of(one)["layers"][0].get("same")


def header_of(data: bytes) -> dict:
    (size,) = struct.unpack("<I", data[8:12])
    return json.loads(data[12 : 12 + size])


def test_as_many_as_may_be_alive_are_drawn():
    wake = Wake(MOST_ALIVE / 1.3 - 3, 1.0, 200, 0, 360)
    scene = scene_of(Shape("ellipse", 4, 4, "#ff8000"), wake)
    painter = Painter(program_of(Evaluation(scene)), Drawn())
    assert len(np.unique(painter.picture(30)[..., 2])) > 50


def looking(**more) -> Scene:
    """A layer that leaves shapes like itself, stars and pictures."""
    scene = scene_of(DISC, replace(SPRAY, looks=("star", "photo"), **more))
    star = Layer("star", "Star", Shape("star", 30, 30, "#ffd040"), Transform(scale=(0.5, 0.5)))
    photo = Layer("photo", "Photo", Picture("a.png", 32, 24), Transform(anchor=(0.0, 1.0)))
    beside = (replace(star, visible=False), replace(photo, visible=False))
    return replace(scene, layers=(*beside, *scene.layers))


@pytest.mark.parametrize("colours", [(), ("#ffffff", "#ff0000", "#0000ff80")])
def test_of_several_looks_each_is_drawn_as_by_itself(monkeypatch, colours):
    scene = looking(colours=colours, sizes=(0.5, 2, 1), strengths=(1.0, 0.4, 1.0))
    crowd, alone = pictures(monkeypatch, scene)
    assert np.abs(crowd - alone).mean() < 1.0
    plain, _ = pictures(monkeypatch, scene_of(DISC, SPRAY))
    assert np.abs(plain - crowd).mean() > 1
    # As in any wake, the loop is exact, and what stands in files is as much.
    (first, last), strengths, kinds = lanes = crowd_in(scene).at(np.array([0, LENGTH]))
    assert np.array_equal(first, last)
    assert np.array_equal(kinds[0], kinds[1])
    assert set(np.unique(kinds[strengths > 0] // crowd_in(scene).steps)) == {0, 1, 2}
    assert len(lanes.every(2).maps[0]) == -(-len(first) // 2)


def crowd_in(scene: Scene) -> Crowd:
    return next(x for x in program_of(Evaluation(scene)).steps if isinstance(x, Crowd))


def test_each_look_has_its_own_size_and_its_anchor_where_it_was_left():
    crowd = crowd_in(looking())
    (found,), _, (kinds,) = crowd.at(np.array([30]))
    plain = crowd_in(scene_of(DISC, SPRAY))
    (wanted,), _, _ = plain.at(np.array([30]))
    for kind, size in ((0, 1.0), (1, 0.5), (2, 1.0)):
        own = kinds == kind
        assert own.any()
        factor = np.hypot(*found[own, :2].T) / np.hypot(*wanted[own, :2].T)
        assert factor == pytest.approx(size)
        # The picture's is its lower left corner.
        at = np.array([0.0, 24.0]) if kind == 2 else middle_of(crowd.looks[kind])
        here = [affine.apply(row, at) for row in found[own]]
        there = [affine.apply(row, middle_of(plain.faces.first)) for row in wanted[own]]
        assert np.allclose(here, there)


def middle_of(face) -> np.ndarray:
    left, top, width, height = face.box
    return np.array([left + width / 2, top + height / 2])


def test_its_colours_go_through_theirs_as_strong_as_its_own_are():
    crowd = crowd_in(
        scene_of(
            Shape("ellipse", 12, 12, "#ff800080"), replace(SPRAY, colours=("#000000", "#ffffff"))
        )
    )
    fills = [face.outlines[0].fill for face in crowd.looks]
    assert len(fills) == crowd.steps
    assert fills == sorted(fills)
    assert {fill[7:] for fill in fills} == {"80"}


def test_the_stage_is_told_which_look_each_has():
    scene = looking(colours=("#ffffff", "#ff0000"))
    told = next(x for x in header_of(stage.pack(scene))["layers"] if x["id"] == "left")["crowd"]
    assert len(told["looks"]) == 3 * crowd_in(scene).steps
    assert told["which"]
