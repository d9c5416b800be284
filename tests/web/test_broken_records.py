"""A database in which something is broken: every page answers, and the page of what is broken says so."""

import sqlite3

import pytest

from tests.web.pages import text_of
from welotrope.store.session import DATABASE_NAME

BREAKS = (
    "UPDATE attachment SET data = '{}' WHERE id = 1", "UPDATE lens SET data = '{}' WHERE id = 2",
    "UPDATE body SET data = '[]' WHERE id = 2", "UPDATE measurement SET data = '{}'", "UPDATE roll SET data = '{}'",
    "UPDATE frame SET spot = '[5]', tags = '3' WHERE id = 1", "UPDATE adapter SET name = '' WHERE id = 1",
    "UPDATE preset SET name = printf('%.60c', 'x') WHERE id = 1",
)  # fmt: skip
PAGES = (
    "/kit", "/scale", "/log", "/log/rolls", "/log/rolls/1", "/plan", "/aids", "/field", "/log/frames/1", "/kit/adapters/1",
    "/kit/mounts/1", "/practice", "/field/cards", "/log/export.csv", "/log/new", "/log/type", "/log/report", "/log/why",
    "/jump", "/setups", "/kit/setups/1", "/kit/backups", "/field/pocket.html", "/log/review", "/scale/measure",
    "/kit/export.json",
)  # fmt: skip


@pytest.fixture
def broken(client, demo_folder):
    with sqlite3.connect(demo_folder / DATABASE_NAME) as connection:
        for statement in BREAKS:
            connection.execute(statement)
    connection.close()
    return client


@pytest.mark.parametrize("path", PAGES)
def test_every_page_answers_beside_what_is_broken(broken, path):
    assert broken.get(path).status_code < 500


@pytest.mark.parametrize("path", ["/kit/attachments/1", "/kit/lenses/2", "/kit/bodies/2"])
def test_what_is_broken_says_so_and_what_to_do(broken, path):
    answer = broken.get(path)
    assert answer.status_code == 409
    assert "cannot be read" in text_of(answer)
    assert "Delete it on the Kit page" in text_of(answer)
