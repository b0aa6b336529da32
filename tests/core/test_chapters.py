"""The music divides an edit into chapters."""

from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from izmet.core.commands.common import with_
from izmet.core.document.edit import Cue, Edit, Section
from izmet.core.music.chapters import chapters_of
from tests.core.test_stack import two_clips


def divided(sections: list[tuple[str, float]], drops: list[float]) -> Edit:
    edit = two_clips()
    assert edit.song is not None
    found = [Section(kind=kind, start=start, end=start + 0.1) for kind, start in sections]
    cues = sorted(
        [*edit.song.cues, *(Cue(id=f"drop-{n}", time=at, kind="drop") for n, at in enumerate(drops))],
        key=lambda cue: cue.time,
    )
    return with_(edit, song=with_(edit.song, sections=found, cues=cues))


def test_sections_and_drops_begin_chapters():
    edit = divided([("break", 0.5), ("build", 1.0)], [1.5])
    found = chapters_of(edit, range(10, 121))
    assert [each.name for each in found] == ["Start", "Break", "Build", "Drop"]
    assert [each.frames.start for each in found] == [10, 30, 60, 90]
    # A range that begins within one is in that one.
    inner = chapters_of(edit, range(70, 121))
    assert [(each.name, each.frames) for each in inner] == [
        ("Build", range(70, 90)), ("Drop", range(90, 121)),
    ]  # fmt: skip
    # They move with the song.
    later = with_(edit, song=with_(edit.song, start=0.25))
    assert chapters_of(later, range(10, 121))[1].frames.start == 45


def test_music_without_any_has_none():
    assert chapters_of(two_clips(), range(121)) == []
    assert chapters_of(with_(two_clips(), song=None, clips=()), range(121)) == []


@given(st.lists(st.floats(0, 8), max_size=6), st.lists(st.floats(0, 8), max_size=4), st.integers(0, 300))
def test_chapters_follow_one_another_without_a_gap(sections, drops, first):
    edit = divided([("build", start) for start in sections], drops)
    found = chapters_of(edit, range(first, first + 200))
    if found:
        assert found[0].frames.start == first
        assert found[-1].frames.stop == first + 200
        assert all(one.frames.stop == two.frames.start for one, two in pairwise(found))
        assert all(each.frames for each in found)
