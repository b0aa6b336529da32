"""The shapes of requests and answers."""

from __future__ import annotations

from functools import cache
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, Field

from izmet.core.arrange.backwards import FASTEST, SLOWEST, Arrangement
from izmet.core.arrange.continuing import Beginning
from izmet.core.arrange.shift import SongShift
from izmet.core.arrange.songs import Carried
from izmet.core.commands import Command
from izmet.core.commands.mending import Group
from izmet.core.commands.repairs import Repair
from izmet.core.document.accents import Anchor
from izmet.core.document.changes import EditChange, Splice
from izmet.core.document.cuekinds import CueKind
from izmet.core.document.edit import Edit, MomentKind, Recipe
from izmet.core.document.framing import SourceFrame
from izmet.core.document.limits import MOST_FRAMES, MOST_SECONDS
from izmet.core.document.rates import Rate
from izmet.core.document.refusal import Place
from izmet.core.document.titles import Written
from izmet.core.document.values import Id, Side, Speed, Title
from izmet.core.document.words import one_line
from izmet.core.following.consequences import Consequence
from izmet.core.following.derived import Columns, Counts, Derived, DerivedChange, Numbers
from izmet.core.following.montage import Cut
from izmet.core.music.facts import MusicFacts
from izmet.core.music.joining import MOST_TIMES
from izmet.farm.line import WorkerSeen
from izmet.jobs.delivery import Delivery
from izmet.material.files import FetchedFile
from izmet.picture.proposal import ProposalKind
from izmet.store.assets import AssetKind
from izmet.store.uploads import Upload


class DescribedOnce(BaseModel):
    """Base of answers that many routes share: describing them takes a while, so it is done once."""

    @classmethod
    @cache
    def model_json_schema(cls, **how: Any) -> dict[str, Any]:  # type: ignore[override]
        return super().model_json_schema(**how)


class Problem(DescribedOnce):
    """What is wrong, where, and what to do. ``nearest`` is the nearest value that works.

    ``where`` is in words, ``about`` the same in ids where it is a part of an edit.
    """

    code: str
    what: str
    where: str = ""
    about: Place | None = None
    remedy: str = ""
    nearest: float | None = None


class RefusedWish(Problem):
    """A command that cannot be granted, and what could be done instead, the cheapest first."""

    repairs: list[Repair] = []


class MixFacts(BaseModel):
    """What is heard: fetched in blocks, which stay the same for as long as ``key`` does.

    ``end`` is the second of the edit after which nothing is heard.
    """

    key: str
    rate: int
    channels: int
    end: float
    silent: bool


BundleState = Literal["current", "behind", "unknown"]


class EditState(DescribedOnce):
    """An edit at its current revision, and all that follows from it."""

    id: int
    revision: int
    can_undo: bool
    can_redo: bool
    edit: Edit
    derived: Derived
    cue_frames: list[int] = Field(description="the output frame on which each cue lands, in their order")
    music: MusicFacts | None
    mix: MixFacts
    missing: list[str] = Field(description="takes, by id, and 'song', whose files are not there")
    floors: dict[str, float] = Field(description="the lowest speed of each take at which no picture repeats")
    bundles: dict[str, BundleState] = Field(
        description="of takes that are bundles: whether the edit has changed since, or is not here"
    )


class EditChanged(DescribedOnce):
    """What became of an edit whose state at revision ``base`` is known."""

    id: int
    base: int
    revision: int
    can_undo: bool
    can_redo: bool
    edit: EditChange
    derived: DerivedChange
    cue_frames: Splice[int] | None
    music: MusicFacts | None
    mix: MixFacts
    missing: list[str]
    floors: dict[str, float]
    bundles: dict[str, BundleState]
    consequences: list[Consequence] = Field(
        description="what became of parts that the change itself did not name"
    )


class StaleProblem(Problem):
    """A write that was based on an old revision, with the state that is current."""

    current: EditState


class EditPicture(BaseModel):
    """The frame of a take that stands for an edit."""

    sha256: str
    frame: int


class EditSummary(BaseModel):
    """One edit in the list."""

    id: int
    title: str
    rate: str
    clips: int
    revision: int
    changed: float = Field(description="seconds since the epoch")
    seconds: float
    picture: EditPicture | None


class EditList(BaseModel):
    """All edits, the newest first, and those in the bin."""

    edits: list[EditSummary]
    bin: list[EditSummary] = []


class PastEntry(BaseModel):
    """One revision in an edit's history."""

    number: int
    parent: int | None
    reason: str
    name: str | None
    created: float
    is_current: bool


class EditHistory(BaseModel):
    """All revisions, the newest first."""

    revisions: list[PastEntry]


class NewEdit(BaseModel):
    """A new, empty edit."""

    title: Title = "Untitled edit"
    rate: Rate
    width: Side = 1280
    height: Side = 720


class Base(BaseModel):
    """The revision that a write is based on."""

    base: Annotated[int, Field(ge=0, le=2**31)]


class RunCommand(Base):
    """A command, based on a revision."""

    command: Command


class DryRun(Base):
    """Commands to be tried, each on the same revision."""

    commands: Annotated[list[Command], Field(min_length=1, max_length=16)]


class Outcome(Columns):
    """What a command would change, or why it is refused."""

    change: DerivedChange | None
    refused: RefusedWish | None


class Outcomes(Columns):
    """What would come of commands, in their order."""

    outcomes: list[Outcome]


class GoTo(Base):
    """Go to another revision."""

    revision: Annotated[int, Field(ge=0, le=2**31)]


class RevisionPath(BaseModel):
    """A revision of an edit, in the address."""

    id: Annotated[int, Field(ge=0, le=2**31)]
    revision: Annotated[int, Field(ge=0, le=2**31)]


class RevisionName(BaseModel):
    """What a revision is called; empty for no name."""

    name: Annotated[str, Field(max_length=60), AfterValidator(one_line)] = ""


class Backwards(BaseModel):
    """Work backwards from a tie, on cues that must all be landed on, or on any."""

    clip: Id
    pin: Id
    cues: Annotated[list[Id], Field(max_length=1000)] = []
    slowest: Speed = SLOWEST
    fastest: Speed = FASTEST


class Arrangements(BaseModel):
    """What is proposed, the best first."""

    arrangements: list[Arrangement]


class LengthQuery(BaseModel):
    """When the song is to end, in seconds of the edit."""

    end: float = Field(allow_inf_nan=False)


class JoinQuery(BaseModel):
    """Two places of a song, in seconds of it: it leaves off at one and goes on from the other."""

    leave: float = Field(ge=0, le=MOST_SECONDS)
    enter: float = Field(ge=0, le=MOST_SECONDS)


class SongToJoin(JoinQuery, Base):
    """A join of the song, and how often what it goes back over is heard again."""

    times: int = Field(1, ge=1, le=MOST_TIMES)


class SongJoin(BaseModel):
    """A join, how alike the music is at its places, and what would come of it.

    ``bars`` are left out, or heard again; the song would ``end`` at that second of the edit; so many ties
    would be ``loose``.
    """

    leave: float
    enter: float
    times: int
    alike: float
    bars: int
    end: float
    loose: int


class SongJoins(BaseModel):
    """Where the song could be joined, the best first."""

    joins: list[SongJoin]


class CutQuery(BaseModel):
    """A cut, by the clips beside it."""

    before: Id
    after: Id


class Beginnings(BaseModel):
    """From where the clip after a cut would go on, the best first."""

    beginnings: list[Beginning]


class NewBundle(Base):
    """What becomes a bundle: some clips of the edit under a title, or another whole edit."""

    clips: Annotated[tuple[Id, ...], Field(max_length=1000)] = ()
    title: Title = "Bundle"
    edit: Annotated[int, Field(ge=1)] | None = None


class PointToFollow(Base):
    """A tracked point of a take, from where on it is followed, and how far both ways: source frames."""

    take: Id
    track: Id
    frame: SourceFrame
    begin: SourceFrame
    end: SourceFrame


class MontageInfo(BaseModel):
    """The cuts of an edit at a revision, in order, and what needs a look, cause by cause."""

    revision: int
    cuts: list[Cut]
    groups: list[Group]


class ShiftInfo(BaseModel):
    """The shift of the song at which the landings fall closest to their cues; null without ties."""

    shift: SongShift | None


class OtherSong(BaseModel):
    """A song on the shelf; with ``edit``, as its cues were corrected in that edit."""

    asset: str
    edit: int | None = None


class TakeSong(Base):
    """Change to a song on the shelf; which of its cues takes the part of each old one."""

    asset: str
    edit: int | None = None
    to: dict[str, Id | None]
    places: dict[str, float] = {}


class SongSource(BaseModel):
    """Another edit, in which a song has other cues than those found in it."""

    edit: int
    title: str


class SongChangeTable(BaseModel):
    """What would go where with another song, and where its cues could be taken from."""

    rows: list[Carried]
    sources: list[SongSource] = []


class RecipeList(BaseModel):
    """The recipes that come with the app."""

    recipes: list[Recipe]


class UseAsset(Base):
    """Bring a file into the edit, as its song or as a take."""

    asset: str
    kind: AssetKind


class LayAsset(Base):
    """Lay an audio file as a sound."""

    asset: str
    at: Anchor


class RelinkAsset(Base):
    """Point a take, or a sound, or the song when neither is named, to another file."""

    asset: str
    take: Id | None = None
    sound: Id | None = None
    keep: Literal["frame", "instant"] | None = None


class NewExport(Delivery):
    """Export a revision of an edit."""

    revision: Annotated[int, Field(ge=0, le=2**31)]


class AssetInfo(BaseModel):
    """A media file. ``facts`` depend on its kind."""

    sha256: str
    kind: AssetKind
    name: str
    size: int
    state: Literal["reading", "ready", "failed"]
    facts: TakeFacts | SongFacts | None = None
    error: Problem | None = None
    bundle: int | None = Field(None, description="the edit whose picture it is")


class TakeFacts(BaseModel):
    """What reading a take found."""

    rate: Rate
    distinct: Rate
    held: int | None = None
    frames: int
    width: int
    height: int
    codec: str
    streams: list[StreamFacts] = []
    notes: list[str]


class StreamFacts(BaseModel):
    """One stream of a file: its picture, or one of its sounds."""

    kind: Literal["picture", "sound"]
    codec: str
    width: int | None = None
    height: int | None = None
    sample_rate: int | None = None
    channels: int | None = None


class ProposalInfo(BaseModel):
    """A frame that is worth looking at, how much it counts (0..1), and why.

    ``becomes`` is the kind of moment that it is when it is kept.
    """

    frame: int
    kind: ProposalKind
    becomes: MomentKind
    weight: float
    why: str


class StretchInfo(BaseModel):
    """From a frame on, so many distinct pictures a second."""

    begin: int
    rate: Rate


class TakeMeasuresInfo(Columns):
    """What was seen in a take, one value a source frame.

    ``dx`` and ``dy`` are the content's movement in source pixels, ``moves`` how much moves
    in parts of the picture's width, ``light`` and ``loud`` go from 0 to 1, ``fresh`` is 1 where
    the picture is a new one.
    """

    light: Numbers
    dx: Numbers
    dy: Numbers
    moves: Numbers
    loud: Numbers
    fresh: Counts
    distinct: list[StretchInfo]
    proposals: list[ProposalInfo]


class PeakLevels(BaseModel):
    """How the peaks file is laid out: entries of three bytes, level after level."""

    base: int
    factor: int
    levels: list[int]


class SongFacts(BaseModel):
    """What reading a song found. ``tempo`` 0: no pulse."""

    duration: float
    sample_rate: int
    channels: int
    tempo: float
    peaks: PeakLevels
    codec: str
    streams: list[StreamFacts] = []
    notes: list[str]


class AssetList(BaseModel):
    """All media files, the newest first, and those in the bin."""

    assets: list[AssetInfo]
    bin: list[AssetInfo] = []


class UploadBody(BaseModel):
    """A file as its person has it: its size in bytes, and when it was last changed, in ms since the epoch."""

    kind: AssetKind
    name: str = Field(min_length=1, max_length=300)
    size: int = Field(ge=0, le=2**53)
    changed: int = Field(default=0, ge=-(2**53), le=2**53)

    @property
    def upload(self) -> Upload:
        return Upload(self.kind, self.name, self.size, self.changed)


class PieceQuery(UploadBody):
    """A piece of a file, and the byte that it begins with."""

    at: int = Field(ge=0, le=2**53)


class UploadState(BaseModel):
    """How many bytes of a file are there, and how many the next piece may have."""

    received: int
    piece: int


class JobInfo(BaseModel):
    """Background work. ``total`` 0: how much there is is not known."""

    id: int
    kind: str
    state: Literal["queued", "running", "done", "failed", "cancelled"]
    done: int
    total: int
    doing: str
    args: JobArgs
    result: ExportReport | BundleReport | None = None
    error: Problem | None = None


class BundleReport(BaseModel):
    """What a bundle did to the rest of the edit, in words."""

    consequences: list[Consequence]


class JobArgs(BaseModel):
    """What a job is about: a file that is read, or an edit's revision that is exported."""

    asset: str | None = None
    name: str | None = None
    edit: int | None = None
    revision: int | None = None
    delivery: Delivery | None = None
    title: str | None = None
    factor: int | None = None
    into: int | None = None
    media: AssetKind | None = None
    take: str | None = None
    track: str | None = None


class ReportedLanding(BaseModel):
    """A landing, as planned and as measured in the exported file."""

    label: str
    cue_kind: CueKind
    cue_time: float
    timecode: str
    source_frame: int
    wanted_frame: int
    measured_frame: int | None
    residual_ms: float
    measured_residual_ms: float | None
    sound_offset_ms: float | None
    speed_in: float | None
    speed_out: float | None
    repeats_around: int


class FlashingStretch(BaseModel):
    """Output frames of a file that flash so often that it may harm; both included."""

    first: int
    last: int


class ExportReport(BaseModel):
    """What an export came to."""

    first_frame: int
    frames: int
    rate: Rate
    landings: list[ReportedLanding]
    flashing: list[FlashingStretch] = []
    measured_frames: int | None = None
    measured_sound: float | None = None
    loudness: float | None = Field(None, description="of the file, LUFS")
    true_peak: float | None = Field(None, description="of the file, dBTP")
    complete: bool = True
    all_exact: bool


class JobList(BaseModel):
    """Jobs, the newest first."""

    jobs: list[JobInfo]


class Workers(BaseModel):
    """Who makes parts of films: this machine ``alone``, or workers that share a Redis, which may be ``away``.

    ``store`` says why the shared store cannot be used, where that was met just now. ``version`` is the
    server's; a worker of another one makes nothing. ``waiting`` counts parts in line.
    """

    state: Literal["alone", "shared", "away"]
    version: str
    store: str | None = None
    waiting: int = 0
    workers: list[WorkerSeen] = []


Number = Annotated[int, Field(ge=0, le=2**31)]


class EditPath(BaseModel):
    """The edit's number."""

    id: Number


class RevisionQuery(BaseModel):
    """Which revision is meant."""

    revision: Number


class LetteringQuery(Written):
    """What is written, and the size of the frame that it is for."""

    width: Side
    height: Side


class MixLoudness(BaseModel):
    """How loud the mix of what is exported is: ITU-R BS.1770, in LUFS, ``momentary`` ten times a second from
    ``begin`` on, null for silence."""

    begin: float = Field(description="seconds of the edit")
    momentary: list[float | None]
    loudest: float | None = Field(description="of any 400 ms")
    integrated: float | None
    true_peak: float | None = Field(description="dBTP")


class JobPath(BaseModel):
    """The job's number."""

    id: Number


class PosterQuery(BaseModel):
    """How many pictures of a file come before the one that is wanted."""

    index: int = Field(ge=0, le=MOST_FRAMES)


class AssetPath(BaseModel):
    """The file's content hash."""

    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")


class KindQuery(BaseModel):
    """As what a file is meant."""

    kind: AssetKind


class DerivedPath(AssetPath):
    """A file and what is wanted of it."""

    file: FetchedFile


class FramePath(AssetPath):
    """A file and one of its source frames."""

    frame: int = Field(ge=0, le=1 << 28)


class FrameQuery(BaseModel):
    """Whether the take's poster will do where its frames would have to be made again first."""

    poster: bool = False


class PairQuery(BaseModel):
    """Two source frames."""

    first: int = Field(ge=0, le=1 << 28)
    second: int = Field(ge=0, le=1 << 28)


class WaveQuery(BaseModel):
    """Which samples of a song are wanted."""

    begin: int = Field(ge=0)
    count: int = Field(gt=0, le=1 << 17)


class SoundQuery(BaseModel):
    """Which seconds of a take's own sound are wanted, counted from its first picture."""

    begin: int = Field(ge=0, le=1 << 20)
    seconds: int = Field(gt=0, le=60)


class MixQuery(BaseModel):
    """Which samples of a revision's mix are wanted, counted from second 0 of the edit."""

    revision: Number
    begin: int = Field(ge=0, le=1 << 36)
    count: int = Field(gt=0, le=1 << 20)


class SlowBody(BaseModel):
    """How many times as long the slow copy is."""

    factor: Literal[2, 4]


class Taps(Base):
    """A tapped pass. ``window`` draws each tap to the nearest attack within so many seconds."""

    times: list[Annotated[float, Field(ge=0)]] = Field(min_length=1, max_length=5000)
    kind: CueKind = "hand"
    window: float | None = Field(None, gt=0, le=0.5)
    replace: bool = False


class Chosen(BaseModel):
    """The cues that a selection takes, by id."""

    cues: list[str]


class CueFileQuery(BaseModel):
    """Which cues go into the file: those of a saved selection, all by default."""

    selection: Id | None = None


class CueFilePath(EditPath):
    """An edit and the format of a file of cues."""

    ending: Literal["csv", "txt", "vtt", "mid"]


class CueUpload(BaseModel):
    """A file of cues; its name tells the format. ``replace`` clears cues of the same kinds first."""

    base: Number
    name: str = Field(min_length=1, max_length=300)
    replace: bool = False


class NotesUpload(BaseModel):
    """A file of notes."""

    base: Number
    name: str = Field(min_length=1, max_length=300)


class NewsQuery(BaseModel):
    """Since when news is wanted: the ``now`` of the answer before."""

    since: float = Field(0.0, ge=0, allow_inf_nan=False)


class EditMoved(BaseModel):
    """An edit's current revision."""

    edit: int
    revision: int


class News(BaseModel):
    """Jobs and edits that changed."""

    now: float
    jobs: list[JobInfo]
    edits: list[EditMoved]


AssetInfo.model_rebuild()
News.model_rebuild()
TakeFacts.model_rebuild()
SongFacts.model_rebuild()
JobInfo.model_rebuild()
