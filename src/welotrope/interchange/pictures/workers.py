"""The processes that open pictures: started when first wanted, begun anew when one falls over or takes too long."""

from __future__ import annotations

import json
import queue
import subprocess
import sys
import threading
from contextlib import suppress
from pathlib import Path
from typing import Any

MOST_S = 90.0


class PictureError(Exception):
    """A picture that cannot be read, or made the process that read it fall over.

    ``sentence`` says so; ``errno`` is what the disk refused with, 0 for none.
    """

    def __init__(self, sentence: str, errno: int = 0) -> None:
        super().__init__(sentence)
        self.sentence, self.errno = sentence, errno


class PictureWorkers:
    """Processes that open pictures.

    Parameters
    ----------
    count
        How many work at once.
    most_s
        How long one file may take, seconds.
    """

    def __init__(self, count: int = 2, most_s: float = MOST_S) -> None:
        self.count, self._most_s = count, most_s
        # The last that worked is asked first: while one is enough no other is started.
        self._idle: queue.LifoQueue[_Worker | None] = queue.LifoQueue()
        for _ in range(count):
            self._idle.put(None)

    def ask(self, do: str, path: Path, **more: str) -> dict[str, Any]:
        """Let a process work on a picture and return its answer; waits for one that is free.

        Raises
        ------
        PictureError
            When it cannot be read, or the process fell over.
        """
        worker = self._idle.get()
        try:
            if worker is None or not worker.alive:
                worker = _Worker()
            answer = worker.ask({"do": do, "path": str(path), **more}, self._most_s)
        finally:
            self._idle.put(worker)
        if answer is None:
            raise PictureError(f"Picture: read “{path.name}”; the program that reads pictures gave up on it.")
        if "error" in answer:
            raise PictureError(str(answer["error"]), int(answer.get("errno") or 0))
        return answer

    def close(self) -> None:
        """End the processes that are idle; those at work end with their file."""
        ended = 0
        with suppress(queue.Empty):
            for _ in range(self.count):
                worker = self._idle.get(timeout=self._most_s)
                ended += 1
                if worker is not None:
                    worker.end()
        for _ in range(ended):
            self._idle.put(None)


class _Worker:
    """One process."""

    def __init__(self) -> None:
        command = [sys.executable, "-m", "welotrope.interchange.pictures.worker"]
        self._process = subprocess.Popen(
            command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
            encoding="utf-8", close_fds=True,
        )  # fmt: skip

    @property
    def alive(self) -> bool:
        return self._process.poll() is None

    def ask(self, asked: dict[str, Any], most_s: float) -> dict[str, Any] | None:
        """Return its answer; None when it fell over or took too long, and is gone."""
        assert self._process.stdin is not None
        assert self._process.stdout is not None
        late = threading.Timer(most_s, self._process.kill)
        late.start()
        try:
            self._process.stdin.write(json.dumps(asked) + "\n")
            self._process.stdin.flush()
            line = self._process.stdout.readline()
            answer: dict[str, Any] | None = json.loads(line) if line else None
        except (OSError, ValueError):
            answer = None
        finally:
            late.cancel()
        if answer is None:
            self.end()
        return answer

    def end(self) -> None:
        self._process.kill()
        self._process.wait()
        for pipe in (self._process.stdin, self._process.stdout):
            if pipe is not None:
                try:
                    pipe.close()
                except OSError:
                    continue
