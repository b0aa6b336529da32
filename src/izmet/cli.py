"""The command line: ``izmet serve`` and ``demo``, ``worker``, ``cues``, ``moments``, ``solve``, ``render``,
and ``restore``.

Progress is drawn on a terminal only. Exit codes: 0 done, 2 wrong use, 3 refused
(the reason is on standard error), 70 a fault of Izmet itself, 130 interrupted.
Each command imports what it needs where it runs: help is there at once.
"""

from __future__ import annotations

import json
import os
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.progress import BarColumn, Progress, TextColumn, TimeRemainingColumn

from izmet.core.document.refusal import Refusal
from izmet.farm.place import KEY, MEDIA, REDIS, Place
from izmet.store.datafolder import DataFolder

REFUSED, FAULT = 3, 70
PRIVATE = 0o077
"""What a data folder holds is nobody else's business."""
PORT = 8477
DEMO_PORT = 8478
DEMO_PAGE = "/edits/1"
Say = Callable[[str, int, int], None]

app = typer.Typer(
    help="Retime clips so that every moment lands on its beat.", no_args_is_help=True, add_completion=False
)
errors = Console(stderr=True, highlight=False)


@app.command()
def cues(
    song: Annotated[Path, typer.Argument(help="wav, flac, ogg, mp3 or m4a")],
    as_json: Annotated[bool, typer.Option("--json", help="one JSON object on standard output")] = False,
) -> None:
    """Find beats, hits by kind, drops, rolls and sections in a song."""
    from izmet.media.songfile import read_song
    from izmet.sound.cues import listen

    with _progress() as say:
        sound = read_song(song, song.name)
        found = listen(sound, lambda part: say("listening", round(100 * part), 100))
    if as_json:
        first = found.beats[0] if found.beats else None
        rows = [cue.model_dump(include={"time", "kind", "strength"}) for cue in found.cues]
        answer = {
            "duration": sound.duration,
            "tempo": found.tempo,
            "meter": first.meter if first else None,
            "steady": first.steady if first else None,
            "confidence": found.confidence.model_dump(),
            "alternatives": [
                beats.model_dump(include={"relation", "tempo", "meter", "likelihood"})
                for beats in found.beats[1:]
            ],
            "cues": rows,
            "sections": [section.model_dump() for section in found.sections],
        }
        print(json.dumps(answer))
        return
    print(f"{song.name}: {sound.duration:.1f} s, {f'{found.tempo:.2f} bpm' if found.tempo else 'no pulse'}")
    for cue in found.cues:
        print(f"{cue.time:10.4f}  {cue.kind:<9} {cue.strength:.2f}")
    for section in found.sections:
        print(f"{section.start:10.4f}  {section.kind:<9} to {section.end:.4f}")


@app.command()
def moments(
    take: Annotated[Path, typer.Argument(help="a video file")],
    as_json: Annotated[bool, typer.Option("--json", help="one JSON object on standard output")] = False,
) -> None:
    """Find flashes, impacts, cuts and movement in a take, and how many distinct pictures it holds."""
    from izmet import mediafiles
    from izmet.media.looking import TakeMeasures
    from izmet.media.probe import picture_of, probe

    picture = picture_of(probe(take, take.name), take.name)
    with _progress() as say, tempfile.TemporaryDirectory() as folder:
        looked = mediafiles.look(take, take.name, picture, say)
        table = looked.table
        own = mediafiles.own_sound_of(take, take.name, table, Path(folder) / "sound.flac")
        found = TakeMeasures.of(looked, picture.width, own)
    if as_json:
        about = {
            "rate": str(table.rate),
            "frames": len(table),
            "distinct": str(table.distinct),
            "width": picture.width,
            "height": picture.height,
        }
        print(json.dumps({"take": about, **found.as_json()}))
        return
    print(f"{take.name}: {len(table)} frames at {table.rate}, {table.distinct} distinct pictures a second")
    for each in found.proposals:
        print(f"{each.frame:8}  {each.kind:<7} {each.weight:.2f}  {each.why}")


@app.command()
def solve(
    edit: Annotated[Path, typer.Argument(help="an edit document")],
    as_json: Annotated[bool, typer.Option("--json", help="one JSON object on standard output")] = False,
) -> None:
    """Tell what follows from an edit: what each output frame shows, speeds, landings, what cannot be.

    No media file is read: pictures are taken to be spread evenly at each take's distinct rate.
    """
    from izmet.core.solved import solved
    from izmet.documents import read_document

    found = solved(read_document(edit))
    if as_json:
        print(found.model_dump_json())
    else:
        for line in found.lines():
            print(line)
    if found.refusals:
        sys.exit(REFUSED)


@app.command()
def render(
    edit: Annotated[Path, typer.Argument(help="an edit document; media paths are relative to it")],
    out: Annotated[Path, typer.Argument(help="the file to write: .mp4, .webm, .mkv, .mov or .wav")],
    report: Annotated[
        Path | None, typer.Option(help="also write the landing report, as .json or .html")
    ] = None,
    force: Annotated[bool, typer.Option(help="write over files that are there already")] = False,
    loudness: Annotated[float | None, typer.Option(min=-40, max=-5, help="LUFS; as mixed without")] = None,
    format: Annotated[str | None, typer.Option(help="where the ending leaves it open: hevc, av1")] = None,
    quality: Annotated[str, typer.Option(help="small, good or best")] = "good",
    size: Annotated[str | None, typer.Option(help="width and height, as 1080x1920; else the edit's")] = None,
    rate: Annotated[
        str | None, typer.Option(help="frames a second, as 30 or 30000/1001; else the edit's")
    ] = None,
    chapters: Annotated[bool, typer.Option(help="chapters by the music's sections and drops")] = False,
) -> None:
    """Render an edit document to a file, and measure its landings in it."""
    from izmet import documents, mediafiles
    from izmet.core.shown.mix import voices
    from izmet.jobs.exporting import export
    from izmet.jobs.proof import proof_page
    from izmet.sound.mixer import Mixer

    wished = {"quality": quality, "loudness": loudness, "rate": rate, "chapters": chapters}
    asked = mediafiles.delivery_for(out, format, size, wished)
    document = asked.of(documents.load(edit))
    documents.check_outputs(document, edit, [out, *([report] if report else [])], force)
    with _progress() as say, tempfile.TemporaryDirectory() as folder:
        takes = {
            take.id: mediafiles.take_file(take.media, edit.parent, say)
            for take in document.takes
            if any(clip.take == take.id for clip in document.clips)
        }
        mix = Mixer.of(voices(document), mediafiles.sources(document, edit.parent, takes, Path(folder)))
        found = export(
            document,
            takes,
            mix,
            out,
            asked,
            lambda done, total: say("rendering", done, total),
        )
    if report is not None:
        if report.suffix.lower() in (".html", ".htm"):
            report.write_text(proof_page(found, out, document.title, asked.said(document)), encoding="utf-8")
        else:
            report.write_text(json.dumps(found, indent=2))
    for line in found["landings"]:
        measured = line["measured_frame"]
        verdict = "lands" if measured == line["wanted_frame"] else "MISSES"
        print(
            f"{verdict}  {line['label']} on {line['cue_kind']} at {line['cue_time']:.3f} s, frame {measured}"
        )
    for stretch in found["flashing"]:
        frames = f"{stretch['first']} to {stretch['last']}"
        print(f"MAY HARM  more than three flashes within a second, frames {frames}")
    heard = found.get("loudness")
    said = "" if heard is None else f", {heard:.1f} LUFS, true peak {found['true_peak']:.1f} dBTP"
    print(f"{out}: {found['frames']} frames{said}")


NoToken = Annotated[bool, typer.Option("--no-token", help="let other users of this machine in too")]
Redis = Annotated[
    str | None,
    typer.Option(help="the Redis that workers share, as redis://HOST:6379", envvar=REDIS),
]
Media = Annotated[
    str | None, typer.Option(help="the folder that they share, or s3://BUCKET/FOLDER", envvar=MEDIA)
]
Key = Annotated[Path | None, typer.Option(help="file with the key that signs their tasks", envvar=KEY)]


@app.command()
def serve(
    port: Annotated[int, typer.Option(min=0, max=65535, help="0 for any free port")] = PORT,
    no_token: NoToken = False,
    redis: Redis = None,
    media: Media = None,
    key: Key = None,
) -> None:
    """Serve your own work on this machine; with --redis, workers render."""
    os.umask(PRIVATE)
    _farm(redis, media, key)
    folder = DataFolder.default().prepare()
    with folder.held() as note:
        _serve(folder, port, no_token, note)


@app.command()
def demo(
    port: Annotated[int, typer.Option(min=0, max=65535, help="0 for any free port")] = DEMO_PORT,
    prepare_only: Annotated[bool, typer.Option(help="make the demo data and stop")] = False,
    no_token: NoToken = False,
) -> None:
    """Serve the demo, from a folder of its own beside your work."""
    from izmet.demo.fill import fill, library_of
    from izmet.demo.library import write_library
    from izmet.store.database import open_database

    os.umask(PRIVATE)
    root = DataFolder.default().root
    folder = DataFolder(root.with_name(f"{root.name}-demo")).prepare()
    with folder.held() as note:
        open_database(folder)
        with _progress() as say:
            write_library(library_of(folder), say)
            fill(folder, say)
        if not prepare_only:
            _serve(folder, port, no_token, note, DEMO_PAGE)


@app.command()
def worker(
    redis: Redis = None,
    media: Media = None,
    key: Key = None,
    count: Annotated[int, typer.Option(min=1, max=64, help="processes on this machine")] = 1,
) -> None:
    """Render for a server until stopped. Give each machine what its server was given."""
    from izmet.farm.crew import work

    place = _farm(redis, media, key)
    if place is None:
        raise Refusal("no-redis", "A worker needs the address of a Redis.", "--redis", "Give the server's.")
    print(f"Workers for {place.redis}: {count}  (Ctrl+C ends them)", flush=True)
    work(place, count)


def _farm(redis: str | None, media: str | None, key: Path | None) -> Place | None:
    """Where the farm is, checked; child processes find it in their environment."""
    said = {REDIS: redis or "", MEDIA: media or "", KEY: str(key or "")}
    place = Place.given({**os.environ, **said})
    if place is not None:
        place.key()
        os.environ |= place.as_environment()
    return place


@app.command()
def restore() -> None:
    """Set a damaged database aside, and put the newest good copy in its place."""
    from izmet.store.backups import restore as put_back

    folder = DataFolder.default().prepare()
    with folder.held():
        copy, aside = put_back(folder)
    print(f"{copy.name} is in use now.")
    if aside is not None:
        print(f"The database that was there is kept as {aside}.")


def _serve(
    folder: DataFolder, port: int, no_token: bool, note: Callable[[str], None], page: str = "/"
) -> None:
    from izmet.web.server import serve as run  # the other commands need no web server

    def started(address: str, opened: str) -> None:
        note(address)
        print(f"Izmet is at {opened}  (data in {folder.root}; Ctrl+C ends it)", flush=True)

    run(folder, port, page, no_token, started)


@contextmanager
def _progress() -> Iterator[Say]:
    """A bar on a terminal, silence in a pipe."""
    bar = Progress(
        TextColumn("{task.description}"),
        BarColumn(),
        TextColumn("{task.completed:.0f}"),
        TimeRemainingColumn(),
        console=errors,
        transient=True,
        disable=not errors.is_terminal,
    )
    with bar:
        task = bar.add_task("starting", total=None)
        yield lambda what, done, total: bar.update(
            task, description=what, completed=done, total=total or None
        )


def main() -> None:
    """Run the command line; a refusal becomes one line and exit code 3."""
    try:
        app()
    except Refusal as refusal:
        errors.print(f"izmet: {refusal}", style="red" if errors.is_terminal else None, soft_wrap=True)
        sys.exit(REFUSED)
    except KeyboardInterrupt:
        sys.exit(130)
    except Exception as error:  # nobody should have to read a trace; whoever wants to can
        if os.environ.get("IZMET_TRACE"):
            raise
        said = f"{type(error).__name__}: {error}".splitlines()[0]
        errors.print(f"izmet: something went wrong ({said}). IZMET_TRACE=1 shows where.", soft_wrap=True)
        sys.exit(FAULT)


if __name__ == "__main__":
    main()
