"""A scene with its pictures: a folder, or the same in one zip file."""

import json
import lzma
import re
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path as File
from typing import IO

from coaster.errors import FormatError
from coaster.formats.fontfiles import KINDS
from coaster.media import found
from coaster.media.moving import MOVING, is_moving
from coaster.scene import codec
from coaster.scene.document import Scene

SCENE_NAME, ASSETS = "scene.json", "assets"
FONT_ENDINGS = tuple(KINDS.values())
LARGEST_SCENE, LARGEST_TOTAL, MOST_ENTRIES = 64_000_000, 4_000_000_000, 2_000
CHUNK = 1_000_000
_ENDINGS = "|".join(("png", "jpg", "webp", "ttf", "otf", "csv", *(each[1:] for each in MOVING)))
_ASSET_ENTRY = re.compile(rf"{ASSETS}/([A-Za-z0-9_-]{{1,80}}\.(?:{_ENDINGS}))")


_BROKEN = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    NotImplementedError,
    RuntimeError,
    OSError,
    EOFError,
)
"""What the standard library raises over damaged zip files."""


@dataclass(frozen=True)
class Bundle:
    """A scene, and the names of the pictures, fonts and footage, and of the raw takes, that were
    laid into a folder for it, takes as far as there are any. Of a whole ``project`` the scene shows
    nothing itself, and all others are beside it.
    """

    scene: Scene
    assets: tuple[str, ...]
    takes: tuple[str, ...] = ()
    project: str = ""


def noun_of(asset: str) -> str:
    """Return what people call a file that a scene needs."""
    if is_moving(asset):
        return "footage"
    return "font" if asset.endswith(FONT_ENDINGS) else "picture"


def pack(scene: Scene, folder: File, into: IO[bytes], project: str = "") -> None:
    """Write a zip file of ``scene.json`` and, from a folder, ``assets/``; its files are stored as
    they are, raw takes that are there with them. What is beside it may be a whole ``project``.

    Errors: FormatError: one that the scene needs is missing.
    """
    with zipfile.ZipFile(into, "w") as archive:
        data = codec.to_data(scene) | ({"project": project} if project else {})
        text = json.dumps(data, indent=2, ensure_ascii=False)
        archive.writestr(SCENE_NAME, text, zipfile.ZIP_DEFLATED)
        for name in scene.assets():
            if not (folder / name).is_file():
                raise FormatError(
                    f"The {noun_of(name)} {name} is missing in the studio’s folder, so the scene"
                    " cannot be one whole file. Take the layer that shows it out, or put the file"
                    " back."
                )
            # They are compressed already.
            archive.write(folder / name, f"{ASSETS}/{name}", zipfile.ZIP_STORED)
        for name in scene.takes():
            # One may be gone without harm: the ride has been made of it.
            if (folder / name).is_file():
                archive.write(folder / name, f"{ASSETS}/{name}", zipfile.ZIP_DEFLATED)


def unpack(file: File, name: str, into: File) -> Bundle:
    """Read a bundle, which people call ``name``, and lay its files into a folder.

    Errors: FormatError: no zip, no scene in it, a picture missing, or larger than the limits.
            SceneError: the scene is not one.
    """
    try:
        with zipfile.ZipFile(file) as archive:
            return _unpacked(archive, name, into)
    except _BROKEN as error:
        raise FormatError(f"{name} is not a readable zip file.") from error


def _unpacked(archive: zipfile.ZipFile, name: str, into: File) -> Bundle:
    entries = archive.infolist()
    if len(entries) > MOST_ENTRIES or sum(e.file_size for e in entries) > LARGEST_TOTAL:
        raise FormatError(
            f"{name} unpacks to more than {LARGEST_TOTAL / 1e9:.0f} GB or {MOST_ENTRIES} files."
        )
    if SCENE_NAME not in archive.namelist():
        raise FormatError(f"{name} holds no {SCENE_NAME}.")
    with archive.open(SCENE_NAME) as stream:
        # What an entry says of its size need not be true; what comes out is counted.
        data = stream.read(LARGEST_SCENE + 1)
    if len(data) > LARGEST_SCENE:
        raise _too_large(SCENE_NAME, LARGEST_SCENE)
    scene, project = codec.read(data)
    # Only names of our own making: nothing in a zip can lead out of the folder.
    found = {m.group(1): e.filename for e in entries if (m := _ASSET_ENTRY.fullmatch(e.filename))}
    wanted = tuple(scene.assets())
    missing = [asset for asset in wanted if asset not in found]
    if missing:
        raise FormatError(f"{name} lacks the {noun_of(missing[0])} {missing[0]}.")
    takes = tuple(take for take in scene.takes() if take in found)
    for names, limit in ((wanted, LARGEST_TOTAL), (takes, LARGEST_SCENE)):
        for each in names:
            _extract(archive, found[each], into / each, limit)
    return Bundle(scene, wanted, takes, project)


def _extract(archive: zipfile.ZipFile, entry: str, into: File, limit: int) -> None:
    left = limit
    with archive.open(entry) as source, into.open("wb") as target:
        while chunk := source.read(CHUNK):
            if (left := left - len(chunk)) < 0:
                raise _too_large(entry, limit)
            target.write(chunk)


def _too_large(entry: str, limit: int) -> FormatError:
    return FormatError(f"{entry} is larger than {limit / 1e6:.0f} MB.")


@contextmanager
def open_bundle(file: File) -> Iterator[tuple[Scene, File]]:
    """Give the scene of a ``.json`` or ``.zip`` file, and the folder that holds its pictures.

    Errors: FormatError, SceneError; OSError if it cannot be read.
    """
    if file.suffix.lower() == ".zip":
        with tempfile.TemporaryDirectory(prefix="coaster-") as temporary:
            found.look_in(File(temporary))
            yield unpack(file, file.name, File(temporary)).scene, File(temporary)
        return
    if file.stat().st_size > LARGEST_SCENE:
        raise FormatError(f"{file.name} is larger than {LARGEST_SCENE // 1_000_000} MB.")
    scene, folder = codec.from_json(file.read_bytes()), file.parent / ASSETS
    for name in scene.assets():
        if not (folder / name).is_file():
            raise FormatError(
                f"The scene needs the {noun_of(name)} {name} in {ASSETS}/ beside it, and it is not"
                " there."
            )
    found.look_in(folder)
    yield scene, folder
