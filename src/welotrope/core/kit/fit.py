"""The fit check: does a lens go on a body without harm, and what will not work. One rule, one function.

Unknown data never passes as safe: a rule that cannot decide says what to look for and how.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.kit.mount import Known, Link
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.traits import ApertureRing, Finder
from welotrope.core.optics.depth import BLUR_TOLERANCE
from welotrope.core.ring.adapter_error import AdapterEffect, adapter_effect
from welotrope.core.ring.true_infinity import infinity_stop
from welotrope.core.units.distance import format_feet, format_metric
from welotrope.core.units.stops import MAX_STOP, format_stop

LONG_ADAPTER_MM = 30.0
THINNEST_MM = 0.3


class Severity(StrEnum):
    """How much a finding matters, worst first."""

    STOP = "stop"
    CAREFUL = "careful"
    NOTE = "note"


@dataclass(frozen=True)
class Finding:
    """What a rule found: why, what would clear it, and which drawing shows what to look for (or '')."""

    rule: str
    severity: Severity
    reason: str
    clears: str
    drawing: str = ""


Rule = Callable[[Setup], Finding | None]


def check_fit(setup: Setup) -> list[Finding]:
    """Return every finding on a set-up, worst first."""
    found = [finding for rule in RULES.values() if (finding := rule(setup)) is not None]
    order = list(Severity)
    return sorted(found, key=lambda finding: order.index(finding.severity))


def verdict(findings: list[Finding]) -> Severity | None:
    """Return the worst severity found, or None when nothing was."""
    return findings[0].severity if findings else None


def _mounts_unknown(setup: Setup) -> Finding | None:
    missing = [name for name, thing in (("lens", setup.lens), ("body", setup.body)) if thing.mount is None]
    if not missing:
        return None
    return Finding(
        "mounts-known", Severity.CAREFUL, f"Not known: the mount of the {' and the '.join(missing)}.",
        "Look for the mount's name in the manual, or measure thread or bayonet across; enter it with the "
        + " and ".join(missing) + ".", "register",
    )  # fmt: skip


def _mounts_join(setup: Setup) -> Finding | None:
    lens, body, adapter = setup.lens.mount, setup.body.mount, setup.adapter
    if lens is None or body is None:
        return None
    if adapter is None:
        if lens == body:
            return None
        return Finding(
            "mounts-join", Severity.STOP, f"A {lens.name} lens does not go on a {body.name} body by itself.",
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
        return None
    return Finding(
        "mounts-join", Severity.STOP, f"The adapter {' and '.join(wrong)}. Forcing it breaks one or both.",
        f"Choose an adapter from {lens.name} to {body.name}.", "register",
    )  # fmt: skip


def _register_possible(setup: Setup) -> Finding | None:
    lens, body = setup.lens.mount, setup.body.mount
    if lens is None or body is None or lens == body:
        return None
    if lens.register_mm is None or body.register_mm is None:
        unknown = lens.name if lens.register_mm is None else body.name
        return Finding(
            "register-possible", Severity.CAREFUL,
            f"Not known: the register of {unknown}, so whether the lens reaches infinity cannot be said.",
            "Look for “flange distance” in the maker's data, or measure from mount face to film plane with a depth gauge "
            "on an open, unloaded film body.", "register",
        )  # fmt: skip
    room = lens.register_mm - body.register_mm
    if room >= THINNEST_MM:
        return None
    if setup.adapter is not None and setup.adapter.optics:
        return Finding(
            "register-possible", Severity.CAREFUL,
            f"The lens needs to sit {abs(room):.2f} mm nearer than the flange; the adapter's own glass makes up for it.",
            "Expect a longer focal length and softer corners; judge them on a test shot.", "register",
        )  # fmt: skip
    return Finding(
        "register-possible", Severity.STOP,
        f"The lens would have to sit {abs(room):.2f} mm inside the body: no adapter without glass reaches infinity."
        if room < 0 else f"Only {room:.2f} mm is left for an adapter: too thin to make.",
        "Use it for close-up only, an adapter with optics, or a body with a shorter register.", "register",
    )  # fmt: skip


def _infinity(setup: Setup) -> Finding | None:
    adapter = setup.adapter
    if adapter is None or adapter.optics or adapter.needed_mm is None or adapter.needed_mm < THINNEST_MM:
        return None
    error = adapter.error_mm
    if error is None:
        return Finding(
            "infinity", Severity.CAREFUL, "Not known: the thickness of the adapter, so where infinity lies.",
            "Look for it with a caliper, face to face at three places, without the springs; enter the middle value.",
            "thickness",
        )  # fmt: skip
    from_stop = infinity_stop(abs(error), setup.blur_mm)
    if from_stop <= setup.lens.widest * BLUR_TOLERANCE:
        return None
    effect = adapter_effect(setup.lens.focal_mm, error, lead_mm=360 / setup.ring().degrees_per_mm(0.0))
    if not effect.reaches_infinity:
        far = f"{format_metric(effect.farthest_mm)} ({format_feet(effect.farthest_mm)})"
        return Finding(
            "infinity", Severity.CAREFUL,
            f"The adapter is {error:.2f} mm too thick: focus stops at {far}, and ∞ is within your standard"
            f" {_from_stop(from_stop)}.",
            f"An adapter {adapter.needed_mm:.2f} mm thick, or having {error:.2f} mm taken off by a technician.", "thickness",
        )  # fmt: skip
    return Finding(
        "infinity", Severity.NOTE,
        f"The adapter is {abs(error):.2f} mm too thin: infinity lies {effect.infinity_deg or 0:.1f}° before the stop, "
        f"and every engraved distance is off by as much; at the ∞ mark ∞ is within your standard {_from_stop(from_stop)}.",
        f"A shim of {abs(error):.2f} mm under the mount; meanwhile do not trust the infinity stop.", "thickness",
    )  # fmt: skip


def _from_stop(stop: float) -> str:
    return f"from {format_stop(stop)}" if stop <= MAX_STOP else "at no stop"


def _rear_protrusion(setup: Setup) -> Finding | None:
    depth, clearance = setup.lens.fit.protrusion_mm, setup.body.traits.clearance_mm
    mount = setup.lens.mount
    if depth == 0 or (depth is None and mount is not None and mount.protruding is Known.NO):
        return None
    gap = setup.adapter.thickness_mm if setup.adapter else 0.0
    behind = "the mirror" if setup.body.traits.finder is Finder.SLR else "shutter or baffle"
    if depth is None or gap is None or (clearance is None and depth > gap):
        what = "how far the rear of the lens stands out" if depth is None else f"how much room there is before {behind}"
        return Finding(
            "rear-protrusion", Severity.CAREFUL, f"Not known: {what}.",
            "Look for glass or metal behind the mount face with the lens at infinity and at closest focus; measure it "
            f"with a ruler laid across, and ask the body maker's data for the free depth before {behind}.", "protrusion",
        )  # fmt: skip
    if depth <= gap + (clearance or 0.0):
        return None
    return Finding(
        "rear-protrusion", Severity.STOP,
        f"The rear stands out {depth:.1f} mm, {depth - gap - (clearance or 0.0):.1f} mm more than there is room for: it can break {behind}.",
        "A thicker route, a body with more room, or live view with the mirror up if the maker allows it.", "protrusion",
    )  # fmt: skip


def _coupling_lever(setup: Setup) -> Finding | None:
    lever, ring = setup.body.traits.coupling_lever, setup.lens.fit.aperture_ring
    if setup.adapter is not None or lever is Known.NO or ring in (ApertureRing.CUT, ApertureRing.NONE):
        return None
    if lever is Known.YES and ring is ApertureRing.UNCUT:
        return Finding(
            "coupling-lever", Severity.STOP,
            "The plain aperture ring would press on the body's coupling lever and can bend or break it.",
            "A lens whose ring has been cut back for it by a repairer, or a body without the lever.", "lever",
        )  # fmt: skip
    return Finding(
        "coupling-lever", Severity.CAREFUL,
        "Not known: whether the aperture ring meets a coupling lever on the body.",
        "Look for a small lever or ridge beside the mount of the body, and for a step or notch in the rear edge of the "
        "aperture ring.", "lever",
    )  # fmt: skip


def _aperture_pin(setup: Setup) -> Finding | None:
    mount, pin = setup.lens.mount, setup.lens.fit.pin
    if pin is Known.UNKNOWN and mount is not None and mount.pin is Known.NO:
        return None
    if pin is Known.NO or setup.adapter is None:
        return None
    pressed = setup.adapter.presses_pin
    if pressed is Known.YES:
        return None
    if pin is Known.YES and pressed is Known.NO:
        return Finding(
            "aperture-pin", Severity.CAREFUL, "Nothing presses the aperture pin: the lens stays wide open at every setting.",
            "An adapter with a flange that presses the pin, or a lens with a manual switch set to manual.", "pin",
        )  # fmt: skip
    return Finding(
        "aperture-pin", Severity.CAREFUL, "Not known: whether the lens has an aperture pin and the adapter presses it.",
        "Look for a small sprung pin in the rear of the lens; turn the aperture ring and see whether the blades follow.", "pin",
    )  # fmt: skip


def _electronic_aperture(setup: Setup) -> Finding | None:
    mount = setup.lens.mount
    if setup.adapter is None or mount is None or mount.actuation is not Link.ELECTRONIC:
        return None
    if setup.adapter.works_aperture:
        return None
    return Finding(
        "electronic-aperture", Severity.CAREFUL,
        "The aperture is worked electronically and the adapter has no control for it: it stays as it was left.",
        "Stop the lens down on its own body before taking it off, or use an adapter with an aperture control.",
    )  # fmt: skip


def _endless_focus(setup: Setup) -> Finding | None:
    if not setup.lens.fit.endless:
        return None
    return Finding(
        "endless-focus", Severity.NOTE,
        "The focus ring has no hard stops: ring marks shift and zones cannot be set by touch.",
        "Set the distance by the screen's scale or a magnified view each time.",
    )  # fmt: skip


def _image_circle(setup: Setup) -> Finding | None:
    circle, diagonal = setup.lens.fit.image_circle_mm, setup.body.image.diagonal_mm
    if setup.adapter is not None and setup.adapter.optics:
        return None
    if circle is None:
        return Finding(
            "image-circle", Severity.NOTE, f"Not known: whether the lens covers the {diagonal:.0f} mm picture.",
            "Look for dark corners on a test shot of an even wall, at the widest stop and at infinity.",
        )  # fmt: skip
    if circle >= diagonal:
        return None
    return Finding(
        "image-circle", Severity.NOTE,
        f"The lens covers {circle:.0f} mm, the picture is {diagonal:.0f} mm across: corners go dark.",
        f"Crop to {circle / diagonal:.0%} of the width, or the body's smaller picture area if it has one.",
    )  # fmt: skip


def _tripod_foot(setup: Setup) -> Finding | None:
    adapter = setup.adapter
    if adapter is None or adapter.foot or (adapter.thickness_mm or 0) < LONG_ADAPTER_MM:
        return None
    return Finding(
        "tripod-foot", Severity.NOTE,
        f"The {adapter.thickness_mm:.0f} mm adapter has no tripod foot: a heavy lens hangs on the body's mount.",
        "Carry it by the lens; on a tripod, use the lens's own foot or a support.",
    )  # fmt: skip


RULES: dict[str, Rule] = {
    "mounts-known": _mounts_unknown,
    "mounts-join": _mounts_join,
    "register-possible": _register_possible,
    "infinity": _infinity,
    "rear-protrusion": _rear_protrusion,
    "coupling-lever": _coupling_lever,
    "aperture-pin": _aperture_pin,
    "electronic-aperture": _electronic_aperture,
    "endless-focus": _endless_focus,
    "image-circle": _image_circle,
    "tripod-foot": _tripod_foot,
}


@dataclass(frozen=True)
class Route:
    """A way to put a lens on a body, and how long it stands out from the body's flange (mm, None when not known)."""

    lens_name: str
    adapter_name: str
    adapter_mm: float
    length_mm: float | None


def route_of(setup: Setup) -> Route:
    """Return the set-up's route: adapter thickness plus the lens's own length."""
    thickness = (setup.adapter.thickness_mm or 0.0) if setup.adapter else 0.0
    own = setup.lens.fit.length_mm
    return Route(
        setup.lens.name,
        setup.adapter.name if setup.adapter else "",
        thickness,
        None if own is None else own + thickness,
    )


@dataclass(frozen=True)
class Joint:
    """How a set-up's lens and body meet; mm, None when not known or not applicable.

    ``room_mm`` is the thickness an adapter must have, ``error_mm`` how far this one is off (positive too
    thick), ``effect`` where infinity then lies, ``length_mm`` how far the lens stands out from the body.
    """

    room_mm: float | None
    thickness_mm: float | None
    error_mm: float | None
    effect: AdapterEffect | None
    length_mm: float | None


def joint_of(setup: Setup) -> Joint:
    """Return how the lens of a set-up meets its body."""
    lens, body, adapter = setup.lens.mount, setup.body.mount, setup.adapter
    room = None
    if lens and body and lens.register_mm is not None and body.register_mm is not None:
        room = lens.register_mm - body.register_mm
    error = adapter.error_mm if adapter else None
    effect = None
    if error is not None:
        effect = adapter_effect(
            setup.lens.focal_mm, error, lead_mm=360 / setup.ring().degrees_per_mm(0.0),
            diameter_mm=setup.lens.ring_diameter_mm,
        )  # fmt: skip
    return Joint(room, adapter.thickness_mm if adapter else None, error, effect, route_of(setup).length_mm)
