"""Long work: the list, one piece with its progress, and stopping it."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries import jobs
from welotrope.web.shell.desk import AtDesk
from welotrope.web.shell.jobs import JobRunner

router = APIRouter()


@router.get("/jobs")
def list_jobs(desk: AtDesk) -> Response:
    """List what is and was worked on."""
    runner: JobRunner = desk.request.app.state.jobs
    return desk.page("everywhere/jobs/page.html", [runner.as_it_is(job) for job in jobs.list_jobs(desk.book)])


@router.get("/jobs/{id}")
def show_job(desk: AtDesk, id: int) -> Response:
    """Show one piece of work; as a fragment it asks again until it is over."""
    job = desk.request.app.state.jobs.as_it_is(jobs.get_job(desk.book, id))
    return desk.page("everywhere/jobs/job.html", job, part="everywhere/jobs/progress.html")


@router.post("/jobs/{id}/cancel")
def cancel_job(desk: AtDesk, id: int) -> Response:
    """Ask one to stop."""
    jobs.get_job(desk.book, id)
    desk.request.app.state.jobs.cancel(id)
    return desk.go(f"/jobs/{id}")
