"""A camera body: its picture format, its shutter and the focusing aids it offers."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from typing import TYPE_CHECKING, Any, Union

from welotrope.core import fields
from welotrope.core.errors import ConflictError, Field, OutOfRangeError, UnreadableError
from welotrope.core.exposure.shutter_dial import ShutterDial
from welotrope.core.inputs import (
    Ask,
    CompositeField,
    FormInput,
    Group,
    Input,
    Reader,
    Text,
    check_limits,
    field_spec,
    name_input,
    subform,
    whole_input,
)
from welotrope.core.kit.aids.kind import AidRecord
from welotrope.core.kit.aids.matte import MatteScreen
from welotrope.core.kit.aids.microprism import Microprism
from welotrope.core.kit.aids.registry import BODY_KINDS, kind_called, kind_of
from welotrope.core.kit.aids.split_image import SplitImage
from welotrope.core.kit.camera_kind import (
    FILM,
    KIND_BY_ID,
    UNKNOWN_KIND,
    WITHOUT_GLASS,
    CameraKind,
    CameraKindId,
    FinderKind,
    ScaleShown,
    kind_by_finder,
)
from welotrope.core.kit.mount import Mount, mount_input
from welotrope.core.kit.traits import BodyTraits, Screen
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.units.exposure import format_shutter
from welotrope.core.units.text import check_name

if TYPE_CHECKING:
    Aid = AidRecord
else:
    Aid = Union[tuple(kind.record for kind in BODY_KINDS)]  # noqa: UP007

# Fastest and slowest marked times, s, as cameras of a kind mostly have them: on film, and with a sensor.
_USUAL_ON_FILM = {
    FinderKind.SLR: (1 / 1000, 1.0), FinderKind.RANGEFINDER: (1 / 1000, 1.0), FinderKind.ZONE: (1 / 250, 1.0),
}  # fmt: skip
_USUAL_WITH_SENSOR = {FinderKind.REAR_SCREEN: (1 / 2000, 15.0)}
_FILM, _SENSOR = (1 / 1000, 1.0), (1 / 4000, 30.0)
# Name as written without spaces: width and height of the exposed picture, mm.
NAMED: dict[str, tuple[float, float]] = {
    "6x4.5": (56.0, 41.5), "645": (56.0, 41.5), "6x6": (56.0, 56.0), "6x7": (69.5, 56.0), "6x8": (76.0, 56.0),
    "6x9": (84.0, 56.0), "6x12": (112.0, 56.0), "6x17": (168.0, 56.0), "4x4": (40.0, 40.0), "4x6.5": (65.0, 40.0),
    "4x5": (120.0, 95.0), "4x5in": (120.0, 95.0), "5x7": (170.0, 120.0), "5x7in": (170.0, 120.0),
    "8x10": (245.0, 195.0), "8x10in": (245.0, 195.0), "9x12": (114.0, 84.0), "9x12cm": (114.0, 84.0),
    "13x18": (174.0, 124.0), "13x18cm": (174.0, 124.0), "35mm": (36.0, 24.0), "fullframe": (36.0, 24.0),
    "halfframe": (24.0, 18.0), "crop1.5": (23.6, 15.7), "crop1.6": (22.3, 14.9), "crop2": (17.3, 13.0),
    "crop2.7": (13.2, 8.8), "1in": (13.2, 8.8), "110": (17.0, 13.0), "crop1.3": (28.7, 19.1), "crop1": (36.0, 24.0),
    "crop1.54": (23.5, 15.6), "crop4.6": (7.6, 5.7), "crop4.7": (7.44, 5.58), "crop5": (6.9, 5.2),
    "crop5.6": (6.17, 4.55), "2/3in": (8.8, 6.6), "1/1.3in": (9.6, 7.2), "1/1.6in": (7.8, 5.8), "1/1.63in": (7.8, 5.8),
    "1/1.65in": (7.6, 5.7), "1/1.7in": (7.44, 5.58), "1/1.75in": (7.3, 5.5), "1/1.8in": (7.18, 5.32),
    "1/2in": (6.4, 4.8), "1/2.3in": (6.17, 4.55), "1/2.33in": (6.17, 4.55), "1/2.5in": (5.76, 4.29),
    "1/2.7in": (5.37, 4.04), "1/3.2in": (4.54, 3.42), "4/3in": (17.3, 13.0), "4/3": (17.3, 13.0), "1.5in": (18.7, 14.0),
    "fourthirds": (17.3, 13.0), "microfourthirds": (17.3, 13.0), "mft": (17.3, 13.0), "apsc": (23.6, 15.7),
    "apsh": (28.7, 19.1), "fx": (36.0, 24.0), "135": (36.0, 24.0), "half": (24.0, 18.0), "120": (56.0, 56.0),
    "220": (56.0, 56.0), "127": (40.0, 40.0), "126": (26.5, 26.5), "instant": (79.0, 79.0), "620": (56.0, 56.0),
}  # fmt: skip
_LEAST_CROP, _MOST_CROP, _FOUR_THIRDS_FROM = 0.4, 12.0, 1.8
# What a form offers: what is written, and what it is called.
OFFERED = (
    ("36 × 24", "35 mm film, full frame"), ("APS-C", "crop 1.5"), ("crop 1.6", "smaller APS-C"),
    ("four thirds", "crop 2"), ("1 in", "crop 2.7"), ("2/3 in", "compacts"), ("1/1.7 in", "compacts"),
    ("1/2.3 in", "small compacts"), ("half frame", "half of 35 mm film"), ("44 × 33", "medium format sensor"),
    ("127", "4 × 4 on 127 film"), ("126", "cassette film"), ("110", "pocket film"),
    ("6 × 4.5", "roll film"), ("6 × 6", "roll film"), ("6 × 7", "roll film"), ("6 × 9", "roll film"),
    ("6 × 12", "roll film"), ("6 × 17", "roll film"), ("4 × 5 in", "sheet film"), ("5 × 7 in", "sheet film"),
    ("8 × 10 in", "sheet film"), ("9 × 12 cm", "sheet film or plate"),
)  # fmt: skip
_WORKS = "Write width and height in mm, such as 36 × 24, or a name such as APS-C, 6 × 6, 4 × 5 in, 1/1.7 in or crop 1.5"
_UNIT_MM = {"mm": 1.0, "cm": 10.0, "in": 25.4}
_LEAST, _MOST = 4.0, 300.0
# An aid of one of the kinds; files and the database tell the records apart by it.
__all__ = ["Aid", "Body", "with_screen"]
_OF_A_MOUNT = ("mount", "clearance", "coupling_lever", "lever_proud", "presses_pin")
_OF_A_SENSOR = ("width_px", "stabiliser", "burst", "distance_scale", "by_wire", "slots", "aids_need_manual_focus")
_OF_OWN_CONTACTS = ("by_wire", "slots", "magnifier_fires")


def usual_shutter(finder: FinderKind, *, film: bool) -> ShutterDial:
    """Return the shutter that bodies with such a finder usually have, its marked times in s.

    Parameters
    ----------
    finder
        Kind of finder.
    film
        Whether it records on film.
    """
    usual = _USUAL_ON_FILM.get(finder, _FILM) if film else _USUAL_WITH_SENSOR.get(finder, _SENSOR)
    return ShutterDial(*usual)


def shutter_of(body: Body) -> ShutterDial:
    """Return the shutter of a body, times in s: what is known of it, the rest as usual for its kind.

    Parameters
    ----------
    body
        The body.
    """
    traits, own = body.traits, body.kind.shutter_s
    usual = ShutterDial(*own) if own else usual_shutter(traits.finder, film=body.is_film)
    fastest = usual.fastest_s if traits.fastest_s is None else traits.fastest_s
    slowest = usual.slowest_s if traits.slowest_s is None else traits.slowest_s
    return ShutterDial(fastest, max(slowest, fastest * 2))


def longest_words(dial: ShutterDial, seconds: float) -> str:
    """Write the longest time of a shutter that is no longer than ``seconds``; any time may do, or none the body has.

    Parameters
    ----------
    dial
        Shutter times of the body, in s.
    seconds
        Time in s.

    Examples
    --------
    >>> dial = ShutterDial(1 / 1000, 1.0)
    >>> longest_words(dial, 1 / 430), longest_words(dial, 1 / 2100), longest_words(dial, math.inf)
    ('1/500 s', 'faster than 1/1000 s, the fastest of this body', 'any')
    """
    if math.isinf(seconds):
        return "any"
    if seconds < dial.fastest_s:
        return f"faster than {format_shutter(dial.fastest_s)}, the fastest of this body"
    return format_shutter(dial.no_longer_than(seconds))


def shutter_words(body: Body) -> str:
    """Say which fastest time is reckoned with, and whether it is the body's own.

    Parameters
    ----------
    body
        The body.
    """
    fastest = format_shutter(shutter_of(body).fastest_s)
    if body.traits.fastest_s is not None:
        return f"Fastest shutter speed: {fastest}."
    return f"Fastest shutter speed taken as {fastest}, the usual for this kind of camera. Enter yours in Kit."


_CROP = re.compile(r"^(?:crop)?(\d(?:\.\d{1,2})?)x?(?:crop)?$", re.ASCII)
_FULL_DIAGONAL_MM = math.hypot(36.0, 24.0)
_SIDES = re.compile(r"^(\d{1,4}(?:[.,]\d{1,3})?)\s*x\s*(\d{1,4}(?:[.,]\d{1,3})?)\s*(mm|cm|in)?$", re.ASCII)


def parse_picture_size(text: str) -> tuple[float, float]:
    """Read a picture size.

    Parameters
    ----------
    text
        Such as ``36 × 24``, ``6x6`` (56 × 56 mm is exposed), ``4x5 in``, ``APS-C``, ``1/1.7"``, ``120`` or
        ``crop 1.5``; a crop of no name is taken as 3:2, from 1.8 on as 4:3, as such sensors are.

    Returns
    -------
    tuple[float, float]
        Width and height, mm.

    Raises
    ------
    UnreadableError
        When it is neither two sides nor a name.
    OutOfRangeError
        When a side is under 4 mm or over 300 mm and its unit is not written: it is asked which is meant.
    """
    cleaned = re.sub(r"(inches|inch|\")", "in", text.strip().lower().replace("×", "x").replace(",", "."))
    name = re.sub(r"[\s-]", "", cleaned)
    found = NAMED.get(name) or NAMED.get(f"{name}in" if "/" in name else name.removesuffix("film"))
    if found:
        return found
    crop = _CROP.match(name)
    if crop and _LEAST_CROP <= float(crop[1]) <= _MOST_CROP:
        return NAMED.get(f"crop{float(crop[1]):g}") or _by_crop(float(crop[1]))
    match = _SIDES.match(cleaned)
    if match is None:
        raise UnreadableError("picture size", text, "that is not a width and a height", _WORKS)
    width, height = (float(match[part]) * _UNIT_MM[match[3] or "mm"] for part in (1, 2))
    if match[3] is None and not (min(width, height) >= _LEAST and max(width, height) <= _MOST):
        small = min(width, height) < _LEAST
        raise OutOfRangeError(
            "picture size", text, f"{width:g} × {height:g} mm is {'smaller' if small else 'larger'} than usual",
            f"Write “{match[1]} × {match[2]} mm” if you mean that, "
            f"or {f'{width * 10:g} × {height * 10:g}' if small else f'{width / 10:g} × {height / 10:g}'}",
        )  # fmt: skip
    return width, height


def _by_crop(crop: float) -> tuple[float, float]:
    """Return width and height, mm, of a picture whose diagonal is the full frame's over a crop factor."""
    wide, high = (4.0, 3.0) if crop >= _FOUR_THIRDS_FROM else (3.0, 2.0)
    scale = _FULL_DIAGONAL_MM / crop / math.hypot(wide, high)
    return round(wide * scale, 1), round(high * scale, 1)


_SIZE = Input(
    name="size", field=Field("size", "picture size"), also=("picture_width", "picture_height"), label="Picture size",
    unit="mm", usual="36 × 24", read=lambda text, _typed: parse_picture_size(text), empty=(36.0, 24.0), offers=OFFERED,
    hint="Width × height of the film gate or sensor, e.g. 36 × 24; or a name: 6 × 6, 4 × 5 in, crop 1.5",
)  # fmt: skip
_MEDIUM = Input(
    name="medium", field=Field("medium", "records on"), label="Records on", ask=Ask.PICK, usual="digital",
    read=lambda text, _typed: text, options=(("digital", "a sensor"), ("film", "film")),
)  # fmt: skip
_WIDTH_PX = whole_input(
    "width_px", fields.PIXELS_ACROSS, "Pixels across", 100, 60_000, optional=False, empty=6000,
    hint="Long side of a full-size picture, e.g. 6000; empty for film",
)  # fmt: skip
_AID_INPUTS = tuple({one.name: one for kind in BODY_KINDS for one in kind.inputs}.values())
_GLASS_INPUTS = tuple({one.name: one for kind in BODY_KINDS if kind.glass for one in kind.inputs}.values())


def _on_film(typed: FormInput) -> bool:
    return typed.text("medium") == "film"


def _take_image(reader: Reader, typed: FormInput) -> ImageFormat | None:
    size = _SIZE.take(reader, typed)
    width_px = None if _on_film(typed) else _WIDTH_PX.take(reader, typed)
    return reader.take(_SIZE.name, lambda: ImageFormat(size[0], size[1], width_px), None)


def _image_texts(image: ImageFormat) -> dict[str, Text]:
    return {
        "size": f"{image.width_mm:g} × {image.height_mm:g}", "medium": "digital" if image.width_px else "film",
        "width_px": str(image.width_px or ""),
    }  # fmt: skip


def kind_typed(texts: Mapping[str, Text]) -> CameraKind:
    """Return the kind of camera that a form says; one of which everything is asked where it says none.

    Parameters
    ----------
    texts
        Texts of the form by name.
    """
    said = texts.get("kind", "")
    return KIND_BY_ID[CameraKindId(said)] if isinstance(said, str) and said in set(CameraKindId) else UNKNOWN_KIND


def _take_aids(reader: Reader, typed: FormInput) -> tuple[AidRecord, ...]:
    """Read the aids its kind can have; a screen of glass needs a finder to see it through, film shows no picture."""
    camera = kind_typed(typed.texts)
    possible = [kind for kind in BODY_KINDS if camera.can_have(kind.tag) and not (kind.live and _on_film(typed))]
    names = {one.name for kind in possible for one in kind.inputs}
    values = {one.name: one.take(reader, typed) if one.name in names else None for one in _AID_INPUTS}
    finder, magnified = typed.text("finder"), values["finder_magnification"]
    without_glass = camera is UNKNOWN_KIND and finder in WITHOUT_GLASS
    if magnified is None and any(typed.text(one.name) for one in _GLASS_INPUTS if one.name in names):
        reader.errors.setdefault(
            "finder_magnification",
            "Finder magnification: a screen is seen through a finder. Write how much it magnifies, such as 0.9.",
        )
    if magnified is not None and without_glass:
        reader.errors.setdefault(
            "finder_magnification",
            f"Finder magnification: read “{typed.text('finder_magnification')}”; its finder is “{finder}” and"
            " has no screen of glass to judge focus on. Leave it empty, or choose another finder.",
        )
    kinds = [kind for kind in possible if not (kind.glass and without_glass)]
    made = [reader.take(kind.inputs[0].name, partial(kind.made, values), None) for kind in kinds]
    return tuple(aid for aid in made if aid is not None)


def aid_texts(aids: tuple[AidRecord, ...]) -> dict[str, Text]:
    """Return aids as the texts of the inputs that ask for them.

    Parameters
    ----------
    aids
        Focusing aids of a body.
    """
    texts: dict[str, Text] = {}
    for aid in aids:
        texts |= kind_of(aid).texts(aid)
    return texts


@dataclass(frozen=True)
class Body:
    """A camera body.

    Parameters
    ----------
    name
        As the photographer calls it, 1 to 60 characters.
    image
        Picture format; ``width_px`` None for film.
    aids
        The focusing aids it has, in the order they are listed.
    mount
        Its lens mount; None when not entered.
    traits
        What else is known of it.
    """

    name: str = field(metadata=field_spec(name_input(fields.BODY_NAME, hint="Any name you like")))
    image: ImageFormat = field(
        metadata=field_spec(CompositeField(inputs=(_SIZE, _MEDIUM, _WIDTH_PX), made=_take_image, texts=_image_texts))
    )
    aids: tuple[Aid, ...] = field(
        default=(), metadata=field_spec(CompositeField(inputs=_AID_INPUTS, made=_take_aids, texts=aid_texts))
    )
    mount: Mount | None = field(default=None, metadata=field_spec(mount_input(group=Group.MOUNT)))
    traits: BodyTraits = field(default_factory=BodyTraits, metadata=subform(BodyTraits))

    def __post_init__(self) -> None:
        check_name(self.name, fields.BODY_NAME)
        for aid in self.aids:
            check_limits(aid)
            if self.is_film and kind_of(aid).live:
                raise ConflictError(
                    "focusing aids", "live view or peaking", "film gives no live picture",
                    "Give the pixels across the sensor, or leave these aids out",
                )  # fmt: skip

    @property
    def kind(self) -> CameraKind:
        """What kind of camera it is: as it was said, else by its finder and aids."""
        if self.traits.kind is not CameraKindId.UNKNOWN:
            return KIND_BY_ID[self.traits.kind]
        return kind_by_finder(self.traits.finder, {kind_of(aid).tag for aid in self.aids})

    def can_have(self, tag: str) -> bool:
        """Whether it can have an aid of a kind, by its tag: as its kind, and on film without what is live."""
        aid = kind_called(tag)
        return self.kind.can_have(tag) and not (aid is not None and aid.live and self.is_film)

    @property
    def shown_aids(self) -> tuple[Aid, ...]:
        """The aids one can see: an electronic finder, a rear screen and zone focusing have no screen of glass."""
        if self.traits.finder not in WITHOUT_GLASS:
            return self.aids
        return tuple(aid for aid in self.aids if not kind_of(aid).glass)

    @property
    def aids_by_tag(self) -> dict[str, Any]:
        """The aids one can see, by the tag of their kind."""
        return {kind_of(aid).tag: aid for aid in self.shown_aids}

    @property
    def typical_aids(self) -> tuple[str, ...]:
        """Labels of the aids one can see whose values are typical ones, not measured."""
        return tuple(kind_of(aid).label for aid in self.shown_aids if kind_of(aid).tag in self.traits.typical)

    @property
    def is_film(self) -> bool:
        """Whether the picture falls on film."""
        return self.image.width_px is None


def not_asked(camera: CameraKind, *, film: bool) -> frozenset[str]:
    """Return the names of the inputs of a body that a camera of a kind, on film or not, has no answer to.

    Parameters
    ----------
    camera
        Kind of camera.
    film
        Whether it records on film.
    """
    possible = [kind for kind in BODY_KINDS if camera.can_have(kind.tag) and not (kind.live and film)]
    asked = {one.name for kind in possible for one in kind.inputs}
    names = {one.name for one in _AID_INPUTS} - asked
    tags = {kind.tag for kind in possible}
    names |= set(() if camera.has_mount else (*_OF_A_MOUNT, *_OF_OWN_CONTACTS)) | set(_OF_A_SENSOR if film else ())
    if not camera.has_screen:
        names.add("screens")
    if "peaking" not in tags:
        names.add("peaking_colours")
    if not tags & {"peaking", "magnified"}:
        names |= {"aids_need_manual_focus", "magnifier_fires"}
    if not camera.autofocus:
        names |= {"aids_need_manual_focus", "by_wire"}
    if camera is not UNKNOWN_KIND and camera.scale is ScaleShown.RING and not (camera.has_mount and camera.autofocus):
        names.add("distance_scale")
    if len(camera.finders) == 1:
        names.add("finder")
    if camera.media == (FILM,) or camera.on_sensor:
        names.add("medium")
    return frozenset(names)


def with_screen(body: Body, screen: Screen) -> Body:
    """Return the body with another screen fitted: its matte, split image and microprism replace the old ones.

    Parameters
    ----------
    body
        The body.
    screen
        The screen that is fitted.

    Raises
    ------
    ConflictError
        When the body has no finder to see a screen through.
    """
    finder = next((aid for aid in body.aids if isinstance(aid, MatteScreen | SplitImage)), None)
    if finder is None:
        raise ConflictError(
            "screen", screen.name, "the body has no finder magnification entered", "Enter it with the body first"
        )
    new: list[AidRecord] = [MatteScreen(finder.finder_magnification, screen.stop)]
    if screen.split_deg is not None:
        new.append(SplitImage(finder.finder_magnification, screen.split_deg))
    if screen.microprism_deg is not None:
        new.append(Microprism(finder.finder_magnification, screen.microprism_deg))
    kept = [aid for aid in body.aids if not kind_of(aid).glass]
    return replace(body, aids=(*new, *kept))
