"""What a kind of focusing aid declares: its record, its inputs, its δ, its rules and what it shows in the finder.

Form, stored body, kit file, aids API and Practice are made from the declarations; nothing else lists the kinds.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from welotrope.core.errors import ConflictError
from welotrope.core.hand.evidence import ShownBy
from welotrope.core.inputs import Input, Text
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.viewing_optics import Detail, LightLevel, Sensor, Target, ViewingOptics
from welotrope.core.rules import Rule

Aids = Mapping[str, Any]  # the aids of the body, by tag of their kind
SET, TURN, FAIL = "set", "turn", "fail"  # how to set it, how to turn with it, why it does not work


class Through(StrEnum):
    """What the picture is seen through."""

    SCREEN = "screen"  # a screen of glass behind the lens
    PLAIN = "plain"  # a finder of its own, sharp at every distance
    DISPLAY = "display"  # a live picture


@dataclass(frozen=True)
class Split:
    """Two halves in the middle of a screen that part; the split runs at ``along_deg`` from level."""

    deviation_deg: float
    along_deg: float = 0.0


@dataclass(frozen=True)
class Prisms:
    """A patch of small prisms that shimmers; a ``collar`` leaves the middle free."""

    deviation_deg: float
    collar: bool = False


@dataclass(frozen=True)
class Patch:
    """A second picture laid over the first by a base of ``base_mm``; it coincides at ``reads_mm`` for 2 m."""

    base_mm: float
    reads_mm: float


@dataclass(frozen=True)
class Indicator:
    """A mark under the picture, lit while focus is within the reach of a base of ``base_stop``."""

    base_stop: float


@dataclass(frozen=True)
class Lit:
    """Edges lit at levels, as pairs of name and threshold per display pixel."""

    levels: tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class Needle:
    """A bar under the picture, as long as it is sharp: half at a blur of ``half_px`` of its pixels."""

    half_px: float = 3.0


Part = Split | Prisms | Patch | Indicator | Lit | Needle


@dataclass(frozen=True, kw_only=True)
class FinderScene:
    """What is looked at.

    Parameters
    ----------
    through
        What the picture is seen through.
    screen_stop
        Stop below which it shows no thinner depth.
    finder_magnification
        Of an optical finder, with a 50 mm lens at infinity; None where it has none of its own.
    parts
        What is drawn in it, the one focus is judged by first; without one it is judged by blur.
    display_px, steps
        Pixels across a display, and its magnifications over the whole frame.
    """

    through: Through = Through.SCREEN
    screen_stop: float = 0.0
    finder_magnification: float | None = None
    parts: tuple[Part, ...] = ()
    display_px: int = 1280
    steps: tuple[float, ...] = ()


@dataclass(frozen=True, kw_only=True)
class FinderView:
    """A way an aid is looked through.

    Parameters
    ----------
    key, name
        Key rounds are asked for by, and its name.
    seen
        What is looked at, from the aids of the body.
    with_tags
        Further kinds a body must have for it.
    """

    key: str
    name: str
    seen: Callable[[Aids], FinderScene]
    with_tags: tuple[str, ...] = ()


Chosen = Mapping[str, Any]  # what was typed or chosen of an aid, by the name of its input


@dataclass(frozen=True)
class AidRecord:
    """A focusing aid of a body: what of it is known."""


@dataclass(frozen=True, kw_only=True)
class AidJudgement:
    """What the model of an aid gives.

    Parameters
    ----------
    defocus_mm
        One-sided just-noticeable defocus δ in image space, mm; None when it shows nothing here.
    label
        Where what was chosen belongs to its name, such as a magnification; '' for the kind's own.
    bias_mm
        What it is always off one way, mm in image space, positive behind.
    chosen
        What was chosen to get it, as fields of :class:`Case`.
    """

    defocus_mm: float | None
    label: str = ""
    bias_mm: float = 0.0
    chosen: Chosen = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class Case:
    """An aid in a situation, with what its model found.

    ``defocus_mm`` is None when it shows nothing; ``resolves`` whether it stays within the window; ``step`` and
    ``level`` are what was chosen of a magnifier and of peaking; ``bias_mm`` what is always off one way.
    """

    aid: Any
    sight: ViewingOptics
    target: Target
    defocus_mm: float | None
    resolves: bool = False
    step: float | None = None
    finer_step: float | None = None
    finer_gains: bool = False
    level: str = ""
    bias_mm: float = 0.0
    colours: tuple[str, ...] = ()

    @property
    def works(self) -> bool:
        """Whether it shows anything."""
        return self.defocus_mm is not None


@dataclass(frozen=True, kw_only=True)
class AidInput:
    """A number in a request to judge an aid, ``low`` to ``high`` or ``below`` it; needed without a ``usual`` one."""

    name: str
    low: float
    high: float
    usual: object = ...
    whole: bool = False
    below: bool = False


def positive(name: str, *, usual: object = ...) -> AidInput:
    """Return the request for a positive number; finer or coarser than this nothing exists.

    Parameters
    ----------
    name
        Name of the input in its form.
    usual
        What is taken where nothing is typed.
    """
    return AidInput(name=name, low=1e-4, high=1e6, below=True, usual=usual)


@dataclass(frozen=True, kw_only=True)
class AskedAid:
    """An aid as a request describes it: the record, the sensor under it, and what it says of lens and subject."""

    aid: AidRecord
    sensor: Sensor | None = None
    lens_blur_mm: float | None = None
    constants: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class AidKind:
    """A kind of aid.

    Parameters
    ----------
    tag, label
        Key it is stored under, and its name.
    record
        Dataclass of what is known of one.
    by
        What it shows focus by, from which follows what can leave it off.
    inputs
        What the form of a body asks of it; an input that two kinds share is asked once.
    made
        Values of the inputs (by name; None where nothing was written) to a record, or None when the body has none.
    texts
        A record as texts of the inputs.
    asked, request
        What a request to judge it gives, and those numbers as a record.
    judges
        Its model: record, sight, target, sensor (None without one) and constants to δ.
    rules
        Its sentences; ``topic`` is one of ``set``, ``turn`` and ``fail``.
    views
        What it shows in the finder, from the aids of the body.
    glass
        Whether it is part of a screen of glass, which electronic finders and rear screens have not.
    live
        Whether it needs a live picture, which film has not.
    about
        One sentence for the API.
    """

    tag: str
    label: str
    about: str
    record: type[AidRecord]
    by: ShownBy
    inputs: tuple[Input, ...] = ()
    made: Callable[[Mapping[str, object]], AidRecord | None] = lambda _values: None
    texts: Callable[..., dict[str, Text]] = lambda _aid: {}
    asked: tuple[AidInput, ...] = ()
    request: Callable[[Chosen], AskedAid]
    judges: Callable[..., AidJudgement]
    rules: tuple[Rule[Case], ...] = ()
    views: tuple[FinderView, ...] = ()
    glass: bool = False
    live: bool = False


def eye_factor(target: Target, eye: Eye, *, live: bool = False) -> float:
    """How many times coarser the eye judges than in good light at a hard edge.

    Parameters
    ----------
    target
        What there is to focus on.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    live
        Whether it is judged on a live picture.
    """
    factor = eye["faint_detail"] if target.detail is Detail.FAINT else 1.0
    if live:  # a display keeps its brightness; in the dark it gets noisy
        return factor * (eye["display_noise"] if target.light is LightLevel.DARK else 1.0)
    return factor * {LightLevel.DIM: eye["dim_light"], LightLevel.DARK: eye["dark"]}.get(target.light, 1.0)


def needed(sensor: Sensor | None) -> Sensor:
    """Return the sensor; raises ConflictError when a live picture is asked for without one.

    Parameters
    ----------
    sensor
        The sensor, or None for film.
    """
    if sensor is None:
        raise ConflictError("focusing aids", "live view", "film gives no live picture", "Leave live aids out")
    return sensor
