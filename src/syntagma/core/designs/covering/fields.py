"""Finite fields by tables, for orders that are powers of a prime: addition and multiplication of their elements, numbered from 0."""

from functools import lru_cache
from typing import NamedTuple

import numpy as np


class FiniteField(NamedTuple):
    """A field of `order` elements: `add` and `multiply` are order × order tables of element numbers."""

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
    """The field of an order. An element's number is its polynomial over the prime field, read as digits. Raises ValueError if
    there is none."""
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
            multiply[a, b] = multiply[b, a] = int(_reduced(np.convolve(digits[a], digits[b]), modulus, prime, degree) @ weights)
    return FiniteField(order, add, multiply)


def _reduced(polynomial: np.ndarray, modulus: np.ndarray, prime: int, degree: int) -> np.ndarray:
    """A polynomial (lowest coefficient first) modulo a monic one of `degree`."""
    rest = polynomial % prime
    for top in range(len(rest) - 1, degree - 1, -1):
        if rest[top]:
            rest[top - degree : top + 1] = (rest[top - degree : top + 1] - rest[top] * modulus) % prime
    return np.resize(rest[:degree], degree) if len(rest) >= degree else np.pad(rest, (0, degree - len(rest)))


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
