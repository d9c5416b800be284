"""What the rules of the fit check share: how they say what they found."""

from __future__ import annotations

from welotrope.core.kit.setup import Setup
from welotrope.core.rules import Answer, Finding, NoFinding, Severity

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
