"""The studio in German: chosen on the page of projects, and then in everything that is said."""

from pathlib import Path

import pytest
from babel.messages.pofile import read_po
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import ROOT
from tests.browser.driver import Stage, chord, find, keys, open_editor, said, tab, wait

GERMAN = Path(ROOT, "src", "studio", "locale", "de", "LC_MESSAGES")
TEXTS = """
const said = new Set(), seen = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT)
while (seen.nextNode())
  if (!seen.currentNode.parentElement.closest("script, style, textarea")) said.add(seen.currentNode.data)
for (const name of ["title", "aria-label", "placeholder"])
  for (const each of document.querySelectorAll(`[${name}]`)) said.add(each.getAttribute(name))
return [...said].map(text => text.replace(/\\s+/g, " ").trim())
"""


@pytest.fixture(scope="module")
def english() -> set[str]:
    """All texts that are something else in German."""
    found = set()
    for domain in ("django", "djangojs", "said"):
        catalogue = read_po((GERMAN / f"{domain}.po").read_text().splitlines(), "de")
        found |= {m.id for m in catalogue if m.id and isinstance(m.id, str) and m.id != m.string}
    return found


@pytest.fixture
def german(browser, studio):
    """The page of projects in German, chosen there; afterwards in English again."""
    browser.get(studio.address)
    find(browser, "footer button[value=de]").click()
    wait(browser, lambda d: d.execute_script("return document.documentElement.lang") == "de")
    yield browser
    browser.get(studio.address)
    find(browser, "footer button[value=en]").click()
    wait(browser, lambda d: d.execute_script("return document.documentElement.lang") == "en")


def opened(browser, studio) -> None:
    open_editor(browser, studio.editor(studio.copy_of(1)))


def left(browser, english: set[str], names: set[str]) -> set[str]:
    """What is on the page that would be something else in German."""
    return {text for text in browser.execute_script(TEXTS) if text in english} - names


def test_all_that_is_said_while_working_is_in_german(german, studio, english):
    browser = german
    scenes = find(browser, "[data-scenes]").text.splitlines()
    names = {"Coaster", "Where", "Sea", "Manta", *scenes}
    assert not left(browser, english, names)
    opened(browser, studio)
    assert not left(browser, english, names)
    # What is done, undone, and cannot be done.
    for name in ("pace", "look", "ride"):
        tab(browser, name)
        assert not left(browser, english, names)
    chord(browser, Keys.CONTROL, "z")
    said(browser, "Es gibt nichts rückgängig zu machen.")
    keys(browser, "q")
    said(browser, "Schienen sind ausgeblendet")
    keys(browser, "q?")
    find(browser, "dialog[open] [data-sheet] .kbd")
    assert not left(browser, english, names)
    assert "Umschalt" in find(browser, "dialog[open] [data-sheet]").text
    keys(browser, Keys.ESCAPE)


def test_a_command_is_found_by_a_german_word_for_it(german, studio):
    opened(german, studio)
    chord(german, Keys.CONTROL, "k")
    keys(german, "zwiebelhaut")
    wait(german, lambda d: "Schemen" in find(d, "[role=option]").text)
    keys(german, Keys.ESCAPE)


def test_what_is_done_is_told_in_german_and_kept_for_everybody(german, studio):
    opened(german, studio)
    keys(german, "5")
    Stage(german).click(400, 700)
    wait(german, lambda d: "Alles gesichert" in find(d, "#kept").text)
    wait(german, lambda d: "hinzufügen" in find(d, "#undo").get_attribute("title"))
    keys(german, "v")
    wait(german, lambda d: "hinzufügen" in find(d, "#history").text)
