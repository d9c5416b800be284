"""The sheets: what other programs find on them, and that they stay what they were once printed."""

import hashlib
import json

import cv2
import numpy as np
import pytest

from tests.interchange.printed import greys
from welotrope.core.testshot.sheets import CELL_MM, SheetKind, SheetPaper, detail, geometry, sheets_of
from welotrope.interchange.print.pdf import write_pdf
from welotrope.interchange.print.target import target_page, target_pdf

DPI = 300
MM = DPI / 25.4


def markers_of(page, dictionary):
    """What plain OpenCV calls find: number and corners, pixels."""
    named = cv2.aruco.getPredefinedDictionary(getattr(cv2.aruco, dictionary))
    corners, ids, _ = cv2.aruco.ArucoDetector(named).detectMarkers(page)
    return {int(id): four.reshape(4, 2) for id, four in zip(ids.ravel(), corners, strict=True)}


@pytest.mark.parametrize("paper", SheetPaper)
def test_the_printed_slope_sheet_lies_where_its_geometry_says(paper, tmp_path):
    told = json.loads(json.dumps(geometry(SheetKind.SLOPE, paper)))
    page = greys(target_pdf(SheetKind.SLOPE, paper), tmp_path, dpi=DPI)[0]
    assert page.shape == pytest.approx([told["paper_mm"][1] * MM, told["paper_mm"][0] * MM], abs=1)
    found = markers_of(page, told["dictionary"])
    meant = {one["id"]: np.array(one["corners_mm"]) for one in told["markers"]}
    seen = set(found) & set(meant)
    assert len(seen) > 0.7 * len(meant)  # those of 4 mm are 47 pixels at 300 dpi, beside print
    off = [np.abs((found[id] + 0.5) / MM - meant[id]).max() for id in seen]
    assert np.median(off) < 0.05
    assert max(off) < 0.1
    x, y = (round(one * MM) for one in told["mark_mm"])
    assert (page[y - 3 : y + 3, x - 60 : x + 60] < 60).all()  # the bold line
    assert told["slope_axis"] == [0.0, -1.0]


def test_the_bar_is_50_mm_long(tmp_path):
    page = greys(target_pdf(SheetKind.SLOPE, SheetPaper.A4), tmp_path, dpi=DPI)[0]
    row = page[round((148.5 + 130.5) * MM)] < 128
    lengths = np.diff(np.flatnonzero(np.diff(np.concatenate(([0], row.astype(int), [0])))))[::2]
    assert max(lengths) / MM == pytest.approx(50.0, abs=0.15)


@pytest.mark.parametrize("kind", [SheetKind.ROW, SheetKind.WALL])
def test_each_sheet_of_a_set_is_told_from_all_others(kind, tmp_path):
    sheets = sheets_of(kind, SheetPaper.A4)
    ids = [one.id for sheet in sheets_of(SheetKind.SLOPE, SheetPaper.A4) + sheets for one in sheet.markers]
    assert len(ids) == len(set(ids))
    page = greys(write_pdf([target_page(sheets[4], len(sheets))], "5"), tmp_path, dpi=DPI)[0]
    assert {one.id for one in sheets[4].markers} <= set(markers_of(page, "DICT_4X4_250"))


def test_both_papers_hold_the_same_about_the_mark():
    a4, letter = (sheets_of(SheetKind.SLOPE, paper)[0] for paper in SheetPaper)
    corners = {0, 1, 2, 3, 4, 5, 6, 7}
    about = [
        {one.id: (round(one.x - sheet.mark_mm[0], 6), round(one.y - sheet.mark_mm[1], 6)) for one in sheet.markers}
        for sheet in (a4, letter)
    ]
    for id in set(about[0]) - corners:
        assert about[0][id] == about[1][id]
    for marker in letter.markers:
        assert marker.corners_mm.min() > 5
        assert (marker.corners_mm.max(axis=0) < np.array(letter.paper_mm) - 5).all()


def test_detail_is_what_was_printed_before():
    cells = detail(2, 1952, 161)
    assert hashlib.sha256(cells.tobytes()).hexdigest()[:16] == "90719cd1cda4a42f"
    assert cells.mean() == pytest.approx(0.5, abs=0.06)


def test_detail_is_there_at_every_scale():
    cells = detail(1, 1024, 1024).astype(float)
    for side in (2, 4, 8, 16, 32):
        means = cells.reshape(1024 // side, side, 1024 // side, side).mean(axis=(1, 3))
        finer = cells.reshape(1024 // side * 2, side // 2, 1024 // side * 2, side // 2).mean(axis=(1, 3))
        assert finer.var() - means.var() > 0.01, side * CELL_MM
