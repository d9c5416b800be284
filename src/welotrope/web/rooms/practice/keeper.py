"""The rounds that are open: a few at a time, in memory, each a scene that can be made again from its seed."""

from __future__ import annotations

import secrets
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from starlette.requests import Request

from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.setup import Setup

if TYPE_CHECKING:  # OpenCV takes a while to load; only a round needs it
    from welotrope.core.finder.round import Round, RoundRequest

MOST_OPEN = 6
OPEN_S = 2 * 3600.0


@dataclass
class OpenRound:
    """A round that has not been answered, with the set-up it was begun with and when it was last looked at."""

    key: str
    setup_id: int
    setup: Setup
    round: Round
    seen: float


class RoundKeeper:
    """Keeps the open rounds; the oldest go when there are too many, and those not looked at for two hours."""

    def __init__(self, *, clock: Callable[[], float] = time.monotonic) -> None:
        self._rounds: OrderedDict[str, OpenRound] = OrderedDict()
        self._lock = threading.Lock()
        self._clock = clock

    def open(
        self, setup_id: int, setup: Setup, order: RoundRequest, *, seed: int | None = None, eye: Eye = AVERAGE_EYE
    ) -> OpenRound:
        """Begin a round; raises WelotropeError when the order cannot be met."""
        import cv2

        from welotrope.core.finder.round import SEED_LIMIT, Round
        from welotrope.interchange.scene_files import rendering_called

        cv2.setNumThreads(1)  # frames are asked for two at a time, one for each core
        seed = secrets.randbelow(SEED_LIMIT) if seed is None else seed
        made = Round(setup, order, seed, eye=eye, renderings=rendering_called)
        opened = OpenRound(secrets.token_urlsafe(9), setup_id, setup, made, self._clock())
        with self._lock:
            self._rounds[opened.key] = opened
            self._drop_old()
        return opened

    def find(self, key: str) -> OpenRound | None:
        """Return an open round, or None."""
        with self._lock:
            found = self._rounds.get(key)
            if found is None:
                return None
            found.seen = self._clock()
            self._rounds.move_to_end(key)
            return found

    def rest(self, key: str) -> None:
        """Let go of what a round has painted; it is painted again if it is looked at again."""
        found = self._rounds.get(key)
        if found is not None:
            found.round.finder.stage.forget()

    def close(self, key: str) -> None:
        """Forget a round."""
        with self._lock:
            self._rounds.pop(key, None)

    def __len__(self) -> int:
        return len(self._rounds)

    def _drop_old(self) -> None:
        limit = self._clock() - OPEN_S
        for key in [key for key, found in self._rounds.items() if found.seen < limit]:
            del self._rounds[key]
        while len(self._rounds) > MOST_OPEN:
            self._rounds.popitem(last=False)


def keeper_of(request: Request) -> RoundKeeper:
    """Return the application's keeper of rounds."""
    keeper: RoundKeeper = request.app.state.rounds
    return keeper
