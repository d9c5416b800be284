"""A photographer's hand with an aid: bias and spread of where the ring is left, by posterior from trials.

A trial is scored as ``z = error/δ_shown``, both in extension: free of stop, distance and lens, so trials pool; the
spread with a real aid is ``σ_z·δ``. Beforehand one has the average eye: ``σ_z`` log-normal about 1, no bias. Its factor
of 1.9 is wider than the hands one meets, so that to one half or twice as fine as most not too much is promised.
Set-ups and manners of focusing differ from each other by less than people do: those of another kind count through a
kernel of that width (a normal hierarchical model: Gelman et al., *Bayesian Data Analysis*, ch. 5). Older trials fade by
half in a half-life. A steady gain or loss over the trials is one more unknown. Slips, a second component of a mixture,
are told apart, stated as a rate, and take part in no chance.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from welotrope.core.hand.grid import LOG_SIGMAS, SIGMAS, Grid, grid_about, half_class, interval
from welotrope.core.hand.skill_trial import NO_FOCUSING as _NO_FOCUSING
from welotrope.core.hand.skill_trial import (
    SLIP_RATE,
    Manner,
    MissSide,
    SkillTrial,
    levelled,
    log_slip,
    slip_belief,
    slips_of,
)
from welotrope.core.optics.elementwise import FloatArray
from welotrope.core.stats import Proportion

HALF_LIFE_DAYS = 60.0
# Standard deviations of log spread and bias: of people, of one person's set-ups and manners, and of both together.
_PEOPLE, _SETUPS = (0.63, 0.26), (0.15, 0.15)
_ALL = (math.hypot(_PEOPLE[0], _SETUPS[0]), math.hypot(_PEOPLE[1], _SETUPS[1]))
# Change over a hundred trials, as natural logarithm of the spread; none is likelier than all others together.
_TRENDS: FloatArray = np.linspace(-2.4, 2.4, 17)
_TREND_SD, _STEADY = 1.4, 0.3
_FINE = 100.0  # classes of window over what is shown, to a natural unit of their logarithm
_NEGLIGIBLE, _LEAST, _LEAST_FOR_TREND = 0.01, 1e-300, 10
_CLASSES = 200  # of chances, over which slips are counted in
_HEAVY_BEFOREHAND, _LEAST_FOR_TAILS = 0.3, 10


@dataclass(frozen=True)
class Interval:
    """A figure with its 95 % interval, in one unit."""

    middle: float
    low: float
    high: float

    @property
    def is_told(self) -> bool:
        """Whether it differs from none by more than chance."""
        return self.low > 0 or self.high < 0


@dataclass(frozen=True)
class DrawnSkill:
    """A hand drawn from a belief: bias and spread in units of δ, and whether its misses have heavy tails."""

    bias_z: float
    spread_z: float
    heavy: bool


@dataclass(frozen=True, kw_only=True, eq=False)
class SkillEstimate:
    """What is believed of a hand with an aid, in units of what the aid shows.

    Parameters
    ----------
    trials
        How many trials it rests on, slips among them.
    slips
        How many of them were no focusing at all.
    bias, spread
        What it leaves the ring off by on average, positive behind; and the standard deviation about that.
    trend
        How the spread changes over a hundred trials, as natural logarithm: −0.69 is a half.
    grid, mass
        The belief over a grid.
    measured
        Trials of which the miss was measured: only among them can a slip be told.
    heavy
        How much it is believed that misses have heavy tails, 0 to 1; ``heavy_mass`` is the belief over the grid then,
        and ``far_slips`` are what is a slip even so.
    """

    trials: int
    slips: int
    bias: Interval
    spread: Interval
    trend: Interval
    grid: Grid
    mass: FloatArray
    measured: int = 0
    heavy: float = 0.0
    heavy_mass: FloatArray | None = None
    far_slips: int = 0

    @property
    def bias_z(self) -> float:
        """Bias to reckon with, times δ, positive behind."""
        return self.bias.middle

    @property
    def sigma_z(self) -> float:
        """Spread to reckon with, times δ."""
        return self.spread.middle

    @property
    def slip_rate(self) -> float:
        """Slips among the trials, a fraction."""
        return self.slips / self.trials if self.trials else 0.0

    def chance(self, half_window: float, defocus: float, *, bias: float = 0.0) -> Proportion:
        """Chance of a hit, slips counted in, and its 95 % interval, as fractions.

        Parameters
        ----------
        half_window, defocus, bias
            Half the sharp window, the aid's own δ and what the aid itself is always off by, in one unit.
        """
        if defocus <= 0:
            share = 1.0 if abs(bias) <= half_window else 0.0
            return Proportion(share, share, share)
        return _chance(self, half_window / defocus, bias / defocus)

    def over(self, chances: Callable[[float, float], FloatArray], heavy: Callable[[float, float], FloatArray],
             settings: Mapping[tuple[float, float], int]) -> Proportion:  # fmt: skip
        """Return the chance over the hands it may be, slips counted in.

        Parameters
        ----------
        chances, heavy
            Of every hand of the grid for half a window and a bias of the aid, both times δ; with heavy tails.
        settings
            Such pairs, and how often each is met.
        """
        count = sum(settings.values())
        parts = [(1 - self.heavy, chances, self.mass, self.slips)]
        if self.heavy_mass is not None and self.heavy > 0:
            parts.append((self.heavy, heavy, self.heavy_mass, self.far_slips))
        values, weights = [], []
        for share, law, mass, slips in parts:
            mean = sum(often * law(*pair) for pair, often in settings.items()) / count
            middles = _compressed(np.asarray(mean), mass)
            rates, believed = slip_belief(slips, self.measured) if self.measured else (np.zeros(1), np.ones(1))
            values.append(np.outer(middles, 1 - rates).ravel())
            weights.append(share * np.outer(np.full(len(middles), 1 / len(middles)), believed).ravel())
        at, held = np.concatenate(values), np.concatenate(weights)
        share = float(at @ held)
        low, high = interval(at, held)
        return Proportion(share, min(low, share), max(high, share))

    @property
    def focusing(self) -> float:
        """Chance that a trial is focusing and no slip, a fraction; 1 without any that was measured."""
        if not self.measured:
            return 1.0
        slipping = [float(rates @ weights) for rates, weights in
                    (slip_belief(slips, self.measured) for slips in (self.slips, self.far_slips))]  # fmt: skip
        return 1 - ((1 - self.heavy) * slipping[0] + self.heavy * slipping[1])

    def drawn(self, count: int) -> tuple[DrawnSkill, ...]:
        """Return hands that it may be, each as likely as the other, in units of δ."""
        heavy = round(count * self.heavy) if self.heavy_mass is not None else 0
        found = [DrawnSkill(*pair, heavy=False) for pair in self._pairs(self.mass, count - heavy)]
        if self.heavy_mass is not None:
            found += [DrawnSkill(*pair, heavy=True) for pair in self._pairs(self.heavy_mass, heavy)]
        return tuple(found)

    def _pairs(self, mass: FloatArray, count: int) -> list[tuple[float, float]]:
        below = np.cumsum(mass, axis=None)
        places = np.searchsorted(below, (np.arange(count) + 0.5) / max(count, 1) * below[-1])
        rows, columns = np.unravel_index(np.minimum(places, mass.size - 1), mass.shape)
        return list(zip(self.grid.biases[columns].tolist(), SIGMAS[rows].tolist(), strict=True))

    def chance_of(self, settings: Sequence[tuple[float, float]]) -> Proportion:
        """Return the mean chance over settings, each half a window and δ in one unit, with its 95 % interval."""
        counts = Counter(round(_FINE * math.log(half / defocus)) for half, defocus in settings)
        met = {(math.exp(ratio / _FINE), 0.0): count for ratio, count in counts.items()}
        return self.over(self.grid.chances, self.grid.heavy_chances, met)


def _compressed(values: FloatArray, mass: FloatArray) -> FloatArray:
    """Return values that stand for a belief, each as likely as the other, ascending."""
    order = np.argsort(values, axis=None)
    below = np.cumsum(mass.ravel()[order])
    places = np.searchsorted(below, (np.arange(_CLASSES) + 0.5) / _CLASSES * below[-1])
    found: FloatArray = values.ravel()[order][np.minimum(places, mass.size - 1)]
    return found


@lru_cache(512)
def _chance(hand: SkillEstimate, half_z: float, bias_z: float) -> Proportion:
    return hand.over(hand.grid.chances, hand.grid.heavy_chances, {(half_z, bias_z): 1})


def estimate_skill(
    attempts: Sequence[SkillTrial], *, manner: Manner | None = None, half_life_days: float = HALF_LIFE_DAYS
) -> SkillEstimate:
    """Return what trials with one aid, oldest first, tell of a hand; without any, the average eye.

    Parameters
    ----------
    attempts
        The trials, none of which is set aside.
    manner
        With what and how one is about to focus: trials of another kind count for less.
    half_life_days
        After how many days a trial counts half; a pure number.

    Examples
    --------
    >>> hand = estimate_skill([SkillTrial(z=z) for z in (0.4, -0.2, 0.9, 0.1, -0.6, 0.3, 0.0, -0.4)])
    >>> hand.trials, hand.slips, 0.4 < hand.sigma_z < 0.9
    (8, 0, True)
    """
    return _hand_of(tuple(attempts), manner or Manner(), half_life_days)


@lru_cache(512)  # a block of ten trials each, in a full record; 65 kB a hand
def _hand_of(attempts: tuple[SkillTrial, ...], manner: Manner, half_life_days: float) -> SkillEstimate:
    scores = [attempt.z for attempt in attempts if attempt.z is not None]
    level = levelled(scores).tolist()
    far = slips_of(level)
    slips = frozenset(score for score, at in zip(scores, level, strict=True) if at in far)
    kept = [attempt for attempt in attempts if attempt.z is None or attempt.z not in slips]
    sorted_out = _sorted(kept, manner)
    grid = grid_about([_middle(held) for held in sorted_out])
    groups = [_group(grid, held, half_life_days) for held in sorted_out]
    trends = _trends(grid, groups)
    mass = np.zeros(grid.shape)
    before = np.zeros(grid.shape)
    for trend, weight in trends:
        prior, after = _belief(grid, groups, trend)
        mass, before = mass + weight * after, before + weight * prior
    mean_trend = sum(trend * weight for trend, weight in trends)
    own = [(order, attempt) for order, attempt in _own(attempts, manner) if attempt.z is not None]
    tails = _tails(grid, before, own, slips, mean_trend, half_life_days)
    over_spread, over_bias = mass.sum(axis=1), mass.sum(axis=0)
    bias = float(over_bias @ grid.biases)
    spread = math.exp(float(over_spread @ LOG_SIGMAS))
    gains, shares = (np.array(part) for part in zip(*trends, strict=True))
    return SkillEstimate(
        trials=len(attempts), slips=len(attempts) - len(kept),
        bias=Interval(bias, *interval(grid.biases, over_bias)),
        spread=Interval(spread, *interval(SIGMAS, over_spread)),
        trend=Interval(float(gains @ shares), *interval(gains, shares)), grid=grid, mass=mass,
        measured=sum(attempt.z is not None for attempt in attempts), heavy=tails.believed, heavy_mass=tails.mass,
        far_slips=tails.far_slips,
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class _Group:
    """Trials of one kind.

    Misses with their weights, and how long ago they were in hundreds of trials; and what trials tell of which only the
    side is known, or the scatter about a mark of one's own.
    """

    grid: Grid
    z: FloatArray
    weights: FloatArray
    ago: FloatArray
    sides: FloatArray | None

    def likelihood(self, trend: float) -> FloatArray:
        """Return the log likelihood over the hands as they are now: the spread was e^(−trend·ago) times it."""
        found = np.zeros(self.grid.shape) if self.sides is None else self.sides
        if not len(self.z):
            return found
        scaled = self.weights * np.exp(2 * trend * self.ago)
        log_spreads = float(self.weights.sum()), -trend * float(self.weights @ self.ago)
        squares = float(scaled.sum()), float(scaled @ self.z), float(scaled @ self.z**2)
        return found + self.grid.measured(log_spreads, squares)


def _sorted(kept: Sequence[SkillTrial], manner: Manner) -> list[list[tuple[float, SkillTrial]]]:
    """Return the trials done in a manner, then those done otherwise by set-up, each with how many came after it."""
    found: dict[str | None, list[tuple[float, SkillTrial]]] = {None: []}
    for order, attempt in enumerate(kept):
        key = None if manner.holds(attempt) else attempt.setup
        found.setdefault(key, []).append(((len(kept) - 1 - order) / 100, attempt))
    return list(found.values())


def _middle(held: Sequence[tuple[float, SkillTrial]]) -> float:
    known = [attempt.z for _, attempt in held if attempt.z is not None and not attempt.against]
    return float(np.median(known)) if known else 0.0


def _group(grid: Grid, held: Sequence[tuple[float, SkillTrial]], half_life_days: float) -> _Group:
    exact = []
    about_mark: dict[str, list[tuple[float, float]]] = {}
    sides: dict[tuple[MissSide, int], float] = {}
    for ago, attempt in held:
        weight = 0.5 ** (attempt.days_ago / half_life_days)
        if attempt.z is not None and attempt.against:
            about_mark.setdefault(attempt.against, []).append((attempt.z, weight))
        elif attempt.z is not None:
            exact.append((attempt.z, weight, ago))
        elif attempt.side is not None:
            key = attempt.side, half_class(attempt.half_z)
            sides[key] = sides.get(key, 0.0) + weight
    told = [weight * grid.sided(*key) for key, weight in sides.items()]
    told += [_scattered(grid, np.array(pairs)) for pairs in about_mark.values()]
    z, weights, agos = np.array(exact, dtype=float).reshape(-1, 3).T
    return _Group(grid=grid, z=z, weights=weights, ago=agos, sides=sum(told[1:], told[0]) if told else None)


def _scattered(grid: Grid, pairs: FloatArray) -> FloatArray:
    """Return what trials against a mark of one's own tell: their scatter about their own mean, one the fewer."""
    z, weights = pairs.T
    mean = float(weights @ z) / float(weights.sum())
    freedom = float(weights.sum()) * (1 - 1 / len(z))
    return grid.measured((freedom, 0.0), (0.0, 0.0, float(weights @ (z - mean) ** 2)))


def _trends(grid: Grid, groups: Sequence[_Group]) -> list[tuple[float, float]]:
    """Return the trends that are believed, with their weights, as all trials together tell."""
    steady = int(np.argmin(np.abs(_TRENDS)))
    prior = np.exp(-((_TRENDS / _TREND_SD) ** 2) / 2)
    prior[steady] = 0
    prior *= (1 - _STEADY) / prior.sum()
    prior[steady] = _STEADY
    if sum(len(group.z) for group in groups) < _LEAST_FOR_TREND:
        return [(float(_TRENDS[steady]), 1.0)]
    pooled = _Group(
        grid=grid, z=np.concatenate([_in_own_scatters(group.z) for group in groups]),
        weights=np.concatenate([group.weights for group in groups]),
        ago=np.concatenate([group.ago for group in groups]), sides=None,
    )  # fmt: skip
    beliefs = grid.beliefs(*_ALL)
    logs = np.array([_log_total(beliefs + pooled.likelihood(float(trend))) for trend in _TRENDS])
    weights = prior * np.exp(logs - logs.max())
    weights[weights < _NEGLIGIBLE * weights.max()] = 0
    weights /= weights.sum()
    return [(float(trend), float(weight)) for trend, weight in zip(_TRENDS, weights, strict=True) if weight > 0]


def _in_own_scatters(z: FloatArray) -> FloatArray:
    """Return misses of one kind over their own scatter: a coarser set-up used later is no trend."""
    scatter = float(np.std(z)) if len(z) > 1 else 0.0
    return (z - float(np.median(z))) / scatter if scatter > 0 else z


def _log_total(logs: FloatArray) -> float:
    most = float(logs.max())
    return most + math.log(float(np.exp(logs - most).sum()))


def _belief(grid: Grid, groups: Sequence[_Group], trend: float) -> tuple[FloatArray, FloatArray]:
    """Return the beliefs over the grid for one trend: of hands in a manner, before and after its own trials."""
    own, *others = groups
    logs = grid.beliefs(*_PEOPLE)
    for other in others:
        found = other.likelihood(trend)
        logs = logs + np.log(grid.seen_through(np.exp(found - found.max()), *_SETUPS) + _LEAST)
    before = grid.spread_out(np.exp(logs - logs.max()), *_SETUPS)
    found = np.log(before + _LEAST) + own.likelihood(trend)
    mass = np.exp(found - found.max())
    return before / before.sum(), mass / mass.sum()


def _own(attempts: Sequence[SkillTrial], manner: Manner) -> list[tuple[float, SkillTrial]]:
    """Return the trials done in a manner and against the truth, each with how many hundreds came after it."""
    return [
        ((len(attempts) - 1 - order) / 100, attempt)
        for order, attempt in enumerate(attempts)
        if manner.holds(attempt) and not attempt.against
    ]


@dataclass(frozen=True, kw_only=True)
class _Tails:
    """How much heavy tails are believed, the belief over the grid then, and what is a slip even so."""

    believed: float = 0.0
    mass: FloatArray | None = None
    far_slips: int = 0


def _tails(
    grid: Grid, before: FloatArray, own: Sequence[tuple[float, SkillTrial]], slips: frozenset[float], trend: float,
    half_life_days: float,
) -> _Tails:  # fmt: skip
    """Hold heavy tails against a normal law with slips, the same trials being told by both."""
    held = [(ago, attempt) for ago, attempt in own if attempt.z is not None and abs(attempt.z) < _NO_FOCUSING]
    if len(held) < _LEAST_FOR_TAILS:
        return _Tails()
    z = np.array([attempt.z for _, attempt in held], dtype=float)
    weights = np.array([0.5 ** (attempt.days_ago / half_life_days) for _, attempt in held])
    now = z * np.exp(trend * np.array([ago for ago, _ in held]))
    kept = np.array([one not in slips for one in z.tolist()])
    squares = float(weights[kept].sum()), float(weights[kept] @ now[kept]), float(weights[kept] @ now[kept] ** 2)
    normal = grid.measured((squares[0], 0.0), squares) - squares[0] * math.log(2 * math.pi) / 2
    rate = (len(slips) + SLIP_RATE) / (len(own) + 1)
    set_aside = float(np.sum(weights[~kept] * log_slip(z[~kept], rate))) + squares[0] * math.log(1 - rate)
    heavy = grid.heavy(now, weights)
    logs = np.log(before + _LEAST)
    plain, tailed = _log_total(logs + normal) + set_aside, _log_total(logs + heavy)
    odds = math.log(_HEAVY_BEFOREHAND / (1 - _HEAVY_BEFOREHAND)) + tailed - plain
    found = logs + heavy
    mass = np.exp(found - found.max())
    far = sum(abs(attempt.z or 0.0) >= _NO_FOCUSING for _, attempt in own)
    return _Tails(believed=1 / (1 + math.exp(-min(max(odds, -60), 60))), mass=mass / mass.sum(), far_slips=far)
