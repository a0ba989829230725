"""The pictures of Tidepool Hall, drawn as SVG. All of it is made here."""

import math
import random
from itertools import pairwise

SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="{w}" height="{h}" viewBox="{x} {y} {w} {h}">{inner}</svg>'


def svg(inner: str, w: float, h: float, x: float = 0, y: float = 0) -> bytes:
    return SVG.format(w=w, h=h, x=x, y=y, inner=inner).encode()


def gradient(name: str, stops: list[tuple[float, str]], *, down: bool = True) -> str:
    inner = "".join(f'<stop offset="{at}" stop-color="{colour}"/>' for at, colour in stops)
    ends = 'x1="0" y1="0" x2="0" y2="1"' if down else 'x1="0" y1="0" x2="1" y2="0"'
    return f'<linearGradient id="{name}" {ends}>{inner}</linearGradient>'


def ridge(seed: int, w: float, h: float, top: float, rough: float, colour: str) -> str:
    """A rocky skyline from smooth bumps of several sizes, filled down to the bottom."""
    chance = random.Random(seed)
    waves = [
        (chance.uniform(0.6, 1.4) * k, chance.uniform(0, 6.3), rough / k**0.9)
        for k in (1, 2, 3, 5, 8, 13)
    ]
    count = 72
    points = [
        (
            w * i / count,
            top + sum(a * math.sin(f * 2 * math.pi * i / count * 1.5 + p) for f, p, a in waves),
        )
        for i in range(count + 1)
    ]
    course = f"M0 {points[0][1]:.1f}"
    for (x0, y0), (x1, y1) in pairwise(points):
        middle = (x0 + x1) / 2
        course += f"C{middle:.1f} {y0:.1f} {middle:.1f} {y1:.1f} {x1:.1f} {y1:.1f}"
    return f'<path d="{course}V{h}H0Z" fill="{colour}"/>'


def shafts(seed: int, w: float, h: float, colour: str = "#d8fff4") -> str:
    """Light falling in from above, fading towards the ground."""
    chance = random.Random(seed)
    defs = (
        f'<linearGradient id="shaft" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="{colour}" '
        f'stop-opacity=".3"/><stop offset="1" stop-color="{colour}" stop-opacity="0"/></linearGradient>'
    )
    beams = []
    for i in range(7):
        left = w * (0.05 + 0.14 * i) + chance.uniform(-50, 50)
        wide, lean = chance.uniform(40, 150), chance.uniform(-260, -60)
        corners = f"{left},-10 {left + wide},-10 {left + wide * 1.9 + lean},{h * 0.86} {left + lean},{h * 0.86}"
        beams.append(
            f'<polygon points="{corners}" fill="url(#shaft)" opacity="{chance.uniform(0.35, 0.8):.2f}"/>'
        )
    return f"<defs>{defs}</defs>" + "".join(beams)


def motes(seed: int, w: float, h: float, count: int) -> str:
    chance = random.Random(seed)
    dots = []
    for _ in range(count):
        x, y, r = chance.uniform(0, w), chance.uniform(0, h), chance.uniform(0.8, 3.2)
        dots.append(
            f'<circle cx="{x:.0f}" cy="{y:.0f}" r="{r:.1f}" opacity="{chance.uniform(0.1, 0.5):.2f}"/>'
        )
    return f'<g fill="#e6fff8">{"".join(dots)}</g>'


def kelp(seed: int, x: float, ground: float, tall: float, colour: str) -> str:
    """One stem that sways, with leaves to both sides."""
    chance = random.Random(seed)
    sway, leaves, count = chance.uniform(18, 44), [], int(tall / 26)
    place = [
        (x + sway * math.sin(3.2 * k / count + seed) * (k / count), ground - tall * k / count)
        for k in range(count + 1)
    ]
    for k, (px, py) in enumerate(place[1:-1], 1):
        side = 1 if k % 2 else -1
        long = (34 - 18 * k / count) * side * chance.uniform(0.8, 1.2)
        leaves.append(
            f"M{px:.1f} {py:.1f}q{long * 0.5:.1f} {-20:.1f} {long:.1f} {-26:.1f}q{-long * 0.2:.1f} 22 {-long:.1f} 26Z"
        )
    stem = "M" + "L".join(f"{px:.1f} {py:.1f}" for px, py in place)
    return (
        f'<path d="{stem}" fill="none" stroke="{colour}" stroke-width="6" stroke-linecap="round" '
        f'stroke-linejoin="round"/><path d="{"".join(leaves)}" fill="{colour}"/>'
    )


def sea() -> bytes:
    w, h = 1920, 1080
    water = gradient(
        "water", [(0, "#3aa6ad"), (0.35, "#1a7890"), (0.75, "#0c4a68"), (1, "#062e4a")]
    )
    inner = f'<defs>{water}</defs><rect width="{w}" height="{h}" fill="url(#water)"/>' + shafts(
        4, w, h
    )
    inner += ridge(11, w, h, 800, 60, "#0f5871") + ridge(23, w, h, 880, 70, "#0a4560")
    return svg(inner + motes(5, w, h, 160), w, h)


def seabed() -> bytes:
    """The ground in front: rocks, kelp and sponges, clear above."""
    w, h = 1920, 340
    chance = random.Random(8)
    plants = "".join(
        kelp(i, x, h, chance.uniform(130, 300), chance.choice(["#0d4b52", "#115a58", "#0a3f4c"]))
        for i, x in enumerate([60, 120, 175, 420, 1330, 1390, 1700, 1770, 1850])
    )
    sponges = "".join(
        f'<ellipse cx="{x}" cy="{h - 40}" rx="{r}" ry="{r * 1.5}" fill="{c}"/><ellipse cx="{x}" cy="{h - 40 - r * 1.3}" '
        f'rx="{r * 0.55}" ry="{r * 0.22}" fill="#06283d"/>'
        for x, r, c in [
            (560, 34, "#b5546a"),
            (618, 24, "#c76a5e"),
            (1120, 30, "#8d4f86"),
            (1180, 40, "#a45a7c"),
        ]
    )
    return svg(
        plants
        + ridge(31, w, h, 262, 34, "#07324a")
        + sponges
        + ridge(47, w, h, 306, 20, "#052539"),
        w,
        h,
    )


def manta() -> bytes:
    """Seen from above, facing right."""
    half = (
        "M118 0C116 -14 106 -24 90 -28C64 -36 44 -58 20 -100C2 -132 -24 -162 -70 -178C-56 -152 -48 -130 -50 -108"
        "C-54 -76 -70 -46 -98 -24C-106 -16 -112 -9 -120 -4L-236 -1.6L-236 0Z"
    )
    fin = "M96 -24C118 -31 142 -28 156 -12C146 -17 128 -17 110 -11Z"
    skin = gradient(
        "skin",
        [(0, "#9fc9d0"), (0.22, "#e4f4f2"), (0.5, "#f7fdfb"), (0.78, "#e4f4f2"), (1, "#9fc9d0")],
    )
    marks = (
        '<path d="M70 -20C40 -26 10 -48 -14 -86C-6 -50 8 -26 30 -12Z" fill="#86b4c1" opacity=".75"/>'
        '<path d="M-92 -18C-60 -26 -40 -22 -18 -8L-18 0H-112Z" fill="#a9cfd6" opacity=".7"/>'
        + "".join(
            f'<path d="M{x} -{y}q6 {y * 0.28} 2 {y * 0.5}" fill="none" stroke="#5d93a5" stroke-width="3" '
            'stroke-linecap="round"/>'
            for x, y in [(52, 17), (42, 18), (32, 18), (22, 17), (12, 15)]
        )
        + "".join(
            f'<circle cx="{x}" cy="-{y}" r="{r}" fill="#6fa3b3"/>'
            for x, y, r in [
                (-30, 40, 4),
                (-44, 62, 3),
                (-18, 66, 2.6),
                (-52, 92, 2.4),
                (-12, 22, 3.4),
            ]
        )
    )
    side = f'<path d="{half}"/><path d="{fin}"/>'
    whole = f'<g fill="url(#skin)">{side}<g transform="scale(1 -1)">{side}</g></g>'
    eyes = '<circle cx="97" cy="-24" r="4.4" fill="#1d4a5c"/><circle cx="97" cy="24" r="4.4" fill="#1d4a5c"/>'
    # One gradient for all of it: from wing tip to wing tip, in the drawing's own space.
    skin = skin.replace(
        'x1="0" y1="0" x2="0" y2="1"',
        'gradientUnits="userSpaceOnUse" x1="0" y1="-178" x2="0" y2="178"',
    )
    inner = f'<defs>{skin}</defs>{whole}{marks}<g transform="scale(1 -1)">{marks}</g>{eyes}'
    return svg(inner, 400, 364, -240, -182)


def bubble() -> bytes:
    inner = (
        '<defs><radialGradient id="b" cx=".38" cy=".34" r=".7"><stop offset="0" stop-color="#fff" stop-opacity=".05"/>'
        '<stop offset=".7" stop-color="#d8f7ff" stop-opacity=".16"/><stop offset="1" stop-color="#e9fdff" '
        'stop-opacity=".62"/></radialGradient></defs><circle cx="32" cy="32" r="30" fill="url(#b)"/>'
        '<path d="M15 26a19 19 0 0 1 13 -13" fill="none" stroke="#fff" stroke-width="4" stroke-linecap="round" '
        'opacity=".9"/><circle cx="45" cy="46" r="3" fill="#fff" opacity=".5"/>'
    )
    return svg(inner, 64, 64)


def dusk() -> bytes:
    w, h = 1080, 1920
    water = gradient("deep", [(0, "#5a3f8c"), (0.4, "#372a6e"), (0.8, "#1a1748"), (1, "#0d0d2f")])
    glow = (
        '<radialGradient id="glow" cx=".5" cy=".42" r=".6"><stop offset="0" stop-color="#b58adf" stop-opacity=".55"/>'
        '<stop offset="1" stop-color="#b58adf" stop-opacity="0"/></radialGradient>'
    )
    rect = f'<rect width="{w}" height="{h}" fill="url(#deep)"/><rect width="{w}" height="{h}" fill="url(#glow)"/>'
    ground = ridge(71, w, h, 1760, 60, "#140f3a") + ridge(83, w, h, 1830, 44, "#0a0826")
    return svg(f"<defs>{water}{glow}</defs>{rect}{motes(9, w, h, 220)}{ground}", w, h)


def jelly(bell: str, rim: str, seed: int) -> bytes:
    chance = random.Random(seed)
    arms = []
    for i in range(9):
        x, long, sway = 46 + i * 21, chance.uniform(130, 210), chance.uniform(-22, 22)
        arms.append(
            f"M{x} 142c{sway:.0f} {long * 0.3:.0f} {-sway:.0f} {long * 0.6:.0f} {sway * 0.6:.0f} {long:.0f}"
        )
    frills = [
        f"M{x} 138c-26 40 22 70 -4 112c-10 22 4 40 -6 62c28 -20 34 -52 26 -80c-6 -30 20 -60 14 -94Z"
        for x in (86, 122, 158)
    ]
    fill = (
        f'<defs><radialGradient id="j" cx=".5" cy=".3" r=".75"><stop offset="0" stop-color="#fff" stop-opacity=".9"/>'
        f'<stop offset=".45" stop-color="{bell}" stop-opacity=".85"/><stop offset="1" stop-color="{rim}" '
        f'stop-opacity=".9"/></radialGradient></defs>'
    )
    dome = (
        "M18 138C14 60 62 12 130 12S246 60 242 138C230 150 216 134 202 146S172 138 158 150S118 140 104 150"
        "S72 136 58 148S30 150 18 138Z"
    )
    inner = (
        f'{fill}<path d="{"".join(arms)}" fill="none" stroke="{rim}" stroke-width="3.4" stroke-linecap="round" '
        f'opacity=".75"/><path d="{"".join(frills)}" fill="{bell}" opacity=".55"/>'
        f'<path d="{dome}" fill="url(#j)"/><path d="M62 92C70 58 96 38 130 38" fill="none" stroke="#fff" '
        f'stroke-width="7" stroke-linecap="round" opacity=".65"/>'
        + "".join(
            f'<ellipse cx="{x}" cy="{y}" rx="15" ry="20" fill="{rim}" opacity=".5"/>'
            for x, y in [(98, 96), (130, 90), (162, 96)]
        )
    )
    return svg(inner, 260, 360)


def shore() -> bytes:
    w, h = 1920, 1080
    sky = gradient("sky", [(0, "#f6d9a8"), (0.35, "#f8e8c8"), (0.6, "#e7efe4")])
    sun = '<circle cx="1470" cy="330" r="130" fill="#fff3d2"/><circle cx="1470" cy="330" r="92" fill="#ffe3a1"/>'
    hills = ridge(5, w, 640, 500, 34, "#b9cdbf") + ridge(15, w, 640, 560, 26, "#94b5ae")
    rect = f'<rect width="{w}" height="{h}" fill="url(#sky)"/>'
    return svg(
        f'<defs>{sky}</defs>{rect}{sun}{hills}<rect y="600" width="{w}" height="480" fill="#6aa5a6"/>',
        w,
        h,
    )


def swell_course(
    y: float, high: float, *, left: float = -400, right: float = 2320, waves: int = 4
) -> str:
    """A run of even waves from left to right, as path data."""
    step = (right - left) / waves / 2
    course, up = f"M{left} {y}", -1
    for i in range(2 * waves):
        x = left + i * step
        course += (
            f"C{x + step * 0.37} {y + up * high} {x + step * 0.63} {y + up * high} {x + step} {y}"
        )
        up = -up
    return course


def water(
    y: float, high: float, colour: str, w: int = 1920, h: int = 1080, **course: float
) -> bytes:
    """A body of water under a swell, clear above it."""
    line = swell_course(y, high, **course)  # type: ignore[arg-type]
    tops = f'<path d="{line}" fill="none" stroke="#ffffff" stroke-width="5" opacity=".5"/>'
    return svg(f'<path d="{line}V{h + 20}H-500Z" fill="{colour}"/>{tops}', w, h)


def buoy() -> bytes:
    inner = (
        '<path d="M112 60h36l22 150h-80Z" fill="none" stroke="#23394a" stroke-width="9" stroke-linejoin="round"/>'
        '<path d="M104 120h52M97 165h66M112 62l46 100M148 62l-46 100" stroke="#23394a" stroke-width="6"/>'
        '<rect x="112" y="22" width="36" height="40" rx="8" fill="#ffd76a" stroke="#23394a" stroke-width="8"/>'
        '<path d="M106 22h48l-10 -14h-28Z" fill="#23394a"/>'
        '<path d="M30 212h200q10 0 8 12l-22 92q-4 16 -22 16h-128q-18 0 -22 -16l-22 -92q-2 -12 8 -12Z" fill="#e5573a"/>'
        '<path d="M40 252h180l-9 38h-162Z" fill="#fbf3e4"/><path d="M30 212h200q9 0 8 10h-216q-1 -10 8 -10Z" '
        'fill="#c03f27"/><path d="M150 332v30M110 332v30" stroke="#23394a" stroke-width="10" stroke-linecap="round"/>'
    )
    return svg(inner, 260, 370)


ROOMS = [
    ("Rock pools", 150, 170, 470, 300, "#f2c9a1"),
    ("Kelp hall", 700, 130, 520, 330, "#bcd8b0"),
    ("Reef tank", 1300, 190, 470, 360, "#a9d5dc"),
    ("Jelly dome", 1240, 640, 440, 300, "#d3bfe3"),
    ("Café", 720, 610, 420, 290, "#f5dfa4"),
    ("Entrance", 180, 600, 440, 310, "#e9e1d2"),
]
"""Name, left, top, width, height and floor of the rooms on the visitors' map."""


def floor_plan() -> bytes:
    w, h = 1920, 1080
    chance = random.Random(3)
    halls = '<path d="M400 750H1460M385 320V750M960 300V760M1535 370V790" fill="none" stroke="#fffaf0" stroke-width="96" stroke-linejoin="round"/>'
    walls = "".join(
        f'<rect x="{x}" y="{y}" width="{rw}" height="{rh}" rx="36" fill="{c}" stroke="#7b6f5c" stroke-width="7"/>'
        for _, x, y, rw, rh, c in ROOMS
    )
    pools = "".join(
        f'<ellipse cx="{250 + i * 92}" cy="{300 + (i % 2) * 70}" rx="{chance.uniform(34, 52):.0f}" '
        f'ry="{chance.uniform(22, 32):.0f}" fill="#7fb7bf" stroke="#5d949d" stroke-width="4"/>'
        for i in range(4)
    )
    leaves = "".join(
        kelp(i + 40, 770 + i * 62, 430, chance.uniform(120, 200), "#5f8f5a") for i in range(7)
    )
    tank = (
        '<rect x="1350" y="250" width="370" height="240" rx="110" fill="#5aa7b8" stroke="#3d8496" stroke-width="6"/>'
        '<path d="M1400 400q40 -70 90 -8t90 -14t90 8" fill="none" stroke="#c9eef0" stroke-width="7" opacity=".7"/>'
    )
    dome = "".join(
        f'<circle cx="1460" cy="790" r="{r}" fill="none" stroke="#9c7fb8" stroke-width="5" opacity=".8"/>'
        for r in (110, 78, 46)
    )
    tables = "".join(
        f'<circle cx="{800 + (i % 3) * 130}" cy="{700 + i // 3 * 110}" r="30" fill="#fffaf0" stroke="#c7ad6a" '
        f'stroke-width="5"/>'
        for i in range(6)
    )
    paper = f'<rect width="{w}" height="{h}" fill="#efe4cd"/>' + "".join(
        f'<rect x="{chance.uniform(0, w):.0f}" y="{chance.uniform(0, h):.0f}" width="{chance.uniform(20, 90):.0f}" '
        f'height="1.4" fill="#cdbd9a" opacity=".5"/>'
        for _ in range(260)
    )
    return svg(paper + halls + walls + pools + leaves + tank + dome + tables, w, h)


def torch() -> bytes:
    """A diver's torch that shines to the right; the hand holds it at (70, 100)."""
    beam = (
        '<linearGradient id="beam" x1="0" y1="0" x2="1" y2="0"><stop offset="0" stop-color="#fff3b8" '
        'stop-opacity=".95"/><stop offset=".5" stop-color="#ffe48a" stop-opacity=".45"/><stop offset="1" '
        'stop-color="#ffe48a" stop-opacity="0"/></linearGradient>'
    )
    inner = (
        f'<defs>{beam}</defs><path d="M118 88L380 0Q420 100 380 200L118 112Z" fill="url(#beam)"/>'
        '<rect x="24" y="80" width="72" height="40" rx="15" fill="#27506b"/>'
        '<path d="M92 74h18q12 0 12 10v32q0 10 -12 10h-18Z" fill="#173648"/>'
        '<ellipse cx="120" cy="100" rx="7" ry="19" fill="#fff7cf"/>'
        '<rect x="46" y="72" width="22" height="12" rx="5" fill="#e4572e"/>'
        '<circle cx="22" cy="100" r="13" fill="none" stroke="#173648" stroke-width="6"/>'
    )
    return svg(inner, 420, 200)


def night() -> bytes:
    w, h = 1920, 1080
    sky = gradient(
        "night", [(0, "#101a3e"), (0.45, "#2b3d74"), (0.62, "#6f6c9c"), (0.68, "#b58f9a")]
    )
    chance = random.Random(51)
    stars = "".join(
        f'<circle cx="{chance.uniform(0, w):.0f}" cy="{chance.uniform(0, 560):.0f}" '
        f'r="{chance.uniform(0.8, 2.2):.1f}" fill="#fff" opacity="{chance.uniform(0.2, 0.8):.2f}"/>'
        for _ in range(90)
    )
    hills = ridge(21, w, 740, 640, 40, "#2a2f5e") + ridge(33, w, 740, 690, 22, "#191d45")
    rect = f'<rect width="{w}" height="{h}" fill="url(#night)"/>'
    return svg(f"<defs>{sky}</defs>{rect}{stars}{hills}", w, h)


def lantern() -> bytes:
    """A paper lantern on its little float, the light in it low."""
    glow = (
        '<radialGradient id="l" cx=".5" cy=".62" r=".7"><stop offset="0" stop-color="#fffbe6"/>'
        '<stop offset=".4" stop-color="#ffdf94"/><stop offset="1" stop-color="#e8823a"/></radialGradient>'
    )
    body = "M34 16C10 40 6 110 30 150H130C154 110 150 40 126 16Z"
    ribs = "".join(
        f'<path d="M{18 - d} {y}C60 {y + 10} 100 {y + 10} {142 + d} {y}" fill="none" stroke="#c96a2c" '
        'stroke-width="2.5" opacity=".5"/>'
        for y, d in [(46, 2), (76, 7), (106, 6)]
    )
    inner = (
        f'<defs>{glow}</defs><path d="{body}" fill="url(#l)"/>{ribs}'
        '<rect x="32" y="8" width="96" height="13" rx="6" fill="#6b3a20"/>'
        '<path d="M10 148H150L138 170H22Z" fill="#4a2a1a"/><path d="M10 148H150L147 154H13Z" fill="#7a4a2a"/>'
    )
    return svg(inner, 160, 176)
