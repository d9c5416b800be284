"""Long work: progress, stopping, failing, and what a crash leaves."""

import threading
import time

import pytest

from tests.conftest import NOW
from welotrope.core.errors import ConflictError
from welotrope.store.queries import jobs
from welotrope.store.queries.jobs import JobState


def ended(client, id):
    for _ in range(200):
        with client.app.state.database.session(write=False) as uow:
            job = jobs.get_job(uow, id)
        if job.state.over:
            return job
        time.sleep(0.02)
    raise AssertionError(job)


def test_work_tells_how_far_it_is_and_where_its_result_lies(client):
    halfway, go_on = threading.Event(), threading.Event()

    def work(progress):
        progress._told = 0.0
        progress.step(3, 12, note="reading the fourth")
        halfway.set()
        go_on.wait(5)
        return "/log"

    id = client.app.state.jobs.start("Reading pictures", work)
    assert halfway.wait(5)
    page = client.get(f"/jobs/{id}").text
    assert "3 of 12" in page
    assert "reading the fourth" in page
    fragment = client.get(f"/jobs/{id}", headers={"hx-request": "true"}).text
    assert fragment.lstrip().startswith('<div id="job"')
    assert "every 1s" in fragment
    go_on.set()
    assert ended(client, id).state is JobState.DONE
    page = client.get(f"/jobs/{id}").text
    assert 'href="/log"' in page
    assert "every 1s" not in page
    assert "Reading pictures" in client.get("/jobs").text


def test_work_that_is_stopped_ends_at_its_next_step(client):
    begun = threading.Event()

    def work(progress):
        for k in range(1000):
            progress.step(k, 1000)
            begun.set()
            time.sleep(0.01)
        return ""

    id = client.app.state.jobs.start("Endless", work)
    assert begun.wait(5)
    client.post(f"/jobs/{id}/cancel")
    assert ended(client, id).state is JobState.CANCELLED


@pytest.mark.parametrize(
    ("error", "words"),
    [
        (ConflictError("pictures", "a.jpg", "it is no picture", "Choose another"), "it is no picture"),
        (RuntimeError("x"), "RuntimeError"),
    ],
)
def test_work_that_fails_says_why_and_the_next_is_done(client, error, words):
    def fails(_progress):
        raise error

    first = client.app.state.jobs.start("Fails", fails)
    second = client.app.state.jobs.start("Works", lambda _progress: "")
    assert ended(client, second).state is JobState.DONE
    job = ended(client, first)
    assert job.state is JobState.FAILED
    assert words in client.get(f"/jobs/{first}").text


def test_what_a_crash_left_running_is_cut_off_at_the_next_start(client):
    database = client.app.state.database
    with database.session() as uow:
        running, over = jobs.add_job(uow, "Was running", NOW), jobs.add_job(uow, "Was done", NOW)
        jobs.finish(uow, over, JobState.DONE, "", "", NOW)
        uow.commit()
    client.app.state.jobs.recover()
    with database.session() as uow:
        assert jobs.get_job(uow, running).state is JobState.CUT_OFF
        assert jobs.get_job(uow, over).state is JobState.DONE
    assert "start it again" in client.get(f"/jobs/{running}").text


def test_a_job_that_is_not_there_is_not_found(client):
    assert client.get("/jobs/77").status_code == 404
    assert client.post("/jobs/77/cancel").status_code == 404
