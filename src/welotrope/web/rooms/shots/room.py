"""The Test shots room: its sections, and the craft behind it."""

from __future__ import annotations

from welotrope.web.request.room import Craft, Room, Section
from welotrope.web.rooms.shots import aid, series, sheets

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="One picture of a sloping sheet",
        why=(
            "The sheet is sharp where the plane of focus crosses it. That place can be measured to a part of the depth"
            " of field, so that a few pictures tell more than dozens of judged frames."
        ),
        when="With a new lens, adapter or rangefinder, after a repair, or when focus keeps falling to one side.",
        cost="A printed sheet, a tripod and ten minutes.",
    ),
    Craft(
        title="Focus anew for each picture",
        why="The mean tells whether the aid is off; the scatter tells how steady eye and hand are with it.",
        when="Three to ten times. Turn the ring away before each.",
        cost="None.",
    ),
    Craft(
        title="Near and far",
        why=(
            "A screen that sits wrong misses by the same amount on the film at every distance; a rangefinder with a"
            " worn cam misses differently near and far."
        ),
        when="When a series at one distance says that an aid is off.",
        cost="A second series.",
    ),
)


ROOM = Room(
    key="shots",
    label="Test shots",
    sections=(
        Section(router=sheets.router, path="/shots/sheets", tab="Sheets to print", jump="Test shots: sheets to print"),
        Section(router=series.router, path="/shots/series", tab="Series", jump="Test shots: the sharpest stop"),
        Section(router=aid.router, path="/shots", tab="An aid", jump="Test shots: is an aid off?"),
    ),
    first_sight=(
        "Photograph the printed sheet a few times, focusing anew on its bold line. The pictures tell where focus fell,"
        " in millimetres, and whether the aid is always off one way."
    ),
    craft=CRAFT,
)
