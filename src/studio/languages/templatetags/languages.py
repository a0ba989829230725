"""What templates say that Python made, in the language of who reads it."""

from collections.abc import Iterable
from typing import Any

from django import template

from coaster.edits import edit
from studio.languages.said import SOURCE, language
from studio.languages.said import said as in_words

register = template.Library()


@register.filter
def said(text: Any) -> str:
    return in_words(text)


@register.filter
def all_said(texts: Iterable[Any]) -> list[str]:
    return [in_words(text) for text in texts]


@register.filter
def small(text: str) -> str:
    """Write what stands alone as within a sentence; some languages keep their capitals."""
    return str(text).lower() if language() == SOURCE else str(text)


@register.filter
def called(count: int, noun: str) -> str:
    """Write a count with its noun."""
    return in_words(edit.called(count, noun))
