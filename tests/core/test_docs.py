"""The manual says what there is: its links lead somewhere, its commands and keys are those of the code."""

import re
import runpy
from pathlib import Path

import pytest

from coaster.cli.main import COMMANDS, HANDED_OVER, _parser

DOCS = Path(__file__).parents[2] / "docs"
PAGES = sorted(p for p in DOCS.rglob("*.md") if "theme" not in p.parts)
PARTS = runpy.run_path(str(DOCS / "parts.py"))
EVERYWHERE = {"--help", "--version"}


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.stem)
def test_links_lead_somewhere(page):
    for target in re.findall(r"\]\(([^)#\s]+)(?:#[^)]*)?\)", page.read_text()):
        if "://" not in target:
            assert (page.parent / target).exists(), f"{page.name} leads to {target}"


def test_every_page_is_in_the_contents():
    index = (DOCS / "index.md").read_text()
    for page in PAGES:
        name = str(page.relative_to(DOCS)).removesuffix(".md")
        assert re.search(rf"^{name}$", index, re.M) or name.startswith(("index", "decisions/"))


def _help_of(command: str) -> str:
    (commands,) = [each for each in _parser(command)._actions if each.dest == "command"]
    return commands.choices[command].format_help()


@pytest.mark.parametrize("command", COMMANDS)
def test_every_option_of_a_command_is_told(command):
    text = (DOCS / "commands.md").read_text()
    options = set(re.findall(r"--[a-z]+", _help_of(command))) - EVERYWHERE
    assert [option for option in options if option not in text] == []


@pytest.mark.parametrize("command", [*COMMANDS, *HANDED_OVER])
def test_every_command_is_told(command):
    assert re.search(rf"coaster {command}\b", (DOCS / "commands.md").read_text())


def test_topics_name_commands_that_there_are_and_pictures_that_there_are():
    told = "\n".join(PARTS["_topics"]())
    assert not re.search(r"\[[a-z-]+\]\s", told)
    topics = {topic.title for topic in PARTS["_help"]()["TOPICS"]}
    for title, picture in PARTS["PICTURES"].items():
        assert title in topics
        assert (DOCS / "screenshots" / f"{picture}.png").is_file()


def test_all_keys_and_all_sources_are_told():
    keys = "\n".join(PARTS["_keys"]())
    assert "| Play and pause | `Space` or `P` |" in keys
    assert keys.count("\n| ") >= len(PARTS["commands"]())
    sources = "\n".join(PARTS["_sources"]())
    assert "Gauss-Legendre quadrature" in sources
    assert all(line.count(" | ") == 3 for line in sources.splitlines()[2:])
