"""The Scale room."""

from __future__ import annotations

from welotrope.core.kit.camera_kind import CameraKind, ScaleShown
from welotrope.web.request.room import Room, Section
from welotrope.web.rooms.scale import kept
from welotrope.web.rooms.scale.craft import CRAFT
from welotrope.web.rooms.scale.infinity import section as infinity
from welotrope.web.rooms.scale.marks import section as marks
from welotrope.web.rooms.scale.measure import routes as measure
from welotrope.web.rooms.scale.printing import routes as printing
from welotrope.web.rooms.scale.ring import routes as ring
from welotrope.web.rooms.scale.shift import section as shift


def _has_a_ring(camera: CameraKind) -> bool:
    """Whether there is an engraved ring to read."""
    return camera.scale is ScaleShown.RING


def _to_be_measured(camera: CameraKind) -> bool:
    """Whether where its distances lie is to be found out: a bed is its own rule."""
    return camera.scale is not ScaleShown.NUMBERS


ROOM = Room(
    key="scale",
    label="Scale",
    sections=(
        Section(router=ring.router, path="/scale", tab="Setting"),
        Section(
            router=measure.router, path="/scale/measure", tab="Measure", jump="Measure the throw", suits=_to_be_measured
        ),
        Section(router=marks.router, path="/scale/marks", tab="Depth marks", jump="Depth marks", suits=_has_a_ring),
        Section(router=infinity.router, path="/scale/infinity", tab="Infinity", jump="Infinity", suits=_has_a_ring),
        Section(router=shift.router, path="/scale/shift", tab="Focus shift", jump="Focus shift", suits=_has_a_ring),
        Section(router=printing.router, path="/scale/print", tab="Print", jump="Print a strip, a collar or a card"),
        Section(router=kept.router),
    ),
    keys=(
        ("← →", "turn the ring finely; with Shift coarsely"),
        ("[ ]", "a stop to the left, to the right: open up, stop down"),
        ("0", "ring to infinity"),
        ("1 … 9", "to a preset of the lens, in Scale"),
        ("l", "log a frame from here"),
    ),
    first_sight=(
        "The focus scale, drawn flat; the triangle is the index mark. The hatched window is how far off the setting"
        " may be with the subject still sharp."
    ),
    craft=CRAFT,
)
