"""The Log room."""

from __future__ import annotations

from welotrope.web.request.room import Room, Section
from welotrope.web.rooms.log.craft import CRAFT
from welotrope.web.rooms.log.frame import routes as frame
from welotrope.web.rooms.log.landing import section as landing
from welotrope.web.rooms.log.outing import routes as outing
from welotrope.web.rooms.log.pictures import routes as pictures
from welotrope.web.rooms.log.pictures import serving
from welotrope.web.rooms.log.report import section as report
from welotrope.web.rooms.log.review import routes as review
from welotrope.web.rooms.log.rolls import section as rolls
from welotrope.web.rooms.log.sidecars import routes as sidecars
from welotrope.web.rooms.log.typing import routes as typing
from welotrope.web.rooms.log.why import routes as why

ROOM = Room(
    key="log",
    label="Log",
    sections=(
        Section(router=outing.router, path="/log", tab="Frames"),
        Section(router=typing.router, path="/log/type", jump="Type in handwritten notes"),
        Section(router=frame.router),
        Section(router=serving.router),
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
