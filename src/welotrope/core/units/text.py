"""Text people write about their things: names and notes that can be stored, shown, printed and sent anywhere."""

from __future__ import annotations

import unicodedata

from welotrope.core.errors import OutOfRangeError, UnreadableError

NAME_LIMIT = 60
_LINE_BREAKS = "\n\r\t"


def check_name(text: str, field: str, *, limit: int = NAME_LIMIT) -> str:
    """Return ``text`` when it is a name: 1 to ``limit`` characters, none of them control characters.

    Raises
    ------
    UnreadableError, OutOfRangeError
        When it is blank, holds what cannot be shown, or is longer.
    """
    if not text.strip():
        raise UnreadableError(field, "", "it needs a name", "Write what you call it")
    return check_text(text, field, limit)


def check_text(text: str, field: str, limit: int, *, lines: bool = False) -> str:
    """Return ``text`` when everything in it can be shown and it is no longer than ``limit``; it may be empty.

    ``lines`` allows line breaks and tabs.
    """
    if len(text) > limit:
        raise OutOfRangeError(field, text, f"that is {len(text)} characters", f"Use at most {limit}")
    bad = next((sign for sign in text if _unshowable(sign) and not (lines and sign in _LINE_BREAKS)), None)
    if bad is not None:
        raise UnreadableError(
            field, cleaned(text), f"it holds a character that cannot be shown (U+{ord(bad):04X})", "Leave it out"
        )
    return text


def cleaned(text: str) -> str:
    """Return the text without what cannot be shown."""
    return "".join(sign for sign in text if not _unshowable(sign))


def _unshowable(sign: str) -> bool:
    """Whether a character is a control, half of a surrogate pair, or stands for nothing."""
    return unicodedata.category(sign) in ("Cc", "Cs", "Cn") or sign in "\u2028\u2029\ufffe\uffff"
