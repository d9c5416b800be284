"""A room: one record from which the application, the rail, the tabs, the jump list and the help page are made."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter


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
    """

    router: APIRouter
    path: str = ""
    tab: str = ""
    jump: str = ""


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
        The craft behind it, for its help page.
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

    @property
    def tabs(self) -> tuple[Section, ...]:
        """The sections that its tabs lead to."""
        return tuple(section for section in self.sections if section.tab)
