"""A number and its unit stay on one line: in the text of a rendered page the space between them does not break."""

from __future__ import annotations

import re

_UNITS = "mm|cm|km|m|µm|s|ms|min|ft|in|%|dpi|dioptres?|pixels?|px|stops?|paces?|kB|MB|GB"
# A space within a tag is followed by the tag's end before any other begins.
_IN_TEXT = r"(?![^<>]*>)"
# They begin with what is rare, so that a page of 100 kB takes a millisecond or two.
_BEFORE_UNIT = re.compile(rf"([0-9½¼¾⅛⅜⅝⅞])\s+(?=(?:{_UNITS})(?![\w’'])){_IN_TEXT}")
_AFTER_ISO = re.compile(rf"(ISO)\s+(?=[0-9]){_IN_TEXT}")
# What a program reads, and what somebody typed, is left as it is.
_LEFT_ALONE = re.compile(r"(<(?:script|style|textarea)\b.*?</(?:script|style|textarea)>)", re.DOTALL)
NO_BREAK = "\u00a0"
_UNBROKEN = rf"\1{NO_BREAK}"


def with_units_unbroken(html: str) -> str:
    """Return a rendered page with every space between a number and its unit made one that does not break.

    Examples
    --------
    >>> with_units_unbroken('<p title="2 m">sharp to 2 m at ISO 400</p>').count(NO_BREAK)
    2
    """
    parts = _LEFT_ALONE.split(html)
    parts[::2] = (_AFTER_ISO.sub(_UNBROKEN, _BEFORE_UNIT.sub(_UNBROKEN, part)) for part in parts[::2])
    return "".join(parts)
