"""One seeded world for all tests: the demo data at a fixed moment, in a folder of its own."""

import datetime as dt
import fcntl
import os
import shutil
import sqlite3
import weakref
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from hypothesis import settings
from sqlalchemy import event
from sqlalchemy.exc import DisconnectionError

from welotrope.demo.build import build_demo
from welotrope.demo.hand_history import add_hand_history
from welotrope.interchange.pictures.workers import PictureWorkers
from welotrope.store import outside, session
from welotrope.store.queries import kit
from welotrope.store.session import DATABASE_NAME, Database
from welotrope.web.app.application import create_app

# Timings belong in the bench; what lets a change in must not depend on luck, exploring is for the desk.
settings.register_profile("untimed", deadline=None, derandomize=bool(os.environ.get("CI")))
settings.load_profile("untimed")

NOW = dt.datetime(2026, 3, 15, 10, 30)
HOME = "http://127.0.0.1:8420"
RANGEFINDER = 8  # key of its set-up in the practised demo


LONG = set((Path(__file__).parent / "long.txt").read_text().split())


def pytest_collection_modifyitems(items):
    for item in items:
        if item.nodeid.split("[")[0] in LONG:
            item.add_marker(pytest.mark.long)


class EnginesUsedAgain:
    """Gives a database that opens the engine of one that was closed, on its own file.

    An engine remembers how its statements are written as SQL; working that out anew takes a test longer than its page.
    """

    def __init__(self):
        self.create, self.idle, self.paths = session._engine, [], weakref.WeakKeyDictionary()

    def engine(self, path, *, foreign_keys=True):
        if not foreign_keys:
            return self.create(path, foreign_keys=False)
        engine = self.idle.pop() if self.idle else self._watched(path)
        self.paths[engine] = path
        return engine

    def _watched(self, path):
        engine = self.create(path)

        @event.listens_for(engine, "do_connect")
        def _point(_dialect, record, arguments, _named):
            arguments[0] = record.info["path"] = str(self.paths[engine])

        @event.listens_for(engine, "checkout")
        def _refuse(_connection, record, _proxy):
            # A thread that outlived its database may have left a connection to it.
            if record.info["path"] != str(self.paths[engine]):
                raise DisconnectionError

        return engine

    def close(self, database):
        """Keep the engine, and leave the database one of its own: what still uses it must not meet another's file."""
        engine, database.engine = database.engine, self.create(database.path)
        database._readers.configure(bind=database.engine)
        database._writers.configure(bind=database.engine.execution_options(begin="IMMEDIATE"))
        engine.dispose()
        if engine in self.paths:
            self.idle.append(engine)


@pytest.fixture(scope="session", autouse=True)
def engines_used_again():
    engines = EnginesUsedAgain()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(session, "_engine", engines.engine)
        patch.setattr(Database, "close", lambda database: engines.close(database))
        yield


def made_once(tmp_path_factory, name, make):
    """A folder that the first worker to ask makes, and the others wait for."""
    root = tmp_path_factory.getbasetemp()
    root = root.parent if os.environ.get("PYTEST_XDIST_WORKER") else root
    folder, done = root / name, root / f"{name}.done"
    with (root / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not done.exists():
            folder.mkdir()
            make(folder)
            done.touch()
    return folder


class SharedWorkers(PictureWorkers):
    """Processes that open pictures for one test after the other: starting them takes longer than most tests."""

    def close(self):
        """They are ended with the session."""


@pytest.fixture(scope="session")
def picture_workers():
    workers = SharedWorkers(idle_s=900)
    yield workers
    PictureWorkers.close(workers)


@pytest.fixture
def made(picture_workers):
    """Make the application on a folder, as the fixtures of clients do."""

    def made(folder):
        app = create_app(folder, now=lambda: NOW)
        app.state.pictures = picture_workers
        return app

    return made


@pytest.fixture(scope="session")
def demo_template(tmp_path_factory):
    """A demo folder that is only ever copied."""
    return made_once(tmp_path_factory, "demo", lambda folder: build_demo(folder, pictures=False, history=False))


@pytest.fixture(scope="session")
def pictured_template(tmp_path_factory):
    """The same with the pictures of the outing, which take seconds to render."""
    return made_once(tmp_path_factory, "pictured", lambda folder: build_demo(folder, history=False))


@pytest.fixture
def pictured_folder(pictured_template, tmp_path):
    folder = tmp_path / "pictured"
    shutil.copytree(pictured_template, folder)
    with sqlite3.connect(folder / DATABASE_NAME) as connection:
        connection.execute("UPDATE picture SET folder = ?", (str(folder / "Pictures of the Teal"),))
    connection.close()
    outside.name_folder(folder, folder / "Pictures of the Teal")
    return folder


@pytest.fixture
def pictured_client(pictured_folder, made):
    """A browser-like client on the demo with its pictures."""
    with TestClient(made(pictured_folder), base_url=HOME, headers={"origin": HOME}) as client:
        yield client


@pytest.fixture
def demo_folder(demo_template, tmp_path):
    shutil.copyfile(demo_template / DATABASE_NAME, tmp_path / DATABASE_NAME)
    return tmp_path


@pytest.fixture
def database(demo_folder):
    database = Database(demo_folder)
    yield database
    database.close()


@pytest.fixture
def client(demo_folder, made):
    """A browser-like client on the demo data."""
    with TestClient(made(demo_folder), base_url=HOME, headers={"origin": HOME}) as client:
        yield client


@pytest.fixture(scope="session")
def practised_template(demo_template, tmp_path_factory):
    """The demo with its three months of drills and frames, among them those of a rangefinder that is out."""
    folder = tmp_path_factory.mktemp("practised-template")
    shutil.copyfile(demo_template / DATABASE_NAME, folder / DATABASE_NAME)
    database = Database(folder)
    with database.session() as uow:
        add_hand_history(uow, [stored.id for stored in sorted(kit.list_setups(uow), key=lambda one: one.id)])
        uow.commit()
    database.close()
    return folder


@pytest.fixture
def practised_folder(practised_template, tmp_path):
    shutil.copyfile(practised_template / DATABASE_NAME, tmp_path / DATABASE_NAME)
    return tmp_path


@pytest.fixture
def practised_client(practised_folder, made):
    """A browser-like client on it, the rangefinder in hand."""
    with TestClient(made(practised_folder), base_url=HOME, headers={"origin": HOME}) as client:
        client.post("/in-hand", data={"setup": str(RANGEFINDER)})
        yield client


@pytest.fixture(scope="session")
def empty_template(tmp_path_factory):
    """A folder as a first start makes it."""
    return made_once(tmp_path_factory, "empty", lambda folder: Database(folder).close())


@pytest.fixture
def empty_folder(empty_template, tmp_path):
    return shutil.copytree(empty_template, tmp_path / "new")


@pytest.fixture
def empty_client(empty_folder, made):
    """A client on an empty kit."""
    with TestClient(made(empty_folder), base_url=HOME, headers={"origin": HOME}) as client:
        yield client
