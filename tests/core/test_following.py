"""A spot followed through made footage whose movement is known, and what is made of it."""

from collections.abc import Callable
from dataclasses import replace

import cv2
import numpy as np
import pytest

from coaster.commands import applied
from coaster.edits import following as edits
from coaster.edits.takes import NewTake, add_take
from coaster.errors import EditRefused, MediaError
from coaster.formats.takes import read
from coaster.media.following import LARGEST_SIDE, Marked, follow
from coaster.render.evaluate import Evaluation
from coaster.scene.contents import Footage, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.footage import FrameTimes

WIDTH, HEIGHT = 640, 360
RANDOM = np.random.default_rng(4)
DISC = 100
"""Px across of what moves."""
Pose = Callable[[int], tuple[float, float, float, float]]
"""Its place, turn (degrees) and size, by the frame."""


def blotches(size: tuple[int, int], blur: float) -> np.ndarray:
    made = cv2.GaussianBlur(RANDOM.uniform(0, 255, size).astype(np.float32), (0, 0), blur)
    return (made - made.min()) / (made.max() - made.min()) * 255


GROUND = cv2.resize(blotches((HEIGHT // 8, WIDTH // 8), 2), (WIDTH, HEIGHT))
THING = blotches((DISC, DISC), 2)
EDGE = cv2.circle(
    np.zeros((DISC, DISC), np.float32), (DISC // 2, DISC // 2), 44, 1, -1, cv2.LINE_AA
)


class Made:
    """A disc of blotches over a ground of larger ones, with noise and light that comes and goes."""

    def __init__(self, pose: Pose, noise: float = 0, light: float = 0, gone: int = 10_000) -> None:
        self.pose, self.noise, self.light, self.gone = pose, noise, light, gone

    def pixels(self, index: int) -> np.ndarray:
        x, y, turn, size = self.pose(index)
        middle = (DISC - 1) / 2
        to_frame = cv2.getRotationMatrix2D((middle, middle), turn, size)
        to_frame[:, 2] += (x - middle, y - middle)
        seen = [cv2.warpAffine(each, to_frame, (WIDTH, HEIGHT)) for each in (THING, EDGE)]
        there = seen[1] if index < self.gone else 0
        grey = GROUND * (1 - there) + seen[0] * there
        grey = grey * (1 + self.light * np.sin(index / 9))
        grey += np.random.default_rng(index).normal(0, self.noise, grey.shape) if self.noise else 0
        level = np.clip(np.round(grey), 0, 255).astype(np.uint8)
        return np.dstack([level, level, level, np.full_like(level, 255)])


POSES: dict[str, Pose] = {
    "slides": lambda i: (90 + 5.37 * i, 180 + 40 * np.sin(i / 9), 0, 1),
    "leaps": lambda i: (120 + 9 * i, 180 + 110 * np.sin(i / 5), 0, 1),
    "turns": lambda i: (120 + 4.1 * i, 180 + 30 * np.sin(i / 7), 1.7 * i, 1),
    "grows": lambda i: (120 + 3.3 * i, 180 + 20 * np.sin(i / 7), 0, 1 + 0.012 * i),
    "turns and shrinks": lambda i: (120 + 5 * i, 180 + 60 * np.sin(i / 11), 2 * i, 1 - 0.006 * i),
}


def errors(found, pose: Pose) -> np.ndarray:
    return np.array([np.hypot(s.x - pose(s.index)[0], s.y - pose(s.index)[1]) for s in found.spots])


@pytest.mark.parametrize("noise", [0, 6])
@pytest.mark.parametrize("pose", POSES.values(), ids=POSES)
def test_it_is_found_within_a_fifth_of_a_px_whatever_it_does(pose, noise):
    x, y, *_ = pose(0)
    footage = Made(pose, noise, light=noise / 40)
    found = follow(footage, Marked(0, x, y, 60, 60), None, range(1, 40))
    assert (found.lost, len(found.spots)) == (False, 39)
    off = errors(found, pose)
    assert (np.median(off) < 0.1, off.max() < 0.2) == (True, True)
    assert min(spot.sure for spot in found.spots) > 0.9


def test_backwards_and_in_parts_it_is_the_same():
    pose = POSES["turns"]
    footage, marked = Made(pose, 3), Marked(30, *pose(30)[:2], 50, 70)
    whole = follow(footage, marked, None, range(29, -1, -1))
    first = follow(footage, marked, None, range(29, 14, -1))
    second = follow(footage, first.marked, first.warp, range(14, -1, -1))
    assert (*first.spots, *second.spots) == whole.spots
    assert errors(whole, pose).max() < 0.2


@pytest.mark.parametrize(
    ("footage", "last"),
    [
        (Made(POSES["slides"], 4, gone=25), 24),
        (Made(lambda i: (400 + 20 * i, 180, 0, 1), 2), 11),
    ],
    ids=["it vanishes", "it leaves the frame"],
)
def test_where_it_is_lost_it_stops_and_says_so(footage, last):
    x, y, *_ = footage.pose(0)
    found = follow(footage, Marked(0, x, y, 60, 60), None, range(1, 40))
    assert found.lost
    assert found.spots[-1].index in range(last - 1, last + 1)


def test_what_cannot_be_followed_is_said():
    class Plain:
        def pixels(self, index):
            return np.full((HEIGHT, WIDTH, 4), 90, np.uint8)

    with pytest.raises(MediaError, match="looks the same all over"):
        follow(Plain(), Marked(0, 100, 100, 40, 40), None, [1])
    for side in (4, LARGEST_SIDE + 1):
        with pytest.raises(MediaError, match="its sides may have 8 to 400 px"):
            follow(Made(POSES["slides"]), Marked(0, 100, 100, side, 40), None, [1])


FILM = Footage("a.mp4", 320, 180, FrameTimes(25, ((40, 1),)))
"""Half as large in the scene as in the file."""


def scene(fps: int = 25, **played) -> Scene:
    film = Layer("film", "Film", replace(FILM, **played), Transform((200, 100), turn=90.0))
    box = Layer("box", "Box", Shape(), Transform((9, 9)))
    return Scene(400, 300, replace(Scene().rate, numerator=fps), 40, layers=(film, box))


SPOTS = {index: (320.0 + 4 * index, 180.0) for index in range(40)}
SIZE = (640.0, 360.0)


def test_places_of_the_file_are_those_of_the_scene_and_back():
    frames, places = edits.in_scene(scene(), "film", SPOTS, SIZE)
    assert frames.tolist() == list(range(40))
    # A quarter turned, what goes to the right in the file goes down by half of it.
    assert places[:3] == pytest.approx(np.array([[200, 100], [200, 102], [200, 104]]))
    assert edits.file_place(scene(), "film", 0, (200.0, 102.0), SIZE) == pytest.approx((324, 180))
    assert edits.file_frame(scene(speed=2.0), "film", 10) == 20


@pytest.mark.parametrize(
    ("played", "wanted"),
    [
        ({"speed": 2.0, "after": "repeat"}, [0, 2, 4, 38]),
        ({"speed": -1.0}, [39, 38, 37, 0]),
        ({"speed": 4.0, "after": "return"}, [0, 4, 8, 38]),
        ({"starts": 10.0}, [0, 1, 2, 29]),
        ({"speed": 4.0}, [0, 4, 8, 39]),
    ],
)
def test_of_footage_that_comes_again_only_the_first_time_counts(played, wanted):
    _, places = edits.in_scene(scene(**played), "film", SPOTS, SIZE)
    seen = (places[:, 1] - 100) / 2
    # What has not begun shows its first frame: one of these is enough.
    moving = seen[np.flatnonzero(np.diff(seen))[0] :]
    assert [*moving[:3], moving[-1]] == pytest.approx(wanted)


def test_as_a_take_it_is_a_path_with_its_timing():
    text, start = edits.as_take(scene(), "film", SPOTS, SIZE)
    assert (start, read(text).take().duration) == pytest.approx((0, 39 / 25))
    after = applied(
        scene(), add_take(scene(), text, NewTake("t.csv", start, "box", "Spot")).commands
    )
    gone = Evaluation(after).motion("box").travel
    assert gone is not None
    assert np.abs(gone.position[:40] - edits.in_scene(scene(), "film", SPOTS, SIZE)[1]).max() < 0.6


def test_as_a_helper_it_is_there_in_every_frame():
    edit = edits.as_helper(scene(), "film", SPOTS, SIZE)
    after = applied(scene(), edit.commands)
    helper = after.layers[-1]
    assert (helper.guide, helper.name) == (True, "Spot on Film")
    evaluation = Evaluation(after)
    spots = evaluation.spots_of(evaluation.motion(helper.id))
    assert spots[:40] == pytest.approx(edits.in_scene(scene(), "film", SPOTS, SIZE)[1], abs=1e-3)


def test_where_it_was_hidden_it_goes_straight_on_and_that_is_said():
    seen = {index: place for index, place in SPOTS.items() if not 10 <= index < 16}
    edit = edits.as_helper(scene(), "film", seen, SIZE)
    assert "Between 0.36 and 0.64 s it was not followed" in edit.notes[0]
    helper = applied(scene(), edit.commands).layers[-1]
    times = [key.time for key in helper.keys_of("y")]
    assert times == [frame for frame in range(40) if not 10 <= frame < 16]


@pytest.mark.parametrize(
    ("layer", "spots", "words"),
    [
        ("box", SPOTS, "not a footage"),
        ("film", {3: (1.0, 1.0)}, "fewer than two frames"),
        ("film", {70: (1.0, 1.0), 71: (2.0, 2.0)}, "fewer than two frames"),
    ],
)
def test_what_nothing_can_be_made_of_is_refused(layer, spots, words):
    with pytest.raises(EditRefused, match=words):
        edits.as_helper(scene(), layer, spots, SIZE)
    vanished = scene(after="vanish", starts=20.0)
    with pytest.raises(EditRefused, match="shows nothing"):
        edits.file_frame(vanished, "film", 0)
