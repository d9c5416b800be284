"""The command line: ``welotrope serve | demo | calc | backup``."""

from __future__ import annotations

import json
import math
import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, NoReturn

import typer

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.optics.datum import Datum
from welotrope.core.plan import calculations
from welotrope.core.ring.adapter_error import adapter_effect
from welotrope.core.units.distance import parse_distance
from welotrope.core.units.stops import parse_stop
from welotrope.interchange.calc_json import as_json

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Critical focus with manual lenses.")
calc = typer.Typer(no_args_is_help=True, help="Stand-alone calculations; print JSON, infinity as null.")
app.add_typer(calc, name="calc")

DEFAULT_PORT = 8420
MAX_REQUEST = 100_000
Data = Annotated[Path | None, typer.Option("--data", envvar="WELOTROPE_DATA", help="Data folder.")]
Port = Annotated[int, typer.Option(min=1, max=65535, help="Port on 127.0.0.1.")]
Focal = Annotated[float, typer.Option("--focal", help="Focal length, mm.")]
Stop = Annotated[str, typer.Option("--stop", help="f-number.")]
Blur = Annotated[float, typer.Option("--blur", help="Acceptable blur circle, mm.")]
Focus = Annotated[str, typer.Option("--focus", help="Focus distance, e.g. 2500mm, 2.5m, 8ft, inf.")]
From = Annotated[Datum, typer.Option("--from", help="Plane the distances start from.")]


def data_folder(data: Path | None) -> Path:
    """Return the folder given, else the platform's user-data folder."""
    if data is not None:
        return data
    from platformdirs import user_data_path

    return user_data_path("welotrope", appauthor=False)


@app.command()
def serve(data: Data = None, port: Port = DEFAULT_PORT) -> None:
    """Serve the user's own data on http://127.0.0.1."""
    _serve(data_folder(data), port)


@app.command()
def demo(
    data: Annotated[Path | None, typer.Option("--data", help="Folder for the demo; never that of your data.")] = None,
    port: Port = DEFAULT_PORT,
    fresh: bool = False,
) -> None:
    """Serve the made-up Skarnmere Slip data from a folder of its own; own data is never touched."""
    from welotrope.demo.build import NotADemoError, build_demo

    folder = data if data is not None else data_folder(None).with_name("welotrope-demo")
    try:
        with _database_errors():
            build_demo(folder, fresh=fresh)
    except NotADemoError as error:
        _fail(str(error))
    _serve(folder, port)


@app.command()
def backup(target: Annotated[Path | None, typer.Argument(help="File to write.")] = None, data: Data = None) -> None:
    """Write a consistent copy of the database, also while the application runs."""
    from welotrope.store.session import DATABASE_NAME, Database, backup_name
    from welotrope.web.app import local_now

    folder = data_folder(data)
    if not (folder / DATABASE_NAME).exists():
        _fail(f"There is no database in {folder}. Name its folder with --data.")
    with _database_errors():
        database = Database(folder)
    try:
        written = database.backup(target if target is not None else Path(backup_name(local_now())))
    except FileExistsError as error:
        _fail(str(error))
    except OSError as error:
        _fail(f"The backup could not be written ({error}). Nothing was left behind; name another place.")
    finally:
        database.close()
    print(written)


@calc.command()
def depth(focal: Focal, stop: Stop, blur: Blur, focus: Focus, from_: From = Datum.FILM) -> None:
    """Near and far limits, and the hyperfocal distance."""
    _print(
        lambda: calculations.depth(focal, parse_stop(stop), blur, parse_distance(focus, field="focus distance"), from_)
    )


@calc.command()
def zone(
    focal: Focal,
    near: Annotated[str, typer.Option("--near", help="Nearest subject.")],
    far: Annotated[str, typer.Option("--far", help="Farthest subject.")],
    blur: Blur,
    from_: From = Datum.FILM,
) -> None:
    """Where to focus and which stop for a zone."""
    _print(
        lambda: calculations.zone(
            focal, parse_distance(near, field="near"), parse_distance(far, field="far"), blur, from_
        )
    )


@calc.command()
def ring(
    focal: Focal,
    lead: Annotated[float, typer.Option("--lead", help="Helicoid lead, mm a turn.")],
    stop: Stop,
    blur: Blur,
    focus: Focus,
    diameter: Annotated[float | None, typer.Option("--diameter", help="Ring diameter, mm.")] = None,
    from_: From = Datum.FILM,
) -> None:
    """Ring angle from infinity and the width of the sharp window."""
    _print(
        lambda: calculations.ring(
            focal, lead, parse_stop(stop), blur, parse_distance(focus, field="focus distance"), from_, diameter
        ),
        drop_none=("window_mm",),
    )


@calc.command()
def adapter(
    focal: Focal,
    error: Annotated[float, typer.Option("--error", help="Thickness error, mm; positive is too thick.")],
    lead: Annotated[float | None, typer.Option("--lead", help="Helicoid lead, mm a turn.")] = None,
    diameter: Annotated[float | None, typer.Option("--diameter", help="Ring diameter, mm.")] = None,
    from_: From = Datum.FILM,
) -> None:
    """Whether infinity is reached with an adapter that is too thick or thin, and where it falls."""
    known = ("infinity_deg", "infinity_mm") if lead is None else ("infinity_mm",) if diameter is None else ()
    _print(lambda: adapter_effect(focal, error, from_, lead, diameter), drop_none=known)


@calc.command()
def throw(
    focal: Focal,
    point: Annotated[
        list[str],
        typer.Option("--point", help="Ring angle in degrees and distance, e.g. 48.6:2m or 0:inf; one each."),
    ],
    error: Annotated[float | None, typer.Option("--error", help="Reading error, degrees; else 0.5.")] = None,
    distance_error: Annotated[
        float | None,
        typer.Option("--distance-error", help="Error of a distance, percent; else the larger of 1 % and 5 mm."),
    ] = None,
    from_: From = Datum.FILM,
) -> None:
    """Lead of a ring from readings, where infinity lies, what kind it is, and which readings do not belong."""
    share = None if distance_error is None else distance_error / 100
    _print(lambda: calculations.throw(focal, [_point(text) for text in point], from_, error, share))


@calc.command()
def engraving(
    focal: Focal,
    stop: Annotated[str, typer.Option("--stop", help="The pair of depth marks read.")],
    far: Annotated[str | None, typer.Option("--far", help="Distance under the far mark.")] = None,
    near: Annotated[str | None, typer.Option("--near", help="Distance under the near mark.")] = None,
    index: Annotated[str | None, typer.Option("--index", help="Distance under the index.")] = None,
    blur: Annotated[
        float | None,
        typer.Option("--blur", help="Blur circle to compare with, mm; else the print standard of 36 × 24 mm."),
    ] = None,
    from_: From = Datum.FILM,
) -> None:
    """Blur circle that depth marks imply, and by how many stops it is more lenient than the standard."""

    def compute() -> object:
        marks = (("far mark", far), ("near mark", near), ("index", index))
        f, n, i = (None if text is None else parse_distance(text, field=name) for name, text in marks)
        return calculations.engraving(focal, parse_stop(stop), from_, f, n, i, blur)

    _print(compute)


@calc.command()
def aids() -> None:
    """Aids judged for a setting, best first: one JSON request on standard input, described under /api/docs."""
    from pydantic import ValidationError

    from welotrope.interchange.aids_request import AidsRequest, answer

    text = sys.stdin.read(MAX_REQUEST)
    try:
        asked = AidsRequest.model_validate_json(text)
        print(answer(asked).model_dump_json(indent=2))
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        place = ".".join(str(part) for part in first["loc"]) or "request"
        _fail(f"{place}: read “{str(first['input'])[:60]}”; {first['msg'][0].lower()}{first['msg'][1:]}.")
    except WelotropeError as error:
        _fail(error.sentence)


def _point(text: str) -> tuple[float, float]:
    angle, colon, distance = text.partition(":")
    try:
        degrees = float(angle.strip().removesuffix("°"))
    except ValueError:
        degrees = math.nan
    if not colon or not math.isfinite(degrees):
        raise UnreadableError(
            "point", text, "that is not an angle and a distance", "Write degrees, a colon, a distance, such as 48.6:2m"
        )
    return degrees, parse_distance(distance, field="point")


def _print(compute: Callable[[], object], drop_none: tuple[str, ...] = ()) -> None:
    try:
        values = compute()
    except WelotropeError as error:
        _fail(error.sentence)
    unknown = {key for key in drop_none if getattr(values, key) is None}
    print(json.dumps({key: value for key, value in as_json(values).items() if key not in unknown}, indent=2))


def _serve(folder: Path, port: int) -> None:
    from welotrope.web.app import create_app
    from welotrope.web.server import PortUnusableError, bind, run

    try:
        listening = bind(port)
    except PortUnusableError as error:
        _fail(str(error))
    with listening:
        with _database_errors():
            application = create_app(folder)
        _announce(folder, port)
        run(application, listening)


def _announce(folder: Path, port: int) -> None:
    print(f"Welotrope: http://127.0.0.1:{port}  (data in {folder}; stop with Ctrl+C)", flush=True)


class _database_errors:  # noqa: N801 - reads as a statement
    """Turn an unusable database into its sentence and exit status 2."""

    def __enter__(self) -> None:
        return None

    def __exit__(self, _kind: object, error: BaseException | None, _trace: object) -> None:
        from welotrope.store.session import DatabaseUnusableError

        if isinstance(error, DatabaseUnusableError):
            _fail(str(error))


def _fail(message: str) -> NoReturn:
    print(message, file=sys.stderr)
    raise typer.Exit(2)


def main() -> None:
    """Run the command line."""
    os.environ.setdefault("TYPER_USE_RICH", "0")
    app()
