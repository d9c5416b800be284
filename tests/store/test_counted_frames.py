"""Frames counted and indexed by the database itself: held against counting and reading them all, whatever was done."""

import datetime as dt
import random
import string

import pytest
from sqlalchemy import select

from tests.store.test_undo import NOW
from welotrope.core.review.frame import NewFrame
from welotrope.core.review.outcomes import Outcome
from welotrope.core.review.search import FrameSearch, read_search
from welotrope.core.units.distance import Unit
from welotrope.store import journal
from welotrope.store.models import FrameRow, JournalRow
from welotrope.store.queries import history, log

WORDS = [
    "norrvik",
    "norr",
    "f/1.4",
    "f/14",
    "#test",
    "ida’s",
    "müller",
    "o'brien",
    'say "ah"',
    "50mm",
    "a-b",
    "c++",
    "(x)",
    "éé",
]


@pytest.fixture
def session(database):
    with database.session() as session:
        yield session


def counted(session):
    found = {}
    for outing, mark in session.sql.execute(select(FrameRow.outing_id, FrameRow.outcome)):
        found[outing, mark] = found.get((outing, mark), 0) + 1
    return found


def agree(session):
    truth = counted(session)
    outings = {one.id: one.frames for one in log.list_outings(session)}
    assert outings == {id: sum(n for (outing, _), n in truth.items() if outing == id) for id in outings}
    for id in (*outings, None):
        said = {mark and mark.value: n for mark, n in log.outcomes_of(session, id).items()}
        held = {}
        for (outing, mark), n in truth.items():
            if id in (outing, None):
                held[mark] = held.get(mark, 0) + n
        assert said == held


def step(session, rng):
    frames = list(session.sql.scalars(select(FrameRow.id)))
    what = rng.choice(("add", "mark", "move", "delete", "outing", "undo"))
    with history.recorded(session, what, NOW):
        if what == "add":
            new = NewFrame(taken_at=NOW + dt.timedelta(minutes=rng.randrange(999)), note=" ".join(rng.sample(WORDS, 3)))
            log.add_frame(session, rng.choice(log.list_outings(session)).id, new, outcome=rng.choice([None, *Outcome]))
        elif what == "outing":
            log.add_outing(session, "another", NOW.date())
        elif frames and what == "mark":
            log.mark_frame(session, rng.choice(frames), rng.choice([None, *Outcome]))
        elif frames and what == "move":
            from dataclasses import replace

            frame = log.get_frame(session, rng.choice(frames))
            log.change_frame(session, replace(frame, outing_id=rng.choice(log.list_outings(session)).id))
        elif frames and what == "delete" and rng.random() < 0.4:
            log.delete_frame(session, rng.choice(frames))
    if what == "undo":
        entry = session.sql.scalar(
            select(JournalRow).where(JournalRow.undone.is_(False)).order_by(JournalRow.id.desc())
        )
        if entry is not None:
            journal.undo(session.sql, entry, NOW)


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_counts_and_words_hold_whatever_was_done(session, seed):
    rng = random.Random(seed)
    for _ in range(40):
        step(session, rng)
    agree(session)
    every = [(row.id, row.words) for row in session.sql.scalars(select(FrameRow))]
    for word in (*WORDS, "nor", "ob", "zebra", "f/1", "mül", '"', "*", "(", "-", "é"):
        search = FrameSearch(words=tuple(word.split()))
        held = {
            id for id, words in every
            if all((f" {part} " if part.startswith("f/") else f" {part}") in words for part in search.words)
        }  # fmt: skip
        found = log.page_of_frames(session, None, search, None, 5000)
        assert {frame.id for frame in found} == held, word
        frames, counts = log.first_page(session, None, search, 50)
        assert sum(counts.values()) == len(held)
        assert len(frames) == min(len(held), 50)


def test_an_outing_deleted_with_its_frames_is_counted_no_more_and_comes_back(session):
    with history.recorded(session, "delete", NOW) as id_of:
        log.delete_outing(session, 1)
    agree(session)
    assert log.outcomes_of(session, None) == {}
    journal.undo(session.sql, session.sql.get(JournalRow, id_of()), NOW)
    agree(session)
    assert sum(log.outcomes_of(session, None).values()) == 24
    found = log.page_of_frames(session, None, read_search("lake night", Unit.METRIC), None, 50)
    assert found


def test_words_that_are_no_words_find_nothing_and_break_nothing(session):
    rng = random.Random(9)
    odd = string.punctuation + "\u200d😀\U0001fae8\ufffd\x07é"
    for _ in range(120):
        word = "".join(rng.choice(odd + "ab") for _ in range(rng.randrange(1, 5)))
        log.first_page(session, 1, FrameSearch(words=(word,)), 50)
