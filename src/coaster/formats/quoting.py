"""Text in XML: as an element's, or an attribute's value.

``xml.sax.saxutils`` does the same, and brings half of the network's libraries along.
"""

from html import escape

_BLANKS = {ord(blank): f"&#{ord(blank)};" for blank in "\n\r\t"}
"""A reader makes plain blanks of these in an attribute."""


def quoted(value: str) -> str:
    """Return an attribute's value with its quotes."""
    return f'"{escape(value).translate(_BLANKS)}"'


__all__ = ["escape", "quoted"]
