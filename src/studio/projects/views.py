"""The page of projects and scenes, and the files that belong to them."""

from django.contrib import messages
from django.core.exceptions import ObjectDoesNotExist
from django.db.models import Prefetch
from django.http import FileResponse, Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from coaster.edits.edit import called
from coaster.errors import CoreError
from studio.forms import RATES, first_words
from studio.languages.said import said
from studio.projects import bin as binned
from studio.projects import files, replay, services, shown, thumbnails
from studio.projects.access import scene_for
from studio.projects.forms import SIZES, NameForm, NewSceneForm
from studio.projects.models import Asset, Project, Scene
from studio.projects.querysets import Projects

KEEP = cache_control(private=True, max_age=31_536_000, immutable=True)


def _project(request: HttpRequest, project_id: int) -> Project:
    return get_object_or_404(Project.objects.visible_to(request.user), pk=project_id)


def _back(
    request: HttpRequest, words: str = "", undo: str = "", *, wrong: bool = False
) -> HttpResponse:
    """Go back to the page of projects and say there what happened, with a way to undo it."""
    if words:
        messages.add_message(
            request, messages.ERROR if wrong else messages.INFO, words, extra_tags=undo
        )
    return redirect("projects")


@require_GET
def projects(request: HttpRequest) -> HttpResponse:
    """All projects with their scenes."""
    scenes = Prefetch("scenes", Scene.objects.visible_to(request.user), to_attr="shown")
    mine = list(_mine(request).prefetch_related(scenes))
    for project in mine:
        used = shown.used_in(project.shown)
        for scene in project.shown:
            scene.used_in = used.get(scene.pk, [])
    return render(request, "projects/projects.html", {"projects": mine})


def _mine(request: HttpRequest) -> Projects:
    return Project.objects.visible_to(request.user)


@require_POST
def create_project(request: HttpRequest) -> HttpResponse:
    form = NameForm(request.POST)
    if not form.is_valid():
        return _back(request, first_words(form), wrong=True)
    services.create_project(request.user, form.cleaned_data["name"])
    return _back(request)


@require_POST
def rename_project(request: HttpRequest, project_id: int) -> HttpResponse:
    project, form = _project(request, project_id), NameForm(request.POST)
    if not form.is_valid():
        return _back(
            request, f"{form.errors['name'][0]} It is still called {project.name}.", wrong=True
        )
    services.rename_project(request.user, project, form.cleaned_data["name"])
    return _back(request)


@require_POST
def delete_project(request: HttpRequest, project_id: int) -> HttpResponse:
    project = _project(request, project_id)
    services.bin_project(request.user, project)
    return _back(
        request, f"{project.name} was deleted.", reverse("restore-project", args=[project.pk])
    )


@require_POST
def restore_project(request: HttpRequest, project_id: int) -> HttpResponse:
    get_object_or_404(Project, pk=project_id, owner=request.user)
    project = services.restore_project(request.user, project_id)
    return _back(request, f"{project.name} is back.")


@require_http_methods(["GET", "POST"])
def new_scene(request: HttpRequest, project_id: int) -> HttpResponse:
    """The dialog of a new scene, and making it."""
    project = _project(request, project_id)
    start = {"size": "1920x1080", "rate": "30", "length": "8", "unit": "s", "background": "#ffffff"}
    form = NewSceneForm(request.POST or None, initial=start)
    if request.method == "POST" and form.is_valid():
        scene = services.create_scene(
            request.user, project, form.cleaned_data["name"], form.cleaned_data["value"]
        )
        response = HttpResponse(status=204)
        # A redirect would be followed inside the dialog; the page itself is to go on.
        response["HX-Redirect"] = reverse("editor", args=[scene.pk])
        return response
    words = form.words() if request.method == "POST" else ""
    context = {"project": project, "form": form, "sizes": SIZES, "rates": RATES, "words": words}
    context["shown"] = request.POST or start
    return render(request, "projects/_new_scene.html", context, status=422 if words else 200)


@require_POST
def rename_scene(request: HttpRequest, scene_id: int) -> HttpResponse:
    scene, form = scene_for(request, scene_id), NameForm(request.POST)
    # The editor renames its scene in place; the page of projects is drawn anew.
    wants_json = "application/json" in request.headers.get("Accept", "")
    if not form.is_valid():
        words = f"{form.errors['name'][0]} It is still called {scene.name}."
        return (
            JsonResponse({"words": said(words)}, status=422)
            if wants_json
            else _back(request, words, wrong=True)
        )
    services.rename_scene(request.user, scene, form.cleaned_data["name"])
    return JsonResponse({"name": form.cleaned_data["name"]}) if wants_json else _back(request)


@require_POST
def duplicate_scene(request: HttpRequest, scene_id: int) -> HttpResponse:
    copy = services.duplicate_scene(request.user, scene_for(request, scene_id))
    return _back(request, f"{copy.name} was made.")


@require_POST
def rescue_scene(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Make a scene of what can still be read of a damaged one."""
    scene = scene_for(request, scene_id)
    try:
        made, number = replay.rescue(request.user, scene)
    except CoreError as error:
        return _back(request, str(error), wrong=True)
    lost = scene.revision - number
    rest = f"the last {lost} edits cannot be had" if lost else "nothing is lost"
    return _back(request, f"{made.name} is a scene of its own: {rest}. {scene.name} is as it was.")


@require_POST
def delete_scene(request: HttpRequest, scene_id: int) -> HttpResponse:
    scene = scene_for(request, scene_id)
    others = Scene.objects.filter(project=scene.project_id, deleted_at=None)
    used = shown.used_in(others).get(scene.pk, [])
    services.bin_scene(request.user, scene)
    words = f"{scene.name} was deleted."
    if used:
        words = f"{words} Its frame is empty now in {' and '.join(used)}."
    return _back(request, words, reverse("restore-scene", args=[scene.pk]))


@require_POST
def restore_scene(request: HttpRequest, scene_id: int) -> HttpResponse:
    get_object_or_404(Scene, pk=scene_id, project__owner=request.user, project__deleted_at=None)
    scene = services.restore_scene(request.user, scene_id)
    return _back(request, f"{scene.name} is back.")


@require_GET
def project_files(request: HttpRequest, project_id: int) -> HttpResponse:
    """What a project holds beside its scenes: what, how large, and where it is used."""
    project = _project(request, project_id)
    found = files.of_project(project)
    unused = [each for each in found if each.unused]
    context = {
        "project": project,
        "files": found,
        "size": sum(each.size or 0 for each in found),
        "unused": len(unused),
        "unused_size": sum(each.size or 0 for each in unused),
    }
    return render(request, "projects/files.html", context)


def _to_files(
    request: HttpRequest, project: Project, words: str, gone: list[Asset], *, wrong: bool = False
) -> HttpResponse:
    """Go back to the files and say what happened, with a way to undo it."""
    pks = ",".join(str(asset.pk) for asset in gone)
    undo = f"{reverse('restore-files', args=[project.pk])}?files={pks}" if gone else ""
    messages.add_message(
        request, messages.ERROR if wrong else messages.INFO, words, extra_tags=undo
    )
    return redirect("project-files", project.pk)


@require_POST
def bin_file(request: HttpRequest, project_id: int, asset_id: int) -> HttpResponse:
    project = _project(request, project_id)
    asset = get_object_or_404(project.assets, pk=asset_id, deleted_at=None)
    try:
        files.bin_file(request.user, asset)
    except CoreError as error:
        return _to_files(request, project, str(error), [], wrong=True)
    return _to_files(request, project, f"{asset} was removed.", [asset])


@require_POST
def bin_unused(request: HttpRequest, project_id: int) -> HttpResponse:
    project = _project(request, project_id)
    gone = files.bin_unused(request.user, project)
    count = called(len(gone), "file")
    words = f"{count} that nothing used {'was' if len(gone) == 1 else 'were'} removed."
    return _to_files(request, project, words if gone else "Everything here is used.", gone)


@require_POST
def restore_files(request: HttpRequest, project_id: int) -> HttpResponse:
    """Put back what was removed a moment ago."""
    project = _project(request, project_id)
    wanted = [int(pk) for pk in request.GET.get("files", "").split(",") if pk.isdecimal()]
    count = files.restore_files(request.user, project, wanted)
    return _to_files(request, project, f"{count} {'is' if count == 1 else 'are'} back.", [])


@require_GET
def show_bin(request: HttpRequest) -> HttpResponse:
    """What was deleted, to be put back or erased."""
    things = binned.contents(request.user)
    context = {"things": things, "size": sum(thing.size for thing in things)}
    return render(request, "projects/bin.html", context)


@require_POST
def act_in_bin(request: HttpRequest, kind: str, pk: int, action: str) -> HttpResponse:
    """Put one thing back, or erase it for good."""
    act, words = {
        "restore": (binned.restore, "{name} is back."),
        "erase": (binned.erase, "{name} is gone for good."),
    }[action]
    if kind not in binned.SORTS:
        raise Http404("There is no such sort of things.")
    try:
        name = act(request.user, kind, pk)
    except ObjectDoesNotExist as error:
        raise Http404("This is not in the bin.") from error
    messages.info(request, words.format(name=name))
    # What is back is to be seen where it was.
    return redirect("projects" if action == "restore" and kind != "render" else "bin")


@require_POST
def empty_bin(request: HttpRequest) -> HttpResponse:
    """Erase all that is in the person's bin."""
    gone = binned.empty(request.user)
    messages.info(request, "The bin is empty." if gone else "The bin was empty already.")
    return redirect("bin")


@require_POST
def open_scene(request: HttpRequest, project_id: int) -> HttpResponse:
    """Make a scene from an uploaded scene file."""
    project, upload = _project(request, project_id), request.FILES.get("file")
    if upload is None:
        return _back(request, "No file was chosen; nothing was opened.", wrong=True)
    try:
        scene = services.import_bundle(request.user, project, upload)
    except CoreError as error:
        return _back(request, f"{upload.name} was not opened. {error}", wrong=True)
    return redirect("editor", scene.pk)


@require_POST
def open_project(request: HttpRequest) -> HttpResponse:
    """Make a project from an uploaded project file."""
    upload = request.FILES.get("file")
    if upload is None:
        return _back(request, "No file was chosen; nothing was opened.", wrong=True)
    try:
        project = services.import_project(request.user, upload)
    except CoreError as error:
        return _back(request, f"{upload.name} was not opened. {error}", wrong=True)
    count = project.scenes.count()
    return _back(request, f"{project.name} is here, with {count} scene{'' if count == 1 else 's'}.")


@require_GET
def save_project(request: HttpRequest, project_id: int) -> HttpResponse:
    """The project with all its scenes and files as one file to keep."""
    project = _project(request, project_id)
    try:
        packed = services.export_project(request.user, project)
    except CoreError as error:
        return _back(request, f"{project.name} was not saved. {error}", wrong=True)
    name = f"{slugify(project.name) or 'project'}.zip"
    return FileResponse(packed, as_attachment=True, filename=name)  # type: ignore[return-value]


@require_GET
def save_scene(request: HttpRequest, scene_id: int) -> FileResponse:
    """The scene with its pictures as one file to keep."""
    scene = scene_for(request, scene_id)
    name = f"{slugify(scene.name) or 'scene'}.zip"
    return FileResponse(
        services.export_bundle(request.user, scene), as_attachment=True, filename=name
    )


@require_GET
@KEEP
def thumbnail(request: HttpRequest, scene_id: int, revision: int, kind: str) -> FileResponse:
    """A small picture of the scene; the address carries the revision, so it may be kept."""
    scene = scene_for(request, scene_id)
    try:
        return FileResponse(
            thumbnails.scene_file(scene, kind).open("rb"), content_type="image/webp"
        )
    except CoreError as error:
        raise Http404(str(error)) from error


@require_GET
@KEEP
def asset(request: HttpRequest, project_id: int, file_name: str) -> FileResponse:
    """An imported picture."""
    mine = Asset.objects.visible_to(request.user).select_related("project")
    found = get_object_or_404(mine, project_id=project_id, file_name=file_name)
    if not found.path.is_file():
        raise Http404("The picture's file is gone.")
    return FileResponse(found.path.open("rb"))
