"""The running application keeps its daily backup by itself."""

import sqlite3
import time

from fastapi.testclient import TestClient

from tests.conftest import NOW
from welotrope.store.backups import list_backups
from welotrope.store.errors import DatabaseOperationError
from welotrope.web.app import application


def test_the_running_application_makes_the_day_its_backup(demo_folder, monkeypatch):
    monkeypatch.setattr(application, "_FIRST_BACKUP_S", 0)
    assert list_backups(demo_folder) == []
    with TestClient(application.create_app(demo_folder, now=lambda: NOW)):
        deadline = time.monotonic() + 20
        while not list_backups(demo_folder) and time.monotonic() < deadline:
            time.sleep(0.02)
    made = list_backups(demo_folder)
    assert [one.made for one in made] == [NOW]
    assert dict(made[0].holds)["lenses"] > 0


def test_a_busy_database_does_not_end_the_backups(demo_folder, monkeypatch):
    """What cannot be done now is tried again: the second round still makes its backup and sweeps."""
    called = []

    def busy(_database, _now):
        called.append(len(called))
        raise DatabaseOperationError("database is locked", None, sqlite3.OperationalError("database is locked"))

    monkeypatch.setattr(application, "_FIRST_BACKUP_S", 0)
    monkeypatch.setattr(application, "_BACKUPS_EVERY_S", 0.01)
    monkeypatch.setattr(application, "sweep_daily", busy)
    with TestClient(application.create_app(demo_folder, now=lambda: NOW)):
        deadline = time.monotonic() + 20
        while len(called) < 3 and time.monotonic() < deadline:
            time.sleep(0.02)
    assert len(called) >= 3
    assert list_backups(demo_folder)
