"""The field page: one page for the phone, which needs the server for nothing once it is there."""

from __future__ import annotations

from welotrope.web.request.room import Room, Section
from welotrope.web.rooms.field.cards import routes as cards
from welotrope.web.rooms.field.craft import CRAFT
from welotrope.web.rooms.field.page import routes as page
from welotrope.web.rooms.field.pocket import section as pocket
from welotrope.web.rooms.field.queue import section as queue

ROOM = Room(
    key="field",
    label="Field",
    sections=(
        Section(router=page.router, path="/field", tab="On the phone"),
        Section(router=queue.router),
        Section(router=pocket.router, path="/field/pocket", tab="Pocket file", jump="Pocket file and its log"),
        Section(router=cards.router, path="/field/cards", tab="Cards on paper", jump="Cards of the outing on paper"),
    ),
    craft=CRAFT,
)
