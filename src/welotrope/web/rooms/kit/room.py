"""The Kit room: its sections, and the craft behind it."""

from __future__ import annotations

from welotrope.web.request.room import Craft, Room, Section
from welotrope.web.rooms.kit import backups, files, setup, sheet, shelf, slots, start, things

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Does it fit together?",
        why=(
            "A lens that does not fit can break a mirror, a lever or its own rear. Anything unknown is never"
            " treated as safe."
        ),
        when="Before a lens is mounted for the first time, and after any change of adapter.",
        cost="A few measurements with a ruler; the maker’s data, or a repairer, for what cannot be measured.",
    ),
    Craft(
        title="Tell the camera",
        why=(
            "An adapted lens sends no data: manual focus, the release without a lens, focal length for the "
            "stabiliser and the magnifier’s button have to be set by hand."
        ),
        when="Before the first frame of every outing; the set-up sheet lists it to tick off.",
        cost="A minute. Forgetting it is the most common mistake.",
    ),
    Craft(
        title="What counts as sharp",
        why=(
            "All depth of field, windows and chances depend on it. Film and small prints allow more blur"
            " than a sensor viewed large."
        ),
        when="Once for each set-up, and again when you print larger.",
        cost="A stricter criterion shrinks every zone; a looser one promises more sharpness than the print shows.",
    ),
)


ROOM = Room(
    key="kit",
    label="Kit",
    sections=(
        Section(router=sheet.router),
        Section(router=slots.router),
        Section(router=files.router),
        Section(router=backups.router, path="/kit/backups", jump="Backups, and everything as one file"),
        Section(router=setup.router),
        Section(router=things.router),
        Section(router=shelf.router, path="/kit"),
        Section(router=start.router),
    ),
    needs_setup=False,
    craft=CRAFT,
)
