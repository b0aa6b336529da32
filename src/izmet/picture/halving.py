"""A picture of half the size: shrinking by halves is quick, and loses nothing between pixels."""

from __future__ import annotations

from typing import Any

import cv2


def halved(picture: Any) -> Any:
    """A picture of half the size, each pixel the mean of four; at least one pixel wide and high."""
    high, wide = picture.shape
    return cv2.resize(picture, (max(1, wide // 2), max(1, high // 2)), interpolation=cv2.INTER_AREA)
