"""What is asked in short: the kind of camera, the lens, and what must be sharp; the rest takes what is usual."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from welotrope.core import fields
from welotrope.core.errors import Field
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
    number_input,
    subform,
)
from welotrope.core.inputs import tick_input as tick
from welotrope.core.kit.body import OFFERED, Body, kind_typed, parse_picture_size
from welotrope.core.kit.camera_kind import CAMERA_KINDS, DIGITAL, FILM, CameraKind, CameraKindId, ScreenCentre
from welotrope.core.kit.first_kit import first_body, first_image, first_lens, first_stops
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.lens_inputs import THROW_BY_EYE
from welotrope.core.kit.zoom import parse_focals
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.ring.survey import distance_cell
from welotrope.core.units.distance import Unit, check_ends, parse_distance
from welotrope.core.units.text import check_name
from welotrope.web.forms import record_form

KIND = Input(
    name="kind", field=Field("kind", "kind of camera"), label="Which kind of camera?", ask=Ask.PICK,
    options=tuple((one.id.value, one.label) for one in CAMERA_KINDS), usual=CameraKindId.MIRRORLESS.value,
    group=Group.KIND,
    write=lambda one: str(one.id.value), read=lambda text, typed: kind_typed({"kind": text} if text else typed.texts),
)  # fmt: skip
PRISMS = Input(
    name="prisms", field=Field("prisms", "middle of the screen"), label="Focusing aid in the middle of the"
    " screen", ask=Ask.CHOICE,
    usual=ScreenCentre.NONE.value, group=Group.CAMERA, write=lambda one: str(one.value),
    options=(
        (ScreenCentre.NONE.value, "none: plain matte"),
        (ScreenCentre.SPLIT.value, "split image"),
        (ScreenCentre.MICROPRISM.value, "microprism"),
        (ScreenCentre.BOTH.value, "split image with microprism collar"),
    ),
    read=lambda text, _typed: ScreenCentre(text) if text in set(ScreenCentre) else ScreenCentre.NONE,
)  # fmt: skip
MEDIUM = Input(
    name="medium", field=Field("medium", "records on"), label="Recorded on", ask=Ask.CHOICE, group=Group.CAMERA,
    options=(("", "the usual for this kind of camera"), (FILM, "film"), (DIGITAL, "a sensor")),
    read=lambda text, _typed: text, write=str,
)  # fmt: skip
SIZE = Input(
    name="size", field=Field("size", "picture size"), also=("picture_width", "picture_height"), label="Picture size",
    read=lambda text, _typed: parse_picture_size(text), offers=OFFERED, group=Group.CAMERA, optional=True,
    hint="e.g. APS-C, four thirds, 1/1.7 in, 6 × 6 or 36 × 24 mm. If empty: the usual size for this kind of camera",
)  # fmt: skip
MEGAPIXELS = number_input(
    "megapixels", Field("megapixels", "megapixels"), "Megapixels", low=0.1, high=400, group=Group.CAMERA,
    hint="for a digital camera. If empty: 12",
)  # fmt: skip


def _take_image(reader: Reader, typed: FormInput) -> ImageFormat | None:
    size, megapixels = SIZE.take(reader, typed), MEGAPIXELS.take(reader, typed)
    if reader.errors:
        return None
    kind, medium = KIND.value(typed), typed.text(MEDIUM.name)
    film = (medium or kind.media[0]) == FILM and FILM in kind.media
    said = size or parse_picture_size(kind.size)
    return reader.take(MEGAPIXELS.name, lambda: first_image(kind, said, megapixels, film=film), None)


def _no_texts(_value: object) -> dict[str, Text]:
    return {}


@dataclass(frozen=True, kw_only=True)
class CameraAsked:
    """A camera: its kind, what sits in its screen, and its picture, mm."""

    kind: CameraKind = field(metadata=field_spec(KIND))
    prisms: ScreenCentre = field(metadata=field_spec(PRISMS))
    image: ImageFormat = field(
        metadata=field_spec(CompositeField(inputs=(MEDIUM, SIZE, MEGAPIXELS), made=_take_image, texts=_no_texts))
    )

    def body(self, *, name: str = "") -> Body:
        """Return the body, with typical values."""
        medium = "film" if self.image.width_px is None else "digital"
        return first_body(self.kind, name or f"My {medium} camera", self.image, prisms=self.prisms)


ENGRAVED = Input(
    name="engraved", field=Field("engraved_units", "engraved in"), label="Engraved distances",
    ask=Ask.CHOICE, group=Group.LENS, usual="m ft",
    options=(("m ft", "metres and feet"), ("m", "metres"), ("ft", "feet only"), ("", "not at all")),
    read=lambda text, _typed: tuple(unit for unit in Unit if unit.value in text.split()), write=str,
)  # fmt: skip


def _off_the_ring(text: str, typed: FormInput) -> float:
    """Read a distance as it stands on the ring: a number alone is feet where only feet are engraved."""
    feet = typed.text(ENGRAVED.name) == Unit.FEET.value
    return parse_distance(text, field=fields.CLOSEST, bare=Unit.FEET if feet else typed.bare)


@dataclass(frozen=True, kw_only=True)
class LensAsked:
    """A lens; lengths in mm, throw in degrees."""

    focals_mm: tuple[float, ...] = field(
        metadata=field_spec(
            Input(
                name="focal", field=fields.FOCAL, label="Focal length", unit="mm", group=Group.LENS, empty=(50.0,),
                hint="the number before mm on the front ring, not a 35 mm equivalent; for a zoom e.g. 35-70",
                read=lambda text, _typed: parse_focals(text, asked=fields.FOCAL),
            )
        )
    )  # fmt: skip
    stops: tuple[float, ...] = field(
        metadata=field_spec(
            Input(
                name="stops", field=fields.STOPS, label="Widest aperture", group=Group.LENS, empty=(2.0,),
                hint="e.g. 2, or the whole range: 2-16", read=lambda text, _typed: first_stops(text),
            )
        )
    )  # fmt: skip
    closest_mm: float | None = field(
        metadata=field_spec(
            Input(
                name="nearest", field=fields.CLOSEST, label="Closest focus", optional=True, group=Group.LENS,
                read=_off_the_ring, example="0.45 m", example_ft="1.5 ft",
                hint="as engraved, e.g. 0.45 m; for a compact as specified, from the front of the lens. If empty:"
                " 10 × focal length",
            )
        )
    )  # fmt: skip
    throw_deg: float | None = field(metadata=field_spec(THROW_BY_EYE))
    units: tuple[Unit, ...] = field(metadata=field_spec(ENGRAVED))

    def lens(self, kind: CameraKind, *, name: str = "") -> Lens:
        """Return the lens for a camera of a kind; errors as ``first_lens``."""
        throw = self.throw_deg if kind.turns else None
        return first_lens(
            self.focals_mm, self.stops, self.closest_mm, throw, kind=kind, name=name, units=self.units
        )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class SceneAsked:
    """What must be sharp, mm from the film plane: one subject, two, or one and all behind it."""

    near_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "near", Field("near", "near"), "Subject, or the nearest one", group=Group.SCENE, empty=1000.0,
                half_empty="Write a distance, such as 2 m", example="2 m", example_ft="7 ft",
            )
        )
    )  # fmt: skip
    last_mm: float | None = field(
        metadata=field_spec(
            distance_cell(
                "far", Field("far", "far"), "Farthest subject", group=Group.SCENE, optional=True, example="5 m",
                example_ft="16 ft", hint="leave empty for a single subject",
            )
        )
    )  # fmt: skip
    horizon: bool = field(metadata=field_spec(tick("horizon", "everything to the horizon", group=Group.SCENE)))

    def __post_init__(self) -> None:
        if self.far_mm != self.near_mm:
            check_ends(self.near_mm, self.far_mm)

    @property
    def far_mm(self) -> float:
        """The farthest, mm; the subject itself where there is but one."""
        if self.horizon:
            return math.inf
        return self.near_mm if self.last_mm is None else self.last_mm


@dataclass(frozen=True, kw_only=True)
class FirstAsked:
    """The first kit and the first question."""

    camera: CameraAsked = field(metadata=subform(CameraAsked))
    lens: LensAsked = field(metadata=subform(LensAsked))
    scene: SceneAsked = field(metadata=subform(SceneAsked))

    def __post_init__(self) -> None:
        check_limits(self)


MADE_FOR, UNKNOWN = "made", "unknown"
JOINED = Input(
    name="joined", field=Field("joined", "how it goes on"), label="Mounted", ask=Ask.CHOICE, group=Group.JOINT,
    options=((MADE_FOR, "directly: made for this camera"), (UNKNOWN, "with an adapter I have not entered yet")),
    read=lambda text, _typed: text or UNKNOWN, write=str, usual=MADE_FOR,
)  # fmt: skip


def _name(field: Field, hint: str) -> Input:
    return Input(
        name="name", field=field, label="Name", optional=True, empty="", group=Group.NAME, hint=hint, write=str,
        read=lambda text, _typed: check_name(text, field),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class AddedCamera:
    """Another camera."""

    camera: CameraAsked = field(metadata=subform(CameraAsked))
    name: str = field(metadata=field_spec(_name(fields.BODY_NAME, "what you call it")))


@dataclass(frozen=True, kw_only=True)
class AddedLens:
    """Another lens, and how it goes on: ``made``, ``unknown``, or the key of an adapter."""

    lens: LensAsked = field(metadata=subform(LensAsked))
    joined: str = field(metadata=field_spec(JOINED))
    name: str = field(metadata=field_spec(_name(fields.LENS_NAME, "e.g. Norrvik 50. If empty: its focal length")))


FirstForm = record_form(FirstAsked)
CameraForm = record_form(AddedCamera)
AddedLensForm = record_form(AddedLens)
