"""Controls of the card: label, unit, key and what is sent, each said in one place."""

from typing import Any

from django import template
from django.template.context import Context

from coaster.scene.contents import usual
from coaster.scene.document import Transform
from coaster.scene.masks import Mask, MaskPart
from coaster.scene.properties import PLACES, PROPERTIES, TABLE
from studio.languages.said import said
from studio.languages.templatetags.languages import small

register = template.Library()
NARROW = ("%", "°", "s")
"""Units that take the room of one letter; longer ones have rooms of their own."""
AS_THEY_ARE = ("id", "placeholder", "min")
"""Attributes of the input itself; all others are told to the modules."""


_PLACED, _MASK = Transform(), Mask((MaskPart("any"),))
USUAL = {
    **{
        row.name: row.read(_PLACED) * row.factor
        for row in TABLE
        if row.home == "transform" and row.name not in PLACES
    },
    **{f"scale_{axis}": _PLACED.scale[i] * 100 for i, axis in enumerate("xy")},
    **{f"anchor_{axis}": _PLACED.anchor[i] * 100 for i, axis in enumerate("xy")},
    **dict.fromkeys(("off_x", "off_y"), 0.0),
    **{row.name: row.read(_MASK) * row.factor for row in TABLE if row.home == "mask"},
    "tracking": usual("text", "tracking") * 100,
    "leading": usual("text", "leading"),
    "radius": usual("shape", "radius"),
    "dash_offset": usual("shape", "dash_offset"),
}
"""What fields are set back to by a double click on their label."""


@register.inclusion_tag("editor/controls/number.html", takes_context=True)
def number(
    context: Context, name: str, label: str, *, unit: str = "", form: str = "", **more: Any
) -> dict[str, Any]:
    """A field for a number with its unit.

    ``keyed`` names a property: a button puts a key of it in, and the field follows the playhead.
    ``target`` says what is meant, by default what the card is about; ``layer`` is short for that
    layer, ``peg`` for a peg of it. Where ``needs`` is None there is nothing to be set.
    Without a ``title`` the label is said when the pointer rests on it. All else becomes attributes
    that the browser's modules read.
    """
    keyed, target = more.pop("keyed", ""), more.pop("target", context.get("target", ""))
    layer, peg = more.pop("layer", ""), more.pop("peg", "")
    missing = "needs" in more and more.pop("needs") is None
    target = f"layer={layer}" if layer else target
    shown = {key: more.pop(key, "") for key in ("value", "id", "inputmode")}
    label, unit = _plain(label), _plain(unit)
    title, placeholder = _plain(more.pop("title", "")), _plain(more.pop("placeholder", ""))
    if keyed:
        more |= {"with_frame": 1, "property": keyed}
    if name in USUAL:
        more["usual"] = f"{USUAL[name]:g}"
    return {
        "name": name,
        "label": label,
        "unit": unit,
        "form": form,
        "target": f"{target}&peg={peg}" if peg else target,
        "disabled": missing,
        "classes": _room(unit),
        "keyed": keyed,
        "keyed_words": small(said(PROPERTIES[keyed].words)) if keyed else "",
        "told": {key.replace("_", "-"): "" if value == 1 else value for key, value in more.items()},
        "title": title or label,
        "placeholder": placeholder,
        **shown,
        "inputmode": shown["inputmode"] or "decimal",
    }


def _plain(text: object) -> str:
    """Return what a tag was given marked for translation: Django doubles its percent signs."""
    return str(text).replace("%%", "%")


def _room(unit: str) -> str:
    """Return the class of a field that leaves room for its unit."""
    return "" if unit in NARROW else "u2" if len(unit) < 3 else "u3" if len(unit) < 5 else "u5"


@register.inclusion_tag("editor/controls/colour.html", takes_context=True)
def colour(
    context: Context,
    name: str,
    label: str,
    *,
    form: str,
    value: str,
    keyed: str,
    target: str = "",
) -> dict[str, Any]:
    """A field for a colour that may have keys; ``target`` as for a number."""
    return {
        "name": name,
        "label": str(label),
        "form": form,
        "value": value[:7],
        "alpha": f"{int(value[7:9] or 'ff', 16) / 2.55:.3g}",
        "keyed": keyed,
        "target": target or context.get("target", ""),
    }
