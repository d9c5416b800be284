"""Mounts: how a lens sits on a body, how its aperture is worked and how the stop is told."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Unpack

from welotrope.core import fields
from welotrope.core.errors import Field, UnreadableError
from welotrope.core.inputs import (
    Ask,
    ChoiceOptions,
    FormInput,
    Input,
    InputOptions,
    check_limits,
    choice_input,
    field_spec,
    name_input,
    number_input,
)
from welotrope.core.units.text import check_name


class YesNoUnknown(StrEnum):
    """Yes, no, or not known: the unknown never passes as safe."""

    YES = "yes"
    NO = "no"
    UNKNOWN = "not known"


class Link(StrEnum):
    """How the aperture is actuated, or how the stop is told to the body."""

    NONE = "none"
    MECHANICAL = "mechanical"
    ELECTRONIC = "electronic"
    UNKNOWN = "not known"


def known_input(name: str, label: str, **more: Unpack[ChoiceOptions]) -> Input:
    """Return the input of a yes, a no, or not known.

    Parameters
    ----------
    name
        Name of the input in its form.
    label
        What the input is called on the page.
    **more
        Further options of the input.
    """
    return choice_input(name, label, YesNoUnknown, YesNoUnknown.UNKNOWN, **more)


def mount_input(
    *, name: str = "mount", label: str = "Mount", says: str = "mount", **more: Unpack[InputOptions]
) -> Input:
    """Return the input of a mount, chosen among those entered by its name.

    Parameters
    ----------
    name
        Name of the input in its form.
    label
        What the input is called on the page.
    says
        What the mount is called where it cannot be read.
    **more
        Further options of the input.
    """

    def read(text: str, typed: FormInput) -> object:
        mounts = typed.known.get("mounts", {})
        if text not in mounts:
            raise UnreadableError(says, text, "no such mount is known", "Choose one from the list, or add it first")
        return mounts[text]

    more.setdefault("optional", True)
    return Input(
        name=name, field=Field(name, says), label=label, ask=Ask.NAMED, things="mounts", read=read,
        write=lambda mount: mount.name if mount else "", **more,
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Mount:
    """A lens mount.

    Parameters
    ----------
    name
        What it is called.
    register_mm
        Flange (registration) distance from mount face to film plane, 1 to 200 mm; None when not known.
    throat_mm
        Inner diameter, 5 to 200 mm; None when not known.
    actuation
        How the aperture is worked by the body: none means the ring on the lens.
    stop_report
        How the stop is told to the body.
    protruding
        Whether lenses of this mount may have rear parts that stand out behind the flange.
    pin
        Whether lenses of this mount may have a pin that must be pressed for the aperture to close.
    """

    name: str = field(metadata=field_spec(name_input(fields.MOUNT_NAME)))
    register_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "register_mm", fields.REGISTER, "Flange distance", unit="mm", low=1, high=200,
                problem="no mount has that",
                hint="From the mount face to the film plane, to a hundredth. From the maker’s data",
            )
        ),
    )  # fmt: skip
    throat_mm: float | None = field(
        default=None,
        metadata=field_spec(
            number_input(
                "throat", fields.THROAT, "Throat", unit="mm", low=5, high=200, problem="no mount has that",
                hint="Inner diameter",
            )
        ),
    )  # fmt: skip
    actuation: Link = field(
        default=Link.UNKNOWN,
        metadata=field_spec(
            choice_input(
                "actuation", "The aperture is worked", Link, Link.UNKNOWN, hint="none: by the ring on the lens alone"
            )
        ),
    )
    stop_report: Link = field(
        default=Link.UNKNOWN,
        metadata=field_spec(choice_input("stop_report", "The stop is told to the body", Link, Link.UNKNOWN)),
    )
    protruding: YesNoUnknown = field(
        default=YesNoUnknown.UNKNOWN,
        metadata=field_spec(known_input("protruding", "Lenses may have parts behind the flange")),
    )
    pin: YesNoUnknown = field(
        default=YesNoUnknown.UNKNOWN, metadata=field_spec(known_input("pin", "Lenses may have an aperture pin"))
    )

    def __post_init__(self) -> None:
        check_name(self.name, fields.MOUNT_NAME)
        check_limits(self)


# Thread standards with their published registers.
STANDARD_MOUNTS = (
    Mount(
        name="M42×1",
        register_mm=45.46,
        throat_mm=42.0,
        actuation=Link.MECHANICAL,
        stop_report=Link.NONE,
        protruding=YesNoUnknown.UNKNOWN,
        pin=YesNoUnknown.UNKNOWN,
    ),
    Mount(
        name="M39×26 tpi",
        register_mm=28.8,
        throat_mm=39.0,
        actuation=Link.NONE,
        stop_report=Link.NONE,
        protruding=YesNoUnknown.UNKNOWN,
        pin=YesNoUnknown.NO,
    ),
    Mount(
        name="T2",
        register_mm=55.0,
        throat_mm=42.0,
        actuation=Link.NONE,
        stop_report=Link.NONE,
        protruding=YesNoUnknown.NO,
        pin=YesNoUnknown.NO,
    ),
    Mount(
        name="C",
        register_mm=17.526,
        throat_mm=25.4,
        actuation=Link.NONE,
        stop_report=Link.NONE,
        protruding=YesNoUnknown.UNKNOWN,
        pin=YesNoUnknown.NO,
    ),
)
