"""The set-up sheet: what to tell the camera for a set-up, in order, each line with its reason.

Lines come from rules; a photographer may reword, drop or add lines for a body.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.kit.aids.registry import kind_of
from welotrope.core.kit.fit import check_fit, verdict
from welotrope.core.kit.mount import Known
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.slots import SlotEntry
from welotrope.core.kit.traits import FinderKind, ScaleStandard
from welotrope.core.optics.wedge import wedge_lit, wedge_lit_stop
from welotrope.core.rules import Rule, Severity, findings, table_of, worded
from welotrope.core.units.stops import format_stop


class School(StrEnum):
    """The two ways of placing focus."""

    SET = "set and shoot"
    PLACE = "place the plane"


@dataclass(frozen=True)
class SheetCase:
    """What a sheet is made for; ``slot`` is the lens's slot in the body, or None."""

    setup: Setup
    school: School
    slot: SlotEntry | None


@dataclass(frozen=True)
class SheetLine:
    """One line: what to do and why. ``own`` marks lines the photographer wrote or reworded."""

    id: str
    text: str
    reason: str
    own: bool = False


@dataclass(frozen=True)
class SheetChange:
    """A remembered change for a body: another wording, a dropped line, or (an unknown id) an added one."""

    line: str
    text: str = ""
    reason: str = ""
    dropped: bool = False


def sheet_lines(case: SheetCase, changes: Iterable[SheetChange] = ()) -> list[SheetLine]:
    """Return the sheet of a set-up in order, with the body's changes applied and added lines last."""
    made = [SheetLine(found.rule, found.text, found.reason) for found in findings(SHEET_RULES.values(), case)]
    changed = {change.line: change for change in changes}
    kept = [_apply(line, changed.pop(line.id, None)) for line in made if not _dropped(changed.get(line.id))]
    added = [
        SheetLine(change.line, change.text, change.reason, own=True)
        for change in changed.values()
        if change.line not in SHEET_RULES and not change.dropped
    ]
    return kept + added


def _dropped(change: SheetChange | None) -> bool:
    return change is not None and change.dropped


def _apply(line: SheetLine, change: SheetChange | None) -> SheetLine:
    return line if change is None else SheetLine(line.id, change.text, change.reason or line.reason, own=True)


def _digital(case: SheetCase) -> bool:
    return not case.setup.body.is_film


def _no_contacts(case: SheetCase) -> bool:
    """Whether the body sees no lens: an adapter without aperture control, or a mount that tells nothing."""
    return _digital(case) and case.setup.adapter is not None and not case.setup.adapter.works_aperture


def _live(case: SheetCase) -> bool:
    return any(kind_of(aid).live for aid in case.setup.body.shown_aids)


def _lens_words(case: SheetCase) -> str:
    lens = case.setup.lens
    return f"{lens.focal_mm:g} mm, {format_stop(lens.widest)}"


def _do_not_mount(case: SheetCase) -> tuple[str, str] | None:
    found = check_fit(case.setup)
    if verdict(found) is not Severity.STOP:
        return None
    return "Do not mount this lens on this body yet", found[0].text


def _infinity(case: SheetCase) -> tuple[str, str] | None:
    found = next((finding for finding in check_fit(case.setup) if finding.rule == "infinity"), None)
    return None if found is None else ("Do not trust the infinity mark; check it magnified", found.text)


def _manual_focus(case: SheetCase) -> tuple[str, str] | None:
    if not _digital(case):
        return None
    why = "without it the magnifier and peaking do not appear at all"
    if case.setup.body.traits.aids_need_manual_focus is Known.NO:
        why = "so that nothing but your hand moves the focus"
    return "Focus mode: manual", why


def _release(case: SheetCase) -> tuple[str, str] | None:
    if not _no_contacts(case):
        return None
    return "Allow the release with no lens attached", "the body sees no lens and may refuse to fire"


def _slot(case: SheetCase) -> tuple[str, str] | None:
    if not _no_contacts(case) or not case.setup.body.traits.slots:
        return None
    if case.slot is None:
        return f"Enter {_lens_words(case)} in a free lens slot", "no slot is assigned to this lens yet"
    text = f"Lens slot {case.slot.number}: {_lens_words(case)}"
    if case.slot.shared_with:
        return text, f"shared with {' and '.join(case.slot.shared_with)}: check what it holds now"
    return text, "the file then carries focal length and widest stop"


def _stabiliser(case: SheetCase) -> tuple[str, str] | None:
    if not _digital(case) or not case.setup.body.traits.stabiliser or not _no_contacts(case):
        return None
    return (
        f"Stabiliser focal length: {case.setup.lens.focal_mm:g} mm",
        "with the wrong focal length it blurs instead of steadying",
    )


def _magnifier(case: SheetCase) -> tuple[str, str] | None:
    if "magnified" not in case.setup.body.aids_by_tag:
        return None
    if case.setup.body.traits.magnifier_fires is Known.YES:
        return None
    return "Magnifier on a button the thumb reaches", "with a lens without contacts it does not fire by itself"


def _peaking(case: SheetCase) -> tuple[str, str] | None:
    peaking = case.setup.body.aids_by_tag.get("peaking")
    if peaking is None:
        return None
    # A higher threshold lights a thinner band.
    strict = max(peaking.levels, key=lambda level: level.threshold_per_px).name
    colours = case.setup.body.traits.peaking_colours
    colour = f" in a colour the scene has not ({', '.join(colours)})" if colours else ""
    ending = (
        "only the ballpark: finish magnified" if case.school is School.PLACE else "a quick look over the whole frame"
    )
    return f"Peaking {strict}{colour}", f"the narrowest band; {ending}"


def _preview(case: SheetCase) -> tuple[str, str] | None:
    if not _live(case):
        return None
    return "Exposure preview on, off with flash", "else peaking and magnifier show a picture you will not get"


def _mode(case: SheetCase) -> tuple[str, str] | None:
    if not _digital(case):
        return (
            "Meter for the chosen stop and set the shutter by hand",
            "the film's speed is fixed; recheck when light changes",
        )
    if case.school is School.SET:
        return (
            "Aperture priority, automatic ISO with a shutter floor",
            "the small stop is set on the lens and never touched",
        )
    return (
        "Manual exposure, or aperture priority with the stop on the lens",
        "opening up to focus must not change the picture",
    )


def _metering(case: SheetCase) -> tuple[str, str] | None:
    if case.school is School.SET:
        return "Metering over the whole frame", "there is no time to place a spot"
    return "Metering on the centre, and lock it before you magnify", "the magnified part would be metered alone"


def _drive(case: SheetCase) -> tuple[str, str] | None:
    fps = case.setup.body.traits.burst_fps
    if case.school is School.PLACE or not fps:
        return "Single frames", "focus is placed for one of them"
    return f"Burst, {fps:g} a second", "someone walks through a zone in a moment"


def _tripod(case: SheetCase) -> tuple[str, str] | None:
    if case.school is School.SET:
        return None
    off = ", stabiliser off" if case.setup.body.traits.stabiliser else ""
    return f"On a tripod: self-timer 2 s{off}", "your finger moves the camera more than the wind"


def _user_mode(case: SheetCase) -> tuple[str, str] | None:
    if not _digital(case):
        return None
    return "Save all this as a user mode", "next time it is one turn of a dial"


def _dark_split(case: SheetCase) -> tuple[str, str] | None:
    split = case.setup.body.aids_by_tag.get("split_image")
    seen = case.setup.view_stop(case.setup.lens.widest)
    if split is None or wedge_lit(split.deviation_deg, seen):
        return None
    return (
        "Focus on the matte part of the screen",
        f"one half of the split goes black past {format_stop(wedge_lit_stop(split.deviation_deg))}, this lens opens to"
        f" {format_stop(seen)}",
    )


def _dead_scale(case: SheetCase) -> tuple[str, str] | None:
    if case.setup.body.traits.distance_scale is ScaleStandard.NONE or not _no_contacts(case):
        return None
    return "Read the distance on the lens", "the scale on the screen needs a lens that reports it"


def _dead_confirmation(case: SheetCase) -> tuple[str, str] | None:
    if "confirmation" not in case.setup.body.aids_by_tag or not _no_contacts(case):
        return None
    return "Do not wait for the focus indicator", "it may stay dark without contacts; use the magnifier or the screen"


def _zone_only(case: SheetCase) -> tuple[str, str] | None:
    if case.setup.body.traits.finder is not FinderKind.ZONE:
        return None
    return "Judge the distance and set the zone before you raise the camera", "the finder shows no focus"


def _rule(
    id: str,
    says: Callable[[SheetCase], tuple[str, str] | None],
    when: str,
    source: str,
    severity: Severity = Severity.NOTE,
) -> Rule[SheetCase]:
    return Rule(id=id, severity=severity, when=when, says=worded(says), source=source)


SHEET_RULES: dict[str, Rule[SheetCase]] = table_of((
    _rule("do-not-mount", _do_not_mount, "the fit check says stop", "a line that stops the rest", Severity.STOP),
    _rule("manual-focus", _manual_focus, "the picture falls on a sensor", "aids appear in manual focus"),
    _rule("release", _release, "a digital body sees no lens", "bodies may refuse to fire without one"),
    _rule("slot", _slot, "the body has slots and sees no lens", "the file then carries the lens"),
    _rule("stabiliser", _stabiliser, "a stabiliser has to be told the focal length", "it steadies by the focal length"),
    _rule("magnifier", _magnifier, "there is a magnifier that does not fire by itself", "a lens without contacts tells nothing of turning"),
    _rule("peaking", _peaking, "there is peaking", "a higher threshold lights a thinner band"),
    _rule("preview", _preview, "there is a live picture", "the aids show what the preview shows"),
    _rule("mode", _mode, "always", "the stop is on the lens"),
    _rule("metering", _metering, "always", "a meter sees what the picture shows"),
    _rule("drive", _drive, "always", "a plane is placed for one frame, a zone is walked through"),
    _rule("tripod", _tripod, "the plane is placed", "a finger moves the camera"),
    _rule("user-mode", _user_mode, "the picture falls on a sensor", "what is set once need not be set again"),
    _rule("infinity", _infinity, "the fit check speaks of infinity", "an adapter moves the scale", Severity.CAREFUL),
    _rule("dark-split", _dark_split, "the split image is dark at the widest stop", "a prism bends the cone of a slow lens past the eye"),
    _rule("dead-scale", _dead_scale, "the body has a scale on its screen and sees no lens", "it needs a lens that reports its distance"),
    _rule("dead-confirmation", _dead_confirmation, "there is a focus indicator and no contacts", "some stay dark without them"),
    _rule("zone-only", _zone_only, "the finder shows no focus", "a zone is set before"),
))  # fmt: skip


def find_slot(card: Sequence[SlotEntry], lens_id: int) -> SlotEntry | None:
    """Return the entry of a lens on a body's slot card, or None."""
    return next((entry for entry in card if entry.lens_id == lens_id), None)
