"""The processes that open pictures, so that a file at which a library falls over takes nothing else along."""

from __future__ import annotations

from pathlib import Path

from welotrope.core.json_values import JsonObject
from welotrope.interchange.worker_pool import IDLE_S, WorkerPool

MOST_S = 90.0


class PictureError(Exception):
    """A picture that cannot be read, or made the process that read it fall over.

    ``sentence`` says so; ``errno`` is what the disk refused with, 0 for none.
    """

    def __init__(self, sentence: str, *, errno: int = 0) -> None:
        super().__init__(sentence)
        self.sentence, self.errno = sentence, errno


class PictureWorkers:
    """Processes that open pictures.

    Parameters
    ----------
    count
        How many work at once.
    most_s, idle_s
        How long one file may take, and after how long without work a process ends, seconds.
    """

    def __init__(self, *, count: int = 2, most_s: float = MOST_S, idle_s: float = IDLE_S) -> None:
        self.count = count
        self._pool = WorkerPool("welotrope.interchange.pictures.worker", count=count, most_s=most_s, idle_s=idle_s)

    def ask(self, do: str, path: Path, **more: str) -> JsonObject:
        """Let a process work on a picture and return its answer; waits for one that is free.

        Raises
        ------
        PictureError
            When it cannot be read, or the process fell over.
        """
        answer = self._pool.ask({"do": do, "path": str(path), **more})
        if answer is None:
            raise PictureError(f"Picture: read “{path.name}”; the program that reads pictures gave up on it.")
        if "error" in answer:
            raise PictureError(str(answer["error"]), errno=int(answer.get("errno") or 0))
        return answer

    def make_ready(self) -> None:
        """Start a process and let it load what measuring needs; that it cannot is seen with the first picture."""
        self._pool.ask({"do": "ready", "path": ""})

    def end_all(self) -> None:
        """End the processes; the next picture starts one anew."""
        self._pool.end_all()

    def close(self) -> None:
        """End the processes for good, those at work too."""
        self._pool.close()
