"""Style sheets and styles, as CSS has them."""

from collections.abc import Mapping
from typing import Any
from xml.etree.ElementTree import Element

import cssselect2
import tinycss2


def told_by(sheet: str, root: Element) -> dict[Element, dict[str, str]]:
    """Return what a sheet says of each element; what is important under names with "!" before."""
    matcher = _matcher(sheet)
    if matcher is None:
        return {}
    wrapped = cssselect2.ElementWrapper.from_xml_root(root).iter_subtree()
    return {each.etree_element: _matched(matcher, each) for each in wrapped}


def _matcher(sheet: str) -> cssselect2.Matcher | None:
    """Return what finds the declarations of a sheet for an element, or None for no rules."""
    matcher, count = cssselect2.Matcher(), 0
    for rule in tinycss2.parse_stylesheet(sheet, skip_comments=True, skip_whitespace=True):
        if rule.type != "qualified-rule":
            continue
        try:
            selectors = cssselect2.compile_selector_list(rule.prelude)
        except cssselect2.SelectorError:
            continue  # a rule that cannot be read is left out, as CSS has it
        says = declared(rule.content)
        for selector in selectors:
            matcher.add_selector(selector, says)
            count += 1
    return matcher if count else None


def _matched(matcher: cssselect2.Matcher, wrapped: Any) -> dict[str, str]:
    """Return what the sheet says of an element, as ``told_by`` does."""
    found: dict[str, str] = {}
    # In the order of how much they weigh.
    for *_, pseudo, (plain, important) in matcher.match(wrapped):
        if pseudo is None:
            found |= plain
            found |= {f"!{name}": value for name, value in important.items()}
    return found


def declared(content: Any) -> tuple[Mapping[str, str], Mapping[str, str]]:
    """Return declarations by name, and those of them that are important."""
    plain: dict[str, str] = {}
    important: dict[str, str] = {}
    for each in tinycss2.parse_declaration_list(content, skip_comments=True, skip_whitespace=True):
        if each.type == "declaration":
            value = tinycss2.serialize(each.value).strip()
            (important if each.important else plain)[each.lower_name] = value
    return plain, important
