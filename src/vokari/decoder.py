"""Sound of any kind read by ffmpeg, within limits of time and memory."""

import re
import subprocess
import tempfile
from pathlib import Path

import numpy

from .formats.audio import sniffing
from .formats.audio.telephone import WIDE, Samples
from .work.house.ports import NotSound

LONGEST = 600
"""Seconds of the longest sound that is taken."""
SECONDS = 60
"""Seconds that reading one may take."""
MEMORY = 1_500_000_000
"""Bytes of address space that reading one may take."""
_DURATION = re.compile(rb"Duration: (\d+):(\d\d):(\d\d(?:\.\d+)?)")
CUT = 0.05
"""Share of what a file says it lasts that may be missing: lengths of some formats are estimates."""


class FfmpegDecoder:
    """Reads sounds by ffmpeg, whose demuxer is named by what the content is, so that no list of other files is ever followed."""

    def decode(self, content: bytes) -> Samples:
        """The samples of a sound at the wide rate. Raises NotSound with a sentence."""
        kind = sniffing.kind_of(content[:64])
        if not kind:
            raise NotSound(sniffing.problem("", content[:64]))
        if not sniffing.is_whole(kind, content):
            raise NotSound("The file breaks off: it was cut short on its way. Send it again.")
        with tempfile.NamedTemporaryFile(prefix="coming-") as file:
            Path(file.name).write_bytes(content)
            done = _run(kind, file.name)
        samples = numpy.frombuffer(done.stdout[: len(done.stdout) // 4 * 4], dtype="<f4").astype(numpy.float64)
        if not samples.size or not numpy.all(numpy.isfinite(samples)):
            raise NotSound("There is no sound in it that can be read.")
        says, lasts = _duration(done.stderr), samples.size / WIDE
        if max(says or 0, lasts) > LONGEST + 0.5:
            raise NotSound("It is longer than ten minutes.")
        if done.returncode or (says is not None and says - lasts > max(1.0, says * CUT)):
            raise NotSound("The file breaks off: it was cut short on its way. Send it again.")
        return samples


def _run(kind: str, path: str) -> "subprocess.CompletedProcess[bytes]":
    command = [
        "prlimit", f"--as={MEMORY}", f"--cpu={SECONDS}", "ffmpeg", "-nostdin", "-hide_banner", "-nostats", "-threads", "1",
        "-protocol_whitelist", "file,pipe", "-f", kind, "-i", path, "-map", "0:a:0", "-vn", "-sn", "-dn", "-t", str(LONGEST + 1),
        "-ac", "1", "-ar", str(WIDE), "-f", "f32le", "pipe:1",
    ]  # fmt: skip
    try:
        done = subprocess.run(command, capture_output=True, timeout=SECONDS, check=False)
    except subprocess.TimeoutExpired as error:
        raise NotSound("It takes too long to read: save it as a plain WAV or MP3 file.") from error
    if done.returncode and not done.stdout:
        raise NotSound("There is no sound in it that can be read.")
    return done


def _duration(said: bytes) -> float | None:
    """What a file says it lasts, in seconds; None for one that does not say."""
    match = _DURATION.search(said)
    return int(match[1]) * 3600 + int(match[2]) * 60 + float(match[3]) if match else None
