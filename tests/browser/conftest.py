"""A real server on a free port and Debian's Chromium; a failing test leaves a screenshot in test-artifacts/."""

import socket
import threading
from pathlib import Path

import pytest
import uvicorn
from playwright.sync_api import expect

from tests.browser.chromium import QUIET, chromium_path
from tests.browser.waiting import PATIENCE_S
from tests.conftest import NOW
from welotrope.store.backups import keep_now
from welotrope.store.queries.devices import add_device
from welotrope.store.session import Database
from welotrope.web.app.application import create_app
from welotrope.web.app.server import bind

expect.set_options(timeout=PATIENCE_S * 1000)

ARTIFACTS = Path(__file__).parents[2] / "test-artifacts"
SIZES = {"table": {"width": 1280, "height": 800}, "phone": {"width": 390, "height": 844}}


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args):
    return {**browser_type_launch_args, "executable_path": chromium_path(), "args": QUIET}


class Site:
    """The application served from a thread."""

    pictures = None  # the processes that open pictures, where they are shared

    def __init__(self, folder, port=None, now=lambda: NOW, lan=None):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            probe.bind(("127.0.0.1", port or 0))
            port = probe.getsockname()[1]
        self.port = port
        self.url = f"http://127.0.0.1:{port}"
        app = create_app(folder, now=now, lan=(lan, port) if lan else None)
        if self.pictures:
            app.state.pictures = self.pictures
        self.server = uvicorn.Server(uvicorn.Config(app, log_level="error"))
        sockets = [bind(port, address=address) for address in ("127.0.0.1", lan) if address]
        self.thread = threading.Thread(target=self.server.run, kwargs={"sockets": sockets}, daemon=True)
        self.thread.start()
        while not self.server.started:
            assert self.thread.is_alive()
            self.thread.join(0.01)

    def stop(self):
        self.server.should_exit = True
        self.thread.join()


@pytest.fixture(scope="session", autouse=True)
def sites_share_their_workers(picture_workers):
    Site.pictures = picture_workers
    yield
    Site.pictures = None


@pytest.fixture
def site(demo_folder):
    """The demo with a backup and a paired device, so that their tables are seen too."""
    database = Database(demo_folder)
    with database.session() as uow:
        add_device(uow, "Tide-table phone", "not a secret of anyone", NOW)
        uow.commit()
    keep_now(database, NOW)
    database.close()
    site = Site(demo_folder)
    yield site
    site.stop()


@pytest.fixture
def empty_site(empty_folder):
    site = Site(empty_folder)
    yield site
    site.stop()


@pytest.fixture
def open_page(browser, request):
    """Open a page of a site; afterwards no console error, failed request or foreign address may have been seen."""
    contexts, troubles = [], []

    def note_trouble(message):
        # A form sent back with its errors is status 422, which Chromium always writes to the console; so is a round
        # that is over, where a test lets it be.
        passing = ("/frame?", "/field/queue")  # nor a queue that finds no server
        if "status of 422" not in message.text and not any(part in message.location.get("url", "") for part in passing):
            troubles.append(message.text)

    def open_page(site, path="/scale", size="table", look="bench", script=True, newcomer=False):
        context = browser.new_context(
            viewport=SIZES[size], base_url=site.url, java_script_enabled=script, has_touch=size == "phone",
            accept_downloads=True,
        )  # fmt: skip
        context.set_default_timeout(PATIENCE_S * 1000)
        context.add_cookies([{"name": "look", "value": look, "url": site.url}])
        if not newcomer:
            context.add_cookies([{"name": "seen", "value": "aids-plan-practice-scale-shots", "url": site.url}])
        contexts.append(context)
        page = context.new_page()
        page.on("console", lambda message: note_trouble(message) if message.type == "error" else None)
        page.on("pageerror", lambda error: troubles.append(str(error)))
        page.on(
            "request",
            lambda sent: None if sent.url.startswith((site.url, "data:", "blob:")) else troubles.append(sent.url),
        )
        page.goto(path)
        if script and page.locator("#ring-data").count():
            page.wait_for_selector("html[data-instruments=ready]")
        return page

    yield open_page
    failed = getattr(request.node, "call_failed", False)
    for index, context in enumerate(contexts):
        if failed and context.pages:
            ARTIFACTS.mkdir(exist_ok=True)
            context.pages[0].screenshot(path=ARTIFACTS / f"{request.node.name[:60]}-{index}.png".replace("/", "_"))
        context.close()
    if not failed:
        assert troubles == []


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item, call):
    report = yield
    if report.when == "call":
        item.call_failed = report.failed
    return report


def pytest_collection_modifyitems(items):
    for item in items:
        if "tests/browser" in str(item.path):
            item.add_marker(pytest.mark.browser)
