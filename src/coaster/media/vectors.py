"""Files of vectors that move by themselves, made of the scene and not of its frames."""

from coaster.media.writing import Kind

LONGEST = 3600
"""Frames; in a longer one there is more text than a browser reads in a moment."""

SVG = Kind(
    "svg", ".svg", "SVG that moves by itself", "image/svg+xml", True, "image",
    most_frames=LONGEST, vectors=True,
)  # fmt: skip
PAGE = Kind(
    "html", ".html", "Web page that moves by itself", "text/html", True, "none",
    most_frames=LONGEST, vectors=True,
)  # fmt: skip
KINDS = SVG, PAGE
