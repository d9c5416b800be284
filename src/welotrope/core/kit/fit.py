"""The fit check: does a lens go on a body without harm, and what will not work. One rule, one function.

Unknown data never passes as safe: a rule that cannot decide says what to look for and how.
"""

from __future__ import annotations

import functools
from collections.abc import Sequence

from welotrope.core.kit.mount import Known, Link, Mount
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.traits import ApertureRing, FinderKind
from welotrope.core.optics.depth import BLUR_TOLERANCE
from welotrope.core.ring.adapter_error import MAX_ERROR_MM, adapter_effect
from welotrope.core.ring.true_infinity import infinity_stop
from welotrope.core.rules import Answer, Finding, Passed, Rule, Said, Severity, checked, findings, table_of, worst_first
from welotrope.core.units.distance import format_feet, format_metric
from welotrope.core.units.stops import MAX_STOP, format_stop

LONG_ADAPTER_MM = 30.0
PLAIN_RING_MM = 1.0  # thinner, one with two faces cannot be made
SAME_REGISTER_MM = 0.02
RING_WALL_MM = 1.5
MOST_PROUD_MM = 12.0  # no lever stands prouder than a lens's own flange is deep
CHECKED, NOT_ASKED = Passed.CHECKED, Passed.NOT_ASKED


def _found(severity: Severity, text: str, clears: str, drawing: str = "") -> Said:
    return Said(text=text, clears=clears, severity=severity, drawing=drawing)


@functools.lru_cache(maxsize=128)
def check_fit(setup: Setup) -> tuple[Finding, ...]:
    """Return every finding on a set-up, worst first; every page of a set-up asks."""
    return tuple(worst_first(findings(FIT_RULES.values(), setup)))


def checked_parts(setup: Setup) -> list[str]:
    """Return what is known of a set-up, was looked at and is well, in words; only of this may “checked” be said."""
    return checked(FIT_RULES.values(), setup)


def verdict(found: Sequence[Finding]) -> Severity | None:
    """Return the worst severity found, or None when nothing was."""
    return found[0].severity if found else None


def _mounts_unknown(setup: Setup) -> Answer:
    missing = [name for name, thing in (("lens", setup.lens), ("body", setup.body)) if thing.mount is None]
    if not missing:
        return NOT_ASKED
    return _found(
        Severity.CAREFUL, f"Not known: the mount of the {' and the '.join(missing)}.",
        "Look for the mount's name in the manual, or measure thread or bayonet across; enter it with the "
        + " and ".join(missing) + ".", "register",
    )  # fmt: skip


def _mounts_join(setup: Setup) -> Answer:
    lens, body, adapter = setup.lens.mount, setup.body.mount, setup.adapter
    if lens is None or body is None:
        return NOT_ASKED
    if adapter is None:
        if lens == body:
            return CHECKED
        return _found(
        Severity.STOP, f"A {lens.name} lens does not go on a {body.name} body by itself.",
            f"Choose an adapter from {lens.name} to {body.name}.", "register",
        )  # fmt: skip
    wrong = [
        text
        for side, have, text in (
            (adapter.lens_side, lens, f"takes {adapter.lens_side.name} lenses, this one is {lens.name}"),
            (adapter.body_side, body, f"goes on {adapter.body_side.name}, this body is {body.name}"),
        )
        if side != have
    ]
    if not wrong:
        return CHECKED
    return _found(
        Severity.STOP, f"The adapter {' and '.join(wrong)}. Forcing it breaks one or both.",
        f"Choose an adapter from {lens.name} to {body.name}.", "register",
    )  # fmt: skip


def _register_possible(setup: Setup) -> Answer:
    lens, body = setup.lens.mount, setup.body.mount
    if lens is None or body is None or lens == body:
        return NOT_ASKED
    if lens.register_mm is None or body.register_mm is None:
        unknown = lens.name if lens.register_mm is None else body.name
        return _found(
            Severity.CAREFUL,
            f"Not known: the register of {unknown}, so whether the lens reaches infinity cannot be said.",
            "Look for “flange distance” in the maker's data, or measure from mount face to film plane with a depth gauge "
            "on an open, unloaded film body.", "register",
        )  # fmt: skip
    room = lens.register_mm - body.register_mm
    if setup.adapter is not None and setup.adapter.optics:
        if room >= PLAIN_RING_MM:
            return CHECKED
        return _found(
            Severity.CAREFUL,
            f"The lens needs to sit {abs(min(room, 0)):.2f} mm nearer than the flange; the adapter's own glass makes up for"
            " it.", "Expect softer corners; judge them on a test shot.", "register",
        )  # fmt: skip
    if room >= PLAIN_RING_MM:
        return CHECKED
    thickness = setup.adapter.thickness_mm if setup.adapter else None
    if room < -SAME_REGISTER_MM:
        return _recessed(room, lens, body, thickness)
    if thickness is not None and abs(thickness - room) <= PLAIN_RING_MM:
        return CHECKED
    return _found(
        Severity.CAREFUL,
        f"{'No' if abs(room) < SAME_REGISTER_MM else f'Only {room:.2f} mm of'} room is left for an adapter: not as a plain "
        "ring; a flush or recessed one exists in principle.",
        "Look for a step in the mount that a flange-less ring can sit in, and enter its thickness face to face (0 for a "
        "flush one).", "register",
    )  # fmt: skip


def _recessed(room: float, lens: Mount, body: Mount, thickness: float | None) -> Answer:
    """Judge a lens that must sit deeper than the body's flange: a ring can sink it where the throat leaves room."""
    if lens.throat_mm is None or body.throat_mm is None:
        unknown = lens.name if lens.throat_mm is None else body.name
        return _found(
            Severity.CAREFUL,
            f"The lens has to sit {abs(room):.2f} mm inside the body, and the diameter of {unknown} is not known, so whether "
            "a recessed ring can sink it there cannot be said.",
            "Measure thread and throat across. Without such a ring it is for close-up only.", "throat",
        )  # fmt: skip
    if body.throat_mm < lens.throat_mm + 2 * RING_WALL_MM:
        return _found(
            Severity.STOP,
            f"The lens would have to sit {abs(room):.2f} mm inside the body, and a throat of {body.throat_mm:g} mm leaves no "
            f"room for a ring round {lens.throat_mm:g} mm: no adapter without glass reaches infinity.",
            "Use it for close-up only, an adapter with optics, or a body with a shorter register.", "register",
        )  # fmt: skip
    if thickness is not None and thickness < 0:
        return CHECKED
    return _found(
        Severity.CAREFUL,
        f"The lens has to sit {abs(room):.2f} mm inside the body: only a recessed ring reaches infinity; the throat leaves "
        "room for one.",
        "Choose a recessed ring and enter its thickness as less than 0; a plain ring serves close-up only.", "register",
    )  # fmt: skip


def _optics(setup: Setup) -> Answer:
    adapter = setup.adapter
    if adapter is None or not adapter.optics:
        return NOT_ASKED
    if adapter.factor is not None:
        return CHECKED
    return _found(
        Severity.CAREFUL,
        "Not known: by how much the adapter's glass changes focal length and widest stop, so nothing here counts it.",
        "Look for a factor such as 1.4× or 0.7× on the adapter and enter it; everything is reckoned with it then.",
    )  # fmt: skip


def _infinity(setup: Setup) -> Answer:
    adapter = setup.adapter
    if adapter is None or adapter.optics or adapter.needed_mm is None:
        return NOT_ASKED
    error = adapter.error_mm
    if error is None:
        return _found(
        Severity.CAREFUL, "Not known: the thickness of the adapter, so where infinity lies.",
            "Look for it with a caliper, face to face at three places, without the springs; enter the middle value.",
            "thickness",
        )  # fmt: skip
    from_stop = infinity_stop(abs(error), setup.blur_mm)
    if from_stop <= setup.lens.widest * BLUR_TOLERANCE:
        if setup.infinity_seen or adapter.measured_mm is not None:
            return CHECKED
        return _found(
            Severity.NOTE, "By the thickness as sold infinity should be right; nobody has measured or sighted it yet.",
            "Measure the adapter with a caliper, or sight infinity once in Scale.", "thickness",
        )  # fmt: skip
    if abs(error) > MAX_ERROR_MM:
        return _found(
        Severity.CAREFUL, f"The adapter is {abs(error):.1f} mm {'too thick' if error > 0 else 'too thin'}.",
            f"An adapter from {adapter.lens_side.name} to {adapter.body_side.name} is {adapter.needed_mm:.2f} mm thick.",
            "thickness",
        )  # fmt: skip
    effect = adapter_effect(setup.lens.focal_mm, error, lead_mm=360 / setup.ring().degrees_per_mm(0.0))
    if not effect.reaches_infinity:
        far = f"{format_metric(effect.farthest_mm)} ({format_feet(effect.farthest_mm)})"
        return _found(
            Severity.CAREFUL,
            f"The adapter is {error:.2f} mm too thick: focus stops at {far}, and ∞ is within your standard"
            f" {_from_stop(from_stop)}.",
            f"An adapter {adapter.needed_mm:.2f} mm thick, or having {error:.2f} mm taken off by a technician.", "thickness",
        )  # fmt: skip
    return _found(
        Severity.NOTE,
        f"The adapter is {abs(error):.2f} mm too thin: infinity lies {effect.infinity_deg or 0:.1f}° before the stop, "
        f"and every engraved distance is off by as much; at the ∞ mark ∞ is within your standard {_from_stop(from_stop)}.",
        f"A shim of {abs(error):.2f} mm under the mount; meanwhile do not trust the infinity stop.", "thickness",
    )  # fmt: skip


def _from_stop(stop: float) -> str:
    return f"from {format_stop(stop)}" if stop <= MAX_STOP else "at no stop"


def _rear_depth(setup: Setup) -> float | None:
    """How far rear parts of the lens stand out behind its flange, mm; 0 when its mount has none, None when not known."""
    depth, mount = setup.lens.fit.protrusion_mm, setup.lens.mount
    return 0.0 if depth is None and mount is not None and mount.protruding is Known.NO else depth


def _gap(setup: Setup) -> float | None:
    """How far the lens's flange stands before the body's, mm; None when not known."""
    return setup.adapter.thickness_mm if setup.adapter else 0.0


def _rear_protrusion(setup: Setup) -> Answer:
    depth, gap, clearance = _rear_depth(setup), _gap(setup), setup.body.traits.clearance_mm
    behind = "the mirror" if setup.body.traits.finder is FinderKind.SLR else "shutter or baffle"
    if depth == 0 and (gap is None or gap >= 0):
        return CHECKED
    if depth is None or gap is None or (clearance is None and depth > gap):
        what = (
            "how far the rear of the lens stands out" if depth is None
            else "the thickness of the adapter, so how deep the rear of the lens reaches" if gap is None
            else f"how much room there is before {behind}"
        )  # fmt: skip
        return _found(
        Severity.CAREFUL, f"Not known: {what}.",
            "Look for glass or metal behind the mount face with the lens at infinity and at closest focus; measure it "
            f"with a ruler laid across, and ask the body maker's data for the free depth before {behind}.", "protrusion",
        )  # fmt: skip
    if depth <= gap + (clearance or 0.0):
        return CHECKED
    return _found(
        Severity.STOP,
        f"The rear stands out {depth:.1f} mm, {depth - gap - (clearance or 0.0):.1f} mm more than there is room for: it can"
        f" break {behind}.",
        "A thicker route, a body with more room, or live view with the mirror up if the maker allows it.", "protrusion",
    )  # fmt: skip


def _throat(setup: Setup) -> Answer:
    """Judge whether what reaches through the body's mount goes through it."""
    depth, gap, throat = _rear_depth(setup), _gap(setup), setup.body.mount.throat_mm if setup.body.mount else None
    if setup.adapter is None and setup.lens.mount == setup.body.mount:
        return NOT_ASKED
    if depth is None or gap is None:
        return NOT_ASKED  # said by the rule on rear parts
    if depth <= gap:
        return CHECKED
    across = setup.lens.fit.rear_mm
    if across is None or throat is None:
        what = "how wide the rear of the lens is" if across is None else "how wide the throat of the body's mount is"
        return _found(
            Severity.CAREFUL,
            f"Not known: {what}; {depth - gap:.1f} mm of the rear reach through the mount of the body.",
            "Look for the widest part of the rear and the inside of the body's mount, and measure both across with a caliper.", "throat",
        )  # fmt: skip
    if across < throat:
        return CHECKED
    return _found(
        Severity.STOP,
        f"The rear of the lens is {across:g} mm wide and has to pass a throat of {throat:g} mm: it would jam or break.",
        "A thicker route, or a body with a wider mount.", "throat",
    )  # fmt: skip


def _coupling_lever(setup: Setup) -> Answer:
    lever, ring = setup.body.traits.coupling_lever, setup.lens.fit.aperture_ring
    if lever is Known.NO or ring in (ApertureRing.CUT, ApertureRing.NONE):
        return CHECKED
    gap, proud = _gap(setup), setup.body.traits.lever_proud_mm
    if setup.adapter is not None and gap is not None and gap >= (MOST_PROUD_MM if proud is None else proud):
        return CHECKED
    if setup.adapter is not None and (gap is None or proud is None):
        what = "the thickness of the adapter" if gap is None else "how far the lever stands proud of the body's mount"
        return _found(
            Severity.CAREFUL,
            f"Not known: {what}, so whether the aperture ring meets a coupling lever past it.",
            "Look for a lever or ridge beside the mount and measure how far it stands out; the adapter must be thicker.", "lever",
        )  # fmt: skip
    if lever is Known.YES and ring is ApertureRing.UNCUT:
        past = (
            ""
            if setup.adapter is None
            else f": the adapter is {gap:.1f} mm thick, the lever stands {proud:.1f} mm proud"
        )
        return _found(
            Severity.STOP,
            f"The plain aperture ring would press on the body's coupling lever and can bend or break it{past}.",
            "A lens whose ring has been cut back for it by a repairer, or a body without the lever.", "lever",
        )  # fmt: skip
    return _found(
        Severity.CAREFUL,
        "Not known: whether the aperture ring meets a coupling lever on the body.",
        "Look for a small lever or ridge beside the mount of the body, and for a step or notch in the rear edge of the "
        "aperture ring.", "lever",
    )  # fmt: skip


def _aperture_pin(setup: Setup) -> Answer:
    mount, pin = setup.lens.mount, setup.lens.fit.pin
    if pin is Known.UNKNOWN and mount is not None:
        pin = Known.NO if mount.pin is Known.NO else pin
    if pin is Known.NO:
        return CHECKED
    pressed = setup.adapter.presses_pin if setup.adapter else setup.body.traits.presses_pin
    by = "adapter" if setup.adapter else "body"
    if pressed is Known.YES:
        return CHECKED
    if pin is Known.YES and pressed is Known.NO:
        return _found(
        Severity.CAREFUL, f"The {by} does not press the aperture pin: the lens stays wide open.",
            f"{'An adapter with a flange' if setup.adapter else 'A body'} that presses the pin, or a lens with a manual "
            "switch set to manual.", "pin",
        )  # fmt: skip
    return _found(
        Severity.CAREFUL, f"Not known: whether the lens has an aperture pin and the {by} presses it.",
        "Look for a small sprung pin in the rear of the lens; turn the aperture ring and see whether the blades follow.", "pin",
    )  # fmt: skip


def _aperture_control(setup: Setup) -> Answer:
    """Judge whether the stop can still be set once nothing but the adapter works it."""
    mount, ring = setup.lens.mount, setup.lens.fit.aperture_ring
    if setup.adapter is None or mount is None:
        return NOT_ASKED
    if setup.adapter.works_aperture or mount.actuation is Link.NONE:
        return CHECKED
    if mount.actuation is Link.ELECTRONIC:
        return _found(
            Severity.CAREFUL,
            "The aperture is worked electronically and the adapter has no control for it: it stays as it was left.",
            "Stop the lens down on its own body before taking it off, or use an adapter with an aperture control.",
        )  # fmt: skip
    if mount.actuation is Link.UNKNOWN:
        return _found(
            Severity.CAREFUL,
            f"Not known: how the aperture of a {mount.name} lens is worked, so whether it can be set on this adapter.",
            "Look for an aperture ring; turn it off the camera and see whether the blades follow.",
        )  # fmt: skip
    if ring in (ApertureRing.CUT, ApertureRing.UNCUT):
        return CHECKED
    unknown = ring is ApertureRing.UNKNOWN
    return _found(
        Severity.CAREFUL,
        "Not known: whether the lens has an aperture ring; without one nothing works its aperture on this adapter."
        if unknown else
        "The lens has no aperture ring and the adapter does not work its aperture: it stays at one stop.",
        f"{'Look for an aperture ring on the lens' if unknown else 'A lens with an aperture ring'}, or use an adapter that "
        "works the aperture.",
    )  # fmt: skip


def _endless_focus(setup: Setup) -> Answer:
    if not setup.lens.fit.endless:
        return NOT_ASKED
    said = "The focus ring has no hard stops: ring marks shift and zones cannot be set by touch."
    return _found(Severity.NOTE, said, "Set the distance by the screen's scale or a magnified view each time.")


def _image_circle(setup: Setup) -> Answer:
    circle, diagonal = setup.lens.fit.image_circle_mm, setup.body.image.diagonal_mm
    if circle is not None:
        circle *= setup.lens.factor
    if setup.adapter is not None and setup.adapter.optics and setup.adapter.factor is None:
        return NOT_ASKED
    if circle is None:
        look = "Look for dark corners on a test shot of an even wall, at the widest stop and at infinity."
        return _found(Severity.NOTE, f"Not known: whether the lens covers the {diagonal:.0f} mm picture.", look)
    if circle >= diagonal:
        return CHECKED
    return _found(
        Severity.NOTE,
        f"The lens covers {circle:.0f} mm, the picture is {diagonal:.0f} mm across: corners go dark.",
        f"Crop to {circle / diagonal:.0%} of the width, or the body's smaller picture area if it has one.",
    )  # fmt: skip


def _tripod_foot(setup: Setup) -> Answer:
    adapter = setup.adapter
    if adapter is None or adapter.foot or (adapter.thickness_mm or 0) < LONG_ADAPTER_MM:
        return NOT_ASKED
    return _found(
        Severity.NOTE,
        f"The {adapter.thickness_mm:.0f} mm adapter has no tripod foot: a heavy lens hangs on the body's mount.",
        "Carry it by the lens; on a tripod, use the lens's own foot or a support.",
    )  # fmt: skip


FIT_RULES: dict[str, Rule[Setup]] = table_of((
    Rule(id="mounts-known", topic="mounts", severity=Severity.CAREFUL, says=_mounts_unknown,
         when="the mount of lens or body is not entered",
         clears="the mount's name, from the manual or by measure",
         source="what is not known is not safe"),
    Rule(id="mounts-join", topic="mounts", severity=Severity.STOP, says=_mounts_join,
         when="the mounts do not meet, by themselves or by the adapter",
         clears="an adapter between the two mounts",
         source="a bayonet or thread takes only its own"),
    Rule(id="register-possible", topic="register", severity=Severity.STOP, says=_register_possible,
         when="the registers leave no room for a plain adapter, or one is not known",
         clears="an adapter with glass, or another body",
         source="the lens must stand at its own register from the film"),
    Rule(id="adapter-optics", topic="the adapter’s glass", severity=Severity.CAREFUL, says=_optics,
         when="the adapter has glass of its own",
         clears="the factor of its glass, or an adapter without",
         source="glass changes focal length, stops and corners"),
    Rule(id="infinity", topic="infinity", severity=Severity.CAREFUL, says=_infinity,
         when="an adapter is too thick or too thin, or not measured",
         clears="a measurement with a caliper, or infinity sighted in Scale",
         source="a thickness error moves the whole scale"),
    Rule(id="rear-protrusion", topic="rear parts", severity=Severity.STOP, says=_rear_protrusion,
         when="rear parts reach as deep as mirror or shutter, or it is not known",
         clears="a ruler across the mount, and the maker's clearance",
         source="a mirror or shutter hits what stands in its way"),
    Rule(id="throat", topic="throat", severity=Severity.STOP, says=_throat,
         when="the rear is wider than what it passes through",
         clears="width of the rear, with a caliper",
         source="it must pass every opening up to where it ends"),
    Rule(id="coupling-lever", topic="coupling lever", severity=Severity.STOP, says=_coupling_lever,
         when="an uncut aperture ring may meet a lever or ridge of the body",
         clears="what the rear edge of the ring looks like, and how far the lever stands out",
         source="the lever breaks first"),
    Rule(id="aperture-pin", topic="aperture pin", severity=Severity.CAREFUL, says=_aperture_pin,
         when="a pin is not pressed, or it is not known",
         clears="an adapter that presses the pin, or a switch on the lens",
         source="the aperture stays open"),
    Rule(id="aperture-control", topic="how the aperture is worked", severity=Severity.CAREFUL, says=_aperture_control,
         when="nothing works the aperture, or it is not known",
         clears="an adapter that works it, or a lens with a ring",
         source="without control a lens stays at one stop"),
    Rule(id="endless-focus", topic="focus stops", severity=Severity.NOTE, says=_endless_focus,
         when="the ring turns without end",
         clears="",
         source="marks need a ring that ends"),
    Rule(id="image-circle", topic="picture size", severity=Severity.NOTE, says=_image_circle,
         when="the lens covers less than the picture, or it is not known",
         clears="a crop, or a smaller picture area",
         source="corners outside the circle stay dark"),
    Rule(id="tripod-foot", topic="tripod foot", severity=Severity.NOTE, says=_tripod_foot,
         when="a long adapter has no foot of its own",
         clears="the lens's own foot, or a support",
         source="a mount is not made to carry a lever"),
))  # fmt: skip
