"""What was done is said in words, about what is named in words."""

import pytest

from izmet.core import commands as do
from izmet.core.commands import KINDS
from izmet.core.commands.words import LONGEST, SAID, in_words
from izmet.core.document.refusal import Place, Refusal
from tests.core.examples import tied_edit


@pytest.mark.parametrize(
    ("command", "words"),
    [
        (
            do.AddTie(clip="clip-1", moment="moment-0", cue="cue-1"),
            "Tie a moment: impact at frame 100, kick at 2.00 s",
        ),
        (do.SetPin(clip="clip-1", pin="pin-1", skip=3), "Set a pin: impact at frame 160"),
        (do.SetValue(clip="clip-1", span=0, name="strength", value=0.5), "Bend a span: span 1"),
        (do.BeginShape(clip="clip-1", span=0, shape="dip"), "Begin a shape: span 1, dip"),
        (do.ChangeCue(cue="cue-0", time=3), "Change a cue: kick at 1.00 s"),
        (do.RemoveMoment(take="gannet", moment="moment-1"), "Delete a moment: impact at frame 160"),
        (do.SetLevel(clip="clip-1", level=1), "Set a clip's own sound"),
        (do.SetLevel(clip="clip-9", level=1), "Set a clip's own sound"),
        (do.ChangeCue(cue="cue-9", time=3), "Change a cue"),
        (do.Configure(title="Ebb" * 60), "Change the edit's settings: " + "Ebb" * 60),
    ],
)
def test_a_step_is_said_in_words_and_ids_never(command, words):
    assert in_words(tied_edit([(1.0, 100), (2.0, 160)]), command) == words[:LONGEST]


@pytest.mark.parametrize(
    ("place", "said"),
    [
        (Place.of("clip-1"), "clip clip-1"),
        (Place.of("clip-1", "clip-2"), "clips clip-1 and clip-2"),
        (Place.of("clip-1", pin="pin-2"), "clip clip-1, pin pin-2"),
        (Place.of("clip-1", span=3), "clip clip-1, span 3"),
        (Place(take="take-1", moment="moment-2"), "take take-1, moment moment-2"),
    ],
)
def test_a_place_in_the_edit_is_told_in_ids_and_in_words(place, said):
    refusal = Refusal("any", "It cannot be.", place)
    assert (refusal.where, refusal.about) == (said, place)
    again = Refusal.of_dict(refusal.as_dict())
    assert again.as_dict() == refusal.as_dict()
    assert Refusal.of_dict(Refusal("any", "No.", "a file").as_dict()).where == "a file"


def test_every_command_is_listed_once_and_has_words_of_its_own():
    assert len({kind.model_fields["do"].default for kind in KINDS}) == len(KINDS) == len(SAID)
    assert len(set(SAID.values())) == len(SAID)
