"""Pictures and outlines: what comes in, and what texts and figures look like."""

import io

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from coaster.errors import MediaError
from coaster.formats import pictures
from coaster.media.pictures import encoded_png, load, premultiplied, straight_rgba
from coaster.render import texts
from coaster.render.faces import standing_face
from coaster.scene.contents import Shape, Text
from coaster.scene.document import Layer

RED = (228, 87, 46)


def saved(image: Image.Image, form: str, **options) -> bytes:
    out = io.BytesIO()
    image.save(out, form, **options)
    return out.getvalue()


def pixels_of(found: pictures.Imported) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(found.data)).convert("RGBA"))


KINDS = {
    "palette": saved(Image.new("RGB", (4, 2), RED).quantize(4), "PNG"),
    "grey": saved(Image.new("L", (4, 2), 90), "PNG"),
    "sixteen bits": saved(Image.fromarray(np.full((2, 4), 30_000, np.uint16)), "PNG"),
    "cmyk": saved(Image.new("CMYK", (4, 2), (0, 160, 200, 20)), "JPEG"),
    "moving": saved(
        Image.new("RGB", (4, 2), RED),
        "WEBP",
        save_all=True,
        append_images=[Image.new("RGB", (4, 2))],
    ),
}


@pytest.mark.parametrize("kind", KINDS)
def test_unusual_pictures_are_brought_into_a_form_that_can_be_drawn(kind, tmp_path):
    name = "a" + {"cmyk": ".jpg", "moving": ".webp"}.get(kind, ".png")
    found = pictures.import_picture(KINDS[kind], name)
    assert pixels_of(found).shape == (2, 4, 4)
    (tmp_path / ("x" + found.ending)).write_bytes(found.data)
    assert load(tmp_path / ("x" + found.ending)).shape == (2, 4, 4)
    assert bool(found.notes) == (kind == "moving")


def test_a_photograph_taken_sideways_stands_upright():
    exif = Image.Exif()
    exif[0x0112] = 6
    found = pictures.import_picture(
        saved(Image.new("RGB", (8, 4), RED), "JPEG", exif=exif), "a.jpeg"
    )
    assert (found.width, found.height) == (4, 8)


def test_a_very_large_picture_keeps_its_size_in_the_scene_and_is_kept_smaller():
    found = pictures.import_picture(saved(Image.new("RGB", (6000, 300), RED), "PNG"), "a.png")
    assert (found.width, found.height) == (6000, 300)
    assert pixels_of(found).shape[:2] == (205, 4096)
    assert "4096 × 205 px" in found.notes[0]


def test_an_ordinary_picture_is_kept_byte_for_byte():
    data = saved(Image.new("RGBA", (9, 9), (*RED, 120)), "PNG")
    assert pictures.import_picture(data, "A.PNG").data == data


def test_a_drawing_is_drawn_finely():
    head = b'<svg xmlns="http://www.w3.org/2000/svg" width="30" height="20">'
    svg = head + b'<rect width="15" height="20" fill="#e4572e"/></svg>'
    found = pictures.import_picture(svg, "a.svg")
    assert (found.width, found.height) == (30, 20)
    shot = pixels_of(found)
    assert shot.shape == (40, 60, 4)
    assert shot[20, 10].tolist() == [*RED, 255]
    assert shot[20, 50].tolist() == [0, 0, 0, 0]


@given(st.integers(0, 2**32 - 1))
def test_premultiplying_and_back_changes_no_more_than_rounding_must(seed):
    rgba = np.random.default_rng(seed).integers(0, 256, (6, 5, 4), dtype=np.uint8)
    again = straight_rgba(premultiplied(rgba))
    assert np.array_equal(again[..., 3], rgba[..., 3])
    room = 255 / np.maximum(rgba[..., 3:].astype(float), 1)
    assert (np.abs(again[..., :3].astype(float) - rgba[..., :3]) <= room + 1)[
        rgba[..., 3] > 0
    ].all()
    assert np.array_equal(
        np.asarray(Image.open(io.BytesIO(encoded_png(premultiplied(rgba))))), again
    )


def test_a_picture_with_an_alpha_is_decoded_to_the_same_levels_as_any(tmp_path):
    rgba = np.random.default_rng(3).integers(0, 256, (9, 14, 4), np.uint8)
    (tmp_path / "a.png").write_bytes(saved(Image.fromarray(rgba), "PNG"))
    assert (load(tmp_path / "a.png") == premultiplied(rgba)).all()


def test_a_missing_or_broken_file_is_named(tmp_path):
    (tmp_path / "broken.png").write_bytes(b"\x89PNG")
    whole = saved(Image.effect_noise((40, 40), 60).convert("RGBA"), "PNG")
    (tmp_path / "cut.png").write_bytes(whole[: len(whole) // 2])
    for name in ("none.png", "broken.png", "cut.png"):
        with pytest.raises(MediaError, match=name):
            load(tmp_path / name)


def drawn(content):
    return standing_face(Layer("a", "A", content), None)


def spread(content) -> np.ndarray:
    return np.concatenate(
        [run.cubics.reshape(-1, 2) for run in drawn(content).outlines[0].figure.runs]
    )


@pytest.mark.parametrize("figure", ["rectangle", "ellipse", "star", "polygon"])
@pytest.mark.parametrize("radius", [0.0, 10.0, 900.0])
def test_figures_fill_their_box_and_no_more(figure, radius):
    points = spread(Shape(figure, 120, 80, radius=radius, points=6))
    low, high = points.min(axis=0), points.max(axis=0)
    assert (low >= -1e-3).all()
    assert (high <= np.array([120, 80]) + 1e-3).all()
    assert high[1] - low[1] == pytest.approx(80, abs=0.1)


@given(st.floats(10, 300), st.integers(300, 800))
def test_text_scales_with_its_size_and_widens_with_its_weight(size, weight):
    one, two = (
        drawn(Text("Tide", size=size, weight=weight)),
        drawn(Text("Tide", size=2 * size, weight=weight)),
    )
    assert two.size[0] == pytest.approx(2 * one.size[0], rel=1e-3)
    assert drawn(Text("Tide", size=size, weight=300)).size[0] <= one.size[0] * 1.001
    assert one.size[1] == pytest.approx(size * 1.2)


def test_lines_are_aligned_in_the_box_of_the_longest():
    lines = "Ebb\nFlood tide"
    starts = {a: spread(Text(lines, align=a))[:, 0].min() for a in ("left", "centre", "right")}
    short = drawn(Text("Ebb")).size[0]
    long = drawn(Text(lines)).size[0]
    first_line = {
        a: drawn(Text(lines, align=a)).outlines[0].figure.runs[0].cubics[0, 0, 0] for a in starts
    }
    assert first_line["centre"] - first_line["left"] == pytest.approx((long - short) / 2, abs=0.5)
    assert first_line["right"] - first_line["left"] == pytest.approx(long - short, abs=0.5)


def test_letters_are_kerned_and_found_in_the_second_font_file():
    apart = drawn(Text("A", font="Figtree")).size[0] + drawn(Text("V", font="Figtree")).size[0]
    assert drawn(Text("AV", font="Figtree")).size[0] < apart - 1
    assert texts.missing_letters(Text("Říčka 海é")) == "海"
    assert drawn(Text("Ř")).outlines


def test_colours_are_multiplied_by_their_alpha_to_the_nearest_level():
    colour, alpha = np.meshgrid(np.arange(256), np.arange(256))
    rgba = np.dstack([colour, colour, colour, alpha]).astype(np.uint8)
    wanted = (colour * alpha + 127) // 255
    found = premultiplied(rgba)
    assert (found[..., :3] == wanted[..., None]).all()
    assert (found[..., 3] == alpha).all()
