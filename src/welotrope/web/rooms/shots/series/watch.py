"""A series taken in from a folder that is watched."""

from __future__ import annotations

from pathlib import Path

from welotrope.core.errors import WelotropeError
from welotrope.interchange.pictures.workers import PictureError
from welotrope.web.request.watching import FolderWatch
from welotrope.web.rooms.shots.series.taking import SeriesTaking


class SeriesWatch(FolderWatch):
    """Takes the next place of a series with every picture that lands, and measures it when it is settled or all came.

    Parameters
    ----------
    folder
        What is watched.
    taking
        The series.
    """

    def __init__(self, folder: Path, taking: SeriesTaking) -> None:
        self.taking = taking
        self.result: int | None = None
        self.said = ""
        super().__init__(folder, self._next, begin=taking.workers.make_ready)

    def _next(self, path: Path) -> None:
        if self.taking.is_whole:
            return
        try:
            self.taking.add(path, path.name)
        except PictureError as error:
            self.said = f"{path.name} was left out. {error.sentence}"
            return
        self.said = ""
        if self.taking.is_whole or self.taking.is_settled:
            self.finish()

    def finish(self) -> None:
        """Measure what has come and stop; what is wrong with it is said."""
        try:
            self.result = self.taking.finish()
        except PictureError as error:
            self.said = error.sentence
        except WelotropeError as error:
            self.said = error.sentence
        self.stop()
