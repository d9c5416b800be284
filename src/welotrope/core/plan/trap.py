"""A trap: focus where the subject will be, wait, press. Only the part of its speed along the axis counts."""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.errors import OutOfRangeError
from welotrope.core.exposure.motion import check_path, check_speed
from welotrope.core.hand.skill_estimate import DrawnSkill
from welotrope.core.optics.elementwise import FloatArray
from welotrope.core.stats import Proportion

LEAST_CLOSING = 1e-4
MOST_RATE = 240.0
_HANDS, _RUNS = 200, 250
BoolArray = NDArray[np.bool_]


def closing_speed(speed: float, angle_deg: float) -> float:
    """Return the part of a speed, m/s, that closes the distance, for a path at ``angle_deg`` to the axis.

    Parameters
    ----------
    speed
        Speed in m/s, 0 to 400.
    angle_deg
        Angle of the ring in degrees from its infinity stop.

    Raises
    ------
    OutOfRangeError
        When speed or angle is out of range, or nothing closes: the subject stays at one distance.

    Examples
    --------
    >>> round(closing_speed(3, 60), 6)
    1.5
    """
    closing = check_speed(speed) * math.cos(math.radians(check_path(angle_deg)))
    if closing < LEAST_CLOSING:
        read = f"{speed:g} m/s at {angle_deg:g}°"
        raise OutOfRangeError(
            "speed", read, "the subject comes no nearer, so it is sharp all the time it is in the zone",
            "Set its distance, and take the shutter from its movement across",
        )  # fmt: skip
    return closing


@dataclass(frozen=True, kw_only=True)
class Trap:
    """A zone a subject passes through.

    Parameters
    ----------
    focus_mm, near_mm, far_mm
        Plane and limits; the far one may be infinite.
    speed, angle_deg
        m/s, and degrees between path and axis.
    receding
        Whether it goes away instead of coming.
    rate
        Frames a second, more than 0 to 240.
    reaction_s, lag_s
        From seeing to pressing, and from pressing to the shutter, s.
    far_vergence
        Reciprocal distance of the far limit, 1/mm, negative past infinity; None takes that of ``far_mm``.
    """

    focus_mm: float
    near_mm: float
    far_mm: float
    speed: float
    angle_deg: float = 0.0
    receding: bool = False
    rate: float = 8.0
    reaction_s: float = 0.25
    lag_s: float = 0.06
    far_vergence: float | None = None

    def __post_init__(self) -> None:
        closing_speed(self.speed, self.angle_deg)
        if not 0 < self.rate <= MOST_RATE:
            raise OutOfRangeError("burst rate", f"{self.rate:g}", "out of range", f"Write up to {MOST_RATE:g} a second")
        for name, value in (("reaction", self.reaction_s), ("release lag", self.lag_s)):
            if not 0 <= value <= 5:
                raise OutOfRangeError(name, f"{value:g} s", "out of range", "Write 0 to 5 s")

    @property
    def mm_per_s(self) -> float:
        """Speed along the axis, mm/s, positive towards the camera."""
        along = closing_speed(self.speed, self.angle_deg) * 1000
        return -along if self.receding else along

    @property
    def time_in_zone_s(self) -> float:
        """How long it stays in the zone, s; infinite when that has no end."""
        return (self.far_mm - self.near_mm) / abs(self.mm_per_s)

    @property
    def frames(self) -> float:
        """Frames expected while it is there, a pure number, not rounded."""
        return self.rate * self.time_in_zone_s

    @property
    def early_s(self) -> float:
        """How long before the frame one decides to press, s."""
        return self.reaction_s + self.lag_s

    @property
    def press_at_mm(self) -> float:
        """Where it is, mm, when one decides on a single frame that falls at the plane of focus."""
        return self.focus_mm + self.mm_per_s * self.early_s

    @property
    def is_in_view(self) -> bool:
        """Whether the subject stands before the camera when one must press; going away it may still be behind it."""
        return self.press_at_mm > 0

    @property
    def sharp_vergences(self) -> tuple[float, float]:
        """Reciprocal distances of the far and the near limit, 1/mm."""
        far = self.far_vergence
        if far is None:
            far = 0.0 if math.isinf(self.far_mm) else 1 / self.far_mm
        return far, 1 / self.near_mm

    @property
    def enters_mm(self) -> float:
        """Where it enters the zone, mm."""
        return self.near_mm if self.receding else self.far_mm

    @property
    def burst_from_mm(self) -> float:
        """Where it is, mm, when one decides on a burst whose first frame falls as it enters the zone."""
        return self.enters_mm + self.mm_per_s * self.early_s

    def seconds_to(self, distance_mm: float) -> float:
        """When it is at a distance, s from passing the plane of focus; negative before that."""
        return (self.focus_mm - distance_mm) / self.mm_per_s


@dataclass(frozen=True, kw_only=True)
class TrapHand:
    """How one presses: median reaction and its spread, s, from so many presses; share by which speed is misjudged.

    ``presses`` 0 stands for figures of people in general. ``placed`` are hands that may have set the ring, bias and
    spread in half windows; empty for a ring that stands where it was meant to. ``focusing`` is the chance that it was
    set at all, and was no slip.
    """

    reaction_s: float
    spread_s: float
    presses: int = 0
    speed_share: float = 0.15
    placed: tuple[DrawnSkill, ...] = ()
    focusing: float = 1.0


@dataclass(frozen=True)
class TrapChances:
    """Chance of a sharp frame, pressing once and holding for a burst, each with its 95 % interval."""

    single: Proportion
    burst: Proportion


@functools.lru_cache(maxsize=64)
def trap_chances(trap: Trap, hand: TrapHand, *, burst_s: float = 1.0, seed: int = 20_260_314) -> TrapChances:
    """Return the chance of a sharp frame by simulation.

    The subject is decided on at its place in the plan; the press comes a reaction later, and it goes at its own speed.
    200 hands that the known presses could belong to take 250 runs each: the mean over all is the chance, and what 95 %
    of the hands fall within its interval.

    Parameters
    ----------
    trap
        As planned, its reaction and speed being the expected ones.
    hand
        How steady the press is, s, and how well speed is judged.
    burst_s
        How long the release is held, s.
    seed
        Of the random numbers.

    Examples
    --------
    >>> wide = Trap(focus_mm=6000, near_mm=3000, far_mm=12000, speed=1.4)
    >>> trap_chances(wide, TrapHand(reaction_s=0.25, spread_s=0.05, presses=10)).single.share
    1.0
    """
    rng = np.random.default_rng(seed)
    presses = hand.presses or 6
    spread = hand.spread_s * np.sqrt((presses - 1 + 1e-9) / rng.chisquare(max(presses - 1, 1), _HANDS))[:, None]
    middle = hand.reaction_s + spread * rng.standard_normal((_HANDS, 1)) / math.sqrt(presses)
    reaction = np.maximum(middle + spread * rng.standard_normal((_HANDS, _RUNS)), 0.0)
    speed = trap.mm_per_s * np.exp(hand.speed_share * rng.standard_normal((_HANDS, _RUNS)))
    off = _off_vergence(trap, hand, rng)

    def place(decided_mm: float, after_s: FloatArray) -> FloatArray:
        return np.asarray(decided_mm - speed * after_s)

    def sharp(at: FloatArray) -> BoolArray:
        # The window moves as one in image space, which far from life size goes with the reciprocal distance.
        with np.errstate(divide="ignore"):
            vergence = 1 / at
        return np.asarray((at > 0) & (vergence >= far - off) & (vergence <= near - off))

    far, near = trap.sharp_vergences
    single = sharp(place(trap.press_at_mm, reaction + trap.lag_s))
    if math.isinf(trap.far_mm):
        return TrapChances(_over_hands(single, hand.focusing), _over_hands(single, hand.focusing))
    count = max(1, math.floor(burst_s * trap.rate))
    any_sharp = np.zeros_like(single)
    for frame in range(count):
        any_sharp |= sharp(place(trap.burst_from_mm, reaction + trap.lag_s + frame / trap.rate))
    return TrapChances(_over_hands(single, hand.focusing), _over_hands(any_sharp, hand.focusing))


def _off_vergence(trap: Trap, hand: TrapHand, rng: np.random.Generator) -> FloatArray:
    """Return by how much the window lies too far off in each run, as the ring was set, 1/mm."""
    if not hand.placed:
        return np.zeros((_HANDS, 1))
    held = np.array([(one.bias_z, one.spread_z, one.heavy) for one in hand.placed])
    bias, spread, heavy = (column[:, None] for column in held[rng.integers(0, len(held), _HANDS)].T)
    misses = np.where(heavy > 0, rng.standard_t(3, (_HANDS, _RUNS)), rng.standard_normal((_HANDS, _RUNS)))
    far, near = trap.sharp_vergences
    found: FloatArray = (bias + spread * misses) * (near - far) / 2
    return found


def _over_hands(sharp: BoolArray, focusing: float) -> Proportion:
    shares = sharp.mean(axis=1) * focusing
    low, high = (float(value) for value in np.percentile(shares, [2.5, 97.5]))
    share = float(shares.mean())
    return Proportion(share, min(low, share), max(high, share))
