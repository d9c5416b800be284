"""A room: one record from which the application, the rail, the tabs, the jump list and the help page are made."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from fastapi import APIRouter

from welotrope.core.kit.camera_kind import CameraKind


@dataclass(frozen=True, kw_only=True)
class Section:
    """A part of a room with routes of its own.

    Parameters
    ----------
    router
        Its routes.
    path
        Where its page is; empty for one without a page to go to.
    tab
        What the room's tabs call it; empty for none.
    jump
        What the jump list calls it; empty for none.
    suits
        Whether it is of use with a camera of a kind; else neither tabs nor jump list lead there.
    """

    router: APIRouter
    path: str = ""
    tab: str = ""
    jump: str = ""
    suits: Callable[[CameraKind], bool] = lambda _camera: True


@dataclass(frozen=True, kw_only=True)
class Craft:
    """A piece of the craft behind a room: what it is, why, when, and what it costs."""

    title: str
    why: str
    when: str
    cost: str


@dataclass(frozen=True, kw_only=True)
class Room:
    """A room.

    Parameters
    ----------
    key, label
        The first part of its paths, and its name; a room without a label is not in the rail.
    sections
        Its parts, those with the more particular paths first.
    needs_setup
        Whether there is nothing in it without a set-up.
    keys
        Keys and what they do here, for the help page.
    first_sight
        How its instruments are read, shown until it is dismissed; empty for none.
    craft
        Background, for its help page.
    """

    key: str
    label: str
    sections: tuple[Section, ...]
    needs_setup: bool = True
    keys: tuple[tuple[str, str], ...] = ()
    first_sight: str = ""
    craft: tuple[Craft, ...] = ()

    @property
    def path(self) -> str:
        """Where it opens."""
        return f"/{self.key}"

    def tabs(self, camera: CameraKind | None) -> tuple[Section, ...]:
        """Return the sections that its tabs lead to, with a camera of a kind or none."""
        return tuple(part for part in self.sections if part.tab and (camera is None or part.suits(camera)))
