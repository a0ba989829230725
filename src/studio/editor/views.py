"""The editor page, its parts, and the endpoints its modules talk to."""

from typing import Any

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.utils.http import content_disposition_header
from django.views.decorators.http import require_GET, require_POST

from coaster.edits.edit import Edit
from coaster.edits.takes import NewTake
from coaster.errors import CoreError, EditRefused, UnknownId
from coaster.formats import animate, pathdata
from coaster.formats import takes as takes_format
from coaster.formats.bundle import noun_of
from coaster.geometry.path import Path
from coaster.media.moving import MOVING
from coaster.media.small import PER_BLOCK
from coaster.motion.distance import Way, period_of
from coaster.render import places, stage
from coaster.scene.document import Scene as Document
from studio.editor import (
    following,
    imports,
    insets,
    library,
    panels,
    requests,
    seams,
    services,
    takes,
)
from studio.editor.services import Edited, StaleRevision
from studio.editor.why import told
from studio.languages.said import said
from studio.projects import history, replay
from studio.projects.access import scene_for
from studio.projects.models import MOST_DIGITS, Project, Revision, Scene

SCRIPTS = settings.PACKAGE / "static" / "studio" / "js"
MODULES = sorted(
    f"studio/js/{file.name}" for file in SCRIPTS.glob("*.js") if file.stem not in ("home", "types")
)
"""Told to the browser at once, so that it need not find them import by import."""
BINARY = "application/vnd.coaster.stage"


ACCEPTED = (
    *(".png", ".jpg", ".jpeg", ".webp", ".svg", ".csv", ".tsv", ".txt"),
    *(".ttf", ".otf", ".woff", ".woff2", ".m4v", *MOVING),
)
"""Endings of files that are offered to be brought in; what they are says their content."""


MOST_TOLD = 1000
"""Scenes that may be gone to by their names."""


def refusal(error: CoreError, status: int = 422) -> JsonResponse:
    """Answer with the one sentence that says why nothing was done."""
    status = 409 if isinstance(error, StaleRevision) else status
    return JsonResponse({"words": said(error)}, status=status)


@require_GET
def editor(request: HttpRequest, scene_id: int) -> HttpResponse:
    """The editor on one scene."""
    scene = scene_for(request, scene_id)
    value = scene.value()
    context = {
        "scene": scene,
        "project": scene.project,
        "value": value,
        "pictures": [name for name in value.assets() if noun_of(name) == "picture"],
        "modules": MODULES,
        "accepts": ",".join(ACCEPTED),
        "moving": " ".join(MOVING),
        "per_block": PER_BLOCK,
        "largest": (settings.LARGEST_FOOTAGE, settings.LARGEST_UPLOAD),
        "tables": panels.tables(),
        "came_from": _came_from(request),
    } | panels.TOOLS
    return render(
        request, "editor/editor.html", context | panels.shelf(scene) | panels.history(scene)
    )


def _came_from(request: HttpRequest) -> Scene | None:
    """Return the scene from which one went into this, if it is said."""
    said = request.GET.get("from", "")
    if not said.isdecimal() or len(said) > MOST_DIGITS:
        return None
    return Scene.objects.visible_to(request.user).filter(pk=said).first()


@require_GET
def whole_stage(request: HttpRequest, scene_id: int) -> HttpResponse:
    """The evaluated scene, all of it."""
    scene = scene_for(request, scene_id)
    return _scene(request, scene, scene.value(), None, {"revision": scene.revision})


@require_POST
def blocks(request: HttpRequest, scene_id: int) -> HttpResponse:
    """What changes over time of some layers, in blocks of frames; 409 if the scene has moved on."""
    scene = scene_for(request, scene_id)
    try:
        if requests.base_of(request.POST) != scene.revision:
            raise StaleRevision("The scene was changed meanwhile.")
        return _binary(stage.pack_blocks(scene.value(), *requests.blocks_of(request)))
    except CoreError as error:
        return refusal(error)


def _scene(
    request: HttpRequest,
    scene: Scene,
    value: Document,
    before: Document | None,
    head: dict[str, Any],
) -> HttpResponse:
    undo, redo = services.undo_words(scene)
    # A window that was told all forgets what it has; else "same" means what it has.
    head = {"whole": before is None, "undo": said(undo), "redo": said(redo)} | head
    frame = requests.playhead_of(request)
    return _binary(stage.pack(value, before, head, frame=frame))


def _binary(packed: bytes) -> HttpResponse:
    response = HttpResponse(packed, content_type=BINARY)
    # Going back in the browser must not show an older scene.
    response["Cache-Control"] = "no-store"
    return response


def _answer(request: HttpRequest, scene: Scene, done: Edited) -> HttpResponse:
    """Answer with what changed or, to a window that had fallen behind, with everything."""
    base = requests.base_of(request.POST)
    # The window has what its base says: only beside that may the answer say "as it was".
    before = done.before if done.revision in (base, base + 1) else None
    head = {"revision": done.revision, "words": said(done.words)} | _said(done.edit)
    return _scene(request, scene, done.after, before, head)


def _said(edit: Edit) -> dict[str, Any]:
    """Return what there is to be said and selected."""
    select = edit.select.told()
    notes: dict[str, Any] = {"notes": [said(note) for note in edit.notes]} if edit.notes else {}
    return notes | ({"select": select} if select else {})


@require_POST
def edit(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Apply the posted edit; answer with what changed, or why nothing did."""
    scene = scene_for(request, scene_id)
    try:
        asked = requests.read(request)
        done = services.edit(
            request.user, scene.pk, asked.plan, base=asked.base, nudge=asked.nudge, key=asked.key
        )
    except CoreError as error:
        return refusal(error)
    return _answer(request, scene, done)


@require_POST
def preview(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Answer with what the posted edit would change; nothing is stored."""
    scene = scene_for(request, scene_id)
    try:
        asked = requests.read(request)
        done = services.preview(request.user, scene, asked.plan, base=asked.base)
    except CoreError as error:
        return refusal(error)
    # Only what is seen: the history is as it was, and this is asked for many times a second.
    head = {"revision": done.revision, "whole": False, **_said(done.edit)}
    frame = requests.playhead_of(request)
    return _binary(stage.pack(done.after, done.before, head, asked.glance, frame))


@require_POST
def undo(request: HttpRequest, scene_id: int) -> HttpResponse:
    return _step(request, scene_id, services.undo)


@require_POST
def redo(request: HttpRequest, scene_id: int) -> HttpResponse:
    return _step(request, scene_id, services.redo)


def _step(request: HttpRequest, scene_id: int, step: Any) -> HttpResponse:
    scene = scene_for(request, scene_id)
    try:
        base, key = requests.base_of(request.POST), requests.key_of(request.POST)
        done = step(request.user, scene.pk, base=base, key=key)
    except CoreError as error:
        return refusal(error)
    return _answer(request, scene, done)


@require_GET
def shelf(request: HttpRequest, scene_id: int) -> HttpResponse:
    """The lists of layers and paths."""
    scene = scene_for(request, scene_id)
    return render(
        request,
        "editor/_shelf.html",
        {"scene": scene, "project": scene.project} | panels.shelf(scene),
    )


@require_GET
def why(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Why a layer is not seen in a frame; nothing if it is, or is not there any more."""
    scene = scene_for(request, scene_id)
    layer, frame = request.GET.get("layer", ""), request.GET.get("frame", "")
    at = int(frame) if frame.isdecimal() and len(frame) < 7 else 0
    try:
        rows = told(scene, layer, at)
    except UnknownId:
        rows = []
    return render(request, "editor/_why.html", {"rows": rows})


@require_GET
def seam(request: HttpRequest, scene_id: int) -> HttpResponse:
    """How the end of the loop meets its start, and what would mend it."""
    scene = scene_for(request, scene_id)
    return render(request, "editor/_seam.html", seams.told(scene))


@require_GET
def card(request: HttpRequest, scene_id: int) -> HttpResponse:
    """The details of one layer or path, or of the scene if none is asked for or there any more."""
    scene = scene_for(request, scene_id)
    nodes = request.GET.get("nodes", "").split()
    picked, count = request.GET.get("picked", "").split(), request.GET.get("count", "")
    layer, path = request.GET.get("layer", ""), request.GET.get("path", "")
    context = panels.card(
        request.user,
        scene,
        layer,
        path,
        nodes,
        picked,
        int(count) if count.isdecimal() else 0,
        request.GET.get("layers", "").split(),
    )
    # A window names as many nodes as say what all have in common, and how many there are.
    all_chosen = request.GET.get("chosen", "")
    context["node_count"] = int(all_chosen) if all_chosen.isdecimal() else len(nodes)
    return render(
        request, "editor/_card.html", {"scene": scene, "project": scene.project} | context
    )


@require_GET
def path_svg(request: HttpRequest, scene_id: int, path_id: str) -> HttpResponse:
    """One path as an SVG file, its px those of the scene."""
    path, value = _path(request, scene_id, path_id)
    response = HttpResponse(
        pathdata.to_svg(path, value.width, value.height), content_type="image/svg+xml"
    )
    response.headers["Content-Disposition"] = content_disposition_header(True, f"{path.name}.svg")
    return response


@require_GET
def ride_svg(request: HttpRequest, scene_id: int, layer_id: str) -> HttpResponse:
    """One ride as an SVG file that animates itself; 422 with words where SVG cannot say it."""
    value = scene_for(request, scene_id).value()
    try:
        ride = value.ride_of(layer_id)
        way = Way(value.path(ride.path), ride, value.layer(layer_id).keys_of("shift"))
        drawn = animate.to_svg(
            way, value.width, value.height, value.fps, period=period_of(way, value.length)
        )
    except UnknownId as error:
        raise Http404 from error
    except CoreError as error:
        return HttpResponse(said(error), status=422, content_type="text/plain; charset=utf-8")
    response = HttpResponse(drawn, content_type="image/svg+xml")
    response.headers["Content-Disposition"] = content_disposition_header(
        True, f"{value.layer(layer_id).name}.svg"
    )
    return response


@require_GET
def path_data(request: HttpRequest, scene_id: int, path_id: str) -> HttpResponse:
    """The sheet that shows a path's data as text, to be copied or typed over."""
    path, _ = _path(request, scene_id, path_id)
    return render(
        request, "editor/_data.html", {"path": path, "data": pathdata.to_path_data(path.subpaths)}
    )


@require_GET
def new_path_data(request: HttpRequest, scene_id: int) -> HttpResponse:
    """The sheet to type the data of a new path into."""
    scene_for(request, scene_id)
    return render(request, "editor/_data.html")


def _path(request: HttpRequest, scene_id: int, path_id: str) -> tuple[Path, Document]:
    value = scene_for(request, scene_id).value()
    try:
        return value.path(path_id), value
    except UnknownId as error:
        raise Http404(str(error)) from error


@require_GET
def passed(request: HttpRequest, scene_id: int, layer_id: str, node_id: str) -> JsonResponse:
    """The frame at which a rider first comes to a node; null for never."""
    value = scene_for(request, scene_id).value()
    try:
        return JsonResponse({"frame": places.passed(value, layer_id, node_id)})
    except UnknownId as error:
        raise Http404(str(error)) from error


@require_GET
def revision(request: HttpRequest, scene_id: int) -> JsonResponse:
    """The number of the latest revision, and one of what is shown of other scenes, for windows that
    were away.
    """
    scene = scene_for(request, scene_id)
    return JsonResponse({"revision": scene.revision, "shown": scene.shown_mark})


@require_GET
def past(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Some of a scene's history, the newest first, as a part of its panel."""
    scene, before = scene_for(request, scene_id), request.GET.get("before", "")
    number = int(before) if before.isdecimal() and len(before) < 9 else None
    return _past(request, scene, number)


def _past(request: HttpRequest, scene: Scene, before: int | None = None) -> HttpResponse:
    named = request.GET.get("named") == "on"
    page = history.page(scene, before, named=named)
    context = {"scene": scene, "page": page, "named": named, "several": settings.SERVER_MODE}
    return render(request, "editor/_history.html", context)


@require_GET
def stage_at(request: HttpRequest, scene_id: int, number: int) -> HttpResponse:
    """The evaluated scene as it was after one of its revisions."""
    scene = scene_for(request, scene_id)
    try:
        value = replay.document_at(scene, number)
    except Revision.DoesNotExist as error:
        raise Http404("This was tidied away.") from error
    except CoreError as error:
        return refusal(error)
    return _scene(request, scene, value, None, {"revision": scene.revision})


@require_POST
def go_back(request: HttpRequest, scene_id: int, number: int) -> HttpResponse:
    """Make the scene what it was after a revision; an edit like any other, which can be undone."""
    scene = scene_for(request, scene_id)
    base, key = requests.base_of(request.POST), requests.key_of(request.POST)

    def plan(value: Document) -> Edit:
        return history.back_to(scene, number, value)

    try:
        done = services.edit(request.user, scene.pk, plan, base=base, key=key)
    except Revision.DoesNotExist as error:
        raise Http404("This was tidied away.") from error
    except CoreError as error:
        return refusal(error)
    return _answer(request, scene, done)


@require_POST
def name_version(request: HttpRequest, scene_id: int, number: int) -> HttpResponse:
    """Call a revision by a name; answer with the list as it is then."""
    scene = scene_for(request, scene_id)
    try:
        history.name_version(request.user, scene, number, request.POST.get("title", ""))
    except Revision.DoesNotExist as error:
        raise Http404("This was tidied away.") from error
    except CoreError as error:
        return refusal(error)
    return _past(request, scene)


@require_POST
def version_as_new(request: HttpRequest, scene_id: int, number: int) -> HttpResponse:
    """Make a scene of its own of this one as it was; answer with where it is."""
    scene = scene_for(request, scene_id)
    try:
        made = history.as_new_scene(request.user, scene, number)
    except Revision.DoesNotExist as error:
        raise Http404("This was tidied away.") from error
    except CoreError as error:
        return refusal(error)
    return JsonResponse({"address": reverse("editor", args=[made.pk]), "name": made.name})


@require_GET
def scenes(request: HttpRequest, scene_id: int) -> JsonResponse:
    """The person's other scenes by name, those edited last first, to go to one."""
    here = scene_for(request, scene_id)
    mine = Scene.objects.visible_to(request.user).select_related("project").order_by("-edited_at")
    told = [
        {"address": reverse("editor", args=[x.pk]), "name": x.name, "project": x.project.name}
        for x in mine.exclude(pk=here.pk).defer("document")[:MOST_TOLD]
    ]
    return JsonResponse({"scenes": told})


@require_POST
def import_file(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Take an uploaded picture, drawing or footage into the scene, or numbered pictures as footage.

    A drawing that can be both is answered with the question which, as HTML; nothing is kept
    until it is sent again with the answer.
    """
    scene = scene_for(request, scene_id)
    uploads = request.FILES.getlist("file")
    upload = uploads[0] if uploads else None
    # A form without a file is what a browser sends when a folder is dropped.
    if upload is None:
        return JsonResponse(
            {"words": said("No file came with this. Choose one and try again.")}, status=422
        )
    try:
        if (done := imports.accept_moving(request.user, scene, uploads, request.POST)) is not None:
            return _answer(request, scene, done)
        data, name = imports.read_whole(upload), upload.name or ""
        # A drawing can be a picture or paths; only its person knows.
        if imports.is_drawing(data) and "use" not in request.POST:
            question = imports.question(data, name, scene.value())
            return render(request, "editor/_drawing.html", {"scene": scene, "drawing": question})
        if imports.is_table(data, name) and "use" not in request.POST:
            table = imports.table_question(data, name)
            return render(request, "editor/_table.html", {"scene": scene, "table": table})
        done = imports.accept(request.user, scene, data, name, request.POST)
    except CoreError as error:
        return refusal(error)
    return _answer(request, scene, done)


@require_GET
def library_sheet(request: HttpRequest, scene_id: int) -> HttpResponse:
    """The sheet that lists the project's kept rides, for a layer to take one or to keep its own."""
    return _library(request, scene_for(request, scene_id), request.GET.get("layer", ""))


def _library(request: HttpRequest, scene: Scene, layer_id: str, words: str = "") -> HttpResponse:
    return render(
        request, "editor/_library.html", panels.library(scene, layer_id) | {"words": words}
    )


@require_POST
def keep_ride(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Keep the ride of a layer; answer with the sheet as it is then."""
    scene, layer_id, words = scene_for(request, scene_id), request.POST.get("layer", ""), ""
    try:
        library.keep(request.user, scene, layer_id, request.POST.get("title", ""))
    except CoreError as error:
        words = str(error)
    return _library(request, scene, layer_id, words)


@require_POST
def forget_ride(request: HttpRequest, scene_id: int, ride_id: int) -> HttpResponse:
    """Take a kept ride out of the library; scenes that use it keep theirs."""
    scene = scene_for(request, scene_id)
    get_object_or_404(scene.project.rides, pk=ride_id).delete()
    return _library(request, scene, request.POST.get("layer", ""))


@require_GET
def insets_sheet(request: HttpRequest, scene_id: int) -> HttpResponse:
    """The sheet that lists the project's other scenes, to show one in this."""
    scene = scene_for(request, scene_id)
    return render(request, "editor/_scenes.html", {"rows": insets.others(scene)})


@require_POST
def group_scene(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Make a group a scene of its own, which takes its place."""
    scene, posted = scene_for(request, scene_id), request.POST
    base, key = requests.base_of(posted), requests.key_of(posted)
    layer_id, frame = posted.get("layer", ""), requests.playhead_of(request)
    try:
        done = insets.group_to_scene(request.user, scene, layer_id, frame, base=base, key=key)
    except CoreError as error:
        return refusal(error)
    return _answer(request, scene, done)


@require_POST
def follow(request: HttpRequest, scene_id: int, what: str) -> JsonResponse:
    """Mark a spot of footage, or follow it for some frames; nothing is kept."""
    scene = scene_for(request, scene_id)
    acts = {"mark": following.mark, "on": following.follow_part}
    if what not in acts:
        raise Http404("A spot is marked, or followed on.")
    try:
        return JsonResponse(acts[what](scene, request.POST))
    except CoreError as error:
        return refusal(error)


@require_POST
def followed(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Make a take or a helper of a spot that was followed."""
    scene = scene_for(request, scene_id)
    base, key = requests.base_of(request.POST), requests.key_of(request.POST)
    try:
        done = following.make(request.user, scene, request.POST, base=base, key=key)
    except CoreError as error:
        return refusal(error)
    return _answer(request, scene, done)


@require_POST
def record_take(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Keep a recorded movement raw, make a path of it, and let the chosen layer ride it."""
    # Also of a scene that was deleted meanwhile: what the hand has drawn is kept whatever happens.
    mine = Scene.objects.filter(project__in=Project.objects.visible_to(request.user))
    scene = get_object_or_404(mine.select_related("project"), pk=scene_id)
    posted, base = request.POST, requests.base_of(request.POST)
    try:
        slow = _positive(posted.get("slow", ""), 1.0)
        start = _positive(posted.get("frame", ""), 0.0)
        text = takes_format.to_csv(takes.posted_take(posted.get("samples", ""), slow))
        begun = NewTake("", start, posted.get("layer", ""), "Take", *takes.plane_of(posted))
        name, key = f"Take in {scene.name}", requests.key_of(posted)
        done = takes.keep(request.user, scene, text, name, begun, base=base, key=key)
    except CoreError as error:
        return refusal(error)
    return _answer(request, scene, done)


def _positive(text: str, usual: float) -> float:
    try:
        found = float(text) if text else usual
    except ValueError as error:
        raise EditRefused(
            "The recording does not say when it began, or how fast the scene ran."
        ) from error
    if not 0 <= found <= 36_000:
        raise EditRefused("The recording does not say when it began, or how fast the scene ran.")
    return found


@require_GET
def take_csv(request: HttpRequest, scene_id: int, path_id: str) -> HttpResponse:
    """The raw take of a path as CSV or, with ``?smoothed``, where its smooth line is at the same
    times.
    """
    path, value = _path(request, scene_id, path_id)
    text = _raw_of(request, path)
    name = path.name
    if "smoothed" in request.GET and path.drawn:
        text, name = takes.smooth_csv(text, path.drawn, value.fps), f"{path.name} smooth"
    response = HttpResponse(text, content_type="text/csv; charset=utf-8")
    response.headers["Content-Disposition"] = content_disposition_header(True, f"{name}.csv")
    return response


@require_GET
def take_svg(request: HttpRequest, scene_id: int, path_id: str) -> HttpResponse:
    """The raw line of a path's take as an SVG file; the smooth one is the path's own."""
    path, value = _path(request, scene_id, path_id)
    drawn = takes.raw_svg(_raw_of(request, path), value.width, value.height)
    response = HttpResponse(drawn, content_type="image/svg+xml")
    response.headers["Content-Disposition"] = content_disposition_header(
        True, f"{path.name} raw.svg"
    )
    return response


@require_GET
def raw_take(request: HttpRequest, scene_id: int, path_id: str) -> HttpResponse:
    """The raw line of a path's take, as path data, and where the smooth one is farthest from it."""
    path, value = _path(request, scene_id, path_id)
    return JsonResponse(takes.raw_line(_raw_of(request, path), path, value.fps))


def _raw_of(request: HttpRequest, path: Path) -> str:
    if path.drawn is None:
        raise Http404
    try:
        return takes.raw(request.user, path.drawn.file)
    except CoreError as error:
        raise Http404 from error
