"""The finder's scenes: each one record, its key, name and where it may be shown; apart from what draws them.

Naming them does not load OpenCV. Rendered ones come with the application, in a folder of their key; painted ones are
drawn by the function of their key in :mod:`finder.scenes`, which also stands in for some that are rendered where no
pictures can be read.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True)
class SceneEntry:
    """A scene.

    Parameters
    ----------
    name, label
        Its key, and what it is called.
    rendered
        Whether it was rendered beforehand by a ray tracer; painted by code otherwise.
    anywhere
        Whether an exercise that names no scenes of its own may be set in it.
    live
        Whether the made-up camera may stand before it: its target is what comes into focus first, and holds detail.
    """

    name: str
    label: str
    rendered: bool = False
    anywhere: bool = True
    live: bool = False

    @property
    def title(self) -> str:
        """What it is called, as a heading."""
        return self.label[0].upper() + self.label[1:]


SCENES = (
    SceneEntry(name="figurehead", label="the figurehead of the Teal", rendered=True, live=True),
    SceneEntry(name="bench", label="brass and glass on the bench", rendered=True),
    SceneEntry(name="pebbles", label="wet pebbles", rendered=True),
    SceneEntry(name="reeds", label="a damselfly in the reeds", rendered=True),
    SceneEntry(name="rigging", label="rigging against the sky", rendered=True, live=True),
    SceneEntry(name="shore", label="the grassy shore", rendered=True),
    SceneEntry(name="dusk", label="the slip at dusk", rendered=True, live=True),
    SceneEntry(name="bow", label="the bow of the Teal", rendered=True),
    SceneEntry(name="shed", label="the shed before dawn", rendered=True),
    SceneEntry(name="plank", label="the name board", rendered=True),
    SceneEntry(name="sitter", label="Ida by the lake", rendered=True),
    SceneEntry(name="quay", label="launch day on the quay", rendered=True),
    SceneEntry(name="deck", label="the rails of the Teal", rendered=True),
    SceneEntry(name="boat", label="a boat on the lake", rendered=True, anywhere=False),
    SceneEntry(name="stars", label="night over the lake", anywhere=False, live=True),
)
BY_NAME = {scene.name: scene for scene in SCENES}
RENDERED = tuple(scene.name for scene in SCENES if scene.rendered)
ANYWHERE = tuple(scene.name for scene in SCENES if scene.anywhere)
FOR_LIVE = tuple(scene.name for scene in SCENES if scene.live)
