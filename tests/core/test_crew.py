"""Chunks made side by side: which they are, that they are the same wherever they are made, and what
becomes of them when whoever makes them is killed.
"""

import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterable, Sequence
from dataclasses import replace
from functools import partial
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path as File

import pytest
from hypothesis import given
from hypothesis import strategies as st

from coaster.errors import MediaError, RenderCancelled, RenderError
from coaster.export import chunks, crew, memory
from coaster.export.chunks import CHUNK, LEADS, Chunk, Maker, Watch, chunks_of
from coaster.export.orders import Choices, order_for
from coaster.export.render import Film, render, render_several
from coaster.media import mov
from coaster.media.video import VideoSplice
from coaster.media.writers import KINDS
from coaster.media.writing import Kind
from coaster.motion.keys import Key
from coaster.motion.rate import Rate
from coaster.scene.contents import Picture, Shape
from coaster.scene.document import Layer, Scene, Transform
from coaster.scene.properties import Track

LONG = Scene(64, 48, Rate(24), 2000, "#204060")
KIND = KINDS["mov-png"]
"""Keeps every px, and is the same file for the same frames."""


@pytest.fixture
def scene(monkeypatch) -> Scene:
    """48 frames in 8 chunks of 6."""
    monkeypatch.setattr(chunks, "CHUNK", 6)
    keys = (Track("x", (Key("a", 0, 0.0), Key("b", 24, 160.0), Key("c", 48, 0.0))),)
    buoy = Layer("b", "Buoy", Shape("ellipse", 40, 40, "#ff8000"), Transform((0, 48)), keys=keys)
    return Scene(160, 96, Rate(24), 48, "#204060", layers=(buoy,))


@pytest.fixture
def hands(monkeypatch) -> list[crew._Hand]:
    """Everybody who has made chunks, in the order they began; the first, who needs no time to
    start, waits for one that does.
    """
    begun: list[crew._Hand] = []
    begin, give = crew._Shift.begin, crew._Shift._give

    def noted(shift: crew._Shift, body_of: object) -> None:
        begin(shift, body_of)
        begun.append(shift.hands[-1])

    def later(shift: crew._Shift, hand: crew._Hand) -> None:
        if any(other.ready or other.chunk for other in begun[1:]):
            give(shift, hand)
            give(shift, begun[0])

    monkeypatch.setattr(crew._Shift, "begin", noted)
    monkeypatch.setattr(crew._Shift, "_give", later)
    return begun


def at_once(scene: Scene, folder: File, monkeypatch, order=None) -> bytes:
    """Return the file as it is when it is made in one go."""
    with monkeypatch.context() as patched:
        patched.setattr(chunks, "CHUNK", 10_000)
        out = folder / "whole.mov"
        render(scene, folder, out, order or order_for(scene), kind=KIND, workers=0)
    return out.read_bytes()


@given(st.integers(1, 2000), st.integers(1, 4), st.sampled_from(["mp4", "prores", "gif"]))
def test_chunks_are_all_the_frames_once_and_alike(last, loops, name):
    found = chunks_of(LONG, order_for(LONG, 0, last, loops), KINDS[name])
    count = last * loops
    assert [frame for c in found for frame in range(c.first, c.last)] == list(range(count))
    lead, *others = [c.last - c.first for c in found]
    if name == "gif" or count <= CHUNK:
        assert len(found) == 1
    else:
        assert len(found) % 2 == 0
        assert CHUNK >= max(others) > CHUNK // 3
        assert max(others) - min(others) <= 1
        assert lead - max(others) in (CHUNK // LEADS - 1, CHUNK // LEADS)


@pytest.mark.parametrize(
    "choices",
    [
        Choices(returns=True, loops=2),
        Choices(fps=Rate(17), shutter=180.0),
        Choices(first=5, last=41, shutter=360.0, returns=True),
        Choices(seconds=5.0, scale=0.5),
    ],
)
def test_chunks_are_what_would_have_been_made_at_once(scene, tmp_path, monkeypatch, choices):
    order = replace(choices, kind="mov-png").order(scene)
    whole = at_once(scene, tmp_path, monkeypatch, order)
    for workers in (0, 1):
        out = tmp_path / f"{workers}.mov"
        render(scene, tmp_path, out, order, kind=KIND, workers=workers)
        assert out.read_bytes() == whole
    assert sorted(file.name for file in tmp_path.iterdir()) == ["0.mov", "1.mov", "whole.mov"]


@pytest.mark.parametrize("workers", [0, 1])
def test_films_of_a_series_appear_one_by_one_each_as_by_itself(scene, tmp_path, workers):
    short = replace(scene, length=5)
    films = [
        Film(one, order_for(one), tmp_path / f"{i}.mov")
        for i, one in enumerate((scene, short, replace(scene, background="#ffffff"), short))
    ]
    there = {}

    def heard(done: int) -> None:
        for film in films:
            if film.out.exists():
                there.setdefault(film.out.name, done)

    render_several(films, tmp_path, KIND, watch=Watch(heard), crew=crew.Here(workers))
    if not workers:
        # Side by side, a later one may be whole sooner.
        assert list(there.values()) == [48, 48 + 5, 48 + 5 + 48, 48 + 5 + 48 + 5]
    for film in films:
        render(film.scene, tmp_path, tmp_path / "alone.mov", film.order, kind=KIND, workers=0)
        assert film.out.read_bytes() == (tmp_path / "alone.mov").read_bytes()
    assert len(list(tmp_path.iterdir())) == 5


def test_films_that_were_whole_stay_when_one_has_nowhere_to_go(scene, tmp_path):
    gone = tmp_path / "gone" / "1.mov"
    films = [
        Film(one, order_for(one), out)
        for one, out in ((scene, tmp_path / "0.mov"), (replace(scene, length=5), gone))
    ]
    with pytest.raises(MediaError, match="could not be put in its place"):
        render_several(films, tmp_path, KIND, watch=Watch(), crew=crew.Here(0))
    assert [file.name for file in tmp_path.iterdir()] == ["0.mov"]


@pytest.mark.parametrize("name", [kind.name for kind in KINDS.values() if not kind.vectors])
def test_a_file_is_the_same_to_the_byte_whoever_makes_it(scene, tmp_path, name):
    kind = KINDS[name]
    made = []
    for workers in (0, 2):
        out = tmp_path / f"x{kind.ending}"
        count = 1 if name == "still" else 48
        render(scene, tmp_path, out, order_for(scene, 0, count), kind=kind, workers=workers)
        made.append(out.read_bytes())
    assert made[0] == made[1]


def until(holds) -> None:
    end = time.monotonic() + 120
    while not holds():
        assert time.monotonic() < end
        time.sleep(0.01)


class Slowly:
    """Does something at the first frame of which is heard while a process draws, which is held up
    until then.
    """

    def __init__(self, hands: list[crew._Hand], act) -> None:
        self._hands, self._act, self.acted = hands, act, 0
        self.watch = Watch(self.hear)

    def hear(self, done: int) -> None:
        for hand in self._hands[1:]:
            if hand.chunk is not None and hand.body.is_alive() and self._act(hand):
                self.acted += 1


def kill(hand: crew._Hand) -> bool:
    os.kill(hand.body.pid, signal.SIGKILL)
    hand.body.join()
    return True


@pytest.mark.parametrize("workers", [1, 3])
def test_what_a_killed_process_had_in_hand_is_made_again(
    scene, tmp_path, monkeypatch, hands, workers
):
    whole, killed = at_once(scene, tmp_path, monkeypatch), []

    def once(hand: crew._Hand) -> bool:
        return not killed and kill(hand) and not killed.append(hand)

    slowly = Slowly(hands, once)
    out = tmp_path / "x.mov"
    longer = order_for(scene, loops=20)
    render(scene, tmp_path, out, longer, kind=KIND, workers=workers, watch=slowly.watch)
    assert slowly.acted == 1
    assert out.read_bytes() == at_once(scene, tmp_path, monkeypatch, longer) != whole
    assert not any(hand.body.is_alive() for hand in hands)


def test_a_chunk_that_ends_its_process_twice_is_a_failed_render(scene, tmp_path, hands):
    doomed: list[str] = []

    def again(hand: crew._Hand) -> bool:
        name = hand.chunk.name
        if not doomed:
            doomed.append(name)
        return name == doomed[0] and kill(hand)

    class NoThread(crew._Shift):
        """Nobody here takes the chunk that is left behind."""

        def _give(self, hand: crew._Hand) -> None:
            if not (doomed and hand is self.hands[0]):
                super()._give(hand)

    slowly = Slowly(hands, again)
    out = tmp_path / "x.mov"
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(crew, "_Shift", NoThread)
        with pytest.raises(RenderError, match="ended near frame"):
            render(scene, tmp_path, out, order_for(scene, loops=20), kind=KIND, workers=1,
                   watch=slowly.watch)  # fmt: skip
    assert slowly.acted == 2
    assert list(tmp_path.iterdir()) == []
    until(lambda: not any(hand.body.is_alive() for hand in hands))


def test_a_cancelled_film_leaves_no_process_and_no_file(scene, tmp_path, hands):
    seen = []
    watch = Watch(seen.append, cancelled=lambda: len(seen) > 20)
    with pytest.raises(RenderCancelled):
        render(scene, tmp_path, tmp_path / "x.mov", order_for(scene, loops=20), kind=KIND,
               workers=1, watch=watch)  # fmt: skip
    assert len(hands) == 2
    assert list(tmp_path.iterdir()) == []
    until(lambda: not any(hand.body.is_alive() for hand in hands))


@pytest.mark.parametrize("kind", [KIND, KINDS["gif"], KINDS["svg"]])
def test_who_looks_on_hears_how_far_it_is_and_sees_some(scene, tmp_path, kind):
    heard, seen, out = [], [], tmp_path / f"x{kind.ending}"
    watch = Watch(heard.append, seen.append)
    render(scene, tmp_path, out, order_for(scene), kind=kind, workers=1, watch=watch)
    assert heard == sorted(heard)
    assert heard[-1] == 48
    assert all(jpeg.startswith(b"\xff\xd8") for jpeg in seen)
    assert seen


@pytest.mark.parametrize(
    ("often", "told"), [(0.0, range(1, 49)), (60.0, sorted([*range(1, 49, 6), *range(6, 49, 6)]))]
)
def test_a_maker_tells_now_and_then_how_far_it_is(scene, tmp_path, monkeypatch, often, told):
    monkeypatch.setattr(chunks, "TELL_S", often)
    heard = []
    render(scene, tmp_path, tmp_path / "x.mov", order_for(scene), kind=KIND, workers=0,
           watch=Watch(heard.append))  # fmt: skip
    assert sorted({*heard}) == list(told)


def test_nobody_waits_for_a_process_that_takes_long_to_start(scene, tmp_path, monkeypatch):
    heard, started, waited = threading.Event(), crew._start, []

    def late(process: BaseProcess, pipe: Connection) -> None:
        waited.append(heard.wait(60))
        started(process, pipe)

    monkeypatch.setattr(crew, "_start", late)
    watch = Watch(lambda done: heard.set())
    render(scene, tmp_path, tmp_path / "x.mov", order_for(scene), kind=KIND, workers=2, watch=watch)
    until(lambda: len(waited) == 2)
    assert all(waited)


class InOrder:
    """A crew that makes chunks in an order of its own, and takes down how many are put together
    after each.
    """

    def __init__(self, order: Iterable[int], added: list[File]) -> None:
        self.order, self.added, self.after = order, added, list[int]()

    def make(self, those: Sequence[Chunk], folder: File, into: File, watch: Watch) -> None:
        for place in self.order:
            chunk = those[place]
            Maker().make(chunk, folder, into / chunk.name, lambda done, jpeg: None)
            watch.made(chunk)
            self.after.append(len(self.added))


def noting(added: list[File]) -> Kind:
    """Return the kind of film whose pieces are taken down as they are put together."""

    class Noting(VideoSplice):
        def add(self, piece: File, count: int) -> None:
            super().add(piece, count)
            added.append(piece)

    return replace(KIND, join=partial(Noting, mov.PNG))


@pytest.mark.parametrize(
    ("order", "after"),
    [(range(8), range(1, 9)), ((0, 2, 1, 3, 4, 6, 7, 5), (1, 1, 3, 4, 5, 5, 5, 8)),
     (range(7, -1, -1), (0,) * 7 + (8,))],
)  # fmt: skip
def test_chunks_are_put_together_as_they_come(scene, tmp_path, monkeypatch, order, after):
    added: list[File] = []
    those, out = InOrder(order, added), tmp_path / "x.mov"
    render(scene, tmp_path, out, order_for(scene), kind=noting(added), crew=those)
    assert those.after == [*after]
    assert out.read_bytes() == at_once(scene, tmp_path, monkeypatch)


def test_a_film_that_lacks_a_chunk_never_appears(scene, tmp_path):
    those = InOrder((0, 1, 2, 3, 4, 5, 6), [])
    with pytest.raises(MediaError, match="could not be joined"):
        render(scene, tmp_path, tmp_path / "x.mov", order_for(scene), kind=KIND, crew=those)
    assert list(tmp_path.iterdir()) == []


def test_what_was_put_together_of_a_film_that_fails_is_gone(scene, tmp_path):
    class Fails(InOrder):
        def make(self, those: Sequence[Chunk], folder: File, into: File, watch: Watch) -> None:
            super().make(those, folder, into, watch)
            assert len(list(into.glob(".x.mov.*.part"))) == 1
            raise RenderError("No more.")

    added: list[File] = []
    with pytest.raises(RenderError, match="No more"):
        render(scene, tmp_path, tmp_path / "x.mov", order_for(scene), kind=noting(added),
               crew=Fails((0, 1), added), parts=tmp_path / "parts")  # fmt: skip
    assert [file.name for file in added] == ["000000-000006.mov", "000006-000012.mov"]
    assert [file.name for file in tmp_path.iterdir()] == ["parts"]
    assert sorted((tmp_path / "parts").iterdir()) == added


def test_without_processes_that_the_system_refuses_it_is_made_here(scene, tmp_path, monkeypatch):
    class Refused(BaseProcess):
        def start(self) -> None:
            raise BlockingIOError

    monkeypatch.setattr(crew, "_process", lambda pipe: Refused())
    render(scene, tmp_path, tmp_path / "x.mov", order_for(scene), kind=KIND, workers=3)
    assert (tmp_path / "x.mov").read_bytes() == at_once(scene, tmp_path, monkeypatch)


def test_what_cannot_be_drawn_or_kept_is_said(scene, tmp_path):
    lost = replace(scene, layers=(Layer("p", "P", Picture("gone.png", 9, 9), Transform()),))
    for workers in (0, 1):
        with pytest.raises(RenderError, match=r"Picture \d+ of the film could not be drawn") as e:
            render(lost, tmp_path, tmp_path / "x.mov", order_for(lost), kind=KIND, workers=workers)
        assert e.value.frame is not None
        with pytest.raises(MediaError, match="could not be begun: No such file"):
            render(scene, tmp_path, tmp_path / "no" / "x.mov", order_for(scene), kind=KIND)
    assert list(tmp_path.iterdir()) == []


ORPHANS = """
import sys
from pathlib import Path
from dataclasses import replace
from coaster.export import chunks, crew
from coaster.export.chunks import Watch
from coaster.export.orders import order_for
from coaster.export.render import Film, render, render_several
from coaster.media import mov
from coaster.media.video import VideoSplice
from coaster.media.writers import KINDS
from coaster.media.writing import Kind
from coaster.motion.keys import Key
from coaster.motion.rate import Rate
from coaster.scene.document import Scene

def main():
    begun, begin = [], crew._Shift.begin
    def noted(shift, body_of):
        begin(shift, body_of)
        begun.append(shift.hands[-1].body)
    crew._Shift.begin = noted
    scene = Scene(640, 480, Rate(24), 2400, "#204060")
    folder = Path(sys.argv[1])
    told = []
    def hear(done):
        if not told and begun[1].pid:
            told.append(begun[1].pid)
            print(begun[1].pid, flush=True)
    render(scene, folder, folder / "x.mp4", order_for(scene, loops=50), kind=KINDS["mp4"],
           workers=1, watch=Watch(hear), parts=folder / "parts")

if __name__ == "__main__":
    main()
"""


def test_processes_end_with_the_one_that_began_them(tmp_path):
    program = tmp_path / "film.py"
    program.write_text(ORPHANS)
    caller = subprocess.Popen(
        [sys.executable, str(program), str(tmp_path)], stdout=subprocess.PIPE, text=True
    )
    process = int(caller.stdout.readline())
    # An interrupt is the caller's, from the first moment on.
    told = dict(
        line.split(":", 1) for line in File(f"/proc/{process}/status").read_text().splitlines()
    )
    assert int(told["SigBlk"], 16) & 1 << signal.SIGINT - 1
    caller.kill()
    caller.wait()
    until(lambda: not File(f"/proc/{process}").exists())
    assert not (tmp_path / "x.mp4").exists()


class Library:
    """Takes down what the system's library is told about memory."""

    def __init__(self) -> None:
        self.told: list[tuple[int, ...]] = []

    def mallopt(self, *words: int) -> None:
        self.told.append(words)

    def malloc_trim(self, *words: int) -> None:
        self.told.append(words)


def test_memory_that_was_kept_is_given_back_however_it_ends(monkeypatch):
    library = Library()
    monkeypatch.setattr(memory.ctypes, "CDLL", lambda name: library)
    # A thread of another film may still be ending.
    monkeypatch.setattr(memory, "_keepers", [])
    kept, onward = memory.kept_memory(), memory.kept_memory()
    kept.__enter__()
    assert (memory.TRIM_THRESHOLD, memory.MUCH) in library.told
    onward.__enter__()
    assert not kept.__exit__(None, None, None)
    assert (memory.TRIM_THRESHOLD, memory.USUAL) not in library.told
    assert not onward.__exit__(EOFError, EOFError(), None)
    assert library.told[-2:] == [(memory.TRIM_THRESHOLD, memory.USUAL), (0,)]
