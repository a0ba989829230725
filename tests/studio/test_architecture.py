"""What docs/ARCHITECTURE.md counts is counted here: the files that one of many things is in."""

import re
from pathlib import Path

import pytest
from django.template.loader import get_template

from studio.editor import help

ROOT = Path(__file__).parents[2]
PAGE = (ROOT / "docs" / "ARCHITECTURE.md").read_text()
WORDS = {
    "a property with keys": r"\bsize_x\b",
    "a kind of layer": r"(\bText\(|: Text\b|\bText,|class TextForm|name=\"text\")",
    "a way of facing": r"\"roll\"",
    "a format of renders": r"\"apng\"",
    "a command with its key": r"\bplay-from-start\b",
    "a format of footage": r"\"\.avi\"",
    "a kind of job": r"^JOB = \"render\"$",
}
MOST = {
    "a way of facing": 4,
    "a property with keys": 5,
    "a kind of layer": 5,
    "a format of renders": 2,
}
BESIDE = ("render/texts.py",)
"""Files that the page names apart."""


def rows() -> dict[str, list[str]]:
    """Return the registries of the page and the files it names for each."""
    table = PAGE.split("| what | example | files |", 1)[1].split("\n\n", 1)[0]
    found = {}
    for line in table.splitlines()[2:]:
        what, _, files = (cell.strip() for cell in line.strip("|").split("|"))
        found[what] = re.findall(r"`([^`]+)`", files)
    return found


def sources() -> list[Path]:
    kinds = ("*.py", "*.js", "*.html")
    files = [file for kind in kinds for file in (ROOT / "src").rglob(kind)]
    return [f for f in files if not {"migrations", "demo", "vendor"} & set(f.parts)]


@pytest.mark.parametrize("what", WORDS)
def test_a_thing_is_in_the_files_that_the_page_names(what):
    word = re.compile(WORDS[what], re.M)
    found = {str(f.relative_to(ROOT)) for f in sources() if word.search(f.read_text())}
    found = {file for file in found if not file.endswith(BESIDE)}
    named = rows()[what]
    assert {n for n in named if not any(f.endswith(n) for f in found)} == set()
    assert {f for f in found if not any(f.endswith(n) for n in named)} == set()
    assert len(named) <= MOST.get(what, 5)


def test_every_row_of_the_page_is_counted():
    assert set(rows()) == set(WORDS)


def test_every_file_the_page_names_is_there():
    files = [f for folder in ("src", "docs") for f in (ROOT / folder).rglob("*") if f.is_file()]
    there = {str(f.relative_to(ROOT)) for f in files}
    named = re.findall(r"`((?:\w+/)*\w+\.(?:py|js|html))`", PAGE)
    lost = {n for n in named if not any(f == n or f.endswith("/" + n) for f in there)}
    assert {n for n in lost if not n.startswith("tests/")} == set()


def test_the_flows_name_what_is_there():
    text = (ROOT / "docs" / "flows.md").read_text()
    named = re.findall(r"`([\w/]+\.(?:py|js)):(\w+)`", text)
    assert len(named) > 40
    for file, name in named:
        found = [
            f for f in (ROOT / "src").rglob(file.rsplit("/", 1)[1]) if str(f).endswith("/" + file)
        ]
        assert len(found) == 1, f"{file} is not one file"
        made = rf"^\s*(export )?(async )?(def|class|function) {name}\b"
        assert re.search(made, found[0].read_text(), re.M), f"{file} has no {name}"


def test_the_help_names_commands_that_have_a_key():
    commands = (ROOT / "src/studio/static/studio/js/commands.js").read_text()
    keyed = set(re.findall(r'name: "([a-z-]+)",[^\n]*keys: \[', commands))
    steps = " ".join(step for topic in help.TOPICS for step in topic.steps)
    named = set(re.findall(r"\[([a-z-]+)\]", steps))
    assert len(help.TOPICS) >= 12
    assert {"pin", "group", "tool-pen"} <= named <= keyed


def test_every_template_can_be_read():
    """A tag that is broken is found here, not by the person who opens the page."""
    found = sorted((ROOT / "src" / "studio").glob("**/templates/**/*.html"))
    assert len(found) > 40
    for file in found:
        get_template(str(file).split("/templates/", 1)[1])
        # A tag that is broken over two lines is text to the library, and stands on the page.
        assert not re.findall(r"\{%(?:(?!%\}).)*$", file.read_text(), re.MULTILINE), file
