import csv
import io
from dataclasses import replace

from welotrope.interchange.log_csv import COLUMNS, log_csv
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
