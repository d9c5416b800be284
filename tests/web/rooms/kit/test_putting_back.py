"""Backups and archives put back in the browser: looked into first, all or nothing, and what was there is kept."""

import sqlite3
import zipfile

import pytest

from tests.web.pages import headline, soup, text_of
from welotrope.store.archive import write_archive
from welotrope.store.session import DATABASE_NAME, Database


def over(client, answer):
    """Follow a piece of work to its end."""
    job = answer.url.path
    while "See what came of it" not in (page := client.get(job)).text and "failed" not in page.text:
        pass
    return page


def looked_into(client, file):
    return text_of(over(client, client.post("/kit/backups/look", data={"file": str(file)})))


def newest(client):
    return soup(client.get("/kit/backups")).select_one("form[action='/kit/backups/look'] button")["value"]


def test_a_backup_is_made_looked_into_and_put_back_and_what_was_there_is_kept(client):
    assert "Backed up." in text_of(client.post("/kit/backups"))
    assert "Nothing changed" in text_of(client.post("/kit/backups"))
    backup = newest(client)
    client.post("/kit/lenses/1/delete")
    assert "See what came of it" in looked_into(client, backup)
    page = client.get("/kit/backups")
    assert "can be put in place" in text_of(page)
    rows = {
        row.select_one("td").get_text(): [one.get_text() for one in row.select("td")[1:]]
        for row in soup(page).select(".watched tr")[1:]
    }
    assert rows["lenses"] == ["5", "6"]
    assert client.get("/kit/lenses/1").status_code == 404  # nothing was changed by looking
    done = client.post("/kit/backups/put")
    assert "It is in place" in text_of(done)
    assert client.get("/kit/lenses/1").status_code == 200
    assert client.get("/scale").status_code == 200
    before = next(
        one["value"] for one in soup(done).select("button[name=file]") if one["value"].startswith("before-restore")
    )
    looked_into(client, before)
    client.post("/kit/backups/put")
    assert client.get("/kit/lenses/1").status_code == 404


def test_what_is_written_afterwards_goes_into_what_was_put_back(client):
    client.post("/kit/backups")
    looked_into(client, newest(client))
    client.post("/kit/backups/put")
    client.post("/kit/mounts", data={"name": "Afterwards"})
    assert "Afterwards" in text_of(client.get("/kit"))
    again = Database(client.app.state.database.folder)
    with again.session() as uow:
        from welotrope.store.queries import mounts

        assert "Afterwards" in {mount.name for _, mount, _ in mounts.list_mounts(uow)}
    again.close()


def test_an_archive_from_elsewhere_is_looked_into_and_put_in_place(client, tmp_path, demo_folder, empty_client):
    database = Database(demo_folder)
    archive = tmp_path / "everything.zip"
    write_archive(database, archive, client.app.state.now())
    database.close()
    assert "See what came of it" in looked_into(empty_client, archive)
    empty_client.post("/kit/backups/put")
    assert headline(empty_client.get("/kit")).startswith("Norrvik 50")
    assert not (empty_client.app.state.database.folder / "ready").exists()


@pytest.mark.parametrize(
    ("file", "words"),
    [
        ("", "no whole path"),
        ("backup.sqlite3", "no whole path"),
        ("/nowhere/at/all.zip", "no file lies there"),
        ("/etc", "no file lies there"),
    ],
)
def test_a_file_that_is_not_there_is_said(client, file, words):
    answer = client.post("/kit/backups/look", data={"file": file})
    assert answer.status_code == 422
    assert words in text_of(answer)


def test_what_cannot_be_taken_is_refused_in_words_and_nothing_is_ready(client, tmp_path):
    bad = tmp_path / "bad.zip"
    bad.write_bytes(b"PK no archive")
    assert "failed" in looked_into(client, bad)
    with zipfile.ZipFile(tmp_path / "other.zip", "w") as other:
        other.writestr("readme.txt", "hello")
    assert "failed" in looked_into(client, tmp_path / "other.zip")
    strange = tmp_path / "strange.sqlite3"
    sqlite3.connect(strange).execute("CREATE TABLE x (y)")
    assert "failed" in looked_into(client, strange)
    assert "can be put in place" not in text_of(client.get("/kit/backups"))
    refused = client.post("/kit/backups/put")
    assert refused.status_code == 422
    assert "Nothing is ready" in text_of(refused)


def test_what_is_ready_can_be_left(client):
    client.post("/kit/backups")
    looked_into(client, newest(client))
    client.post("/kit/backups/leave")
    assert "can be put in place" not in text_of(client.get("/kit/backups"))


def test_a_clean_end_keeps_the_work_of_the_session(tmp_path):
    from starlette.testclient import TestClient

    from tests.conftest import HOME, NOW
    from welotrope.web.app.application import create_app

    folder = tmp_path / "mine"
    with TestClient(create_app(folder, now=lambda: NOW), base_url=HOME, headers={"origin": HOME}) as client:
        client.post("/kit/mounts", data={"name": "Of today"})
    (backup,) = (folder / "backups").glob("welotrope-*.sqlite3")
    names = {name for (name,) in sqlite3.connect(backup).execute("SELECT name FROM mount")}
    assert "Of today" in names
    assert (folder / DATABASE_NAME).exists()
