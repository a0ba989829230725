"""Drawings in: against an independent reader, and what is refused."""

import io
import re

import numpy as np
import pytest
import svgelements
from hypothesis import given
from hypothesis import strategies as st

from coaster.errors import FormatError
from coaster.formats import pathdata, svg
from coaster.geometry import affine
from coaster.geometry.measure import MeasuredPath
from tests.core.strategies import paths

DRAWING = """<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"
  width="600" height="400" viewBox="-20 -10 300 200" preserveAspectRatio="xMaxYMin meet">
  <defs><path id="stored" d="M0 0 q30 -40 60 0 t60 0"/></defs>
  <g transform="translate(12,7) rotate(15)"><g transform="scale(1.5 .7) skewX(12)">
    {shape}
  </g></g>
</svg>"""
SHAPES = {
    "all commands": (
        '<path id="s" d="M10 10l20 5h30V60v-8C70 70 90 20 120 40S150 90 160 60s5-5 9 9'
        'Q180 20 190 60T220 60t9 9A30 50 20 1 0 260 90a20 20 0 01 10-10z"/>'
    ),
    "relative move after close": '<path id="s" d="m10,10 20,0 0,20z m50 50l10 0l0,10z l-5-5"/>',
    "glued numbers": '<path id="s" d="M.5.5-.5-1e1L1e1-1E+1a1 2 0 0110.5.5"/>',
    "arc that is too small": '<path id="s" d="M0 0A1 1 0 0 1 100 0"/>',
    "arc sweeps": (
        '<path id="s" d="M0 0A60 30 40 0 0 80 20A60 30 40 1 1 20 60A60 30 40 0 1 80 80A60 30 40 1 0'
        ' 9 9"/>'
    ),
    "rect": '<rect id="s" x="5" y="6" width="70" height="40"/>',
    "rounded rect": '<rect id="s" x="5" y="6" width="70" height="40" rx="50" ry="8"/>',
    "circle": '<circle id="s" cx="40" cy="50" r="30" transform="rotate(30 40 50)"/>',
    "ellipse": '<ellipse id="s" cx="40" cy="50" rx="30" ry="5"/>',
    "line": '<line id="s" x1="1" y1="2" x2="30" y2="40"/>',
    "polyline": '<polyline id="s" points="0,0 10,20,30 -5 8,8"/>',
    "polygon": '<polygon id="s" points="0,0 10,20,30 -5 8,8" transform="matrix(1 .2 -.3 1 4 5)"/>',
    "style transform": (
        '<path id="s" d="M0 0L10 10" style="fill:none;transform:translate(3px, 4px)"/>'
    ),
}


def spread(pieces, count=400):
    """Points at equal shares of each segment run's own length, gaps left out."""
    measure = MeasuredPath(pieces)
    return measure.locate(np.linspace(0, measure.length, count)).position


def reference(text) -> np.ndarray:
    """Points along the shape, its curves read and its matrix found by another library."""
    drawn = svgelements.SVG.parse(io.StringIO(text), reify=False, ppi=96)
    shape = next(e for e in drawn.elements() if isinstance(e, svgelements.Shape) and e.id == "s")
    m, points = shape.transform, []
    for segment in shape.segments(transformed=False):
        if not isinstance(segment, svgelements.Move) and segment.start is not None:
            points += [segment.point(t) for t in np.linspace(0, 1, 2001)]
    return affine.apply((m.a, m.b, m.c, m.d, m.e, m.f), [[p.x, p.y] for p in points])


@pytest.mark.parametrize("name", [n for n in SHAPES if n != "style transform"])
def test_every_shape_lies_where_an_independent_reader_puts_it(name):
    text = DRAWING.format(shape=SHAPES[name])
    ours = np.concatenate([spread(pieces) for pieces, _ in svg.read(text.encode()).pick("s").runs])
    theirs = reference(text)
    away = np.hypot(*(ours[:, None] - theirs[None]).transpose(2, 0, 1)).min(axis=1)
    assert away.max() < 0.25  # between the reference's own points
    ends = [runs[0][0, 0] for runs in svg.read(text.encode()).pick("s").runs]
    assert (
        np.hypot(*(np.array(ends)[:, None] - theirs[None]).transpose(2, 0, 1)).min(axis=1).max()
        < 1e-3
    )


def test_css_px_in_a_style_transform_is_read():
    (pieces, _), *_ = (
        svg.read(DRAWING.format(shape=SHAPES["style transform"]).encode()).pick("s").runs
    )
    plain = DRAWING.format(shape='<path id="s" d="M3 4L13 14"/>')
    assert pieces == pytest.approx(svg.read(plain.encode()).pick("s").runs[0][0])


def test_use_and_symbol_and_nested_svg_place_what_they_show():
    text = """<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 100 100"
      width="200" height="200"><symbol id="y" viewBox="0 0 10 10"><line id="in" x2="10" y2="10"/></symbol>
      <use id="a" xlink:href="#y" x="10" y="20" width="50" height="50"/>
      <svg id="b" x="5" y="5" width="20" height="10" viewBox="0 0 2 2"><line x2="2" y2="2"/></svg></svg>"""
    drawing = svg.read(text.encode())
    assert drawing.pick("a").runs[0][0][0, [0, 3]] == pytest.approx(
        np.array([[20, 40], [120, 140]])
    )
    assert drawing.pick("b").runs[0][0][0, [0, 3]] == pytest.approx(np.array([[20, 10], [40, 30]]))
    assert [s.id for s in drawing.shapes] == ["in", ""]


def test_a_path_is_picked_by_id_by_index_or_first():
    text = DRAWING.format(shape='<path d="M0 0h1"/><path id="two" d="M0 0h2"/>').encode()
    drawing = svg.read(text)
    assert drawing.pick("1").id == drawing.pick("two").id == "two" != drawing.pick(None).id
    assert len(drawing.pick("stored").runs[0][0]) == 2
    for wrong in ("2", "three", "-1"):
        with pytest.raises(FormatError, match="no path"):
            drawing.pick(wrong)


@given(paths())
def test_written_path_data_reads_back(path):
    again = pathdata.subpaths(pathdata.runs(pathdata.to_path_data(path.subpaths, digits=6)))
    ours, theirs = (
        spread(np.concatenate([s.segments() for s in p])) for p in (path.subpaths, again)
    )
    assert theirs == pytest.approx(ours, abs=1e-2)
    assert [s.closed for s in again] == [s.closed for s in path.subpaths]


@pytest.mark.parametrize(
    ("data", "where"),
    [
        ("M0 0L10", "8"),
        ("L0 0", "1"),
        ("M0 0X5 5", "5"),
        ("M0 0L1 1e", "9"),
        ("M0 0A1 1 0 2 0 5 5", "12"),
        ("M0 0L1e12 0", "6"),
        ("M0 0Z 5 5", "7"),
        ("M 0 0 L 5,,nan", "12"),
    ],
)
def test_broken_path_data_says_where(data, where):
    with pytest.raises(FormatError, match=rf"at character {where}\b"):
        pathdata.runs(data)


HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">'
HOSTILE = {
    "entities": '<!DOCTYPE svg [<!ENTITY a "b"><!ENTITY c "&a;&a;">]>' + HEAD + "<text>&c;</text></svg>",
    "external entity": '<!DOCTYPE svg [<!ENTITY a SYSTEM "file:///etc/hostname">]>' + HEAD + "<text>&a;</text></svg>",
    "script": HEAD + "<script>1</script></svg>",
    "handler": HEAD + '<path d="M0 0h5" onload="x()"/></svg>',
    "outside picture": HEAD + '<image href="http://example.com/a.png"/></svg>',
    "outside file": HEAD + '<image xlink:href="file:///etc/passwd"/></svg>',
    "script link": HEAD + '<a href="javascript:x()"><path d="M0 0h5"/></a></svg>',
    "style import": HEAD + "<style>@import 'a.css';</style></svg>",
    "style url": HEAD + '<path d="M0 0h5" style="fill:url(http://example.com/#a)"/></svg>',
    "foreign": HEAD + "<foreignObject/></svg>",
    "use of itself": HEAD + '<g id="g"><use href="#g"/></g></svg>',
    "use doubling": HEAD + '<path id="p0" d="M0 0h1"/>' + "".join(
        f'<g id="p{n}"><use href="#p{n - 1}"/><use href="#p{n - 1}"/></g>' for n in range(1, 40)) + "</svg>",
    "deep": HEAD + "<g>" * 5000 + "</g>" * 5000 + "</svg>",
    "not svg": "<html/>",
    "cut short": HEAD + '<path d="M0 0h5"',
    "empty": "",
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_and_broken_drawings_get_one_sentence(name):
    with pytest.raises(FormatError) as refused:
        svg.read(HOSTILE[name].encode())
    assert "\n" not in str(refused.value)
    assert str(refused.value).endswith(".")


@given(st.binary(max_size=200))
def test_noise_is_refused_not_crashed_on(noise):
    with pytest.raises(FormatError):
        svg.read(b"<svg " + noise)


GOOD = '<path id="good" d="M0 0h5"/>'
BROKEN = {
    "number": ('<path id="s" d="M0 0h1e999"/>', "up to its mistake", 1),
    "half a path": ('<path id="s" d="M0 0h10v"/>', "up to its mistake", 2),
    "transform": ('<path d="M0 0h1" transform="rotate(1 2)"/>', "has 2 numbers", 1),
    "flat": ('<path d="M0 0h1" style="transform:rotate3d(1,1,1,45deg)"/>', "none of a flat", 1),
    "unit": ('<rect width="3 apples" height="5"/>', "is no length", 1),
    "missing use": ('<use href="#nowhere"/>', "'nowhere', which is not there", 1),
    "odd points": ('<polyline id="s" points="0 0 10 10 20"/>', "one number too many", 2),
}  # fmt: skip


@pytest.mark.parametrize("name", BROKEN)
def test_what_is_broken_is_left_out_and_said_and_the_rest_is_kept(name):
    part, words, count = BROKEN[name]
    drawing = svg.read((HEAD + part + GOOD + "</svg>").encode())
    assert drawing.pick("good").runs[0][0][0, 3] == pytest.approx([5, 0])
    assert len(drawing.shapes) == count
    assert words in " ".join(drawing.left_out)
    assert not any("\n" in each for each in drawing.left_out)


def shown(body: str) -> list[str]:
    return [shape.id for shape in svg.read((HEAD + body + "</svg>").encode()).shapes]


@pytest.mark.parametrize(
    "body",
    [
        '<path id="x" d="M0 0h5" display="none"/>',
        '<g style="display:none"><path id="x" d="M0 0h5"/></g>',
        '<g visibility="hidden"><path id="x" d="M0 0h5"/></g>',
        '<style>.away { display: none }</style><path id="x" class="away" d="M0 0h5"/>',
        '<style>g > path { visibility: collapse }</style><g><path id="x" d="M0 0h5"/></g>',
        '<style>#x { display: none !important }</style><path id="x" style="display:inline" d="M0 0h5"/>',
        '<switch><g systemLanguage="en"/><path id="x" d="M0 0h5"/></switch>',
        '<switch><path id="x" d="M0 0h5" systemLanguage="fr, de-CH"/></switch>',
    ],
)
def test_what_is_hidden_is_not_shown_and_yet_found_by_its_name(body):
    assert shown(body + GOOD) == ["good"]
    if "switch" not in body:
        assert svg.read((HEAD + body + "</svg>").encode()).pick("x").id == "x"


@pytest.mark.parametrize(
    "body",
    [
        '<g visibility="hidden"><path id="x" d="M0 0h5" visibility="visible"/></g>',
        '<style>path { display: none } #x { display: inline }</style><path id="x" d="M0 0h5"/>',
        '<style>@media print { path { display: none } }</style><path id="x" d="M0 0h5"/>',
        '<style>!!! { } path:hover, { display: none }</style><path id="x" d="M0 0h5"/>',
        '<style>#x { display: none }</style><path id="x" style="display:inline" d="M0 0h5"/>',
        '<switch><path d="M0 0h1" requiredExtensions="u:v"/><path id="x" d="M0 0h5" systemLanguage="de,en-GB"/></switch>',
    ],
)
def test_what_only_seems_hidden_is_shown(body):
    assert shown(body) == ["x"]


@pytest.mark.parametrize(
    ("told", "plain"),
    [
        ('style="transform:rotate(0.25turn)"', "rotate(90)"),
        ('style="transform:rotate(100grad) skew(10deg, 0.1rad)"', "rotate(90) matrix(1 .10033467 .17632698 1 0 0)"),
        ('style="transform:translate(1in, 25%)"', "translate(96 50)"),
        ('style="transform:translateX(3px) translatey(2mm) scaleX(50%) scaleY(2)"', "translate(3 7.559055) scale(.5 2)"),
        ('style="transform:rotate(90deg);transform-origin:50% 10px"', "rotate(90 150 10)"),
        ('transform="rotate(90)" style="transform-origin:bottom right"', "rotate(90 300 200)"),
        ('transform="rotate(90)" transform-origin="7 8"', "rotate(90 7 8)"),
        ('class="r"', "rotate(90 7 8)"),
    ],
)  # fmt: skip
def test_transforms_of_style_sheets_have_units_and_an_origin(told, plain):
    sheet = "<style>.r { transform: rotate(90deg); transform-origin: 7px 8px }</style>"
    told, plain = (
        svg.read(DRAWING.format(shape=f'{sheet}<path id="s" d="M1 2L13 14" {how}/>').encode())
        for how in (told, f'transform="{plain}"')
    )
    assert told.left_out == ()
    assert told.pick("s").runs[0][0] == pytest.approx(plain.pick("s").runs[0][0], abs=1e-5)


def test_the_outermost_element_turns_about_its_middle():
    """As a browser draws it: a square at 0, 0 comes to 145..150, -50..-45 of a frame of 200 x 100."""
    head = HEAD.replace(
        ">", ' width="200" height="100" viewBox="0 0 400 200" transform="rotate(90)">'
    )
    pieces, _ = svg.read((head + '<rect width="10" height="10"/></svg>').encode()).shapes[0].runs[0]
    assert pieces.min(axis=(0, 1)) == pytest.approx([145, -50])
    assert pieces.max(axis=(0, 1)) == pytest.approx([150, -45])


def test_a_sheet_of_symbols_offers_them():
    symbols = "".join(
        f'<symbol id="i{n}" viewBox="0 0 9 9"><path d="M0 0h{n + 1}"/></symbol>' for n in range(3)
    )
    drawing = svg.read((HEAD + symbols + "</svg>").encode())
    assert drawing.shapes == ()
    assert [shape.id for shape in drawing.offered()] == ["i0", "i1", "i2"]
    assert drawing.pick("2").id == "i2"
    assert len(drawing.pick("i1").runs) == 1


@pytest.mark.parametrize("name", [name for name, shape in SHAPES.items() if ' d="' in shape])
def test_quick_and_careful_readings_of_path_data_are_one(name):
    text = re.search(r' d="([^"]*)"', SHAPES[name]).group(1)
    assert pathdata._quick(text) is not None
    quick, pen = pathdata.runs(text), pathdata._Pen(1.0, pathdata.SAMPLING_TOLERANCE)
    for letter, numbers, _ in pathdata._commands(text):
        pen.take(letter, numbers)
    pen.finish()
    assert [closed for _, closed in quick] == [closed for _, closed in pen.runs]
    assert all(np.array_equal(a, b) for (a, _), (b, _) in zip(quick, pen.runs, strict=True))
