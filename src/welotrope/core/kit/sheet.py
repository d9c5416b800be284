"""The set-up sheet: what to tell the camera for a set-up, line by line with the reason; and its slots for lens data."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import OutOfRangeError
from welotrope.core.kit.aids.registry import kind_of
from welotrope.core.kit.camera_kind import Opening, SetBy, Viewing
from welotrope.core.kit.fit import check_fit, verdict
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import YesNoUnknown
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.traits import ScaleStandard
from welotrope.core.optics.wedge import wedge_lit, wedge_lit_stop
from welotrope.core.rules import Rule, Severity, findings, table_of, worded
from welotrope.core.units.exposure import format_stop


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


def sheet_lines(case: SheetCase, *, changes: Iterable[SheetChange] = ()) -> list[SheetLine]:
    """Return the sheet of a set-up in order, with the body's changes applied and added lines last.

    Parameters
    ----------
    case
        The set-up with what its sheet depends on.
    changes
        What the photographer changed of the sheet.
    """
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
    """Whether a camera with a sensor sees no lens, or may see none.

    What stands between tells it nothing; or nobody has said how the lens goes on, and most manual lenses are adapted.
    """
    setup = case.setup
    if not _digital(case) or setup.own_lens:
        return False
    if setup.pieces:
        return not all(piece.works_aperture for piece in setup.pieces)
    return setup.lens.mount is None


def _tags(case: SheetCase) -> set[str]:
    return set(case.setup.body.aids_by_tag)


def _live(case: SheetCase) -> bool:
    return any(kind_of(aid).live for aid in case.setup.body.shown_aids)


def _by_wire(case: SheetCase) -> bool:
    """Whether the lens in hand is focused by wire: it is fixed to such a camera, or a native one of such a body."""
    setup, kind = case.setup, case.setup.body.kind
    if kind.set_by in (SetBy.WIRE, SetBy.KEYS):
        return True
    native = not setup.pieces and (setup.made_for_body or setup.lens.mount == setup.body.mount)
    return kind.has_mount and native and setup.body.traits.by_wire is YesNoUnknown.YES


def _can_autofocus(case: SheetCase) -> bool:
    return case.setup.body.kind.autofocus and (_by_wire(case) or not case.setup.body.kind.has_mount)


def _lens_words(case: SheetCase) -> str:
    lens = case.setup.lens
    return f"{lens.focal_mm:g} mm, {format_stop(lens.widest)}"


def _do_not_mount(case: SheetCase) -> tuple[str, str] | None:
    found = check_fit(case.setup)
    if verdict(found) is not Severity.BLOCKER:
        return None
    return "Do not mount this lens on this body yet", found[0].text


def _infinity(case: SheetCase) -> tuple[str, str] | None:
    found = next((finding for finding in check_fit(case.setup) if finding.rule == "infinity"), None)
    if found is None:
        return None
    how = "check it magnified" if "magnified" in _tags(case) else "sight it once on something far away"
    return f"Do not trust the infinity mark; {how}", found.text


def _power(case: SheetCase) -> tuple[str, str] | None:
    if not _by_wire(case):
        return None
    return (
        "Camera on, and its sleep set late, before you set the distance",
        "by wire the distance is lost when the camera sleeps or is switched off; set it again after that",
    )


def _manual_focus(case: SheetCase) -> tuple[str, str] | None:
    if not _digital(case) or not case.setup.body.kind.autofocus:
        return None
    shown = [words for tag, words in (("magnified", "the magnifier"), ("peaking", "peaking")) if tag in _tags(case)]
    if not shown or case.setup.body.traits.aids_need_manual_focus is YesNoUnknown.NO:
        return "Focus mode: manual", "so that nothing but your hand moves the focus"
    verb = "do" if len(shown) > 1 else "does"
    return "Focus mode: manual", f"without it {' and '.join(shown)} {verb} not appear at all"


def _correct(case: SheetCase) -> tuple[str, str] | None:
    if not _can_autofocus(case) or case.school is School.SET:
        return None
    return (
        "Or autofocus first, then correct by hand: hold the focus, then turn",
        "it is quick to come near; the last bit is yours. Set the camera to autofocus with manual correction",
    )


def _release(case: SheetCase) -> tuple[str, str] | None:
    if not _no_contacts(case):
        return None
    return (
        "Allow the release with no lens attached",
        "a lens without contacts is no lens to the camera: it may refuse to fire",
    )


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
    magnified = case.setup.body.aids_by_tag.get("magnified")
    if magnified is None:
        return None
    steps = f" ({' then '.join(magnified.words(step) for step in magnified.steps)})"
    if case.school is School.SET:
        steps = ""
    if _no_contacts(case) and case.setup.body.traits.magnifier_fires is not YesNoUnknown.YES:
        return (
            f"Magnifier on a button the thumb reaches{steps}",
            "with a lens without contacts it does not fire by itself",
        )
    if case.school is School.SET:
        return None
    return f"Magnifier at hand{steps}", "by a button, or as the ring turns where the camera does that"


def _peaking(case: SheetCase) -> tuple[str, str] | None:
    peaking = case.setup.body.aids_by_tag.get("peaking")
    if peaking is None:
        return None
    # A higher threshold lights a thinner band.
    strict = max(peaking.levels, key=lambda level: level.threshold_per_px).name
    colours = case.setup.body.traits.peaking_colours
    colour = f" in a colour the scene has not ({', '.join(colours)})" if colours else ""
    finish = "finish magnified" if "magnified" in _tags(case) else "finish by eye"
    ending = f"only the ballpark: {finish}" if case.school is School.PLACE else "a quick look over the whole frame"
    return f"Peaking {strict}{colour}", f"the narrowest band; {ending}"


def _preview(case: SheetCase) -> tuple[str, str] | None:
    if not _live(case):
        return None
    return "Exposure preview on, off with flash and under the stars", "else the screen shows a picture you will not get"


def _looks_open(case: SheetCase) -> tuple[str, str] | None:
    setup, kind = case.setup, case.setup.body.kind
    if kind.viewing is not Viewing.TAKING_LENS or case.school is School.SET:
        return None
    if kind.opening is Opening.HAND:
        return (
            f"Open to {format_stop(setup.lens.widest)}, focus under the cloth with the loupe, then stop down",
            "close the shutter before the holder goes in and its slide comes out",
        )
    if setup.opens_for_focusing:
        return (
            f"Focus as it looks: the lens stays at {format_stop(setup.lens.widest)} until the release",
            "the depth preview closes it to the stop set, if you wish to see the depth",
        )
    if setup.pieces and kind.opening is Opening.BODY:
        return (
            f"Open to {format_stop(setup.lens.widest)} to focus, then turn the ring back to the stop",
            "on this adapter the finder darkens with the stop",
        )
    return None


def _mode(case: SheetCase) -> tuple[str, str] | None:
    setup = case.setup
    if not _digital(case):
        return (
            "Meter for the chosen stop and set the shutter by hand",
            "the film's speed is fixed; recheck when light changes",
        )
    on_lens = bool(setup.lens.engraved_units) and not _by_wire(case)
    if case.school is School.SET:
        where = "is set on the lens and never touched" if on_lens else "stays as it is"
        return "Aperture priority, automatic ISO with a shutter floor", f"the small stop {where}"
    if on_lens:
        return (
            "Manual exposure, or aperture priority with the stop on the lens",
            "opening up to focus must not change the picture",
        )
    return "Manual exposure, or aperture priority", "the stop is part of the picture you want"


def _metering(case: SheetCase) -> tuple[str, str] | None:
    if not case.setup.body.kind.meters:
        return None
    if case.school is School.SET:
        return "Metering over the whole frame", "there is no time to place a spot"
    if "magnified" in _tags(case):
        return "Metering on the centre, and lock it before you magnify", "the magnified part would be metered alone"
    return "Metering on the centre, or a spot on the highlights that must not burn", "then the frame may be moved"


def _drive(case: SheetCase) -> tuple[str, str] | None:
    fps = case.setup.body.traits.burst_fps
    if case.school is School.PLACE or not fps:
        return "Single frames", "focus is placed for one of them"
    return f"Burst, {fps:g} a second", "someone walks through a zone in a moment"


def _tripod(case: SheetCase) -> tuple[str, str] | None:
    if case.school is School.SET:
        return None
    off = ", stabiliser off" if case.setup.body.traits.stabiliser else ""
    release = f"self-timer 2 s{off}" if _digital(case) else "a cable release, or the self-timer"
    return f"On a tripod: {release}", "your finger moves the camera more than the wind"


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


def _screen_scale(case: SheetCase) -> tuple[str, str] | None:
    standard = case.setup.body.traits.distance_scale
    if standard is ScaleStandard.NONE:
        return None
    if _no_contacts(case):
        return "Read the distance on the lens", "the scale on the screen needs a lens that reports it"
    if standard is ScaleStandard.FILM:
        return (
            "The depth bar on the screen goes by film: take one to two stops more than it shows",
            "on a screen at full size its ends are already soft",
        )
    return "The depth bar on the screen goes by pixels: its ends are sharp at full size", "it is strict; trust it"


def _dead_confirmation(case: SheetCase) -> tuple[str, str] | None:
    if "confirmation" not in _tags(case) or not _no_contacts(case):
        return None
    other = "the magnifier" if "magnified" in _tags(case) else "the screen"
    return "Do not wait for the focus confirmation", f"it may stay dark without contacts; use {other}"


def _zone_only(case: SheetCase) -> tuple[str, str] | None:
    if case.setup.body.kind.sees_focus or "rangefinder" in _tags(case):
        return None
    return (
        "Judge the distance and set it before you raise the camera",
        "the finder shows no focus: pace it, tape it, or take a stop that covers the guess",
    )


def _rangefinder(case: SheetCase) -> tuple[str, str] | None:
    if "rangefinder" not in _tags(case):
        return None
    return (
        "Ring at ∞: the two pictures of a mast or a chimney must meet",
        "a patch that is out misses on one side, and does not show it",
    )


def _rule(
    id: str,
    says: Callable[[SheetCase], tuple[str, str] | None],
    when: str,
    source: str,
    *,
    severity: Severity = Severity.NOTE,
) -> Rule[SheetCase]:
    return Rule(id=id, severity=severity, when=when, says=worded(says), source=source)


SHEET_RULES: dict[str, Rule[SheetCase]] = table_of((
    _rule("do-not-mount", _do_not_mount, "the fit check says stop", "a line that stops the rest", severity=Severity.BLOCKER),
    _rule("power", _power, "the lens is focused by wire", "a motor that has no power forgets where it stood"),
    _rule("manual-focus", _manual_focus, "the camera can focus by itself", "aids appear in manual focus"),
    _rule("autofocus-first", _correct, "the camera can focus this lens by itself, and the plane is placed", "autofocus comes near, a hand finishes"),
    _rule("release", _release, "a digital body sees no lens", "bodies may refuse to fire without one"),
    _rule("slot", _slot, "the body has slots and sees no lens", "the file then carries the lens"),
    _rule("stabiliser", _stabiliser, "a stabiliser has to be told the focal length", "it steadies by the focal length"),
    _rule("magnifier", _magnifier, "there is a magnifier, and it does not fire by itself or the plane is placed", "a lens without contacts tells nothing of turning"),
    _rule("peaking", _peaking, "there is peaking", "a higher threshold lights a thinner band"),
    _rule("preview", _preview, "there is a live picture", "the aids show what the preview shows"),
    _rule("looks-open", _looks_open, "a screen behind the lens, and the plane is placed", "who opens the aperture decides what is seen"),
    _rule("mode", _mode, "always", "the stop is part of the plan"),
    _rule("metering", _metering, "the camera usually has a meter", "a meter sees what the picture shows"),
    _rule("drive", _drive, "always", "a plane is placed for one frame, a zone is walked through"),
    _rule("tripod", _tripod, "the plane is placed", "a finger moves the camera"),
    _rule("user-mode", _user_mode, "the picture falls on a sensor", "what is set once need not be set again"),
    _rule("infinity", _infinity, "the fit check speaks of infinity", "an adapter moves the scale", severity=Severity.CAREFUL),
    _rule("dark-split", _dark_split, "the split image is dark at the widest stop", "a prism bends the cone of a slow lens past the eye"),
    _rule("dead-scale", _screen_scale, "the body has a scale on its screen", "it needs a lens that reports its distance, and goes by a standard"),
    _rule("dead-confirmation", _dead_confirmation, "there is a focus confirmation and no contacts", "some stay dark without them"),
    _rule("rangefinder-check", _rangefinder, "there is a rangefinder", "two pictures of what is far must meet at ∞"),
    _rule("zone-only", _zone_only, "the finder shows no focus", "a zone is set before"),
))  # fmt: skip


def find_slot(card: Sequence[SlotEntry], lens_id: int) -> SlotEntry | None:
    """Return the entry of a lens on a body's slot card, or None.

    Parameters
    ----------
    card
        The slots, with what is in them.
    lens_id
        Key of the lens.
    """
    return next((entry for entry in card if entry.lens_id == lens_id), None)


@dataclass(frozen=True, kw_only=True)
class SlotEntry:
    """A lens in a slot: what to enter there, and whether it shares the slot with others."""

    number: int
    lens_id: int
    lens_name: str
    focal_mm: float
    widest: float
    shared_with: tuple[str, ...]


def slot_card(assigned: Sequence[tuple[int, int, Lens]]) -> list[SlotEntry]:
    """Return the card of a body in slot order from (number, lens key, lens), naming the lenses that share one.

    Parameters
    ----------
    assigned
        Number of the slot, key of the lens and the lens, for each slot that is taken.
    """
    by_number: dict[int, list[tuple[int, Lens]]] = defaultdict(list)
    for number, lens_id, lens in assigned:
        by_number[number].append((lens_id, lens))
    return [
        SlotEntry(
            number=number, lens_id=lens_id, lens_name=lens.name, focal_mm=lens.focal_mm, widest=lens.widest,
            shared_with=tuple(other.name for other_id, other in lenses if other_id != lens_id),
        )
        for number, lenses in sorted(by_number.items())
        for lens_id, lens in lenses
    ]  # fmt: skip


def check_slot(number: int, slots: int) -> int:
    """Return ``number`` when the body has that slot, else raise OutOfRangeError.

    Parameters
    ----------
    number
        Number of the slot, counted from 1.
    slots
        How many slots the body has.
    """
    if not 1 <= number <= slots:
        raise OutOfRangeError(
            "slot", number, "the body has no such slot" if slots else "this body keeps no lens data",
            f"Choose 1 to {slots}" if slots else "Enter its number of slots with the body first",
        )  # fmt: skip
    return number
