"""What somebody probably meant who typed a figure that does not fit: the slips of a hand on a number pad."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations
from typing import Final

_INCH_MM: Final = 25.4
_NARROW: Final = 0.02
_SHORT: Final = 4
"""Signs of a figure in which any two digits change places; in a longer one only neighbours do."""


def figures_near(text: str) -> Iterator[tuple[str, float]]:
    """Yield figures that differ from a typed one by one slip, each as text and value, the likeliest slips first.

    The point was moved, two digits were exchanged, one was typed twice, inches were read for millimetres, one digit
    was changed. A minus that should not stand there counts as a slip, too.

    Args:
        text: a figure as typed, a comma or a point as its decimal mark.
    """
    plain = text.strip().replace(",", ".")
    seen = {plain}
    for found in _slips(plain):
        try:
            value = float(found)
        except ValueError:
            continue
        if found not in seen:
            seen.add(found)
            yield found, value


def meant(text: str, low: float, high: float) -> str | None:
    """Return the figure within a range that was probably meant; None where none, or more than one, is as likely.

    Args:
        text: the figure as typed.
        low: least that fits.
        high: most that fits, in the same unit.
    """
    fitting = [found for found, value in figures_near(text) if low <= value <= high]
    if not fitting or not _only_changed(text, fitting[0]):
        return fitting[0] if fitting else None
    # Where much would fit, one changed digit explains nearly anything.
    return fitting[0] if len(fitting) == 1 and high - low <= _NARROW * abs(high) else None


def _only_changed(text: str, found: str) -> bool:
    """Tell whether a figure is explained by nothing better than one changed digit: many figures are one digit away."""
    plain = text.strip().replace(",", ".")
    differs = [k for k, (a, b) in enumerate(zip(plain, found, strict=False)) if a != b]
    return len(plain) == len(found) and len(differs) == 1


def _slips(plain: str) -> Iterator[str]:
    sign, digits = ("-", plain[1:]) if plain.startswith(("-", "−")) else ("", plain)
    if sign:
        yield digits
    whole, _, part = digits.partition(".")
    figures = whole + part
    for moved in (1, -1, 2, -2, 3, -3):
        yield sign + _with_point(figures, len(whole) + moved)
    for k, m in sorted(combinations(range(len(digits)), 2), key=lambda pair: pair[1] - pair[0]):
        beside = m - k == 1 or len(digits) <= _SHORT
        if beside and digits[k] != digits[m] and "." not in (digits[k], digits[m]):
            yield sign + digits[:k] + digits[m] + digits[k + 1 : m] + digits[k] + digits[m + 1 :]
    for k in range(len(digits) - 1):
        if digits[k] == digits[k + 1]:
            yield sign + digits[:k] + digits[k + 1 :]
    if part:
        yield f"{sign}{float(digits or '0') * _INCH_MM:.{max(0, len(part) - 1)}f}" if digits != "." else plain
    for k, old in enumerate(digits):
        if old.isdigit():
            yield from (sign + digits[:k] + new + digits[k + 1 :] for new in "0123456789" if new != old)


def _with_point(figures: str, place: int) -> str:
    """Return digits with the point behind as many of them as asked: what was read is neither cut nor stretched."""
    if place <= 0:
        return "0." + "0" * -place + figures
    padded = figures + "0" * (place - len(figures))
    whole, part = padded[:place].lstrip("0") or "0", padded[place:]
    return f"{whole}.{part}" if part else whole
