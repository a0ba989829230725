"""Text in XML: as an element's, or an attribute's value.

``html`` and ``xml.sax.saxutils`` do the same, and bring the names of all characters or half of the
network's libraries along, which short commands have to wait for.
"""

_MARKS = str.maketrans({"&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;", "'": "&#x27;"})
_IN_VALUES = _MARKS | {ord(blank): f"&#{ord(blank)};" for blank in "\n\r\t"}
"""A reader makes plain blanks of these in an attribute."""


def escape(value: str) -> str:
    """Return an element's text."""
    return value.translate(_MARKS)


def quoted(value: str) -> str:
    """Return an attribute's value with its quotes."""
    return f'"{value.translate(_IN_VALUES)}"'
