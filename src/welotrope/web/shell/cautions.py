"""The usual cautions, for help and field page."""

from __future__ import annotations

CAUTIONS = (
    "Never point a finder, a magnifier or a long lens at the sun: it burns the eye and the shutter.",
    "Walking with the camera up or shooting from the hip: watch traffic and your footing.",
    "Photographing strangers: follow local law and ordinary courtesy, and stop when asked.",
    "Never force a mount. When a fit is not known to be safe, ask the maker's data or a repairer.",
    "Opening a lens, shimming it or adjusting a rangefinder is a technician's job unless you know how.",
    "At night: know the place, carry a light, do not go alone.",
)
