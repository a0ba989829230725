"""What the manual takes from the code, so that it is said once: how-to topics and words from the
studio's help, keys from the list of commands, sources from the docstrings of the mathematics.

It reads files and imports nothing that would have to be installed to build the manual.
"""

import ast
import re
import runpy
from collections.abc import Iterator
from pathlib import Path
from typing import Any

SRC = Path(__file__).resolve().parents[1] / "src"
COMMAND = re.compile(
    r'\{name: "(?P<name>[^"]+)", words: tr`(?P<words>[^`]+)`, area: "(?P<area>[^"]+)"(?P<rest>.*)'
)
KEYS = re.compile(r"keys: \[([^\]]*)\]")
AREAS = {
    "time": "Time", "layers": "Layers", "paths": "Paths", "nodes": "Nodes", "view": "View",
    "tools": "Tools", "scene": "Scene",
}  # fmt: skip
PICTURES = {
    "Let a picture ride a path": "editor", "Slow here, fast there": "pace",
    "Record with the hand, and smooth it": "take", "Close the loop": "seam",
    "Several together": "group", "Use footage": "footage", "Show a scene in a scene": "inset",
    "Go back to an earlier state": "history", "Make the video": "renders",
    "Change something over time": "keys", "A second view: from above, from the side": "depth",
}  # fmt: skip
"""The picture of a topic, where one of the studio's views shows it."""
MATHEMATICS = ("geometry", "motion", "render", "formats")


def version() -> str:
    found = re.search(r'__version__ = "([^"]+)"', (SRC / "coaster" / "__init__.py").read_text())
    return found[1] if found else ""


def _help() -> dict[str, Any]:
    """Return the studio's help, which needs nothing else of the studio."""
    return runpy.run_path(str(SRC / "studio" / "editor" / "help.py"))


def commands() -> list[dict[str, str]]:
    """Return the editor's commands: their name, words, area and keys, as people read these."""
    text = (SRC / "studio" / "static" / "studio" / "js" / "commands.js").read_text()
    found = []
    for line in COMMAND.finditer(text):
        keys = KEYS.search(line["rest"])
        shown = re.findall(r'"((?:[^"\\]|\\.)+)"', keys[1]) if keys else []
        told = " or ".join(f"`{_key(each)}`" for each in shown)
        found.append(line.groupdict() | {"keys": told})
    return found


def _key(key: str) -> str:
    return key.replace("\\\\", "\\").replace("Arrow", "Arrow ").replace("+", " ").strip() or "+"


def filled_in(app: object, page: str, source: list[str]) -> None:
    """Fill in what the code says, where a page asks for it."""
    for name, made in MADE.items():
        mark = f"<!-- {name} -->"
        if mark in source[0]:
            source[0] = source[0].replace(mark, "\n".join(made()))


def _topics() -> Iterator[str]:
    keys = {each["name"]: each["keys"] or f"*{each['words']}*" for each in commands()}
    for topic in _help()["TOPICS"]:
        yield f"\n## {topic.title}\n"
        for step in topic.steps:
            yield "1. " + re.sub(r"\[([a-z-]+)\]", lambda found: keys[found[1]], step)
        if topic.title in PICTURES:
            yield f"\n![{topic.title}](screenshots/{PICTURES[topic.title]}.png)"


def _words() -> Iterator[str]:
    yield "| word | meaning |\n|---|---|"
    for word, meaning in _help()["WORDS"]:
        yield f"| **{word}** | {meaning} |"


def _keys() -> Iterator[str]:
    for area, title in AREAS.items():
        yield f"\n## {title}\n\n| what | keys |\n|---|---|"
        for each in commands():
            if each["area"] == area:
                yield f"| {each['words']} | {each['keys']} |"


def _sources() -> Iterator[str]:
    """Yield a row for each function that says where its mathematics is from."""
    yield "| what | of what kind | from where | how exact |\n|---|---|---|---|"
    for folder in MATHEMATICS:
        for file in sorted((SRC / "coaster" / folder).glob("*.py")):
            for node in ast.walk(ast.parse(file.read_text())):
                if not isinstance(node, ast.FunctionDef | ast.ClassDef):
                    continue
                told = _parts_of(ast.get_docstring(node) or "")
                if "Source" in told:
                    first = (ast.get_docstring(node) or "").split("\n\n")[0]
                    plain = " ".join(first.split()).replace("|", "\\|")
                    exact = told.get("Accuracy", "").replace("|", "\\|")
                    source = told["Source"].replace("|", "\\|")
                    name = f"`{folder}/{file.name}` `{node.name}`"
                    yield f"| {name} | {plain} | {source} | {exact} |"


def _parts_of(text: str) -> dict[str, str]:
    """Return the parts of a docstring that have names, each on one line."""
    found, name = dict[str, list[str]](), ""
    for line in text.splitlines():
        start = re.match(r"\s*(Units|Accuracy|Degenerate|Errors|Source):\s+(.*)", line)
        if start:
            name = start[1]
            found[name] = [start[2]]
        elif name and line.startswith(" "):
            found[name].append(line.strip())
        else:
            name = ""
    return {name: " ".join(lines) for name, lines in found.items()}


MADE = {"topics": _topics, "words": _words, "keys": _keys, "sources": _sources}
"""What a page asks for in a comment, and what comes in its place."""
