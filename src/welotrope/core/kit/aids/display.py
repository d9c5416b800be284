"""What the aids on a live picture share: the display, and its magnifications."""

from __future__ import annotations

from welotrope.core import fields
from welotrope.core.inputs import Group, whole_input
from welotrope.core.kit.aids.kind import AidInput, positive
from welotrope.core.kit.aids.view import Aids, FinderScene, Part, Through

USUAL_PX, USUAL_STEPS = 1280, (5.0, 10.0)
DISPLAY_PX = whole_input(
    "display_px", fields.DISPLAY_PX, "Live view: display pixels across", 160, 10_000, group=Group.AIDS,
    hint="A display of 1.04 million dots shows about 720, an electronic finder of 3.7 million 1280; 1280 is assumed",
)  # fmt: skip
ASKED_DISPLAY = (
    positive("pitch_mm"),
    AidInput(name="sensor_px", low=100, high=100_000, whole=True),
    AidInput(name="display_px", low=100, high=100_000, whole=True),
)


def display_seen(aids: Aids, *parts: Part) -> FinderScene:
    """Return a live picture with parts in it, magnified as the body magnifies, or as is usual."""
    pixels = next((aids[tag].display_px for tag in ("peaking", "magnified") if tag in aids), USUAL_PX)
    steps = aids["magnified"].steps if "magnified" in aids else USUAL_STEPS
    return FinderScene(through=Through.DISPLAY, parts=parts, display_px=pixels, steps=steps)
