"""What else is known of a body, and of how a lens is built at its rear: the facts rules ask for."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from enum import StrEnum

from welotrope.core import fields
from welotrope.core.errors import Field, OutOfRangeError, UnreadableError
from welotrope.core.exposure.shutter_dial import ShutterDial
from welotrope.core.inputs import (
    Ask,
    Group,
    Input,
    check_limits,
    choice_input,
    field_spec,
    number_input,
    tick_input,
    whole_input,
)
from welotrope.core.kit.aids.registry import BODY_KINDS
from welotrope.core.kit.camera_kind import CAMERA_KINDS, KIND_BY_ID, CameraKindId, FinderKind
from welotrope.core.kit.mount import YesNoUnknown, known_input
from welotrope.core.units.exposure import parse_shutter, parse_stop, shutter_text
from welotrope.core.units.text import check_name, check_text, number

_SCREEN_PART = re.compile(r"(?:split|microprism) \S+|(?:f/?)?\d+(?:\.\d+)?", re.IGNORECASE)
SCREEN_EXAMPLE = "split image, 2.8, split 6.5"


class ScaleStandard(StrEnum):
    """What the body's own distance scale on the screen goes by."""

    NONE = "none"
    FILM = "film"
    PIXEL = "pixel"


class ApertureRing(StrEnum):
    """The rear edge of a lens's aperture ring."""

    NONE = "no ring"
    CUT = "cut back or notched"
    UNCUT = "plain, uncut"
    UNKNOWN = "not known"


@dataclass(frozen=True)
class Screen:
    """A focusing screen that the body can take.

    ``split_deg`` and ``microprism_deg`` are prism deviations, None without that aid; ``stop`` is the
    brightness stop below which it shows no thinner depth.
    """

    name: str
    stop: float = 2.8
    split_deg: float | None = None
    microprism_deg: float | None = None

    def __post_init__(self) -> None:
        check_name(self.name, fields.SCREENS)
        _check(fields.SCREENS, self.stop, 0.7, 8)
        _check(fields.SCREENS, self.split_deg, 2, 20)
        _check(fields.SCREENS, self.microprism_deg, 2, 20)


@dataclass(frozen=True, kw_only=True)
class BodyTraits:
    """What a body does, beyond its picture format and aids.

    Parameters
    ----------
    kind, finder
        Kind of camera, and of its viewfinder; a kind that has but one finder decides it.
    clearance_mm
        Free space behind the flange before mirror or shutter, mm; None when not known.
    coupling_lever, lever_proud_mm
        Whether a lever or ridge at the mount reads the lens's aperture ring, and how far it stands out before the
        mount's face, mm; None when not known.
    presses_pin
        Whether the body presses an aperture pin of its own mount's lenses.
    screens
        Screens available for it, the fitted one among the aids of the body.
    peaking_colours
        Colours it can peak in.
    stabiliser
        Whether it has in-body stabilisation.
    burst_fps, shutter_lag_ms
        Frames a second and release lag; None when not known.
    fastest_s, slowest_s
        Shortest and longest marked shutter time, s; None when not known.
    distance_scale
        Standard of its screen distance scale.
    aids_need_manual_focus
        Whether the aids appear only in manual focus.
    magnifier_fires
        Whether the automatic magnifier fires with a lens that has no contacts.
    by_wire
        Whether a fixed or native lens focuses by wire.
    slots
        Number of slots for lens data, 0 to 50.
    typical
        Tags of the kinds of aid whose values are typical ones, not measured on this body.
    """

    kind: CameraKindId = field(
        default=CameraKindId.UNKNOWN,
        metadata=field_spec(
            Input(
                name="kind", field=Field("kind", "kind of camera"), label="Kind of camera", ask=Ask.CHOICE, usual="",
                options=(("", "not said"), *((one.id.value, one.label) for one in CAMERA_KINDS)), group=Group.KIND,
                read=lambda text, _typed: _read_kind(text), write=lambda kind: kind.value,
            )
        ),
    )  # fmt: skip
    finder: FinderKind = field(
        default=FinderKind.UNKNOWN,
        metadata=field_spec(
            choice_input(
                "finder",
                "Finder",
                FinderKind,
                FinderKind.UNKNOWN,
                group=Group.MOUNT,
                options=tuple((kind.value, kind.label) for kind in FinderKind),
            )
        ),
    )
    clearance_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "clearance", fields.CLEARANCE, "Free space behind the flange", unit="mm", low=0, high=100,
                hint="Before the mirror, shutter or baffle; from the maker’s data", group=Group.MOUNT,
            )
        ),
    )  # fmt: skip
    coupling_lever: YesNoUnknown = field(
        default=YesNoUnknown.UNKNOWN,
        metadata=field_spec(
            known_input("coupling_lever", "Coupling lever that reads the aperture ring", group=Group.MOUNT)
        ),
    )
    screens: tuple[Screen, ...] = field(
        default=(),
        metadata=field_spec(
            Input(
                name="screens", field=fields.SCREENS, label="Interchangeable focusing screens", optional=True, empty=(),
                hint="Name, brightness stop, prisms; e.g. split image, 2.8, split 6.5; plain matte, 2",
                group=Group.HABITS,
                read=lambda text, _typed: _read_screens(text),
                write=lambda screens: "; ".join(_screen_text(screen) for screen in screens),
            )
        ),
    )  # fmt: skip
    peaking_colours: tuple[str, ...] = field(
        default=(),
        metadata=field_spec(
            Input(
                name="peaking_colours", field=fields.SCREENS, label="Peaking colours", hint="e.g. white, red, yellow",
                read=lambda text, _typed: tuple(part.strip()[:20] for part in text.split(",")[:8] if part.strip()),
                write=", ".join, optional=True, empty=(), group=Group.HABITS,
            )
        ),
    )  # fmt: skip
    stabiliser: bool = field(
        default=False, metadata=field_spec(tick_input("stabiliser", "Stabiliser in the body", group=Group.HABITS))
    )
    burst_fps: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "burst", fields.BURST, "Burst rate", unit="frames per second", low=0.1, high=240, group=Group.HABITS
            )
        ),
    )
    shutter_lag_ms: float | None = field(
        default=None,
        metadata=field_spec(
            number_input("lag", fields.LAG, "Shutter lag", unit="ms", low=0, high=5000, group=Group.HABITS)
        ),
    )
    fastest_s: float | None = field(
        default=None,
        metadata=field_spec(
            Input(
                name="fastest", field=fields.FASTEST, label="Fastest shutter speed", optional=True, group=Group.HABITS,
                example="1/1000", hint="e.g. 1/4000 s. If empty: the usual for this kind of camera",
                read=lambda text, _typed: parse_shutter(text, field=fields.FASTEST), write=shutter_text,
            )
        ),
    )  # fmt: skip
    slowest_s: float | None = field(
        default=None,
        metadata=field_spec(
            Input(
                name="slowest", field=fields.SLOWEST, label="Slowest marked shutter speed", optional=True,
                group=Group.HABITS, example="1 s", hint="The longest timed exposure, without B",
                read=lambda text, _typed: parse_shutter(text, field=fields.SLOWEST), write=shutter_text,
            )
        ),
    )  # fmt: skip
    distance_scale: ScaleStandard = field(
        default=ScaleStandard.NONE,
        metadata=field_spec(
            choice_input(
                "distance_scale",
                "Distance scale on the screen uses the",
                ScaleStandard,
                ScaleStandard.NONE,
                group=Group.HABITS,
            )
        ),
    )
    aids_need_manual_focus: YesNoUnknown = field(
        default=YesNoUnknown.UNKNOWN,
        metadata=field_spec(
            known_input("aids_need_manual_focus", "Focusing aids appear only in manual focus mode", group=Group.HABITS)
        ),
    )
    magnifier_fires: YesNoUnknown = field(
        default=YesNoUnknown.UNKNOWN,
        metadata=field_spec(
            known_input(
                "magnifier_fires", "Magnified view starts automatically without lens contacts", group=Group.HABITS
            )
        ),
    )
    by_wire: YesNoUnknown = field(
        default=YesNoUnknown.UNKNOWN,
        metadata=field_spec(known_input("by_wire", "Native lenses are focus-by-wire", group=Group.HABITS)),
    )
    typical: tuple[str, ...] = field(
        default=(),
        metadata=field_spec(
            Input(
                name="typical", field=Field("typical", "typical values"), label="Typical values, not measured",
                ask=Ask.MANY,
                hint="Untick an aid once you have measured it", optional=True, empty=(), usual=[], group=Group.TYPICAL,
                options=tuple((kind.tag, kind.label) for kind in BODY_KINDS), write=list,
                read=lambda chosen, _typed: tuple(kind.tag for kind in BODY_KINDS if kind.tag in chosen),
            )
        ),
    )  # fmt: skip
    slots: int = field(
        default=0,
        metadata=field_spec(
            whole_input(
                "slots", fields.SLOTS, "Lens data slots", 0, 50, empty=0, group=Group.HABITS,
                hint="Number of lenses the camera can store; empty for none",
            )
        ),
    )  # fmt: skip
    lever_proud_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "lever_proud", fields.LEVER_PROUD, "Coupling lever protrusion", unit="mm", low=0,
                high=20, group=Group.MOUNT,
            )
        ),
    )  # fmt: skip
    presses_pin: YesNoUnknown = field(
        default=YesNoUnknown.UNKNOWN,
        metadata=field_spec(
            known_input("presses_pin", "Presses the aperture pin of its own lenses", group=Group.MOUNT)
        ),
    )

    def __post_init__(self) -> None:
        finders = KIND_BY_ID[self.kind].finders
        if self.finder not in finders:
            object.__setattr__(self, "finder", finders[0])
        for colour in self.peaking_colours:
            check_text(colour, fields.SCREENS, 20)
        check_limits(self)
        if self.fastest_s is not None and self.slowest_s is not None:
            ShutterDial(self.fastest_s, self.slowest_s)


@dataclass(frozen=True, kw_only=True)
class LensFit:
    """How a lens is built where it meets the body.

    Parameters
    ----------
    protrusion_mm
        How far rear parts stand out behind the flange, mm; 0 for none, None when not known.
    aperture_ring
        Rear edge of the aperture ring.
    pin
        Whether it has a pin that must be pressed for the aperture to close.
    image_circle_mm
        Diameter it covers; None when not known.
    endless
        Whether the focus ring has no hard stops.
    length_mm
        Length from its flange to the front, mm; None when not known.
    rear_mm
        Width of the widest part behind the flange, mm; None when not known.
    """

    protrusion_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "protrusion", fields.PROTRUSION, "Rear protrusion behind the flange", unit="mm", low=0, high=80,
                hint="0 if nothing protrudes; check with a ruler across the mount, at ∞ and at closest focus",
                group=Group.FIT,
            )
        ),
    )  # fmt: skip
    rear_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "rear", fields.REAR_WIDTH, "Diameter of the rear protrusion", unit="mm", low=2, high=200,
                hint="Measure with a caliper", group=Group.FIT,
            )
        ),
    )  # fmt: skip
    aperture_ring: ApertureRing = field(
        default=ApertureRing.UNKNOWN,
        metadata=field_spec(
            choice_input(
                "aperture_ring", "Rear edge of the aperture ring", ApertureRing, ApertureRing.UNKNOWN, group=Group.FIT
            )
        ),
    )
    pin: YesNoUnknown = field(
        default=YesNoUnknown.UNKNOWN,
        metadata=field_spec(known_input("pin", "Pin that closes the aperture when pressed", group=Group.FIT)),
    )
    image_circle_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "image_circle", fields.IMAGE_CIRCLE, "Image circle", unit="mm", low=4, high=500, group=Group.FIT,
                hint="Diagonal of the largest format it covers, e.g. 43.3",
            )
        ),
    )  # fmt: skip
    length_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "length", fields.LENGTH, "Length from flange to front", unit="mm", low=2, high=1500, group=Group.FIT
            )
        ),
    )
    endless: bool = field(
        default=False, metadata=field_spec(tick_input("endless", "Endless ring (no end stops)", group=Group.FIT))
    )

    def __post_init__(self) -> None:
        check_limits(self)


def _read_kind(text: str) -> CameraKindId:
    if text not in set(CameraKindId):
        raise UnreadableError("kind of camera", text, "there is none of that name", "Choose one from the list")
    return CameraKindId(text)


def _read_screens(text: str) -> tuple[Screen, ...]:
    return tuple(_read_screen(part.strip()) for part in text.split(";")[:12] if part.strip())


def _read_screen(text: str) -> Screen:
    name, *rest = _parts_of_screen(text)
    stop, split, microprism = 2.8, None, None
    for part in rest:
        kind, _, value = part.rpartition(" ")
        if kind == "split":
            split = number(value, "split deviation")
        elif kind == "microprism":
            microprism = number(value, "microprism deviation")
        elif not kind:
            stop = parse_stop(value, field="screen brightness stop")
        else:
            raise UnreadableError("screens", text, "a part was not understood", f"Write it like {SCREEN_EXAMPLE}")
    return Screen(name[:40], stop, split, microprism)


def _parts_of_screen(text: str) -> list[str]:
    """Split off the parts at the end that are a stop or a prism; what stands before, commas and all, is the name."""
    parts = [part.strip() for part in text.split(",")]
    first = next((at for at, part in enumerate(parts) if at and _SCREEN_PART.fullmatch(part)), len(parts))
    return [", ".join(parts[:first]), *parts[first:]]


def _screen_text(screen: Screen) -> str:
    parts = [screen.name, f"{screen.stop:g}"]
    if screen.split_deg is not None:
        parts.append(f"split {screen.split_deg:g}")
    if screen.microprism_deg is not None:
        parts.append(f"microprism {screen.microprism_deg:g}")
    return ", ".join(parts)


def _check(field: str, value: float | None, low: float, high: float) -> None:
    if value is not None and not low <= value <= high:
        raise OutOfRangeError(field, f"{value:g}", "out of range", f"Write {low:g} to {high:g}")
