import csv
import io
from dataclasses import replace

import pytest

from welotrope.core.review.frame import Spot
from welotrope.interchange.log_files import COLUMNS, log_csv
from welotrope.store.queries import log


def rows(database, change=lambda frame: frame):
    with database.session() as session:
        text = "".join(log_csv((outing, change(frame)) for outing, frame in log.every_frame(session)))
    return list(csv.DictReader(io.StringIO(text, newline="")))


def test_every_frame_reads_back_from_the_csv(database):
    read = rows(database)
    assert len(read) == 24
    assert tuple(read[0]) == COLUMNS
    first, last = read[0], read[-1]
    assert (first["lens"], first["stop"], first["set_distance_mm"]) == ("Norrvik 50", "5.6", "2400.0")
    assert (first["shutter"], first["iso"], first["result"]) == ("1/60", "1600", "hit")
    assert (last["set_distance_mm"], last["far_mm"], last["result"]) == ("inf", "inf", "")


def test_awkward_text_survives_and_formulas_are_quoted(database):
    note = '=HYPERLINK("x"), "two"\nlines; ½ ∞'
    read = rows(database, lambda frame: replace(frame, note=note, film_frame="+12"))
    assert read[0]["note"] == "'" + note
    assert read[0]["film_frame"] == "'+12"


@pytest.mark.parametrize("start", ["=", "+", "-", "@", "\t", "\r"])
def test_no_note_can_begin_a_formula_of_a_spreadsheet(database, start):
    read = rows(database, lambda frame: replace(frame, note=f"{start}SUM(A1)", preset_name="a@b"))
    assert read[0]["note"].startswith("'")
    assert read[0]["preset"] == "a@b"


def test_the_place_is_across_and_down(database):
    read = rows(database, lambda frame: replace(frame, spot=Spot(0.25, 0.75)))
    assert (read[0]["place_x"], read[0]["place_y"]) == ("0.25", "0.75")
