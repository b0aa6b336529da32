"""The front end's helpers that hold logic: laps, pieces of sound, budgets, changes, names, lanes, keys."""

import base64
import math
import random
from collections import OrderedDict
from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from izmet.core.document.cuekinds import LANDED_ON
from izmet.core.document.places import Pin
from izmet.core.document.titles import Lettering
from izmet.picture.lettering import middle_of
from tests.desk import derived_with, unpacked

seconds = st.floats(0, 40).map(lambda value: round(value, 3))


@st.composite
def courses(draw):
    start, end = draw(seconds), draw(seconds)
    end = max(end, start + 0.5)
    loop = None
    if draw(st.booleans()):
        begin = draw(seconds)
        loop = {"from": begin, "to": begin + draw(st.floats(0.2, 5))}
    return {"start": start, "end": end, "loop": loop, "slowness": draw(st.sampled_from([1, 2, 4]))}


@settings(max_examples=60)
@given(courses(), st.floats(0, 60))
def test_a_place_lies_in_its_lap_and_laps_follow_without_a_gap(helpers, course, heard):
    laps = [lap for number in range(4) if (lap := helpers.call("laps.lapOf", course, number))]
    for one, other in pairwise(laps):
        assert other["since"] == pytest.approx(one["since"] + (one["to"] - one["from"]) * course["slowness"])
        assert other["from"] == course["loop"]["from"]
    place = helpers.call("laps.placeAt", course, heard)
    lap = helpers.call("laps.lapOf", course, place["lap"])
    assert lap["from"] - 1e-9 <= place["time"] <= lap["to"] + 1e-9
    if not place["over"]:
        assert place["time"] == pytest.approx(
            lap["from"] + (heard - lap["since"]) / course["slowness"], abs=1e-6
        )
    else:
        assert course["loop"] is None or course["start"] >= course["loop"]["to"]


@settings(max_examples=60)
@given(courses(), st.floats(0.3, 6), st.floats(1, 60), st.lists(st.floats(0, 30), min_size=1, max_size=5))
def test_pieces_of_sound_fill_every_lap_once_however_they_are_asked_for(helpers, course, block, ends, asked):
    course = {**course, "slowness": 1}
    helpers.call("laps.piecesOf", course, block, ends, keep="pieces")
    found = [piece for until in sorted(asked) for piece in helpers.call("pieces.until", until)]
    for piece in found:
        assert piece["offset"] >= 0
        assert piece["duration"] > 0
        assert piece["offset"] + piece["duration"] <= block + 1e-6
        time = piece["block"] * block + piece["offset"]
        place = helpers.call("laps.placeAt", course, piece["since"] + 1e-7)
        assert place["time"] == pytest.approx(time, abs=1e-5)
        assert time + piece["duration"] <= ends + 1e-6
    for one, other in pairwise(found):
        assert other["since"] >= one["since"] + one["duration"] - 1e-6
    if found and course["start"] < min(ends, course["end"]) and course["loop"] is None:
        heard = sum(piece["duration"] for piece in found)
        due = min(max(asked), ends - course["start"], course["end"] - course["start"])
        assert heard >= due - 1e-6, "nothing that is due by then is left out"


@settings(max_examples=40)
@given(st.lists(st.tuples(st.sampled_from("abcdef"), st.integers(1, 60)), max_size=30), st.integers(50, 120))
def test_a_budget_keeps_what_was_used_last(helpers, steps, most):
    """Against a plain ordered dictionary."""
    helpers.call("budget.Budget", most, keep="cache", how="new")
    kept: OrderedDict[str, int] = OrderedDict()
    for key, size in steps:
        held = helpers.call("cache.get", key)
        assert (held is not None) == (key in kept)
        if key in kept:
            kept.move_to_end(key)
            continue
        helpers.call("cache.set", key, size, size)
        kept[key] = size
        while sum(kept.values()) > most and len(kept) > 1:
            kept.popitem(last=False)
        assert helpers.call("cache.bytes", how="get") == sum(kept.values())


def test_news_are_told_once_however_often_an_answer_has_them(helpers):
    def told(jobs: list[dict], edits: list[dict]) -> tuple[list[int], list[int]]:
        news = helpers.call("unheard.of", {"now": 1, "jobs": jobs, "edits": edits})
        return [job["id"] for job in news["jobs"]], [moved["revision"] for moved in news["edits"]]

    helpers.call("news.Unheard", keep="unheard", how="new")
    half, done = {"id": 4, "state": "running"}, {"id": 4, "state": "done"}
    first, second = {"edit": 4, "revision": 7}, {"edit": 4, "revision": 8}
    assert told([half], [first]) == ([4], [7])
    assert told([half], [first]) == ([], [])
    assert told([done], [second]) == ([4], [8])
    assert told([], [first]) == ([], [7])  # undone


def test_time_left_follows_the_pace_so_far(helpers):
    helpers.call("pace.Pace", keep="queue", how="new")
    assert helpers.call("queue.left", 100, 50) is None
    assert helpers.call("queue.left", 101, 40) is None  # too early to say
    assert helpers.call("queue.left", 102, 30) == pytest.approx(3)
    assert helpers.call("queue.left", 104, 70) == pytest.approx(14)  # more came in; 20 took 4 s
    assert helpers.call("queue.left", 105, 0) is None
    assert helpers.call("queue.left", 200, 10) is None  # a new queue, a new clock


def test_time_left_is_not_told_from_a_slow_beginning(helpers):
    """Programs load first: what little is done then says nothing, unless it goes on like that."""
    helpers.call("pace.Pace", keep="queue", how="new")
    assert helpers.call("queue.left", 100, 1000) is None
    assert helpers.call("queue.left", 104, 999) is None
    assert helpers.call("queue.left", 108, 949) == pytest.approx(949 * 8 / 51)
    helpers.call("pace.Pace", keep="queue", how="new")
    assert helpers.call("queue.left", 100, 1000) is None
    assert helpers.call("queue.left", 120, 990) == pytest.approx(1980)


@settings(max_examples=60)
@given(
    st.lists(st.tuples(st.floats(-50, 700), st.floats(0, 1)), max_size=60),
    st.floats(1, 40),
)
def test_of_things_too_close_together_the_weightiest_are_kept(helpers, things, apart):
    places, weights = [place for place, _ in things], [weight for _, weight in things]
    kept = helpers.call("sparse.sparse", places, weights, apart)
    assert kept == sorted(set(kept))
    for one in kept:
        assert all(abs(places[one] - places[other]) >= apart for other in kept if other != one)
    for left in set(range(len(things))) - set(kept):
        assert any(abs(places[left] - places[k]) < apart and weights[k] >= weights[left] for k in kept)


@pytest.mark.parametrize(
    ("name", "shown"),
    [
        ("gannet.mp4", "gannet"),
        ("Gannet off the swell", "Gannet off the swell"),
        ("take.final.mov", "take.final"),
        (".hidden", ".hidden"),
        ("v1.2 best", "v1.2 best"),
        ("Лодка.mkv", "Лодка"),
    ],
)
def test_names_lose_their_suffix_alone(helpers, name, shown):
    assert helpers.call("names.fileName", name) == shown


@given(st.text(max_size=60))
def test_halves_of_a_name_are_the_name(helpers, name):
    head, tail = helpers.call("names.halves", name)
    assert head + tail == name


def test_a_moment_is_named_in_words(helpers):
    assert helpers.call("names.momentName", {"id": "moment-1", "frame": 7, "label": "splash"}) == "splash"
    assert (
        helpers.call("names.momentName", {"id": "moment-1", "frame": 7, "label": ""}) == "impact at frame 7"
    )
    assert "moment-1" not in helpers.call("names.momentName", None)


def test_lanes_do_not_overlap_and_hold_every_kind(helpers):
    kinds = ["hand", "drop", "downbeat", "beat", "kick"]
    lanes = helpers.call("lanes.layLanes", "music", kinds, 300)
    assert [lane["kinds"] for lane in lanes] == [[kind] for kind in kinds]
    for one, other in pairwise(lanes):
        assert other["top"] >= one["top"] + one["height"]
    compact = helpers.call("lanes.layLanes", "clip", kinds, 150)
    assert sorted(kind for lane in compact for kind in lane["kinds"]) == sorted(kinds) or "beat" in str(
        compact
    )
    assert helpers.call("lanes.lanesEnd", compact) > compact[-1]["top"]


def test_the_browser_reads_packets_and_changes_as_the_tests_do(helpers, desk, laid):
    """Real answers of the server: the same states come out of TypeScript and of Python."""
    command = {"do": "begin-shape", "clip": "clip-1", "span": 0, "shape": "dip"}
    body = {"base": laid["revision"], "commands": [command]}
    answer = desk.client.post(f"/api/edits/{laid['id']}/dry-run", json=body)
    outcomes = helpers.call("packet.unpack", {"base64": base64.b64encode(answer.data).decode()})
    assert outcomes == unpacked(answer.data)
    change = outcomes["outcomes"][0]["change"]
    assert change["order"] == ["clip-1"]
    assert len(change["clips"][0]["source"]) > 10
    dipped = helpers.call("changes.derivedWith", laid["derived"], change)
    assert dipped == derived_with(laid["derived"], change)

    state = laid
    for next_command in (
        command,
        {"do": "add-cue", "time": 0.7, "kind": "kick", "strength": 1},
        {"do": "lay-take", "take": laid["edit"]["takes"][0]["id"], "moment": "moment-1", "cue": "cue-1"},
        {"do": "configure", "rate": "25", "title": "Heat two"},
        {"do": "remove-clip", "clip": "clip-1"},
        {"do": "remove-clip", "clip": "clip-2"},
    ):
        body = {"base": state["revision"], "command": next_command}
        changed = desk.client.post(f"/api/edits/{laid['id']}/commands", json=body).get_json()
        now = desk.get(f"/edits/{laid['id']}")
        assert helpers.call("changes.withChange", state, changed) == now, next_command
        state = now


def test_of_several_cues_on_a_frame_the_one_that_is_meant_is_nearest(helpers):
    """The order is Python's own; it comes along in terms.json."""
    kinds = ["hand", "bass", "beat", "snare", "kick", "downbeat", "drop"]
    cues = [{"id": kind, "kind": kind, "at": 10 + i / 1000, "frame": 600} for i, kind in enumerate(kinds)]
    elsewhere = {"id": "far", "kind": "drop", "at": 10.1, "frame": 606}
    for count in range(1, len(kinds) + 1):
        found = helpers.call("cues.nearestCue", [*cues[:count], elsewhere], 10.0)
        assert found["id"] == min(kinds[:count], key=LANDED_ON.index)
    assert helpers.call("cues.nearestCue", [*cues, elsewhere], 10.09)["id"] == "far"
    assert helpers.call("cues.nearestCue", [], 1.0) is None


@settings(max_examples=60)
@given(
    st.sampled_from(["60", "25", "24", "50", "30000/1001", "60000/1001", "120", "24000/1001"]),
    st.integers(0, 2_000_000),
)
def test_a_frame_is_on_from_its_begin_to_the_next_ones(helpers, rate, n):
    helpers.call("frameClock.frameClock", rate, keep="clock")
    begin, end = helpers.call("clock.time", n), helpers.call("clock.time", n + 1)
    assert begin == pytest.approx(float(n / Fraction(rate)), rel=1e-12)
    assert (
        helpers.call("clock.frame", begin)
        == helpers.call("clock.frame", helpers.call("clock.inside", n))
        == n
    )
    assert helpers.call("clock.next", begin) == n
    # Sums of seconds lose a little: a hair before a frame begins is on it, a tenth of a frame before is not.
    assert helpers.call("clock.frame", math.nextafter(begin, 0)) == n
    assert helpers.call("clock.frame", begin + 0.9 * (end - begin)) == n
    assert helpers.call("clock.next", begin + 0.1 * (end - begin)) == n + 1


@settings(max_examples=25)
@given(
    st.sampled_from([24, 25, 30, 50, 60]),
    st.sampled_from([60.0, 59.94, 144.0]),
    st.floats(0, 0.02),
    st.integers(0, 2**32 - 1),
)
def test_the_picture_follows_a_clock_that_moves_in_steps(helpers, rate, screen, step, seed):
    """The hardware's stamp stands still for ``step`` seconds and then jumps; screens are drawn unevenly."""
    chance = random.Random(seed)
    helpers.call("pictureClock.PictureClock", 0, 0, keep="paced", how="new")
    frame, now, shown = 0, 0.0, [0]
    for _ in range(150):
        now += chance.uniform(0.9, 1.1) / screen
        stamp = now - now % step if step else now
        heard = helpers.call("paced.heard", stamp, now)
        assert stamp - 1e-9 <= heard + step
        assert abs(heard - (now - step / 2)) <= step / 2 + 0.002 + step * 0.5
        frame = helpers.call("paced.next", frame, heard * rate)
        shown.append(frame)
        assert abs(heard * rate - (frame + 0.5)) <= 1.1
    assert shown == sorted(shown)
    # Where the screen is quicker than the edit, no frame is passed over.
    if screen > 1.3 * rate:
        assert set(range(shown[-1])) <= set(shown)


def test_a_jump_of_the_clock_is_followed_at_once(helpers):
    helpers.call("pictureClock.PictureClock", 0, 0, keep="paced", how="new")
    for i in range(1, 30):
        helpers.call("paced.heard", i / 60, i / 60)
    assert helpers.call("paced.heard", 5.0, 0.5) == pytest.approx(5.0)
    assert helpers.call("paced.next", 29, 300.2) == 300
    drifts = [helpers.call("paced.drift", n, n + 0.5 + (-1) ** n * 0.4) for n in range(200)]
    assert max(drifts) < 0.05


@settings(max_examples=60)
@given(
    st.lists(st.tuples(st.integers(0, 60), st.integers(1, 30)), min_size=1, max_size=12),
    st.integers(1, 5),
    st.integers(0, 3),
)
def test_what_meets_lies_in_rows_of_its_own_as_long_as_there_are_any(helpers, stretches, most, slack):
    helpers.call("rows.Rows", most, slack, how="new", keep="lying")
    laid = [(at, at + long, helpers.call("lying.take", at, at + long)) for at, long in sorted(stretches)]
    assert helpers.call("lying.count", how="get") == 1 + max(row for _, _, row in laid)
    for index, (begin, _, row) in enumerate(laid):
        assert 0 <= row < most
        still = [other for _, end, other in laid[:index] if end > begin + slack]
        # It shares its row only where all of them are taken.
        assert row not in still or len(set(still)) == most


@settings(max_examples=60)
@given(
    st.sampled_from(["left", "middle", "right"]), st.floats(0, 1), st.floats(0, 1), st.floats(0.02, 0.5),
    st.integers(2, 900), st.integers(2, 400), st.sampled_from([0.25, 0.5, 1.0]),
)  # fmt: skip
def test_a_title_lies_in_the_preview_as_in_the_file(helpers, align, across, down, size, wide, high, by):
    """Where its picture lies in a smaller frame is where it lies in the file's, made smaller."""
    since, until = Pin(id="since", n=0), Pin(id="until", n=9)
    how = {"align": align, "across": across, "down": down, "size": size}
    title = Lettering(id="title-1", text="Heat three", since=since, until=until, **how)
    frame = {"x": 0, "y": 0, "w": 1280 * by, "h": 720 * by}
    box = helpers.call(
        "titles.lyingIn", title.model_dump(mode="json"), {"width": wide, "height": high}, frame, by
    )
    middle = (box["x"] + box["w"] / 2, box["y"] + box["h"] / 2)
    expected = middle_of(title, (wide, high), (1280, 720))
    assert middle == pytest.approx([by * side for side in expected], abs=1e-6)


def test_titles_are_there_on_their_frames_alone(helpers):
    columns = {"x": [0.1, 0, 0], "y": [0, 0, 0], "scale": [1, 1, 1], "turn": [0, 0, 0]}
    titles = [{"id": "title-1", "drawn": "a", "first": 10, "opacity": [0.5, 1, 0], **columns}]
    seen = [helpers.call("titles.titlesOn", titles, n) for n in range(9, 14)]
    assert [len(each) for each in seen] == [0, 1, 1, 0, 0]
    assert (seen[1][0]["opacity"], seen[1][0]["x"]) == (0.5, 0.1)


def test_a_way_to_come_is_known_by_what_it_does(helpers):
    rising = {"frames": 20, "y": 0.08, "ease": "ease-out"}
    assert helpers.call("titles.entranceOf", rising) == "rise"
    assert helpers.call("titles.entranceOf", {**rising, "frames": 0}) == "at-once"
    assert helpers.call("titles.entranceOf", {**rising, "turn": 5}) is None


def test_ways_to_count_are_told_apart_where_they_count_alike(helpers):
    ways = [
        {"relation": None, "tempo": 115.4},
        {"relation": "off-beat", "tempo": 115.4},
        {"relation": "three-four", "tempo": 76.9},
        {"relation": "three-four", "tempo": 76.4},
        {"relation": "off-beat", "tempo": 115.3},
        {"relation": "half", "tempo": 57.7},
    ]
    names = helpers.call("relations.wayNames", ways)
    assert names[0] == "As first heard"
    assert names[3:5] == ["Three against four, shifted", "On the off-beat, shifted"]
    assert len(set(names)) == len(names)
