"""The rendered scenes that ship: there, small enough, and what they say they are."""

import json
import shutil

import cv2
import numpy as np
import pytest

from welotrope.core.errors import UnreadableError
from welotrope.core.practice.scene_list import RENDERED
from welotrope.interchange import scene_files
from welotrope.interchange.scene_files import FOLDER, rendering_called


def test_scenes_are_few_enough_megabytes():
    assert {one.name for one in FOLDER.iterdir()} == set(RENDERED)
    assert sum(one.stat().st_size for one in FOLDER.rglob("*")) < 25e6


def focused_on(name):
    """The part of a scene that holds its target: what comes at the camera, where something does."""
    found = rendering_called(name)
    return found.moving or found


@pytest.mark.parametrize("name", RENDERED)
def test_what_is_focused_on_is_as_near_as_it_says_and_has_detail(name):
    found = focused_on(name)
    for plate in found.plates:
        column = round((found.target_x - plate.left) * plate.unit_px)
        row = round((found.target_y - plate.top) * plate.unit_px)
        here = np.s_[row - 25 : row + 26, column - 25 : column + 26]
        assert np.abs(plate.nearness(plate.coded[here]) - 1).min() < 0.004
    sharp = found.plates[-1]
    grey = cv2.cvtColor(sharp.colour, cv2.COLOR_BGR2GRAY).astype(float)
    at = np.abs(sharp.nearness(sharp.coded) - 1) < 0.01
    assert at.mean() > 0.01
    assert np.percentile(np.hypot(cv2.Sobel(grey, -1, 1, 0), cv2.Sobel(grey, -1, 0, 1))[at], 95) > 20
    assert 0.01 < found.brightness <= 1
    assert sharp.unit_px > 6000 / 36  # as fine as a sensor


@pytest.mark.parametrize("name", RENDERED)
def test_the_finer_picture_lies_where_the_whole_one_has_the_same(name):
    """Shrunk to the whole one's pixels, it is what that shows there: moved by a pixel, it is less alike."""
    whole, fine = focused_on(name).plates
    ratio = whole.unit_px / fine.unit_px
    size = round(fine.colour.shape[1] * ratio), round(fine.colour.shape[0] * ratio)
    small = cv2.cvtColor(cv2.resize(fine.colour, size, interpolation=cv2.INTER_AREA), cv2.COLOR_BGR2GRAY).astype(
        np.float32
    )
    grey = cv2.cvtColor(whole.colour, cv2.COLOR_BGR2GRAY).astype(np.float32)
    column, row = (fine.left - whole.left) * whole.unit_px, (fine.top - whole.top) * whole.unit_px
    found = cv2.matchTemplate(grey, small[8:-8, 8:-8], cv2.TM_CCOEFF_NORMED)
    _, best, _, (x, y) = cv2.minMaxLoc(found)
    assert best > 0.6
    assert (x - 8, y - 8) == (pytest.approx(column, abs=1.1), pytest.approx(row, abs=1.1))


@pytest.mark.parametrize("broken", ["missing", "json", "sizes", "empty", "cover", "free"])
def test_files_that_are_not_there_or_broken_are_said(tmp_path, monkeypatch, broken):
    shutil.copytree(FOLDER / "bow", tmp_path / "bow")
    monkeypatch.setattr(scene_files, "FOLDER", tmp_path)
    if broken == "missing":
        (tmp_path / "bow/whole.webp").unlink()
    elif broken == "json":
        told = json.loads((tmp_path / "bow/scene.json").read_text())
        (tmp_path / "bow/scene.json").write_text(json.dumps(told | {"spots": []}))
    elif broken == "sizes":
        cv2.imwrite(str(tmp_path / "bow/fine-nearness.png"), np.zeros((9, 9), np.uint8))
    elif broken in ("cover", "free"):
        cv2.imwrite(str(tmp_path / f"bow/whole-{broken}.png"), np.zeros((9, 9), np.uint8))
    else:
        (tmp_path / "bow/fine.webp").write_bytes(b"")
    rendering_called.cache_clear()
    with pytest.raises(UnreadableError, match="Install the application again"):
        rendering_called("bow")
    rendering_called.cache_clear()
