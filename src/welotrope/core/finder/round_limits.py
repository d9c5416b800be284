"""What a round needs: room on the ring to pass the subject on both sides, and a lens that the exercise is for."""

from __future__ import annotations

from welotrope.core.errors import ConflictError
from welotrope.core.kit.setup import Setup
from welotrope.core.practice.exercises import Exercise
from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.ring.window import sharp_window
from welotrope.core.units.exposure import format_stop

# Focus has to be found: begun this far off, with this much room to turn past it, in half-windows.
START_HALVES, ROOM_HALVES = 3.0, 1.5
_AT_THE_STOP_DEG = 0.1


def half_window(ring: FocusRing, angle_deg: float, stop: float, blur_mm: float) -> float:
    """Half the sharp window on the ring at an angle, degrees.

    Parameters
    ----------
    ring
        The focus ring.
    angle_deg
        Angle of the ring in degrees from its infinity stop.
    stop
        F-number, 0.5 to 128.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.
    """
    return float(sharp_window(ring, angle_deg, stop, blur_mm).width_deg) / 2


def room_to_pass(ring: FocusRing, stop: float, blur_mm: float) -> tuple[float, float]:
    """Return the ring angles between which a subject can be passed on both sides, degrees.

    Parameters
    ----------
    ring
        The focus ring.
    stop
        F-number, 0.5 to 128.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.

    Raises
    ------
    ConflictError
        When the sharp window is so wide that nothing is left between.
    """
    low = ROOM_HALVES * half_window(ring, max(ring.infinity_deg, 0.0), stop, blur_mm)
    high = ring.throw_deg - ROOM_HALVES * half_window(ring, ring.throw_deg, stop, blur_mm)
    if high - low < START_HALVES * half_window(ring, ring.throw_deg, stop, blur_mm):
        raise nothing_to_find(stop)
    return low, high


def nothing_to_find(stop: float) -> ConflictError:
    """Return the refusal of a round at this f-number, in which focus would not have to be found.

    Parameters
    ----------
    stop
        F-number, 0.5 to 128.
    """
    return ConflictError(
        "stop", format_stop(stop), "so much is sharp there that nothing has to be found, and a hit would mean nothing",
        "Open up, or select a longer or faster lens",
    )  # fmt: skip


def check_short(setup: Setup, exercise: Exercise) -> None:
    """Refuse an exercise for short lenses on a longer one.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    exercise
        The exercise.

    Raises
    ------
    ConflictError
        When the lens is longer than the exercise is for.
    """
    most, focal = exercise.longest_mm, setup.lens.focal_mm
    if most and focal > most:
        raise ConflictError(
            "exercise", exercise.title, f"it shows what a short lens makes hard, and this one has {focal:g} mm",
            f"Select a lens of {most:g} mm or shorter",
        )  # fmt: skip


def check_stars(setup: Setup, ring: FocusRing, stop: float, exercise: Exercise) -> None:
    """Refuse stars where the ring cannot be turned past them.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    ring
        The focus ring.
    stop
        F-number, 0.5 to 128.
    exercise
        The exercise.

    Raises
    ------
    ConflictError
        When infinity is not reached, or lies at the stop.
    """
    if not exercise.at_infinity:
        return
    if ring.infinity_deg < 0:
        raise ConflictError(
            "exercise", exercise.title, "this set-up does not reach infinity",
            "Choose another, or see Infinity in Scale for what would cure it",
        )  # fmt: skip
    needed = ROOM_HALVES * half_window(ring, ring.infinity_deg, stop, setup.blur_mm)
    if ring.infinity_deg < needed:
        past = (
            "as far as is known this ring stops at infinity"
            if ring.infinity_deg < _AT_THE_STOP_DEG
            else f"this ring turns {ring.infinity_deg:.1f}° past infinity and a star is sharp over {needed:.1f}°"
        )
        wider = "" if stop <= setup.lens.widest else "open up, or "
        raise ConflictError(
            "exercise", exercise.title, f"{past}, so a star cannot be passed and every round would be a hit",
            f"If it turns farther, sight infinity in Scale; or {wider}choose another exercise",
        )  # fmt: skip
