"""The Practice room."""

from __future__ import annotations

from welotrope.core.practice.drills import DRILLS, Drill
from welotrope.core.practice.exercises import exercises_for
from welotrope.web.request.room import Room, Section
from welotrope.web.rooms.practice.craft import CRAFT
from welotrope.web.rooms.practice.display import section as display
from welotrope.web.rooms.practice.drill import routes as drill
from welotrope.web.rooms.practice.drill.routes import drill_router
from welotrope.web.rooms.practice.hand import routes as hand
from welotrope.web.rooms.practice.reaction import section as reaction
from welotrope.web.rooms.practice.record import section as record
from welotrope.web.rooms.practice.round import routes as round
from welotrope.web.rooms.practice.trial import section as trial


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
