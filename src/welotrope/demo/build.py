"""Build the demo database once; a later start finds it there."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from welotrope.core.review.frame import frame_at
from welotrope.demo import skarnmere
from welotrope.store.queries import kit, log, mounts, practice, ring_records, rolls, sheets
from welotrope.store.session import DATABASE_NAME, Database
from welotrope.store.unit_of_work import UnitOfWork

START = dt.datetime(2026, 3, 14, 9, 40)
_MONTHS_DAYS = 84
MARKER = ".welotrope-demo"
_MARKED = "The demo of Welotrope lives here; it may be started over. Its evening of 14 March 2026 began at:"
PICTURES, _PICTURES_DONE = "Pictures of the Teal", ".rendered"


def fill(uow: UnitOfWork) -> list[int]:
    """Add the kit, records of rings, slots, presets and the outing; returns the keys of the set-ups in order."""
    adapters = {key: mounts.save_adapter(uow, adapter) for key, adapter in skarnmere.ADAPTERS.items()}
    bodies = {key: kit.save_body(uow, body) for key, body in skarnmere.BODIES.items()}
    lenses = {key: kit.save_lens(uow, lens) for key, lens in skarnmere.LENSES.items()}
    for attachment in skarnmere.ATTACHMENTS:
        mounts.save_attachment(uow, attachment)
    setups = [
        kit.save_setup(
            uow, bodies[body], lenses[lens], standard, joint=kit.JointKeys(adapters[adapter] if adapter else None)
        )
        for body, lens, standard, adapter in skarnmere.SETUPS
    ]
    for index, kind, record in skarnmere.RECORDS:
        stored = kit.get_setup(uow, setups[index])
        ring_records.save_record(uow, kind, stored.lens_id, stored.id, record, START.date())
    for body, lens, number in skarnmere.SLOTS:
        sheets.put_in_slot(uow, bodies[body], lenses[lens], number)
    for index, aid, scene, stop, scatters, bias, count in skarnmere.PRACTICE:
        _practise(uow, kit.get_setup(uow, setups[index]), aid, scene, stop, scatters, bias, count)
    for lens, name, distance, stop, subjects in skarnmere.PRESETS:
        ring_records.add_preset(uow, lenses[lens], name, distance, stop, subjects)
    kit.select_setup(uow, setups[0])
    outing = log.add_outing(uow, *skarnmere.OUTING)
    roll = rolls.save_roll(uow, skarnmere.ROLL)
    rows = zip(skarnmere.FRAMES, skarnmere.MEANT.values(), skarnmere.LIGHTS, strict=True)
    for (minute, setup, distance, stop, preset, shutter, iso, film_frame, outcome, note), meant, light in rows:
        stored = kit.get_setup(uow, setups[setup])
        angle = stored.setup.ring(stop).setting_for(distance)
        frame = frame_at(stored.id, stored.setup, angle, stop, START + dt.timedelta(minutes=minute))
        subject, aid, technique, support, instead, miss_mm = meant
        extras = replace(
            frame, preset_name=preset, shutter_s=shutter, iso=iso, film_frame=film_frame, note=note, subject=subject,
            aid=aid, technique=technique.value, support=support.value, light=light.value, instead=instead,
            miss_mm=miss_mm, roll_id=roll if film_frame else None,
        )  # fmt: skip
        log.add_frame(uow, outing, extras, outcome=outcome)
    return setups


def _practise(
    uow: UnitOfWork, stored: kit.StoredSetup, aid: str, scene: str, stop: float, scatters: tuple[float, float],
    bias: float, count: int,
) -> None:  # fmt: skip
    """Play rounds as a hand of some scatter and bias would, in units of what is shown: past the subject and back.

    They lie over the three months before the outing, the scatter going from the first figure to the second.
    """
    import numpy as np

    from welotrope.core.finder.round import Release, Round, RoundRequest

    rng = np.random.default_rng(1907 + stored.id)
    for index in range(count):
        played = Round(stored.setup, RoundRequest("drop-in", aid, scene, stop), int(rng.integers(0, 2**31)))
        step = played.steps[1]
        level = played.levels[1][0] if aid == "peaking" else ""
        first = played.judge(Release(angle_deg=played.start_deg, lean_mm=0.0, seconds=0.0, step=step, level=level))
        target = first.target_deg
        shown_deg = (first.shown_mm or 0.0) * played.ring.degrees_per_mm(target)
        share = index / max(count - 1, 1)
        scatter = scatters[0] * (scatters[1] / scatters[0]) ** share
        left = played.ring.clamp(target - float(rng.normal(bias, scatter)) * shown_deg)
        over = played.ring.clamp(target + rng.uniform(1.5, 5))
        seconds = float(rng.uniform(4, 11))
        shares = (0.0, 0.45, 0.6, 0.78, 1.0)
        angles = (played.start_deg, target - 1.0, over, left + rng.normal(0, 0.6), left)
        path = tuple(
            (seconds * share, played.ring.clamp(float(angle))) for share, angle in zip(shares, angles, strict=True)
        )
        trial = played.judge(Release(angle_deg=left, lean_mm=0.0, seconds=seconds, path=path, step=step, level=level))
        at = START - dt.timedelta(days=round(_MONTHS_DAYS * (1 - share)) + 1, minutes=-7 * index)
        names = stored.setup.body.name, stored.setup.lens.name
        practice.add_trial(uow, f"demo-{stored.id}-{aid}-{index}", stored.id, names, trial, at)


_EVENING = dt.datetime(2026, 3, 14, 18, 0)


class NotADemoError(Exception):
    """The folder is not the demo's."""


def build_demo(folder: Path, *, fresh: bool = False, pictures: bool = True, history: bool = True) -> None:
    """Fill ``folder`` with the demo data unless it holds some; ``fresh`` starts over.

    Without ``pictures`` none are rendered, which takes most of the time; without ``history`` there is only the outing
    and what was practised in the finder.

    Raises
    ------
    NotADemoError
        When the folder holds a database that is not the demo's.
    """
    marked = (folder / MARKER).exists()
    if (folder / DATABASE_NAME).exists() and not marked:
        raise NotADemoError(
            f"{folder} holds data that is not the demo's; it was not touched. Name another folder: --data FOLDER."
        )
    if fresh:
        for leftover in folder.glob(f"{DATABASE_NAME}*"):
            leftover.unlink()
        forget_pictures(folder)
    database = Database(folder)
    if not marked or fresh:
        (folder / MARKER).write_text(f"{_MARKED}\n{dt.datetime.now().isoformat(timespec='seconds')}\n")
    with database.session() as uow:
        if not kit.list_bodies(uow) and not kit.list_lenses(uow):
            # What makes the data is slow to import, and a later start does not need it.
            from welotrope.demo.build import fill
            from welotrope.demo.hand_history import add_hand_history
            from welotrope.demo.measured_shots import add_test_shots

            setups = fill(uow)
            if history:
                add_hand_history(uow, setups)
                add_test_shots(uow, setups)
            uow.commit()
    if pictures and not has_pictures(folder):
        from welotrope.demo.pictures import add_pictures

        add_pictures(lambda: _turn(database), folder)
    database.close()


def demo_clock(folder: Path) -> Callable[[], dt.datetime]:
    """Return the demo's clock: the evening of its outing when it was built, and going on from there."""
    try:
        built = dt.datetime.fromisoformat((folder / MARKER).read_text().split("\n")[1])
    except (OSError, IndexError, ValueError):  # one that was built before it had a clock
        built = dt.datetime.now()
    return lambda: (_EVENING + (dt.datetime.now() - built)).replace(microsecond=0)


def has_pictures(folder: Path) -> bool:
    """Whether the pictures were all rendered into the demo's folder."""
    return (folder / PICTURES / _PICTURES_DONE).exists()


def note_pictures(folder: Path) -> None:
    """Note that all of them were."""
    (folder / PICTURES / _PICTURES_DONE).touch()


def forget_pictures(folder: Path) -> None:
    """Let the pictures be rendered anew."""
    (folder / PICTURES / _PICTURES_DONE).unlink(missing_ok=True)


@contextmanager
def _turn(database: Database) -> Iterator[UnitOfWork]:
    with database.session() as uow:
        yield uow
        uow.commit()
