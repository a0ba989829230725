"""How the manual is built: ``./coaster docs``, offline, by Sphinx, in the look of the studio."""

import sys
from pathlib import Path

HERE = Path(__file__).resolve().parent
sys.path[:0] = [str(HERE)]

import parts  # noqa: E402 - it is beside this file

project = "Coaster"
author = "the makers of Coaster"
release = version = parts.version()
extensions = ["myst_parser"]
myst_heading_anchors = 3
myst_enable_extensions = ["colon_fence"]
exclude_patterns = ["theme"]

html_theme = "theme"
html_theme_path = [str(HERE)]
html_title = "Coaster"
html_static_path = ["../src/studio/static/studio/fonts", "../src/studio/static/studio/mark.svg"]
html_copy_source = html_show_sourcelink = html_use_index = False
html_search_scorer = str(HERE / "scorer.js")
html_permalinks_icon = "#"
pygments_style = "xcode"


def setup(app: object) -> None:
    app.connect("source-read", parts.filled_in)  # type: ignore[attr-defined]
