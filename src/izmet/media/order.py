"""When is each picture shown, where its file does not say, or says it wrongly?

Bare streams (H.264, HEVC, MPEG) keep no times, and AVI keeps the order of decoding only:
where pictures are decoded in another order than they are shown, what looks like their
stamps is out of order. Decoders give pictures in order of presentation, so the first
of them is shown at the time of the first packet, the second at that of the second, and
so on. Recordings that were put together byte by byte start their clock again in the
middle; there the time goes on. Both are known only from the start of such a file on:
nobody can seek in it.

Source: OpenDML AVI File Format Extensions 1.02 (a stream's chunks follow each other at
its rate); FFmpeg's libavformat/avformat.h for the flag.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Iterator
from fractions import Fraction

import av

from izmet.media.faults import decoded

NO_TIMES = 0x80
"""AVFMT_NOTIMESTAMPS."""
USUAL_RATE = Fraction(25)
BACK, AHEAD = 1, 3600
"""By how many seconds a stamp is before or after the last one when the file's clock started again."""


def keeps_only_order(container: av.container.InputContainer, stream: av.VideoStream) -> bool:
    """Whether the stamps of a stream's pictures are none."""
    if container.format.flags & NO_TIMES:
        return True
    return container.format.name == "avi" and bool(stream.codec_context.has_b_frames)


def decoded_in_order(
    container: av.container.InputContainer, stream: av.VideoStream
) -> Iterator[av.VideoFrame | av.AudioFrame]:
    """All pictures of a stream that is read from its start on, stamped by their order."""
    context = stream.codec_context
    assert stream.time_base is not None
    rate = context.framerate or stream.average_rate or USUAL_RATE
    length = max(1, round(1 / rate / stream.time_base))
    times: deque[int] = deque()
    due = 0

    def packets() -> Iterator[av.Packet[av.VideoStream]]:
        nonlocal due
        for packet in container.demux(stream):
            if packet.size:
                times.append(due if packet.dts is None else packet.dts)
                due = times[-1] + length
            yield packet

    for frame in decoded(packets()):
        frame.pts = times.popleft() if times else due
        yield frame


class Clock:
    """Pictures whose stamps rise, as a file's clock tells or as it goes on where that starts again.

    Of two pictures with one stamp the first is the one that is found again.

    Attributes:
        restarted: whether it started again so far.
        dropped: how many pictures it passed over, for their stamps did not rise.
    """

    def __init__(self) -> None:
        self.restarted = False
        self.dropped = 0

    def told(self, frames: Iterable[av.VideoFrame]) -> Iterator[av.VideoFrame]:
        """The pictures that come after all before them, with their stamps in this clock."""
        last: int | None = None
        step, shift = 1, 0
        for frame in frames:
            assert frame.pts is not None
            at = frame.pts + shift
            if last is not None:
                gone = (at - last) * (frame.time_base or 0)
                if gone < -BACK or gone > AHEAD:
                    self.restarted = True
                    shift += last + step - at
                    at = last + step
                elif at <= last:
                    self.dropped += 1
                    continue
                step = at - last
            last = frame.pts = at
            yield frame
