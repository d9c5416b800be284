"""The rules of the advice: each with an id, the aids it speaks of, its reason, and when it speaks.

A rule is given everything known of an aid in a situation and returns its sentence, or nothing.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from welotrope.core.aids.situation import Detail, Light, Lines, Place, Sight, Target
from welotrope.core.kit.body import (
    Aid,
    Confirmation,
    MagnifiedView,
    MatteScreen,
    Microprism,
    Peaking,
    RangefinderPatch,
    SplitImage,
)
from welotrope.core.optics import wedge
from welotrope.core.units.stops import format_stop


@dataclass(frozen=True)
class Case:
    """An aid in a situation, with what its model found.

    ``defocus_mm`` is None when it shows nothing; ``resolves`` whether it stays within the window; ``step`` and
    ``level`` are what was chosen of a magnifier and of peaking; ``bias_mm`` what is always off one way.
    """

    aid: Aid | str
    sight: Sight
    target: Target
    defocus_mm: float | None
    resolves: bool
    step: float | None = None
    finer_step: float | None = None
    finer_gains: bool = False
    level: str = ""
    bias_mm: float = 0.0
    colours: tuple[str, ...] = ()


@dataclass(frozen=True)
class Rule:
    """One rule: ``part`` is ``set`` (how to set), ``turn`` (how to turn) or ``fail`` (why it does not work)."""

    id: str
    aids: tuple[type | str, ...]
    part: str
    reason: str
    says: Callable[[Case], str | None]


@dataclass(frozen=True)
class Advice:
    """A rule's sentence."""

    rule: str
    part: str
    text: str


def advise(case: Case) -> tuple[Advice, ...]:
    """Return what every rule that concerns the aid has to say, in the table's order."""
    kind = case.aid if isinstance(case.aid, str) else type(case.aid)
    spoken = ((rule, rule.says(case)) for rule in RULES if kind in rule.aids)
    return tuple(Advice(rule.id, rule.part, text) for rule, text in spoken if text)


def wedge_lit(aid: SplitImage | Microprism, sight: Sight) -> bool:
    """Whether an aid of prisms is lit at the stop one looks through, as it works at this magnification."""
    return wedge.wedge_lit(aid.deviation_deg, sight.view_stop, sight.magnification)


def _dark_wedge(case: Case) -> str | None:
    aid, sight = case.aid, case.sight
    if not isinstance(aid, SplitImage | Microprism) or wedge_lit(aid, sight):
        return None
    marked = wedge.wedge_lit_stop(aid.deviation_deg, sight.magnification)
    seen = format_stop(sight.view_stop)
    text = f"one half goes black at {seen}" if isinstance(aid, SplitImage) else f"its prisms go dark at {seen}"
    ending = f"; it stays lit to {format_stop(marked)}" + (" so close up" if sight.magnification > 0.1 else "")
    if sight.widest <= marked:
        ending += f". Focus at {format_stop(sight.widest)}, then stop down"
    return text + ending


def _split_line(case: Case) -> str | None:
    if case.defocus_mm is None and case.target.lines is not Lines.NONE:
        return None
    return {
        Lines.ACROSS: "lay a line across the split",
        Lines.BOTH: "lay a line across the split; turn the camera if lines run along it",
        Lines.ALONG: "turn the camera 90°: the lines run along the split and would not break",
        Lines.NONE: "there is no line to break: use the matte screen around it",
    }[case.target.lines]


def _magnify(case: Case) -> str:
    words = "resolves it" if case.resolves else "the finest there is, not fine enough"
    text = f"magnify {case.step:g}×: {words}"
    if case.finer_step:
        text += f"; {case.finer_step:g}× shows {'it finer still' if case.finer_gains else 'nothing more'}"
    return text


def _peaking_level(case: Case) -> str | None:
    if case.defocus_mm is None:
        return None
    fits = case.defocus_mm <= case.sight.half_window_mm
    ending = "set the middle of the lit band" if fits else "ballpark only; finish with something finer"
    return f"level {case.level}: {ending}" if case.level else ending


def _peaking_colour(case: Case) -> str | None:
    if case.defocus_mm is None or not case.colours:
        return None
    warm = case.target.light in (Light.ROOM, Light.DIM)
    for colour in ("blue", "white", "yellow") if warm else ("red", "yellow", "white"):
        if colour in case.colours:
            why = "lamplight is warm" if warm else "daylight has little of it"
            return f"in {colour}: {why}"
    return f"in {case.colours[0]}"


def _matte_depth(case: Case) -> str | None:
    aid = case.aid
    if isinstance(aid, MatteScreen) and aid.screen_stop > case.sight.stop:
        return (
            f"shows the depth of {format_stop(aid.screen_stop)}, more than {format_stop(case.sight.stop)} will have;"
            " do not judge blur on it"
        )
    return "works anywhere on the frame; swing through sharp and come back"


def _rangefinder_reach(case: Case) -> str | None:
    aid, sight = case.aid, case.sight
    if not isinstance(aid, RangefinderPatch) or case.defocus_mm is None:
        return None
    # δ grows with f², the window with N·c: what just fits is f·√(window/δ), or N·δ/window.
    ratio = case.defocus_mm / sight.half_window_mm
    if ratio > 1:
        return (
            f"its base is too short for this: at this distance it serves {sight.focal_mm / ratio**0.5:.0f} mm at"
            f" {format_stop(sight.stop)}, or {sight.focal_mm:g} mm from {format_stop(sight.stop * ratio)}"
        )
    return f"serves up to {sight.focal_mm / ratio**0.5:.0f} mm at {format_stop(sight.stop)} here"


def _rangefinder_bias(case: Case) -> str | None:
    if not case.bias_mm:
        return None
    side, way = ("behind", "nearer") if case.bias_mm > 0 else ("in front of", "farther")
    amount = f"{abs(case.bias_mm * case.sight.degrees_per_mm):.1f}°"
    return (
        f"it is out of adjustment: left where its pictures meet, every frame falls {amount} {side} the subject; then turn"
        f" {amount} {way}, and have it adjusted by a repairer"
    )


def _confirmation_side(case: Case) -> str | None:
    if case.defocus_mm is None:
        return None
    width = 2 * case.defocus_mm * case.sight.degrees_per_mm
    return f"stays lit over {width:.1f}°: always come from the near end and stop where it lights, or halve the band"


def _confirmation_slow(case: Case) -> str | None:
    aid = case.aid
    if isinstance(aid, Confirmation) and case.sight.working_view_stop > aid.base_stop:
        return f"slower than its base {format_stop(aid.base_stop)}: may not work at all"
    return None


def _still(case: Case) -> str | None:
    return "needs a still subject: for one that moves, set a trap and un-magnify" if case.target.moving else None


def _corner(case: Case) -> str | None:
    if case.target.place is Place.CENTRE:
        return None
    return "move the magnified area to the subject rather than focus and recompose"


def _centre_only(case: Case) -> str | None:
    if case.target.place is Place.CENTRE or case.defocus_mm is None:
        return None
    return "sits in the middle of the frame: swing to the subject, focus, swing back, or use the screen around it"


def _edges_needed(case: Case) -> str | None:
    if case.defocus_mm is None:
        return "nothing lights: the lens or the subject is too soft at this stop"
    if case.target.detail in (Detail.TEXTURE, Detail.FAINT):
        return "lights only hard, contrasty edges; look over the whole frame for what does light"
    return None


def _points(case: Case) -> str | None:
    if case.target.detail is Detail.POINTS:
        return "turn until the point is smallest, pass it and come back"
    return None


def _turn(case: Case) -> str | None:
    if case.defocus_mm is None:
        return None
    return "start from infinity, turn nearer through sharp and beyond, come back to the sharpest"


RULES: tuple[Rule, ...] = (
    Rule("dark-wedge", (SplitImage, Microprism), "fail", "a prism bends the cone of a slow lens past the eye", _dark_wedge),
    Rule("split-needs-line", (SplitImage,), "set", "halves part only where a line crosses the split", _split_line),
    Rule("prism-shimmer", (Microprism,), "turn", "prisms need detail, not lines",
         lambda case: "turn until the shimmer stops; no line is needed" if case.defocus_mm is not None else None),
    Rule("prisms-centre", (SplitImage, Microprism, RangefinderPatch), "set", "the patch does not move", _centre_only),
    Rule("matte-depth", (MatteScreen,), "set", "a bright screen passes only the narrow middle of a fast cone", _matte_depth),
    Rule("least-magnification", (MagnifiedView,), "set", "past sensor pixels nothing is gained", _magnify),
    Rule("magnify-area", (MagnifiedView,), "set", "swinging the camera moves the plane off the subject", _corner),
    Rule("magnify-still", (MagnifiedView,), "fail", "a magnified picture loses what moves", _still),
    Rule("peaking-level", (Peaking,), "set", "a lower level lights a thinner band", _peaking_level),
    Rule("peaking-colour", (Peaking,), "set", "a colour the scene has little of stands out", _peaking_colour),
    Rule("peaking-edges", (Peaking,), "fail", "an edge lights by how steeply it changes", _edges_needed),
    Rule("rangefinder-reach", (RangefinderPatch,), "set", "its error grows with the square of the focal length",
         _rangefinder_reach),
    Rule("rangefinder-bias", (RangefinderPatch,), "turn", "a rangefinder out of adjustment misses on one side",
         _rangefinder_bias),
    Rule("confirmation-side", (Confirmation,), "turn", "it has dead travel", _confirmation_side),
    Rule("confirmation-slow", (Confirmation,), "fail", "a slow lens does not fill its base", _confirmation_slow),
    Rule("scale-guess", ("scale",), "set", "the plane is where you judge the subject to be",
         lambda case: "set the distance you judge; for zones and stopped down"),
    Rule("points-smallest", (MatteScreen, MagnifiedView), "turn", "a point is smallest at best focus", _points),
    Rule("through-and-back", (MatteScreen, MagnifiedView, SplitImage, RangefinderPatch), "turn",
         "both sides of sharp must be seen to find the middle", _turn),
)  # fmt: skip
