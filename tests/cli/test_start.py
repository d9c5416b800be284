"""Starting up: what is wrong with the folder, the file or the port is said in a sentence with its cure."""

import asyncio
import contextlib
import datetime as dt
import json
import os
import signal
import socket
import sqlite3
import stat
import subprocess
import sys
import threading
import time
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from welotrope.demo.build import MARKER, NotADemoError, build_demo, demo_clock
from welotrope.store import session as session_module
from welotrope.store.session import DATABASE_NAME, Database, DatabaseUnusableError
from welotrope.web.app.server import bind

PROGRAM = Path(sys.executable).with_name("welotrope")


def run(*arguments, **environment):
    return subprocess.run(
        [PROGRAM, *map(str, arguments)],
        capture_output=True,
        text=True,
        timeout=60,
        env=os.environ | environment,
        check=False,
    )


def free_port():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def started(*arguments, **environment):
    """The program once it answers, and its address."""
    port = free_port()
    process = subprocess.Popen([PROGRAM, *map(str, arguments), "--port", str(port)], stdout=subprocess.PIPE, text=True,
                               env=os.environ | environment)  # fmt: skip
    for _ in range(400):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/help", timeout=5).read()
            return process, port
        except OSError:
            time.sleep(0.05)
    raise AssertionError("it did not start")


def stopped(process):
    process.send_signal(signal.SIGTERM)
    out, _ = process.communicate(timeout=15)
    return out


def test_a_port_in_use_is_said_instead_of_the_ready_line(tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        answer = run("serve", "--data", tmp_path / "d", "--port", taken.getsockname()[1])
    assert answer.returncode == 2
    assert "is in use" in answer.stderr
    assert "--port" in answer.stderr
    assert "Welotrope: http" not in answer.stdout
    assert not (tmp_path / "d").exists()


@pytest.mark.parametrize("address", ["127.0.0.1", "127.3.2.1", "::1"])
def test_an_address_no_other_device_reaches_is_refused_for_the_network(tmp_path, address):
    answer = run("serve", "--data", tmp_path / "d", "--lan", "--address", address)
    assert answer.returncode == 2
    assert address in answer.stderr
    assert "local network" in answer.stderr
    assert "in use" not in answer.stderr


@pytest.mark.parametrize("wanted", [True, False])
def test_it_opens_the_browser_unless_told_not_to(demo_folder, tmp_path, wanted):
    opened, browser = tmp_path / "opened", tmp_path / "browser.sh"
    browser.write_text(f'#!/bin/sh\necho "$1" > {opened}\n')
    browser.chmod(0o755)
    flags = [] if wanted else ["--no-browser"]
    process, port = started("serve", "--data", demo_folder, *flags, BROWSER=str(browser), DISPLAY=":77")
    for _ in range(200 if wanted else 10):
        if opened.exists() and opened.read_text():
            break
        time.sleep(0.05)
    stopped(process)
    assert opened.exists() is wanted
    if wanted:
        assert opened.read_text().strip() == f"http://127.0.0.1:{port}"


def test_a_start_loads_no_library_that_only_measurements_need():
    code = 'import sys, welotrope.web.app.application; print(*{name.partition(".")[0] for name in sys.modules})'
    loaded = set(subprocess.check_output([sys.executable, "-c", code], text=True).split())
    assert "numpy" in loaded
    assert not loaded & {"scipy", "PIL", "rawpy", "reportlab"}


def test_small_packets_are_sent_at_once():
    """An accepted connection does not hold back a short answer until the one before is acknowledged."""

    async def no_delay():
        accepted = asyncio.get_running_loop().create_future()

        async def answer(_reader, writer):
            accepted.set_result(writer.get_extra_info("socket").getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY))
            writer.close()
            await writer.wait_closed()

        listening = bind(0)
        async with await asyncio.start_server(answer, sock=listening):
            _reader, writer = await asyncio.open_connection(*listening.getsockname())
            found = await accepted
            writer.close()
            await writer.wait_closed()
        return found

    with ThreadPoolExecutor(1) as elsewhere:  # the browser tests keep a loop running in this thread
        assert elsewhere.submit(asyncio.run, no_delay()).result()


def test_a_file_where_the_folder_should_be(tmp_path):
    (tmp_path / "f").write_text("x")
    for folder in (tmp_path / "f", tmp_path / "f" / "below"):
        with pytest.raises(DatabaseUnusableError, match="file"):
            Database(folder)


def test_a_folder_where_the_file_should_be(tmp_path):
    (tmp_path / DATABASE_NAME).mkdir()
    with pytest.raises(DatabaseUnusableError, match="Move it away"):
        Database(tmp_path)


@pytest.mark.parametrize(
    ("error", "words"),
    [
        (sqlite3.OperationalError("database is locked"), "in use by another program"),
        (sqlite3.OperationalError("attempt to write a readonly database"), "is read-only"),
        (sqlite3.OperationalError("database or disk is full"), "disk is full"),
        (sqlite3.OperationalError("unable to open database file"), "may not be opened"),
        (PermissionError(13, "Permission denied"), "may not be opened"),
        (OSError(28, "No space left on device"), "disk is full"),
    ],
)
def test_each_trouble_has_its_own_sentence_and_cure(tmp_path, monkeypatch, error, words):
    def fail(_path):
        raise error

    monkeypatch.setattr(session_module, "migrate", fail)
    with pytest.raises(DatabaseUnusableError, match=words) as caught:
        Database(tmp_path)
    assert "backup" not in str(caught.value)


def test_a_locked_database_is_named_and_left(tmp_path):
    Database(tmp_path).close()
    holder = sqlite3.connect(tmp_path / DATABASE_NAME, isolation_level=None)
    holder.execute("UPDATE alembic_version SET version_num = '0004'")
    holder.execute("PRAGMA journal_mode=DELETE")
    holder.execute("BEGIN EXCLUSIVE")
    with pytest.raises(DatabaseUnusableError, match="in use by another program"):
        Database(tmp_path)
    holder.close()


def test_only_its_owner_may_read_the_data(tmp_path):
    folder = tmp_path / "new"
    database = Database(folder)
    copy = database.backup(tmp_path / "copy.sqlite3")
    database.close()
    assert stat.S_IMODE(folder.stat().st_mode) == 0o700
    for path in (folder / DATABASE_NAME, copy):
        assert stat.S_IMODE(path.stat().st_mode) == 0o600


def test_a_backup_that_fails_leaves_nothing_behind(tmp_path, monkeypatch):
    database = Database(tmp_path / "d")

    def fail(_source, target):
        target.write_bytes(b"half")
        raise sqlite3.OperationalError("disk is full")

    monkeypatch.setattr(session_module, "copy_database", fail)
    with pytest.raises(OSError, match="disk is full"):
        database.backup(tmp_path / "copy.sqlite3")
    database.close()
    assert [path.name for path in tmp_path.iterdir()] == ["d"]


def test_the_demo_never_touches_own_data(tmp_path):
    own = tmp_path / "own"
    Database(own).close()
    before = (own / DATABASE_NAME).read_bytes()
    for fresh in (False, True):
        with pytest.raises(NotADemoError, match="not touched"):
            build_demo(own, fresh=fresh, pictures=False)
    assert (own / DATABASE_NAME).read_bytes() == before
    assert run("demo", "--data", own, "--fresh").returncode == 2


def test_the_demo_ignores_where_own_data_is(tmp_path):
    own = tmp_path / "own"
    Database(own).close()
    before = (own / DATABASE_NAME).read_bytes()
    process, _ = started("demo", "--no-pictures", WELOTROPE_DATA=str(own), XDG_DATA_HOME=str(tmp_path / "share"))
    assert str(own) not in stopped(process)
    assert (own / DATABASE_NAME).read_bytes() == before
    assert (tmp_path / "share" / "welotrope-demo" / MARKER).exists()


def test_writers_take_turns_and_stalled_senders_stall_nobody(tmp_path):
    """More clients that write at once than there are threads, beside twenty senders that stop half-way; then a stop that ends it all."""
    build_demo(tmp_path / "d", pictures=False, history=False)
    process, port = started("demo", "--no-pictures", "--data", tmp_path / "d")
    home = f"http://127.0.0.1:{port}"
    stalled = [socket.create_connection(("127.0.0.1", port)) for _ in range(20)]
    for sender in stalled:
        sender.sendall(f"POST /kit/lenses HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nOrigin: {home}\r\nContent-Length: 900\r\n"
                       "Content-Type: application/x-www-form-urlencoded\r\n\r\nname=".encode())  # fmt: skip
    statuses = []

    def write():
        request = urllib.request.Request(
            f"{home}/log/frames", b"at=2.4+m&stop=5.6", {"Origin": home, "HX-Request": "true"}
        )
        statuses.append(urllib.request.urlopen(request, timeout=30).status)

    clients = [threading.Thread(target=write) for _ in range(48)]
    for client in clients:
        client.start()
    for client in clients:
        client.join()
    assert statuses == [200] * 48
    with sqlite3.connect(tmp_path / "d" / DATABASE_NAME) as connection:
        assert connection.execute("SELECT count(*) FROM frame").fetchone() == (24 + 48,)
    stopped(process)
    assert process.returncode in (0, -signal.SIGTERM)
    for sender in stalled:
        sender.close()


def test_the_demo_has_an_evening_of_its_own_that_goes_on(tmp_path):
    build_demo(tmp_path / "d", pictures=False, history=False)
    begun = demo_clock(tmp_path / "d")()
    assert dt.datetime(2026, 3, 14, 18) <= begun < dt.datetime(2026, 3, 14, 18, 1)
    marker = tmp_path / "d" / MARKER
    built = dt.datetime.fromisoformat(marker.read_text().split("\n")[1])
    marker.write_text(marker.read_text().replace(built.isoformat(), (built - dt.timedelta(days=3)).isoformat()))
    assert demo_clock(tmp_path / "d")().date() == dt.date(2026, 3, 17)
    marker.write_text("The demo of before it had a clock.\n")
    assert demo_clock(tmp_path / "d")().year == 2026  # begins anew


def test_a_second_server_on_a_folder_is_refused_with_a_sentence(tmp_path):
    process, _port = started("serve", "--data", tmp_path / "d")
    second = run("serve", "--data", tmp_path / "d", "--port", free_port())
    assert second.returncode == 2
    assert "in use by another Welotrope that is running" in second.stderr
    archive = tmp_path / "all.zip"
    assert run("export", archive, "--data", tmp_path / "d").returncode == 0  # beside it, as ever
    assert run("restore", archive, "--data", tmp_path / "d").returncode == 2
    stopped(process)
    again, _port = started("serve", "--data", tmp_path / "d")
    stopped(again)


def test_what_was_half_written_when_a_program_ended_goes_at_the_next_start(tmp_path):
    folder = tmp_path / "d"
    Database(folder).close()
    left = [folder / "preview-7.part", folder / "cache" / "a.1.part", folder / "exports" / ".all.zip.1.part",
            folder / "files" / "ab" / ".x.part", folder / ".import-abc" / "welotrope.sqlite3"]  # fmt: skip
    for path in left:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"x")
    process, _port = started("serve", "--data", folder)
    stopped(process)
    assert [path for path in left if path.exists()] == []
    assert (folder / DATABASE_NAME).exists()


def test_it_ends_at_once_while_long_work_is_on(tmp_path):
    """A calculation at its largest is at work in its process when the program is told to end."""
    process, port = started("serve", "--data", tmp_path / "d")
    trials = [
        {"aid": f"aid {n % 40}", "stop": 2, "distance_mm": 2000, "error_deg": 0.1 * (n % 9)} for n in range(19_000)
    ]
    body = json.dumps({"lens": {"focal_mm": 50, "lead_mm": 10.8}, "blur_mm": 0.03, "trials": trials}).encode()

    def ask():
        with contextlib.suppress(OSError):
            request = urllib.request.Request(
                f"http://127.0.0.1:{port}/api/calc/hand", body, {"content-type": "application/json"}
            )
            urllib.request.urlopen(request, timeout=60).read()

    asked = threading.Thread(target=ask)
    asked.start()
    end = time.monotonic() + 30
    while time.monotonic() < end and not any(
        b"calc_worker" in path.read_bytes() for path in children_commands(process.pid)
    ):
        time.sleep(0.02)
    process.send_signal(signal.SIGTERM)
    process.communicate(timeout=30)  # how fast is for the bench: here, that it does not wait for the answer
    asked.join(60)
    assert not asked.is_alive()


def children_commands(parent):
    """The command lines of the processes that another started."""
    found = []
    for stat_file in Path("/proc").glob("[0-9]*/stat"):
        with contextlib.suppress(OSError):
            if int(stat_file.read_text().rpartition(")")[2].split()[1]) == parent:
                found.append(stat_file.parent / "cmdline")
    return found
