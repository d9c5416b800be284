"""The field page: one page for the phone, which needs the server for nothing once it is there."""

from __future__ import annotations

from welotrope.web.request.room import Craft, Room, Section
from welotrope.web.rooms.field import cards, page, pocket, queue

CRAFT = (
    Craft(
        title="Settings, not distances",
        why="In the street there is no time to measure. With two zones, the subject is in one of them.",
        when="Where subjects approach and leave faster than you can focus.",
        cost="Subjects between two zones, or nearer than the near one, are not sharp.",
    ),
    Craft(
        title="One tap, the result later",
        why="A frame logged when taken keeps the setting; you add the result at home.",
        when="Whenever you want to know later why focus missed.",
        cost="One tap per frame.",
    ),
    Craft(
        title="Away from the computer",
        why="Once loaded, the page needs no server; what you log waits on the phone. The pocket file is the"
        " same page as one file, for use without any network.",
        when="Loaded at home, used in the field; the pocket file where the tab might be closed.",
        cost="Tables do not update themselves: load the page again after changing the kit.",
    ),
)


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
