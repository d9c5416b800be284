"""The Practice room: its sections, and the craft behind it."""

from __future__ import annotations

from welotrope.core.practice.drills import DRILLS, Drill
from welotrope.core.practice.exercises import exercises_for
from welotrope.web.request.room import Craft, Room, Section
from welotrope.web.rooms.practice import display, drill, hand, reaction, record, round, trial
from welotrope.web.rooms.practice.drill import drill_router

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Tape on the ring",
        why="How far the line is from the index shows your focusing error, and for which f-stops it is good enough.",
        when="Before you use a lens wide open; a few minutes, defocusing in both directions.",
        cost="Ten minutes. A line you set yourself shows scatter, not bias.",
    ),
    Craft(
        title="Estimate, then measure",
        why="Zones only work with good distance estimates.",
        when="On any walk, mostly at distances where your zones begin.",
        cost="None. Arm lengths and paces replace a tape measure.",
    ),
    Craft(
        title="Five a day with one routine",
        why="One routine at mixed distances becomes a habit; its hit rate shows how good it is.",
        when="Daily, five minutes.",
        cost="None.",
    ),
    Craft(
        title="Practise with one aid",
        why="Hand and eye improve; the record shows by how much, with an interval.",
        when="A few minutes a day until your results are steady.",
        cost="None; but practice on a screen does not replace the real ring.",
    ),
)


def _drill(drill: Drill) -> Section:
    return Section(
        router=drill_router(drill), path=f"/practice/{drill.id}", tab=drill.tab, jump=drill.jump, suits=drill.suits
    )


ROOM = Room(
    key="practice",
    label="Practice",
    sections=(
        Section(router=round.router),
        Section(router=trial.router),
        Section(
            router=record.router,
            path="/practice",
            tab="Finder",
            suits=lambda camera: bool(exercises_for(camera.can_have)),
        ),
        Section(router=drill.router),
        *map(_drill, DRILLS),
        Section(router=reaction.router, path="/practice/reaction", tab="Reaction"),
        Section(
            router=display.router,
            path="/practice/display",
            tab="Display",
            jump="Measure the display for the finder",
            suits=lambda camera: bool(exercises_for(camera.can_have)),
        ),
        Section(router=hand.router, path="/practice/hand", tab="My accuracy", jump="My accuracy: hit rate by aid"),
    ),
    keys=(
        ("space", "in the finder: release"),
        ("m r d", "in the finder: magnify or look closer, turn the camera, mask"),
    ),
    first_sight=(
        "A simulated finder for this lens and aid. Focus on the named"
        " subject, release, and see where focus was. Your rounds count in Aids."
    ),
    craft=CRAFT,
)
