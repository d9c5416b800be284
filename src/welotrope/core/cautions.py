"""The usual cautions, for help and field page."""

from __future__ import annotations

CAUTIONS = (
    "Never point a finder, a magnifier or a long lens at the sun: it can burn the eye and the shutter.",
    "Walking with the camera up or shooting from the hip: watch traffic and your footing.",
    "Photographing strangers: follow local law and ordinary courtesy, and stop when asked.",
    "Never force a mount. If you are not sure that a fit is safe, check the maker's data or ask a repairer.",
    "Opening a lens, shimming it or adjusting a rangefinder is a job for a technician unless you have the skills.",
    "At night: know the place, carry a light, do not go alone.",
)
