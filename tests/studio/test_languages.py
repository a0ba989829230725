"""The studio in other languages: what a page says, and that every text has a translation."""

import json
import re
from collections import Counter

import pytest
from babel.messages.catalog import Catalog
from babel.messages.mofile import read_mo
from babel.messages.pofile import read_po
from django.conf import settings
from django.urls import reverse
from django.utils import translation

from studio.languages import marks
from studio.languages.management.commands.texts import DOMAINS, brought_up
from studio.languages.said import said


@pytest.fixture
def client(client, anna):
    client.force_login(anna)
    return client


OTHERS = [code for code, _ in settings.LANGUAGES if code != "en"]
VALUES = re.compile(r"%\(\w+\)s|\{\w+\}|%%")


def catalogue(language: str, domain: str) -> Catalog:
    file = settings.LOCALE_PATHS[0] / language / "LC_MESSAGES" / f"{domain}.po"
    return read_po(file.read_text().splitlines(), language)


def pairs(messages: Catalog) -> list[tuple[str, str]]:
    """Texts with what they are in the other language, each of one thing and several by itself."""
    both = [(m.id, m.string) for m in messages if m.id]
    return [
        pair
        for id, told in both
        for pair in (zip(id, told, strict=True) if isinstance(id, tuple | list) else [(id, told)])
    ]


@pytest.mark.parametrize("language", OTHERS)
@pytest.mark.parametrize("domain", DOMAINS)
def test_every_text_is_there_in_every_language(language, domain, tmp_path):
    """``cd src && ../.venv/bin/python -m studio texts`` brings the catalogues up to the files."""
    kept = settings.LOCALE_PATHS[0] / language / "LC_MESSAGES" / f"{domain}.po"
    anew = tmp_path / kept.name
    anew.write_text(kept.read_text())
    assert brought_up(anew, language, DOMAINS[domain]()) == 0
    assert anew.read_text() == kept.read_text(), "texts were changed; bring the catalogues up"
    with kept.with_suffix(".mo").open("rb") as read:
        assert sorted(pairs(read_mo(read))) == sorted(pairs(catalogue(language, domain)))


@pytest.mark.parametrize("language", OTHERS)
@pytest.mark.parametrize("domain", ["django", "djangojs"])
def test_a_translation_says_all_values(language, domain):
    for text, told in pairs(catalogue(language, domain)):
        # Of a template they are laid into attributes as they are.
        assert set('"<>&') & set(told) <= set(text), text
        assert Counter(VALUES.findall(told)).keys() == Counter(VALUES.findall(text)).keys(), text


@pytest.mark.parametrize("language", OTHERS)
def test_a_sentence_says_no_value_that_it_has_not(language):
    # It may leave one out: the "s" that makes several things of one in English.
    for text, told in pairs(catalogue(language, "said")):
        assert set(VALUES.findall(told)) <= set(VALUES.findall(text)), text


SENTENCES = [
    ("There is nothing to undo.", "Es gibt nichts rückgängig zu machen."),
    ("Opacity", "Deckkraft"),
    ("opacity", "Deckkraft"),
    ("3 layers", "3 Ebenen"),
    ("Shiver of Manta", "Zittern von Manta"),
    ("Part a peg of Manta", "Pflock von Manta: Trennen"),
    # What has a number in it is no name; what ends in one may be.
    ("Delete 1 node of Ring", "1 Knoten von Ring: Löschen"),
    ("Undo: Move 4 pegs and keys", "Rückgängig: 4 Pflöcke und Schlüssel: Bewegen"),
    ("Add Ellipse 3", "Ellipse 3 hinzufügen"),
    ("Align 3 layers top", "3 Ebenen ausrichten: oben"),
    ("Frame: -1 is outside 0 to 36000.", "Bild: -1 liegt außerhalb von 0 bis 36000."),
    ("Row 1: There is no such frame.", "Zeile 1: Ein solches Bild gibt es nicht."),
    ("frames 4:20, 2 loops, there and back", "Bilder 4:20, 2 Schleifen, hin und zurück"),
    ("kelp.mp4: its sound is left out.", "kelp.mp4: der Ton wird weggelassen."),
    ("1 layer", "1 Ebene"),
    # What people named stays as it is, whatever else is called so.
    ("Rename Opacity", "Opacity umbenennen"),
    ("Opacity of Speed", "Deckkraft von Speed"),
    ("Undo: Rename Manta", "Rückgängig: Manta umbenennen"),
    ("Turn: “x” is not a number.", "Drehung: „x“ ist keine Zahl."),
    ("Manta rides Reef run already.", "Manta befährt Reef run schon."),
    # Two sentences, of which only one is known.
    ("The bin is empty. Qwertz uiopü.", "Der Papierkorb ist leer. Qwertz uiopü."),
    ("Qwertz uiopü", "Qwertz uiopü"),
    ("", ""),
]


@pytest.mark.parametrize(("text", "german"), SENTENCES)
def test_what_python_says_is_told_by_what_it_says(text, german):
    with translation.override("de"):
        assert said(text) == german
    with translation.override("en"):
        assert said(text) == text


def test_a_long_sentence_is_no_short_one_with_much_in_it():
    """Else a few of its words were in one language, and all others in another."""
    text = "A sentence that nobody has translated, of some length and with a colon in the end: so."
    with translation.override("de"):
        assert said(text) == text


def test_a_page_is_in_the_language_that_is_asked_for(client, scene):
    page = client.get(reverse("projects"), headers={"accept-language": "de,en;q=0.5"}).content
    assert b'lang="de"' in page
    assert "Neue Szene" in page.decode()
    assert reverse("texts").encode() in page
    assert ">English</button>" in page.decode()  # by its own name, to be found by who reads that
    english = client.get(reverse("projects"), headers={"accept-language": "fr"}).content
    assert b'lang="en"' in english
    assert b"New scene" in english
    assert b">Deutsch</button>" in english
    assert reverse("texts").encode() not in english


def test_a_language_that_was_chosen_stays(client, scene):
    answer = client.post(reverse("set_language"), {"language": "de", "next": "/"})
    assert answer.cookies["coaster_language"].value == "de"
    assert "Papierkorb" in client.get(reverse("projects")).content.decode()
    client.post(reverse("set_language"), {"language": "xx", "next": "/"})
    assert "Papierkorb" in client.get(reverse("projects")).content.decode()


def test_scripts_are_told_their_texts(client):
    texts = client.get(reverse("texts"), headers={"accept-language": "de"}).content.decode()
    assert '"All kept": "Alles gesichert"' in texts
    assert "django.contrib" not in texts


def test_an_edit_is_answered_in_the_language_and_kept_in_english(client, scene):
    client.cookies["coaster_language"] = "de"
    fields = {"form": "rename", "layer": "fish", "title": "Speed", "base": scene.revision}
    answer = client.post(reverse("edit", args=[scene.pk]), fields)
    assert answer.status_code == 200
    assert b"Fish umbenennen" in answer.content
    scene.refresh_from_db()
    assert scene.revisions.latest("number").words == "Rename Fish"
    history = client.get(reverse("history", args=[scene.pk])).content.decode()
    assert "Fish umbenennen" in history
    assert "Speed" in client.get(reverse("shelf", args=[scene.pk])).content.decode()


def test_a_refusal_is_in_the_language_but_not_to_programs(client, scene):
    client.cookies["coaster_language"] = "de"
    refused = client.post(reverse("edit", args=[scene.pk]), {"form": "no", "base": scene.revision})
    assert refused.status_code == 422
    assert json.loads(refused.content)["words"] == "Ein Formular namens 'no' gibt es nicht."
    assert b"Nicht hier" in client.get("/nowhere").content
    program = client.get("/api/scenes", headers={"accept-language": "de"})
    assert program.status_code == 401
    assert b"key" in program.content.lower()


def test_numbers_keep_their_point(client, scene):
    """Scripts read them, and they are typed so."""
    client.cookies["coaster_language"] = "de"
    page = client.get(reverse("card", args=[scene.pk]), {"layer": "fish"}).content.decode()
    values = re.findall(r' value="(-?[\d.,]+)"', page)
    assert any("." in value for value in values)
    assert not any("," in value for value in values)


def test_marks_are_found_wherever_they_stand(tmp_path, monkeypatch):
    source = "say(tr`Drop ${names.map(x => `${x}`).join()} on ${one}`); tr`Plain \\` tick`; str`no`"
    assert list(marks._tagged(source)) == ["Drop {0} on {1}", "Plain ` tick"]
    assert marks.reads_like_words("{name} has no mask.")
    assert not marks.reads_like_words("M0 0L10 10")
    assert not marks.reads_like_words("grid-cols")
    assert not marks.reads_like_words("dict[Future[Any], Chunk]")
