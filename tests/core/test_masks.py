"""Blends, masks and groups of the document, against a compositing of its own from the CSS
definitions.
"""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter

from coaster.geometry.path import Node, Path, Subpath
from coaster.media.pictures import straight_rgba
from coaster.motion.keys import Key
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.render.raster import Painter, Surface
from coaster.render.seam import report
from coaster.scene.contents import Group, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.masks import BLENDS, Mask, MaskPart
from coaster.scene.properties import Track

W, H = 160, 120
GROUND = "#406080"


def square(name: str, x: float, y: float, w: float, h: float, *, parent: str | None = None) -> Path:
    corners = ((x, y), (x + w, y), (x + w, y + h), (x, y + h))
    nodes = tuple(Node(f"n{i}", at) for i, at in enumerate(corners))
    return Path(name, name, (Subpath(nodes, closed=True),), parent=parent)


def block(name: str, colour: str, x: float, y: float, w: float, h: float, **more) -> Layer:
    shape = Shape("rectangle", w, h, colour)
    return Layer(name, name, shape, Transform((x, y), anchor=(0.0, 0.0)), **more)


def scene(*layers: Layer, paths: tuple[Path, ...] = (), length: int = 4) -> Scene:
    return Scene(W, H, length=length, background=GROUND, layers=layers, paths=paths)


def pixels(of: Scene, frame: int = 0) -> np.ndarray:
    return straight_rgba(Painter(program_of(Evaluation(of)), source=None).picture(frame)) / 255


# What follows composes pictures by the formulas of CSS Compositing and Blending Level 1.


def rgb(colour: str) -> np.ndarray:
    return np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255


def area(x: float, y: float, w: float, h: float) -> np.ndarray:
    """The coverage of a rectangle of whole px."""
    found = np.zeros((H, W))
    found[int(y) : int(y + h), int(x) : int(x + w)] = 1
    return found


def lum(c: np.ndarray) -> np.ndarray:
    return (c @ np.array([0.3, 0.59, 0.11]))[..., None]


def clip_colour(c: np.ndarray) -> np.ndarray:
    grey, low, high = lum(c), c.min(-1, keepdims=True), c.max(-1, keepdims=True)
    c = np.where(low < 0, grey + (c - grey) * grey / np.maximum(grey - low, 1e-12), c)
    return np.where(high > 1, grey + (c - grey) * (1 - grey) / np.maximum(high - grey, 1e-12), c)


def set_lum(c: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    return clip_colour(c + wanted - lum(c))


def sat(c: np.ndarray) -> np.ndarray:
    return c.max(-1, keepdims=True) - c.min(-1, keepdims=True)


def set_sat(c: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    # The middle one keeps its share between the least and the most: all three by one line.
    spread = sat(c)
    return np.where(
        spread > 0, (c - c.min(-1, keepdims=True)) * wanted / np.maximum(spread, 1e-12), 0
    )


def dodge(b: np.ndarray, s: np.ndarray) -> np.ndarray:
    return np.where(b == 0, 0, np.where(s == 1, 1, np.minimum(1, b / np.maximum(1 - s, 1e-12))))


def burn(b: np.ndarray, s: np.ndarray) -> np.ndarray:
    return np.where(
        b == 1, 1, np.where(s == 0, 0, 1 - np.minimum(1, (1 - b) / np.maximum(s, 1e-12)))
    )


def hard(b: np.ndarray, s: np.ndarray) -> np.ndarray:
    return np.where(s <= 0.5, 2 * b * s, b + 2 * s - 1 - b * (2 * s - 1))


def soft(b: np.ndarray, s: np.ndarray) -> np.ndarray:
    d = np.where(b <= 0.25, ((16 * b - 12) * b + 4) * b, np.sqrt(b))
    return np.where(s <= 0.5, b - (1 - 2 * s) * b * (1 - b), b + (2 * s - 1) * (d - b))


FORMULAS = {
    "normal": lambda b, s: s,
    "multiply": lambda b, s: b * s,
    "screen": lambda b, s: b + s - b * s,
    "overlay": lambda b, s: hard(s, b),
    "darken": np.minimum,
    "lighten": np.maximum,
    "color-dodge": dodge,
    "color-burn": burn,
    "hard-light": hard,
    "soft-light": soft,
    "difference": lambda b, s: abs(b - s),
    "exclusion": lambda b, s: b + s - 2 * b * s,
    "hue": lambda b, s: set_lum(set_sat(s, sat(b)), lum(b)),
    "saturation": lambda b, s: set_lum(set_sat(b, sat(s)), lum(b)),
    "color": lambda b, s: set_lum(s, lum(b)),
    "luminosity": lambda b, s: set_lum(b, lum(s)),
}


class Sheet:
    """Straight colour and alpha, (H, W, 3) and (H, W)."""

    def __init__(self, colour: np.ndarray | None = None) -> None:
        self.colour = np.zeros((H, W, 3)) + (0 if colour is None else colour)
        self.alpha = np.zeros((H, W)) + (colour is not None)

    def lay(self, colour: np.ndarray, alpha: np.ndarray, blend: str = "normal") -> "Sheet":
        """Lay a colour (3,) or (H, W, 3) on: section 5.9, simple alpha compositing of the blend."""
        over = np.broadcast_to(colour, (H, W, 3))
        a, b = alpha[..., None], self.alpha[..., None]
        mixed = (1 - b) * over + b * FORMULAS[blend](self.colour, over)
        out = a + b * (1 - a)
        self.colour = np.where(
            out > 0, (a * mixed + (1 - a) * b * self.colour) / np.maximum(out, 1e-12), 0
        )
        self.alpha = out[..., 0]
        return self


def near(found: np.ndarray, wanted: Sheet, levels: float = 2.0) -> None:
    assert np.abs(found[..., :3] - wanted.colour).max() * 255 <= levels + 0.01
    assert np.abs(found[..., 3] - wanted.alpha).max() * 255 <= levels + 0.01


@pytest.mark.parametrize("blend", BLENDS)
@given(
    st.integers(0, 0xFFFFFF),
    st.sampled_from(["#20c050", "#e03020", "#f0f0f0", "#101018"]),
    st.sampled_from([1.0, 0.6]),
)
@settings(max_examples=12, deadline=None)
def test_a_layer_blends_as_css_says(blend, number, under, opacity):
    colour = f"#{number:06x}"
    back = block("under", under, 20, 20, 80, 60)
    top = block("top", colour, 60, 40, 80, 70, blend=blend)
    top = replace(top, transform=replace(top.transform, opacity=opacity))
    wanted = Sheet(rgb(GROUND)).lay(rgb(under), area(20, 20, 80, 60))
    wanted.lay(rgb(colour), opacity * area(60, 40, 80, 70), blend)
    near(pixels(scene(back, top)), wanted)


A, B, C = (30, 20, 60, 50), (50, 40, 80, 60), (60, 30, 40, 70)


def cover_by_hand(mask: Mask) -> np.ndarray:
    """What is seen through a mask of squares, 0..1, from its words."""
    places, found = {"a": A, "b": B, "c": C}, np.zeros((H, W))
    for part in mask.parts:
        inside = area(*places[part.path])
        if part.how == "add":
            found = found + inside - found * inside
        else:
            found = found * (inside if part.how == "meet" else 1 - inside)
    if mask.feather:
        # The picture goes on beyond the frame: what is outside there is nothing, as the squares end.
        found = gaussian_filter(found, mask.feather / 2, mode="constant", truncate=6)
    found = 1 - found if mask.inverted else found
    return 1 - mask.strength * (1 - found)


parts = st.lists(
    st.tuples(st.sampled_from("abc"), st.sampled_from(["add", "take", "meet"])),
    min_size=1,
    max_size=3,
    unique_by=lambda part: part[0],
)


@given(parts, st.booleans(), st.sampled_from([0.0, 9.0, 24.0]), st.sampled_from([1.0, 0.7, 0.0]))
@settings(max_examples=60, deadline=None)
def test_a_mask_shows_what_it_says(chosen, inverted, feather, strength):
    mask = Mask(
        tuple(MaskPart(*part) for part in chosen),
        inverted=inverted,
        feather=feather,
        strength=strength,
    )
    paths = tuple(square(n, *at) for n, at in (("a", A), ("b", B), ("c", C)))
    top = block("top", "#e03020", 10, 10, 140, 100, mask=mask)
    wanted = Sheet(rgb(GROUND)).lay(rgb("#e03020"), area(10, 10, 140, 100) * cover_by_hand(mask))
    near(pixels(scene(top, paths=paths)), wanted)


def test_a_masked_group_blends_as_one_and_its_mask_goes_with_it():
    """Two squares in a group that is masked by a path of its own, faint, and multiplied."""
    group = Layer(
        "g", "g", Group(), Transform((20, 10), opacity=0.8), blend="multiply",
        mask=Mask((MaskPart("p"),), feather=8),
    )  # fmt: skip
    one, two = (block(n, c, x, 20, 50, 60, parent="g") for n, c, x in (("1", "#e03020", 10), ("2", "#20c050", 40)))  # fmt: skip
    shown = scene(one, two, group, paths=(square("p", 20, 30, 60, 40, parent="g"),))
    inside = (
        Sheet().lay(rgb("#e03020"), area(30, 30, 50, 60)).lay(rgb("#20c050"), area(60, 30, 50, 60))
    )
    seen = gaussian_filter(area(40, 40, 60, 40), 4, mode="constant", truncate=6)
    wanted = Sheet(rgb(GROUND)).lay(inside.colour, 0.8 * seen * inside.alpha, "multiply")
    near(pixels(shown), wanted)


def test_what_blends_in_an_isolated_group_leaves_what_is_behind_it_alone():
    member = block("m", "#ffffff", 20, 20, 60, 60, blend="difference", parent="g")
    for isolated in (False, True):
        group = Layer("g", "g", Group(), Transform((0, 0)), isolated=isolated)
        blend = "normal" if isolated else "difference"
        wanted = Sheet(rgb(GROUND)).lay(rgb("#ffffff"), area(20, 20, 60, 60), blend)
        near(pixels(scene(member, group)), wanted)


def test_an_edge_that_is_grown_or_shrunk_moves_by_its_px():
    for grow, (x, y, w, h) in ((10, (20, 10, 80, 70)), (-10, (40, 30, 40, 30))):
        mask = Mask((MaskPart("a"),), grow=grow)
        found = pixels(
            scene(block("t", "#ffffff", 0, 0, W, H, mask=mask), paths=(square("a", *A),))
        )
        inside = (found[..., 0] - rgb(GROUND)[0]) / (1 - rgb(GROUND)[0])
        # The corners of what is grown are round.
        lost = (4 - np.pi) * grow**2 if grow > 0 else 0
        assert inside.sum() == pytest.approx(w * h - lost, abs=12)
        assert inside[y + 12 : y + h - 12, x : x + w].min() > 0.99
        assert max(inside[:, : x - 1].max(), inside[: y - 1].max()) < 0.01


def test_keys_move_a_mask_and_only_what_moved_is_drawn_anew():
    tracks = tuple(
        Track(name, (Key("k1", 0, a), Key("k2", 4, b)))
        for name, a, b in (("grow", -5.0, 12.0), ("feather", 0.0, 20.0), ("masking", 1.0, 0.5))
    )
    mask = Mask((MaskPart("a"), MaskPart("b", "take")))
    top = block("t", "#e03020", 0, 0, W, H, mask=mask, keys=tracks)
    shown = scene(block("u", "#20c050", 30, 30, 60, 60), top, paths=(square("a", *A), square("b", *B)))  # fmt: skip
    program = program_of(Evaluation(shown))
    painter, surface = Painter(program, source=None), Surface(np.empty((H, W, 4), np.uint8))
    seen = []
    for frame in (0, 3, 1, 4, 0):
        painter.repaint(frame, surface)
        assert np.array_equal(surface.pixels, Painter(program, source=None).picture(frame))
        seen.append(surface.pixels.copy())
    assert np.array_equal(seen[0], seen[4])
    assert not np.array_equal(seen[0], seen[3])


def test_where_a_strength_comes_to_full_nothing_is_left_of_what_is_masked_away():
    track = Track("masking", (Key("a", 0, 1.0), Key("b", 4, 0.5)))
    top = block("t", "#e03020", 0, 0, W, H, mask=Mask((MaskPart("a"),)), keys=(track,))
    shown = scene(top, paths=(square("a", *A),))
    for frame, strength in ((0, 1.0), (2, 0.75)):
        seen = 1 - strength * (1 - area(*A))
        near(pixels(shown, frame), Sheet(rgb(GROUND)).lay(rgb("#e03020"), seen))


def test_a_mask_may_lie_in_a_group_that_is_masked_by_what_lies_in_its_member():
    """Where things are does not depend on where they are seen, so no circle can come of masks."""
    inner = Layer("in", "in", Group(), Transform((5, 5)), parent="out", mask=Mask((MaskPart("p"),)))
    outer = Layer("out", "out", Group(), Transform((10, 0)), mask=Mask((MaskPart("p"),)))
    member = block("m", "#ffffff", 0, 0, W, H, parent="in")
    found = pixels(scene(member, inner, outer, paths=(square("p", *A, parent="in"),)))
    x, y, w, h = A
    wanted = Sheet(rgb(GROUND)).lay(rgb("#ffffff"), area(x + 15, y + 5, w, h))
    near(found, wanted)


def test_masks_that_lead_nowhere_are_refused():
    with pytest.raises(ValueError, match="masked by a path 'gone' that is not there"):
        scene(block("t", "#ffffff", 0, 0, 9, 9, mask=Mask((MaskPart("gone"),))))
    with pytest.raises(ValueError, match="each of its paths once"):
        Mask((MaskPart("a"), MaskPart("a", "take")))


def test_a_guide_is_in_no_picture_and_in_no_seam():
    base = block("u", "#20c050", 30, 30, 60, 60)
    guide = block("g", "#e03020", 0, 0, W, H, guide=True, keys=(Track("opacity", (Key("a", 0, 1.0), Key("b", 3, 0.2))),))  # fmt: skip
    assert np.array_equal(pixels(scene(base, guide)), pixels(scene(base)))
    assert [each.layer_id for each in report(Evaluation(scene(base, guide)))] == []
    shown = program_of(Evaluation(scene(base, guide)), guides=True)
    assert [step.name for step in shown.steps] == ["u", "g"]


def brightness(colour: str) -> float:
    return float(rgb(colour) @ np.array([0.2126, 0.7152, 0.0722]))


@pytest.mark.parametrize("by", ["alpha", "brightness"])
@pytest.mark.parametrize("inverted", [False, True])
@pytest.mark.parametrize("opacity", [1.0, 0.6])
def test_a_stencil_shows_the_layer_right_below_it_where_it_is(by, inverted, opacity):
    under = block("under", "#20c050", 0, 0, W, H)
    below = block("below", "#e03020", 10, 10, 100, 80)
    top = block("top", "#d0e040", 40, 30, 100, 80, stencil=by, stencil_inverted=inverted)
    top = replace(top, transform=replace(top.transform, opacity=opacity))
    over = block("over", "#ffffff", 0, 0, 20, 20)
    seen = opacity * area(40, 30, 100, 80) * (brightness("#d0e040") if by == "brightness" else 1)
    seen = 1 - seen if inverted else seen
    wanted = Sheet(rgb(GROUND)).lay(rgb("#20c050"), area(0, 0, W, H))
    wanted.lay(rgb("#e03020"), area(10, 10, 100, 80) * seen).lay(rgb("#ffffff"), area(0, 0, 20, 20))
    near(pixels(scene(under, below, top, over)), wanted)


def test_stencils_mask_groups_may_be_groups_and_go_with_the_faint():
    """A faint group is seen through a group of two squares, and through one more square."""
    members = [block(f"m{i}", c, x, 10, 50, 90, parent="pod") for i, c, x in ((0, "#e03020", 10), (1, "#ffffff", 50))]  # fmt: skip
    pod = Layer("pod", "Pod", Group(), Transform((0, 0), opacity=0.5))
    holes = [
        block(f"h{i}", "#000000", 20, y, 100, 20, parent="holes") for i, y in ((0, 20), (1, 60))
    ]
    group = Layer("holes", "Holes", Group(), Transform((0, 0)), stencil="alpha")
    one = block("one", "#000000", 60, 0, 90, 110, stencil="alpha", stencil_inverted=True)
    inside = Sheet().lay(rgb("#e03020"), area(10, 10, 50, 90)).lay(rgb("#ffffff"), area(50, 10, 50, 90))  # fmt: skip
    shape = (area(20, 20, 100, 20) + area(20, 60, 100, 20)) * (1 - area(60, 0, 90, 110))
    wanted = Sheet(rgb(GROUND)).lay(inside.colour, 0.5 * inside.alpha * shape)
    near(pixels(scene(*members, pod, *holes, group, one)), wanted)
    # With nothing below it, a stencil is not seen and masks nothing.
    alone = scene(replace(one, stencil="brightness"), block("u", "#20c050", 30, 30, 60, 60))
    near(pixels(alone), Sheet(rgb(GROUND)).lay(rgb("#20c050"), area(30, 30, 60, 60)))


def test_a_stencil_that_moves_is_drawn_anew():
    keys = (Track("x", (Key("a", 0, 0.0), Key("b", 4, 80.0))),)
    below = block("below", "#e03020", 10, 10, 140, 80)
    top = block("top", "#000000", 0, 30, 50, 50, stencil="alpha", keys=keys)
    program = program_of(Evaluation(scene(below, top)))
    painter, surface = Painter(program, source=None), Surface(np.empty((H, W, 4), np.uint8))
    for frame in (0, 3, 1):
        painter.repaint(frame, surface)
        assert np.array_equal(surface.pixels, Painter(program, source=None).picture(frame))
        wanted = Sheet(rgb(GROUND))
        near(straight_rgba(surface.pixels) / 255, wanted.lay(rgb("#e03020"), area(10, 10, 140, 80) * area(20 * frame, 30, 50, 50)))  # fmt: skip
