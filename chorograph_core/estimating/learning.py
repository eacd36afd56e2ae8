"""What a studio's own hand takes, learned from what was foretold and what it took.

Each thing that was done and timed says: *t* seconds were taken where *x₁, x₂, …* seconds of this and that
technique were foretold. What is learned is a factor for each, *t = m₁x₁ + m₂x₂ + …*, by ridge regression
towards the defaults (Hoerl and Kennard 1970; read as Bayes' rule it is a normal prior of mean 1): while
data are few the factors stay near 1, and a technique that was never timed stays there altogether. How much
one thing strays is itself found from the data (empirical Bayes); things that stray far count less while
those that stray farthest are looked for (Huber 1964), which are set aside and named. Ranges are those of
the posterior.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

PRIOR = 0.35
"""How far a hand's factor strays from the default among studios, as a standard deviation."""
STRAYS = 0.30
"""How far one thing strays from its mean, as a share, before any data say otherwise."""
WEIGHT_OF_PRIOR = 8.0
"""Things timed that weigh as much as that belief about how they stray."""
HUBER = 1.5
"""Standard deviations from which on a thing counts less."""
ASIDE = 4.0
"""Standard deviations from which on a thing is set aside."""
SHORTEST = 1.0
"""Seconds foretold below which a thing tells nothing."""
BEYOND = 50.0
"""How many times as long, or as short, as foretold nothing takes: a mistake of some clock."""
ROUNDS = 12
DOUBT = 1.1
"""How much wider ranges are than the posterior says: how far things stray is itself an estimate, and times
are skewed. Found with simulated studios (bench learning)."""
EIGHTY = 1.2816
"""Standard deviations to either side that hold four cases in five of a normal distribution."""


@dataclass(frozen=True)
class Timed:
    """Something that was done: *parts* are the seconds foretold by technique, *seconds* what it took."""

    parts: Mapping[str, float]
    seconds: float

    @property
    def foretold(self) -> float:
        return sum(self.parts.values())


@dataclass(frozen=True)
class Factor:
    """How much longer (over 1) or shorter something takes than was foretold: *mean*, and the range from *low*
    to *high* that holds it four times in five. *share* is how much of it the data say, from 0 (only the
    default) to 1; *things* how often it was timed, *hours* for how long."""

    mean: float
    low: float
    high: float
    share: float
    things: int
    hours: float


@dataclass
class Learned:
    """Factors by technique; how far one thing *strays* as a share; which were set *aside*, by their place;
    *spread* the posterior covariance of the factors in the order of *names*."""

    factors: dict[str, Factor] = field(default_factory=dict)
    strays: float = STRAYS
    aside: tuple[int, ...] = ()
    names: tuple[str, ...] = ()
    spread: np.ndarray = field(default_factory=lambda: np.zeros((0, 0)))

    def estimate(self, parts: Mapping[str, float]) -> tuple[float, float, float]:
        """Seconds that something foretold by *parts* takes: the mean, and the range that holds what it will
        take four times in five. Techniques that were never timed have the range of the prior."""
        x = np.array([parts.get(name, 0.0) for name in self.names])
        mean = sum(seconds * (self.factors[name].mean if name in self.factors else 1.0)
                   for name, seconds in parts.items())  # fmt: skip
        variance = float(x @ self.spread @ x) if len(x) else 0.0
        variance += sum((PRIOR * s) ** 2 for name, s in parts.items() if name not in self.names)
        half = DOUBT * EIGHTY * math.sqrt(variance)
        return mean, max(0.0, mean - half), mean + half


def learned(timed: Sequence[Timed]) -> Learned:
    """Factors from what was timed, by iterated weighted ridge regression. Things foretold as nothing, or
    taking nothing, are set aside."""
    names = tuple(sorted({name for each in timed for name, s in each.parts.items() if s > 0}))
    usable = [k for k, each in enumerate(timed) if each.foretold >= SHORTEST
              and 1 / BEYOND <= each.seconds / each.foretold <= BEYOND]  # fmt: skip
    odd = sorted(set(range(len(timed))) - set(usable))
    if not usable or not names:
        return Learned(aside=tuple(odd))
    x = np.array([[timed[k].parts.get(name, 0.0) for name in names] for k in usable])
    t = np.array([timed[k].seconds for k in usable])
    size = x.sum(axis=1)
    factors, strays = np.ones(len(names)), STRAYS
    weights = np.ones(len(t))
    spread = np.eye(len(names)) * PRIOR**2
    for number in range(ROUNDS):
        # A thing strays by a share of what it takes: short ones are known as well as long ones.
        scale = strays * np.maximum(x @ factors, 0.3 * size)
        with_weights = x / scale[:, None] * np.sqrt(weights)[:, None]
        precision = with_weights.T @ with_weights + np.eye(len(names)) / PRIOR**2
        spread = np.linalg.inv(precision)
        factors = spread @ (
            with_weights.T @ (t / scale * np.sqrt(weights)) + np.ones(len(names)) / PRIOR**2
        )
        factors = np.maximum(factors, 0.1)
        off = np.abs(t - x @ factors) / np.maximum(strays * (x @ factors), 1e-9)
        # Times are skewed: what is only long pulls its full weight once the odd ones are known, or all
        # factors would come out too small.
        last = number >= ROUNDS - 4
        weights = np.where(
            off > ASIDE, 0.0, 1.0 if last else np.minimum(1.0, HUBER / np.maximum(off, 1e-9))
        )
        kept = off <= ASIDE
        shares = ((t - x @ factors) / np.maximum(x @ factors, 1e-9))[kept]
        seen = float(np.sum(np.minimum(np.abs(shares), HUBER * strays) ** 2)) / CLIPPED
        strays = math.sqrt(
            (WEIGHT_OF_PRIOR * STRAYS**2 + seen) / (WEIGHT_OF_PRIOR + max(int(kept.sum()), 0))
        )
    aside = [usable[k] for k in np.flatnonzero(off > ASIDE)]
    made = {
        name: Factor(
            float(factors[k]),
            float(factors[k] - DOUBT * EIGHTY * math.sqrt(spread[k, k])),
            float(factors[k] + DOUBT * EIGHTY * math.sqrt(spread[k, k])),
            float(1 - spread[k, k] / PRIOR**2),
            int(np.sum(x[:, k] > 0)),
            float(t @ (x[:, k] / size)) / 3600,
        )
        for k, name in enumerate(names)
    }
    return Learned(made, strays, tuple(sorted([*odd, *aside])), names, spread)


CLIPPED = 0.778
"""The mean square of a normal deviate that is cut off at `HUBER`, by which the sum of clipped ones is
short."""
