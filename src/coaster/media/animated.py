"""Moving pictures that are no video: animated GIF, PNG and WebP, and numbered stills in a zip."""

import io
import re
import zipfile
from collections.abc import Callable
from functools import cached_property, partial
from pathlib import Path as File

import numpy as np
from PIL import Image

from coaster.errors import MediaError
from coaster.media.pictures import Pixels, premultiplied
from coaster.media.reading import READING, Facts, Kept, in_runs, unreadable
from coaster.media.small import of_pixels

TICKS = 1000
"""Animated pictures tell time in milliseconds."""
UNSAID_MS = 100
"""How long a frame is seen that says 0, as browsers have it."""
STILLS_RATE = 25
"""Frames a second of numbered pictures, which say nothing of it."""
NUMBERED = re.compile(r"(\d+)\D*\.(?:png|jpe?g|webp)$", re.IGNORECASE)
MOST_GAP, LARGEST_STILL = 1000, 100_000_000


class Animated:
    """An animated GIF, PNG or WebP: a frame is what is seen once it is laid on those before."""

    def __init__(self, file: File) -> None:
        self._file, self._name, self._kept = file, file.name, Kept()
        self._image, self._next = Image.open(file), 0

    def close(self) -> None:
        self._image.close()

    @cached_property
    def facts(self) -> Facts:
        lengths, notes = list[int](), list[str]()
        try:
            for index in range(getattr(self._image, "n_frames", 1)):
                self._image.seek(index)
                self._image.load()
                lengths.append(round(self._image.info.get("duration", 0)) or UNSAID_MS)
                self._next = index + 1
        except READING as error:
            if not lengths:
                raise MediaError(f"{self._name} has no frames in it.") from error
            notes.append(f"it breaks off after {len(lengths)} frames, which are played")
        wide, high = self._image.size
        clear = self._image.has_transparency_data
        return Facts(wide, high, TICKS, in_runs(lengths), clear, tuple(notes))

    def pixels(self, index: int) -> Pixels:
        kept: Pixels | None = self._kept.get(index)
        try:
            return self._passed(index) if kept is None else kept
        except READING as error:
            raise unreadable(self._name, index) from error

    def small(self, index: int) -> Callable[[], bytes]:
        return partial(of_pixels, self.pixels(index), clear=self.facts.alpha)

    def _passed(self, index: int) -> Pixels:
        """Decode on up to a frame, from the first one if it is passed already; those on the way are
        kept.
        """
        if index < self._next:
            # Opened anew: not all kinds can be gone back in.
            self._image.close()
            self._image, self._next = Image.open(self._file), 0
        found = None
        for number in range(self._next, index + 1):
            self._image.seek(number)
            found = premultiplied(np.asarray(self._image.convert("RGBA")))
            found.flags.writeable = False
            self._kept.put(number, found, found.nbytes)
            self._next = number + 1
        if found is None:
            raise unreadable(self._name, index)
        return found


class Stills:
    """Numbered pictures in a zip file, in the order of their numbers; one stays for as long as
    numbers are missing after it.
    """

    def __init__(self, file: File) -> None:
        self._name, self._zip = file.name, zipfile.ZipFile(file)
        found, self._besides = dict[int, str](), list[str]()
        for name in self._zip.namelist():
            number = NUMBERED.search(name)
            # What a system puts beside the files it packs is none of them.
            if not number or File(name).name.startswith(".") or "__MACOSX" in name:
                continue
            if found.setdefault(int(number.group(1)), name) != name:
                self._besides.append(name)
        self._numbers = sorted(found)
        self._names = [found[number] for number in self._numbers]
        large = [n for n in self._names if self._zip.getinfo(n).file_size > LARGEST_STILL]
        if large:
            raise MediaError(f"{large[0]} is larger than {LARGEST_STILL // 1_000_000} MB.")

    def close(self) -> None:
        self._zip.close()

    @cached_property
    def facts(self) -> Facts:
        if not self._names:
            raise MediaError(f"{self._name} holds no numbered pictures (PNG, JPEG or WebP).")
        first = self._picture(0)
        steps = np.diff(self._numbers)
        if steps.max(initial=1) > MOST_GAP:
            raise MediaError(f"More than {MOST_GAP} numbers in a row are missing in {self._name}.")
        notes = list[str]()
        if missing := int((steps - 1).sum()):
            after = self._numbers[int(np.argmax(steps > 1))]
            notes.append(
                f"{missing} number{'s are' if missing > 1 else ' is'} missing, the first after"
                f" {after}: the picture before stays for so long"
            )
        if self._besides:
            notes.append(
                f"{len(self._besides)} more with a number that another one has are left out, the"
                f" first is {self._besides[0]}"
            )
        wide, high = first.size
        lengths = [*steps.tolist(), 1]
        return Facts(wide, high, STILLS_RATE, in_runs(lengths), self._is_clear(first), tuple(notes))

    @staticmethod
    def _is_clear(picture: Image.Image) -> bool:
        return bool(picture.has_transparency_data)

    def _picture(self, index: int) -> Image.Image:
        return Image.open(io.BytesIO(self._zip.read(self._names[index])))

    @cached_property
    def _size(self) -> tuple[int, int]:
        """The size of the first one, to which all others are brought."""
        return self._picture(0).size

    def pixels(self, index: int) -> Pixels:
        try:
            picture = self._picture(index).convert("RGBA")
            fitting = picture if picture.size == self._size else picture.resize(self._size)
            return premultiplied(np.asarray(fitting))
        except READING as error:
            raise unreadable(f"{self._name}, {self._names[index]},", index) from error

    def small(self, index: int) -> Callable[[], bytes]:
        return partial(of_pixels, self.pixels(index), clear=self.facts.alpha)
