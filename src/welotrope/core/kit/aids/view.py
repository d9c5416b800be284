"""What an aid shows in the simulated finder, as parts that the finder knows how to draw.

A part is data: what it is and its figures. The finder draws it, tells how finely it shows focus, and how far the ring
may turn from one frame to the next.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

Aids = Mapping[str, Any]  # the aids of the body, by tag of their kind


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
