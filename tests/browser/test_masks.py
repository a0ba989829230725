"""Masks and blends with the hands, and as the stage, the renderer and SVG draw them."""

import json
from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.motion.copies import Copies
from coaster.motion.letters import Letters
from coaster.motion.rate import Rate
from coaster.motion.ride import AtPercent, Facing, Peg, Ride
from coaster.motion.wakes import Wake
from coaster.render import svg
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.scene import codec
from coaster.scene.carriers import Carrier
from coaster.scene.contents import CAPS, JOINS, SIDES, Group, Line, Shape, Text
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.gradients import FORMS, Gradient
from coaster.scene.masks import BLENDS, STENCILS, Mask, MaskPart
from coaster.scene.shades import Mirror, Tint
from tests.browser.driver import (
    Stage,
    find,
    kept,
    keys,
    open_editor,
    said,
    tab,
    typed,
    until_done,
    wait,
)
from tests.browser.pictures import as_svg, difference, on_stage, rendered
from tests.core.test_masks import block, square
from tests.core.test_render import loop


def choose(browser, selector: str, value: str) -> None:
    Select(find(browser, selector)).select_by_value(value)
    kept(browser)


def all_of_it() -> Scene:
    """Every blend, and masks that add, take, meet, are grown, shrunk, soft, inverted and weak."""
    paths, layers = [], [block("sky", "#3060a0", 0, 0, 640, 360)]
    for i, blend in enumerate(BLENDS):
        x, y = 10 + 78 * (i % 8), 10 + 90 * (i // 8)
        layers.append(block(f"b{i}", "#f0a030", x, y, 60, 70, blend=blend))
    looks = (
        {"feather": 14.0}, {"grow": 9.0}, {"grow": -9.0, "feather": 6.0}, {"inverted": True, "feather": 8.0},
        {"strength": 0.6}, {"inverted": True, "strength": 0.7},
    )  # fmt: skip
    for i, look in enumerate(looks):
        x, y = 10.0 + 104 * i, 200.0
        a = square(f"a{i}", x + 10, y + 10, 60, 50)
        others = (square(f"t{i}", x + 40, y + 40, 40, 60), square(f"m{i}", x, y, 75, 80))
        hows = zip((a, *others), ("add", "take", "meet"), strict=True)
        paths += (a, *others)
        parts = tuple(MaskPart(path.id, how) for path, how in hows)
        layers.append(block(f"m{i}", "#e03020", x, y, 96, 120, mask=Mask(parts, **look)))
    members = [block(f"g{i}", "#20c050", 20 + 300 * i, 330, 200, 20, parent="pod") for i in (0, 1)]
    for i, (by, inverted) in enumerate(product(STENCILS, (False, True))):
        x = 40.0 + 150 * i
        layers.append(block(f"below{i}", "#f4f0e8", x, 140, 100, 50, blend="multiply"))
        stencil = Shape("ellipse", 90, 60, "#c0e04090" if i % 2 else "#e0e0f0")
        layers.append(Layer(f"stencil{i}", "S", stencil, Transform((x + 60, 165)), stencil=by,
                            stencil_inverted=inverted))  # fmt: skip
    paths.append(square("window", 60, 320, 400, 25, parent="pod"))
    pod = Layer("pod", "Pod", Group(), Transform((30, 5), opacity=0.7), blend="screen",
                mask=Mask((MaskPart("window"),), feather=10))  # fmt: skip
    return Scene(640, 360, length=4, background="#f4f0e8", layers=(*layers, *members, pod), paths=tuple(paths))  # fmt: skip


def all_strokes() -> Scene:
    """Strokes with every end and corner, dashed from elsewhere on, and an outline behind letters."""
    figures = ("rectangle", "star", "polygon", "ellipse")
    layers = [block("sky", "#3060a0", 0, 0, 640, 360)]
    for i, (cap, join) in enumerate(product(CAPS, JOINS)):
        place = Transform((50.0 + 100 * (i % 6), 70.0 + 120 * (i // 6)), turn=7.0 * i)
        dash = (23.0, 17.0) if i % 2 else None
        look = Shape(figures[i % 4], 60, 50, "#f0a030", "#101820", 9.0, cap=cap, join=join, dash=dash,
                     dash_offset=11.0 * i - 30)  # fmt: skip
        layers.append(Layer(f"s{i}", f"S{i}", look, place))
    words = Text("Ebb and flow", size=60.0, colour="#ffffff", stroke="#e03020", stroke_width=7.0,
                 tracking=0.1)  # fmt: skip
    layers.append(Layer("words", "Words", words, Transform((320, 310))))
    return Scene(640, 360, length=4, layers=tuple(layers))


def all_paints() -> Scene:
    """Gradients that are turned, slanted and see-through, strokes on each side, filled paths,
    texts that run both ways, and what goes with something else.
    """
    stops = ("#e03020", "#f0f04080", "#2040e0"), (0.1, 0.5, 0.95)
    forms = [Gradient(form, *ends, *stops) for form in FORMS for ends in (((0, 0), (1, 1)), ((0.4, 0.4), (0.9, 0.2)))]  # fmt: skip
    layers = [block("sky", "#e8eef4", 0, 0, 640, 360)]
    for i, gradient in enumerate(forms):
        place = Transform(
            (60.0 + 80 * i, 60.0), scale=(1.0, 0.8), turn=25.0 * i, skew=20.0 * (i - 1)
        )
        layers.append(
            Layer(
                f"g{i}",
                f"G{i}",
                Shape("rectangle", 60, 70, gradient=gradient, radius=9.0 * i),
                place,
            )
        )
    for i, (side, figure) in enumerate(product(SIDES, ("star", "ellipse"))):
        look = Shape(
            figure,
            70,
            60,
            "#f0a030c0",
            "#101820",
            8.0,
            side=side,
            join="miter",
            dash=(21.0, 9.0) if i % 2 else None,
        )
        # Some are drawn apart, in a box that has to hold all of the stroke.
        blend = "multiply" if i in (2, 4) else "normal"
        layers.append(
            Layer(f"s{i}", f"S{i}", look, Transform((60.0 + 100 * i, 160.0), skew=-12), blend=blend)
        )
    fill = Line("pool", "#101820", 4, fill="#ffffff", gradient=forms[1])
    layers.append(Layer("fill", "Fill", fill))
    words = Text(
        "Ebb \u05e9\u05dc\u05d5\u05dd 12 \u0645\u0631\u062d\u0628\u0627",
        "Figtree",
        500,
        44,
        italic=True,
        gradient=forms[0],
    )
    layers.append(Layer("words", "Words", words, Transform((420, 300), turn=-6)))
    rest = Shape("polygon", 40, 40, "#20a060", points=3)
    layers.append(
        Layer("led", "Led", rest, Transform((90, 20)), carrier=Carrier("g1", turn=True, scale=True))
    )
    return Scene(
        640, 360, length=4, layers=tuple(layers), paths=(square("pool", 40, 230, 160, 90),)
    )


def all_copies() -> Scene:
    """Copies that shrink, turn, fade and stray, of a masked rider and of one of another kind."""
    course = "M80 180A240 130 0 0 1 560 180A240 130 0 0 1 80 180Z"
    ring = Path("ring", "Ring", pathdata.subpaths(pathdata.runs(course)))
    ride = loop(ring.id, 4)
    many = Copies(12, scale=0.93, turn=11, opacity=0.9, stray=0.6, seed=3)
    near = Copies(5, "apart", apart=45, later=0.5)
    box = Shape("rectangle", 90, 40, "#f0a030", stroke="#204060", stroke_width=3.0)
    star = Shape("star", 60, 60, "#e03020")
    layers = (
        block("sky", "#3060a0", 0, 0, 640, 360),
        Layer("a", "A", box, ride=replace(ride, copies=many), mask=Mask((MaskPart("w"),))),
        Layer("b", "B", star, ride=replace(ride, copies=near), blend="screen"),
    )
    return Scene(640, 360, length=4, layers=layers, paths=(ring, square("w", 60, 40, 520, 200)))


def all_left() -> Scene:
    """What a rider leaves: a tail that thins and fades over a gap, a line so far, particles."""
    course = "M40 60C260 60 180 300 300 300M380 300C520 300 420 60 600 60L600 200"
    way = Path("way", "Way", pathdata.subpaths(pathdata.runs(course)))
    ride = Ride(way.id, (Peg("a", -3, AtPercent(0)), Peg("b", 4, AtPercent(100))))
    led = Carrier("rider")
    tail = Line(way.id, "#f0a030", 40, trail=640, thin=(0, 1), fade=0.1, cap="butt")
    brush = Line(way.id, "#40e0a080", 24, begin=0.5, end=0.95, thin=(0, 0.1), join="miter")
    star = Shape("star", 26, 26, "#fff4c2", stroke="#e03020", stroke_width=2.0)
    wake = Wake(40, 1.5, 160, 0, 300, lift=60, drag=0.6, spin=200, itself=True, seed=5)
    rider = Layer("rider", "Rider", Shape("ellipse", 30, 30, "#e03020"), ride=ride)
    layers = (
        block("sky", "#3060a0", 0, 0, 640, 360),
        Layer("brush", "Brush", brush),
        Layer("tail", "Tail", tail, carrier=led),
        Layer("line", "Line", Line(way.id, "#ffffff", 6, (14, 12)), carrier=led),
        Layer("stars", "Stars", star, Transform((10, 20)), wake=wake, carrier=led, blend="screen"),
        rider,
    )
    return Scene(640, 360, Rate(2), length=5, layers=layers, paths=(way,))


def all_letters() -> Scene:
    """Texts by letter and by word, with a gradient and an edge, on a path that is too short."""
    course = "M40 220C160 -60 300 420 420 180S560 60 620 260"
    way = Path("way", "Way", pathdata.subpaths(pathdata.runs(course)))
    pegs = (Peg("a", 0, AtPercent(45)),)
    warm = Gradient("linear", (0.0, 0.5), (1.0, 0.5), ("#e03020", "#f0c040"))
    big = Text("Wave by wave\nand on", size=64, gradient=warm, stroke="#204060", stroke_width=3.0)
    small = Text("word by word it reads", "Figtree", 500, 30, "#ffffff")
    by_letter = Ride(way.id, pegs, letters=Letters(), beyond="hide")
    by_word = Ride(way.id, pegs, Facing("reversed"), letters=Letters("word", squeeze=True))
    layers = (
        block("sky", "#3060a0", 0, 0, 640, 360),
        Layer("big", "Big", big, Transform(anchor=(0.6, 0.4)), by_letter, blend="screen"),
        Layer("small", "Small", small, Transform(anchor=(0.5, 2.4)), by_word),
    )
    return Scene(640, 360, length=4, layers=layers, paths=(way,))


def all_shades() -> Scene:
    """Tints, of a group and along a path as well, and what stands for layers on the ground."""
    course = "M60 120A120 60 0 0 1 300 120A120 60 0 0 1 60 120Z"
    ring = Path("ring", "Ring", pathdata.subpaths(pathdata.runs(course)))
    ride = replace(loop(ring.id, 4), offset=30.0)
    star = Shape("star", 70, 70, "#fff4c2", stroke="#204060", stroke_width=4.0)
    along = Tint(("#e03020", "#20a0e0"), 0.7)
    pool = Mirror(floor=210, strength=0.5, fade=300, soft=9.0)
    cast = Mirror("shadow", floor=230, height=0.4, lean=0.6, strength=0.5, soft=16.0)
    masked = Mask((MaskPart("w"),), feather=3.0)
    layers = (
        block("sky", "#3060a0", 0, 0, 640, 360),
        Layer("rider", "Rider", star, ride=ride, tint=along, mirror=pool),
        Layer(
            "post",
            "Post",
            Shape("rectangle", 30, 120, "#f0a030"),
            Transform((420, 170)),
            mirror=cast,
        ),
        Layer(
            "cut",
            "Cut",
            star,
            Transform((540, 150)),
            mask=masked,
            mirror=pool,
            tint=Tint(("#101010",), 0.5, "brightness"),
        ),
        block("a", "#ffffff", 560, 20, 40, 40, parent="pod"),
        block("b", "#80ff80", 580, 30, 40, 40, parent="pod"),
        Layer("pod", "Pod", Group(), tint=Tint(("#e03020",), 0.5)),
    )
    return Scene(640, 360, length=4, layers=layers, paths=(ring, square("w", 510, 120, 40, 60)))


def all_crowds() -> Scene:
    """More of a wake and of copies than are drawn one by one."""
    course = "M60 180C60 20 580 20 580 180S60 340 60 180Z"
    way = Path("way", "Way", pathdata.subpaths(pathdata.runs(course)))
    ride = loop(way.id, 4)
    wake = Wake(160, 1.5, 220, 0, 360, drag=0.6, spin=200, seed=5)
    star = Shape("star", 26, 26, "#fff4c2", stroke="#e03020", stroke_width=2.0)
    copies = Copies(40, turn=11, stray=0.6, seed=3)
    layers = (
        block("sky", "#3060a0", 0, 0, 640, 360),
        Layer("stars", "Stars", star, wake=wake, carrier=Carrier("discs")),
        Layer(
            "discs", "Discs", Shape("ellipse", 30, 24, "#f0a030"), ride=replace(ride, copies=copies)
        ),
    )
    return Scene(640, 360, Rate(2), length=4, layers=layers, paths=(way,))


SCENES = {
    "shades": all_shades,
    "crowds": all_crowds,
    "copies": all_copies,
    "letters": all_letters,
    "left": all_left,
    "masks": all_of_it,
    "strokes": all_strokes,
    "paints": all_paints,
}


LOOSE = {"crowds": 5}
"""Scenes of many edges that lie on other px of the pictures that are laid: so many times as far
off."""


@pytest.mark.parametrize("name", list(SCENES))
def test_stage_renderer_and_svg_show_the_same(browser, studio, name):
    scene, loose = SCENES[name](), LOOSE.get(name, 1)
    drawn = studio.opened(json.dumps(codec.to_data(scene)))
    open_editor(browser, studio.editor(drawn))
    keys_of_nothing(browser)
    # A px of the scene is one of the window: edges lie where they lie in the others.
    keys(browser, "0")
    wait(browser, lambda d: find(d, ".frame").rect["width"] == scene.width, "not at 100 %")
    seen, plain = on_stage(browser), rendered(studio, drawn, 0, scene.width)
    assert seen.shape == plain.shape
    assert difference(seen, plain) < 0.3 * loose
    # Soft edges are blurred by other means; nothing else differs.
    off = np.abs(seen[..., :3].astype(int) - plain[..., :3]).max(axis=2)
    assert np.mean(off > 12 * loose) < 0.002 * loose
    program = program_of(Evaluation(scene))
    text = svg.file(program, 0, lambda name, index: "")
    assert difference(as_svg(browser, text, (640, 360)), plain) < 0.5 * loose


def test_a_layer_is_masked_shaped_softened_and_freed_again(browser, studio):
    scene = studio.copy_of(1)
    open_editor(browser, studio.editor(scene))
    stage = Stage(browser)
    find(browser, "[data-choose='layer:manta']").click()
    tab(browser, "look")
    before = on_stage(browser)
    choose(browser, "#mask-add", "new rectangle")
    assert studio.layer(scene, "manta")["mask"]["parts"][0]["how"] == "add"
    # The new path is round it: nothing is hidden yet, but for the ghosts that are beside it.
    mask = studio.document(scene)["paths"][-1]
    assert mask["name"] == "Mask of Manta"
    find(browser, f"#card [data-choose='path:{mask['id']}']").click()
    find(browser, "#card [data-card=path]")
    corner = mask["subpaths"][0]["nodes"][0]["position"]
    far = mask["subpaths"][0]["nodes"][2]["position"]
    middle = [(a + b) / 2 for a, b in zip(corner, far, strict=True)]
    stage.drag(tuple(corner), tuple(middle))
    kept(browser)
    cut = on_stage(browser)
    width = cut.shape[1]
    assert difference(before, cut) > 0.2
    find(browser, "[data-choose='layer:manta']").click()
    tab(browser, "look")
    typed(find(browser, "#card [name=feather]"), "40")
    kept(browser)
    find(browser, "#card [name=inverted]").find_element(By.XPATH, "..").click()
    kept(browser)
    choose(browser, "#blend", "multiply")
    layer = studio.layer(scene, "manta")
    assert (layer["mask"]["feather"], layer["mask"]["inverted"], layer["blend"]) == (40, True, "multiply")  # fmt: skip
    find(browser, "#stage").click()
    keys_of_nothing(browser)
    assert difference(on_stage(browser), rendered(studio, scene, 0, width)) < 3
    find(browser, "[data-choose='layer:manta']").click()
    tab(browser, "look")
    find(browser, "#card [aria-label='Take Mask of Manta out of the mask']").click()
    said(browser, "Manta is seen whole again.")
    kept(browser)
    assert studio.layer(scene, "manta")["mask"] is None


def keys_of_nothing(browser) -> None:
    """Choose nothing, so that no ghosts are drawn."""
    find(browser, "[data-choose='scene:']").click()


def test_what_is_masked_away_is_not_picked(browser, studio):
    scene = studio.opened(json.dumps(codec.to_data(windowed())))
    open_editor(browser, studio.editor(scene))
    stage = Stage(browser)
    stage.drag((200, 150))
    wait(browser, lambda d: find(d, "#card [data-card]").get_attribute("data-id") == "back")
    stage.drag((400, 150))
    wait(browser, lambda d: find(d, "#card [data-card]").get_attribute("data-id") == "front")


def test_before_a_path_goes_that_masks_it_is_asked_with_what_will_be_seen(browser, studio):
    scene = studio.opened(json.dumps(codec.to_data(windowed())))
    open_editor(browser, studio.editor(scene))
    before = on_stage(browser)
    find(browser, "#shelf [data-choose='path:w']").click()
    keys(browser, Keys.DELETE)
    asked = find(browser, "#asking")
    wait(browser, lambda d: "It masks Front" in asked.text)
    wait(browser, lambda d: difference(on_stage(d), before) > 1)
    shows = on_stage(browser)
    keys(browser, Keys.ESCAPE)
    wait(browser, lambda d: not asked.is_displayed())
    wait(browser, lambda d: difference(on_stage(d), before) < 0.1)
    assert studio.layer(scene, "front")["mask"] is not None
    keys(browser, Keys.DELETE)
    wait(browser, lambda d: asked.is_displayed())
    find(browser, "#asking [data-ask=yes]").click()
    until_done(browser)
    assert studio.document(scene)["paths"] == []
    wait(browser, lambda d: difference(on_stage(d), shows) < 0.1)


def windowed() -> Scene:
    """A layer that is seen in the right half alone, over another."""
    back = Layer("back", "Back", Shape("rectangle", 500, 250, "#20c050"), Transform((320, 180)))
    front = Layer("front", "Front", Shape("rectangle", 500, 250, "#e03020"), Transform((320, 180)),
                  mask=Mask((MaskPart("w"),)))  # fmt: skip
    return Scene(640, 360, length=4, layers=(back, front), paths=(square("w", 320, 0, 320, 360),))
