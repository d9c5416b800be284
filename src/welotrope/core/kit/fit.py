"""The fit check: does a lens go on a body without harm, and what will not work. One rule, one function.

Unknown data never passes as safe: a rule that cannot decide says what to look for and how.
"""

from __future__ import annotations

import functools
from collections.abc import Sequence

from welotrope.core.kit import fit_joint as joint
from welotrope.core.kit import fit_parts as parts
from welotrope.core.kit.setup import Setup
from welotrope.core.rules import Rule, RuleFinding, Severity, checked, findings, table_of, worst_first


@functools.lru_cache(maxsize=128)
def check_fit(setup: Setup) -> tuple[RuleFinding, ...]:
    """Return every finding on a set-up, worst first; every page of a set-up asks.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    return tuple(worst_first(findings(FIT_RULES.values(), setup)))


def checked_parts(setup: Setup) -> list[str]:
    """Return what is known of a set-up, was looked at and is well, in words; only of this may “checked” be said.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    return checked(FIT_RULES.values(), setup)


def verdict(found: Sequence[RuleFinding]) -> Severity | None:
    """Return the worst severity found, or None when nothing was.

    Parameters
    ----------
    found
        Findings of the fit check.
    """
    return found[0].severity if found else None


FIT_RULES: dict[str, Rule[Setup]] = table_of((
    Rule(id="mounts-known", topic="mounts", severity=Severity.CAREFUL, says=joint.mounts_unknown,
         when="the mount of lens or body is not entered",
         clears="the mount's name, from the manual or by measure",
         source="what is not known is not safe"),
    Rule(id="mounts-join", topic="mounts", severity=Severity.BLOCKER, says=joint.mounts_join,
         when="the mounts do not meet, by themselves or by the adapter",
         clears="an adapter between the two mounts",
         source="a bayonet or thread takes only its own"),
    Rule(id="register-possible", topic="flange distance", severity=Severity.BLOCKER, says=joint.register_possible,
         when="the flange distances leave no room for a plain adapter, or one is not known",
         clears="an adapter with glass, or another body",
         source="the lens must sit at its own flange distance from the film"),
    Rule(id="adapter-optics", topic="the adapter’s glass", severity=Severity.CAREFUL, says=joint.optics,
         when="the adapter has glass of its own",
         clears="the factor of its glass, or an adapter without",
         source="glass changes focal length, stops and corners"),
    Rule(id="converter-front", topic="front glass of the converter", severity=Severity.BLOCKER,
         says=parts.converter_front,
         when="the rear of the lens reaches the glass behind it, or it is not known",
         clears="a ruler across the mount of the lens, and the depth of the converter's front glass",
         source="glass meets glass"),
    Rule(id="infinity", topic="infinity", severity=Severity.CAREFUL, says=joint.infinity,
         when="an adapter is too thick or too thin, or not measured",
         clears="a measurement with a caliper, or infinity sighted in Scale",
         source="a thickness error moves the whole scale"),
    Rule(id="rear-protrusion", topic="rear parts", severity=Severity.BLOCKER, says=parts.rear_protrusion,
         when="rear parts reach as deep as mirror or shutter, or it is not known",
         clears="a ruler across the mount, and the maker's clearance",
         source="a mirror or shutter hits what stands in its way"),
    Rule(id="throat", topic="throat", severity=Severity.BLOCKER, says=parts.throat,
         when="the rear is wider than what it passes through",
         clears="width of the rear, with a caliper",
         source="it must pass every opening up to where it ends"),
    Rule(id="coupling-lever", topic="coupling lever", severity=Severity.BLOCKER, says=parts.coupling_lever,
         when="an uncut aperture ring may meet a lever or ridge of the body",
         clears="what the rear edge of the ring looks like, and how far the lever stands out",
         source="the lever breaks first"),
    Rule(id="aperture-pin", topic="aperture pin", severity=Severity.CAREFUL, says=parts.aperture_pin,
         when="a pin is not pressed, or it is not known",
         clears="an adapter that presses the pin, or a switch on the lens",
         source="the aperture stays open"),
    Rule(id="aperture-control", topic="how the aperture is worked", severity=Severity.CAREFUL,
         says=parts.aperture_control,
         when="nothing works the aperture, or it is not known",
         clears="an adapter that works it, or a lens with a ring",
         source="without control a lens stays at one stop"),
    Rule(id="endless-focus", topic="focus stops", severity=Severity.NOTE, says=parts.endless_focus,
         when="the ring turns without end",
         clears="",
         source="marks need a ring that ends"),
    Rule(id="image-circle", topic="picture size", severity=Severity.NOTE, says=parts.image_circle,
         when="the lens covers less than the picture, or it is not known",
         clears="a crop, or a smaller picture area",
         source="corners outside the circle stay dark"),
    Rule(id="tripod-foot", topic="tripod foot", severity=Severity.NOTE, says=parts.tripod_foot,
         when="a long adapter has no foot of its own",
         clears="the lens's own foot, or a support",
         source="a mount is not made to carry a lever"),
))  # fmt: skip
