"""The Scale room: its sections, and the craft behind it."""

from __future__ import annotations

from welotrope.core.kit.camera_kind import CameraKind, ScaleShown
from welotrope.web.request.room import Craft, Room, Section
from welotrope.web.rooms.scale import infinity, marks, measure, printing, ring, rows, shift

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Hyperfocal: infinity on the far mark",
        why=(
            "The near mark then shows the near limit and the index the hyperfocal distance:"
            " the most depth of field with a sharp horizon."
        ),
        when="Landscapes, crowds, streets, with a wide lens stopped down.",
        cost="The horizon itself is only just sharp.",
    ),
    Craft(
        title="Measure the throw",
        why=("The focus throw shows how many degrees, or millimetres along the ring, the window covers."),
        when="Once for each lens; the numbers are then measured and not assumed.",
        cost="Half an hour with a paper collar and a tape measure.",
    ),
    Craft(
        title="Infinity not at its mark",
        why="Many adapters and lenses put infinity before or past its mark; then all distances are wrong.",
        when="When stars are soft at the mark, or distant subjects are sharp before it.",
        cost="A few checks on a distant subject; shimming is a job for a technician.",
    ),
    Craft(
        title="Focus shift",
        why="Some lenses change their focus distance when stopped down.",
        when="When a frame focused wide open is soft only when stopped down.",
        cost="A few trials for each f-stop; then all pages include it.",
    ),
)


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
        Section(router=rows.router),
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
