"""Why a layer is not seen: said exactly where nothing of it is."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from coaster.edits.unseen import reasons
from coaster.formats import pathdata
from coaster.geometry.path import Path
from coaster.motion import easing
from coaster.motion.keys import Key
from coaster.motion.ride import Ride
from coaster.motion.sampling import simple_pegs
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.render.raster import Painter
from coaster.scene.contents import Footage, Group, Inset, Picture, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.footage import FrameTimes
from coaster.scene.masks import Mask, MaskPart
from coaster.scene.properties import Track
from tests.core.test_masks import block, square

FRONT = block("front", "#e03020", 20, 20, 60, 40)


def kinds(scene: Scene, layer: str = "front", frame: int = 0) -> list[tuple[str, str]]:
    found = reasons(scene, layer, frame, lambda asset: asset == "whole.png")
    return [(reason.kind, reason.about) for reason in found]


def scene(*layers: Layer, **more) -> Scene:
    return Scene(160, 120, length=20, background="#406080", layers=layers, **more)


def placed(layer: Layer, **more) -> Layer:
    return replace(layer, transform=replace(layer.transform, **more))


IN_GROUP = replace(FRONT, parent="pod")
FILM = Footage("a.mp4", 60, 40, FrameTimes(30, ((10, 1),)))
POD = Layer("pod", "Pod", Group())
FADES = (Track("opacity", (Key("a", 0, 1.0), Key("b", 10, 0.0))),)
CASES = {
    "seen": (scene(FRONT), 0, []),
    "hidden": (scene(replace(FRONT, visible=False)), 0, [("hidden", "front")]),
    "a stencil": (scene(block("under", "#20c050", 0, 0, 9, 9), replace(FRONT, stencil="alpha")), 0, [("stencil", "front")]),
    "a guide": (scene(replace(FRONT, guide=True)), 0, [("guide", "front")]),
    "in a guide": (scene(IN_GROUP, replace(POD, guide=True)), 0, [("guide", "pod")]),
    "under a guide": (scene(FRONT, block("over", "#20c050", 10, 10, 80, 60, guide=True)), 0, []),
    "by its group": (scene(IN_GROUP, replace(POD, visible=False)), 0, [("hidden", "pod")]),
    "before its time": (scene(replace(FRONT, shown=(5, 9))), 4, [("time", "front")]),
    "in its time": (scene(replace(FRONT, shown=(5, 9))), 8, []),
    "after its group's": (scene(IN_GROUP, replace(POD, shown=(0, 9))), 9, [("time", "pod")]),
    "faded": (scene(replace(FRONT, keys=FADES)), 12, [("opacity", "front")]),
    "fading": (scene(replace(FRONT, keys=FADES)), 9, []),
    "faint and hidden": (scene(placed(replace(FRONT, visible=False), opacity=0.0)), 0,
                         [("hidden", "front"), ("opacity", "front")]),
    "no size": (scene(placed(FRONT, scale=(0.0, 1.0))), 0, [("size", "front")]),
    "no size of its group": (scene(IN_GROUP, placed(POD, scale=(0.0, 0.0))), 0, [("size", "pod")]),
    "no paint": (scene(replace(FRONT, content=Shape(fill=None))), 0, [("paint", "front")]),
    "nothing in it": (scene(replace(POD, id="front")), 0, [("empty", "front")]),
    "nothing shown in it": (scene(replace(IN_GROUP, id="in", parent="front", visible=False), replace(POD, id="front")),
                            0, [("empty", "front")]),
    "outside": (scene(placed(FRONT, position=(400.0, 20.0))), 0, [("outside", "front")]),
    "at the edge": (scene(placed(FRONT, position=(159.0, 20.0))), 0, []),
    "behind the viewer": (scene(placed(FRONT, z=-1000.0)), 0, [("behind", "front")]),
    "nearly there": (scene(placed(FRONT, position=(80.0, 60.0), z=-100.0)), 0, []),
    "by its edge": (scene(placed(FRONT, position=(80.0, 60.0), swing=90.0)), 0, [("edge", "front")]),
    "masked away": (scene(replace(FRONT, mask=Mask((MaskPart("w"),))), paths=(square("w", 100, 90, 20, 20),)), 0,
                    [("masked", "front")]),
    "masked the other way": (scene(replace(FRONT, mask=Mask((MaskPart("w"),), inverted=True)),
                                   paths=(square("w", 100, 90, 20, 20),)), 0, []),
    "covered": (scene(FRONT, block("over", "#20c050", 10, 10, 80, 60)), 0, [("covered", "front")]),
    "covered in part": (scene(FRONT, block("over", "#20c050", 30, 10, 80, 60)), 0, []),
    "covered thinly": (scene(FRONT, block("over", "#20c05080", 10, 10, 80, 60)), 0, []),
    "under a blend": (scene(FRONT, block("over", "#20c050", 10, 10, 80, 60, blend="multiply")), 0, []),
    "under a picture": (scene(FRONT, Layer("over", "Over", Picture("whole.png", 200, 200), Transform((80, 60)))), 0,
                        [("covered", "front")]),
    "under a cut-out": (scene(FRONT, Layer("over", "Over", Picture("holes.png", 200, 200), Transform((80, 60)))), 0, []),
    "over": (scene(replace(FRONT, content=replace(FILM, after="vanish"))), 12, [("over", "front")]),
    "held at its end": (scene(replace(FRONT, content=FILM)), 12, []),
    "of a scene that is gone": (scene(replace(FRONT, content=Inset("404", 60, 40, FILM.times))), 0, [("gone", "front")]),
    "over it": (scene(block("under", "#20c050", 10, 10, 80, 60), FRONT), 0, []),
}  # fmt: skip
"""What is looked at, in which frame, and what is said."""


@pytest.mark.parametrize(("shown", "frame", "wanted"), CASES.values(), ids=CASES)
def test_the_reasons_are_those_that_there_are(shown, frame, wanted):
    assert kinds(shown, frame=frame) == wanted


def test_a_rider_in_a_gap_it_passes_unseen():
    course = pathdata.subpaths(pathdata.runs("M20 20L60 20M110 90L140 90"))
    path = Path("p", "P", course)
    ride = Ride("p", simple_pegs(0, 19, 1, easing.EVEN), gap="hide")
    rider = Layer("front", "Front", Shape("rectangle", 10, 10), ride=ride)
    shown = scene(rider, paths=(path,))
    told = [kinds(shown, frame=frame) for frame in range(20)]
    assert [("gap", "front")] in told
    assert told[0] == told[-1] == []


@st.composite
def piles(draw):
    """Some rectangles with everything that may hide them."""
    layers, share = [], st.sampled_from([0.0, 0.5, 1.0, 1.0])
    for name in "abc":
        x, y = draw(st.integers(-60, 150)), draw(st.integers(-60, 110))
        mask = draw(st.sampled_from([None, Mask((MaskPart("w"),)), Mask((MaskPart("w"),), True)]))
        made = block(name, "#e03020", x, y, draw(st.integers(20, 160)), draw(st.integers(20, 130)),
                     visible=draw(st.sampled_from([True, True, False])), mask=mask)  # fmt: skip
        layers.append(placed(made, opacity=draw(share), turn=draw(st.sampled_from([0.0, 20.0]))))
    return scene(*layers, paths=(square("w", 60, 40, 50, 50),))


@given(piles())
@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_what_has_a_reason_leaves_no_trace_in_the_picture(pile):
    for layer in pile.layers:
        if kinds(pile, layer.id):
            # In another colour the picture is the same, as it is without the layer.
            other = pile.with_layer(replace(layer, content=replace(layer.content, fill="#20f0f0")))
            pictures = [
                Painter(program_of(Evaluation(x)), source=None).picture(0) for x in (pile, other)
            ]
            assert np.array_equal(*pictures)
