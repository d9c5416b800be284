"""Finding frames by anything: words of their kit, intention and result, distances, stops and days.

A search is words, all of which must be there. ``-word`` must not; ``<2m`` and ``>5m`` bound the set distance;
``f/2.8`` is a stop, ``f<4`` and ``f>8`` bound it; ``#tag`` is a tag; ``2026-03`` or ``2026-03-14`` is when.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from welotrope.core.errors import WelotropeError
from welotrope.core.review.frame import AID, Frame
from welotrope.core.review.outcomes import Outcome
from welotrope.core.units.distance import Unit, parse_distance
from welotrope.core.units.exposure import format_stop, parse_stop

UNCHECKED = "unchecked"
MOST_WORDS = 12
_DAY = re.compile(r"^(19|2[01])\d\d(-\d\d){0,2}$")
_AIDS = dict(AID.options)


@dataclass(frozen=True, kw_only=True)
class FrameSearch:
    """What frames are looked for.

    Parameters
    ----------
    words, without
        Beginnings of words that must all be there, and ones that must not.
    near_mm, far_mm, open_stop, closed_stop
        Bounds of set distance, mm from the film plane, and f-number; None for none.
    day
        The beginning of the date, as ``2026-03``.
    outcome
        What they showed; ``unchecked`` for those not looked at, empty for any.
    lens
        Their lens by name; empty for any.
    unread
        Words that could not be read, as typed.
    """

    words: tuple[str, ...] = ()
    without: tuple[str, ...] = ()
    near_mm: float | None = None
    far_mm: float | None = None
    open_stop: float | None = None
    closed_stop: float | None = None
    day: str = ""
    outcome: str = ""
    lens: str = ""
    unread: tuple[str, ...] = field(default=())

    @property
    def asks(self) -> bool:
        """Whether it leaves anything out at all."""
        return self != FrameSearch(unread=self.unread)


def read_search(text: str, bare: Unit, *, outcome: str = "", lens: str = "") -> FrameSearch:
    """Read a search as typed; words that make no sense are kept apart, to be named.

    Parameters
    ----------
    text
        What was typed.
    bare
        Unit of numbers written without one.
    outcome
        Outcome that frames must have; empty for any.
    lens
        Words that the lens's name must hold; empty for any.
    """
    known = {one.value for one in Outcome} | {UNCHECKED}
    found = FrameSearch(outcome=outcome if outcome in known else "", lens=lens)
    for word in text.lower().split()[:MOST_WORDS]:
        try:
            found = _with(found, word, bare)
        except WelotropeError:
            found = replace(found, unread=(*found.unread, word))
    return found


def _with(found: FrameSearch, word: str, bare: Unit) -> FrameSearch:
    if word.startswith(("f<", "f>")):
        stop = parse_stop(word[2:])
        return replace(found, closed_stop=stop) if word[1] == "<" else replace(found, open_stop=stop)
    if word.startswith(("<", ">")):
        mm = parse_distance(word[1:], bare=bare)
        return replace(found, far_mm=mm) if word[0] == "<" else replace(found, near_mm=mm)
    if _DAY.match(word):
        return replace(found, day=word)
    if word.startswith("-") and len(word) > 1:
        return replace(found, without=(*found.without, word[1:]))
    return replace(found, words=(*found.words, word))


def words_of(frame: Frame, *, roll: str = "") -> str:
    """Return the words a frame is found by, each with a space before and behind it.

    Parameters
    ----------
    frame
        The frame.
    roll
        Name of the roll; empty for none.
    """
    parts: Iterable[str] = (
        frame.lens_name, frame.body_name, frame.preset_name, frame.subject, frame.instead, frame.note,
        _AIDS.get(frame.aid, frame.aid) if frame.aid else "", frame.technique, frame.support, frame.light,
        "" if frame.outcome is None else frame.outcome.value, *(f"#{tag}" for tag in frame.tags),
        "" if frame.stop is None else format_stop(frame.stop), "" if frame.iso is None else f"iso{frame.iso}",
        f"frame {frame.film_frame}" if frame.film_frame else "", f"roll {roll}" if roll else "",
        "" if frame.focal_mm is None else f"{frame.focal_mm:g}mm",
    )  # fmt: skip
    return f" {' '.join(' '.join(parts).lower().split())} "
