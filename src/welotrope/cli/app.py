"""The command line: serve, demo, calc, backup, export, import, restore, pocket, sharpness."""

from __future__ import annotations

import gc
import json
import os
import sys
from collections.abc import Callable
from inspect import Parameter, Signature
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, NoReturn

import typer

from welotrope.core.errors import WelotropeError
from welotrope.core.optics.thin_lens import Datum
from welotrope.interchange.calc_verb import Parameter as VerbParameter
from welotrope.interchange.calc_verb import ParameterKind, Verb
from welotrope.interchange.calc_verbs import VERBS
from welotrope.interchange.json_verbs import JSON_VERBS, JsonVerb
from welotrope.interchange.problems import sentence_of

if TYPE_CHECKING:
    import datetime as dt

    from fastapi import FastAPI

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Critical focus with manual lenses.")
calc = typer.Typer(no_args_is_help=True, help="Stand-alone calculations; print JSON, infinity as null.")
app.add_typer(calc, name="calc")

DEFAULT_PORT = 8420
MAX_REQUEST = 4_000_000
Data = Annotated[Path | None, typer.Option("--data", envvar="WELOTROPE_DATA", help="Data folder.")]
Port = Annotated[int, typer.Option(min=1, max=65535, help="Port on 127.0.0.1.")]
Lan = Annotated[
    bool, typer.Option("--lan", help="Let paired devices of the local network in. Only where you trust it.")
]
Address = Annotated[str | None, typer.Option(help="This computer's address on the local network, with --lan.")]
Browser = Annotated[bool, typer.Option("--browser/--no-browser", help="Open it in the browser.")]
From = Annotated[Datum, typer.Option("--from", help="Plane the distances start from.")]


def data_folder(data: Path | None) -> Path:
    """Return the folder given, else the platform's user-data folder."""
    if data is not None:
        return data
    from platformdirs import user_data_path

    return user_data_path("welotrope", appauthor=False)


@app.command()
def serve(
    *, data: Data = None, port: Port = DEFAULT_PORT, lan: Lan = False, address: Address = None, browser: Browser = True
) -> None:
    """Serve the user's own data on http://127.0.0.1; with --lan to paired devices of the local network too."""
    _serve(data_folder(data), port, lan=lan, address=address, browser=browser)


@app.command()
def demo(
    *,
    data: Annotated[Path | None, typer.Option("--data", help="Folder for the demo; never that of your data.")] = None,
    port: Port = DEFAULT_PORT,
    fresh: bool = False,
    pictures: Annotated[bool, typer.Option(help="With the pictures of its outing, rendered once meanwhile.")] = True,
    lan: Lan = False,
    address: Address = None,
    browser: Browser = True,
) -> None:
    """Serve the made-up Skarnmere Slip data from a folder of its own; own data is never touched."""
    from welotrope.demo.build import NotADemoError, build_demo, demo_clock

    folder = data if data is not None else data_folder(None).with_name("welotrope-demo")
    try:
        with _database_errors():
            build_demo(folder, fresh=fresh, pictures=False)
    except NotADemoError as error:
        fail(str(error))
    print("The demo's clock stands on the evening of its outing, 14 March 2026, and goes on from there.", flush=True)
    work = _render_pictures if pictures else None
    _serve(folder, port, lan=lan, address=address, browser=browser, work=work, now=demo_clock(folder))


def _render_pictures(application: FastAPI, folder: Path) -> None:
    """Let the demo's pictures be rendered beside the requests, once."""
    from welotrope.demo.build import has_pictures
    from welotrope.web.request.jobs import Progress, turn

    database = application.state.database
    if has_pictures(folder):
        return

    def work(progress: Progress) -> str:
        from welotrope.demo.pictures import add_pictures

        add_pictures(lambda: turn(database), folder, step=progress.step)
        return "/log/pictures"

    application.state.at_start.append(lambda: application.state.jobs.start("Rendering the pictures of the demo", work))


@app.command()
def backup(*, target: Annotated[Path | None, typer.Argument(help="File to write.")] = None, data: Data = None) -> None:
    """Write a consistent copy of the database, also while the application runs."""
    from welotrope.store.session import Database, backup_name
    from welotrope.web.app.server import local_now

    folder = _existing(data)
    with _database_errors():
        database = Database(folder)
    try:
        written = database.backup(target if target is not None else Path(backup_name(local_now())))
    except FileExistsError as error:
        fail(str(error))
    except OSError as error:
        fail(f"The backup could not be written ({error}). Nothing was left behind; name another place.")
    finally:
        database.close()
    print(written)


@app.command("export")
def export_all(
    target: Annotated[Path, typer.Argument(help="File to write, such as everything.zip.")], *, data: Data = None
) -> None:
    """Write everything there is, with its files, as one archive; also while the application runs."""
    from welotrope.store.archive import write_archive
    from welotrope.store.session import Database
    from welotrope.web.app.server import local_now

    with _database_errors():
        database = Database(_existing(data))
    try:
        found = write_archive(database, target, local_now(), step=_show_step)
    except (FileExistsError, OSError) as error:
        fail(f"The archive could not be written: {error}. Nothing was left behind.")
    finally:
        database.close()
    print(json.dumps({"file": str(target), "schema": found.schema, "counts": found.counts}, indent=2))


@app.command("import")
def import_all(source: Annotated[Path, typer.Argument(help="Archive to read.")], *, data: Data = None) -> None:
    """Read an archive into a data folder that holds nothing yet: all of it or nothing."""
    from welotrope.store.archive import ArchiveError, read_archive
    from welotrope.store.session import FolderLock

    try:
        with _database_errors(), FolderLock(data_folder(data)):
            found = read_archive(source, data_folder(data), step=_show_step)
    except ArchiveError as error:
        fail(str(error))
    except OSError as error:
        fail(f"The folder cannot be written ({error}). Nothing was stored.")
    print(json.dumps({"folder": str(data_folder(data)), "counts": found.counts}, indent=2))


@app.command()
def pocket(
    *,
    target: Annotated[Path | None, typer.Argument(help="File to write; welotrope-pocket.html without.")] = None,
    data: Data = None,
    look: Annotated[str, typer.Option(help="Its look: bench, room (dim), sun or night.")] = "sun",
    feet: Annotated[bool, typer.Option("--feet", help="Feet lead.")] = False,
) -> None:
    """Write the field page of all set-ups as one file that needs no network; also while the application runs."""
    from welotrope.core.units.distance import Unit
    from welotrope.store.session import Database
    from welotrope.web.app.application import pocket_html
    from welotrope.web.app.server import local_now
    from welotrope.web.request.preferences import Appearance

    if look not in set(Appearance):
        fail(f"Look: read “{look[:20]}”; there is none of that name. Write {', '.join(Appearance)}.")
    written = target if target is not None else Path("welotrope-pocket.html")
    with _database_errors():
        database = Database(_existing(data))
    try:
        with database.session(write=False) as uow:
            html = pocket_html(uow, local_now(), look, Unit.FEET if feet else Unit.METRIC)
        if not html:
            fail("There is no set-up yet. Enter one in Kit first.")
        written.write_text(html, encoding="utf-8")
    except OSError as error:
        fail(f"{written} cannot be written ({error.strerror}). Name another place.")
    finally:
        database.close()
    print(written)


@app.command()
def sharpness(picture: Annotated[Path, typer.Argument(help="JPEG, TIFF, PNG, WebP or raw picture.")]) -> None:
    """Print where a picture is sharp, as JSON: rows of scores from 0 to 1, null where nothing can be said."""
    from welotrope.core.picture.sharpness_map import sharpness_map
    from welotrope.interchange.picture_json import sharpness_values
    from welotrope.interchange.pictures.opened import opened

    try:
        with opened(picture) as found:
            print(json.dumps(sharpness_values(sharpness_map(found.grey()))))
    except WelotropeError as error:
        fail(error.sentence)


@app.command()
def restore(backup: Annotated[Path, typer.Argument(help="Backup to put in place.")], *, data: Data = None) -> None:
    """Put a backup in place of the database, which is kept beside it; the application must not run."""
    from welotrope.store.backups import restore as put_back
    from welotrope.store.session import FolderLock
    from welotrope.web.app.server import local_now

    with _database_errors(), FolderLock(data_folder(data)):
        kept = put_back(backup, data_folder(data), local_now())
    print(f"Restored {backup}." + (f" What was there is kept as {kept}." if kept else ""))
    print("Devices have to be paired again. Folders of pictures that were named on this computer stay known.")


def _existing(data: Path | None) -> Path:
    from welotrope.store.session import DATABASE_NAME

    folder = data_folder(data)
    if not (folder / DATABASE_NAME).exists():
        fail(f"There is no database in {folder}. Name its folder with --data.")
    return folder


def _show_step(done: int, of: int, what: str) -> None:
    if sys.stderr.isatty():
        print(f"{what}: {done} of {of}", end="\r", file=sys.stderr)


def _command(verb: Verb) -> Callable[..., None]:
    """Return the command of a verb, its options made from its parameters."""

    def command(**given: Any) -> None:
        datum = given.pop("from_")
        try:
            found = verb.from_text({p.option: given[_name(p)] for p in verb.parameters}, datum)
        except WelotropeError as error:
            fail(error.sentence)
        print(json.dumps(found, indent=2))

    ordered = sorted(verb.parameters, key=lambda p: not p.required)
    parameters = [_option(parameter) for parameter in ordered]
    parameters.append(Parameter("from_", Parameter.KEYWORD_ONLY, default=verb.datums[0], annotation=From))
    command.__name__, command.__doc__ = verb.name, verb.help
    command.__dict__["__signature__"] = Signature(parameters)
    command.__annotations__ = {parameter.name: parameter.annotation for parameter in parameters}
    return command


def _name(parameter: VerbParameter) -> str:
    return parameter.option.replace("-", "_")


_TYPED: dict[ParameterKind, object] = {
    ParameterKind.STOP: str, ParameterKind.DISTANCE: str, ParameterKind.READINGS: list[str], ParameterKind.COUNT: int,
    ParameterKind.NUMBERS: list[float], ParameterKind.FLAG: bool,
}  # fmt: skip


def _option(parameter: VerbParameter) -> Parameter:
    kind: Any = _TYPED.get(parameter.kind, float)
    told = typer.Option(f"--{parameter.option}", help=parameter.help)
    annotation: object = Annotated[kind if parameter.required else kind | None, told]
    default = Parameter.empty if parameter.required else None
    return Parameter(_name(parameter), Parameter.KEYWORD_ONLY, default=default, annotation=annotation)


for _verb in VERBS:
    calc.command(_verb.name)(_command(_verb))


def _json_command(verb: JsonVerb) -> Callable[[], None]:
    """Return the command of a calculation that takes one JSON request on standard input."""

    def command() -> None:
        from pydantic import ValidationError

        text = sys.stdin.read(MAX_REQUEST + 1)
        if len(text) > MAX_REQUEST:
            fail(f"request: more than {MAX_REQUEST:,} characters, that is too long. Send fewer trials.")
        try:
            print(verb.function(verb.request.model_validate_json(text)).model_dump_json(indent=2))
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            place = ".".join(str(part) for part in first["loc"]) or "request"
            fail(sentence_of(first, place))
        except WelotropeError as error:
            fail(error.sentence)

    command.__name__ = verb.name
    command.__doc__ = f"{verb.help} One JSON request on standard input, described under /api/docs."
    return command


for _json_verb in JSON_VERBS:
    calc.command(_json_verb.name)(_json_command(_json_verb))


def _serve(
    folder: Path, port: int, *, browser: bool, lan: bool = False, address: str | None = None,
    work: Callable[[FastAPI, Path], None] | None = None, now: Callable[[], dt.datetime] | None = None,
) -> None:  # fmt: skip
    from contextlib import ExitStack

    from welotrope.web.app.server import PortUnusableError, bind, is_loopback, lan_address, run

    if address and not lan:
        fail("--address goes with --lan.")
    if address and is_loopback(address):
        fail(
            f"--address: {address} is this computer to itself; no other device gets there. "
            "Leave --address out, or write the address it has on the local network."
        )
    with ExitStack() as open_sockets:
        try:
            listening = [open_sockets.enter_context(bind(port))]
            if lan:
                address = address or lan_address()
                listening.append(open_sockets.enter_context(bind(port, address=address)))
        except PortUnusableError as error:
            fail(str(error))
        with _database_errors():
            from welotrope.store.session import FolderLock

            open_sockets.enter_context(FolderLock(folder))
            # Slow to import: what is wrong with port, address or folder is said before.
            from welotrope.web.app.application import create_app
            from welotrope.web.app.server import local_now

            application = create_app(folder, now=now or local_now, lan=(address, port) if address else None)
        application.state.clock_is_made_up = now is not None
        if browser:
            from welotrope.web.app.server import open_browser

            application.state.at_start.append(lambda: open_browser(f"http://127.0.0.1:{port}"))
        _announce(folder, port)
        if work is not None:
            work(application, folder)
        if application.state.device_pairing is not None:
            _show_pairing(application.state.device_pairing)
        run(application, *listening)


def _announce(folder: Path, port: int) -> None:
    print(f"Welotrope: http://127.0.0.1:{port}  (data in {folder}; stop with Ctrl+C)", flush=True)


def _show_pairing(door: Any) -> None:
    """Print how a device is paired, as words and as a code a camera reads."""
    import segno

    code = door.new_code()
    print(f"On the local network: {door.url}/pair  code {code[:4]}-{code[4:]}, for one device, for ten minutes.")
    print("What is sent is not encrypted: only where you trust everybody on the network.", flush=True)
    segno.make(door.code_url(code), micro=False).terminal(compact=True)


class _database_errors:  # noqa: N801 - reads as a statement
    """Turn an unusable database into its sentence and exit status 2."""

    def __enter__(self) -> None:
        return None

    def __exit__(self, _kind: object, error: BaseException | None, _trace: object) -> None:
        from welotrope.store.session import DatabaseUnusableError

        if isinstance(error, DatabaseUnusableError):
            fail(str(error))


def fail(message: str) -> NoReturn:
    """Print why it cannot be done, and end with status 2."""
    print(message, file=sys.stderr)
    raise typer.Exit(2)


def main() -> None:
    """Run the command line."""
    os.environ.setdefault("TYPER_USE_RICH", "0")
    # Before numpy is imported: its matrices here are small, and threads would only wait for one another.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    # Whole sweeps stop everything: seldom, or they take a tenth of the start.
    gc.set_threshold(20_000, 20, 100)
    app()
