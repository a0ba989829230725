"""What the shelf and the card show, taken from the document."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path as File
from typing import Any

from django.urls import reverse
from django.utils.html import format_html
from django.utils.safestring import mark_safe

from coaster.edits import series
from coaster.edits.follows import followers_of, values_of
from coaster.edits.frames import off_path
from coaster.edits.keys import PEG
from coaster.edits.layers import NEW_THINGS, ON_PATHS
from coaster.edits.paths import unused
from coaster.edits.several import has_value
from coaster.formats.pathdata import to_path_data
from coaster.geometry.measure import measure_of
from coaster.geometry.path import Leg, Node, Path, handle_depths
from coaster.motion import easing
from coaster.motion.accents import KINDS as ACCENTS
from coaster.motion.accents import MARKED, Accent
from coaster.motion.distance import Way, is_limited, laps_of
from coaster.motion.pace import is_stepping, pace_at_pegs
from coaster.motion.playing import AFTER, After
from coaster.motion.ride import FACING_WORDS, AtNode, Peg, Ride
from coaster.motion.ride import FACINGS as MODES
from coaster.motion.sections import pace_name, pace_of, section_curve
from coaster.motion.takes import MOST_SAMPLES
from coaster.motion.wakes import READY
from coaster.render import fonts, svg
from coaster.render.faces import standing_face
from coaster.render.meetings import meetings
from coaster.render.places import has_depth, may_be_left
from coaster.render.svg import Href
from coaster.scene import tree
from coaster.scene.contents import (
    ALIGNS,
    CAPS,
    FONTS,
    JOINS,
    SIDES,
    Picture,
    as_footage,
    as_line,
    as_picture,
    as_played,
    as_text,
    has_colours,
    kind_of,
    properties_of,
)
from coaster.scene.contents import FIGURES as SHAPES
from coaster.scene.document import Layer
from coaster.scene.document import Scene as Document
from coaster.scene.follows import Follow, is_number, told
from coaster.scene.gradients import FORMS
from coaster.scene.masks import BLENDS
from coaster.scene.properties import ATTITUDE, PLACES, PROPERTIES, TABLE
from studio.editor import help, services, takes
from studio.editor.forms.follows import CURVES
from studio.editor.forms.gradients import PLAIN
from studio.editor.forms.shades import MIRRORS, TINTS
from studio.editor.takes import Asker
from studio.editor.views_of import square_round, view_box
from studio.footage import services as footage
from studio.forms import RATES
from studio.languages.said import said
from studio.projects.models import Asset, SavedRide, Scene

PACES = [
    ("even", "Even", "M4 14H36"),
    ("ease-in", "Ease in", "M4 24C22 24 33 16 36 4"),
    ("ease-out", "Ease out", "M4 4C7 16 18 24 36 24"),
    ("ease-both", "Ease both", "M4 24C14 24 12 5 20 5S26 24 36 24"),
    ("accelerate", "Accelerate", "M4 24L36 4"),
    ("cubic", "Cubic", "M4 24C20 24 31 20 36 4"),
    ("dip", "Dip", "M4 5C14 5 12 22 20 22S26 5 36 5"),
    ("burst", "Burst", "M4 22H12C18 22 17 4 20 4S22 22 28 22H36"),
]
"""Name, label, and the speed over time as a small drawing (40 x 28)."""


LOOKS = {
    file.stem: f"editor/look/{file.name}"
    for file in (File(__file__).parent / "templates" / "editor" / "look").glob("*.html")
}
"""What the card has for the look of a kind, beside what all kinds have: a template of its name."""
MOST_CHOICES = 200
MANY_NODES = 1000
"""With more than this, a path is offered to be made lighter."""
KINDS = [("corner", "Corner"), ("smooth", "Smooth"), ("even", "Even"), ("auto", "Auto")]
ACCENT_WHENS = [
    ("at", "at a time"),
    ("before", "before its ride"),
    ("during", "during its ride"),
    ("after", "after its ride"),
    ("peg", "at a peg"),
    ("node", "at a node"),
]
TEXT_RIDES = [
    ("one", "In one", "In one piece"),
    ("letter", "Letters", "Each letter by itself, so that the text bends with its path"),
    ("word", "Words", "Each word by itself"),
    ("line", "Lines", "Each line by itself"),
]
FACINGS = [(mode, FACING_WORDS.get(mode, mode.capitalize())) for mode in MODES]
LOOKS_WORDS = [
    ("side", "Its right side points there"),
    ("face", "It turns its face there, in depth"),
]
STENCIL_WORDS = [
    ("alpha", "the one below, by shape"),
    ("brightness", "the one below, by light"),
]
MEETING_WORDS = [("add", "shows"), ("take", "hides"), ("meet", "only in it")]
FIGURES = [("ellipse", "circle"), ("rectangle", "square"), ("polygon", "hexagon"), ("star", "star"),
           ("spiral", "spiral"), ("wave", "wave-sine")]  # fmt: skip
"""Figures of a path and the icon of each."""
TOOLS = {
    "help_topics": help.TOPICS,
    "help_words": help.WORDS,
    "figure_icons": FIGURES,
    "shape_icons": [row for row in FIGURES if row[0] in SHAPES],
    "most_samples": MOST_SAMPLES,
    "fallbacks": " ".join(fonts.FALLBACKS),
}
ICONS = {
    **dict(FIGURES),
    "text": "text-aa",
    "helper": "crosshair-simple",
    "camera": "video-camera",
    "light": "lightbulb",
}
ADDS = [(what, ICONS.get(what, "plus")) for what in NEW_THINGS if what not in ON_PATHS]
"""What the shelf can add, and its icon; a line is added where its path is."""
TAGS = [
    ("#e4572e", "coral"),
    ("#e9b44c", "sand"),
    ("#3cb38b", "kelp"),
    ("#2a7590", "tide"),
    ("#7a5ea8", "urchin"),
    ("#b9b2a2", "shell"),
]
"""Colours that mark layers in the shelf, and what each is called."""
FILLINGS = (PLAIN, *FORMS)
LINE_UP = {
    "sides": [
        ("left", "align-left", "Left edges"),
        ("centre", "align-center-horizontal", "Middles across"),
        ("right", "align-right", "Right edges"),
        ("top", "align-top", "Top edges"),
        ("middle", "align-center-vertical", "Middles down"),
        ("bottom", "align-bottom", "Bottom edges"),
    ],
    "ways": [
        ("across", "arrows-out-line-horizontal", "The same room between them, across"),
        ("down", "arrows-out-line-vertical", "The same room between them, down"),
        ("line", "line-segments", "Evenly on the line between the outermost two"),
    ],
}
"""Sides and ways of lining up, the icon of each, and what it does."""
AFTER_WORDS: dict[After, str] = {"hold": "stay", "repeat": "again", "return": "back"}
AFTERS = [(after, AFTER_WORDS.get(after, after)) for after in AFTER]
"""What footage does at its end, in words."""
CHOICES = {
    "facings": FACINGS,
    "text_rides": TEXT_RIDES,
    "accent_kinds": ACCENTS,
    "accent_whens": ACCENT_WHENS,
    "tints": TINTS,
    "mirrors": MIRRORS,
    "paces": PACES,
    "section_paces": [*PACES, ("hold", "Hold, then jump", "")],
    "figures": SHAPES,
    "aligns": ALIGNS,
    "blends": BLENDS,
    "stencils": STENCIL_WORDS,
    "caps": CAPS,
    "sides": SIDES,
    "fillings": FILLINGS,
    "tags": TAGS,
    "joins": JOINS,
    "meetings": MEETING_WORDS,
    "rates": RATES,
}


@dataclass(frozen=True)
class LayerRow:
    """A layer in the shelf: what it does in words, a small drawing of it, how deep in groups it
    lies.
    """

    layer: Layer
    words: str
    drawing: str
    view: str
    groups: list[Layer]
    hidden_by: str
    count: int

    @property
    def depth(self) -> int:
        return len(self.groups)

    @property
    def inside(self) -> str:
        """The groups it lies in, from the inside outwards."""
        return " ".join(group.id for group in self.groups)


@dataclass(frozen=True)
class PathTile:
    path: Path
    data: str
    view: str
    riders: list[str]
    others: list[str]
    """What else it does: strokes, fills or masks."""


def tables() -> dict[str, Any]:
    """Return what the browser reads of the core's tables."""
    return {"properties": {row.name: row.told() | {"words": said(row.words)} for row in TABLE}}


def shelf(scene: Scene) -> dict[str, Any]:
    """Layers from the front to the back, and paths with their riders."""
    value, project = scene.value(), scene.project

    href = partial(footage.address_of, project)

    stills = _stills(scene, value)
    return {
        "ground": value.background or "#9db3b8",
        # Painted from the back to the front, listed as they lie over each other.
        "rows": [_row(layer, value, href, stills) for layer in reversed(value.layers)],
        "tiles": [tile(path, value) for path in value.paths],
        "unused_paths": len(unused(value)),
        "adds": ADDS,
    }


def _stills(scene: Scene, value: Document) -> dict[str, str]:
    """Return where small pictures are of the scenes that layers show, by their ids."""
    shown = [int(each.id) for each in value.scenes if each.id in value.shown_ids()]
    rows = Scene.objects.filter(pk__in=shown)
    return {str(row.pk): reverse("still", args=[row.pk, row.look]) for row in rows}


def _row(layer: Layer, value: Document, href: Href, stills: Mapping[str, str]) -> LayerRow:
    face = standing_face(layer, value.path_of(layer))
    groups = list(tree.ancestors(value, layer.parent))
    hiding = next((group.name for group in groups if not group.visible), "")
    count = len(tree.members(value.layers, layer.id))
    # The look without keys: what the layer is, not what it happens to be in some frame.
    drawing = mark_safe(svg.face(face, href))  # noqa: S308 - made of numbers and checked colours
    still = stills.get(layer.content.scene_id() or "")
    if still:
        box = '<image width="{}" height="{}" href="{}"/>'
        drawing = format_html(box, *face.size, still)
    view, words = square_round(face), words_for(layer, value)
    return LayerRow(layer, words, drawing, view, groups, hiding, count)


def words_for(layer: Layer, value: Document) -> str:
    """Say in two or three words what a layer is doing here."""
    path = value.path_of(layer)
    words = kind_words(layer, value)
    carrier = value.layer(layer.carrier.layer).name if layer.carrier else ""
    if path is not None:
        drawn = f"line on {path.name}, by {carrier}" if carrier else f"line on {path.name}"
        words = f"rides {path.name}" if layer.ride else drawn
    elif carrier:
        words = f"{words}, left by {carrier}" if layer.wake else f"{words}, with {carrier}"
    return f"guide, {words}" if tree.is_guide(value, layer) else words


def kind_words(layer: Layer, value: Document) -> str:
    """Say what a layer is, a group with how many it holds."""
    count = len(tree.members(value.layers, layer.id))
    kind = kind_of(layer.content)
    return f"{kind} of {count}" if layer.content.can.hold else kind


def tile(path: Path, value: Document) -> PathTile:
    return PathTile(
        path,
        to_path_data(path.subpaths),
        view_box(path.subpaths),
        [x.name for x in value.riders_of(path.id)],
        [x.name for x in value.users_of(path.id) if not x.rides(path.id)],
    )


def history(scene: Scene) -> dict[str, str]:
    undo, redo = services.undo_words(scene)
    return {"undo_words": undo, "redo_words": redo}


def card(
    user: Asker,
    scene: Scene,
    layer_id: str,
    path_id: str,
    nodes: list[str],
    picked: Sequence[str] = (),
    count: int = 0,
    layers: Sequence[str] = (),
) -> dict[str, Any]:
    """The context of the card for a layer and what is picked in the strip, several layers, a path
    and its nodes, or the scene.
    """
    value = scene.value()
    # In the order of the shelf, whatever the order in which they were chosen.
    several = [x for x in reversed(value.layers) if x.id in layers]
    if len(several) > 1:
        return _several(several, value)
    layer = next((x for x in value.layers if x.id == layer_id), None)
    path = next((p for p in value.paths if p.id == path_id), None)
    if layer is not None:
        in_strip = _picked(layer, value, picked, max(count, len(picked)))
        ride = _ride(layer, value, _peg_among(layer, picked))
        return (
            CHOICES
            | _layer(layer, value)
            | _fonts(layer, scene)
            | _played(layer, value)
            | _footage(layer, scene)
            | _inset(layer, value)
            | _time(layer, value)
            | in_strip
            | ride
        )
    if path is not None:
        return _path(user, path, value, nodes)
    return _whole_scene(value)


def _whole_scene(value: Document) -> dict[str, Any]:
    """The context of the card where nothing is chosen: it is about the scene."""
    name = pace_name(easing.Bezier(*value.pace))
    return CHOICES | {
        "scene_pace": name,
        "value": value,
        "has_layers": bool(value.layers),
        "fillable": [(f"{what}:{of}", words) for of, what, words in series.fillable(value)],
        "has_depth": has_depth(value),
        "has_paths": bool(value.paths),
    }


def _layer(layer: Layer, value: Document) -> dict[str, Any]:
    """What the card says of every layer."""
    parts = layer.mask.parts if layer.mask else ()
    pictures = [x for x in reversed(value.layers) if as_picture(x.content)]
    return {
        **_follows(layer, value),
        "value": value,
        "layer": layer,
        "words": words_for(layer, value),
        **_look(layer, value),
        "group": value.layer(layer.parent) if layer.parent else None,
        "tiles": [tile(p, value) for p in value.paths],
        "ids": layer.id,
        **LINE_UP,
        "stops": _stops(layer),
        "off_path": None if layer.content.can.hold else off_path(value, layer.id),
        "mask_parts": [(part, value.path(part.path)) for part in parts],
        "carriers": [x for x in reversed(value.layers) if x.id != layer.id and x.content.can.stand],
        "maskers": [path for path in value.paths if not layer.is_masked_by(path.id)],
        "wakes": READY,
        **_left(layer, value),
        "tint_pictures": [x for x in pictures if x.id != layer.id],
        "accents": [(each, _marks(each, layer, value)) for each in layer.accents],
        **_trace(layer, value),
    }


def _look(layer: Layer, value: Document) -> dict[str, Any]:
    """Which part of the card is its kind's own, and whether lights shine on it."""
    lights = any(each.content.can.light for each in value.layers)
    turns = any(layer.keys_of(each) for each in ATTITUDE)
    look = LOOKS.get(kind_of(layer.content), "")
    return {"look": look, "has_light": lights, "turns_by_keys": turns}


def _left(layer: Layer, value: Document) -> dict[str, Any]:
    """What a layer leaves behind looks like, and what else it could."""
    if layer.wake is None:
        return {}
    looks = [value.layer(each) for each in layer.wake.looks if each in {x.id for x in value.layers}]
    # A group, or what shows a scene, leaves its like alone.
    beside = [x for x in reversed(value.layers) if x.id != layer.id and may_be_left(x)]
    others = beside if may_be_left(layer) else []
    percents = {
        f"life_{name}": " ".join(f"{each * 100:g}" for each in getattr(layer.wake, name))
        for name in ("sizes", "strengths")
    }
    return percents | {
        "left_looks": looks,
        "left_others": [each for each in others if each not in looks],
        "left_colours": any(has_colours(x.content) for x in (layer, *looks)),
    }


def _marks(accent: Accent, layer: Layer, value: Document) -> list[tuple[str | None, str]] | None:
    """Return by which pegs or nodes an accent may go, in words; None where it goes by none."""
    if accent.when not in MARKED:
        return None
    path = value.path_of(layer) if layer.ride else None
    pegs = [peg.id for peg in layer.ride.pegs] if layer.ride else []
    ids = pegs if accent.when == "peg" else [node.id for node in path.nodes()] if path else []
    found: list[tuple[str | None, str]] = [
        (own, f"{accent.when} {number}") for number, own in enumerate(ids[:MOST_CHOICES], 1)
    ]
    return found if accent.mark in ids else [(accent.mark, f"a {accent.when} that is gone"), *found]


def _leaders(layer: Layer, value: Document) -> dict[str, Any]:
    """Whose rides a ride may follow, and the nodes that the one comes by which it does."""
    after = layer.ride.after if layer.ride else None
    leaders = [x for x in reversed(value.layers) if x.ride and x.id != layer.id]
    led = next((x for x in leaders if after and x.id == after.layer), None)
    path = value.path_of(led) if led else None
    nodes = [node.id for node in path.nodes()][:MOST_CHOICES] if path else []
    return {"leaders": leaders, "leader_nodes": [(own, i) for i, own in enumerate(nodes, 1)]}


def _follows(layer: Layer, value: Document) -> dict[str, Any]:
    """What of a layer follows what of others, what else could, and who follows it."""
    following = {each.property for each in layer.follows}
    able = [row for row in properties_of(layer.content) if is_number(row.name)]
    able = [row for row in able if layer.standing(row.name) is not None]
    led = followers_of(value, layer.id)
    return {
        "follows": [_follow(each, value) for each in layer.follows],
        "followable": [(row.name, row.words) for row in able if row.name not in following],
        "follow_sources": [(x.id, x.name) for x in reversed(value.layers) if x.id != layer.id],
        "follow_curves": CURVES,
        "followers": [(x.id, f"{x.name}: {PROPERTIES[y.property].words.lower()}") for x, y in led],
    }


def _follow(each: Follow, value: Document) -> dict[str, Any]:
    source, row = value.layer(each.layer), PROPERTIES[each.property]
    words, unit, factor = told(each.value)
    return {
        "follow": each,
        "row": row,
        "said": f"by {source.name}'s {words}",
        "values": [(name, told(name)[0]) for name in values_of(source)],
        "unit": unit,
        **{name: getattr(each, name) * factor for name in ("low", "high")},
        **{name: getattr(each, name) * row.factor for name in ("at_low", "at_high")},
    }


def _trace(layer: Layer, value: Document) -> dict[str, Any]:
    """Who may lead a line, and how much of it is drawn behind the one who does."""
    line = as_line(layer.content)
    if line is None:
        return {}
    riders = list(value.riders_of(line.path))
    now = layer.carrier and value.layer(layer.carrier.layer)
    leads = [*riders, now] if now and now not in riders else riders
    in_frames = line.trail_in == "frames"
    return {
        "leads": leads,
        "trail_px": None if in_frames else line.trail,
        "trail_s": line.trail / value.fps if line.trail and in_frames else None,
    }


def _played(layer: Layer, value: Document) -> dict[str, Any]:
    """How what goes on in time by itself is played."""
    played = as_played(layer.content)
    if played is None:
        return {}
    keyed = layer.track("speed") is not None or not played.speed
    return {
        "played_starts": played.starts / value.fps,
        "played_lasts": None if keyed else played.once / abs(played.speed),
        "afters": AFTERS,
    }


def _inset(layer: Layer, value: Document) -> dict[str, Any]:
    """Which scene a layer shows."""
    name = next((x.name for x in value.scenes if x.id == layer.content.scene_id()), "")
    return {"inset_name": name, "inset_gone": not name} if layer.content.can.show else {}


def _footage(layer: Layer, scene: Scene) -> dict[str, Any]:
    """How footage fades, and how far its small frames are."""
    film = as_footage(layer.content)
    if film is None:
        return {}
    small = footage.of_project(scene.project).filter(asset__file_name=film.asset).first()
    return {
        "fade": film.fade * film.times.fps,
        "small": small,
        "gone": not (scene.project.folder / film.asset).is_file(),
    }


def _fonts(layer: Layer, scene: Scene) -> dict[str, Any]:
    """What a text may be set in, and what its font can."""
    text = as_text(layer.content)
    if text is None:
        return {}
    font = text.font
    rows = [(name, name) for name in FONTS]
    rows += [(each.file_name, each.original_name) for each in Asset.fonts_of(scene.project)]
    if font not in (name for name, _ in rows):
        rows.append((font, "a font of another project"))
    weights = fonts.weights_of(font)
    return {
        "fonts": rows,
        "font_gone": not fonts.is_there(font),
        "has_italic": fonts.has_italic(font) or text.italic,
        "weights": f"Weight, {weights[0]} to {weights[1]}" if weights else "",
    }


def _stops(layer: Layer) -> list[dict[str, Any]]:
    """The stops of a layer's gradient, as the card shows them."""
    gradient = getattr(layer.content, "gradient", None)
    if gradient is None:
        return []
    pairs = zip(gradient.colours, gradient.offsets, strict=True)
    return [
        {
            "number": i + 1,
            "colour": colour,
            "at": at,
            "target": f"layer={layer.id}&stop={i + 1}",
            "keyed": f"stop_{i + 1}",
            "keyed_at": f"stop_{i + 1}_at",
        }
        for i, (colour, at) in enumerate(pairs)
    ]


def _several(layers: list[Layer], value: Document) -> dict[str, Any]:
    """What several layers have in common: their names, and whether they can be one group."""
    return {
        "value": value,
        "tags": TAGS,
        "several": layers,
        "ids": " ".join(layer.id for layer in layers),
        "one_place": len({layer.parent for layer in layers}) == 1,
        "all_hidden": not any(layer.visible for layer in layers),
        "all_locked": all(layer.locked for layer in layers),
        "shared": _shared(layers),
        "accent_kinds": ACCENTS,
        "carriers": [x for x in reversed(value.layers) if x not in layers and x.content.can.stand],
        **LINE_UP,
    }


def _shared(layers: list[Layer]) -> list[dict[str, Any]]:
    """What may be set for all of some layers at once: each property that one of them has, with the
    value that they share, or word that they do not.
    """
    ids, found = " ".join(layer.id for layer in layers), []
    for row in TABLE:
        having = [layer for layer in layers if has_value(layer, row)]
        if not having:
            continue
        values = {layer.standing(row.name) for layer in having}
        same = len(values) == 1 and not any(layer.track(row.name) for layer in having)
        value = values.pop() if same else None
        found.append(
            {
                "row": row,
                "value": f"{value * row.factor:g}" if isinstance(value, float) else value or "",
                "mixed": "" if same else "mixed",
                "label": f"{row.words} of all, in {row.unit or 'px'}",
                "title": f"{len(having)} of {len(layers)} layers have it",
                "target": f"layers={ids}&property={row.name}",
            }
        )
    return found


def _path(user: Asker, path: Path, value: Document, names: list[str]) -> dict[str, Any]:
    riders = value.riders_of(path.id)
    # Only what has two free ends can be joined at one.
    others = [p for p in value.paths if p.id != path.id and not p.loops and len(p.subpaths) == 1]
    others = [p for p in others if not p.legs]
    return {
        "value": value,
        "path": tile(path, value),
        "riders": riders,
        "landings": [x for x in reversed(value.layers) if x not in riders and x.content.can.stand],
        "length": measure_of(path.subpaths, "glide")[0].length,
        "is_open": any(not run.closed for run in path.subpaths),
        "joinable": others if not path.loops and len(path.subpaths) == 1 and not path.legs else [],
        # Of a file that was made by hand some may not be there.
        "legs": [_leg(x, value) for x in path.legs if x.path in {p.id for p in value.paths}],
        "parts": _parts(path, value),
        **_nodes(path, set(names)),
        **takes.panel(user, path, value.fps),
    }


def _leg(leg: Leg, value: Document) -> dict[str, Any]:
    part = value.path(leg.path)
    told = {"id": leg.id, "laps": leg.laps, "backwards": leg.backwards, "path": leg.path}
    return told | {"name": part.name, "loops": part.loops}


def _parts(path: Path, value: Document) -> list[Path]:
    """Return the paths that one may go on with: those beside it that are made of no others."""
    others = (each for each in value.paths if each.parent == path.parent and not each.legs)
    return [each for each in others if path.legs or each.id != path.id]


def _nodes(path: Path, names: set[str]) -> dict[str, Any]:
    """The context of a path's nodes, and of those that are chosen."""
    nodes = path.nodes()
    chosen = [node for node in nodes if node.id in names]
    return {
        "count": len(nodes),
        "heavy": len(nodes) > MANY_NODES,
        "has_autos": any(node.kind == "auto" for node in nodes),
        "chosen": chosen,
        "node": _node(path, chosen[0]) if len(chosen) == 1 else None,
        "kind": chosen[0].kind if len({node.kind for node in chosen}) == 1 else "",
        "all_locked": all(node.locked for node in chosen),
        "all_disabled": all(node.disabled for node in chosen),
        "kinds": KINDS,
        "node_z": chosen[0].z if len({node.z for node in chosen}) == 1 else None,
        "is_deep": path.is_deep,
        "all_ids": " ".join(node.id for node in nodes),
    }


def _node(path: Path, node: Node) -> dict[str, Any]:
    """One node in the numbers a person reads: its number, place, and handles by length, angle and
    depth.
    """
    run = next(each for each in path.subpaths if node in each.nodes)
    depths = handle_depths(run).get(node.id, (0.0, 0.0))
    ends = zip(("in", "out"), (node.handle_in, node.handle_out), depths, strict=True)
    sides = [
        {"side": side, "length": math.hypot(x, y), "angle": math.degrees(math.atan2(y, x)), "z": z}
        for side, (x, y), z in ends
    ]
    return {
        "number": path.nodes().index(node) + 1,
        "x": node.position[0],
        "y": node.position[1],
        "sides": sides,
        "weight": node.weight,
    }


def _ends_with(layer: Layer, value: Document) -> list[str]:
    """The names of the riders that come to rest on top of this one."""
    # In pairs, as nobody can say which of the two lies in the way.
    pairs = [set(pair) for pair in meetings(value) if layer.id in pair]
    return [value.layer(other).name for pair in pairs for other in pair - {layer.id}]


def _peg(way: Way, peg_id: str, fps: float) -> dict[str, Any] | None:
    """One peg in the numbers a person reads: its time, speeds in px/s, reaches in percent."""
    for number, (peg, speeds) in enumerate(zip(way.ride.pegs, pace_at_pegs(way), strict=True)):
        if peg.id == peg_id:
            return {
                "id": peg.id,
                "number": number + 1,
                "count": len(way.ride.pegs),
                "time": peg.time,
                "arrive": speeds.arrive * fps if number else None,
                "leave": speeds.leave * fps if number + 1 < len(way.ride.pegs) else None,
                "most": (
                    # A side without a section has the most 0, and no say.
                    min((m for m in (speeds.arrive_most, speeds.leave_most) if m), default=0.0)
                    * fps
                ),
                "reach_in": peg.arrive.time * 100,
                "reach_out": peg.leave.time * 100,
                "on": peg.place.on,
                "joined": peg.joined,
                "inner": 0 < number < len(way.ride.pegs) - 1,
                "then": _then(way.ride.pegs, number),
            }
    return None


def _then(pegs: tuple[Peg, ...], number: int) -> str:
    """What the section after a peg follows: a preset's name, or the curve's four numbers."""
    if number + 1 >= len(pegs):
        return ""
    if pegs[number].step != "none":
        return "hold" if pegs[number].step == "end" else "step-start"
    curve = section_curve(pegs[number], pegs[number + 1])
    name = pace_name(curve)
    return curve.numbers() if name == "own" else name


def _peg_among(layer: Layer, picked: Sequence[str]) -> str:
    """The one peg of a layer that is picked alone."""
    if len(picked) != 1 or not picked[0].startswith(f"{layer.id}/{PEG}/"):
        return ""
    return picked[0].rsplit("/", 1)[1]


def _picked(layer: Layer, value: Document, picked: Sequence[str], count: int) -> dict[str, Any]:
    """What is picked of pegs and keys, where it is more than a peg alone."""
    # What is not layer/property/key is of no use here: a link may have been typed.
    parts = [item.split("/") for item in picked if item.count("/") == 2]
    if not parts or _peg_among(layer, picked):
        return {}
    only_keys = all(name != PEG for _, name, _ in parts)
    one = None
    title = f"{count} {'keys' if only_keys else 'pegs and keys'} picked"
    if count == 1:
        _, name, key_id = parts[0]
        track = next((t for t in layer.keys if t.property == name), None)
        key = next((k for k in track.keys if k.id == key_id), None) if track else None
        if track is None or key is None:
            return {}
        factor = PROPERTIES[track.property].factor
        value_here = None if isinstance(key.value, str) else key.value * factor
        one = {"time": key.time, "value": value_here, "unit": PROPERTIES[track.property].unit}
        title = f"Key of {PROPERTIES[track.property].words.lower()}"
    layers = len({layer_id for layer_id, _, _ in parts})
    return {
        "picked": {
            "title": title,
            "count": count,
            "one": one,
            "only_keys": only_keys,
            "layers": layers,
        }
    }


def _fits(layer: Layer, value: Document) -> list[tuple[str, str, str]]:
    """What lays a picture over the frame: labels, titles, and what its place is then."""
    if layer.ride or layer.parent or not isinstance(layer.content, Picture):
        return []
    width, height = layer.content.width, layer.content.height
    across, down = value.width / width, value.height / height
    found = []
    for label, title, scale in (
        ("Fit the frame", "All of it in the frame", min(across, down)),
        ("Fill the frame", "No edge of the frame left free", max(across, down)),
    ):
        # Its anchor is what is placed, wherever in the picture that is.
        x = value.width / 2 + (layer.transform.anchor[0] - 0.5) * width * scale
        y = value.height / 2 + (layer.transform.anchor[1] - 0.5) * height * scale
        found.append((label, title, f"x={x:.2f}&y={y:.2f}&scale={scale * 100:.4f}&turn=0"))
    return found


def _time(layer: Layer, value: Document) -> dict[str, Any]:
    """When a layer is seen, what sets its place, and what is in the way of what."""
    begin, end = layer.shown or (None, None)
    found: dict[str, Any] = {
        "shown_from": None if begin is None else begin / value.fps,
        "shown_to": None if end is None else end / value.fps,
        "fits": _fits(layer, value),
        "places_itself": layer.ride is None and bool(layer.track("x") and layer.track("y")),
    }
    # Keys of place are kept while a layer rides: taken off the path, it goes by them again.
    resting = [track for track in layer.keys if track.property in PLACES] if layer.ride else []
    if resting and layer.ride:
        names = " and ".join(PROPERTIES[track.property].words for track in resting)
        path = value.path(layer.ride.path).name
        found["conflict"] = (
            f"Its ride on {path} and keys of {names} both set its place: the ride does, the keys"
            " rest."
        )
        found["conflict_items"] = " ".join(
            f"{layer.id}/{t.property}/{key.id}" for t in resting for key in t.keys
        )
    return found


def _facing(layer: Layer, ride: Ride, path: Path, value: Document) -> dict[str, Any]:
    # Counted as on the stage, from 1 at the start of the path.
    numbers = {node.id: i + 1 for i, node in enumerate(path.nodes())}
    told = {angle.node for angle in ride.facing.angles}
    return {
        "looks_words": LOOKS_WORDS,
        "goes_deep": path.is_deep,
        "lookable": [x for x in reversed(value.layers) if x.id != layer.id],
        "node_angles": [
            {"number": numbers[a.node], "node": a.node, "angle": a.angle}
            for a in ride.facing.angles
        ],
        # A list of thousands is no help to choose from.
        "nodes_without": [(n, i) for i, n in numbers.items() if i not in told][:MOST_CHOICES],
        **_leaders(layer, value),
        "takers": [x for x in reversed(value.layers) if x.id != layer.id and x.content.can.stand],
    }


def _ride(layer: Layer, value: Document, peg_id: str) -> dict[str, Any]:
    ride = layer.ride
    if ride is None:
        return {}
    pace, curve = pace_of(ride.pegs)
    path = value.path(ride.path)
    return {
        "ride": ride,
        "path": path,
        "many_runs": len(path.subpaths) > 1,
        "lasts": ride.end - ride.start,
        "laps": laps_of(Way(path, ride)),
        "by_node": any(isinstance(p.place, AtNode) for p in ride.pegs),
        "pace": pace,
        "curve": curve.css() if curve else "",
        "limited": is_limited(ride),
        "steps": is_stepping(ride.pegs),
        "ends_with": _ends_with(layer, value),
        "peg": _peg(Way(path, ride), peg_id, value.fps),
        "parts": _parts(path, value),
        "places": " ".join(f"{each:g}" for each in ride.copies.places) if ride.copies else "",
        "hues": has_colours(layer.content),
    } | _facing(layer, ride, path, value)


def library(scene: Scene, layer_id: str) -> dict[str, Any]:
    """The context of the sheet that lists the kept rides."""
    value = scene.value()
    layer = next((x for x in value.layers if x.id == layer_id), None)
    rows: list[tuple[SavedRide, PathTile, float]] = []
    for saved in scene.project.rides.all():
        kept = saved.value()
        ride = kept.ride_of("rider")
        rows.append((saved, tile(kept.paths[0], kept), (ride.end - ride.start) / kept.fps))
    return {"scene": scene, "layer": layer, "rows": rows}
