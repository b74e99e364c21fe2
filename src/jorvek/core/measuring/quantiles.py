"""Limits of the distributions that readings are held against.

SciPy is read when the first limit is wanted: it takes longer to read than everything else that a command needs.
"""

from __future__ import annotations

from functools import lru_cache


@lru_cache(maxsize=1024)
def chi_squared_above(free: int, tail: float) -> float:
    """Return what chi-squared with so many degrees of freedom passes with a probability of ``tail``.

    Source: ISO 3534-1; computed by SciPy (Cephes ``chdtri``).
    """
    from scipy.special import chdtri  # type: ignore[import-untyped]  # the library has no types

    return float(chdtri(free, tail))


@lru_cache(maxsize=1024)
def student_t(free: float, probability: float) -> float:
    """Return what Student's t with so many degrees of freedom stays below with a probability.

    Source: ISO 3534-1; computed by SciPy (``stdtrit``).
    """
    from scipy.special import stdtrit

    return float(stdtrit(free, probability))
