"""What no single aid decides: recompose or not, tripod, open or stopped down, which screen, ring or body."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field

from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.recompose import near_room, recompose_error, swing_angle
from welotrope.core.kit.aids.registry import kind_of
from welotrope.core.kit.aids.scale import ScaleByEye
from welotrope.core.kit.aids.viewing_optics import FramePlace, LightLevel, Lines, Target, ViewingOptics
from welotrope.core.kit.camera_kind import Opening, Viewing
from welotrope.core.kit.mount import YesNoUnknown
from welotrope.core.kit.setup import Setup, sight_of
from welotrope.core.kit.traits import Screen
from welotrope.core.optics.wedge import wedge_lit
from welotrope.core.ring.window import ring_zone
from welotrope.core.rules import Rule, RuleFinding, findings, worded
from welotrope.core.units.distance import Unit, format_metric, format_rough
from welotrope.core.units.exposure import format_stop


@dataclass(frozen=True)
class Situation:
    """A set-up at a taking stop, a viewing stop and a ring angle (degrees), and the target."""

    setup: Setup
    stop: float
    view_stop: float
    angle_deg: float
    target: Target = field(default_factory=Target)

    @property
    def sight(self) -> ViewingOptics:
        """The optics of this situation."""
        return sight_of(self.setup, self.angle_deg, self.stop, self.view_stop)


@dataclass(frozen=True, kw_only=True)
class FocusThenZoom:
    """What focusing at the long end gives at the focal length in hand.

    Parameters
    ----------
    subject_mm, plane_mm
        The subject, and where the plane lies after zooming, mm from the film plane.
    finer
        How many times less a slip of the ring blurs here than at the long end: the square of the focal lengths.
    holds
        Whether the subject is still within the sharp range at the stop.
    holds_from
        The widest marked stop at which it is; None when it is at none.
    known
        Whether the lens is known to keep its focus: entered as parfocal, or tried at both ends.
    """

    subject_mm: float
    plane_mm: float
    finer: float
    holds: bool
    holds_from: float | None
    known: bool


def focus_then_zoom(setup: Setup, stop: float, subject_mm: float) -> FocusThenZoom:
    """Return what it gives for a subject, mm from the film plane; the set-up zooms and is not at its long end.

    Errors as ``FocusRing.check_near``.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    stop
        F-number, 0.5 to 128.
    subject_mm
        Distance of the subject in mm from the film plane; infinity allowed.
    """
    long = setup.zoomed(None)
    angle = float(long.ring().angle_at_distance(long.ring().check_near(subject_mm)))
    stops = [marked for marked in sorted(setup.lens.stops) if _within(setup, angle, marked, subject_mm)]
    return FocusThenZoom(
        subject_mm=subject_mm, plane_mm=float(setup.ring().distance_at_angle(angle)),
        finer=(long.lens.focal_mm / setup.lens.focal_mm) ** 2, holds=_within(setup, angle, stop, subject_mm),
        holds_from=stops[0] if stops else None,
        known=setup.lens.zoom.tried or setup.lens.zoom.parfocal is YesNoUnknown.YES,
    )  # fmt: skip


def _within(setup: Setup, angle_deg: float, stop: float, subject_mm: float) -> bool:
    zone = ring_zone(setup.ring(stop), angle_deg, stop, setup.blur_mm)
    return zone.near_mm <= subject_mm <= zone.far_mm


@dataclass(frozen=True)
class HandlingCase:
    """A situation, and the constants to reckon with."""

    situation: Situation
    eye: Eye = AVERAGE_EYE


def handling(situation: Situation, *, eye: Eye = AVERAGE_EYE) -> list[RuleFinding]:
    """Return what the handling rules say of a situation, in the table's order.

    Parameters
    ----------
    situation
        A set-up at a setting, and what there is to focus on.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    return findings(HANDLING_RULES, HandlingCase(situation, eye))


def _focuses(situation: Situation) -> bool:
    """Whether the camera shows focus at all, so that something can be focused on and then moved in the frame."""
    return bool(situation.setup.body.shown_aids)


def _recompose(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    sight, place = situation.sight, situation.target.place
    if place is FramePlace.CENTRE or math.isinf(sight.object_mm) or not _focuses(situation):
        return None
    error, room = recompose_error(sight.object_mm, swing_angle(sight, place)), near_room(sight)
    behind, allowed = (format_rough(mm, Unit.METRIC) for mm in (error, room))
    figures = f"Recomposing puts focus {behind} behind; {allowed} is allowed."
    if error <= room:
        return "Focus in the centre and recompose", figures
    tags = situation.setup.body.aids_by_tag
    if "magnified" in tags:
        return "Do not focus and recompose: move the magnified area to the subject", figures
    if "matte" in tags:
        return "Do not focus and recompose: focus on the screen where the subject sits", figures
    return "Do not only recompose: focus in the centre, swing, and lean back by what is lost", figures


def _sway(situation: Situation, eye: Eye) -> tuple[str, str] | None:
    room = near_room(situation.sight)
    if situation.target.tripod or room >= eye["body_sway"]:
        return None
    figures = f"You sway about {eye['body_sway']:g} mm standing; {room:.1f} mm is what the stop forgives."
    if not _focuses(situation):
        return "Use a tripod and a tape, or a smaller stop", figures
    if room < eye["kneeling_sway"]:
        return "Use a tripod with a rail: leaning alone will not hold the plane", figures
    return "Use a tripod, or lean on something and shoot a few while swaying through", figures


def _open_or_taking(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    setup, stop = situation.setup, situation.stop
    widest = setup.lens.widest
    if stop <= widest * 1.05 or not _focuses(situation):
        return None
    begin = _focused_at(setup)
    if setup.records.shift is None:
        unless = "" if setup.opens_for_focusing or not setup.body.kind.sees_focus else ", unless this lens shifts"
        why = {True: "Wide open, focus is easiest to see; with focus shift, stopping down would move it.", False: ""}[
            bool(unless)
        ]
        how = "test it once in Scale" if setup.body.kind.turns else "compare fine print at both stops once"
        tried = f"Focus shift of this lens is not known: {how}."
        return f"{begin}{unless}", f"{why} {tried}".strip()
    shift = setup.shift_deg(stop) - setup.shift_deg(widest)
    window = situation.sight.window_deg
    if abs(shift) < 0.1 * window:
        small = f"the {abs(shift):.1f}° your trials found are less than a tenth of the window of {window:.1f}°"
        return begin, f"Its focus shift may be left alone at {format_stop(stop)}: {small}."
    way = "nearer" if shift > 0 else "farther"
    otherwise = "" if setup.seen_open else f" Or focus at {format_stop(stop)} as it is."
    return (
        f"{begin}, then turn {abs(shift):.1f}° {way} for {format_stop(stop)}",
        f"Your trials found that shift; the window is {window:.1f}°.{otherwise}",
    )


def _focused_at(setup: Setup) -> str:
    """Say at which stop one focuses, and who closes the aperture after."""
    widest = format_stop(setup.lens.widest)
    if not setup.body.kind.sees_focus:
        return "Focus with the patch, whatever the stop"
    if setup.opens_for_focusing:
        return f"Focus at {widest}: the camera stops down at the release"
    if setup.seen_open and setup.body.kind.opening is not Opening.HAND:
        return "Focus as it looks: the lens you look through has no stop"
    return f"Focus at {widest} and stop down"


def _in_order(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    """Return the steps of placing the plane on a live picture from a tripod, in their order."""
    magnified = situation.setup.body.aids_by_tag.get("magnified")
    if magnified is None or not situation.target.tripod or situation.target.moving:
        return None
    widest, taking = format_stop(situation.setup.lens.widest), format_stop(situation.stop)
    steps = (
        f"Open to {widest}, focus roughly on the whole picture",
        f"Move the area to the subject and magnify {magnified.words(max(magnified.steps))}",
        "Turn through sharp, and come back",
        *((f"Stop down to {taking}",) if situation.stop > situation.setup.lens.widest else ()),
        "Un-magnify, self-timer, release",
        "Play it back magnified: look at the spot, then in front of it and behind",
    )
    return "In order", " ".join(f"{number}. {step}." for number, step in enumerate(steps, 1))


def _preview(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    setup, stop = situation.setup, situation.stop
    if not setup.opens_for_focusing or setup.body.kind.viewing is not Viewing.TAKING_LENS or stop <= setup.lens.widest:
        return None
    matte = setup.body.aids_by_tag.get("matte")
    least = max(matte.screen_stop if matte else setup.lens.widest, setup.lens.widest)
    shown = f"The finder shows the depth of {format_stop(least)}, not that of {format_stop(stop)}."
    return "Press the depth preview to see the depth, not to focus", f"{shown} Stopped down it is dark."


def _covers_guess(situation: Situation, eye: Eye) -> tuple[str, str] | None:
    """Say which stop covers a judged distance, where nothing shows focus."""
    setup, sight = situation.setup, situation.sight
    if _focuses(situation):
        return None
    share = eye["distance_guess"]
    covering = [stop for stop in sorted(setup.lens.stops) if _guess_fits(setup, situation.angle_deg, stop, eye)]
    how = "Pace or tape the distance, or measure it with an accessory rangefinder"
    if math.isinf(sight.object_mm):
        return None
    if not covering:
        return how, f"No stop covers a guess that is out by {share:.0%} here."
    at = format_stop(covering[0])
    if covering[0] <= situation.stop:
        return "A guess will do", f"From {at} on the depth covers one that is out by {share:.0%}."
    return f"{how}; or stop down to {at}", f"From there on the depth covers a guess that is out by {share:.0%}."


def _guess_fits(setup: Setup, angle_deg: float, stop: float, eye: Eye) -> bool:
    sight = sight_of(setup, angle_deg, stop, setup.view_stop(stop))
    judged = kind_of(ScaleByEye()).judges(ScaleByEye(), sight, Target(), None, eye)
    return judged.defocus_mm is not None and judged.defocus_mm <= sight.half_window_mm


def _screen(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    screens = situation.setup.body.traits.screens
    if len(screens) < 2:
        return None
    best = max(screens, key=lambda screen: _suits(screen, situation))
    return f"Of its screens, {best.name} suits this best", _screen_reason(best, situation)


def _lit(deviation_deg: float | None, situation: Situation) -> bool:
    sight = situation.sight
    return deviation_deg is not None and wedge_lit(deviation_deg, sight.view_stop, m=sight.magnification)


def _suits(screen: Screen, situation: Situation) -> float:
    """Score a screen: fine prisms that stay lit, a line for the split, and light for the matte."""
    N, target = situation.view_stop, situation.target
    score = 0.0
    if _lit(screen.split_deg, situation) and target.lines is not Lines.NONE:
        score += 3 if situation.setup.lens.focal_mm <= 60 else 1.5
    if _lit(screen.microprism_deg, situation):
        score += 1.5 if target.lines is not Lines.NONE else 2.5
    if target.light in (LightLevel.DIM, LightLevel.DARK) or N > 4:
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
    if situation.target.light is not LightLevel.DARK or not math.isinf(situation.sight.object_mm):
        return None
    tags = situation.setup.body.aids_by_tag
    if "magnified" in tags:
        look = "magnify a bright star, turn until it is smallest, pass it and come back"
    elif situation.setup.body.kind.sees_focus:
        look = "turn until a bright star is smallest on the screen, pass it and come back"
    else:
        look = "sight it by day, mark the ring, and take a frame either side of the mark"
    return (
        f"Do not trust the infinity stop: {look}",
        "Look at a test frame enlarged. Know the place, carry a light, do not go alone.",
    )


def _zoom(situation: Situation, _eye: Eye) -> tuple[str, str] | None:
    setup = situation.setup
    if setup.is_long:
        return None
    zoom, here, long = setup.lens.zoom, f"{setup.marked_mm:g} mm", f"{setup.zoom_marks[-1]:g} mm"
    subject = float(setup.ring(situation.stop).distance_at_angle(situation.angle_deg))
    found = focus_then_zoom(setup, situation.stop, max(subject, setup.zoomed(None).ring().closest_mm))
    if zoom.parfocal is YesNoUnknown.NO and not zoom.tried:
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
    _rule("in-order", _in_order, "a still subject, a tripod and a magnified view",
          "each step undone costs the one before"),
    _rule("depth-preview", _preview, "the body holds the aperture open until the release",
          "a finder seen wide open does not show the depth of the picture"),
    _rule("covers-guess", _covers_guess, "nothing on the camera shows focus",
          "a zone that is wider than the guess is wrong forgives it"),
    _rule("screen", _screen, "the body can take more than one screen",
          "prisms go dark with slow lenses; bright screens hide thin depth"),
    _rule("trap", _moving, "the subject moves", "a moving subject meets a plane that waits"),
    _rule("stars", _stars, "it is dark and the subject at infinity", "infinity is where the stars are smallest"),
)  # fmt: skip
