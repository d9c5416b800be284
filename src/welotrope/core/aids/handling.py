"""What no single aid decides: recompose or not, tripod, open or stopped down, which screen, ring or body."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from welotrope.core.aids.focus_then_zoom import focus_then_zoom
from welotrope.core.aids.situation import Situation
from welotrope.core.kit.aids.constants import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.sight import PLACE_SHARES, FramePlace, Light, Lines
from welotrope.core.kit.mount import Known
from welotrope.core.kit.traits import Screen
from welotrope.core.optics.depth import sharp_limits
from welotrope.core.optics.thin_lens import object_distance_at_extension
from welotrope.core.optics.wedge import wedge_lit
from welotrope.core.rules import Finding, Rule, findings, worded
from welotrope.core.units.distance import format_metric
from welotrope.core.units.stops import format_stop


@dataclass(frozen=True)
class HandlingCase:
    """A situation, and the constants to reckon with."""

    situation: Situation
    eye: Eye = AVERAGE_EYE


def handling(situation: Situation, eye: Eye = AVERAGE_EYE) -> list[Finding]:
    """Return what the handling rules say of a situation, in the table's order."""
    return findings(HANDLING_RULES, HandlingCase(situation, eye))


def recompose_error(object_mm: float, angle_rad: float) -> float:
    """How far the plane falls behind a subject after focusing it on the axis and swinging by ``angle_rad``, mm.

    ``d·(1 − cos φ)`` with ``d`` the distance from the front principal plane.

    Examples
    --------
    >>> import math
    >>> round(recompose_error(2000, math.radians(15)), 1)
    68.1
    """
    return object_mm * (1 - math.cos(angle_rad))


def swing_angle(situation: Situation) -> float:
    """Return the angle to the subject's place in the frame, radians."""
    image = situation.setup.body.image
    off_axis = PLACE_SHARES[situation.target.place] * math.hypot(image.width_mm, image.height_mm) / 2
    sight = situation.sight
    return math.atan2(off_axis, sight.focal_mm + max(sight.focus_x, 0.0))


def near_room(situation: Situation) -> float:
    """How far a subject may come nearer than the plane before it is soft, mm; infinite at infinity."""
    sight = situation.sight
    limits = sharp_limits(sight.focus_x, sight.focal_mm, sight.stop, sight.blur_mm)
    near = float(object_distance_at_extension(limits.near_x, sight.focal_mm))
    return sight.object_mm - near


def _recompose(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    if situation.target.place is FramePlace.CENTRE or math.isinf(situation.sight.object_mm):
        return None
    error = recompose_error(situation.sight.object_mm, swing_angle(situation))
    room = near_room(situation)
    figures = f"Swinging back puts the plane {format_metric(error)} behind; {format_metric(room)} is what you have."
    if error <= room:
        return "Focus in the centre and recompose", figures
    return "Do not focus and recompose: move the focusing area to the subject, or focus where it sits", figures


def _sway(situation: Situation, eye: Eye) -> tuple[str, str] | None:
    room = near_room(situation)
    if situation.target.tripod or room >= eye["body_sway"]:
        return None
    figures = f"You sway about {eye['body_sway']:g} mm standing; {room:.1f} mm is what the stop forgives."
    if room < eye["kneeling_sway"]:
        return "Use a tripod with a rail: leaning alone will not hold the plane", figures
    return "Use a tripod, or lean on something and shoot a few while swaying through", figures


def _open_or_taking(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    setup, stop = situation.setup, situation.stop
    widest = setup.lens.widest
    if stop <= widest * 1.05:
        return None
    shift = setup.shift_deg(stop) - setup.shift_deg(widest)
    window = situation.sight.window_deg
    if setup.records.shift is None:
        return (
            f"Focus at {format_stop(widest)} and stop down, unless this lens shifts: try it once in Scale",
            "Open is thin and easy to see; a shift would put the plane off.",
        )
    if abs(shift) < 0.1 * window:
        return f"Focus at {format_stop(widest)}, then stop down", "Your trials found no shift worth the name."
    way = "nearer" if shift > 0 else "farther"
    return (
        f"Focus at {format_stop(widest)}, then turn {abs(shift):.1f}° {way} for {format_stop(stop)}",
        f"Your trials found that shift; the window is {window:.1f}°. Or focus at {format_stop(stop)} as it is.",
    )


def _screen(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    screens = situation.setup.body.traits.screens
    if len(screens) < 2:
        return None
    best = max(screens, key=lambda screen: _suits(screen, situation))
    return f"Of its screens, {best.name} suits this best", _screen_reason(best, situation)


def _lit(deviation_deg: float | None, situation: Situation) -> bool:
    sight = situation.sight
    return deviation_deg is not None and wedge_lit(deviation_deg, sight.view_stop, sight.magnification)


def _suits(screen: Screen, situation: Situation) -> float:
    """Score a screen: fine prisms that stay lit, a line for the split, and light for the matte."""
    N, target = situation.view_stop, situation.target
    score = 0.0
    if _lit(screen.split_deg, situation) and target.lines is not Lines.NONE:
        score += 3 if situation.setup.lens.focal_mm <= 60 else 1.5
    if _lit(screen.microprism_deg, situation):
        score += 1.5 if target.lines is not Lines.NONE else 2.5
    if target.light in (Light.DIM, Light.DARK) or N > 4:
        score += screen.stop / 2.8
    elif not (screen.split_deg or screen.microprism_deg):
        score += 4 / screen.stop if N < 2.8 or situation.setup.lens.focal_mm > 100 else 0.5
    if N > 4 and (screen.split_deg or screen.microprism_deg):
        score -= 1  # dark prisms stand in the way
    return score


def _screen_reason(screen: Screen, situation: Situation) -> str:
    N = situation.view_stop
    no_line = situation.target.lines is Lines.NONE
    if _lit(screen.split_deg, situation) and not no_line:
        return f"Its split stays lit at {format_stop(N)} and is the finest there is on a screen."
    if _lit(screen.microprism_deg, situation):
        return f"Its microprism stays lit at {format_stop(N)} and needs no line."
    depth = format_stop(screen.stop)
    if _lit(screen.split_deg, situation):
        return f"There is no line for a split; round it the screen shows depth down to {depth}."
    return f"No prism stays lit at {format_stop(N)}; it is clear all over and shows depth down to {depth}."


def _moving(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    if not situation.target.moving:
        return None
    return "Set a trap: pre-focus where it will be, wait, fire, re-set closer", "A ring cannot be chased by eye."


def _stars(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    if situation.target.light is not Light.DARK or not math.isinf(situation.sight.object_mm):
        return None
    return (
        "Do not trust the infinity stop: magnify a bright star, turn until smallest, pass it and come back",
        "Shoot a test and check it magnified. Know the place, carry a light, do not go alone.",
    )


def _zoom(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    setup = situation.setup
    if setup.is_long:
        return None
    zoom, here, long = setup.lens.zoom, f"{setup.marked_mm:g} mm", f"{setup.zoom_marks[-1]:g} mm"
    subject = float(setup.ring(situation.stop).distance_at_angle(situation.angle_deg))
    found = focus_then_zoom(setup, situation.stop, max(subject, setup.zoomed(None).ring().closest_mm))
    if zoom.parfocal is Known.NO and not zoom.tried:
        return (
            f"Zoom to {here} first, then focus",
            "The lens does not keep its focus, and by how much was not tried: focus at the long end, zoom, focus again,"
            " and enter both readings on its page.",
        )
    plane = f"Zoomed to {here} the plane lies at {format_metric(found.plane_mm)}"
    if not found.holds:
        from_stop = f"from {format_stop(found.holds_from)} it would do" if found.holds_from else "no stop forgives that"
        return (
            f"Zoom to {here} first, then focus",
            f"Focused at {long} it would be off. {plane}; {from_stop}.",
        )
    gain = f"A slip of the ring there blurs {found.finer:.1f} times less here. {plane}."
    unsure = "" if found.known else " That the lens keeps its focus is not known: try it once at both ends."
    return f"Focus at {long}, then zoom to {here}", gain + unsure


def _rule(
    id: str, says: Callable[[Situation, Eye], tuple[str, str] | None], when: str, source: str
) -> Rule[HandlingCase]:
    return Rule(id=id, when=when, says=worded(lambda case: says(case.situation, case.eye)), source=source)


HANDLING_RULES: tuple[Rule[HandlingCase], ...] = (
    _rule("recompose", _recompose, "the subject is not in the middle, and nearer than infinity",
          "swinging the camera moves the plane by d·(1 − cos φ)"),
    _rule("sway", _sway, "a standing body sways more than the stop forgives", "a body is never still"),
    _rule("open-or-taking", _open_or_taking, "the taking stop is not the widest",
          "some lenses shift focus as they stop down"),
    _rule("focus-then-zoom", _zoom, "the lens zooms and is not at its long end",
          "the ring is finest to judge at the long end, if the lens keeps its focus on this adapter"),
    _rule("screen", _screen, "the body can take more than one screen",
          "prisms go dark with slow lenses; bright screens hide thin depth"),
    _rule("trap", _moving, "the subject moves", "a moving subject meets a plane that waits"),
    _rule("stars", _stars, "it is dark and the subject at infinity", "infinity is where the stars are smallest"),
)  # fmt: skip
