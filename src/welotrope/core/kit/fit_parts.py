"""Rules of the fit check on parts that may meet, and on what works the lens: rear, lever, pin, aperture, picture."""

from __future__ import annotations

from welotrope.core.kit.camera_kind import FinderKind, SetBy
from welotrope.core.kit.fit_joint import CHECKED, NOT_ASKED, found, of_own_lens
from welotrope.core.kit.mount import Link, YesNoUnknown
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.traits import ApertureRing
from welotrope.core.rules import Answer, Severity

LONG_ADAPTER_MM = 30.0
MOST_PROUD_MM = 12.0  # no lever stands prouder than a lens's own flange is deep


def _rear_depth(setup: Setup) -> float | None:
    """How far rear parts of the lens stand out behind its flange, mm; 0 when its mount has none, None when not known."""
    depth, mount = setup.lens.fit.protrusion_mm, setup.lens.mount
    return 0.0 if depth is None and mount is not None and mount.protruding is YesNoUnknown.NO else depth


def _gap(setup: Setup) -> float | None:
    """How far the lens's flange stands before the body's, mm; None when not known."""
    return setup.thickness_mm


def rear_protrusion(setup: Setup) -> Answer:
    """Judge whether the rear meets mirror or shutter.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    if setup.own_lens:
        return of_own_lens(setup)
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
        return found(
        Severity.CAREFUL, f"Not known: {what}.",
            "Look for glass or metal behind the mount face with the lens at infinity and at closest focus; measure it "
            f"with a ruler laid across, and ask the body maker's data for the free depth before {behind}.", drawing="protrusion",
        )  # fmt: skip
    if depth <= gap + (clearance or 0.0):
        return CHECKED
    return found(
        Severity.BLOCKER,
        f"The rear stands out {depth:.1f} mm, {depth - gap - (clearance or 0.0):.1f} mm more than there is room for: it can"
        f" break {behind}.",
        "A thicker route, a body with more room, or live view with the mirror up if the maker allows it.", drawing="protrusion",
    )  # fmt: skip


def _first_glass(setup: Setup) -> tuple[float, float | None]:
    """Return how far the first piece with glass stands behind the lens's flange, at least, and how deep its glass lies.

    Both in mm; the second is None when it or the thickness of a piece before it is not known.
    """
    before, known = 0.0, True
    for piece in setup.pieces:
        if piece.optics:
            return before, piece.glass_depth_mm if known else None
        before += piece.thickness_mm or 0.0
        known = known and piece.thickness_mm is not None
    return before, None


def _glass_meets(depth_mm: float, free_mm: float) -> Answer:
    """Say that the rear of the lens reaches the glass behind it."""
    return found(
        Severity.BLOCKER,
        f"The rear of the lens stands out {depth_mm:.1f} mm and the glass behind it leaves {max(free_mm, 0.0):.1f} mm: they meet.",
        "An extension ring between the two, or a converter whose glass lies deeper.", drawing="protrusion",
    )  # fmt: skip


def converter_front(setup: Setup) -> Answer:
    """Judge whether the rear of the lens keeps clear of glass that stands behind it.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    if not any(piece.optics for piece in setup.pieces):
        return NOT_ASKED
    depth = _rear_depth(setup)
    before, glass = _first_glass(setup)
    if depth is not None and glass is not None:
        return CHECKED if depth < before + glass else _glass_meets(depth, before + glass)
    if depth is None:
        known = "how far the rear of the lens stands out"
    elif depth <= before:  # the rear stays outside, yet glass may stand out towards it
        known = "whether the glass behind the lens stands out towards it"
    else:
        known = "how deep the glass behind the lens lies"
    return found(
        Severity.CAREFUL, f"Not known: {known}, so whether the two meet.",
        "Look into the front of the converter and measure how deep its glass lies; the rear of the lens must stand out less, at infinity and at closest focus.", drawing="protrusion",
    )  # fmt: skip


def throat(setup: Setup) -> Answer:
    """Judge whether what reaches through the body's mount goes through it.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    depth, gap, throat = _rear_depth(setup), _gap(setup), setup.body.mount.throat_mm if setup.body.mount else None
    if setup.own_lens or (not setup.pieces and setup.lens.mount == setup.body.mount):
        return NOT_ASKED
    if depth is None or gap is None:
        return NOT_ASKED  # said by the rule on rear parts
    if depth <= gap:
        return CHECKED
    across = setup.lens.fit.rear_mm
    if across is None or throat is None:
        what = "how wide the rear of the lens is" if across is None else "how wide the throat of the body's mount is"
        return found(
            Severity.CAREFUL,
            f"Not known: {what}; {depth - gap:.1f} mm of the rear reach through the mount of the body.",
            "Look for the widest part of the rear and the inside of the body's mount, and measure both across with a caliper.", drawing="throat",
        )  # fmt: skip
    if across < throat:
        return CHECKED
    return found(
        Severity.BLOCKER,
        f"The rear of the lens is {across:g} mm wide and has to pass a throat of {throat:g} mm: it would jam or break.",
        "A thicker route, or a body with a wider mount.", drawing="throat",
    )  # fmt: skip


def coupling_lever(setup: Setup) -> Answer:
    """Judge whether the aperture ring meets a lever of the body.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    lever, ring = setup.body.traits.coupling_lever, setup.lens.fit.aperture_ring
    if setup.own_lens:
        return of_own_lens(setup)
    if lever is YesNoUnknown.NO or ring in (ApertureRing.CUT, ApertureRing.NONE):
        return CHECKED
    gap, proud = _gap(setup), setup.body.traits.lever_proud_mm
    if setup.pieces and gap is not None and gap >= (MOST_PROUD_MM if proud is None else proud):
        return CHECKED
    if setup.pieces and (gap is None or proud is None):
        what = "the thickness of the adapter" if gap is None else "how far the lever stands proud of the body's mount"
        return found(
            Severity.CAREFUL,
            f"Not known: {what}, so whether the aperture ring meets a coupling lever past it.",
            "Look for a lever or ridge beside the mount and measure how far it stands out; the adapter must be thicker.", drawing="lever",
        )  # fmt: skip
    if lever is YesNoUnknown.YES and ring is ApertureRing.UNCUT:
        past = "" if not setup.pieces else f": the adapter is {gap:.1f} mm thick, the lever stands {proud:.1f} mm proud"
        return found(
            Severity.BLOCKER,
            f"The plain aperture ring would press on the body's coupling lever and can bend or break it{past}.",
            "A lens whose ring has been cut back for it by a repairer, or a body without the lever.", drawing="lever",
        )  # fmt: skip
    return found(
        Severity.CAREFUL,
        "Not known: whether the aperture ring meets a coupling lever on the body.",
        "Look for a small lever or ridge beside the mount of the body, and for a step or notch in the rear edge of the "
        "aperture ring.", drawing="lever",
    )  # fmt: skip


def aperture_pin(setup: Setup) -> Answer:
    """Judge whether a pin that closes the aperture is pressed.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    if setup.own_lens:
        return of_own_lens(setup)
    mount, pin = setup.lens.mount, setup.lens.fit.pin
    if pin is YesNoUnknown.UNKNOWN and mount is not None:
        pin = YesNoUnknown.NO if mount.pin is YesNoUnknown.NO else pin
    if pin is YesNoUnknown.NO:
        return CHECKED
    pressed = setup.pieces[0].presses_pin if setup.pieces else setup.body.traits.presses_pin
    by = "adapter" if setup.pieces else "body"
    if pressed is YesNoUnknown.YES:
        return CHECKED
    if pin is YesNoUnknown.YES and pressed is YesNoUnknown.NO:
        return found(
        Severity.CAREFUL, f"The {by} does not press the aperture pin: the lens stays wide open.",
            f"{'An adapter with a flange' if setup.pieces else 'A body'} that presses the pin, or a lens with a manual "
            "switch set to manual.", drawing="pin",
        )  # fmt: skip
    return found(
        Severity.CAREFUL, f"Not known: whether the lens has an aperture pin and the {by} presses it.",
        "Look for a small sprung pin in the rear of the lens; turn the aperture ring and see whether the blades follow.", drawing="pin",
    )  # fmt: skip


def aperture_control(setup: Setup) -> Answer:
    """Judge whether the stop can still be set once nothing but the adapter works it.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    mount, ring = setup.lens.mount, setup.lens.fit.aperture_ring
    if not setup.pieces or mount is None:
        return NOT_ASKED
    if all(piece.works_aperture or piece.is_converter for piece in setup.pieces) or mount.actuation is Link.NONE:
        return CHECKED
    if mount.actuation is Link.ELECTRONIC:
        return found(
            Severity.CAREFUL,
            "The aperture is worked electronically and the adapter has no control for it: it stays as it was left.",
            "Stop the lens down on its own body before taking it off, or use an adapter with an aperture control.",
        )  # fmt: skip
    if mount.actuation is Link.UNKNOWN:
        return found(
            Severity.CAREFUL,
            f"Not known: how the aperture of a {mount.name} lens is worked, so whether it can be set on this adapter.",
            "Look for an aperture ring; turn it off the camera and see whether the blades follow.",
        )  # fmt: skip
    if ring in (ApertureRing.CUT, ApertureRing.UNCUT):
        return CHECKED
    unknown = ring is ApertureRing.UNKNOWN
    return found(
        Severity.CAREFUL,
        "Not known: whether the lens has an aperture ring; without one nothing works its aperture on this adapter."
        if unknown else
        "The lens has no aperture ring and the adapter does not work its aperture: it stays at one stop.",
        f"{'Look for an aperture ring on the lens' if unknown else 'A lens with an aperture ring'}, or use an adapter that "
        "works the aperture.",
    )  # fmt: skip


def endless_focus(setup: Setup) -> Answer:
    """Tell that a ring without end stops keeps no marks.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    if not setup.lens.fit.endless:
        return NOT_ASKED
    kind = setup.body.kind
    if kind.set_by not in (SetBy.RING, SetBy.WIRE):
        return NOT_ASKED
    said = "The focus ring has no hard stops: ring marks shift and zones cannot be set by touch."
    by = ["the screen's scale"] if kind.on_sensor or kind.can_have("magnified") else []
    by += ["a magnified view"] if "magnified" in setup.body.aids_by_tag else []
    return found(Severity.NOTE, said, f"Set the distance by {' or '.join(by) or 'eye'} each time.")


def image_circle(setup: Setup) -> Answer:
    """Judge whether the lens covers the picture.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    circle, diagonal = setup.lens.fit.image_circle_mm, setup.body.image.diagonal_mm
    if circle is not None:
        circle *= setup.lens.factor
    if any(piece.optics and piece.factor is None for piece in setup.pieces) or setup.own_lens:
        return NOT_ASKED
    if circle is None:
        look = "Look for dark corners on a test shot of an even wall, at the widest stop and at infinity."
        return found(Severity.NOTE, f"Not known: whether the lens covers the {diagonal:.0f} mm picture.", look)
    if circle >= diagonal:
        return CHECKED
    return found(
        Severity.NOTE,
        f"The lens covers {circle:.0f} mm, the picture is {diagonal:.0f} mm across: corners go dark.",
        f"Crop to {circle / diagonal:.0%} of the width, or the body's smaller picture area if it has one.",
    )  # fmt: skip


def tripod_foot(setup: Setup) -> Answer:
    """Tell that a long adapter hangs on the mount.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    length = sum(piece.thickness_mm or 0.0 for piece in setup.pieces)
    if any(piece.foot for piece in setup.pieces) or length < LONG_ADAPTER_MM:
        return NOT_ASKED
    return found(
        Severity.NOTE,
        f"The {length:.0f} mm {'adapter has' if len(setup.pieces) == 1 else 'of adapter and converter have'} no tripod foot: a heavy lens hangs on the body's mount.",
        "Carry it by the lens; on a tripod, use the lens's own foot or a support.",
    )  # fmt: skip
