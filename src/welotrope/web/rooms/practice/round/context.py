"""What the page of a round shows."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import TYPE_CHECKING

from welotrope.core.finder.display import Display
from welotrope.core.kit.aids.registry import view_name
from welotrope.core.practice.exercises import Exercise
from welotrope.core.practice.scene_list import BY_NAME
from welotrope.web.rooms.practice.keeper import OpenRound

if TYPE_CHECKING:
    from welotrope.core.finder.round import Round


@dataclass(frozen=True, kw_only=True)
class RoundPage:
    """A round being played; nothing in it tells how far the subject is."""

    key: str
    setup_name: str
    exercise: Exercise
    scene_title: str
    target_name: str
    aid: str
    aid_name: str
    stop: float
    view_stop: float
    steps: tuple[float, ...]
    grids: tuple[float, ...]
    blend: int
    first_step: float
    levels: tuple[str, ...]
    colours: tuple[str, ...]
    live: bool
    moving: bool
    throw_deg: float
    start_deg: float
    direction: int
    area: tuple[float, float]
    lean_mm: float
    lean_grid_mm: float
    finder_px: tuple[float, ...]
    measured: bool

    @property
    def plan_json(self) -> str:
        """What the script works with; safe inside a script element."""
        plan = {
            "base": f"/practice/rounds/{self.key}", "steps": self.steps, "grids": self.grids, "blend": self.blend,
            "first_step": self.first_step, "turned": self.exercise.turned, "levels": self.levels,
            "colours": self.colours, "live": self.live, "moving": self.moving, "throw_deg": self.throw_deg,
            "start_deg": self.start_deg, "direction": self.direction, "area": self.area, "lean": self.lean_mm,
            "lean_grid": self.lean_grid_mm, "peak_first": bool(self.exercise.finishes_on),
            "finder_px": self.finder_px,
        }  # fmt: skip
        return json.dumps(plan).replace("<", "\\u003c")


def round_page(opened: OpenRound, display: Display | None) -> RoundPage:
    """Compute the page a round is played on."""
    from welotrope.core.finder.round import MAX_LEAN_MM

    made = opened.round
    scene = made.finder.stage.scene
    setup = opened.setup
    return RoundPage(
        key=opened.key, setup_name=setup.name, exercise=made.exercise, scene_title=BY_NAME[scene.name].title,
        target_name=scene.target_name, aid=made.aid, aid_name=view_name(made.aid), stop=made.stop,
        view_stop=made.view_stop, steps=made.steps, grids=tuple(made.grid_deg(step) for step in made.steps),
        blend=made.blend_frames,
        first_step=made.first_step, levels=tuple(name for name, _ in made.levels),
        colours=setup.body.traits.peaking_colours or ("white", "red", "yellow"), live=made.live,
        moving=scene.moves, throw_deg=made.ring.throw_deg, start_deg=made.start_deg,
        direction=1 if setup.lens.infinity_side.value == "left" else -1,
        area=(round(scene.target_x, 3), round(scene.target_y, 3)),
        lean_mm=MAX_LEAN_MM if made.exercise.leans else 0.0, lean_grid_mm=made.lean_grid_mm(made.first_step),
        finder_px=_finder_px(made, display),
        measured=display is not None,
    )  # fmt: skip


def _finder_px(made: Round, display: Display | None) -> tuple[float, ...]:
    """Return how wide the picture would be as large as in the finder, by magnification, px; none for live pictures."""
    from welotrope.core.finder.finder import WIDTH_PX

    slopes = [made.pixel_slope(step) for step in made.steps]
    return tuple(display.width_for(WIDTH_PX * one) for one in slopes if display and one)
