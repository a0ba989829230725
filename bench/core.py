"""The core alone: arc length, evaluation, drawing, rendering."""

import multiprocessing
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import chain
from pathlib import Path as File

import numpy as np
import skia
import svgpathtools

from bench.measure import Report, best_of, timed, undisturbed
from coaster.export import render as rendering
from coaster.export.chunks import Chunk, chunks_of, job_of
from coaster.export.drawers import cores, painter_of
from coaster.export.orders import order_for
from coaster.formats import pathdata
from coaster.geometry import affine, figures
from coaster.geometry import path as paths
from coaster.geometry.measure import MeasuredPath
from coaster.geometry.path import Path
from coaster.media import pictures
from coaster.media.writers import kind_for
from coaster.motion import easing
from coaster.motion.keys import Key
from coaster.motion.rate import Rate
from coaster.motion.ride import Facing, Ride
from coaster.motion.sampling import simple_pegs
from coaster.render import evaluate, stage
from coaster.render.blur import BlurredPainter
from coaster.render.display import program_of
from coaster.render.evaluate import Evaluation
from coaster.render.inks import (
    as_image,
    canvas_on,
    colour_of,
    paints,
    skia_matrix,
    skia_path,
)
from coaster.render.raster import Painter, Surface
from coaster.render.stage import Glance
from coaster.scene.contents import Group, Picture, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.masks import Mask, MaskPart
from coaster.scene.properties import Track
from studio.demo import scenes as demo

QUERIES, ACCURACY = 600, 1e-9
LENGTHS = 240, 3_600, 36_000


def twelve_segments() -> np.ndarray:
    rng = np.random.default_rng(4)
    points = np.cumsum(rng.normal(0, 160, (37, 2)), axis=0) + 800
    return np.stack([points[3 * i : 3 * i + 4] for i in range(12)])


def arc_length() -> Report:
    """600 places on a 12-segment path, against a library that inverts the length query by query."""
    pieces = twelve_segments()
    wanted = np.linspace(0, MeasuredPath(pieces).length, QUERIES)

    measured = MeasuredPath(pieces)

    def places() -> np.ndarray:
        return measured.locate(wanted).position

    def from_nothing() -> np.ndarray:
        return MeasuredPath(pieces).locate(wanted).position

    path = svgpathtools.Path(
        *[svgpathtools.CubicBezier(*(complex(*p) for p in piece)) for piece in pieces]
    )
    total = path.length(error=1e-12)
    few = np.linspace(0.02, 0.98, 12)

    def theirs() -> list[complex]:
        return [
            path.point(path.ilength(share * total, s_tol=ACCURACY * total, error=1e-12))
            for share in few
        ]

    ours_s, first_s = best_of(places, 15), best_of(from_nothing, 15)
    theirs_s = best_of(theirs, 5) / len(few) * QUERIES
    exact = np.array([[p.real, p.imag] for p in theirs()])
    apart = np.abs(measured.locate(few * measured.length).position - exact).max()
    return Report(
        "Arc-length inverse: 600 frames on a 12-segment path to 1e-9",
        {
            "600 places on the measured path, ms": ours_s * 1e3,
            "the same, measuring the path first, ms": first_s * 1e3,
            "svgpathtools ilength on its measured path, ms": theirs_s * 1e3,
            "times faster": theirs_s / ours_s,
            "times faster, measuring first": theirs_s / first_s,
            "largest difference / path length": float(apart) / measured.length,
        },
        "a few ms, at least 300 times faster",
    )


def evaluation() -> Report:
    """A scene of 20 riders and 600 frames, and the demo's manta scene, both from nothing."""
    course = pathdata.subpaths(pathdata.runs(demo.REEF_RUN))
    riders, courses = [], []
    for i in range(20):
        moved = Path(f"p{i}", f"P{i}", tuple(replace(s, nodes=s.nodes) for s in course))
        courses.append(moved)
        ride = Ride(
            moved.id, simple_pegs(0, 600, 1, easing.PRESETS["ease-both"]), Facing(), offset=i * 5
        )
        riders.append(Layer(f"r{i}", f"R{i}", Shape(), ride=ride))
    large = Scene(length=600, rate=Rate(60), layers=tuple(riders), paths=tuple(courses))
    small = demo.manta_loop(lambda name, drawing, px: Picture(f"{name}.png", 100, 100))

    def fresh(scene: Scene) -> None:
        evaluate.forget()
        Evaluation(scene).motions_of(scene.layers)

    large_s, small_s = best_of(lambda: fresh(large), 9), best_of(lambda: fresh(small), 9)
    return Report(
        "Evaluating a scene",
        {"20 riders x 600 frames, ms": large_s * 1e3, "layer-frames a second": 20 * 600 / large_s,
         "the demo's manta scene (10 riders x 240 frames), ms": small_s * 1e3},
        "50 ms for 20 riders x 600 frames",
    )  # fmt: skip


def lengths(rounds: int = 9) -> Report:
    """What the browser is sent first of a scene with 20 riders, by the scene's length."""
    asked = ("all of it", "an edit", "a glance")
    calls: dict[tuple[int, str], Callable[[], bytes]] = {}
    for length in LENGTHS:
        scene, before = of_length(length), of_length(length, 1.0)
        packs = (
            partial(stage.pack, scene),
            partial(stage.pack, scene, before),
            partial(stage.pack, scene, before, glance=Glance(0, scene.layers[0].id)),
        )
        calls |= {(length, name): pack for name, pack in zip(asked, packs, strict=True)}
    # By turns, so that what the machine gives changes alike for all of them.
    spent: dict[tuple[int, str], list[float]] = {key: [] for key in calls}
    for _ in range(rounds):
        for key, pack in calls.items():
            spent[key].append(timed(partial(_afresh, pack))[0])
    figures: dict[str, float] = {}
    for length in LENGTHS:
        for name in asked:
            found = statistics.median(spent[length, name])
            figures[f"{length:,} frames: {name}, ms"] = found * 1e3
        figures[f"{length:,} frames: all of it, MB"] = len(calls[length, "all of it"]()) / 1e6
    for name in asked:
        pairs = zip(spent[LENGTHS[-1], name], spent[LENGTHS[0], name], strict=True)
        figures[f"36,000 / 240: {name}"] = statistics.median(long / short for long, short in pairs)
    return Report("20 riders of one path, by length", figures, "36,000 at most 1.5 times 240")


def _afresh(pack: Callable[[], bytes]) -> bytes:
    """Pack as if nothing had been asked before."""
    evaluate.forget()
    return pack()


def of_length(length: int, moved: float = 0.0) -> Scene:
    """Return a scene of 20 riders, their path moved by px."""
    runs = pathdata.subpaths(pathdata.runs(demo.REEF_RUN))
    course = Path("p", "P", paths.transformed(runs, np.array([1.0, 0, 0, 1, moved, 0])))
    pegs = simple_pegs(0, length, 1, easing.PRESETS["ease-both"])
    riders = [
        Layer(f"r{i}", f"R{i}", Shape(), ride=Ride("p", pegs, Facing(), offset=i * 5))
        for i in range(20)
    ]
    return Scene(length=length, layers=tuple(riders), paths=(course,))


def keeper(folder: File) -> demo.Keep:
    """Return what keeps the demo's pictures in a folder."""

    def keep(name: str, drawing: bytes, px_for_px: bool) -> Picture:
        found = demo.imported(name, drawing, px_for_px)
        (folder / (name + found.ending)).write_bytes(found.data)
        return Picture(name + found.ending, found.width, found.height)

    return keep


def manta(folder: File) -> Scene:
    """The demo's manta scene with its pictures in ``folder``."""
    return demo.manta_loop(keeper(folder))


def plain_painter(scene: Scene, folder: File):
    """Return a function that draws a frame as one would first write it: every layer, by the
    library.
    """
    images = {name: as_image(pictures.load(folder / name)) for name in scene.assets()}
    sampling = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)
    steps = list(program_of(Evaluation(scene)).one_by_one())

    def paint(frame: int, into: np.ndarray) -> None:
        canvas = canvas_on(into)
        canvas.clear(colour_of(scene.background or "#00000000"))
        for item in steps:
            face, opacity = item.faces.at(frame), item.strength(frame)
            canvas.save()
            canvas.concat(skia_matrix(item.map(frame)))
            if face.picture:
                image = images[face.picture[0]]
                shrink = affine.scaling(face.size[0] / image.width(), face.size[1] / image.height())
                canvas.save()
                canvas.concat(skia_matrix(shrink))
                canvas.drawImage(image, 0, 0, sampling, skia.Paint(Alphaf=opacity))
                canvas.restore()
            for outline in item.outlines(frame):
                for brush in paints(outline, opacity):
                    canvas.drawPath(skia_path(outline.figure), brush)
            canvas.restore()

    return paint


@dataclass
class Trial:
    """A scene whose frames are ready: what can be timed of its render."""

    scene: Scene
    folder: File

    def __post_init__(self) -> None:
        self.painter = painter_of(self.scene, self.folder)
        self.painter.prepare()
        self.frames = [self.painter.picture(i) for i in range(self.scene.length)]
        self.out = self.folder / "out.mp4"
        self.kind, self.order = kind_for(self.out.name), order_for(self.scene)

    def encode(self) -> None:
        """Encode the chunks of a render, as many side by side as there are processors."""
        side_by_side(partial(self._encode, self._chunks()))

    def _encode(self, chunks: list[Chunk], part: slice) -> None:
        for chunk in chunks[part]:
            job = job_of(self.scene, self.order, self.folder / chunk.name)
            with self.kind.open(job) as writer:
                for pixels in self.frames[chunk.first : chunk.last]:
                    writer.write(pixels)

    def draw(self) -> None:
        """Draw all frames as a render does, side by side as well: the scene is evaluated and
        pictures are read, once, and what stays as it is stays.
        """
        evaluate.forget()
        painter = painter_of(self.scene, self.folder)
        painter.prepare()
        stretches = [range(chunk.first, chunk.last) for chunk in self._chunks()]
        side_by_side(partial(draw_those, painter, stretches))

    def _chunks(self) -> list[Chunk]:
        return chunks_of(self.scene, self.order, self.kind)

    def draw_anew(self) -> None:
        """Draw each frame as if it were the first."""
        buffer = np.empty_like(self.frames[0])
        for i in range(self.scene.length):
            self.painter.paint(i, buffer)

    def whole(self) -> None:
        evaluate.forget()
        rendering.render(self.scene, self.folder, self.out, self.order)


def draw_those(painter: Painter | BlurredPainter, stretches: Sequence[range], part: slice) -> None:
    """Draw some stretches of pictures, one after the other."""
    surface = Surface(np.empty((painter.height, painter.width, 4), np.uint8))
    for picture in chain(*stretches[part]):
        painter.painted(picture, surface)


def side_by_side(work: Callable[[slice], None]) -> None:
    """Do parts of some work in as many processes as there are processors: what others do beside it
    costs memory's time, and floors are to say so.
    """
    most = cores()
    context = multiprocessing.get_context("fork")
    hands = [context.Process(target=work, args=(slice(i, None, most),)) for i in range(most)]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join()
    assert not any(hand.exitcode for hand in hands)


def floor_of(encode: tuple[float, float], draw: tuple[float, float]) -> float:
    """Return how many seconds a render lasts at least, of wall and CPU seconds of both."""
    return max(encode[0], (encode[1] + draw[1]) / cores())


def floors(lasts: float = 30.0) -> Report:
    """Every scene of the demo at 1080p, by sums over s of its renders: what a machine gives differs
    from one minute to the next, so each render has its encoding before it and after it.
    """
    figures = {}
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as name:
        folder = File(name)
        for called, scene in demo_scenes(keeper(folder)):
            trial = Trial(replace(scene, background=scene.background or SEA), folder)
            encodes, draws, wholes = [undisturbed(trial.encode)], [], []
            while sum(wall for wall, _ in wholes) < lasts:
                draws.append(undisturbed(trial.draw))
                wholes.append(undisturbed(trial.whole))
                encodes.append(undisturbed(trial.encode))
            encode, draw, whole = (np.mean(each, axis=0) for each in (encodes, draws, wholes))
            figures[f"{called}, over the floor"] = float(whole[0]) / floor_of(encode, draw)
    notes = [
        "Single renders differ by a tenth; without what others took of the processors meanwhile.",
        "What only encodes converts all of each frame; a render, what changed.",
    ]
    return Report("Rendering every scene of the demo, H.264", figures, "at most 1.05", notes)


SEA = "#0b3f57"


def demo_scenes(keep: demo.Keep) -> Iterator[tuple[str, Scene]]:
    makers = demo.manta_loop, demo.jellies, demo.swell, demo.opening_hours
    for make in (*makers, demo.map_round, demo.buoy):
        yield make.__name__.replace("_", " "), make(keep)
    yield "porthole", demo.porthole()


def render(rounds: int = 7) -> tuple[Report, Report]:
    """The demo's 1080p manta scene, against only encoding the same frames; interleaved."""
    with tempfile.TemporaryDirectory(prefix="coaster-bench-") as name:
        folder = File(name)
        trial = Trial(manta(folder), folder)
        scene, plain = trial.scene, plain_painter(trial.scene, folder)
        buffer = np.empty_like(trial.frames[0])
        plain(0, buffer)

        def draw_plainly() -> None:
            for i in range(scene.length):
                plain(i, buffer)

        runs = {"encode": [], "whole": [], "draw": [], "anew": [], "plain": []}
        works = (trial.encode, trial.whole, trial.draw, trial.draw_anew, draw_plainly)
        for _ in range(rounds):
            for results, work in zip(runs.values(), works, strict=True):
                results.append(timed(work))
    middle = {
        w: [statistics.median(each) for each in zip(*r, strict=True)] for w, r in runs.items()
    }
    ratios = sorted(a[0] / b[0] for a, b in zip(runs["whole"], runs["encode"], strict=True))
    best = {w: min(r[0] for r in results) for w, results in runs.items()}
    floor = floor_of(middle["encode"], middle["draw"]) / middle["encode"][0]
    ratio = statistics.median(ratios)
    per_frame = 1e3 / scene.length
    whole_render = Report(
        f"Rendering the manta scene: {scene.length} frames, 1920 x 1080, H.264",
        {"whole render, wall s": middle["whole"][0],
         "encoding the ready frames, wall s": middle["encode"][0],
         "render / encode, median of pairs": ratio, "smallest pair": ratios[0], "largest pair": ratios[-1],
         "render / encode, the quickest of each": best["whole"] / best["encode"],
         "floor": floor, "over the floor": ratio / floor,
         "encode CPU, s": middle["encode"][1], "draw CPU, s": middle["draw"][1]},
        "over the floor by at most 5 %",
    )  # fmt: skip
    drawing = Report(
        "Drawing a frame of it",
        {"CPU a frame, ms": middle["anew"][1] * per_frame,
         "CPU a frame, every layer drawn plainly by the library, ms": middle["plain"][1] * per_frame,
         "times less": middle["plain"][1] / middle["anew"][1]},
        "as low as it goes",
    )  # fmt: skip
    return whole_render, drawing


MASKED, MASKED_FRAMES = 12, 40


def masked_groups(*, masked: bool) -> Scene:
    """Return twelve groups of 400 x 300 px that move and turn, blended, behind soft masks of their
    own, or without these.
    """
    paths, layers = [], [Layer("sea", "Sea", Shape("rectangle", 1920, 1080), Transform((960, 540)))]
    for i in range(MASKED):
        group, window = f"g{i}", figures.figure("ellipse", 20, 20, 360, 260)
        paths.append(Path(f"p{i}", f"P{i}", (window,), parent=group))
        layers += [
            Layer(f"a{i}", "A", Shape("rectangle", 400, 300), Transform((200, 150)), parent=group),
            Layer(f"b{i}", "B", Shape("star", 200, 200), Transform((250, 150)), parent=group),
            _in_motion(group, i, Mask((MaskPart(f"p{i}"),), feather=20.0) if masked else None),
        ]
    return Scene(1920, 1080, length=MASKED_FRAMES, layers=tuple(layers), paths=tuple(paths))


def _in_motion(name: str, number: int, mask: Mask | None) -> Layer:
    place = 110.0 + number % 4 * 430, 70.0 + number // 4 * 320
    ends = {"x": (place[0], place[0] + 60), "turn": (0.0, 8.0)}
    keys = tuple(
        Track(what, (Key("a", 0, first), Key("b", MASKED_FRAMES, last)))
        for what, (first, last) in ends.items()
    )
    blend = ("multiply", "screen", "overlay", "normal")[number % 4]
    return Layer(
        name, name, Group(), Transform(place, opacity=0.9), keys=keys, blend=blend, mask=mask
    )  # fmt: skip


def masks() -> Report:
    """CPU of a 1080p frame of masked, blended groups, beside the same groups plainly drawn."""
    painters = {masked: Painter(program_of(Evaluation(masked_groups(masked=masked))), source=None)
                for masked in (True, False)}  # fmt: skip

    def cpu(masked: bool) -> float:
        surface = Surface(np.empty((1080, 1920, 4), np.uint8))
        painters[masked].repaint(0, surface)
        begun = time.process_time()
        for frame in range(MASKED_FRAMES):
            painters[masked].repaint(frame, surface)
        return (time.process_time() - begun) / MASKED_FRAMES * 1e3

    found = {masked: min(cpu(masked) for _ in range(5)) for masked in (True, False)}
    return Report(
        "Twelve moving groups of 400 x 300 px, blended, behind soft masks",
        {
            "CPU a frame, ms": found[True],
            "the same without masks, ms": found[False],
            "times": found[True] / found[False],
        },
        "CPU a frame 40 ms",
    )
