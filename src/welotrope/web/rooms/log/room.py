"""The Log room: its sections, and the craft behind it."""

from __future__ import annotations

from welotrope.web.request.room import Craft, Room, Section
from welotrope.web.rooms.log import (
    frame,
    landing,
    outing,
    picture_serving,
    pictures,
    report,
    review,
    rolls,
    sidecars,
    typing,
    why,
)

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Find out why",
        why="Misses to one side point to a fault in the equipment; misses to both sides to practice or"
        " an imprecise aid.",
        when="After about thirty marked frames with a set-up, or when focus keeps missing.",
        cost="A few test frames; no cause is named before they support it.",
    ),
    Craft(
        title="Write it down",
        why=(
            "Pictures from adapted lenses lack lens data, and film has none. Without a log, lens,"
            " f-stop, distance, aid and result are lost."
        ),
        when="When the frame is taken; the result at home.",
        cost="One key, or one tap.",
    ),
    Craft(
        title="Set the clock before the pictures",
        why=(
            "A camera's clock drifts by minutes in months, and pictures are matched to frames by time."
            " Photograph this page's clock, or let the pictures show the error."
        ),
        when="Before an outing, or when its pictures come in.",
        cost="One picture per camera.",
    ),
    Craft(
        title="Check the intended spot at 1:1",
        why=(
            "A picture at screen size hides an error of a few pixels, and contrast looks like sharpness. The "
            "outline shows what is sharp by your criterion; the result is your decision."
        ),
        when="When reviewing an outing; look in front and behind too.",
        cost="One key per picture: the result moves on to the next, Undo moves back.",
    ),
    Craft(
        title="Give the data back",
        why=(
            "Other programs only see lens, f-stop and distance if they are stored with the picture. A sidecar"
            " file holds them in standard fields and does not change the picture."
        ),
        when="When an outing is matched and checked.",
        cost="One click; can be undone.",
    ),
    Craft(
        title="What is sharp instead?",
        why=(
            "What is sharp instead shows where focus was. One-sided misses point to a fault, scattered"
            " misses to practice or a more precise aid."
        ),
        when="Looking at the pictures large.",
        cost="A look in front and behind, for every miss.",
    ),
)


ROOM = Room(
    key="log",
    label="Log",
    sections=(
        Section(router=outing.router, path="/log", tab="Frames"),
        Section(router=typing.router, path="/log/type", jump="Type in handwritten notes"),
        Section(router=frame.router),
        Section(router=picture_serving.router),
        Section(router=pictures.router, path="/log/pictures", tab="Pictures", jump="Bring in pictures"),
        Section(router=landing.router, path="/log/landing", jump="Watch a folder for new pictures"),
        Section(router=sidecars.router, path="/log/sidecars", jump="Give the data back to pictures"),
        Section(router=review.router, path="/log/review", tab="Review", jump="Review pictures"),
        Section(router=report.router, path="/log/report", tab="Report", jump="Report of an outing"),
        Section(router=why.router, path="/log/why", tab="Why", jump="Why it missed"),
        Section(router=rolls.router, path="/log/rolls", tab="Rolls", jump="Rolls of film"),
    ),
    needs_setup=False,
    keys=(
        ("f", "find frames"),
        ("m c", "match pictures by time; correct the clock"),
        ("r", "review pictures"),
        ("1 to 7", "in review: hit, in front, behind, moved, shaken, soft lens, unsure"),
        ("n p", "in review: next, previous picture"),
        ("z", "in review: 1:1 and back"),
        ("o", "in review: outline what is sharp"),
        ("b", "in review: beside the pictures of its burst"),
    ),
    craft=CRAFT,
)
