"""Bring the catalogues of all languages up to what templates, scripts and Python say."""

from argparse import ArgumentParser
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po
from django.conf import settings
from django.core.management.base import BaseCommand

from studio.languages import marks

MADE = datetime(2026, 11, 28, tzinfo=UTC)
"""The same texts make the same files."""
DOMAINS: dict[str, Callable[[], set[Any]]] = {
    "django": marks.of_templates,
    "djangojs": marks.of_scripts,
    "said": marks.of_python,
}


class Command(BaseCommand):
    help = (
        "Bring the catalogues of texts (src/studio/locale) up to what templates, scripts and Python"
        " say, and make what is read of them. What is said no more goes."
    )

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("language", nargs="*", help="those of these languages, as de")

    def handle(self, *args: Any, **options: Any) -> None:
        known = [code for code, _ in settings.LANGUAGES if code != "en"]
        for language in options["language"] or known:
            folder = Path(settings.LOCALE_PATHS[0], language, "LC_MESSAGES")
            folder.mkdir(parents=True, exist_ok=True)
            for domain, texts in DOMAINS.items():
                missing = brought_up(folder / f"{domain}.po", language, texts())
                self.stdout.write(f"{language} {domain}: {missing} texts without a translation")


def brought_up(file: Path, language: str, texts: set[Any]) -> int:
    """Write a catalogue of these texts, with the translations that it has; return how many it
    lacks.
    """
    old = read_po(file.read_text().splitlines(), language) if file.exists() else Catalog(language)
    new = Catalog(language, project="Coaster", creation_date=MADE, revision_date=MADE, fuzzy=False)
    for text in sorted(texts, key=str):
        context, id = text if isinstance(text, tuple) and file.stem == "django" else ("", text)
        kept = old.get(id, context or None)
        new.add(id, kept.string if kept else None, context=context or None)
    with file.open("wb") as out:
        write_po(out, new, width=100)
    with file.with_suffix(".mo").open("wb") as out:
        write_mo(out, new)
    return sum(
        not all(m.string) if isinstance(m.string, tuple) else not m.string for m in new if m.id
    )
