"""Do claims hold? A diagram of likelihoods said against how many of the claims were right.

Source: M. H. DeGroot and S. E. Fienberg 1983, The comparison and evaluation of forecasters. The bars show
where the true part may lie, at 95 % (E. B. Wilson 1927).
"""

from __future__ import annotations

from collections.abc import Sequence
from math import sqrt
from pathlib import Path
from typing import NamedTuple

SIDE, EDGE = 320, 44
INK, GRID, DOT = "#22333b", "#c9c2b2", "#b5482e"
NORMAL = 1.96


class Claims(NamedTuple):
    """Claims of about one likelihood: what was said on average, what part was right, how many there are."""

    said: float
    held: float
    songs: int


def interval(claims: Claims) -> tuple[float, float]:
    """Wilson's interval of the part that was right."""
    n, p = claims.songs, claims.held
    middle = (p + NORMAL**2 / (2 * n)) / (1 + NORMAL**2 / n)
    reach = NORMAL / (1 + NORMAL**2 / n) * sqrt(p * (1 - p) / n + NORMAL**2 / (4 * n**2))
    return max(0.0, middle - reach), min(1.0, middle + reach)


def draw(found: Sequence[Claims], out: Path) -> None:
    """Write the diagram as SVG."""
    size = SIDE + 2 * EDGE

    def x(part: float) -> float:
        return round(EDGE + part * SIDE, 1)

    def y(part: float) -> float:
        return round(EDGE + (1 - part) * SIDE, 1)

    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {size} {size}" '
        'font-family="sans-serif" font-size="12">',
        f'<rect width="{size}" height="{size}" fill="#ede6d6"/>',
    ]
    for tenth in range(0, 11, 2):
        part = tenth / 10
        lines += [
            f'<path d="M{x(part)} {y(0)}V{y(1)}M{x(0)} {y(part)}H{x(1)}" stroke="{GRID}"/>',
            f'<text x="{x(part)}" y="{y(0) + 18}" text-anchor="middle" fill="{INK}">{part:g}</text>',
            f'<text x="{x(0) - 8}" y="{y(part) + 4}" text-anchor="end" fill="{INK}">{part:g}</text>',
        ]
    lines.append(f'<path d="M{x(0)} {y(0)}L{x(1)} {y(1)}" stroke="{INK}" stroke-dasharray="4 4"/>')
    for claims in found:
        low, high = interval(claims)
        at = x(claims.said)
        lines += [
            f'<path d="M{at} {y(low)}V{y(high)}" stroke="{DOT}" stroke-width="2"/>',
            f'<circle cx="{at}" cy="{y(claims.held)}" r="5" fill="{DOT}"/>',
            f'<text x="{at + 9}" y="{y(claims.held) + 16}" fill="{INK}">{claims.songs}</text>',
        ]
    lines += [
        f'<text x="{x(0.5)}" y="{size - 8}" text-anchor="middle" fill="{INK}">said to be so likely</text>',
        f'<text x="14" y="{y(0.5)}" text-anchor="middle" fill="{INK}" '
        f'transform="rotate(-90 14 {y(0.5)})">so many right</text>',
        "</svg>",
    ]
    out.write_text("\n".join(lines) + "\n")
