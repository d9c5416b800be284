"""The made-up kit, records, rounds and outing of Skarnmere Slip, put into an empty database."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace

from welotrope.core.review.frame import frame_at
from welotrope.demo import skarnmere
from welotrope.store.queries import attachments, kit, log, mounts, practice, presets, ring_records, rolls, slots
from welotrope.store.unit_of_work import UnitOfWork

START = dt.datetime(2026, 3, 14, 9, 40)
_MONTHS_DAYS = 84


def fill(uow: UnitOfWork) -> list[int]:
    """Add the kit, records of rings, slots, presets and the outing; returns the keys of the set-ups in order."""
    adapters = {key: mounts.save_adapter(uow, adapter) for key, adapter in skarnmere.ADAPTERS.items()}
    bodies = {key: kit.save_body(uow, body) for key, body in skarnmere.BODIES.items()}
    lenses = {key: kit.save_lens(uow, lens) for key, lens in skarnmere.LENSES.items()}
    for attachment in skarnmere.ATTACHMENTS:
        attachments.save_attachment(uow, attachment)
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
        slots.put_in_slot(uow, bodies[body], lenses[lens], number)
    for index, aid, scene, stop, scatters, bias, count in skarnmere.PRACTICE:
        _practise(uow, kit.get_setup(uow, setups[index]), aid, scene, stop, scatters, bias, count)
    for lens, name, distance, stop, subjects in skarnmere.PRESETS:
        presets.add_preset(uow, lenses[lens], name, distance, stop, subjects)
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
