"""What is proposed of pictures that were never coded: each thing that happens, on its first frame."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.picture.cadence import LONGEST_PERIOD
from izmet.picture.proposal import KINDS, Proposal
from izmet.picture.proposing import propose
from izmet.picture.watching import Seen, Watcher
from tests.picture.clips import Clip, Flash, draw

FRAMES, RATE = 90, 60.0
SIZE = (160, 90)
TAKES = 40
MOST_MISSED = 1


def watch(pictures: list[np.ndarray]) -> Seen:
    watcher = Watcher()
    for picture in pictures:
        watcher.look(picture)
    return watcher.seen()


def proposed(pictures: list[np.ndarray], **given) -> list[Proposal]:
    return propose(watch(pictures), np.ones(len(pictures), bool), RATE, **given)


def frames_of(found: list[Proposal], kind: str) -> list[int]:
    return [each.frame for each in found if each.kind == kind]


def clip(seed: int, turn: float, **happens) -> Clip:
    happens = {"pan": (np.cos(turn), np.sin(turn)), **happens}
    return Clip(seed=seed, size=SIZE, frames=FRAMES, things=1, **happens)


def check(
    seed: int,
    happens: Callable[[np.random.Generator, int], dict[str, Any]],
    right: Callable[[list[Proposal], int], bool],
    most_missed: int = MOST_MISSED,
) -> None:
    """In takes at random, ``happens`` from some frame on; what is proposed is ``right`` in nearly all."""
    rng = np.random.default_rng(seed)
    missed = []
    for _ in range(TAKES):
        world, turn, at = int(rng.integers(10_000)), rng.uniform(0, 2 * np.pi), int(rng.integers(25, 61))
        drawn = happens(rng, at)
        if not right(proposed(draw(clip(world, turn, **drawn))), at):
            missed.append((world, turn, drawn))
    assert len(missed) <= most_missed, missed


def test_a_flash_is_told_on_its_first_frame_and_is_no_cut():
    check(
        1,
        lambda rng, at: {"flashes": [Flash(at, rng.uniform(0.25, 1), rng.choice([0.25, 0.5, 1.0]))]},
        lambda found, at: frames_of(found, "flash") == [at] and not frames_of(found, "cut"),
    )


def test_a_cut_is_told_on_the_first_frame_of_its_scene_and_is_no_flash():
    check(
        2,
        lambda rng, at: {"cuts": [at]},
        lambda found, at: frames_of(found, "cut") == [at] and not frames_of(found, "flash"),
    )


def plain(rng: np.random.Generator) -> dict[str, Any]:
    """A world that is no photograph, at rest, with a counter over it or not."""
    world = str(rng.choice(["boxes", "dark", "flat"]))
    return {"world": world, "pan": (0.0, 0.0), "noise": rng.uniform(0, 2), "counter": bool(rng.integers(2))}


def test_plain_pictures_at_rest_have_flashes_and_their_end_is_nothing():
    def happens(rng: np.random.Generator, at: int) -> dict[str, Any]:
        part, lasts = rng.choice([0.25, 0.5, 1.0]), int(rng.choice([1, 2, 4, 10]))
        return {
            **plain(rng),
            "flashes": [Flash(at, rng.uniform(0.25, 1), part, lasts, bool(rng.integers(2)))],
        }

    check(4, happens, lambda found, at: frames_of(found, "flash") == [at] and not frames_of(found, "cut"))


def test_a_cut_from_one_plain_picture_to_another_is_a_cut():
    check(
        5,
        lambda rng, at: {**plain(rng), "world": rng.choice(["boxes", "grains"]), "cuts": [at]},
        lambda found, at: frames_of(found, "cut") == [at] and not frames_of(found, "flash"),
    )


def test_a_cut_between_squares_is_a_cut_though_each_finds_itself_in_the_other():
    check(
        6,
        lambda rng, at: {**plain(rng), "world": "checks", "cuts": [at], "flashes": [Flash(at + 25, lasts=3)]},
        lambda found, at: frames_of(found, "cut") == [at] and frames_of(found, "flash") == [at + 25],
    )


def test_most_cuts_are_told_while_a_camera_whips_round():
    """By up to a tenth of the picture from frame to frame: all changes at once anyhow."""

    def happens(rng: np.random.Generator, at: int) -> dict[str, Any]:
        far, turn = rng.uniform(0.05, 0.1) * SIZE[0], rng.uniform(0, 2 * np.pi)
        return {"pan": (far * np.cos(turn), far * np.sin(turn)), "cuts": [at]}

    check(7, happens, lambda found, at: at in frames_of(found, "cut"), most_missed=TAKES // 4)


def test_movement_that_begins_is_told_where_it_begins_and_a_calm_pan_has_nothing_sudden():
    def right(found: list[Proposal], at: int) -> bool:
        starts = frames_of(found, "start")
        sudden = frames_of(found, "flash") + frames_of(found, "cut")
        return len(starts) == 1 and abs(starts[0] - at) <= 2 and not sudden

    check(3, lambda rng, at: {"still": [(0, at)]}, right)


@settings(max_examples=8, deadline=None)
@given(st.integers(0, 99), st.integers(25, 60), st.integers(1, 3))
def test_pictures_held_for_several_frames_are_judged_once(seed, at, held):
    """The same pictures, each shown ``held`` times: each proposal stands on the first of its copies."""
    seen = watch(draw(clip(seed, 0.5, flashes=[Flash(at)])))
    shown = np.repeat(np.arange(FRAMES), held)
    is_new = np.diff(shown, prepend=-1) > 0
    once = propose(seen, np.ones(FRAMES, bool), RATE)
    again = propose(seen.at(shown), is_new, RATE * held)
    assert [(each.kind, each.frame * held) for each in once] == [(each.kind, each.frame) for each in again]


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 12), st.integers(0, 999))
def test_whatever_is_measured_is_told_in_order_and_within_the_take(count, seed):
    """Measures of nothing that was ever filmed."""
    rng = np.random.default_rng(seed)
    columns = {name: rng.uniform(-1, 9, count).astype(np.float32) for name in Seen.__annotations__}
    columns["blocks"] = rng.integers(0, 256, (count, 18, 32)).astype(np.uint8)
    is_new = rng.random(count) < 0.7
    is_new[:1] = True
    found = propose(Seen(**columns), is_new, 25.0, rng.uniform(0, 1, 3).tolist())
    shown = np.cumsum(is_new)
    assert [each.frame for each in found] == sorted(each.frame for each in found)
    for each in found:
        assert each.kind in KINDS
        assert 0 <= each.frame < count
        assert is_new[each.frame] or np.count_nonzero(shown == shown[each.frame]) > LONGEST_PERIOD
        assert 0 < each.weight <= 1
        assert each.why
