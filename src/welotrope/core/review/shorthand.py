"""Lines pencilled in the field, typed in as they stand: ``28/8 z:far ok``.

A line is words in any order: focal length and stop (``28/8``), a stop (``f8``), a set-up by its name (``@norr``), a
zone or kept setting (``z:far``), a distance (``2.4m``, ``8ft``, ``inf``), a shutter time (``1/250``, ``2s``), an ISO
(``iso400``), the time of day (``14:32``), what it showed (``ok``, ``front``, ``behind``, ``moved``, ``shaken``,
``soft``, ``?``), by how much it missed, right behind that (``front 2cm``), what was sharp instead (``on:ear``), the
aid (``by:split``), and after a semicolon a note. A number at its beginning is that of the frame. What a line leaves
out of its setting and its aid is as in the line before.
"""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from welotrope.core.errors import Field, OutOfRangeError, UnreadableError, WelotropeError
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.field_settings import FieldSetting
from welotrope.core.review.frame import AID, NAME_LIMIT, NOTE_LIMIT
from welotrope.core.review.outcomes import Outcome
from welotrope.core.units.distance import Unit, parse_distance
from welotrope.core.units.exposure import parse_shutter, parse_stop
from welotrope.core.units.text import check_text

MOST_LINES = 400
RESULTS = {
    "ok": Outcome.HIT, "hit": Outcome.HIT, "+": Outcome.HIT, "front": Outcome.FRONT, "f": Outcome.FRONT,
    "behind": Outcome.BEHIND, "back": Outcome.BEHIND, "b": Outcome.BEHIND, "moved": Outcome.MOVED, "m": Outcome.MOVED,
    "?": Outcome.UNSURE, "unsure": Outcome.UNSURE, "shaken": Outcome.SHAKEN, "shake": Outcome.SHAKEN,
    "soft": Outcome.SOFT, "s": Outcome.SOFT,
}  # fmt: skip
# Beginnings by which an aid is called besides its name and its tag.
_AIDS_CALLED = {
    "screen": "matte", "prism": "microprism", "patch": "rangefinder", "lamp": "confirmation",
    "indicator": "confirmation", "mag": "magnified", "live": "magnified", "guess": "eye",
}  # fmt: skip
_LINE = Field("line", "line")
_WORKS = "Write such as 28/8 z:far ok, or 2.4m f5.6 front"
_MISSES = (Outcome.FRONT, Outcome.BEHIND)
_AIDS = {tag: name for tag, name in AID.options if tag}
_NUMBER = re.compile(r"^#?(\d{1,4}[a-z]?)[.:]?$", re.IGNORECASE)
_PAIR = re.compile(r"^(\d{1,4}(?:[.,]\d)?)/(\d{1,3}(?:[.,]\d{1,2})?)$")
_STOP = re.compile(r"^f/?\d", re.IGNORECASE)
_ISO = re.compile(r"^iso(\d{1,7})$", re.IGNORECASE)
_TIME = re.compile(r"^([01]?\d|2[0-3]):([0-5]\d)$")
_SHUTTER = re.compile(r'^(?:1/\d{1,5}|\d{1,5}(?:[.,]\d+)?)(?:s|")$|^1/\d{2,5}$')
_SAME_FOCAL = 0.03


@dataclass(frozen=True, kw_only=True)
class KnownSetup:
    """A set-up that lines may be about: its key, itself, and its settings by name."""

    id: int
    setup: Setup
    settings: tuple[FieldSetting, ...]


@dataclass(frozen=True, kw_only=True)
class PencilledFrame:
    """A frame as a line says it; angle in degrees, time of day None where it is not said.

    Parameters
    ----------
    number
        Of the frame, as written.
    known
        Its set-up.
    stop, angle_deg
        Its setting.
    setting_name
        Of the zone or kept setting; empty for a distance.
    outcome, miss_mm, instead
        What it showed, by how much it missed, mm, and what was sharp instead, as far as they are said.
    aid
        Tag of the aid it was focused with; empty where none is said.
    shutter_s, iso, time, note
        As far as they are said; s for the shutter.
    """

    number: str
    known: KnownSetup
    stop: float
    angle_deg: float
    setting_name: str = ""
    outcome: Outcome | None = None
    miss_mm: float | None = None
    instead: str = ""
    aid: str = ""
    shutter_s: float | None = None
    iso: int | None = None
    time: dt.time | None = None
    note: str = ""


@dataclass(frozen=True)
class ReadLine:
    """A line: the frame it says, or a sentence why it says none; neither for an empty one."""

    text: str
    frame: PencilledFrame | None = None
    problem: str = ""


@dataclass(frozen=True, kw_only=True)
class _Said:
    """What the words of a line say, None for what they leave out."""

    number: str | None = None
    known: KnownSetup | None = None
    stop: float | None = None
    setting: str | None = None
    distance_mm: float | None = None
    outcome: Outcome | None = None
    miss_mm: float | None = None
    instead: str = ""
    aid: str | None = None
    shutter_s: float | None = None
    iso: int | None = None
    time: dt.time | None = None
    note: str = ""


def read_lines(text: str, kit: Sequence[KnownSetup], first: int, bare: Unit) -> list[ReadLine]:
    """Read lines, the first set-up of the kit being the one in hand; numbers go on from ``first``.

    Parameters
    ----------
    text
        What was typed.
    kit
        The set-ups that can be named, the one in hand first.
    first
        Number that counting begins with.
    bare
        Unit of numbers written without one.

    Raises
    ------
    OutOfRangeError
        When there are more than 400 lines.
    """
    lines = text.splitlines()
    if len(lines) > MOST_LINES:
        raise OutOfRangeError("lines", f"{len(lines)} lines", "that is more than is read at once", "Type it in parts")
    read: list[ReadLine] = []
    before: PencilledFrame | None = None
    number = str(first)
    for line in lines:
        if not line.strip():
            read.append(ReadLine(line))
            continue
        try:
            said = _said(line, kit, before.known if before else None, bare)
            frame = _frame(said, kit, before, number)
        except WelotropeError as error:
            read.append(ReadLine(line, problem=error.sentence))
            number = _next(number)
            continue
        read.append(ReadLine(line, frame))
        before, number = frame, _next(frame.number)
    return read


def _next(number: str) -> str:
    digits = re.match(r"\d+", number)
    return str(int(digits[0]) + 1) if digits else number


def _said(line: str, kit: Sequence[KnownSetup], carried: KnownSetup | None, bare: Unit) -> _Said:
    words, _, note = line.partition(";")
    said = _Said(note=check_text(note.strip(), "note", NOTE_LIMIT))
    before = ""
    for place, word in enumerate(words.split()):
        number = _NUMBER.match(word) if place == 0 else None
        if number is not None and (word.startswith("#") or len(words.split()) > 1 or word[-1] in ".:"):
            said = replace(said, number=number[1])
        elif RESULTS.get(before) in _MISSES and (miss := _amount(word, bare)) is not None:
            said = replace(said, miss_mm=miss)
        else:
            said = _word(said, word, kit, carried, bare)
        before = word.lower()
    return said


def _amount(word: str, bare: Unit) -> float | None:
    """Return by how much a frame missed, mm, where a distance stands right behind “front” or “behind”."""
    try:
        return parse_distance(word, bare=bare)
    except WelotropeError:
        return None


def _word(said: _Said, word: str, kit: Sequence[KnownSetup], carried: KnownSetup | None, bare: Unit) -> _Said:
    """Return what is said with another word."""
    low = word.lower()
    if low in RESULTS:
        return replace(said, outcome=RESULTS[low])
    called = next((begin for begin in ("z:", "by:", "on:", "@") if low.startswith(begin)), "")
    if called:
        return _called(said, called, word[len(called) :], kit)
    if iso := _ISO.match(low):
        return replace(said, iso=int(iso[1]))
    if time := _TIME.match(low):
        return replace(said, time=dt.time(int(time[1]), int(time[2])))
    if _SHUTTER.match(low):
        return replace(said, shutter_s=parse_shutter(low))
    if _STOP.match(low):
        return replace(said, stop=parse_stop(low))
    if pair := _PAIR.match(low):
        focal, stop = (float(part.replace(",", ".")) for part in pair.groups())
        known = _by_focal(focal, kit, said.known or carried)
        return replace(said, known=known, stop=parse_stop(f"{stop:g}"))
    try:
        return replace(said, distance_mm=parse_distance(low, bare=bare))
    except WelotropeError:
        raise UnreadableError(_LINE, word, "that is none of the words a line may hold", _WORKS) from None


def _called(said: _Said, begin: str, name: str, kit: Sequence[KnownSetup]) -> _Said:
    """Return what is said with a name behind a beginning: of a setting, an aid, what was sharp instead, a set-up."""
    if begin == "z:":
        return replace(said, setting=name.lower())
    if begin == "by:":
        return replace(said, aid=_aid(name.lower()))
    if begin == "on:":
        return replace(said, instead=check_text(name.replace("_", " ").strip(), "sharp instead", NAME_LIMIT))
    return replace(said, known=_by_name(name.lower(), kit))


def _aid(start: str) -> str:
    called = next((tag for word, tag in _AIDS_CALLED.items() if start and word.startswith(start)), None)
    named = next(
        (tag for tag, name in _AIDS.items() if start and (tag.startswith(start) or name.startswith(start))), None
    )
    if named is None and called is None:
        works = f"Write the beginning of one of {', '.join(_AIDS.values())}"
        raise UnreadableError(_LINE, f"by:{start}", "there is no such aid", works)
    return named or called or ""


def _by_name(start: str, kit: Sequence[KnownSetup]) -> KnownSetup:
    found = [one for one in kit if start and start in one.setup.name.lower()]
    if not found:
        names = ", ".join(dict.fromkeys(one.setup.lens.name for one in kit))
        raise UnreadableError(_LINE, f"@{start}", "no set-up is called so", f"Write the beginning of one of {names}")
    return found[0]


def _by_focal(focal_mm: float, kit: Sequence[KnownSetup], carried: KnownSetup | None) -> KnownSetup:
    """Return the set-up whose lens has a focal length, mm: the one before if it does, else the first that does."""
    for one in [*([carried] if carried else []), *kit]:
        if abs(one.setup.marked_mm / focal_mm - 1) <= _SAME_FOCAL:
            return one
    have = ", ".join(f"{focal:g}" for focal in sorted({one.setup.marked_mm for one in kit}))
    raise UnreadableError(_LINE, f"{focal_mm:g}", "no lens of the kit has that focal length", f"There are {have}")


def _frame(said: _Said, kit: Sequence[KnownSetup], before: PencilledFrame | None, number: str) -> PencilledFrame:
    known = said.known or (before.known if before else kit[0])
    same = before is not None and before.known.id == known.id and before.known.setup.marked_mm == known.setup.marked_mm
    stop, angle, name = said.stop, None, ""
    if said.setting is not None:
        setting = _setting(said.setting, known)
        name, angle = setting.name, setting.setting.angle_deg
        if stop is None:
            stop = setting.setting.stop
        elif stop != setting.setting.stop:  # the same distance at another stop
            angle = known.setup.ring(stop).setting_for(setting.setting.focus_mm)
    if stop is None:
        if before is None:
            raise UnreadableError(_LINE, "", "no stop is said", _WORKS)
        stop = before.stop
    if said.distance_mm is not None:
        ring = known.setup.ring(stop)
        ring.check_reach(said.distance_mm, field=_LINE)
        angle = ring.clamp(float(ring.angle_at_distance(said.distance_mm)))
    if angle is None:
        if before is None or not same:
            raise UnreadableError(_LINE, "", "no zone or distance is said for this lens", _WORKS)
        angle, name = before.angle_deg, before.setting_name
    carried_iso, carried_aid = (before.iso, before.aid if same else "") if before else (None, "")
    return PencilledFrame(
        number=said.number or number, known=known, stop=stop, angle_deg=angle, setting_name=name, outcome=said.outcome,
        miss_mm=said.miss_mm, instead=said.instead, aid=carried_aid if said.aid is None else said.aid,
        shutter_s=said.shutter_s, iso=said.iso if said.iso is not None else carried_iso, time=said.time, note=said.note,
    )  # fmt: skip


def _setting(start: str, known: KnownSetup) -> FieldSetting:
    found = next((one for one in known.settings if one.name.lower().replace(" ", "").startswith(start)), None)
    if found is None or not start:
        names = ", ".join(one.name for one in known.settings)
        raise UnreadableError(_LINE, f"z:{start}", f"{known.setup.lens.name} has no such setting", f"It has {names}")
    return found
