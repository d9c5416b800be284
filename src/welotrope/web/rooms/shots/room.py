"""The Test shots room."""

from __future__ import annotations

from welotrope.web.request.room import Room, Section
from welotrope.web.rooms.shots.aid import routes as aid
from welotrope.web.rooms.shots.craft import CRAFT
from welotrope.web.rooms.shots.series import routes as series
from welotrope.web.rooms.shots.sheets import section as sheets

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
