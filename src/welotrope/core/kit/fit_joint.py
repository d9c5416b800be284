"""Rules of the fit check on the joint (do the mounts meet, is there room, where does infinity lie), and how rules say it."""

from __future__ import annotations

from collections.abc import Sequence

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.mount import Mount
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.depth import BLUR_TOLERANCE
from welotrope.core.ring.true_infinity import MAX_ERROR_MM, adapter_effect, infinity_stop
from welotrope.core.rules import Answer, Finding, NoFinding, Severity
from welotrope.core.units.distance import format_feet, format_metric
from welotrope.core.units.exposure import MAX_STOP, format_stop

CHECKED, NOT_ASKED = NoFinding.CHECKED, NoFinding.NOT_ASKED


def found(severity: Severity, text: str, clears: str, *, drawing: str = "") -> Finding:
    """Return what a rule of the fit check says: how bad it is, what was found, and what clears it.

    Parameters
    ----------
    severity
        How bad it is.
    text
        What was found, as a sentence.
    clears
        What clears it, as a sentence.
    drawing
        Name of the drawing that shows it; empty for none.
    """
    return Finding(text=text, clears=clears, severity=severity, drawing=drawing)


def of_own_lens(setup: Setup) -> Answer:
    """Return what a rule on the joint says of a lens that belongs to the camera: by word, or with no joint at all.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    return CHECKED if setup.body.kind.has_mount else NOT_ASKED


PLAIN_RING_MM = 1.0  # thinner, one with two faces cannot be made
SAME_REGISTER_MM = 0.02
RING_WALL_MM = 1.5


def mounts_unknown(setup: Setup) -> Answer:
    """Judge whether both mounts are known.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    if setup.own_lens:
        return of_own_lens(setup)
    missing = [name for name, thing in (("lens", setup.lens), ("body", setup.body)) if thing.mount is None]
    if not missing:
        return NOT_ASKED
    return found(
        Severity.CAREFUL, f"Not known: the mount of the {' and the '.join(missing)}.",
        "Look for the mount's name in the manual, or measure thread or bayonet across; enter it with the "
        + " and ".join(missing) + ".", drawing="register",
    )  # fmt: skip


def mounts_join(setup: Setup) -> Answer:
    """Judge whether the mounts meet, by themselves or by what stands between.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    lens, body, pieces = setup.lens.mount, setup.body.mount, setup.pieces
    if setup.own_lens:
        return of_own_lens(setup)
    if lens is None or body is None:
        return NOT_ASKED
    if not pieces:
        if lens == body:
            return CHECKED
        return found(
        Severity.BLOCKER, f"A {lens.name} lens does not go on a {body.name} body by itself.",
            f"Choose an adapter from {lens.name} to {body.name}.", drawing="register",
        )  # fmt: skip
    first, last = pieces[0], pieces[-1]
    if len(pieces) > 1 and first.body_side != last.lens_side:
        return found(
            Severity.BLOCKER,
            f"{first.name} ends in {first.body_side.name}, {last.name} takes {last.lens_side.name}: the two do not join.",
            "Choose two that share a mount where they meet.", drawing="register",
        )  # fmt: skip
    wrong = [
        text
        for side, have, text in (
            (first.lens_side, lens, f"takes {first.lens_side.name} lenses, this one is {lens.name}"),
            (last.body_side, body, f"goes on {last.body_side.name}, this body is {body.name}"),
        )
        if side != have
    ]
    if not wrong:
        return CHECKED
    return found(
        Severity.BLOCKER, f"{_joined(pieces)} {' and '.join(wrong)}. Forcing it breaks one or both.",
        f"Choose an adapter from {lens.name} to {body.name}.", drawing="register",
    )  # fmt: skip


def register_possible(setup: Setup) -> Answer:
    """Judge whether the flange distances leave space for an adapter.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    lens, body = setup.lens.mount, setup.body.mount
    if lens is None or body is None or lens == body or setup.own_lens:
        return NOT_ASKED
    if lens.register_mm is None or body.register_mm is None:
        unknown = lens.name if lens.register_mm is None else body.name
        return found(
            Severity.CAREFUL,
            f"Not known: the flange distance of {unknown}, so whether the lens reaches infinity cannot be said.",
            "Look for “flange distance” in the maker's data, or measure from mount face to film plane with a depth gauge "
            "on an open, unloaded film body.", drawing="register",
        )  # fmt: skip
    room = lens.register_mm - body.register_mm
    if any(piece.optics and not piece.is_converter for piece in setup.pieces):
        if room >= PLAIN_RING_MM:
            return CHECKED
        return found(
            Severity.CAREFUL,
            f"The lens needs to sit {abs(min(room, 0)):.2f} mm nearer than the flange; the adapter's own glass makes up for"
            " it.", "Expect softer corners; judge them on a test shot.", drawing="register",
        )  # fmt: skip
    if room >= PLAIN_RING_MM:
        return CHECKED
    plain = [piece for piece in setup.pieces if not piece.optics]
    thickness = plain[0].thickness_mm if plain else None
    if room < -SAME_REGISTER_MM:
        return _recessed(room, lens, body, thickness)
    if thickness is not None and abs(thickness - room) <= PLAIN_RING_MM:
        return CHECKED
    return found(
        Severity.CAREFUL,
        f"{'No' if abs(room) < SAME_REGISTER_MM else f'Only {room:.2f} mm of'} room is left for an adapter: not as a plain "
        "ring; a flush or recessed one exists in principle.",
        "Look for a step in the mount that a flange-less ring can sit in, and enter its thickness face to face (0 for a "
        "flush one).", drawing="register",
    )  # fmt: skip


def _recessed(room: float, lens: Mount, body: Mount, thickness: float | None) -> Answer:
    """Judge a lens that must sit deeper than the body's flange: a ring can sink it where the throat leaves room."""
    if lens.throat_mm is None or body.throat_mm is None:
        unknown = lens.name if lens.throat_mm is None else body.name
        return found(
            Severity.CAREFUL,
            f"The lens has to sit {abs(room):.2f} mm inside the body, and the diameter of {unknown} is not known, so whether "
            "a recessed ring can sink it there cannot be said.",
            "Measure thread and throat across. Without such a ring it is for close-up only.", drawing="throat",
        )  # fmt: skip
    if body.throat_mm < lens.throat_mm + 2 * RING_WALL_MM:
        return found(
            Severity.BLOCKER,
            f"The lens would have to sit {abs(room):.2f} mm inside the body, and a throat of {body.throat_mm:g} mm leaves no "
            f"room for a ring round {lens.throat_mm:g} mm: no adapter without glass reaches infinity.",
            "Use it for close-up only, an adapter with optics, or a body with a shorter flange distance.", drawing="register",
        )  # fmt: skip
    if thickness is not None and thickness < 0:
        return CHECKED
    return found(
        Severity.CAREFUL,
        f"The lens has to sit {abs(room):.2f} mm inside the body: only a recessed ring reaches infinity; the throat leaves "
        "room for one.",
        "Choose a recessed ring and enter its thickness as less than 0; a plain ring serves close-up only.", drawing="register",
    )  # fmt: skip


def optics(setup: Setup) -> Answer:
    """Judge whether what the glass between does is known.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    glass = [piece for piece in setup.pieces if piece.optics]
    if not glass:
        return NOT_ASKED
    unknown = next((piece for piece in glass if piece.factor is None), None)
    if unknown is None:
        return CHECKED
    return found(
        Severity.CAREFUL,
        f"Not known: by how much the glass of {unknown.name} changes focal length and widest stop, so nothing here counts it.",
        "Look for a factor such as 1.4× or 0.7× on it and enter it; everything is reckoned with it then.",
    )  # fmt: skip


def infinity(setup: Setup) -> Answer:
    """Judge where infinity lies by the thickness of the adapter.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    plain = [piece for piece in setup.pieces if not piece.optics and piece.needed_mm is not None]
    if len(plain) != 1:
        return NOT_ASKED
    adapter, error, at_film = plain[0], plain[0].error_mm, setup.joint_error_mm
    if error is None or at_film is None:
        return found(
        Severity.CAREFUL, "Not known: the thickness of the adapter, so where infinity lies.",
            "Look for it with a caliper, face to face at three places, without the springs; enter the middle value.",
            drawing="thickness",
        )  # fmt: skip
    from_stop = infinity_stop(abs(at_film), setup.blur_mm)
    if from_stop <= setup.lens.widest * BLUR_TOLERANCE:
        if setup.infinity_seen or adapter.measured_mm is not None:
            return CHECKED
        return found(
            Severity.NOTE, "By the thickness as sold infinity should be right; nobody has measured or sighted it yet.",
            "Measure the adapter with a caliper, or sight infinity once in Scale.", drawing="thickness",
        )  # fmt: skip
    if abs(error) > MAX_ERROR_MM:
        return found(
        Severity.CAREFUL, f"The adapter is {abs(error):.1f} mm {'too thick' if error > 0 else 'too thin'}.",
            f"An adapter from {adapter.lens_side.name} to {adapter.body_side.name} is {adapter.needed_mm:.2f} mm thick.",
            drawing="thickness",
        )  # fmt: skip
    effect = adapter_effect(setup.lens.focal_mm, at_film, lead_mm=360 / setup.ring().degrees_per_mm(0.0))
    if not effect.reaches_infinity:
        far = f"{format_metric(effect.farthest_mm)} ({format_feet(effect.farthest_mm)})"
        return found(
            Severity.CAREFUL,
            f"The adapter is {error:.2f} mm too thick: focus stops at {far}, and ∞ is within your criterion"
            f" {_from_stop(from_stop)}.",
            f"An adapter {adapter.needed_mm:.2f} mm thick, or having {error:.2f} mm taken off by a technician.", drawing="thickness",
        )  # fmt: skip
    return found(
        Severity.NOTE,
        f"The adapter is {abs(error):.2f} mm too thin: infinity lies {effect.infinity_deg or 0:.1f}° before the stop, "
        f"and every engraved distance is off by as much; at the ∞ mark ∞ is within your criterion {_from_stop(from_stop)}.",
        f"A shim of {abs(error):.2f} mm under the mount; meanwhile do not trust the infinity stop.", drawing="thickness",
    )  # fmt: skip


def _from_stop(stop: float) -> str:
    return f"from {format_stop(stop)}" if stop <= MAX_STOP else "at no stop"


def _joined(pieces: Sequence[Adapter]) -> str:
    return "The adapter" if len(pieces) == 1 else f"{pieces[0].name} with {pieces[-1].name}"
