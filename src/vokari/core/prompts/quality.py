"""What a listener would say of a recording: clipped, too quiet, long silence, longer than a caller listens."""

from dataclasses import dataclass

from .kinds import KINDS, LONGEST_HEARD, Kind

LOUDNESS = -18.0
"""LUFS that all prompts are brought to (measure: ITU-R BS.1770, EBU R 128)."""
TRUE_PEAK = -3.0
"""dBTP that no prompt goes over (EBU R 128, tech 3341 for the measure)."""
SHORT = 0.4
"""Seconds under which there is no loudness to measure (one block of BS.1770): such clips are brought to the peak."""
QUIET = -42.0
"""LUFS of an original under which noise comes up with the voice when it is made louder. Common practice, no source."""
LONG_SILENCE = 3.0
"""Seconds of silence that a caller takes for the end. Common practice, no source."""
CLIPPED = 0.001
"""Share of samples at the very top from which on a recording sounds clipped. Common practice, no source."""


@dataclass(frozen=True, slots=True)
class Measured:
    """What was measured of an original: seconds; LUFS, None for one that is too short or silent; its highest true peak in dBTP; the share
    of samples that lie at the top; and the longest silence in seconds within it."""

    seconds: float
    loudness: float | None
    peak: float
    clipped: float
    silence: float


def warnings(measured: Measured, kind: Kind) -> list[str]:
    """What should be looked at before it goes live, each a sentence."""
    found = []
    if measured.clipped >= CLIPPED:
        found.append("It is clipped: record it again, farther from the microphone or with less gain.")
    if measured.loudness is not None and measured.loudness < QUIET:
        found.append("It was very quiet: made louder, its noise is heard too. Record it again, closer.")
    if measured.silence >= LONG_SILENCE:
        found.append(f"There is a silence of {measured.silence:.0f} seconds in it: callers take it for the end.")
    if measured.seconds > LONGEST_HEARD[kind]:
        found.append(
            f"It takes {measured.seconds:.0f} seconds; callers listen to a {KINDS[kind].lower()} for about {LONGEST_HEARD[kind]}."
        )
    return found
