"""A camera body: its picture format and the focusing aids it offers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from typing import TYPE_CHECKING, Any, Union

from welotrope.core import fields
from welotrope.core.errors import ConflictError, Field
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
    ScaleShown,
    kind_by_finder,
)
from welotrope.core.kit.mount import Mount, mount_input
from welotrope.core.kit.picture_size import OFFERED, parse_picture_size
from welotrope.core.kit.traits import BodyTraits, Screen
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.units.text import check_name

# An aid of one of the kinds; files and the database tell the records apart by it.
if TYPE_CHECKING:
    Aid = AidRecord
else:
    Aid = Union[tuple(kind.record for kind in BODY_KINDS)]  # noqa: UP007
__all__ = ["Aid", "Body", "with_screen"]

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
    """Return the kind of camera that a form says; one of which everything is asked where it says none."""
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
    """Return aids as the texts of the inputs that ask for them."""
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


_OF_A_MOUNT = ("mount", "clearance", "coupling_lever", "lever_proud", "presses_pin")
_OF_A_SENSOR = ("width_px", "stabiliser", "burst", "distance_scale", "by_wire", "slots", "aids_need_manual_focus")
_OF_OWN_CONTACTS = ("by_wire", "slots", "magnifier_fires")


def not_asked(camera: CameraKind, *, film: bool) -> frozenset[str]:
    """Return the names of the inputs of a body that a camera of a kind, on film or not, has no answer to."""
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
