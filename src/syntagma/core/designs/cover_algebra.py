"""Covering arrays by algebra: orthogonal arrays and difference schemes over finite fields.

Sources: K. A. Bush, Orthogonal arrays of index unity, Ann. Math. Stat. 23 (1952) (polynomials over
a field); D. J. Kleitman and J. Spencer, Families of k-independent sets, Discrete Math. 6 (1973),
and G. O. H. Katona, Two applications of Sperner type theorems, Period. Math. Hungar. 3 (1973)
(subsets that share a point); K. Meagher and B. Stevens, Group construction of covering arrays, J.
Combin. Des. 13 (2005) (a starter developed by a group).
"""

from collections.abc import Sequence
from functools import lru_cache
from math import comb
from random import Random
from typing import NamedTuple

import numpy as np

# ──── Finite fields by tables, for orders that are powers of a prime: addition and multiplication
# of their elements, numbered from 0.


class FiniteField(NamedTuple):
    """A field of `order` elements: `add` and `multiply` are order × order tables of element
    numbers.
    """

    order: int
    add: np.ndarray
    multiply: np.ndarray


def prime_power(number: int) -> tuple[int, int] | None:
    """(prime, exponent) where `number` is a power of a prime, else None."""
    if number < 2:
        return None
    prime = next((p for p in range(2, int(number**0.5) + 1) if number % p == 0), number)
    exponent, rest = 0, number
    while rest % prime == 0:
        rest //= prime
        exponent += 1
    return (prime, exponent) if rest == 1 else None


def next_order(least: int) -> int:
    """The smallest order of a field that is at least `least`."""
    order = max(2, least)
    while prime_power(order) is None:
        order += 1
    return order


@lru_cache(maxsize=32)
def field(order: int) -> FiniteField:
    """The field of an order. An element's number is its polynomial over the prime field, read as
    digits. Raises ValueError if there is none.
    """
    found = prime_power(order)
    if found is None:
        raise ValueError(f"no field has {order} elements")
    prime, degree = found
    digits = np.array([[n // prime**i % prime for i in range(degree)] for n in range(order)])
    weights = prime ** np.arange(degree)
    add = ((digits[:, None, :] + digits[None, :, :]) % prime) @ weights
    modulus = _irreducible(prime, degree)
    multiply = np.zeros((order, order), dtype=np.int64)
    for a in range(order):
        for b in range(a, order):
            multiply[a, b] = multiply[b, a] = int(
                _reduced(np.convolve(digits[a], digits[b]), modulus, prime, degree) @ weights
            )
    return FiniteField(order, add, multiply)


def _reduced(polynomial: np.ndarray, modulus: np.ndarray, prime: int, degree: int) -> np.ndarray:
    """A polynomial (lowest coefficient first) modulo a monic one of `degree`."""
    rest = polynomial % prime
    for top in range(len(rest) - 1, degree - 1, -1):
        if rest[top]:
            rest[top - degree : top + 1] = (
                rest[top - degree : top + 1] - rest[top] * modulus
            ) % prime
    return (
        np.resize(rest[:degree], degree)
        if len(rest) >= degree
        else np.pad(rest, (0, degree - len(rest)))
    )


def _irreducible(prime: int, degree: int) -> np.ndarray:
    """The first monic polynomial of a degree that no monic one of lower degree divides."""
    if degree == 1:
        return np.array([0, 1])
    for n in range(prime**degree):
        candidate = np.array([n // prime**i % prime for i in range(degree)] + [1])
        if all(_remains(candidate, prime, d) for d in range(1, degree // 2 + 1)):
            return candidate
    raise ValueError(f"no irreducible polynomial of degree {degree} over {prime}")


def _remains(candidate: np.ndarray, prime: int, degree: int) -> bool:
    for n in range(prime**degree):
        divisor = np.array([n // prime**i % prime for i in range(degree)] + [1])
        if not _reduced(candidate.copy(), divisor, prime, degree).any():
            return False
    return True


# ──── Covering arrays by algebra, where the shape of the axes has one: no search, or next to none.
#
# Sources: K. A. Bush, Orthogonal arrays of index unity, Ann. Math. Stat. 23 (1952) (polynomials
# over a field); D. J. Kleitman and
# J. Spencer, Families of k-independent sets, Discrete Math. 6 (1973), and G. O. H. Katona, Two
# applications of Sperner type theorems,
# Period. Math. Hungar. 3 (1973) (subsets that share a point); K. Meagher and B. Stevens, Group
# construction of covering arrays, J.
# Combin. Des. 13 (2005) (a starter developed by a group).


ANY = -1  # a place where every level will do


def polynomials(levels: Sequence[int], strength: int) -> np.ndarray:
    """An array of q^strength rows for up to q + 1 axes of up to q levels, q the order of a field:
    row by row a polynomial of degree below `strength`, column by column its value at an element,
    and its leading coefficient. Levels that an axis has not are ANY.
    """
    order = next_order(max(max(levels), len(levels) - 1))
    gf = field(order)
    rows = np.array(np.unravel_index(np.arange(order**strength), (order,) * strength)).T
    columns = []
    for x in range(min(len(levels), order)):
        value = rows[:, 0]
        for i in range(1, strength):  # Horner's rule, the leading coefficient first
            value = gf.add[gf.multiply[value, x], rows[:, i]]
        columns.append(value)
    if len(levels) > order:
        columns.append(rows[:, 0])
    array = np.stack(columns, axis=1)
    return np.where(array < np.asarray(levels), array, ANY)


def polynomial_rows(levels: Sequence[int], strength: int) -> int:
    """How many rows `polynomials` has."""
    return next_order(max(max(levels), len(levels) - 1)) ** strength


def subset_rows(axes: int) -> int:
    """How many rows `subsets` has for so many axes of two levels: the least known, and the least
    possible.
    """
    rows = 4
    while comb(rows - 1, rows // 2 - 1) < axes:
        rows += 1
    return rows


def subsets(axes: int) -> np.ndarray:
    """Every pair for axes of two levels: a column is the indicator of a subset of half the rows;
    all share the first row, none holds another, and no two make up the whole.
    """
    from itertools import combinations, islice

    rows = subset_rows(axes)
    array = np.zeros((rows, axes), dtype=np.int64)
    for column, chosen in enumerate(islice(combinations(range(1, rows), rows // 2 - 1), axes)):
        array[[0, *chosen], column] = 1
    return array


def starter(axes: int, levels: int, steps: int, random: Random) -> list[int] | None:
    """A vector whose cyclic shifts, each with every number of Z_(levels-1) added, cover every pair
    with the constant row of the fixed level: at each distance its differences are all of
    Z_(levels-1). Found by mending one place after another; None if `steps` were not enough.
    """
    group = levels - 1
    half = axes // 2
    if axes < levels + 1 or group < 2:
        return None
    vector = np.array(
        [random.randrange(group) for _ in range(axes)]
    )  # the first place holds the fixed level instead
    places = np.arange(1, axes)

    def missing(v: np.ndarray) -> int:
        lost = 0
        for distance in range(1, half + 1):
            other = (places + distance) % axes
            kept = other != 0
            lost += group - len(np.unique((v[other[kept]] - v[places[kept]]) % group))
        return lost

    cost, temperature = missing(vector), 0.6
    for step in range(steps):
        if cost == 0:
            vector[0] = group
            return [int(x) for x in vector]
        place, old = random.randrange(1, axes), 0
        old = vector[place]
        vector[place] = random.randrange(group)
        new = missing(vector)
        heat = temperature * (1 - step / steps) + 0.05
        if new <= cost or random.random() < 2.718281828 ** ((cost - new) / heat):
            cost = new
        else:
            vector[place] = old
    return None


def developed(vector: Sequence[int], levels: int) -> np.ndarray:
    """The array of a starter: its shifts, each with every number of the group added to all but the
    fixed level, and the constant row of the fixed level.
    """
    group, axes = levels - 1, len(vector)
    rows = [[group] * axes]
    for shift in range(axes):
        turned = [*vector[shift:], *vector[:shift]]
        rows += [[x if x == group else (x + g) % group for x in turned] for g in range(group)]
    return np.array(rows)
