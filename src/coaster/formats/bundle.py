"""A scene with its pictures: a folder, or the same in one zip file."""

import io
import lzma
import re
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path as File

from coaster.errors import FormatError
from coaster.formats.fontfiles import KINDS
from coaster.scene import codec
from coaster.scene.document import Scene

SCENE_NAME, ASSETS = "scene.json", "assets"
FONT_ENDINGS = tuple(KINDS.values())
LARGEST_SCENE, LARGEST_TOTAL, MOST_ENTRIES = 64_000_000, 1_000_000_000, 2_000
_ASSET_ENTRY = re.compile(rf"{ASSETS}/([A-Za-z0-9_-]{{1,80}}\.(?:png|jpg|webp|ttf|otf|csv))")


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
    """A scene, the bytes of the pictures and fonts it names, and those of its raw takes, as far as
    there are any.
    """

    scene: Scene
    pictures: dict[str, bytes]
    takes: dict[str, bytes] = field(default_factory=dict)


def noun_of(asset: str) -> str:
    """Return what people call a file that a scene needs."""
    return "font" if asset.endswith(FONT_ENDINGS) else "picture"


def pack(
    scene: Scene,
    read: Callable[[str], bytes],
    takes: Callable[[str], bytes | None] = lambda name: None,
) -> bytes:
    """Return a zip file of ``scene.json`` and ``assets/``; the pictures are stored as they are, raw
    takes with them.
    """
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr(SCENE_NAME, codec.to_json(scene), zipfile.ZIP_DEFLATED)
        for name in scene.assets():
            # Pictures are compressed already.
            archive.writestr(f"{ASSETS}/{name}", read(name), zipfile.ZIP_STORED)
        for name in scene.takes():
            if (raw := takes(name)) is not None:
                archive.writestr(f"{ASSETS}/{name}", raw, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def unpack(data: bytes, name: str) -> Bundle:
    """Read a bundle.

    Errors: FormatError: no zip, no scene in it, a picture missing, or larger than the limits.
            SceneError: the scene is not one.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = archive.infolist()
            if len(entries) > MOST_ENTRIES or sum(e.file_size for e in entries) > LARGEST_TOTAL:
                raise FormatError(
                    f"{name} unpacks to more than {LARGEST_TOTAL / 1e9:.0f} GB or {MOST_ENTRIES}"
                    " files."
                )
            if SCENE_NAME not in archive.namelist():
                raise FormatError(f"{name} holds no {SCENE_NAME}.")
            scene = codec.from_json(_entry(archive, SCENE_NAME, LARGEST_SCENE))
            # Only names of our own making: nothing in a zip can lead out of the folder.
            found = {m.group(1): e for e in entries if (m := _ASSET_ENTRY.fullmatch(e.filename))}
            wanted = list(scene.assets())
            missing = [asset for asset in wanted if asset not in found]
            if missing:
                raise FormatError(f"{name} lacks the {noun_of(missing[0])} {missing[0]}.")
            raw = {
                a: _entry(archive, found[a].filename, LARGEST_SCENE)
                for a in scene.takes()
                if a in found
            }
            return Bundle(
                scene, {a: _entry(archive, found[a].filename, LARGEST_TOTAL) for a in wanted}, raw
            )
    except _BROKEN as error:
        raise FormatError(f"{name} is not a readable zip file.") from error


def _entry(archive: zipfile.ZipFile, name: str, limit: int) -> bytes:
    with archive.open(name) as stream:
        # What an entry says of its size need not be true; what comes out is counted.
        data = stream.read(limit + 1)
    if len(data) > limit:
        raise FormatError(f"{name} is larger than {limit / 1e6:.0f} MB.")
    return data


@contextmanager
def open_bundle(file: File) -> Iterator[tuple[Scene, File]]:
    """Give the scene of a ``.json`` or ``.zip`` file, and the folder that holds its pictures.

    Errors: FormatError, SceneError; OSError if it cannot be read.
    """
    if file.suffix.lower() == ".zip":
        bundle = unpack(file.read_bytes(), file.name)
        with tempfile.TemporaryDirectory(prefix="coaster-") as temporary:
            for name, data in bundle.pictures.items():
                (File(temporary) / name).write_bytes(data)
            yield bundle.scene, File(temporary)
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
    yield scene, folder
