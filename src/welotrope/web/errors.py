"""Every failure as a clear page, fragment or JSON; never a stack trace."""

from __future__ import annotations

import logging

from fastapi import FastAPI
from fastapi.exceptions import RequestValidationError
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, Response

from welotrope.core.errors import WelotropeError
from welotrope.store.errors import NotFoundError
from welotrope.web.templating import environment

_log = logging.getLogger("welotrope")
_TITLES = {
    400: "That could not be read",
    403: "Refused",
    404: "Not here",
    405: "Not possible here",
    409: "That no longer fits",
    413: "Too large",
    422: "That does not work",
    500: "Something went wrong in Welotrope",
}


def error_response(
    request: Request, status: int, message: str, field: str | None = None, *, works: str | None = None
) -> Response:
    """Build the answer for a failure: JSON under ``/api``, a fragment for htmx, else a page."""
    if request.url.path.startswith("/api/"):
        detail = {"error": message, "field": field, "what_works": works}
        return JSONResponse(detail, status)
    title = _TITLES.get(status, "That did not work")
    name = "partials/error_fragment.html" if request.headers.get("hx-request") else "pages/error.html"
    look = request.cookies.get("look", "bench")
    html = environment().get_template(name).render(title=title, message=message, status=status, look=look)
    return HTMLResponse(html, status)


def install(app: FastAPI) -> None:
    """Register the handlers."""

    @app.exception_handler(WelotropeError)
    def _welotrope(request: Request, error: WelotropeError) -> Response:
        return error_response(request, 422, error.sentence, error.field, works=error.works)

    @app.exception_handler(NotFoundError)
    def _not_found(request: Request, error: NotFoundError) -> Response:
        return error_response(request, 404, str(error))

    @app.exception_handler(RequestValidationError)
    def _validation(request: Request, error: RequestValidationError) -> Response:
        place = error.errors()[0]["loc"][:2]
        # A field that takes several kinds of value fails once per kind; the last kind is the most general.
        last = [detail for detail in error.errors() if detail["loc"][:2] == place][-1]
        field = str(place[-1])
        read = str(last.get("input", ""))[:40]
        return error_response(request, 422, f"{field}: read “{read}”; {last['msg'].lower()}.", field)

    @app.exception_handler(HTTPException)
    def _http(request: Request, error: HTTPException) -> Response:
        message = error.detail
        if error.status_code == 404:
            message = "There is no such page. The rooms are on the rail; press / to jump to anything."
        return error_response(request, error.status_code, message)

    @app.exception_handler(Exception)
    def _unexpected(request: Request, error: Exception) -> Response:
        _log.exception("unexpected error at %s", request.url.path, exc_info=error)
        return error_response(
            request, 500, "This was not your doing. Nothing was stored; go back and try again, or reload the page."
        )
