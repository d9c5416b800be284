"""/scale/print: strips, collars and cards as SVG and PDF at true size, and the scale as CSV."""

from __future__ import annotations

import re

from fastapi import APIRouter
from starlette.datastructures import FormData
from starlette.exceptions import HTTPException
from starlette.responses import Response

from welotrope.interchange.print.pdf import write_pdf
from welotrope.interchange.print.svg import write_svg
from welotrope.interchange.scale_csv import write_scale
from welotrope.store.queries import kit
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.scale.engraved import scale_distances
from welotrope.web.rooms.scale.printing.context import Sheet, build_sheet, order_query, print_page
from welotrope.web.rooms.scale.printing.form import PrintForm

router = APIRouter()


@router.get("/scale/print")
def order(context: CurrentContext) -> Response:
    """Order a sheet and see it."""
    stored = context.selected_setup()
    page = print_page(stored, _form(context), context.presets(), context.preferences.unit, context.numbers_in)
    return context.page("scale/printing/page.html", page, status=422 if page.errors else 200)


@router.post("/scale/print")
def take_order(context: CurrentContext) -> Response:
    """Take an order and show its sheet; a diameter the lens had none of yet is remembered with it."""
    stored, form = context.selected_setup(), PrintForm.read(context.typed)
    path = f"/scale/print?{order_query(form)}"
    found, _ = form.order(stored.setup, context.preferences.unit, context.numbers_in)
    lens = stored.setup.lens
    if found is None or found.wrap is None or lens.ring_diameter_mm is not None:
        return context.go(path)
    with context.undoable_transaction(f"Remembered {found.wrap.diameter_mm:g} mm as the ring of {lens.name}"):
        kit.remember_diameter(context.uow, stored.lens_id, found.wrap.diameter_mm)
    return context.back_to(path)


@router.get("/scale/print.svg")
def as_svg(context: CurrentContext) -> Response:
    """Return the sheet as SVG."""
    sheet = _sheet(context)
    return _file(write_svg(sheet.pages, sheet.title), "image/svg+xml", sheet.title, "svg", context)


@router.get("/scale/print.pdf")
def as_pdf(context: CurrentContext) -> Response:
    """Return the sheet as PDF."""
    sheet = _sheet(context)
    return _file(write_pdf(sheet.pages, sheet.title), "application/pdf", sheet.title, "pdf", context)


@router.get("/scale/print.csv")
def as_csv(context: CurrentContext) -> Response:
    """Return the scale as a table."""
    setup = context.selected_setup().setup
    form = _form(context)
    found, errors = form.order(setup, context.preferences.unit, context.numbers_in)
    if found is None:
        raise HTTPException(422, next(iter(errors.values())))
    ring = setup.ring()
    usual = [mm for mm in scale_distances(setup, context.preferences.unit) if ring.closest_mm <= mm <= ring.farthest_mm]
    for mm in found.distances_mm:
        ring.check_reach(mm, field="distances")
    text = write_scale(setup, found.distances_mm or usual, found.stops or setup.lens.stops, found.wrap)
    return _file(text, "text/csv", setup.name, "csv", context)


def _form(context: RequestContext) -> PrintForm:
    query = context.request.query_params
    form: PrintForm = PrintForm.read(FormData([*query.multi_items()]))
    return form.first(context.selected_setup().setup)


def _sheet(context: RequestContext) -> Sheet:
    setup = context.selected_setup().setup
    found, errors = _form(context).order(setup, context.preferences.unit, context.numbers_in)
    if found is None:
        raise HTTPException(422, next(iter(errors.values())))
    return build_sheet(setup, found, context.presets())


def _file(content: str | bytes, kind: str, title: str, suffix: str, context: RequestContext) -> Response:
    name = re.sub(r"[^A-Za-z0-9]+", "-", title).strip("-").lower() or "scale"
    shown = "attachment" if context.request.query_params.get("download") else "inline"
    return Response(
        content, media_type=kind, headers={"content-disposition": f'{shown}; filename="{name}-scale.{suffix}"'}
    )
