"""The running application keeps its daily backup by itself."""

import time

from fastapi.testclient import TestClient

from tests.conftest import NOW
from welotrope.store.backups import list_backups
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
