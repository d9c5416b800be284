"""The craft behind the field page."""

from __future__ import annotations

from welotrope.web.shell.room import Craft

CRAFT = (
    Craft(
        title="Settings, not distances",
        why="In the street there is no time to measure: two zones set by the ring, and the subject is in one of them.",
        when="Wherever things come nearer and go away faster than one can focus.",
        cost="What stands between two zones, or nearer than the near one, is lost.",
    ),
    Craft(
        title="One tap, the verdict later",
        why="A frame logged as it is taken keeps the setting; what it showed is seen at home.",
        when="Whenever you would want to know afterwards why it missed.",
        cost="A tap a frame. What you do not log cannot be learnt from.",
    ),
    Craft(
        title="Away from the computer",
        why="Once loaded, the page needs no server; what you log waits on the phone. The pocket file is the same page "
        "as one file that opens with no network at all.",
        when="Loaded at home, used in the field; the pocket file where the tab might be closed.",
        cost="Tables are those of the moment they were made: load it again after changing the kit.",
    ),
)
