"""How many processes open pictures: one while one is enough, two for two at once, none afterwards."""

import os
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from welotrope.interchange.pictures.workers import PictureWorkers


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
    workers = PictureWorkers(2)
    look = lambda name: workers.ask("look", picture, thumb=str(tmp_path / name))  # noqa: E731
    assert [look(str(turn))["width_px"] for turn in range(3)] == [2400] * 3
    assert len(children() - before) == 1
    with ThreadPoolExecutor(2) as pool:
        assert len(list(pool.map(look, "abcdef"))) == 6
    assert len(children() - before) == 2
    workers.close()
    assert not children() - before
    assert look("again")["width_px"] == 2400
    workers.close()
    assert not children() - before
