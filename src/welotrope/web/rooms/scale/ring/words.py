"""What a ring's figures are called on the page: its basis, its infinity, and amounts of ring."""

from __future__ import annotations

from welotrope.core.kit.camera_kind import ScaleShown
from welotrope.core.kit.known_ring import Basis, InfinityBasis
from welotrope.core.kit.lens import RingSource
from welotrope.core.kit.setup import Setup


def basis_words(setup: Setup) -> str:
    """Say what the ring's distances rest on, after the label."""
    known, shown = setup.known, setup.body.kind.scale
    if known.basis is Basis.ASSUMED and shown is ScaleShown.BAR:
        return "the bar’s distances are not known yet; read its steps against a wall in Measure"
    if known.basis is Basis.ASSUMED and shown is ScaleShown.NUMBERS:
        return "millimetres on the bed from the infinity position, from the marked focal length"
    if known.basis is Basis.ASSUMED:
        return (
            f"a throw of {known.true.throw_deg:.0f}° is assumed; angles and windows are estimates until you measure it"
        )
    if known.basis is Basis.ENGRAVED:
        readings = known.calibration.used if known.calibration else 0
        if readings:
            return f"{readings} readings of the engraving"
        return {
            RingSource.READING: "one reading of the engraving; the far end is calculated from it",
            RingSource.MEASURED: "measured throw; distances calculated from it",
        }[setup.lens.ring_source]
    if known.step_deg:
        return f"{_readings(setup)} of the indicator at measured distances"
    return f"{_readings(setup)} at measured distances" + ("" if setup.records.measured else ", on another set-up")


def infinity_words(setup: Setup) -> str:
    """Say where infinity lies and how that is known; empty for a maker’s own scale, and with no ring to sight it on."""
    known = setup.known
    if known.step_deg is not None or setup.body.kind.scale is not ScaleShown.RING:
        return ""
    if known.infinity_basis is InfinityBasis.ENGRAVED and not setup.infinity_known:
        return "Infinity is not known yet: check it once."
    angle = known.true.infinity_deg
    source = {
        InfinityBasis.SIGHTED: "by your check", InfinityBasis.MEASURED: "by the measured distances",
        InfinityBasis.ADAPTER: "from the adapter’s thickness, not checked yet", InfinityBasis.ENGRAVED: "",
    }[known.infinity_basis]  # fmt: skip
    if not known.scale_is_off:
        if known.infinity_basis is InfinityBasis.ADAPTER:
            return "By the adapter’s thickness, infinity should be at its mark; not checked yet."
        return "Infinity is at its mark." if source else ""
    if angle < 0:
        return f"Infinity is not reached, {source}."
    off = angle - known.scale.infinity_deg
    side = "before the ∞ mark" if off > 0 else "past the ∞ mark"
    return f"Infinity lies {abs(off):.1f}° {side}, {source}."


def _readings(setup: Setup) -> str:
    calibration = setup.known.calibration
    return f"{calibration.used if calibration else 0} readings"
