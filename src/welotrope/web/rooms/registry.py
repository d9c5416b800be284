"""Every room, in the order of the rail: the one list to add to."""

from __future__ import annotations

from welotrope.web.request.room import Room
from welotrope.web.rooms.aids.room import ROOM as AIDS
from welotrope.web.rooms.everywhere.room import ROOM as EVERYWHERE
from welotrope.web.rooms.field.room import ROOM as FIELD
from welotrope.web.rooms.kit.room import ROOM as KIT
from welotrope.web.rooms.log.room import ROOM as LOG
from welotrope.web.rooms.plan.room import ROOM as PLAN
from welotrope.web.rooms.practice.room import ROOM as PRACTICE
from welotrope.web.rooms.scale.room import ROOM as SCALE
from welotrope.web.rooms.shots.room import ROOM as SHOTS

ROOMS: tuple[Room, ...] = (EVERYWHERE, KIT, SCALE, PLAN, AIDS, PRACTICE, FIELD, LOG, SHOTS)
