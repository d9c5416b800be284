"""Processes that do costly work: started when first wanted, begun anew when one falls over or takes too long.

Each says when it is ready, reads one JSON object a line from standard input and answers with one on standard output.
Only so many may wait; who comes then is told so. One that has nothing to do for a minute ends, and gives its memory
back.
"""

from __future__ import annotations

import json
import math
import os
import queue
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress

from welotrope.core.json_values import JsonObject

IDLE_S = 60.0
# The matrices are small: threads of a linear algebra library would only wait for one another.
_ONE_THREAD = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1", "MKL_NUM_THREADS": "1"}
END_S = 0.5
_START_S = 120.0
_READY = "ready"
# What one piece of work may take of a processor, where the system can tell: on a busy machine it waits for one longer.
_WORK_VARIABLE, _BUSY_TIMES = "WELOTROPE_WORK_S", 5
try:
    import resource
except ImportError:  # Windows
    resource = None  # type: ignore[assignment]


class BusyError(Exception):
    """More waits already than may; says so and what would work."""


class WorkerPool:
    """Processes of one module.

    Parameters
    ----------
    module
        What each runs; it answers a line for a line (:func:`serve`).
    count
        How many work at once.
    most_s
        How long one piece of work may take, seconds; its start does not count, nor does waiting for a processor.
    most_waiting
        How many pieces may wait for a process.
    idle_s
        After how long without work a process ends, seconds.
    """

    def __init__(
        self, module: str, *, count: int = 2, most_s: float = 90.0, most_waiting: int = 1000, idle_s: float = IDLE_S
    ) -> None:
        self.count, self._module, self._most_s, self._idle_s = count, module, most_s, idle_s
        self._room = threading.BoundedSemaphore(count + most_waiting)
        # The last that worked is asked first: while one is enough no other is started.
        self._idle: queue.LifoQueue[_Worker | None] = queue.LifoQueue()
        self._live: set[_Worker] = set()
        self._lock = threading.Lock()
        self._closed = False
        for _ in range(count):
            self._idle.put(None)

    def ask(self, asked: JsonObject) -> JsonObject | None:
        """Let a process work and return its answer; waits for one that is free. None when it fell over.

        Raises
        ------
        BusyError
            When too many wait already, or the pool is closed.
        """
        if self._closed or not self._room.acquire(blocking=False):
            raise BusyError("Too much is being worked out at once. Wait a moment and try again.")
        try:
            worker = self._idle.get()
            try:
                worker = self._ready(worker)
                return None if worker is None else worker.ask(asked)
            finally:
                self._idle.put(worker)
                self._look_for_idle_later()
        finally:
            self._room.release()

    def _ready(self, worker: _Worker | None) -> _Worker | None:
        if worker is not None and worker.alive:
            return worker
        with self._lock:
            if worker is not None:
                self._live.discard(worker)
            if self._closed:
                return None
            made = _Worker(self._module, self._most_s)
            self._live.add(made)
            return made

    def _look_for_idle_later(self) -> None:
        timer = threading.Timer(self._idle_s * 1.05, self._end_idle)
        timer.daemon = True
        timer.start()

    def _end_idle(self) -> None:
        """End the processes that have had nothing to do for long enough."""
        held: list[_Worker | None] = []
        for _ in range(self.count):
            try:
                held.append(self._idle.get_nowait())
            except queue.Empty:
                break
        for worker in reversed(held):  # the last that worked is put back last
            if worker is not None and time.monotonic() - worker.worked >= self._idle_s:
                self._end(worker)
                worker = None
            self._idle.put(worker)

    def _end(self, worker: _Worker) -> None:
        worker.end()
        with self._lock:
            self._live.discard(worker)

    def close(self) -> None:
        """End all processes at once, those at work too; nothing is begun after."""
        self._closed = True
        self.end_all()

    def end_all(self) -> None:
        """End all processes; the next piece of work starts one anew."""
        with self._lock:
            live = list(self._live)
        for worker in live:
            self._end(worker)


class _Worker:
    """One process."""

    def __init__(self, module: str, most_s: float) -> None:
        environment = {**os.environ, **_ONE_THREAD, _WORK_VARIABLE: str(most_s)}
        self._process = subprocess.Popen(
            [sys.executable, "-m", module], stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL,
            text=True, encoding="utf-8", errors="surrogateescape", close_fds=True, env=environment,
        )  # fmt: skip
        self._most_s = most_s * (_BUSY_TIMES if resource else 1)
        self._ready = False
        self.worked = time.monotonic()

    @property
    def alive(self) -> bool:
        return self._process.poll() is None

    def ask(self, asked: JsonObject) -> JsonObject | None:
        """Return its answer; None when it fell over or took too long, and is gone."""
        assert self._process.stdin is not None
        try:
            self._ready = self._ready or self._line(_START_S).strip() == _READY
            self._process.stdin.write(json.dumps(asked) + "\n")
            self._process.stdin.flush()
            line = self._line(self._most_s)
            answer: JsonObject | None = json.loads(line) if line else None
        except (OSError, ValueError):
            answer = None
        self.worked = time.monotonic()
        if answer is None:
            self.end()
        return answer

    def _line(self, most_s: float) -> str:
        """Return the next line of its output, empty when it ended; it is ended when that takes too long."""
        assert self._process.stdout is not None
        late = threading.Timer(most_s, self._process.kill)
        late.daemon = True
        late.start()
        try:
            return self._process.stdout.readline()
        finally:
            late.cancel()

    def end(self) -> None:
        self._process.kill()
        try:
            self._process.wait(END_S)
        except subprocess.TimeoutExpired:
            return
        for pipe in (self._process.stdin, self._process.stdout):
            if pipe is not None:
                try:
                    pipe.close()
                except (OSError, ValueError):
                    continue


def serve(answer: Callable[[JsonObject], JsonObject], *, memory: int) -> None:
    """Answer lines in this process until the input ends, within so many bytes of memory."""
    with suppress(AttributeError, ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    with suppress(AttributeError, OSError):
        os.nice(10)  # who waits for a page comes first
    # What libraries print must not be taken for an answer.
    answers = os.fdopen(os.dup(1), "w", encoding="utf-8")
    os.dup2(2, 1)
    print(_READY, file=answers, flush=True)
    for line in sys.stdin:
        _limit_work()
        print(json.dumps(answer(json.loads(line))), file=answers, flush=True)


def _limit_work() -> None:
    """Let the system end this process once the next piece of work has had its time of a processor."""
    with suppress(AttributeError, KeyError, ValueError, OSError):
        most_s = time.process_time() + float(os.environ[_WORK_VARIABLE])
        resource.setrlimit(resource.RLIMIT_CPU, (math.ceil(most_s), resource.getrlimit(resource.RLIMIT_CPU)[1]))
