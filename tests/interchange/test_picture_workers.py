"""How many processes open pictures: one while one is enough, two for two at once, none afterwards."""

import os
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from welotrope.interchange import worker_pool
from welotrope.interchange.pictures.workers import PictureWorkers
from welotrope.interchange.worker_pool import BusyError, WorkerPool


def children():
    """The processes that this one started and that have not ended."""
    found = set()
    for stat in Path("/proc").glob("[0-9]*/stat"):
        try:
            state, parent = stat.read_text().rpartition(")")[2].split()[:2]
        except OSError:
            continue
        if int(parent) == os.getpid() and state != "Z":
            found.add(stat.parent.name)
    return found


@pytest.fixture
def picture(tmp_path):
    path = tmp_path / "picture.jpg"
    Image.fromarray(np.random.default_rng(1).integers(0, 255, (1600, 2400, 3)).astype(np.uint8)).save(path)
    return path


def test_one_is_enough_for_one_after_another_and_two_come_for_two_at_once(picture, tmp_path):
    before = children()
    workers = PictureWorkers(count=2)
    look = lambda name: workers.ask("look", picture, thumb=str(tmp_path / name))  # noqa: E731
    assert [look(str(turn))["width_px"] for turn in range(3)] == [2400] * 3
    assert len(children() - before) == 1
    with ThreadPoolExecutor(2) as pool:
        assert len(list(pool.map(look, "abcdef"))) == 6
    assert len(children() - before) == 2
    workers.end_all()
    assert not children() - before
    assert look("again")["width_px"] == 2400
    workers.close()
    assert not children() - before
    with pytest.raises(BusyError):
        look("after")


def until(holds, most_s=20):
    """Wait until something holds; the machine may be busy."""
    end = time.monotonic() + most_s
    while not holds():
        assert time.monotonic() < end
        time.sleep(0.02)


def test_a_process_without_work_ends_by_itself_and_comes_again(picture, tmp_path):
    before = children()
    workers = PictureWorkers(count=2, idle_s=0.2)
    assert workers.ask("look", picture, thumb=str(tmp_path / "a"))["width_px"] == 2400
    until(lambda: not children() - before)
    assert workers.ask("look", picture, thumb=str(tmp_path / "b"))["width_px"] == 2400
    workers.close()


SLOW = """
import time
from welotrope.interchange.worker_pool import serve
def answer(asked):
    time.sleep(asked["s"])
    end = time.process_time() + asked.get("computing_s", 0)
    while time.process_time() < end:
        pass
    return {"slept": asked["s"]}
time.sleep(1)
serve(answer, memory=2**31)
"""


@pytest.fixture
def slow(tmp_path, monkeypatch):
    """The name of a module whose work takes as long as it is told to."""
    (tmp_path / "slow_worker.py").write_text(SLOW)
    monkeypatch.setenv("PYTHONPATH", str(tmp_path), prepend=os.pathsep)
    return "slow_worker"


def test_who_comes_when_too_many_wait_is_told_so_at_once(slow):
    pool = WorkerPool(slow, count=1, most_waiting=1)
    with ThreadPoolExecutor(2) as threads:
        first = [threads.submit(pool.ask, {"s": 1}) for _ in range(2)]
        until(lambda: pool._room._value == 0)
        with pytest.raises(BusyError, match="Wait a moment"):
            pool.ask({"s": 0})
        assert [one.result() for one in first] == [{"slept": 1}] * 2
    assert pool.ask({"s": 0}) == {"slept": 0}
    pool.close()


def test_work_that_takes_too_long_is_stopped_and_the_next_is_done(slow):
    pool = WorkerPool(slow, count=1, most_s=0.1)
    assert pool.ask({"s": 600}) is None
    assert pool.ask({"s": 0}) == {"slept": 0}
    pool.close()


def test_only_what_it_computes_counts_not_the_start_and_not_waiting_for_a_processor(slow, monkeypatch):
    monkeypatch.setattr(worker_pool, "_BUSY_TIMES", 1000)
    pool = WorkerPool(slow, count=1, most_s=0.9)
    assert pool.ask({"s": 1.5}) == {"slept": 1.5}
    assert pool.ask({"s": 0, "computing_s": 15}) is None
    pool.close()


def test_closing_ends_what_is_at_work(slow):
    before = children()
    pool = WorkerPool(slow, count=1)
    with ThreadPoolExecutor(1) as threads:
        asked = threads.submit(pool.ask, {"s": 600})
        until(lambda: children() - before)
        pool.close()
        assert asked.result(timeout=20) is None
    until(lambda: not children() - before)
