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
from welotrope.web.rooms.scale.engraved import scale_distances
from welotrope.web.rooms.scale.printing.context import Sheet, build_sheet, order_query, print_page
from welotrope.web.rooms.scale.printing.form import PrintForm
from welotrope.web.shell.desk import AtDesk, Desk

router = APIRouter()


@router.get("/scale/print")
def order(desk: AtDesk) -> Response:
    """Order a sheet and see it."""
    stored = desk.in_hand()
    page = print_page(stored, _form(desk), desk.presets(), desk.preferences.unit, desk.numbers_in)
    return desk.page("scale/printing/page.html", page, status=422 if page.errors else 200)


@router.post("/scale/print")
def take_order(desk: AtDesk) -> Response:
    """Take an order and show its sheet; a diameter the lens had none of yet is remembered with it."""
    stored, form = desk.in_hand(), PrintForm.read(desk.typed)
    path = f"/scale/print?{order_query(form)}"
    found, _ = form.order(stored.setup, desk.preferences.unit, desk.numbers_in)
    lens = stored.setup.lens
    if found is None or found.wrap is None or lens.ring_diameter_mm is not None:
        return desk.go(path)
    with desk.change(f"Remembered {found.wrap.diameter_mm:g} mm as the ring of {lens.name}"):
        kit.remember_diameter(desk.book, stored.lens_id, found.wrap.diameter_mm)
    return desk.back_to(path)


@router.get("/scale/print.svg")
def as_svg(desk: AtDesk) -> Response:
    """Return the sheet as SVG."""
    sheet = _sheet(desk)
    return _file(write_svg(sheet.pages, sheet.title), "image/svg+xml", sheet.title, "svg", desk)


@router.get("/scale/print.pdf")
def as_pdf(desk: AtDesk) -> Response:
    """Return the sheet as PDF."""
    sheet = _sheet(desk)
    return _file(write_pdf(sheet.pages, sheet.title), "application/pdf", sheet.title, "pdf", desk)


@router.get("/scale/print.csv")
def as_csv(desk: AtDesk) -> Response:
    """Return the scale as a table."""
    setup = desk.in_hand().setup
    form = _form(desk)
    found, errors = form.order(setup, desk.preferences.unit, desk.numbers_in)
    if found is None:
        raise HTTPException(422, next(iter(errors.values())))
    ring = setup.ring()
    usual = [mm for mm in scale_distances(setup, desk.preferences.unit) if ring.closest_mm <= mm <= ring.farthest_mm]
    for mm in found.distances_mm:
        ring.check_reach(mm, field="distances")
    text = write_scale(setup, found.distances_mm or usual, found.stops or setup.lens.stops, found.wrap)
    return _file(text, "text/csv", setup.name, "csv", desk)


def _form(desk: Desk) -> PrintForm:
    query = desk.request.query_params
    form: PrintForm = PrintForm.read(FormData([*query.multi_items()]))
    return form.first(desk.in_hand().setup)


def _sheet(desk: Desk) -> Sheet:
    setup = desk.in_hand().setup
    found, errors = _form(desk).order(setup, desk.preferences.unit, desk.numbers_in)
    if found is None:
        raise HTTPException(422, next(iter(errors.values())))
    return build_sheet(setup, found, desk.presets())


def _file(content: str | bytes, kind: str, title: str, suffix: str, desk: Desk) -> Response:
    name = re.sub(r"[^A-Za-z0-9]+", "-", title).strip("-").lower() or "scale"
    shown = "attachment" if desk.request.query_params.get("download") else "inline"
    return Response(
        content, media_type=kind, headers={"content-disposition": f'{shown}; filename="{name}-scale.{suffix}"'}
    )
