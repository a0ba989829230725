"""The only way to change projects, scenes and pictures; each function checks whose they are."""

import hashlib
import os
import shutil
import tempfile
from collections.abc import Callable, Collection
from dataclasses import replace
from datetime import timedelta
from pathlib import Path as File
from typing import IO

from django.contrib.auth.models import User
from django.core.exceptions import PermissionDenied
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils import timezone

from coaster.errors import CoreError, FormatError, SceneError
from coaster.formats import bundle, fontfiles, pictures
from coaster.formats.bundle import Bundle
from coaster.formats.takes import read as read_take
from coaster.ids import fresh_name
from coaster.media.readers import look_into
from coaster.media.reading import Facts
from coaster.scene import codec, insets
from coaster.scene import document as core
from coaster.scene.limits import check_growth
from studio.projects import space
from studio.projects.models import Asset, Project, RawTake, Revision, Scene
from studio.projects.querysets import Person
from studio.projects.unchanged import as_before
from studio.reading import apart

SINGLE_PERSON = "studio"
NO_SIZE = (0.0, 0.0)
"""Of what is no picture."""


def single_person() -> User:
    """Return the one account of a studio on a person's own machine, made when first needed."""
    return as_before(SINGLE_PERSON, _single_person)


def _single_person() -> User:
    user, made = User.objects.get_or_create(username=SINGLE_PERSON)
    if made:
        # Nobody signs in as this one: it is whoever sits at the machine.
        user.set_unusable_password()
        user.save()
    return user


def allow(user: Person, project: Project) -> User:
    """Return the person, whose the project is.

    Errors: PermissionDenied, unless the project is the user's and not in the bin.
    """
    mine = isinstance(user, User) and project.owner_id == user.pk and project.deleted_at is None
    if not isinstance(user, User) or not mine:
        raise PermissionDenied("This project is not yours.")
    return user


def create_project(user: Person, name: str) -> Project:
    if not isinstance(user, User):
        raise PermissionDenied("Sign in to make a project.")
    return Project.objects.create(owner=user, name=name)


def rename_project(user: Person, project: Project, name: str) -> None:
    allow(user, project)
    # By a query, not by save(): a row that was read earlier must not put back what changed since.
    Project.objects.filter(pk=project.pk).update(name=name)


def bin_project(user: Person, project: Project) -> None:
    """Take a project out of sight; ``restore_project`` brings it back whole."""
    allow(user, project)
    Project.objects.filter(pk=project.pk).update(deleted_at=timezone.now())


def restore_project(user: Person, pk: int) -> Project:
    """Errors: PermissionDenied, Project.DoesNotExist."""
    project = Project.objects.get(pk=pk, owner_id=user.pk)
    # What was in its bin before stays there: only the project itself was taken away.
    Project.objects.filter(pk=pk).update(deleted_at=None)
    return project


@transaction.atomic
def create_scene(
    user: Person, project: Project, name: str, value: core.Scene, *, words: str = "New scene"
) -> Scene:
    """Make a scene with its revision 0."""
    author = allow(user, project)
    check_growth(None, value)
    # Written out anew, so that what is kept is as this version writes it.
    document = codec.to_json(value.alone(), indent=None)
    scene = Scene.objects.create(project=project, name=name, document=document)
    Revision.objects.create(scene=scene, number=0, author=author, words=words, snapshot=document)
    return scene


def keep_shown(
    user: Person, project: Project, value: core.Scene, only: Collection[str] | None = None
) -> core.Scene:
    """Make scenes of a project of those that a scene brings, or ``only`` some of those it shows;
    return it as it shows these.

    One that is there already, by its name and to the last value, is not made again.
    """
    there = Scene.objects.filter(project=project, deleted_at=None)

    def same(name: str, scene: core.Scene) -> Scene | None:
        return there.filter(name=name, document=codec.to_json(scene, indent=None)).first()

    wanted = value.shown_ids() if only is None else only
    made = _make_beside(user, project, value, wanted, "Came with another", same)
    return value.with_shown(made)


def _make_beside(
    user: Person,
    project: Project,
    value: core.Scene,
    wanted: Collection[str],
    words: str,
    same: Callable[[str, core.Scene], Scene | None] = lambda name, scene: None,
) -> dict[str, str]:
    """Make scenes of those beside a scene that are reached from some of them, unless the ``same``
    is there; return the ids that they have then.
    """
    made: dict[str, str] = {}
    inside = {each.id: each for each in value.scenes}
    shown = {each.id: each.scene.shown_ids() for each in value.scenes}
    # What is shown before what shows it, so that each knows the others' new ids.
    for each in (inside[name] for name in insets.inner_first(wanted, shown)):
        scene = each.scene.with_shown(made)
        kept = same(each.name, scene) or create_scene(user, project, each.name, scene, words=words)
        made[each.id] = str(kept.pk)
    return made


def rename_scene(user: Person, scene: Scene, name: str) -> None:
    allow(user, scene.project)
    Scene.objects.filter(pk=scene.pk).update(name=name)


def duplicate_scene(user: Person, scene: Scene) -> Scene:
    """Make a scene with the same document; its history starts anew."""
    taken = set(
        Scene.objects.filter(project=scene.project, deleted_at=None).values_list("name", flat=True)
    )
    # Room is left for the number that makes it another name.
    name = fresh_name(scene.name[:76], taken)
    return create_scene(user, scene.project, name, scene.value(), words=f"Copy of {scene.name}")


def bin_scene(user: Person, scene: Scene) -> None:
    """Take a scene out of sight; ``restore_scene`` brings it back whole."""
    allow(user, scene.project)
    Scene.objects.filter(pk=scene.pk).update(deleted_at=timezone.now())


def restore_scene(user: Person, pk: int) -> Scene:
    """Errors: PermissionDenied, Scene.DoesNotExist."""
    scene = Scene.objects.select_related("project").get(pk=pk)
    allow(user, scene.project)
    Scene.objects.filter(pk=pk).update(deleted_at=None)
    return scene


def import_picture(
    user: Person, project: Project, data: bytes, name: str
) -> tuple[Asset, tuple[str, ...]]:
    """Keep an uploaded picture; return it and what was done to it, in words.

    Errors: MediaError, FormatError: it cannot be used; nothing is kept.
    """
    allow(user, project)
    space.check(user, len(data))
    found = apart(pictures.import_picture, data, name)
    return keep_asset(
        project, found.data, found.ending, name, (found.width, found.height)
    ), found.notes


def import_footage(
    user: Person, project: Project, upload: UploadedFile, ending: str
) -> tuple[Asset, Facts]:
    """Keep uploaded footage; return it and what there is to know of it.

    Errors: MediaError, FormatError: it cannot be used; nothing is kept.
    """
    allow(user, project)
    space.check(user, upload.size or 0)
    project.folder.mkdir(parents=True, exist_ok=True)
    # Beside where it will be, so that keeping it is a matter of its name; by its ending the
    # readers know it.
    with tempfile.TemporaryDirectory(dir=project.folder, prefix=".", suffix=".part") as folder:
        part, name = File(folder) / f"footage{ending}", upload.name or "The file"
        _write(upload, part)
        facts = apart(look_into, part, name)
        return _move_in(project, part, name, (facts.width, facts.height)), facts


def _write(upload: UploadedFile, file: File) -> None:
    with file.open("wb") as stream:
        for chunk in upload.chunks():
            stream.write(chunk)


def _move_in(project: Project, file: File, name: str, size: tuple[float, float]) -> Asset:
    """Keep a checked file of any size under the name its content gives it."""
    with file.open("rb") as stream:
        file_name = hashlib.file_digest(stream, "sha256").hexdigest()[:40] + file.suffix
    os.replace(file, project.folder / file_name)
    return _row_of(project, file_name, name, size)


def import_font(
    user: Person, project: Project, data: bytes, name: str
) -> tuple[Asset, tuple[str, ...]]:
    """Keep an uploaded font; return it and what there is to be said of it.

    Errors: FormatError: it cannot be used, or must not; nothing is kept.
    """
    allow(user, project)
    space.check(user, len(data))
    found = apart(fontfiles.import_font, data, name)
    return keep_asset(project, found.data, found.ending, found.title, NO_SIZE), found.notes


def keep_asset(
    project: Project, data: bytes, ending: str, name: str, size: tuple[float, float]
) -> Asset:
    """Write a checked picture or font under the name its content gives it."""
    # Named by content, what is the same is kept once, and no name of a person's file reaches the
    # disk.
    file_name = hashlib.sha256(data).hexdigest()[:40] + ending
    write_whole(project.folder / file_name, data)
    return _row_of(project, file_name, name, size)


def _row_of(project: Project, file_name: str, name: str, size: tuple[float, float]) -> Asset:
    asset, new = Asset.objects.get_or_create(
        project=project,
        file_name=file_name,
        defaults={"original_name": name[:200], "width": size[0], "height": size[1]},
    )
    if not new and asset.deleted_at is not None:
        # Brought in again, it is wanted.
        asset.deleted_at = None
        asset.save(update_fields=["deleted_at"])
    return asset


def share_files(user: Person, source: Project, target: Project, names: Collection[str]) -> None:
    """Let another project of the person have pictures and takes, too."""
    allow(user, source)
    allow(user, target)
    if source.pk == target.pk:
        return
    for rows in (source.assets, source.takes):
        for row in rows.filter(file_name__in=names):
            file = source.folder / row.file_name
            if not (target.folder / row.file_name).exists():
                space.check(user, file.stat().st_size)
                _copy_whole(file, target.folder / row.file_name)
            fields = {f.name: getattr(row, f.name) for f in row._meta.fields if f.name not in OWN}
            type(row).objects.get_or_create(
                project=target, file_name=row.file_name, defaults=fields
            )


OWN = ("id", "project", "file_name", "created_at")
"""Fields of a file's row that are not those of its like in another project."""


def keep_take(user: Person, project: Project, text: str, name: str, samples: int) -> RawTake:
    """Write a raw take, as CSV, under the name its content gives it."""
    allow(user, project)
    data = text.encode()
    file_name = hashlib.sha256(data).hexdigest()[:40] + ".csv"
    write_whole(project.folder / file_name, data)
    found, _ = RawTake.objects.get_or_create(
        project=project, file_name=file_name, defaults={"name": name[:200], "samples": samples}
    )
    return found


def write_whole(file: File, data: bytes) -> None:
    """Write a file so that it is there entirely or not at all."""
    file.parent.mkdir(parents=True, exist_ok=True)
    # In the same folder: only there a rename is one step that cannot stop half way.
    descriptor, part = tempfile.mkstemp(dir=file.parent, prefix=".", suffix=".part")
    try:
        with os.fdopen(descriptor, "wb") as stream:
            stream.write(data)
        os.replace(part, file)
    except BaseException:
        os.unlink(part)
        raise


def _copy_whole(file: File, into: File) -> None:
    """Copy a file of any size so that it is there entirely or not at all."""
    into.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=into.parent, prefix=".", suffix=".part") as folder:
        os.replace(shutil.copyfile(file, File(folder) / into.name), into)


def export_bundle(user: Person, scene: Scene) -> IO[bytes]:
    """Return the scene with all its files as one zip file, open at its beginning.

    Errors: FormatError: a file that it needs is missing.
    """
    allow(user, scene.project)
    # On the disk: with footage it may be larger than the memory.
    into = tempfile.TemporaryFile()  # noqa: SIM115 - who sends it closes it
    bundle.pack(scene.value(), scene.project.folder, into)
    into.seek(0)
    return into


def export_project(user: Person, project: Project) -> IO[bytes]:
    """Return all scenes of a project with all their files, and its kept rides, as one zip file,
    open at its beginning. What they were before stays in the studio.

    Errors: FormatError: a file that one needs is missing; SceneError: one cannot be read.
    """
    allow(user, project)
    scenes = project.scenes.filter(deleted_at=None).order_by("created_at", "pk")
    beside = [core.Beside(str(each.pk), each.name, _readable(each)) for each in scenes]
    beside += [
        core.Beside(f"{KEPT_RIDE}{each.pk}", each.name, each.value())
        for each in project.rides.all()
    ]
    into = tempfile.TemporaryFile()  # noqa: SIM115 - who sends it closes it
    whole = core.Scene(layers=(), scenes=tuple(beside))
    bundle.pack(whole, project.folder, into, project.name)
    into.seek(0)
    return into


def _readable(scene: Scene) -> core.Scene:
    """Errors: FormatError: it cannot be read."""
    value = scene.readable()
    if value is None:
        raise FormatError(
            f"{scene.name} is damaged, so the project cannot be one whole file; have back what can"
            " be read of it on its card, and delete it."
        )
    return value.alone()


KEPT_RIDE = "ride-"
"""How the ids of kept rides begin, where they are told among the scenes of a project."""


def import_project(user: Person, upload: UploadedFile) -> Project:
    """Make a project of a project file; a scene file makes one of that scene.

    Errors: FormatError, SceneError, MediaError: it cannot be used; nothing is kept.
    """
    with transaction.atomic():
        project = create_project(user, File(upload.name or "").stem[:80] or "Project")
        try:
            _fill(user, project, _brought(user, project, upload), upload.name or "")
        except BaseException:
            # Its row goes with the transaction; its files would stay.
            shutil.rmtree(project.folder.parent, ignore_errors=True)
            raise
    project.refresh_from_db()
    return project


def _fill(user: Person, project: Project, found: Bundle, name: str) -> None:
    """Make the scenes and kept rides that a file brings."""
    if not found.project:
        _scene_of(user, project, found.scene, name)
        return
    rename_project(user, project, found.project[:80])
    rides = [each for each in found.scene.scenes if each.id.startswith(KEPT_RIDE)]
    scenes = [each.id for each in found.scene.scenes if each not in rides]
    made = _make_beside(user, project, found.scene, scenes, f"Opened from {name}"[:200])
    # In the order in which they were, though what is shown by others is made first.
    for number, each in enumerate(scenes):
        at = project.created_at + timedelta(milliseconds=number)
        Scene.objects.filter(pk=made[each]).update(created_at=at)
    for ride in rides:
        document = codec.to_json(ride.scene, indent=None)
        project.rides.create(name=ride.name, document=document)


def import_bundle(user: Person, project: Project, upload: UploadedFile) -> Scene:
    """Make a scene from a scene file (.json) or one with its pictures (.zip).

    Errors: FormatError, SceneError, MediaError: it cannot be used; nothing is kept.
    """
    with transaction.atomic():
        found = _brought(user, project, upload)
        if found.project:
            raise FormatError(
                "It is a whole project; open it with Open a project, at the top of the page."
            )
        return _scene_of(user, project, found.scene, upload.name or "")


def _scene_of(user: Person, project: Project, value: core.Scene, name: str) -> Scene:
    # What a file is called is no name yet: it may have nothing before its ending.
    title, words = File(name).stem[:80] or "Scene", f"Opened from {name}"[:200]
    return create_scene(user, project, title, keep_shown(user, project, value), words=words)


def _brought(user: Person, project: Project, upload: UploadedFile) -> Bundle:
    """Keep the files that a bundle brings; return it with their names here."""
    allow(user, project)
    space.check(user, upload.size or 0)
    project.folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=project.folder, prefix=".", suffix=".part") as folder:
        place = File(folder)
        found = _opened(upload, project, place)
        # All of them before the first is kept: with one bad picture nothing is left behind.
        checked = {asset: _checked(place / asset) for asset in found.assets}
        renamed = {
            asset: _keep(project, place / asset, *about).file_name
            for asset, about in checked.items()
        }
        for take in found.takes:
            _keep_raw(project, take, (place / take).read_bytes())
    return replace(found, scene=found.scene.with_assets(renamed))


def _checked(file: File) -> tuple[bytes | None, str, str, tuple[float, float]]:
    """Return what is kept of a picture, a font or footage of a bundle: its bytes (None is the file
    as it is), ending, title and size.
    """
    noun = bundle.noun_of(file.name)
    if noun == "footage":
        facts = apart(look_into, file, file.name)
        return None, file.suffix, file.name, (facts.width, facts.height)
    if noun == "font":
        font = apart(fontfiles.import_font, file.read_bytes(), file.name)
        return font.data, font.ending, font.title, NO_SIZE
    picture = apart(pictures.import_picture, file.read_bytes(), file.name)
    return picture.data, picture.ending, file.name, (picture.width, picture.height)


def _keep(
    project: Project,
    file: File,
    data: bytes | None,
    ending: str,
    title: str,
    size: tuple[float, float],
) -> Asset:
    if data is not None:
        return keep_asset(project, data, ending, title, size)
    return _move_in(project, file, title, size)


def _keep_raw(project: Project, file_name: str, raw: bytes) -> None:
    """Keep a raw take of a bundle; one that cannot be read, or is another's by its name, is left
    out.
    """
    try:
        take = apart(read_take, raw.decode("utf-8")).take()
    except (CoreError, UnicodeDecodeError):
        return
    # Under this name other scenes may know another take.
    if hashlib.sha256(raw).hexdigest()[:40] + ".csv" != file_name:
        return
    write_whole(project.folder / file_name, raw)
    RawTake.objects.get_or_create(
        project=project, file_name=file_name, defaults={"name": "Take", "samples": len(take.times)}
    )


def _opened(upload: UploadedFile, project: Project, into: File) -> Bundle:
    """Read a scene file and lay what it brings into a folder."""
    name = upload.name or ""
    # By what it is, not by what it is called.
    if upload.read(2) == b"PK":
        file = into / "scene.zip"
        _write(upload, file)
        return apart(bundle.unpack, file, name, into)
    if (upload.size or 0) > bundle.LARGEST_SCENE:
        raise FormatError(f"{name} is larger than {bundle.LARGEST_SCENE // 1_000_000} MB.")
    upload.seek(0)
    scene, whole = apart(codec.read, upload.read())
    missing = [a for a in scene.assets() if not (project.folder / a).is_file()]
    if missing:
        raise SceneError(
            f"{name} needs the {bundle.noun_of(missing[0])} {missing[0]}; open the scene's zip"
            " file, which brings it."
        )
    return Bundle(scene, (), project=whole)
