"""What is known of a song to learn from."""

import json

import pytest

from izmet.sound.hits import KINDS
from scripts.learning.truth import tells_kinds, truth_of

BEATS = {"beats": [0.5, 1.0], "downbeats": [0.5]}


@pytest.mark.parametrize(
    ("known", "tells"),
    [(BEATS, False), ({**BEATS, KINDS[0]: []}, False), (BEATS | {kind: [] for kind in KINDS}, True)],
)
def test_kinds_are_learned_from_songs_that_tell_all_of_them(tmp_path, known, tells):
    song = tmp_path / "song.ogg"
    song.with_suffix(".json").write_text(json.dumps(known))
    assert truth_of(song) == known
    assert tells_kinds(song) is tells
