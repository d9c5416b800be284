"""/shots/sheets: what is printed, and how to stand."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.testshot.sheets import SheetKind, SheetPaper
from welotrope.web.request.context import CurrentContext

router = APIRouter()


@router.get("/shots/sheets")
def show_sheets(context: CurrentContext) -> Response:
    """Show the sheets there are."""
    return context.page("shots/sheets/page.html", None)


@router.get("/shots/sheets/{kind}-{paper}.pdf")
def sheet_pdf(kind: SheetKind, paper: SheetPaper) -> Response:
    """Serve the sheets of a kind as a PDF at true size."""
    from welotrope.interchange.print.target import target_pdf

    name = f'attachment; filename="welotrope-{kind}-{paper}.pdf"'
    return Response(target_pdf(kind, paper), media_type="application/pdf", headers={"content-disposition": name})


@router.get("/shots/sheets/{kind}-{paper}.json")
def sheet_geometry(kind: SheetKind, paper: SheetPaper) -> dict[str, object]:
    """Serve where everything stands on the sheets of a kind."""
    from welotrope.core.testshot.sheets import geometry

    return geometry(kind, paper)
