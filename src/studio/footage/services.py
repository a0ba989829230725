"""Small frames: put in line when footage comes in, made beside the server, or when one is asked
for.
"""

from contextlib import closing, suppress

from django.db.models import QuerySet
from django.urls import reverse

from coaster.errors import RenderCancelled
from coaster.media import small
from coaster.media.moving import is_moving
from coaster.media.readers import look_into, open_footage, small_block
from studio.footage.models import SmallFrames
from studio.jobs import services as jobs
from studio.jobs.services import Desk
from studio.projects.models import Asset, Project
from studio.projects.querysets import Person
from studio.projects.services import allow, write_whole
from studio.reading import apart

JOB = "small-frames"


def address_of(project: Project, asset: str, index: int) -> str:
    """Return where a page finds a picture, or a frame of footage."""
    if not is_moving(asset):
        return reverse("asset", args=[project.pk, asset])
    return reverse("footage-frame", args=[project.pk, asset, index])


def of_project(project: Project) -> QuerySet[SmallFrames]:
    return SmallFrames.objects.filter(asset__project=project).select_related("asset__project")


def of_asset(user: Person, asset: Asset) -> SmallFrames:
    """Return the small frames of footage; of what came with a scene they are begun now.

    Errors: MediaError: it cannot be read.
    """
    found = SmallFrames.objects.filter(asset=asset).select_related("asset__project").first()
    if found is not None:
        return found
    return start(user, asset, apart(look_into, asset.path, asset.original_name).count)


def start(user: Person, asset: Asset, frames: int) -> SmallFrames:
    """Put the making of small frames in line, unless they are made or under way."""
    allow(user, asset.project)
    made, new = SmallFrames.objects.get_or_create(asset=asset, defaults={"total": frames})
    if new:
        jobs.enqueue(JOB, made)
    return made


def cancel(user: Person, wanted: SmallFrames) -> None:
    allow(user, wanted.asset.project)
    jobs.cancel(wanted)


def again(user: Person, wanted: SmallFrames) -> None:
    """Make what is missing.

    Errors: EditRefused: it is still under way.
    """
    allow(user, wanted.asset.project)
    jobs.again(JOB, wanted)


def block(of: SmallFrames, number: int) -> bytes:
    """Return a block, made now if it is not there yet.

    Errors: MediaError: it cannot be read; FormatError: it takes too long.
    """
    file = of.block(number)
    if file.exists():
        return file.read_bytes()
    made = apart(small_block, of.asset.path, number)
    # On a full disk it is seen all the same, and made again whenever it is asked for.
    with suppress(OSError):
        write_whole(file, made)
    return made


def frame(of: SmallFrames, index: int) -> bytes:
    """Return one small frame, as JPEG or PNG; errors as ``block``."""
    place, inside = divmod(index, small.PER_BLOCK)
    return small.unpacked(block(of, place))[inside]


def _work(job: SmallFrames, desk: Desk) -> dict[str, object]:
    first = next((i for i in range(job.blocks) if not job.block(i).exists()), job.blocks)
    desk.progress(min(first * small.PER_BLOCK, job.total))
    with closing(open_footage(job.asset.path)) as footage:
        for number, data in enumerate(small.blocks(footage, first), first):
            write_whole(job.block(number), data)
            desk.progress(min((number + 1) * small.PER_BLOCK, job.total))
            if desk.cancelled():
                raise RenderCancelled(f"Stopped after {number + 1} blocks.")
    return {}


jobs.register(JOB, SmallFrames, _work)
