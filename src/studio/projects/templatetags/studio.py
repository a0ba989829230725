"""What templates need beside the built-in filters: icons, and numbers as people write them."""

import json
from collections.abc import Iterable
from functools import lru_cache
from pathlib import Path as File
from typing import Any

from django import template
from django.conf import settings
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

from coaster.scene.document import Layer

register = template.Library()
ICONS = settings.PACKAGE / "icons"


@lru_cache(maxsize=256)
def _icon(name: str) -> str:
    return (File(ICONS) / f"{name}.svg").read_text()


@register.simple_tag
def icon(name: str, size: int = 18) -> SafeString:
    """Draw a shipped icon in the colour of the text; it says nothing to screen readers."""
    inner = mark_safe(_icon(name))  # noqa: S308 - our own files
    return format_html(
        '<svg class="icon" width="{0}" height="{0}" viewBox="0 0 256 256" fill="currentColor" '
        'aria-hidden="true">{1}</svg>',
        size,
        inner,
    )


@register.filter
def short(value: float | None, digits: int = 2) -> str:
    """Write a number with up to ``digits`` decimals and no trailing zeros."""
    if value is None:
        return ""
    text = f"{value:.{digits}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text == "-0" else text


@register.filter
def times(value: float, factor: float) -> float:
    return value * factor


@register.filter
def over(value: float, divisor: float) -> float:
    return value / divisor


def _set(owner: str, named: str, fields: dict[str, Any]) -> dict[str, Any]:
    """The command that sets fields, as a button carries it."""
    return {"kind": "set", "owner": owner, "id": named, "values": fields}


@register.simple_tag
def set_layer(layer_id: str, **fields: Any) -> str:
    return json.dumps([_set("layer", layer_id, fields)])


@register.simple_tag
def set_fields(layer_id: str, fields: Iterable[tuple[str, Any]]) -> str:
    """The same for fields that are named elsewhere."""
    return json.dumps([_set("layer", layer_id, dict(fields))])


@register.simple_tag
def set_layers(layers: list[Layer], **fields: Any) -> str:
    """The same for several layers, as one step."""
    return json.dumps([_set("layer", layer.id, fields) for layer in layers])


@register.simple_tag
def set_path(path_id: str, **fields: Any) -> str:
    return json.dumps([_set("path", path_id, fields)])


@register.filter
def clock(seconds: float | None) -> str:
    """Write a time span the way one would say it."""
    if seconds is None:
        return ""
    if seconds < 1:
        return "under 1 s"
    return f"{seconds:.0f} s" if seconds < 90 else f"{seconds // 60:.0f} min {seconds % 60:.0f} s"
