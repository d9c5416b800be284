"""A camera body: its picture format and the focusing aids it offers."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

from welotrope.core import fields
from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.kit.mount import Mount
from welotrope.core.kit.traits import WITHOUT_GLASS, BodyTraits, Screen
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.units.text import check_name, check_text


@dataclass(frozen=True)
class MatteScreen:
    """A ground or finely patterned screen behind an eyepiece.

    Parameters
    ----------
    finder_magnification
        As quoted with a 50 mm lens at infinity, 0.2 to 3.
    screen_stop
        Stop below which the screen shows no shallower depth; about 2.8 for bright screens.
    """

    finder_magnification: float
    screen_stop: float = 2.8


@dataclass(frozen=True)
class SplitImage:
    """Two opposed prisms in a screen; ``deviation_deg`` is the angle each bends light, 2° to 20°."""

    finder_magnification: float
    deviation_deg: float = 6.5


@dataclass(frozen=True)
class Microprism:
    """A patch or collar of small prisms in a screen that shimmers until sharp; ``prism_deg`` bends light, 2° to 20°."""

    finder_magnification: float
    prism_deg: float = 5.0

    @property
    def deviation_deg(self) -> float:
        """The same as a split image calls it; the field is named apart so that files can tell the two."""
        return self.prism_deg


@dataclass(frozen=True)
class RangefinderPatch:
    """Two pictures laid over each other by a coupled rangefinder.

    Parameters
    ----------
    base_mm
        Distance between its windows, 5 to 200 mm.
    finder_magnification
        Of its finder, 0.2 to 3.
    reads_mm
        Where its pictures coincide on the scale for a subject at 2 m, mm; 2000 when in adjustment.
    """

    base_mm: float
    finder_magnification: float
    reads_mm: float = 2000.0


@dataclass(frozen=True)
class Confirmation:
    """An electronic focus indicator that works through a base of ``base_stop``."""

    base_stop: float = 5.6


@dataclass(frozen=True)
class MagnifiedView:
    """A live picture enlarged in steps.

    Parameters
    ----------
    display_px
        Picture width on the display, in display pixels, when the whole frame is shown.
    steps
        Magnifications over the whole-frame view, such as (6, 12); 1 to 60.
    """

    display_px: int
    steps: tuple[float, ...]


@dataclass(frozen=True)
class PeakingLevel:
    """A peaking sensitivity: its name on the body and its threshold in contrast per display pixel."""

    name: str
    threshold_per_px: float


@dataclass(frozen=True)
class Peaking:
    """Edges lit on the display where the picture changes steeply."""

    display_px: int
    levels: tuple[PeakingLevel, ...]


# Every kind of aid by the name it is stored under: the one list of them.
AID_KINDS: dict[str, type[Any]] = {
    "matte": MatteScreen, "split_image": SplitImage, "microprism": Microprism, "rangefinder": RangefinderPatch,
    "confirmation": Confirmation, "magnified": MagnifiedView, "peaking": Peaking,
}  # fmt: skip
Aid = MatteScreen | SplitImage | Microprism | RangefinderPatch | Confirmation | MagnifiedView | Peaking


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

    name: str
    image: ImageFormat
    aids: tuple[Aid, ...] = field(default=())
    mount: Mount | None = None
    traits: BodyTraits = field(default_factory=BodyTraits)

    def __post_init__(self) -> None:
        check_name(self.name, fields.BODY_NAME)
        for aid in self.aids:
            _check_aid(aid)
            if self.is_film and isinstance(aid, MagnifiedView | Peaking):
                raise ConflictError(
                    "focusing aids", "live view or peaking", "film gives no live picture",
                    "Give the pixels across the sensor, or leave these aids out",
                )  # fmt: skip

    @property
    def shown_aids(self) -> tuple[Aid, ...]:
        """The aids one can see: an electronic finder, a rear screen and zone focusing have no screen of glass."""
        if self.traits.finder not in WITHOUT_GLASS:
            return self.aids
        return tuple(aid for aid in self.aids if not isinstance(aid, MatteScreen | SplitImage | Microprism))

    @property
    def is_film(self) -> bool:
        """Whether the picture falls on film."""
        return self.image.width_px is None


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
    new: list[Aid] = [MatteScreen(finder.finder_magnification, screen.stop)]
    if screen.split_deg is not None:
        new.append(SplitImage(finder.finder_magnification, screen.split_deg))
    if screen.microprism_deg is not None:
        new.append(Microprism(finder.finder_magnification, screen.microprism_deg))
    kept = [aid for aid in body.aids if not isinstance(aid, MatteScreen | SplitImage | Microprism)]
    return replace(body, aids=(*new, *kept))


def _check_aid(aid: Aid) -> None:
    if isinstance(aid, MatteScreen | SplitImage | Microprism | RangefinderPatch):
        _within(fields.FINDER_MAGNIFICATION, aid.finder_magnification, 0.2, 3)
    if isinstance(aid, MatteScreen):
        _within(fields.SCREEN_STOP, aid.screen_stop, 0.7, 8)
    elif isinstance(aid, SplitImage | Microprism):
        _within(fields.PRISM, aid.deviation_deg, 2, 20)
    elif isinstance(aid, RangefinderPatch):
        _within(fields.RANGEFINDER_BASE, aid.base_mm, 5, 200)
        _within(fields.RANGEFINDER_READS, aid.reads_mm / 1000, 1, 10)
    elif isinstance(aid, Confirmation):
        _within(fields.INDICATOR_STOP, aid.base_stop, 1, 16)
    else:
        _within(fields.DISPLAY_PX, aid.display_px, 160, 10_000)
    if isinstance(aid, MagnifiedView):
        _within("number of magnification steps", len(aid.steps), 1, 12)
        for step in aid.steps:
            _within(fields.MAGNIFY_STEP, step, 1, 60)
    elif isinstance(aid, Peaking):
        _within("number of peaking levels", len(aid.levels), 1, 8)
        for level in aid.levels:
            check_text(level.name, fields.PEAKING_LEVEL, 20)
            _within(fields.PEAKING_LEVEL, level.threshold_per_px, 0.001, 10)


def _within(field_name: str, value: float, low: float, high: float) -> None:
    if not low <= value <= high:
        raise OutOfRangeError(field_name, f"{value:g}", "out of range", f"Write {low:g} to {high:g}")
