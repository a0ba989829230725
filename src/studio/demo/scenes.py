"""The scenes of Tidepool Hall's lobby screens, put together from its pictures."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np

from coaster.edits import wakes
from coaster.edits.insets import inset_of
from coaster.formats import pathdata, pictures, safe_svg, svg
from coaster.formats import takes as takes_csv
from coaster.formats.pictures import Imported
from coaster.geometry.path import Path, Provenance
from coaster.media.pictures import encoded_png
from coaster.motion import easing, hand, takes
from coaster.motion.copies import Copies
from coaster.motion.distance import Way
from coaster.motion.keys import Key
from coaster.motion.letters import Letters
from coaster.motion.rate import Rate
from coaster.motion.ride import AtNode, AtPercent, Facing, Peg, Ride
from coaster.motion.sampling import simple_pegs
from coaster.motion.sections import Reach, paced, retimed
from coaster.motion.wakes import READY
from coaster.scene.carriers import Carrier
from coaster.scene.contents import Camera, Footage, Group, Light, Line, Picture, Shape, Text
from coaster.scene.document import Beside, Layer, Scene, Transform
from coaster.scene.fields import SceneField
from coaster.scene.follows import Follow
from coaster.scene.gradients import Gradient
from coaster.scene.masks import Mask, MaskPart
from coaster.scene.properties import Track
from coaster.scene.shades import Mirror
from studio.demo import art

Keep = Callable[[str, bytes, bool], Picture]
"""Keeps a picture (name, SVG, whether px for px) and returns it as a layer's content."""
Film = Callable[[str, Scene], Footage]
"""Keeps a scene as footage under a name and returns it as a layer's content."""


@dataclass(frozen=True)
class DemoScene:
    """A scene and its name, and for paths that were drawn by hand their raw takes, as CSV."""

    name: str
    scene: Scene
    takes: dict[str, str] = field(default_factory=dict)


def imported(name: str, drawing: bytes, px_for_px: bool) -> Imported:
    """Return a drawing as the picture it becomes: backgrounds px for px, riders finer."""
    if not px_for_px:
        return pictures.import_picture(drawing, f"{name}.svg")
    width, height = svg.size_of(safe_svg.parse(drawing))
    pixels = pictures.rasterise(drawing, round(width), round(height))
    return pictures.import_picture(encoded_png(pixels), f"{name}.png")


def all_scenes(keep: Keep, film: Film) -> list[DemoScene]:
    """Return the scenes of the demo; what one shows of others is named by ``named`` of theirs."""
    kelp = film("kelp", kelp_film())
    return [
        DemoScene("Manta loop", manta_loop(keep)),
        DemoScene("Jellies on the oval", jellies(keep)),
        DemoScene("High water at four", swell(keep)),
        DemoScene("A round by torchlight", map_round(keep)),
        DemoScene("Bobbing buoy", buoy(keep)),
        by_hand(keep),
        DemoScene("Through the porthole", porthole()),
        DemoScene("At the kelp window", kelp_window(keep, kelp)),
        DemoScene("Buoy at the window", buoy_at_window(keep, kelp)),
        DemoScene("Round the opening hours", opening_hours(keep)),
        DemoScene("Lanterns over still water", lanterns(keep)),
    ]


def path(path_id: str, name: str, data: str) -> Path:
    return Path(
        path_id, name, pathdata.subpaths(pathdata.runs(data, tolerance=pathdata.EDITING_TOLERANCE))
    )


def joined(corners: list[tuple[int, float, float]]) -> tuple[Peg, ...]:
    """Return pegs from (frame, %, % a frame), each with one speed on both sides."""
    pegs = [Peg(f"peg-{i}", float(t), AtPercent(p)) for i, (t, p, _) in enumerate(corners)]
    for i, (a, b) in enumerate(pairwise(corners)):
        span, gain, hold = b[0] - a[0], b[1] - a[1], 0.36
        pegs[i] = replace(pegs[i], leave=Reach(hold, hold * a[2] * span / gain))
        pegs[i + 1] = replace(pegs[i + 1], arrive=Reach(hold, hold * b[2] * span / gain))
    return tuple(pegs)


def pulse(name: str, length: int, rest: float | str, *swings: tuple[float, float | str]) -> Track:
    """Keys that leave a value and come back to it at the scene's end: each swing a share of its
    length and a value.
    """
    keys = [
        Key("k0", 0.0, rest),
        *(Key(f"k{i + 1}", length * at, v) for i, (at, v) in enumerate(swings)),
    ]
    return Track(name, paced((*keys, Key("end", float(length), rest)), easing.PRESETS["ease-both"]))


def whole_scene(
    path_id: str,
    length: int,
    pace: easing.Pace,
    facing: Facing,
    *,
    offset: float = 0,
    laps: float = 1,
) -> Ride:
    return Ride(path_id, simple_pegs(0.0, float(length), laps, pace), facing, offset)


def backdrop(
    layer_id: str, name: str, picture: Picture, middle: tuple[float, float] = (960, 540)
) -> Layer:
    """A picture that stands still, locked so that nobody picks it by accident."""
    return Layer(layer_id, name, picture, Transform(middle), locked=True)


REEF_RUN = (
    "M250 640C310 768.57 430 820 620 800C810 780 1060 750 1120 560C1180 370 1130 250 960 250C790 250 764 356 800 520"
    "C842 711 1020 840 1250 820C1480 800 1700 670 1680 480C1660 290 1490 160 1300 190C1046 230 770 270 620 330"
    "C420 410 180 490 250 640Z"
)


BENDS = [(0, 0.0, 0.26), (64, 31.0, 0.6), (120, 52.0, 0.24), (180, 77.0, 0.56), (240, 100.0, 0.26)]
"""Frame, % of the reef run, and % a frame, where the manta slows and where it speeds up."""


def manta_loop(keep: Keep) -> Scene:
    """A manta on a reef run that slows into the bends, with a pilot fish; it leaves bubbles."""
    length = 240
    reef = path("reef-run", "Reef run", REEF_RUN)
    pegs = joined(BENDS)
    manta = Layer("manta", "Manta", keep("manta", art.manta(), False), Transform(anchor=(0.62, 0.5)),
                  Ride(reef.id, pegs, Facing("along")))  # fmt: skip
    beside = Ride(reef.id, pegs, offset=-6.5)
    pilot = Layer("pilot", "Pilot fish", small_fish(74, 46), Transform(anchor=(0.5, 2.6)), beside)
    return Scene(
        length=length,
        background="#0c4a68",
        layers=(
            backdrop("sea", "Sea", keep("sea", art.sea(), True)),
            bubbles(keep),
            pilot,
            manta,
            backdrop("sea-bed", "Sea bed", keep("sea-bed", art.seabed(), True), (960, 910)),
            Layer("title", "Feeding at two", Text("Feeding at two", size=74, colour="#f4fffb", align="left"),
                  Transform((96, 96), anchor=(0, 0))),
            Layer("where", "Where", Text("Ground floor, Tidepool Hall", "Figtree", 500, 34, "#c8f0e8", "left"),
                  Transform((98, 190), anchor=(0, 0))),
        ),
        paths=(reef,),
        # What the same film says on other days.
        fields=(SceneField("What", "title", "text"), SceneField("Where", "where", "text")),
    )  # fmt: skip


def bubbles(keep: Keep) -> Layer:
    """What the manta leaves behind at its tail."""
    tail = Transform((-150, 0), scale=(0.5, 0.5), opacity=0.9)
    wake = replace(READY["bubbles"], inherit=0.25)
    picture, mother = keep("bubble", art.bubble(), False), Carrier("manta", turn=True)
    return Layer("bubbles", "Bubbles", picture, tail, carrier=mother, wake=wake)


def small_fish(width: float, height: float) -> Shape:
    """A striped fish that swims to the right."""
    colours = ("#f0a24a", "#ffe1a6", "#f0a24a")
    stripes = Gradient("linear", (0.0, 0.5), (1.0, 0.5), colours, (0.0, 0.5, 1.0))
    body = path("body", "Body", SUNFISH).subpaths
    return Shape("drawn", width, height, gradient=stripes, runs=body)


JELLIES = [("#f4a9c4", "#c2558f"), ("#f7c59a", "#d9744f"), ("#a9c8f4", "#4f74c9")]
"""Colours of bells and rims."""
TILTED = "M0 -900A430 900 0 0 1 0 900A430 900 0 0 1 0 -900Z"
DOME = Transform((540, 830), tilt=74, turn=8)
DRIFT = "M540 560C700 620 700 760 540 820S380 1020 540 1080S700 1000 700 820S600 480 540 560Z"


def jellies(keep: Keep) -> Scene:
    """Six jellyfish round an oval that lies tilted: they come out of the deep, zoom past and go
    back, none of them ever upside down.
    """
    length = 200
    oval = replace(path("oval", "Oval", TILTED), parent="round")
    drift = path("drift", "Drift", DRIFT)
    pictures = [keep(f"jelly-{i}", art.jelly(*JELLIES[i], i), False) for i in range(3)]
    ride = whole_scene(oval.id, length, easing.EVEN, Facing("fixed"))
    small = Layer("young", "Young one", pictures[1], Transform(scale=(0.5, 0.5)),
                  whole_scene(drift.id, length, easing.PRESETS["ease-both"], Facing("ahead", 90, ahead_s=0.8)),
                  keys=(pulse("scale", length, 0.5, (0.3, 0.74), (0.62, 0.42)),))  # fmt: skip
    return Scene(
        1080, 1920, Rate(25), length, "#1a1748",
        layers=(
            backdrop("dusk", "Dusk", keep("dusk", art.dusk(), True), (540, 960)),
            small,
            *reversed([*swarm(pictures, ride)]),
            Layer("round", "Round the dome", Group((0.0, 0.0), by_depth=True), DOME),
            Layer("title", "Title", Text("The jelly dome\nis open late", size=104, colour="#fbe9f4", leading=1.05),
                  Transform((540, 1640)), keys=(pulse("colour", length, "#fbe9f4", (0.25, "#f4a9c4"), (0.7, "#a9c8f4")),)),
        ),
        paths=(oval, drift),
    )  # fmt: skip


def swarm(pictures: list[Picture], ride: Ride) -> Iterator[Layer]:
    """Yield six jellyfish evenly spread on a ride: two of each picture, by copies."""
    look = Transform(scale=(0.95, 0.95), opacity=0.94, to_viewer=True)
    for i, picture in enumerate(pictures):
        place = replace(ride, offset=i * 100 / 6, copies=Copies(2))
        yield Layer(f"jelly-{i + 1}", f"Jelly {i + 1}", picture, look, place, parent="round")


FAR_BOB = "M1560 560C1590 560 1602 590 1596 620S1560 668 1536 640S1530 560 1560 560Z"


def swell(keep: Keep) -> Scene:
    """A line of text that comes in on the swell and leaves again, past a buoy."""
    length = 270
    wave = path("swell", "Swell", art.swell_course(640, 120, left=-900, right=2820, waves=4))
    bob = path("bob", "Bob", FAR_BOB)
    text = Text("High water at four", size=128, colour="#12405a")
    travel = simple_pegs(0.0, length - 1.0, 1.0, easing.Bezier(0.2, 0.32, 0.8, 0.68))
    return Scene(
        length=length,
        background="#e7efe4",
        layers=(
            backdrop("shore", "Shore", keep("shore", art.shore(), True)),
            Layer("buoy", "Buoy", keep("buoy", art.buoy(), False), Transform(anchor=(0.5, 0.72), scale=(0.8, 0.8)),
                  whole_scene(bob.id, length, easing.EVEN, Facing("fixed", -4), laps=3)),
            backdrop("far", "Far water", keep("far-water", art.water(700, 34, "#4f9499", waves=6), True)),
            Layer("words", "High water at four", text, Transform(anchor=(0.5, 0.92)),
                  Ride(wave.id, travel, Facing("along"), letters=Letters(), beyond="hide")),
            backdrop("near", "Near water", keep("near-water", art.water(840, 60, "#2f7d8a", waves=4), True)),
        ),
        paths=(wave, bob),
    )  # fmt: skip


OVAL = "M960 150C1330 150 1630 320 1630 540C1630 760 1330 930 960 930C590 930 290 760 290 540C290 320 590 150 960 150Z"
ROUND = "Tidepool Hall is open from ten to six  ·  the reef is fed at two  ·  last entrance at five  ·  "


def opening_hours(keep: Keep) -> Scene:
    """Letters round an oval, with sparkle behind a small fish that goes round inside it."""
    length = 300
    oval, inner = path("oval", "Oval", OVAL), path("inner", "Inner oval", INNER)
    words = Text(ROUND, "Figtree", 700, 66, "#f4fffb")
    around = whole_scene(oval.id, length, easing.EVEN, Facing("along"))
    return Scene(
        length=length,
        background="#0c4a68",
        layers=(
            backdrop("sea", "Sea", keep("sea", art.sea(), True)),
            Layer("sparkle", "Sparkle", wakes.LOOKS["sparkle"], Transform((-40, 0)), carrier=Carrier("fish", turn=True),
                  wake=READY["sparkle"]),
            Layer("fish", "Small fish", small_fish(96, 60), Transform(), whole_scene(inner.id, length, easing.EVEN, Facing("along"), laps=-1)),
            Layer("words", "Opening hours", words, Transform(anchor=(0.5, 0.74)),
                  replace(around, letters=Letters(squeeze=True))),
            Layer("today", "Today", Text("Open today", size=120, colour="#ffe1a6"), Transform((960, 540))),
        ),
        paths=(oval, inner),
    )  # fmt: skip


INNER = "M960 300C1230 300 1420 400 1420 540S1230 780 960 780S500 680 500 540S690 300 960 300Z"
ROUTE = (
    "M400 750C292 705 250 430 385 320C520 210 760 220 960 300C1180 388 1380 220 1535 370C1660 491 1600 676 1460 790"
    "C1310 912 1120 820 930 755C755 695 520 800 400 750Z"
)


LEVEL = 760.0
"""Of the water, px of the scene from its top."""


def lanterns(keep: Keep) -> Scene:
    """Paper lanterns sweep round over still water, each with its face to the viewer, lit by the
    moon and mirrored; the camera sways.
    """
    length = 240
    oval = "M200 700A760 560 0 0 1 1720 700A760 560 0 0 1 200 700Z"
    ring = replace(path("ring", "Ring", oval), parent="float")
    moon = Layer("moon", "Moonlight", Light("#dfe6ff", 0.95, reach=4200, ambient=0.4),
                 Transform((520, 120), z=-1500.0))  # fmt: skip
    sway = Layer("camera", "Camera", Camera(46.0), Transform((960, 560), tilt=6.0),
                 keys=(pulse("x", length, 960.0, (0.25, 1020.0), (0.75, 900.0)),
                       pulse("swing", length, 0.0, (0.25, 4.0), (0.75, -4.0))))  # fmt: skip
    return Scene(
        1920, 1080, Rate(30), length, "#101a3e",
        layers=(*night_water(keep), *afloat(keep, ring, length), moon, sway), paths=(ring,),
    )  # fmt: skip


def night_water(keep: Keep) -> list[Layer]:
    """A sky far behind still water, and words before it, none of them lit."""
    sky = backdrop("night", "Night", keep("night", art.night(), True))
    sky = replace(sky, transform=Transform((960, 500), scale=(1.9, 1.9), z=1600.0))
    dark = downwards("#8b7f9f", "#3a4a80", "#141d44")
    water = Layer("water", "Water", Shape("rectangle", 9000, 4800, "#24315f", gradient=dark),
                  Transform((960, LEVEL), tilt=90.0, z=900.0), locked=True)  # fmt: skip
    words = Text("Lantern night\nEvery Friday at dusk", size=84, colour="#fdf3dc", leading=1.1)
    title = Layer("title", "Title", words, Transform((960, 190), z=500.0))
    return [replace(each, lit=False) for each in (sky, water, title)]


def afloat(keep: Keep, ring: Path, length: int) -> list[Layer]:
    """Seven lanterns round a ring, and the group that lays them flat on the water: what is painted
    there goes round in depth.
    """
    picture = keep("lantern", art.lantern(), False)
    ride = whole_scene(ring.id, length, easing.EVEN, Facing("fixed"))
    stands = Transform(anchor=(0.5, 0.97), scale=(1.15, 1.15), to_viewer=True)
    image = Mirror(floor=LEVEL, strength=0.45)
    each = (
        Layer(f"lantern-{i + 1}", f"Lantern {i + 1}", picture, stands,
              replace(ride, offset=i * 100 / 7), parent="float", mirror=image, shine=0.15)
        for i in range(7)
    )  # fmt: skip
    lies = Transform((960, LEVEL), tilt=90.0, z=-60.0)
    return [*each, Layer("float", "On the water", Group((960, 700), by_depth=True), lies)]


def map_round(keep: Keep) -> Scene:
    """A torch that goes round the rooms on the visitors' map and rests in each."""
    length = 360
    route = path("route", "Route", ROUTE)
    labels = [
        Layer(f"room-{i}", name, Text(name, "Figtree", 700, 34, "#4b4234"),
              Transform((x + w / 2, y + h - 34)))
        for i, (name, x, y, w, h, _) in enumerate(art.ROOMS)
    ]  # fmt: skip
    line = Line(route.id, "#c9805f", 8, (4, 22))
    trace = Line(route.id, "#e4572e", 26, trail=560, thin=(0, 1))
    return Scene(
        length=length,
        background="#efe4cd",
        layers=(
            backdrop("plan", "Floor plan", keep("floor-plan", art.floor_plan(), True)),
            Layer("dashes", "Line on Route", line),
            Layer("trace", "Light of the torch", trace, carrier=Carrier("torch")),
            *labels,
            Layer("torch", "Torch", keep("torch", art.torch(), False), Transform(anchor=(0.17, 0.5)),
                  Ride(route.id, rests(route, length, 16), Facing("ahead", ahead_s=0.5))),
            Layer("title", "Title", Text("Once round, by torchlight", size=58, colour="#3a3226", align="left"),
                  Transform((150, 56), anchor=(0, 0))),
        ),
        paths=(route,),
    )  # fmt: skip


def rests(route: Path, length: int, frames: int) -> tuple[Peg, ...]:
    """Return pegs that rest so long at each node of a closed path, once round."""
    nodes = [node.id for node in route.nodes()]
    pegs = []
    for i, node in enumerate(nodes):
        time = i * (length / len(nodes))
        pegs += [Peg(f"in-{i}", time, AtNode(node)), Peg(f"out-{i}", time + frames, AtNode(node))]
    home = Peg("home", float(length), AtNode(nodes[0], lap=1))
    return paced((*pegs, home), easing.PRESETS["ease-both"])


def buoy(keep: Keep) -> Scene:
    """A buoy that bobs behind a wave, with nothing behind it: an overlay for other screens."""
    length = 96
    bob = path("bob", "Bob", "M320 268C352 268 366 300 360 336S322 392 290 356S286 268 320 268Z")
    wave = Shape("ellipse", 620, 150, "#2f7d8a")
    foam = replace(wave, width=560, height=96, fill="#5fb0b3")
    return Scene(
        640, 640, Rate(24), length, None,
        layers=(
            Layer("foam", "Far water", foam, Transform((320, 470)),
                  follows=(Follow("y", "buoy", "y", 268.0, 392.0, 466.0, 488.0, damping=0.2),)),
            Layer("buoy", "Buoy", keep("buoy", art.buoy(), False), Transform(anchor=(0.5, 0.62)),
                  whole_scene(bob.id, length, easing.PRESETS["ease-both"], Facing("fixed", 5))),
            Layer("wave", "Near water", wave, Transform((320, 520))),
            Layer("name", "Name", Text("Tidepool Hall", size=54, colour="#f4fffb"), Transform((320, 522))),
        ),
        paths=(bob,),
    )  # fmt: skip


PANE = "M920 500C920 709.87 749.87 880 540 880C330.13 880 160 709.87 160 500C160 290.13 330.13 120 540 120C749.87 120 920 290.13 920 500Z"  # fmt: skip
DRIFT = (
    "M540 350C700 340 790 420 780 510C770 600 660 640 540 640C420 640 310 600 300 510C290 420 380 360"
    " 540 350Z"
)
SUNFISH = (
    "M96 40C96 62 76 78 50 78C34 78 20 71 12 60L-16 76C-12 62 -12 18 -16 4L12 20C20 9 34 2 50 2C76 2 96 18 96 40Z"
    "M58 2C62 -14 52 -26 38 -30C42 -18 40 -8 36 3ZM58 78C62 94 52 106 38 110C42 98 40 88 36 77Z"
)
SAND = "M120 900C160 760 300 700 420 726C540 752 640 690 760 700C850 708 940 780 960 900Z"


def porthole() -> Scene:
    """A window onto the reef: what is seen in it is masked by its pane, a small fish goes with the
    large one, light falls through water that is a gradient.
    """
    length = 180
    pane, drift, sand = (
        path("pane", "Pane", PANE),
        path("drift", "Drift", DRIFT),
        path("sand", "Sand", SAND),
    )
    window = [replace(each, parent="window") for each in seen_inside(length, drift, sand)]
    bolts = Shape("ellipse", 842, 842, None, "#5d3f1c", 16, dash=(0.1, 165.2), cap="round")
    return Scene(
        1080, 1080, Rate(30), length, "#12303f",
        layers=(
            *window,
            Layer("window", "Window", Group((540, 500)), Transform((540, 500)), mask=Mask((MaskPart("pane"),))),
            Layer("rim", "Rim", Shape("ellipse", 760, 760, None, "#b98546", 64, side="outside"), Transform((540, 500))),
            Layer("lip", "Lip", Shape("ellipse", 760, 760, None, "#e2b877", 8), Transform((540, 500))),
            Layer("bolts", "Bolts", bolts, Transform((540, 500))),
            Layer("greeting", "Greeting",
                  Text("Welcome · Καλώς ήρθατε · \u0645\u0631\u062d\u0628\u0627", "Figtree", 600, 54, "#f4e3c3", italic=True),
                  Transform((540, 1016))),
        ),
        paths=(pane, replace(drift, parent="window"), replace(sand, parent="window")),
    )  # fmt: skip


def seen_inside(length: int, drift: Path, sand: Path) -> list[Layer]:
    """Return what is behind the pane, from the back to the front."""
    bed = Line(sand.id, None, 1, fill="#e9c98d", gradient=downwards("#f3dcae", "#9c7440"))
    return [
        *lit_water(length),
        Layer("sand-bed", "Sand bed", bed),
        *swimmers(length, drift),
    ]


def downwards(*colours: str) -> Gradient:
    """Return colours that go over into each other from the top to the bottom, evenly."""
    offsets = tuple(i / (len(colours) - 1) for i in range(len(colours)))
    return Gradient("linear", (0.5, 0.0), (0.5, 1.0), colours, offsets)


def lit_water(length: int) -> list[Layer]:
    """Return water that brightens and darkens, and two beams of light in it."""
    water = Shape("rectangle", 820, 820, gradient=downwards("#9fe3d6", "#2a8ea0", "#0b3f57"))
    deeper = pulse("stop_2_at", length, 0.45, (0.5, 0.56))
    beams = [
        ("light", "Light", 220, (470.0, 470.0), pulse("opacity", length, 0.9, (0.35, 0.35), (0.7, 0.7))),
        ("light-2", "Light, narrow", 90, (690.0, 440.0), pulse("opacity", length, 0.4, (0.5, 0.9))),
    ]  # fmt: skip
    fading = downwards("#ffffffb0", "#ffffff00")
    return [
        Layer("water", "Water", water, Transform((540, 500)), keys=(deeper,)),
        *(
            Layer(name, title, Shape("rectangle", wide, 760, gradient=fading),
                  Transform(place, skew=18), blend="screen", keys=(fades,))
            for name, title, wide, place, fades in beams
        ),
    ]  # fmt: skip


def swimmers(length: int, drift: Path) -> list[Layer]:
    """Return a sunfish that rides round, and a small fish that goes with it."""
    body = path("body", "Body", SUNFISH).subpaths
    warm = ("#ffe1a6", "#f0a24a", "#c2571e")
    scales = Gradient("radial", (0.62, 0.42), (0.05, 0.9), warm, (0.0, 0.5, 1.0))
    cool = Gradient("linear", (0.0, 0.5), (1.0, 0.5), ("#2a7590", "#bfeee6"))
    bobs = pulse("y", length, 74.0, (0.25, 92.0), (0.5, 70.0), (0.75, 90.0))
    return [
        Layer("sunfish", "Sunfish", Shape("drawn", 190, 210, gradient=scales, runs=body), Transform(),
              whole_scene(drift.id, length, easing.EVEN, Facing("along", keep_upright=True))),
        Layer("cleaner", "Cleaner", Shape("ellipse", 62, 22, gradient=cool), Transform((96, 74)),
              carrier=Carrier("sunfish", turn=True, scale=True), keys=(bobs,)),
    ]  # fmt: skip


BLADE = "M0 -300C26 -230 -22 -170 8 -110C30 -64 6 -30 0 0C-16 -40 -34 -70 -14 -120C-40 -180 -6 -236 0 -300Z"
"""A blade of kelp, its foot at the origin."""
KELP = [
    (60, 1.5, "#0d4f45"),
    (210, 1.1, "#17695a"),
    (330, 1.7, "#0d4f45"),
    (520, 1.25, "#1f7d63"),
    (690, 1.6, "#115a4c"),
    (800, 1.0, "#2a8f6c"),
    (905, 1.45, "#0d4f45"),
]
"""Px from the left, how large, and what colour."""


def kelp_film() -> Scene:
    """Return what the camera at the kelp saw: blades that sway for three seconds and come round."""
    length, blade = 90, path("blade", "Blade", BLADE).subpaths
    deep = Gradient(
        "linear", (0.5, 0.0), (0.5, 1.0), ("#7fd0cf", "#1c6f86", "#08374c"), (0.0, 0.5, 1.0)
    )
    blades = [
        Layer(f"blade-{i}", f"Blade {i + 1}", Shape("drawn", 64 * size, 300 * size, fill=colour, runs=blade),
              Transform((x, 545.0), anchor=(0.5, 1.0)),
              keys=(pulse("skew", length, 9.0 * sway, (0.25, 15.0 * sway), (0.75, -13.0 * sway)),))
        for i, (x, size, colour) in enumerate(KELP)
        for sway in [1 if i % 2 else -0.8]
    ]  # fmt: skip
    water = Layer(
        "water", "Water", Shape("rectangle", 960, 540, gradient=deep), Transform((480, 270))
    )
    light = Layer(
        "light", "Light", Shape("rectangle", 150, 600, gradient=Gradient("linear", (0.5, 0), (0.5, 1), ("#ffffff90", "#ffffff00"))),
        Transform((330, 250), skew=20), blend="screen", keys=(pulse("opacity", length, 0.8, (0.5, 0.35)),),
    )  # fmt: skip
    return Scene(960, 540, length=length, layers=(water, light, *blades))


def kelp_window(keep: Keep, kelp: Footage) -> Scene:
    """Footage of kelp that plays again and again behind a manta on its round."""
    length = 180
    course = path("pass", "Past the kelp", "M300 620C300 360 760 250 1010 430C1260 610 1640 560 1640 380C1640 210 1330 210 1080 400"
                  "C820 600 300 900 300 620Z")  # fmt: skip
    around = whole_scene(course.id, length, easing.EVEN, Facing("along"))
    where = "The kelp window  ·  Tidepool Hall"
    return Scene(
        length=length,
        background="#08374c",
        layers=(
            kelp_ground(kelp),
            Layer("manta", "Manta", keep("manta", art.manta(), False), Transform(scale=(0.8, 0.8)), around),
            Layer("title", "Where", Text(where, size=44, colour="#f4fbf8", align="left"), Transform((96, 964), anchor=(0, 0))),
        ),
        paths=(course,),
    )  # fmt: skip


def kelp_ground(kelp: Footage) -> Layer:
    played = replace(kelp, after="repeat")
    return Layer("kelp", "Kelp", played, Transform((960, 540), scale=(2.0, 2.0)), locked=True)


def buoy_at_window(keep: Keep, kelp: Footage) -> Scene:
    """Another scene without a ground over footage: smaller, aslant, faster, and drifting past."""
    bobbing = Beside(named("Bobbing buoy"), "Bobbing buoy", buoy(keep))
    length = 180
    drift = path("drift", "Drift", "M420 300C760 210 1180 250 1500 330C1240 420 700 430 420 300Z")
    along = whole_scene(drift.id, length, easing.EVEN, Facing("fixed", turn=-6.0))
    # It bobs for 4 s, and twice while the kelp plays once.
    twice = replace(inset_of(bobbing.id, bobbing.scene), speed=2 * bobbing.scene.seconds / 6)
    return Scene(
        length=length,
        background="#08374c",
        layers=(
            kelp_ground(kelp),
            Layer("buoy", "Buoy", twice, Transform(scale=(0.62, 0.62)), along),
            Layer("title", "Where", Text("Upstairs: the harbour", size=64, colour="#f4fbf8", align="left"),
                  Transform((96, 900), anchor=(0, 0))),
        ),
        paths=(drift,),
        scenes=(bobbing,),
    )  # fmt: skip


def named(name: str) -> str:
    """Return the id by which scenes of the demo know another one."""
    return name.lower().replace(" ", "-")


def by_hand(keep: Keep) -> DemoScene:
    """A torch led round the map by hand: a take by the simulated one, made a loop, with its own
    swelling pace.
    """
    length, fps = 240, 30
    text = led_round(length, fps)
    how = takes.Smoothing(6.0, close=True)
    found = takes.smooth(takes_csv.read(text).take(), how, fps=fps)
    pegs = retimed(found.pegs, 0.0, float(length))
    drawn = Provenance("demo.csv", tolerance=how.tolerance, close=True)
    walk = Path("walk", "Walk by hand", (found.run,), drawn=drawn)
    scene = Scene(
        length=length,
        background="#efe4cd",
        layers=(
            backdrop("plan", "Floor plan", keep("floor-plan", art.floor_plan(), True)),
            Layer("glow", "Trail", Line(walk.id, "#f0a24a", 7, (3, 18)), Transform(opacity=0.8)),
            Layer("torch", "Torch", keep("torch", art.torch(), False), Transform(anchor=(0.17, 0.5)),
                  Ride(walk.id, pegs, Facing("ahead", ahead_s=0.4, settle_s=0.25))),
            Layer("title", "Title", Text("Where the keeper walked", size=58, colour="#3a3226", align="left"),
                  Transform((150, 56), anchor=(0, 0))),
        ),
        paths=(walk,),
    )  # fmt: skip
    return DemoScene("The keeper's round", scene, {walk.id: text})


def led_round(length: int, fps: int) -> str:
    """Return a take of the simulated hand led round the map, as CSV."""
    course = Way(path("c", "C", HAND_ROUTE), Ride("c", simple_pegs(0, 1, 1, easing.EVEN)))
    t = np.linspace(0.0, length / fps, length * 4 + 1)
    share = t / t[-1] - 0.09 * np.sin(4 * np.pi * t / t[-1]) / (2 * np.pi) * 2
    truth = course.measure.locate(np.clip(share, 0, 1) * course.length).position
    drawn = hand.follow(11, t, truth, tremor=1.6)
    return takes_csv.to_csv(takes.checked_take(drawn.times, drawn.places))


HAND_ROUTE = (
    "M330 560C330 380 520 300 700 330C900 364 930 520 1080 560C1260 608 1350 420 1500 470C1640 516 1620 720 1480 780"
    "C1300 858 1130 720 940 760C760 798 640 880 500 820C390 772 330 690 330 560Z"
)
