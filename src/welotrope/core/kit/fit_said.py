"""What the rules of the fit check share: how they say what they found."""

from __future__ import annotations

from welotrope.core.rules import Passed, Said, Severity

CHECKED, NOT_ASKED = Passed.CHECKED, Passed.NOT_ASKED


def found(severity: Severity, text: str, clears: str, drawing: str = "") -> Said:
    """Return what a rule of the fit check says: how bad it is, what was found, and what clears it."""
    return Said(text=text, clears=clears, severity=severity, drawing=drawing)
