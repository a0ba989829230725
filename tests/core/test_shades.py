"""Tints and images on the ground, px by px against what they should be."""

from dataclasses import replace

import numpy as np
import pytest
from PIL import Image
from scipy.special import erf

from coaster.commands import applied
from coaster.edits import several, shades
from coaster.edits.keys import Moment, clear_keys
from coaster.edits.layers import delete_layers
from coaster.errors import EditRefused
from coaster.geometry.path import Path
from coaster.media import found
from coaster.motion import easing
from coaster.motion.keys import Key
from coaster.motion.ride import Ride
from coaster.motion.sampling import simple_pegs
from coaster.motion.wakes import READY
from coaster.render import seam, stage, svg
from coaster.render.display import Push, program_of
from coaster.render.evaluate import Evaluation
from coaster.render.frames import Frames
from coaster.render.raster import Painter
from coaster.scene.contents import Group, Picture, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.masks import Mask, MaskPart
from coaster.scene.properties import Track
from coaster.scene.shades import Mirror, Tint
from tests.core.test_crowds import header_of
from tests.core.test_masks import square
from tests.core.test_render import RING, loop

LENGTH = 60
RED, BLUE = (255, 0, 0), (0, 0, 255)


def scene_of(*layers: Layer, paths=(RING,), **more) -> Scene:
    return Scene(240, 200, background="#ffffff", length=LENGTH, layers=layers, paths=paths, **more)


def box(name: str = "box", colour: str = "#40c080", **more) -> Layer:
    more = {"transform": Transform((120, 60))} | more
    return Layer(name, name.title(), Shape("rectangle", 40, 30, colour), **more)


def pixels(scene: Scene, frame: int = 0) -> np.ndarray:
    """Return red, green and blue of a frame, (h, w, 3)."""
    return Painter(program_of(Evaluation(scene)), None).picture(frame)[..., [2, 1, 0]].astype(int)


@pytest.mark.parametrize("amount", [0.0, 0.3, 1.0])
def test_a_tint_lies_over_all_that_is_seen_and_nothing_else(amount):
    scene = scene_of(box(tint=Tint(("#ff0000",), amount)))
    seen = pixels(scene)
    wanted = np.array([0x40, 0xC0, 0x80]) * (1 - amount) + np.array(RED) * amount
    assert seen[60, 120] == pytest.approx(wanted, abs=1)
    assert (seen[5, 5] == 255).all()


def test_by_brightness_it_is_as_much_darker():
    seen = pixels(scene_of(box(tint=Tint(("#808080",), 0.5, "brightness"))))[60, 120]
    factor = 0.5 + 0.5 * 128 / 255
    assert seen == pytest.approx(np.array([0x40, 0xC0, 0x80]) * factor, abs=2)


def test_colours_lie_along_the_path_and_come_round_on_a_closed_one():
    tint = Tint(("#ff0000", "#0000ff"))
    rider = box(ride=loop(RING.id, LENGTH), tint=tint)
    evaluation = Evaluation(scene_of(rider))
    rows = evaluation.motion("box").tint
    assert rows[[0, 30, 60]] == pytest.approx(
        np.array([[1, 0, 0, 1], [0, 0, 1, 1], [1, 0, 0, 1]]), abs=1e-6
    )
    assert seam.broken(evaluation) == []
    line = Path("line", "Line", (replace(RING.subpaths[0], closed=False),))
    ride = Ride("line", simple_pegs(0, LENGTH, 1, easing.EVEN))
    (found,) = seam.report(Evaluation(scene_of(replace(rider, ride=ride), paths=(line,))))
    assert found.colour > 200
    still = Evaluation(scene_of(box(tint=tint))).motion("box")
    assert still.still
    assert len(still.tint) == 1


def test_colours_of_a_tint_have_keys():
    going = Track("tint_2", (Key("a", 0, "#0000ff"), Key("b", 30, "#00ff00")))
    tint = Tint(("#ff0000", "#0000ff"))
    rider = box(ride=loop(RING.id, LENGTH), tint=tint, keys=(going,))
    scene = scene_of(rider)
    rows = Evaluation(scene).motion("box").tint
    # Half way round the second colour is all that is seen.
    assert rows[30] == pytest.approx([0, 1, 0, 1], abs=1e-6)
    assert rows[0] == pytest.approx([1, 0, 0, 1], abs=1e-6)
    still = replace(rider, ride=None, keys=(replace(going, property="tint_1"),))
    alone = Evaluation(scene_of(still)).motion("box").tint
    assert alone[[0, 30, 60]] == pytest.approx(
        np.array([[0, 0, 1, 1], [0, 1, 0, 1], [0, 1, 0, 1]]), abs=1e-6
    )
    # Between its keys a colour is set at one of them, or with Pin.
    with pytest.raises(EditRefused, match="go to one of them"):
        shades.recoloured(scene, "box", 1, "#ffffff", Moment(10))
    pinned = applied(
        scene, shades.recoloured(scene, "box", 1, "#ffffff", Moment(10, True)).commands
    )
    assert [key.value for key in pinned.layer("box").keys_of("tint_2")][1] == "#ffffff"
    assert pinned.layer("box").tint == tint
    # Keys go by their number.
    with pytest.raises(EditRefused, match="has keys"):
        shades.recoloured(scene, "box", 0, None, Moment())
    cleared = applied(scene, clear_keys(scene, "box", "tint_2", 30).commands)
    assert cleared.layer("box").tint.colours == ("#ff0000", "#00ff00")
    (note,) = shades.without_tint(scene, "box").notes
    assert "rest until it is tinted again" in note
    # How opaque it is stays, unless it is said.
    faint = scene_of(box(tint=Tint(("#ff000080",))))
    redone = applied(faint, shades.recoloured(faint, "box", 0, "#00ff00", Moment()).commands)
    assert redone.layer("box").tint.colours == ("#00ff0080",)
    assert shades.with_colour(("#ff000080",), 0, "#00ff00", 2) == ("#00ff0080",)
    # A key for a colour that is not there rests.
    fewer = scene_of(replace(rider, tint=Tint(("#ff0000",))))
    assert Evaluation(fewer).motion("box").tint[0] == pytest.approx([1, 0, 0, 1], abs=1e-6)


def test_a_tints_own_alpha_counts_and_a_stencil_has_no_image():
    half = Evaluation(scene_of(box(tint=Tint(("#ff000080",), 0.5)))).motion("box").tint
    assert half[0, 3] == pytest.approx(0.5 * 128 / 255)
    mirror = Mirror(floor=90)
    masks = box("top", stencil="alpha", mirror=mirror)
    steps = program_of(Evaluation(scene_of(box(), masks))).steps
    assert not any(step.name.endswith(".mirror") for step in steps)


def test_groups_wakes_and_files_are_tinted_as_well():
    member = box("inner", parent="pod", transform=Transform((20, 20)))
    pod = Layer("pod", "Pod", Group(), Transform((100, 40)), tint=Tint(("#0000ff",)))
    seen = pixels(scene_of(member, pod))
    assert (seen[60, 120] == BLUE).all()
    left = box(ride=loop(RING.id, LENGTH), wake=READY["echoes"], tint=Tint(("#ff0000",)))
    picture = pixels(scene_of(left), 30)
    coloured = picture[(picture < 250).any(axis=-1)]
    assert len(coloured) > 500
    assert (coloured[:, 0] > 250).all()
    program = program_of(Evaluation(scene_of(box(tint=Tint(("#ff0000",), 0.5)))))
    text = svg.file(program, 0, lambda *_: "")
    assert 'flood-color="#ff0000"' in text
    assert 'filter="url(#tint-box)"' in text


def test_a_reflection_is_the_layer_upside_down_below_the_floor():
    mirror = Mirror(floor=90, strength=1.0)
    turned = box(transform=Transform((120, 60), turn=25.0))
    with_it = pixels(scene_of(replace(turned, mirror=mirror)))
    alone = pixels(scene_of(turned))
    assert (with_it[:90] == alone[:90]).all()
    # Row 90 + k shows row 89 - k.
    off = np.abs(with_it[90:150] - alone[30:90][::-1])
    assert off.mean() < 0.2
    assert (off.max(axis=-1) > 60).sum() == 0
    faint = pixels(scene_of(box(mirror=replace(mirror, strength=0.25))))
    assert faint[120, 120] == pytest.approx(
        255 - 0.25 * (255 - np.array([0x40, 0xC0, 0x80])), abs=2
    )


def test_it_fades_with_the_height_leans_and_is_black_as_a_shadow():
    def strength(y: float) -> float:
        layer = box(transform=Transform((120, y)), mirror=Mirror(floor=100, strength=0.8, fade=50))
        (push,) = (s for s in program_of(Evaluation(scene_of(layer))).steps if isinstance(s, Push))
        return push.strength(0)

    assert [strength(y) for y in (100, 75, 50, 20)] == pytest.approx([0.8, 0.4, 0, 0])
    shadow = Mirror("shadow", floor=90, height=0.5, lean=1.0, strength=1.0)
    seen = pixels(scene_of(box(mirror=shadow)))
    # 30 px above the floor it is 15 px below, and 30 to the right.
    assert (seen[105, 150] == 0).all()
    assert (seen[105, 120] == 255).all()


def test_its_edges_are_as_soft_as_they_are_said_to_be():
    cast = Mirror("shadow", floor=75, height=1.0, strength=1.0, soft=12.0)
    whole = scene_of(box(colour="#000000", mirror=cast))
    # The box is 40 wide about x = 120 and 30 high: its edges are integrals of a Gaussian of 6 px.
    xs = np.arange(80, 160) + 0.5
    across = (erf((xs - 100) / 6 / 2**0.5) - erf((xs - 140) / 6 / 2**0.5)) / 2
    wanted = across * erf(15 / 6 / 2**0.5)
    seen = 1 - pixels(whole)[90, 80:160, 0] / 255
    np.testing.assert_allclose(seen, wanted, atol=0.03)
    program = program_of(Evaluation(whole))
    twice = Painter(program, None, scale=2.0).picture(0)[180, 161:320:2, 0]
    np.testing.assert_allclose(1 - twice / 255, wanted, atol=0.04)
    assert '<feGaussianBlur stdDeviation="6"/>' in svg.file(program, 0, lambda *_: "")


def test_its_mask_and_its_ride_go_along():
    window = square("w", 100, 50, 20, 20)
    masked = box(mask=Mask((MaskPart("w"),)), mirror=Mirror(floor=90, strength=1.0))
    seen = pixels(scene_of(masked, paths=(RING, window)))
    assert (seen[121, 110] < 250).any()
    assert (seen[121, 130] == 255).all()
    rider = box(ride=loop(RING.id, LENGTH), mirror=Mirror(floor=190))
    evaluation = Evaluation(scene_of(rider))
    spots = evaluation.spots_of(evaluation.motion("box"))
    steps = program_of(evaluation).steps
    image = steps[1].maps
    middle = image[:, 4:] + image[:, :2] * 20 + image[:, 2:4] * 15
    assert middle == pytest.approx(np.stack([spots[:, 0], 380 - spots[:, 1]], axis=1), abs=1e-9)


def test_the_stage_is_told_both():
    layer = box(ride=loop(RING.id, LENGTH), mirror=Mirror(floor=190), tint=Tint(("#ff0000",)))
    told = header_of(stage.pack(scene_of(layer)))["layers"][0]
    assert [step["kind"] for step in told["mirror"]] == ["push", "item", "pop"]
    assert told["mirror"][0]["image"]
    assert told["tint"][1] == 4
    assert header_of(stage.pack(scene_of(box())))["layers"][0]["mirror"] == []


def test_the_plans_set_change_and_take_away():
    scene = scene_of(box())
    scene = applied(scene, shades.set_mirror(scene, "box", {"kind": "reflection"}).commands)
    assert scene.layer("box").mirror == Mirror(floor=75.0)
    scene = applied(scene, shades.set_mirror(scene, "box", {"strength": 0.5}).commands)
    scene = applied(scene, shades.set_tint(scene, "box", {"by": "brightness"}).commands)
    scene = applied(scene, shades.recoloured(scene, "box", 1, "#00ff00", Moment()).commands)
    assert len(scene.layer("box").tint.colours) == 2
    scene = applied(scene, shades.recoloured(scene, "box", 0, None, Moment()).commands)
    assert scene.layer("box").tint.colours == ("#00ff00",)
    for refused, words in (
        (lambda: shades.recoloured(scene, "box", 0, None, Moment()), "take the tint away"),
        (lambda: shades.recoloured(scene, "box", 5, "#ffffff", Moment()), "1 to 6"),
        (lambda: shades.set_tint(scene, "box", {"amount": 2.0}), "Tint of Box"),
        (lambda: shades.set_mirror(scene, "box", {"height": 50.0}), "on the ground"),
    ):
        with pytest.raises(EditRefused, match=words):
            refused()
    scene = applied(scene, shades.without_tint(scene, "box").commands)
    scene = applied(scene, shades.without_mirror(scene, "box").commands)
    assert scene.layer("box") == box()


def test_the_amount_of_a_tint_goes_by_its_keys():
    keys = (Track("tinting", (Key("a", 0, 0.2), Key("b", 10, 0.8))),)
    scene = scene_of(box(tint=Tint(("#ff0000",), 0.3), keys=keys))
    over = Evaluation(scene).motion("box").tint
    assert over[[0, 5, 10, 20], 3] == pytest.approx([0.2, 0.5, 0.8, 0.8])
    assert np.allclose(over[:, :3], [1.0, 0.0, 0.0])
    assert header_of(stage.pack(scene))["layers"][0]["tint"][1] == 4 * (LENGTH + 1)
    cleared = applied(scene, clear_keys(scene, "box", "tinting", 5.0).commands).layer("box")
    assert cleared.tint.amount == pytest.approx(0.5)
    # Between its keys all of them change; with a pin there is one more.
    for pin, count in ((False, 2), (True, 3)):
        edit = several.set_all(scene, ["box"], "tinting", 0.6, "set", Moment(5.0, pin))
        changed = applied(scene, edit.commands)
        assert len(changed.layer("box").keys_of("tinting")) == count
        assert Evaluation(changed).motion("box").tint[5, 3] == pytest.approx(0.6)
    with pytest.raises(EditRefused, match="Tint amount of Box would be"):
        several.set_all(scene, ["box"], "tinting", 3.0, "add", Moment(5.0))


def upside_down(seen: np.ndarray) -> float:
    """Return the share of px below the floor that are not those above it, but for soft edges."""
    off = np.abs(seen[100:180] - seen[20:100][::-1]).max(axis=-1)
    return float((off > 2).mean())


def test_a_group_is_mirrored_with_all_that_it_holds():
    """Against the picture itself, upside down below the floor."""
    pod = Layer("pod", "Pod", Group(), Transform((10, 20)), mirror=Mirror(floor=100, strength=1.0))
    inner = box("inner", parent="pod", transform=Transform((100, 40), turn=20))
    other = box("other", "#802040", parent="pod", transform=Transform((70, 50), opacity=0.6))
    scene = scene_of(inner, other, pod)
    seen = pixels(scene)
    assert upside_down(seen) < 0.01
    assert (seen[100:180] < 250).any()
    faint = pixels(scene.with_layer(replace(pod, transform=replace(pod.transform, opacity=0.5))))
    assert upside_down(faint) < 0.01
    below = applied(scene, shades.without_mirror(scene, "pod").commands)
    assert (pixels(below)[100:] == 255).all()


@pytest.fixture
def sea(tmp_path, monkeypatch) -> str:
    """A picture that is red on the left, blue on the right, and clear below, where it is found."""
    monkeypatch.setattr(found, "_finders", [])
    monkeypatch.setattr(found, "_found", {})
    px = np.zeros((40, 80, 4), np.uint8)
    px[:, :40], px[:, 40:] = (*RED, 255), (*BLUE, 255)
    px[30:] = 0
    Image.fromarray(px).save(tmp_path / "sea.png")
    found.look_in(tmp_path)
    return "sea.png"


def over_sea(sea: str, **tint) -> Scene:
    """A box that rides round, over a picture twice its size: from 20 to 180 px, 40 to 120 down."""
    ground = Layer("sea", "Sea", Picture(sea, 80, 40), Transform((100, 80), scale=(2.0, 2.0)))
    over = Tint(("#00ff00",), under="sea", **tint)
    return scene_of(ground, box(ride=loop(RING.id, LENGTH), tint=over))


def test_its_colour_is_that_of_the_picture_it_passes_over(sea):
    scene = over_sea(sea)
    rows = Evaluation(scene).motion("box").tint
    # It begins at the left of the ring, is at the top at a quarter, and over nothing below.
    assert rows[0] == pytest.approx([1, 0, 0, 1], abs=0.01)
    assert rows[29] == pytest.approx([0, 0, 1, 1], abs=0.01)
    assert rows[15, [0, 2]].sum() == pytest.approx(1, abs=0.01)
    assert rows[45, 3] == 0
    assert rows[0] == pytest.approx(rows[LENGTH])
    at = Evaluation(scene).motions_of(scene.layers[1:], Frames.one(29))[0]
    assert at.tint == pytest.approx(rows[29:30])
    dark = Evaluation(over_sea(sea, by="brightness", amount=0.5)).motion("box").tint
    assert dark[0] == pytest.approx([0, 0, 0, 0.5 * (1 - 0.2126)], abs=0.01)


def test_a_picture_that_moves_turns_or_goes_takes_its_colours_along(sea):
    scene = over_sea(sea)
    turned = replace(scene.layers[0].transform, turn=180.0)
    upside = scene.with_layer(replace(scene.layers[0], transform=turned))
    assert Evaluation(upside).motion("box").tint[0] == pytest.approx([0, 0, 1, 1], abs=0.01)
    gone = applied(scene, delete_layers(scene, ["sea"]).commands)
    assert gone.layer("box").tint.under is None
    lost = scene.with_layer(replace(scene.layers[0], content=Picture("other.png", 80, 40)))
    assert not Evaluation(lost).motion("box").tint.any()


def test_two_that_take_each_others_colours_are_no_ring(sea):
    scene = over_sea(sea)
    under = replace(scene.layers[0], tint=Tint(("#ffffff",), under="box"), carrier=None)
    assert Evaluation(scene.with_layer(under)).motion("box").tint[0, 0] == pytest.approx(
        1, abs=0.01
    )


def test_the_plan_takes_a_pictures_colours_and_no_other_layers(sea):
    scene = over_sea(sea)
    off = applied(scene, shades.set_tint(scene, "box", {"under": None}).commands)
    assert off.layer("box").tint.colours == ("#00ff00",)
    on = applied(off, shades.set_tint(off, "box", {"under": "sea"}).commands)
    assert on == scene
    with pytest.raises(EditRefused, match="is not a picture"):
        shades.set_tint(scene, "box", {"under": "box"})
