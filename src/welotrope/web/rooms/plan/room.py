"""The Plan room."""

from __future__ import annotations

from welotrope.web.request.room import Room, Section
from welotrope.web.rooms.plan.close import section as close
from welotrope.web.rooms.plan.compare import section as compare
from welotrope.web.rooms.plan.craft import CRAFT
from welotrope.web.rooms.plan.light import routes as light
from welotrope.web.rooms.plan.moving import routes as moving
from welotrope.web.rooms.plan.night import section as night
from welotrope.web.rooms.plan.presets import section as presets
from welotrope.web.rooms.plan.scene import routes as scene
from welotrope.web.rooms.plan.sitter import section as sitter
from welotrope.web.rooms.plan.zones import routes as zones

ROOM = Room(
    key="plan",
    label="Plan",
    sections=(
        Section(router=presets.router),
        Section(router=scene.router, path="/plan", tab="Scene"),
        Section(router=zones.router, path="/plan/zones", tab="Zones", jump="Zones to remember"),
        Section(router=light.router, path="/plan/light", tab="Light", jump="Light: is there enough for this f-stop?"),
        Section(router=moving.router, path="/plan/moving", tab="Moving", jump="A moving subject: trap"),
        Section(router=sitter.router, path="/plan/sitter", tab="Sitter", jump="A sitter: sway, turning, what fits"),
        Section(router=close.router, path="/plan/close", tab="Close-up", jump="Close-ups and stacks"),
        Section(router=night.router, path="/plan/night", tab="Night", jump="Stars"),
        Section(router=compare.router, path="/plan/compare", tab="Compare", jump="Compare lenses, bodies, standards"),
    ),
    first_sight=("The setting comes first, then the reasons, then your inputs."),
    craft=CRAFT,
)
