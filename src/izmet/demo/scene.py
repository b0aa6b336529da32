"""Draws the Skerry Run: dusk, islets, swell, a hydrofoil boat, and what it hits.

Pictures are RGB, shape (height, width, 3), uint8. Everything follows from the time
and the take's few numbers, so the same take is drawn the same every time.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]
Pan = Literal["left", "right", "forward"]
Target = Literal["swell", "ribbon", "bell", "none"]

SKY = ((38, 52, 84), (214, 128, 112), (248, 196, 140))
SEA = ((96, 122, 132), (14, 44, 62))
FAR, NEAR = (92, 84, 104), (44, 56, 72)
HULLS = {"Gannet": (246, 242, 230), "Pilchard": (120, 190, 196), "Tern": (232, 108, 84)}
HORIZON = 0.46
SPRAY_SECONDS = 1.5
DROPS = 130
WAVES = 12


@dataclass(frozen=True)
class Scene:
    """One take's world. Times are seconds; ``hit`` is the first instant at which the hit shows."""

    boat: str
    size: tuple[int, int]
    pan: Pan
    target: Target
    lift: float
    hit: float
    seed: int = 1
    sway: float = 0.0
    _cache: dict[str, Picture] = field(default_factory=dict, repr=False, compare=False)

    def draw(self, time: float) -> Picture:
        """The picture at an instant."""
        picture = self._backdrop(time)
        self._waves(picture, time)
        x, y, tilt, scale = self._boat_pose(time)
        if self.target in ("ribbon", "bell"):
            self._draw_target(picture, time, x, scale)
        self._wake(picture, time, x, y, scale)
        self._draw_boat(picture, x, y, tilt, scale)
        self._spray(picture, time, scale)
        return picture

    @cached_property
    def _horizon(self) -> int:
        return round(self.size[1] * HORIZON)

    def _offset(self, time: float) -> float:
        """How far the view has panned, in widths of the picture."""
        direction = {"left": -1.0, "right": 1.0, "forward": 0.12}[self.pan]
        return float(direction * 0.11 * time + self.sway * np.sin(2.1 * time) * 0.02)

    def _backdrop(self, time: float) -> Picture:
        width, _ = self.size
        wide = self._cache.get("wide")
        if wide is None:
            wide = self._cache["wide"] = self._paint_backdrop()
        room = wide.shape[1] - width
        shift = round((0.5 + 0.38 * np.tanh(self._offset(time))) * room)
        return np.ascontiguousarray(wide[:, shift : shift + width])

    def _paint_backdrop(self) -> Picture:
        width, height = self.size
        wide = np.zeros((height, round(width * 2.4), 3), np.float32)
        horizon = self._horizon
        up = np.linspace(0, 1, horizon)[:, None, None]
        top, middle, low = (np.array(colour, np.float32) for colour in SKY)
        wide[:horizon] = np.where(
            up < 0.6, top + (middle - top) * up / 0.6, middle + (low - middle) * (up - 0.6) / 0.4
        )
        down = np.linspace(0, 1, height - horizon)[:, None, None] ** 0.6
        shallow, deep = (np.array(colour, np.float32) for colour in SEA)
        wide[horizon:] = shallow + (deep - shallow) * down
        painted = np.ascontiguousarray(wide.astype(np.uint8))
        sun = (round(wide.shape[1] * 0.56), round(horizon * 0.82))
        cv2.circle(painted, sun, round(height * 0.075), (255, 232, 190), -1, cv2.LINE_AA)
        rng = np.random.default_rng(self.seed)
        for colour, rise, count in ((FAR, 0.20, 9), (NEAR, 0.12, 7)):
            for centre in np.linspace(0, wide.shape[1], count) + rng.uniform(-90, 90, count):
                self._islet(painted, float(centre), horizon, rise * rng.uniform(0.5, 1.2), colour, rng)
        return painted

    def _islet(
        self,
        picture: Picture,
        centre: float,
        horizon: int,
        rise: float,
        colour: tuple[int, int, int],
        rng: np.random.Generator,
    ) -> None:
        height = self.size[1]
        half = rise * height * rng.uniform(1.2, 2.2)
        x = np.linspace(-1, 1, 15)
        peak = (1 - np.abs(x)) ** rng.uniform(0.8, 1.4) * rng.uniform(0.75, 1.0, 15)
        points = np.stack([centre + half * x, horizon - peak * rise * height], axis=1)
        points[[0, -1], 1] = horizon
        cv2.fillPoly(picture, [points.astype(np.int32)], colour, cv2.LINE_AA)

    def _waves(self, picture: Picture, time: float) -> None:
        width, height = self.size
        for row in range(WAVES):
            depth = (row + ((time * 0.9) % 1 if self.pan == "forward" else 0.4)) / WAVES
            y = self._horizon + (height - self._horizon) * depth**1.7
            drift = (self._offset(time) * (0.4 + 2.4 * depth) * width) % 240
            x = np.arange(-240, width + 264, 24, dtype=np.float32)
            swell = (2 + 9 * depth) * np.sin(x / (46 + 90 * depth) + row * 1.7 + time * 1.3)
            line = np.stack([x - drift, y + swell], axis=1)
            shade = tuple(int(c) for c in np.array((150, 176, 176)) * (0.35 + 0.4 * (1 - depth)))
            cv2.polylines(picture, [line.astype(np.int32)], False, shade, 1 + round(1.4 * depth), cv2.LINE_AA)

    def _boat_pose(self, time: float) -> tuple[float, float, float, float]:
        """Where the boat is: x, y of its middle in pixels, tilt in radians, scale."""
        width, height = self.size
        scale = height / 720
        side = {"left": -1.0, "right": 1.0, "forward": 0.3}[self.pan]
        x = width * (0.5 + 0.10 * side * np.sin(0.5 * (time - self.hit)))
        if self.pan == "forward":
            scale *= 0.7 + 0.09 * time
        water = height * 0.66 + 5 * np.sin(2.3 * time)
        tilt = 0.03 * np.sin(2.0 * time)
        rise = 0.0
        if self.target == "swell" and self.lift <= time < self.hit:
            flight = (time - self.lift) / (self.hit - self.lift)
            rise = 4 * flight * (1 - flight) * height * 0.24
            tilt = 0.34 * (0.55 - flight)
        elif self.target == "swell" and time >= self.hit:
            tilt -= 0.16 * np.exp(-4 * (time - self.hit))
            rise = -14 * scale * np.exp(-5 * (time - self.hit))
        return x, water - rise, tilt, scale

    def _draw_boat(self, picture: Picture, x: float, y: float, tilt: float, scale: float) -> None:
        side = -1.0 if self.pan == "left" else 1.0
        turn = np.array([[np.cos(tilt), -np.sin(tilt)], [np.sin(tilt), np.cos(tilt)]])

        def shape(points: list[tuple[float, float]], colour: tuple[int, int, int]) -> None:
            placed = np.array(points) * [side, 1] * 1.15 * scale @ turn.T * [1, 1] + [x, y]
            cv2.fillPoly(picture, [np.round(placed * 16).astype(np.int32)], colour, cv2.LINE_AA, 4)

        hull = HULLS[self.boat]
        shadow = (hull[0] * 11 // 20, hull[1] * 11 // 20, hull[2] * 11 // 20)
        shape([(-70, 8), (-60, 8), (-52, 62), (-62, 62)], (30, 40, 52))
        shape([(58, 4), (68, 4), (60, 58), (50, 58)], (30, 40, 52))
        shape([(-92, 58), (-34, 58), (-34, 64), (-92, 64)], (30, 40, 52))
        shape([(24, 54), (84, 54), (84, 60), (24, 60)], (30, 40, 52))
        shape([(-128, -22), (96, -26), (160, -34), (120, 6), (60, 20), (-112, 18)], hull)
        shape([(-124, -4), (140, -14), (120, 6), (60, 20), (-112, 18)], shadow)
        shape([(-60, -24), (-40, -56), (24, -56), (62, -26)], (26, 40, 56))
        shape([(-30, -30), (-22, -50), (14, -50), (32, -30)], (150, 196, 204))

    def _wake(self, picture: Picture, time: float, x: float, y: float, scale: float) -> None:
        if self.target == "swell" and self.lift <= time < self.hit:
            return
        behind = 1.0 if self.pan == "left" else -1.0
        for strand in range(5):
            length = (180 + 60 * strand) * scale
            u = np.linspace(0, 1, 14)
            px = x + behind * (40 * scale + length * u)
            py = y + (58 + 9 * strand) * scale + 5 * np.sin(u * 9 + time * 11 + strand) * scale * u
            cv2.polylines(
                picture, [np.stack([px, py], 1).astype(np.int32)], False, (214, 228, 226), 2, cv2.LINE_AA
            )

    def _draw_target(self, picture: Picture, time: float, x: float, scale: float) -> None:
        """A ribbon gate or a bell buoy that reaches the boat exactly at the hit."""
        width, height = self.size
        side = -1.0 if self.pan == "left" else 1.0
        tx = round(x + side * (150 * scale + (self.hit - time) * width * 0.24))
        ground = round(height * 0.71)
        if not -200 < tx < width + 200:
            return
        if self.target == "bell":
            swing = (
                0.0
                if time < self.hit
                else 0.5 * np.exp(-(time - self.hit)) * np.sin(11 * (time - self.hit) + 1.2)
            )
            top = (round(tx + 60 * np.sin(swing)), ground - round(130 * scale))
            cv2.line(picture, (tx, ground), top, (222, 160, 66), max(3, round(9 * scale)), cv2.LINE_AA)
            cv2.circle(picture, top, round(26 * scale), (238, 190, 88), -1, cv2.LINE_AA)
            cv2.ellipse(
                picture,
                (tx, ground),
                (round(52 * scale), round(20 * scale)),
                0,
                0,
                360,
                (180, 66, 52),
                -1,
                cv2.LINE_AA,
            )
            return
        high = ground - round(190 * scale)
        for post in (-14, 14):
            cv2.line(
                picture,
                (tx + post, ground),
                (tx + post, high),
                (60, 48, 52),
                max(3, round(7 * scale)),
                cv2.LINE_AA,
            )
        if time < self.hit:
            cv2.line(
                picture, (tx, high), (tx, ground - 30), (236, 84, 72), max(4, round(12 * scale)), cv2.LINE_AA
            )

    def _spray(self, picture: Picture, time: float, scale: float) -> None:
        """Water, ribbon or sparks thrown up by the hit; nothing before it."""
        since = time - self.hit
        if self.target == "none" or not 0 <= since <= SPRAY_SECONDS:
            return
        x, y, _, _ = self._boat_pose(self.hit)
        rng = np.random.default_rng(self.seed + 7)
        angle = rng.uniform(np.pi * 1.08, np.pi * 1.92, DROPS)
        speed = rng.uniform(160, 900, DROPS) * scale
        size = rng.uniform(2.5, 11, DROPS) * scale
        age = since + 0.03
        px = x + np.cos(angle) * speed * age + rng.uniform(-120, 120, DROPS) * scale
        py = y + 62 * scale + np.sin(angle) * speed * age + 620 * scale * age**2
        colour = (246, 250, 248) if self.target == "swell" else (250, 196, 96)
        fade = max(0.0, 1 - since / SPRAY_SECONDS)
        for drop in range(DROPS):
            if py[drop] < y + 110 * scale:
                place = (round(px[drop]), round(py[drop]))
                cv2.circle(
                    picture, place, max(1, round(size[drop] * (0.4 + 0.6 * fade))), colour, -1, cv2.LINE_AA
                )
        if since < 0.12 and self.target == "swell":
            cv2.ellipse(
                picture,
                (round(x), round(y + 66 * scale)),
                (round(190 * scale), round(26 * scale)),
                0, 0, 360, (250, 252, 250), -1, cv2.LINE_AA,
            )  # fmt: skip
