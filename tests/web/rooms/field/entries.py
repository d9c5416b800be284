"""Entries as the field page writes them."""

import itertools

_numbers = itertools.count(1)


def key():
    return f"key-{next(_numbers):08d}"


def frame(**change):
    return {
        "kind": "frame", "key": key(), "at": "2026-03-15T10:05:00", "setup": 1, "zoom": None, "outing": None,
        "body": "Ostrel 6", "lens": "Norrvik 50", "focal_mm": 50, "blur_mm": 0.029, "stop": 8, "distance_mm": 3000,
        "angle_deg": 31.9, "near_mm": 2400, "far_mm": 4100, "preset": "", **change,
    }  # fmt: skip


def undo(of, **change):
    return {"kind": "undo", "key": key(), "at": "2026-03-15T10:06:00", "of": of["key"], **change}


def mark(of, outcome, **change):
    return {
        "kind": "mark",
        "key": key(),
        "at": "2026-03-15T10:07:00",
        "of": of["key"],
        "outcome": outcome,
        **change,
    }


def tick(line="manual-focus", done=True, **change):
    return {
        "kind": "tick", "key": key(), "at": "2026-03-15T10:08:00", "setup": 1, "outing": 0, "line": line, "done": done,
        **change,
    }  # fmt: skip
