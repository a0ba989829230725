"""A series of a scene in the studio: rows that fill in its fields, looked at, and rendered."""

import base64
from dataclasses import dataclass

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from coaster.edits.series import kind_of, value_of
from coaster.errors import CoreError, FormatError
from coaster.export import miniatures
from coaster.export.orders import READY
from coaster.formats import rows
from coaster.series import Filled
from studio.projects.access import scene_for
from studio.projects.models import Scene
from studio.reading import apart
from studio.renders import services
from studio.renders.filling import filled
from studio.renders.models import Preset, Render

MOST_SEEN, LARGEST = 24, 1_000_000
"""Rows that are shown as pictures before; bytes of a table."""


@dataclass(frozen=True)
class Look:
    """What a row comes to: its name, what it says, and a small picture of it."""

    name: str
    values: list[str]
    picture: str


def _first_rows(scene: Scene) -> str:
    """Return a table with what the scene says itself, to go on from."""
    value = scene.value()
    columns = ["name", *(field.name for field in value.fields)]
    now = ["first", *(value_of(value, field) for field in value.fields)]
    return rows.to_csv([columns, now])


@require_GET
def page(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Where a scene is filled in, by hand or from a table, without its editor."""
    scene = scene_for(request, scene_id)
    value = scene.value()
    fields = [(x.name, _kind(scene, x.name), value_of(value, x)) for x in value.fields]
    pictures = scene.project.assets.filter(deleted_at=None, width__gt=0).order_by("original_name")
    context = {
        "pictures": list(dict.fromkeys(pictures.values_list("original_name", flat=True))),
        "scene": scene,
        "fields": fields,
        "rows": _first_rows(scene),
        "ready": READY,
        "presets": Preset.objects.filter(owner=request.user.pk),
    }
    return render(request, "renders/series.html", context)


def _kind(scene: Scene, name: str) -> str:
    value = scene.value()
    field = next(each for each in value.fields if each.name == name)
    try:
        return kind_of(value, field)
    except CoreError:
        return "gone"


def _said(one: Filled) -> list[str]:
    return [value for column, value in one.row.values.items() if column != "name"]


@require_POST
def read(request: HttpRequest, scene_id: int) -> HttpResponse:
    """The rows of a file, in place of those that were typed."""
    scene, file = scene_for(request, scene_id), request.FILES.get("file")
    try:
        if file is None:
            raise FormatError("Choose a file of rows.")
        if (file.size or 0) > LARGEST:
            raise FormatError(f"{file.name} is larger than {LARGEST // 1_000_000} MB.")
        text = rows.decoded(file.read())
    except CoreError as error:
        return _refused(str(error), scene)
    context = {"rows": text, "scene": scene, "anew": True, "chosen": file.name}
    return render(request, "renders/_rows.html", context)


def _refused(words: str, picked_for: Scene | None = None) -> HttpResponse:
    """Return what is wrong with rows, line by line, to stand under them; where a file was picked,
    with what lets it be picked again.
    """
    context = {"faults": words.split("\n"), "anew": picked_for is not None, "scene": picked_for}
    answer = HttpResponse(render_to_string("renders/_series.html", context), status=422)
    answer["HX-Retarget"], answer["HX-Reswap"] = "#series", "innerHTML"
    return answer


@require_POST
def add(request: HttpRequest, scene_id: int) -> HttpResponse:
    """The rows with one more, which was filled in by hand."""
    scene = scene_for(request, scene_id)
    names = ["name", *(field.name for field in scene.value().fields)]
    text = request.POST.get("rows", "").strip()
    try:
        heading, *rest = rows.cells(text) if text else [names]
    except CoreError as error:
        return _refused(str(error))
    sent = dict(zip(names, request.POST.getlist("value"), strict=False))
    # Columns that the table does not have yet are put behind those that it has.
    columns = [*heading, *(name for name in names if name not in heading)]
    wide = [[*row, *[""] * (len(columns) - len(row))] for row in rest]
    table = [columns, *wide, [sent.get(name, "") for name in columns]]
    return render(request, "renders/_rows.html", {"rows": rows.to_csv(table)})


@require_POST
def look(request: HttpRequest, scene_id: int) -> HttpResponse:
    """What the rows come to, each as a small picture, or what is wrong with them."""
    scene, text = scene_for(request, scene_id), request.POST.get("rows", "")
    try:
        found = filled(scene, text)
        seen = apart(miniatures.stills, [x.scene for x in found[:MOST_SEEN]], scene.project.folder)
    except CoreError as error:
        return _refused(str(error))
    looks = [
        Look(one.out.name, _said(one), base64.b64encode(picture).decode())
        for one, picture in zip(found, seen, strict=False)
    ]
    context = {"scene": scene, "looks": looks, "count": len(found)}
    return render(request, "renders/_series.html", context | {"rows": text})


@require_POST
def start(request: HttpRequest, scene_id: int) -> HttpResponse:
    """Put a render of each row in line, and go to the list of all."""
    scene = scene_for(request, scene_id)
    try:
        found = filled(scene, request.POST.get("rows", ""))
        preset = request.POST.get("preset", "")
        choices = services.usual(request.user, scene, scene.value(), preset)
        made: list[Render] = services.start_filled(
            request.user, scene, [(one.out.name, one.scene) for one in found], choices
        )
    except CoreError as error:
        return _refused(str(error))
    answer = HttpResponse(f"{len(made)} renders are in line.")
    answer["HX-Redirect"] = reverse("queue")
    return answer
