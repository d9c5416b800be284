"""Long work: the list, one piece with its progress, and stopping it."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries import jobs
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.jobs import JobRunner

router = APIRouter()


@router.get("/jobs")
def list_jobs(context: CurrentContext) -> Response:
    """List what is and was worked on."""
    runner: JobRunner = context.request.app.state.jobs
    return context.page("everywhere/jobs/page.html", [runner.as_it_is(job) for job in jobs.list_jobs(context.uow)])


@router.get("/jobs/{id}")
def show_job(context: CurrentContext, id: int) -> Response:
    """Show one piece of work; as a fragment it asks again until it is over."""
    job = context.request.app.state.jobs.as_it_is(jobs.get_job(context.uow, id))
    return context.page("everywhere/jobs/job.html", job, part="everywhere/jobs/progress.html")


@router.post("/jobs/{id}/cancel")
def cancel_job(context: CurrentContext, id: int) -> Response:
    """Ask one to stop."""
    jobs.get_job(context.uow, id)
    context.request.app.state.jobs.cancel(id)
    return context.go(f"/jobs/{id}")
