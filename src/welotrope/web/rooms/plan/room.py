"""The Plan room: its sections, and the craft behind it."""

from __future__ import annotations

from welotrope.web.request.room import Craft, Room, Section
from welotrope.web.rooms.plan import close, compare, light, moving, night, presets, scene, sitter, zones

CRAFT: tuple[Craft, ...] = (
    Craft(
        title="Set and shoot: zones",
        why=(
            "A zone set beforehand needs no focusing: one for distant subjects, one for conversation distance."
            " Everything in the zone is sharp."
        ),
        when="Wide lenses, good light, people who move.",
        cost=("Light: higher ISO or slower shutter; not pixel-sharp; not for shallow depth of field."),
    ),
    Craft(
        title="Place the plane",
        why=(
            "Focus wide open, exactly on an eye, a star or lettering. Depth of field does not move the"
            " focus; stopping down only hides an error."
        ),
        when="Dim light, portraits, anything that must be very sharp.",
        cost="Time for every frame, and a still subject.",
    ),
    Craft(
        title="Is there enough light?",
        why="Small apertures and fast shutter speeds need a lot of light, and clouds take two stops more.",
        when="Before choosing f/11 for a zone.",
        cost="A compromise: smaller zone, higher ISO or slower shutter.",
    ),
    Craft(
        title="Pre-focus and wait",
        why=(
            "Focus where the subject will be and wait. Press early by your reaction time and the shutter"
            " lag, then set the next distance."
        ),
        when="Subjects that come towards you: boats, bicycles, people.",
        cost="Few frames, but sharp ones.",
    ),
    Craft(
        title="Lean with the sitter",
        why=(
            "Close up, people sway more than the depth of field allows. Moving your head is faster than turning"
            " the ring."
        ),
        when="Portraits wide open, macro by hand.",
        cost="Practice; a tripod or monopod is better.",
    ),
    Craft(
        title="Getting closer",
        why="Close-up lenses and extension tubes focus nearer; both reduce the working distance.",
        when="When closest focus is not near enough.",
        cost="Strong close-up lenses soften the edges, tubes cost light, and depth of field is millimetres.",
    ),
    Craft(
        title="Stars",
        why=(
            "Do not rely on the infinity stop: magnify a bright star, turn until it is smallest, go past it and"
            " come back."
        ),
        when="Every clear night, and again when it gets colder.",
        cost="Test frames; the foreground may need a separate frame.",
    ),
)


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
