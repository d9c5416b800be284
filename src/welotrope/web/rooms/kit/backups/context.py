"""What the page of backups shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.store.backups import DatedBackup
from welotrope.store.ready import Ready


@dataclass(frozen=True, kw_only=True)
class BackupsPage:
    """The backups there are, newest first, where they lie, what is in use now, and what is ready to be put back.

    ``problem`` says why something could not be done, ``done`` what was.
    """

    backups: tuple[DatedBackup, ...]
    folder: str
    now: tuple[tuple[str, int], ...]
    ready: Ready | None
    problem: str = ""
    done: str = ""

    @property
    def compared(self) -> tuple[tuple[str, int, int], ...]:
        """What is in use and what is ready, side by side: words, how many now, how many then."""
        then = dict(self.ready.holds if self.ready else ())
        return tuple((words, count, then.get(words, 0)) for words, count in self.now)
