"""An edit's history: whatever is done, undone and redone, the store agrees with a tree kept by hand."""

import tempfile
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core import commands as do
from izmet.core.commands import Configure
from izmet.core.document.edit import Edit
from izmet.core.document.refusal import Refusal
from izmet.store import edits
from izmet.store.database import open_database
from izmet.store.datafolder import DataFolder
from izmet.store.models import database
from tests.core.examples import tied_edit
from tests.core.felt import accent

STEPS = st.lists(
    st.one_of(st.just("undo"), st.just("redo"), st.text("abc", min_size=1, max_size=3)), max_size=20
)


@pytest.fixture(scope="module")
def store():
    with tempfile.TemporaryDirectory() as name:
        open_database(DataFolder(Path(name)).prepare())
        with database.connection_context():
            yield


class Tree:
    """Titles by revision, each with its parent: what the store should hold."""

    def __init__(self, title: str):
        self.titles, self.now = {1: title}, 1
        self.parents: dict[int, int | None] = {1: None}

    def add(self, title: str) -> None:
        if title != self.titles[self.now]:
            number = len(self.titles) + 1
            self.titles[number], self.parents[number], self.now = title, self.now, number

    def newest_child(self) -> int | None:
        return max((child for child, parent in self.parents.items() if parent == self.now), default=None)


@settings(max_examples=40)
@given(steps=STEPS)
def test_history_is_a_tree_in_which_nothing_is_lost(store, steps):
    stored = edits.create(Edit(rate=Fraction(60), title="first"))
    tree = Tree("first")
    for step in steps:
        goal = {"undo": tree.parents[tree.now], "redo": tree.newest_child()}.get(step, 0)
        if goal is None:
            with pytest.raises(Refusal, match="nothing to"):
                getattr(edits, step)(stored.id, stored.revision)
        elif step in ("undo", "redo"):
            stored = getattr(edits, step)(stored.id, stored.revision)
            tree.now = goal
        else:
            stored = edits.run(stored.id, stored.revision, Configure(title=step))
            tree.add(step)
        assert (stored.revision, stored.edit.title) == (tree.now, tree.titles[tree.now])
        assert stored.can_undo == (tree.parents[tree.now] is not None)
        assert stored.can_redo == (tree.newest_child() is not None)
    for number, title in tree.titles.items():
        assert edits.at_revision(stored.id, number).title == title
    assert [past.number for past in edits.history(stored.id)] == sorted(tree.titles, reverse=True)


@given(behind=st.integers(1, 3))
def test_a_write_from_an_older_revision_changes_nothing(store, behind):
    stored = edits.create(Edit(rate=Fraction(60), title="first"))
    for title in ("second", "third", "fourth"):
        stored = edits.run(stored.id, stored.revision, Configure(title=title))
    with pytest.raises(edits.Stale) as stale:
        edits.run(stored.id, stored.revision - behind, Configure(title="late"))
    assert stale.value.current == stored == edits.current(stored.id)
    with pytest.raises(edits.Stale):
        edits.at_base(stored.id, stored.revision - behind)


def two_clips() -> Edit:
    edit = tied_edit([(1.0, 100), (2.0, 160)])
    (clip,) = edit.clips
    return edit.model_copy(update={"clips": (clip, clip.model_copy(update={"id": "clip-2"}))})


ON_PARTS: dict[str, list[do.Command]] = {
    "title": [do.Configure(title="one"), do.Configure(title="two")],
    "size": [do.Configure(width=640), do.Configure(width=320)],
    "clip-1": [do.SetLevel(clip="clip-1", level=0.5), do.BeginShape(clip="clip-1", span=0, shape="dip")],
    "clip-2": [do.SetLevel(clip="clip-2", level=0.25), do.RemoveClip(clip="clip-2")],
    "cue-0": [do.ChangeCue(cue="cue-0", time=0.8), do.ChangeCue(cue="cue-0", strength=0.5)],
    "a new cue": [do.AddCue(time=3.0), do.AddCue(time=4.0)],
    "the range": [do.SetRange(since=0, until=90), do.SetRange(since=30, until=60)],
}
on_parts = st.sampled_from(sorted(ON_PARTS)).flatmap(
    lambda part: st.tuples(st.just(part), st.sampled_from(ON_PARTS[part]))
)


@settings(max_examples=60)
@given(first=on_parts, second=on_parts)
def test_two_changes_to_one_revision_both_stand_unless_they_touch_the_same(store, first, second):
    """Of two tabs the one that is late loses its change only where the other one touched the same part."""
    stored = edits.create(two_clips())
    (one, early), (other, late) = first, second
    now = edits.run(stored.id, 1, early)
    if one == other and one != "a new cue":
        with pytest.raises(edits.Stale) as stale:
            edits.run(stored.id, 1, late)
        assert stale.value.both
        assert edits.current(stored.id) == now
    else:
        after = edits.run(stored.id, 1, late)
        assert after.edit == do.apply(do.apply(stored.edit, early), late)
        assert edits.undo(stored.id, after.revision).edit == now.edit


def test_a_late_change_to_what_is_gone_is_refused(store):
    stored = edits.create(two_clips())
    edits.run(stored.id, 1, do.RemoveCues(cues=("cue-1",)))
    with pytest.raises(Refusal, match="cue-1"):
        edits.run(stored.id, 1, accent("flash", cue="cue-1"))


def test_a_command_is_worked_out_while_others_write_and_its_base_is_looked_at_again(store, monkeypatch):
    """A long command holds nobody up: the write that came first stands, and it is told."""
    stored = edits.create(Edit(rate=Fraction(60), title="base"))
    other = edits.create(Edit(rate=Fraction(60), title="other"))
    at_work = edits.apply

    def slowly(edit: Edit, command: Configure) -> Edit:
        if command.title == "late":
            with ThreadPoolExecutor(1) as pool:
                assert pool.submit(elsewhere).result(timeout=5) == "quick"
        return at_work(edit, command)

    def elsewhere() -> str:
        with database.connection_context():
            edits.run(stored.id, 1, Configure(title="quick"))
            return edits.run(other.id, 1, Configure(title="quick")).edit.title

    monkeypatch.setattr(edits, "apply", slowly)
    with pytest.raises(edits.Stale):
        edits.run(stored.id, 1, Configure(title="late"))
    assert edits.current(stored.id).edit.title == "quick"
    assert edits.run(other.id, 2, Configure(title="after")).revision == 3


def test_what_is_amended_takes_the_place_of_what_it_was_and_is_no_step(store):
    stored = edits.create(Edit(rate=Fraction(60), title="first"))
    second = edits.run(stored.id, 1, Configure(title="second"))
    edits.name_revision(stored.id, 2, "the good one")
    edits.run(stored.id, second.revision, Configure(title="third"))
    edits.undo(stored.id, 3)
    amended = edits.amend(stored.id, 2, Configure(width=640))
    assert (amended.revision, amended.edit.title, amended.edit.width) == (4, "second", 640)
    assert [(past.number, past.parent, past.name) for past in edits.history(stored.id)] == [
        (4, 1, "the good one"), (3, 4, None), (1, None, None),
    ]  # fmt: skip
    assert edits.redo(stored.id, 4).edit.title == "third"
    assert edits.undo(stored.id, 3).revision == 4
    assert edits.undo(stored.id, 4).edit.title == "first"
    assert edits.redo(stored.id, 1).revision == 4
    assert edits.at_revision(stored.id, 2).width != 640, "what was exported of it can be told still"
    with pytest.raises(edits.Stale):
        edits.amend(stored.id, 2, Configure(width=320))
