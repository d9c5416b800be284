"""Frames and outings: what was meant and set when a picture was taken, and what it showed."""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

from welotrope.core.errors import Field, OutOfRangeError, UnreadableError
from welotrope.core.inputs import Ask, Group, Input, field_spec, whole_input
from welotrope.core.kit.aids.registry import every_kind
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.setting import ring_setting
from welotrope.core.review.outcomes import Outcome
from welotrope.core.units.distance import parse_distance, write_distance
from welotrope.core.units.exposure import format_shutter, parse_shutter
from welotrope.core.units.text import check_text, number

_PLACE = Field("spot", "place in the picture")
_WORKS = "Write such as “centre”, “upper left”, or percents from the left and the top: 31 42"
_ACROSS, _DOWN = ("left", "", "right"), ("upper", "", "lower")
_THIRDS = (1 / 6, 1 / 2, 5 / 6)
_NEAR_ENOUGH = 0.005
NOTE_LIMIT, NAME_LIMIT, TAG_LIMIT, MOST_TAGS = 500, 80, 30, 12
_NOT_NOTED = ("", "not noted")
TEST_TAG = "test"


class Technique(StrEnum):
    """How the focus was found."""

    SINGLE = "single"
    PASS = "pass and return"
    FROM_INFINITY = "from infinity"
    LEAN = "lean"
    TRAP = "trap"
    SET = "set and shoot"


class Support(StrEnum):
    """What the camera stood on or was held by."""

    HAND = "by hand"
    LEANT = "leant on something"
    MONOPOD = "one leg"
    TRIPOD = "tripod"


class Ambient(StrEnum):
    """The light it was taken in, as far as it bears on seeing focus."""

    SUN = "sun"
    SHADE = "shade"
    INDOORS = "indoors"
    DUSK = "dusk"
    NIGHT = "night"
    FLASH = "flash"


@dataclass(frozen=True)
class Spot:
    """A place in a picture: fractions of its width and height from the top left corner.

    Raises
    ------
    OutOfRangeError
        When it lies outside.
    """

    x: float
    y: float

    def __post_init__(self) -> None:
        if not (0 <= self.x <= 1 and 0 <= self.y <= 1):
            raise OutOfRangeError(_PLACE, f"{self.x * 100:g} {self.y * 100:g}", "that is outside of it", _WORKS)

    def distance_to(self, other: Spot, aspect: float) -> float:
        """Return how far apart two spots are, in the unit of its height; ``aspect`` is width by height."""
        return math.hypot((self.x - other.x) * aspect, self.y - other.y)


def _called() -> Mapping[str, Spot]:
    named = {}
    for y, down in zip(_THIRDS, _DOWN, strict=True):
        for x, across in zip(_THIRDS, _ACROSS, strict=True):
            named[" ".join(word for word in (down, across) if word) or "centre"] = Spot(x, y)
    return named


SPOTS = _called()


def parse_spot(text: str) -> Spot:
    """Read a place in a picture: one of nine by name, or percents from the left and the top.

    Parameters
    ----------
    text
        What was typed.

    Raises
    ------
    UnreadableError, OutOfRangeError
        When it is none.

    Examples
    --------
    >>> parse_spot("31 42")
    Spot(x=0.31, y=0.42)
    """
    words = text.lower().replace("%", " ").replace(";", " ").split()
    found = SPOTS.get(" ".join(words)) or SPOTS.get(" ".join(reversed(words)))
    if found is not None:
        return found
    if len(words) != 2 or not any(sign.isdigit() for sign in text):
        raise UnreadableError(_PLACE, text, "that is no place in a picture", _WORKS)
    across, down = (number(word.rstrip(","), _PLACE, unit="") for word in words)
    return Spot(across / 100, down / 100)


def is_word(text: str) -> bool:
    """Return whether a place is said in words that name no place of nine: “eye”, “hand”, “corner”.

    Parameters
    ----------
    text
        What was typed.
    """
    words = text.lower().split()
    named = " ".join(words) in SPOTS or " ".join(reversed(words)) in SPOTS
    return bool(words) and not named and not any(sign.isdigit() for sign in text)


def format_spot(spot: Spot) -> str:
    """Return a place as one says it, to be read only: by name, or in whole percents across and down.

    Parameters
    ----------
    spot
        A place in the picture, as shares of its width and height.

    Examples
    --------
    >>> format_spot(Spot(0.414, 0.271))
    '41 % across, 27 % down'
    """
    written = write_spot(spot)
    return written if written in SPOTS else f"{spot.x * 100:.0f} % across, {spot.y * 100:.0f} % down"


def write_spot(spot: Spot | None) -> str:
    """Return a place as it is read back: by name where it has one.

    Parameters
    ----------
    spot
        A place in the picture, as shares of its width and height, or None.
    """
    if spot is None:
        return ""
    for name, known in SPOTS.items():
        if abs(known.x - spot.x) < _NEAR_ENOUGH and abs(known.y - spot.y) < _NEAR_ENOUGH:
            return name
    return " ".join(f"{share * 100:.1f}".removesuffix(".0") for share in (spot.x, spot.y))


def _text(name: str, label: str, group: Group, *, hint: str = "") -> Input:
    known = Field(name, label.lower())
    return Input(
        name=name, field=known, label=label, optional=True, empty="", write=str, group=group,
        read=lambda text, _typed: check_text(text.strip(), known, NAME_LIMIT), hint=hint,
    )  # fmt: skip


def _one_of(name: str, label: str, options: tuple[tuple[str, str], ...], *, group: Group) -> Input:
    """Return the input of one of a list that need not be noted; what is none of it is refused."""
    known = Field(name, label.lower())

    def read(text: str, _typed: object) -> str:
        if text not in dict(options):
            works = f"Choose one of {', '.join(words for _, words in options)}"
            raise UnreadableError(known, text, "that is none of them", works)
        return text

    return Input(
        name=name, field=known, label=label, optional=True, empty="", ask=Ask.CHOICE, options=(_NOT_NOTED, *options),
        read=read, write=str, group=group,
    )  # fmt: skip


def _values(kind: type[StrEnum]) -> tuple[tuple[str, str], ...]:
    return tuple((one.value, one.value) for one in kind)


def _distance(name: str, label: str, *, hint: str, group: Group) -> Input:
    known = Field(name, label.lower())
    return Input(
        name=name, field=known, label=label, optional=True,
        read=lambda text, typed: parse_distance(text, field=known, bare=typed.bare),
        write=lambda value: "" if value is None else write_distance(value), hint=hint, group=group,
    )  # fmt: skip


def read_tags(text: str) -> tuple[str, ...]:
    """Read tags parted by commas or spaces, each once, in small letters.

    Parameters
    ----------
    text
        What was typed.

    Raises
    ------
    OutOfRangeError
        When one is longer than 30 characters, or there are more than 12.
    """
    words = dict.fromkeys(word.lower().lstrip("#") for word in text.replace(",", " ").split())
    tags = tuple(check_text(word, "tags", 10 * TAG_LIMIT) for word in words if word)
    if len(tags) > MOST_TAGS or any(len(tag) > TAG_LIMIT for tag in tags):
        works = f"Use at most {MOST_TAGS} of {TAG_LIMIT} letters"
        raise OutOfRangeError("tags", text, "that is too many, or too long", works)
    return tags


NOTE = Input(
    name="note", field=Field("note", "note"), label="Note", optional=True, empty="", write=str, group=Group.NOTE,
    read=lambda text, _typed: check_text(text, "note", NOTE_LIMIT, lines=True),
)  # fmt: skip
SHUTTER = Input(
    name="shutter", field=Field("shutter", "shutter"), label="Shutter", hint="1/250, 0.5 s", optional=True,
    read=lambda text, _typed: parse_shutter(text), write=lambda value: "" if value is None else format_shutter(value),
)  # fmt: skip
ISO = whole_input("iso", Field("iso", "ISO"), "ISO", 1, 10_000_000)
FILM_FRAME = Input(
    name="film_frame", field=Field("film_frame", "film frame"), label="Film frame", hint="12, 12A", optional=True,
    empty="", read=lambda text, _typed: _short(text), write=str, group=Group.FILM,
)  # fmt: skip
_SUBJECT = Field("subject", "subject")
SUBJECT = replace(
    _text("subject", "Subject", Group.MEANT, hint="what should be sharp"), optional=False,
    read=lambda text, typed: _subject(text, typed.text("spot")),
)  # fmt: skip
SPOT = Input(
    name="spot", field=Field("spot", "place in the picture"), label="Where in the picture", optional=True,
    hint="centre, upper left, 31 42 in percent, or a word: eye, hand, corner", group=Group.MEANT,
    read=lambda text, _typed: None if is_word(text) else parse_spot(text),
    write=write_spot, offers=tuple((name, "") for name in SPOTS),
)  # fmt: skip
BELIEVED = _distance("believed", "Estimated distance", hint="from the film plane", group=Group.MEANT)
AID = _one_of(
    "aid", "Aid", (*((kind.tag, kind.label.lower()) for kind in every_kind()), ("eye", "guessed by eye")),
    group=Group.MEANT,
)  # fmt: skip
TECHNIQUE = _one_of("technique", "Technique", _values(Technique), group=Group.MEANT)
SUPPORT = _one_of("support", "Held", _values(Support), group=Group.MEANT)
LIGHT = _one_of("light", "Light", _values(Ambient), group=Group.MEANT)
INSTEAD = _text("instead", "Sharp instead", Group.FOUND, hint="what was sharp")
MISS = _distance(
    "miss", "How far off", hint="distance from the subject, in front or behind as marked", group=Group.FOUND
)
TAGS = Input(
    name="tags", field=Field("tags", "tags"), label="Tags", hint="separated by spaces", optional=True, empty=(),
    group=Group.NOTE, read=lambda text, _typed: read_tags(text), write=lambda value: " ".join(value),
)  # fmt: skip


def _subject(text: str, place: str) -> str:
    """Return the subject; a place in the picture that is said in a word, such as “eye”, belongs to it."""
    word = place.strip() if is_word(place) else ""
    known = check_text(text.strip(), _SUBJECT, NAME_LIMIT)
    return (
        known
        if not word or word.lower() in known.lower()
        else check_text(f"{known}, {word}".removeprefix(", "), _SUBJECT, NAME_LIMIT)
    )


def _short(text: str) -> str:
    if len(text) > 12:
        raise OutOfRangeError("film frame", text, "that is too long", "Write a number such as 12 or 12A")
    return check_text(text, "film frame", 12)


@dataclass(frozen=True, kw_only=True)
class FrameExtras:
    """What a frame may carry besides its setting: what was meant, and what it showed.

    Distances are mm from the film plane; ``miss_mm`` is how far focus fell from the subject, in front or behind as
    the outcome says.
    """

    note: str = field(default="", metadata=field_spec(NOTE))
    shutter_s: float | None = field(default=None, metadata=field_spec(SHUTTER))
    iso: int | None = field(default=None, metadata=field_spec(ISO))
    film_frame: str = field(default="", metadata=field_spec(FILM_FRAME))
    subject: str = field(default="", metadata=field_spec(SUBJECT))
    spot: Spot | None = field(default=None, metadata=field_spec(SPOT))
    believed_mm: float | None = field(default=None, metadata=field_spec(BELIEVED))
    aid: str = field(default="", metadata=field_spec(AID))
    technique: str = field(default="", metadata=field_spec(TECHNIQUE))
    support: str = field(default="", metadata=field_spec(SUPPORT))
    light: str = field(default="", metadata=field_spec(LIGHT))
    instead: str = field(default="", metadata=field_spec(INSTEAD))
    miss_mm: float | None = field(default=None, metadata=field_spec(MISS))
    tags: tuple[str, ...] = field(default=(), metadata=field_spec(TAGS))


@dataclass(frozen=True, kw_only=True)
class NewFrame(FrameExtras):
    """What is known when a frame is logged; lengths in mm, ``shutter_s`` in seconds, time local and naive.

    Of a picture that came without a log only the time need be known: the setting is None then.
    ``undated`` says that the time is only the order of the frames, as on a film roll not dated yet.
    """

    setup_id: int | None = None
    body_name: str = ""
    lens_name: str = ""
    focal_mm: float | None = None
    blur_mm: float | None = None
    stop: float | None = None
    distance_mm: float | None = None
    angle_deg: float | None = None
    near_mm: float | None = None
    far_mm: float | None = None
    taken_at: dt.datetime
    preset_name: str = ""
    roll_id: int | None = None
    undated: bool = False


@dataclass(frozen=True, kw_only=True)
class Frame(NewFrame):
    """A stored frame."""

    id: int = 0
    outing_id: int = 0
    outcome: Outcome | None = None

    @property
    def said_mm(self) -> float | None:
        """Distance the subject was at as far as is known: as believed, else as set; mm from the film plane."""
        return self.believed_mm if self.believed_mm is not None else self.distance_mm


@dataclass(frozen=True)
class Outing:
    """An outing with the number of its frames."""

    id: int
    name: str
    day: dt.date
    frames: int


def frame_at(setup_id: int, setup: Setup, angle_deg: float, stop: float, taken_at: dt.datetime) -> NewFrame:
    """Return the frame a set-up takes with its ring at ``angle_deg`` and the lens at ``stop``.

    Parameters
    ----------
    setup_id
        Key of the set-up.
    setup
        The lens on its body, with what counts as sharp.
    angle_deg
        Angle of the ring in degrees from its infinity stop.
    stop
        F-number, 0.5 to 128.
    taken_at
        When it was taken.
    """
    at = ring_setting(setup, angle_deg, stop)
    return NewFrame(
        setup_id=setup_id, body_name=setup.body.name, lens_name=setup.lens.name, focal_mm=setup.lens.focal_mm,
        blur_mm=setup.blur_mm, stop=stop, distance_mm=at.focus_mm, angle_deg=angle_deg, near_mm=at.near_mm,
        far_mm=at.far_mm, taken_at=taken_at,
    )  # fmt: skip


def marked(frame: Frame, outcome: Outcome | None, now: dt.datetime) -> Frame:
    """Return a frame with what it showed.

    The frames of a test are laid out beforehand: one is taken when it is first marked. No frame was taken later than
    it was looked at.

    Parameters
    ----------
    frame
        The frame.
    outcome
        What the frame showed; None takes the mark away.
    now
        Time of this moment.
    """
    laid_out = TEST_TAG in frame.tags and frame.outcome is None and outcome is not None
    taken = now if laid_out else min(frame.taken_at, now)
    return replace(frame, outcome=outcome, taken_at=taken)
