"""Sheets to print, and pictures of them measured: ``welotrope target`` and ``welotrope testshot``."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Annotated

import typer

from welotrope.cli.app import app, fail
from welotrope.core.errors import WelotropeError
from welotrope.core.json_values import JsonObject
from welotrope.core.testshot.sheets import SheetKind, SheetPaper

testshot = typer.Typer(no_args_is_help=True, help="Measure pictures of printed sheets and of series; print JSON.")
app.add_typer(testshot, name="testshot")

Pictures = Annotated[list[str], typer.Argument(help="Pictures, each with @ and where it was taken.")]
Focal = Annotated[float | None, typer.Option(help="Focal length in mm; from the picture without.")]
Width = Annotated[float | None, typer.Option(help="Longer side of the sensor or film in mm.")]
Stop = Annotated[float | None, typer.Option(help="f-number; from the picture without.")]
Blur = Annotated[float, typer.Option(help="Largest blur that counts as sharp, mm on the sensor.")]


@app.command()
def target(
    kind: Annotated[SheetKind, typer.Argument(help="slope, row or wall.")],
    *,
    output: Annotated[Path, typer.Option("--output", help="PDF to write.")],
    paper: Annotated[SheetPaper, typer.Option("--paper", help="Paper it is printed on.")] = SheetPaper.A4,
    geometry: Annotated[Path | None, typer.Option("--geometry", help="JSON to write: where everything stands.")] = None,
) -> None:
    """Write a sheet to print at 100 %, and where everything stands on it."""
    from welotrope.core.testshot.sheets import geometry as geometry_of
    from welotrope.interchange.print.target import target_pdf

    try:
        output.write_bytes(target_pdf(kind, paper))
        if geometry is not None:
            geometry.write_text(json.dumps(geometry_of(kind, paper), indent=2), encoding="utf-8")
    except OSError as error:
        fail(f"{error.filename or output} cannot be written ({error.strerror}). Name another place.")
    print(output)


@testshot.command()
def slope(
    picture: Annotated[Path, typer.Argument(help="JPEG, TIFF, PNG, WebP or raw picture of the slope sheet.")],
    *,
    focal: Focal = None,
    width: Width = None,
    stop: Stop = None,
    blur: Blur = 0.03,
) -> None:
    """Print where focus fell: mm behind (+) or in front of (-) the mark of the sheet, with 95 % intervals."""
    from welotrope.interchange.testshot import ShotOptions, slope_values

    said = ShotOptions(focal_mm=focal, width_mm=width, stop=stop, blur_mm=blur)
    _print(lambda: slope_values(picture, said))


@testshot.command()
def row(
    picture: Annotated[Path, typer.Argument(help="Picture of sheets in a row, 1 nearest, focused on sheet 5.")],
    *,
    focal: Focal = None,
    width: Width = None,
    stop: Stop = None,
    blur: Blur = 0.03,
    distance: Annotated[
        list[str] | None, typer.Option(help="Distance of a sheet from the film such as 5=3.2m; repeatable.")
    ] = None,
) -> None:
    """Print where focus fell: mm behind (+) or in front of (-) the cross of sheet 5, with a 95 % interval."""
    from welotrope.interchange.testshot import ShotOptions, read_sheet_distances, row_values

    said = ShotOptions(focal_mm=focal, width_mm=width, stop=stop, blur_mm=blur)
    _print(lambda: row_values(picture, said, read_sheet_distances(distance or [])))


@testshot.command()
def wall(
    *,
    nearer: Annotated[list[Path] | None, typer.Option(help="Picture focused a little nearer than the wall.")] = None,
    farther: Annotated[list[Path] | None, typer.Option(help="Picture focused a little farther than it.")] = None,
    focal: Focal = None,
    width: Width = None,
    stop: Stop = None,
    blur: Blur = 0.03,
) -> None:
    """Print whether lens and film stand askew, and how curved the field is, from pictures of a wall of sheets."""
    from welotrope.interchange.testshot import ShotOptions, wall_values

    said = ShotOptions(focal_mm=focal, width_mm=width, stop=stop, blur_mm=blur)
    _print(lambda: wall_values(nearer or [], farther or [], said))


@testshot.command()
def shift(pictures: Pictures, *, focal: Focal = None, width: Width = None, blur: Blur = 0.03) -> None:
    """Print how focus moves with the stop: pictures of a sheet as PICTURE@STOP, the ring untouched."""
    from welotrope.interchange.testshot import ShotOptions, read_placed, shift_values

    said = ShotOptions(focal_mm=focal, width_mm=width, blur_mm=blur)
    _print(lambda: shift_values(read_placed(pictures, stops=True), said))


@testshot.command()
def ring(pictures: Pictures) -> None:
    """Print where the ring was best: pictures of one subject as PICTURE@PLACE, the place in any unit."""
    from welotrope.interchange.testshot import read_placed, ring_values

    _print(lambda: ring_values(read_placed(pictures, stops=False)))


@testshot.command()
def stops(pictures: Pictures) -> None:
    """Print which stop is sharpest: pictures of one flat subject as PICTURE@STOP."""
    from welotrope.interchange.testshot import read_placed, stops_values

    _print(lambda: stops_values(read_placed(pictures, stops=True)))


def _print(measured: Callable[[], JsonObject]) -> None:
    try:
        print(json.dumps(measured(), indent=2))
    except WelotropeError as error:
        fail(error.sentence)
