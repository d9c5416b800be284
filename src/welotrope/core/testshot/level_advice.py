"""What pictures of a wall say of a lens on its body, in a photographer's words."""

from __future__ import annotations

import math
from collections.abc import Iterator

from welotrope.core.testshot.wall_reading import Told, WallReading

FLANGE_MM = 50.0  # across which a wedge is said
_STRAIGHT_DEG = 0.02
_TELLING_DEG = 0.4  # half interval from which on nothing useful is known


def level_headline(found: WallReading) -> str:
    """Return in one line whether lens and film stand straight to one another."""
    if found.tilt_deg is None or found.tip_deg is None:
        return "The pictures do not tell whether the lens stands straight"
    sure = [told for told in (found.tilt_deg, found.tip_deg) if _is_sure(told)]
    if not sure:
        wide = max(abs(end) for told in (found.tilt_deg, found.tip_deg) for end in (told.low, told.high))
        if wide > _TELLING_DEG:
            return f"The pictures tell a tilt only to {wide:.1f}°: take them again"
        return f"The lens stands straight to the film, to {max(wide, _STRAIGHT_DEG):.2f}°"
    return f"The lens stands askew to the film by {math.hypot(*(told.value for told in sure)):.2f}°"


def level_sentences(found: WallReading) -> Iterator[str]:
    """Yield which side is nearer and by how much, and how to focus with such a lens."""
    if found.tilt_deg is None or found.tip_deg is None:
        return
    for told, sides in ((found.tilt_deg, ("left", "right")), (found.tip_deg, ("bottom", "top"))):
        if _is_sure(told):
            yield _nearer(told, *sides)
    yield from _what_it_does(found)
    yield from _how_to_focus(found)


def _is_sure(told: Told) -> bool:
    return told.low * told.high > 0


def _nearer(told: Told, first: str, second: str) -> str:
    """Return which side of the lens is nearer to the film.

    The picture is turned about on the film: what focuses farther on its right is imaged on the left of the camera.
    """
    side = first if told.value > 0 else second
    wedge = FLANGE_MM * math.tan(math.radians(abs(told.value)))
    low, high = sorted(FLANGE_MM * math.tan(math.radians(abs(end))) for end in (told.low, told.high))
    where = f"at its {side}" if side in ("top", "bottom") else f"on its {side}"
    return (
        f"Seen from behind the camera, the lens sits nearer to the film {where}: by {wedge:.3f} mm across "
        f"{FLANGE_MM:.0f} mm of flange ({low:.3f} to {high:.3f} mm)."
    )


def _what_it_does(found: WallReading) -> Iterator[str]:
    half = found.half_depth_mm
    if not half or found.across_mm is None or found.upright_mm is None:
        return
    edges = (
        ("left and right edge", found.across_mm, found.tilt_deg),
        ("top and bottom", found.upright_mm, found.tip_deg),
    )
    for name, told, angle in edges:
        if angle is not None and _is_sure(angle):
            off = abs(told.value) / 2 / half
            verdict = "beyond 1 they are not sharp" if off > 1 else "within 1 they stay sharp"
            yield f"Focused in the middle, {name} are {off:.1f} half windows off at this stop; {verdict}."


def _how_to_focus(found: WallReading) -> Iterator[str]:
    half, curve = found.half_depth_mm, found.curvature_mm
    if not half or curve is None:
        return
    most = max(abs(curve.low), abs(curve.high)) / half
    off = abs(curve.value) / half
    if min(abs(curve.low), abs(curve.high)) > half and _is_sure(curve):
        side = "farther away" if curve.value > 0 else "nearer"
        yield (
            f"Focus in the corners lies {side}, by {off:.1f} half windows: move the magnified area to the subject. "
            "Focusing in the middle and turning the camera would miss it."
        )
    elif most < 1:
        yield (
            f"Curvature of field stays within {most:.1f} half windows at this stop: as far as the lens goes, "
            "focusing in the middle and turning the camera is safe."
        )
    else:
        yield (
            f"Curvature of field is {off:.1f} half windows at this stop, 0 to {most:.1f} by its interval: move the "
            "magnified area to the subject where it has to be sharp."
        )
