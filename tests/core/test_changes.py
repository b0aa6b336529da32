"""An answer that tells what changed is enough to know the whole."""

from hypothesis import given
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.document.changes import edit_change, splice
from izmet.core.document.edit import Edit, Song
from tests.core.examples import MEDIA, tied_edit
from tests.desk import spliced

lists = st.lists(st.integers(0, 5), max_size=12)


@given(lists, lists)
def test_a_splice_leads_from_one_list_to_the_other(before, after):
    found = splice(before, after)
    if found is None:
        assert before == after
        return
    assert spliced(before, found.model_dump()) == after
    assert found.drop or found.put


@given(lists, st.integers(0, 12), st.integers(6, 9))
def test_one_part_set_in_is_told_alone(before, at, part):
    at = min(at, len(before))
    found = splice(before, [*before[:at], part, *before[at:]])
    assert (found.drop, found.put) == (0, [part])


def test_an_answer_grows_with_the_change():
    edit = tied_edit([(1.0 + k, 100 + 60 * k) for k in range(100)], frames=9000)
    moved = do.apply(edit, do.ChangeCue(cue="cue-40", time=41.01))
    change = edit_change(edit, moved)
    assert (change.fields, change.takes, change.clips) == ({}, None, None)
    assert (change.song.cues.at, change.song.cues.drop, len(change.song.cues.put)) == (40, 1, 1)
    assert len(change.model_dump_json()) < 300


def test_another_song_is_told_whole_and_none_as_none():
    edit = tied_edit([(1.0, 100), (2.0, 160)])
    other = Song(media=MEDIA.model_copy(update={"name": "other"}), duration=9, sample_rate=8000)
    change = edit_change(edit, edit.model_copy(update={"song": other}))
    assert change.fields["song"]["media"]["name"] == "other"
    assert change.song is None
    assert edit_change(edit, edit.model_copy(update={"song": None})).fields == {"song": None}
    assert edit_change(edit, Edit(rate="25", title="x")).fields["rate"] == "25"
