"""Speech by espeak-ng: a voice that truly speaks, in many languages."""

import re
import subprocess
import tempfile
from dataclasses import dataclass
from functools import cache
from pathlib import Path

VOICES = {"en-US": "en-us", "en-GB": "en-gb"}
SECONDS = 60
TIMBRES = {
    "": "deep", "f2": "light", "f3": "warm", "f5": "bright", "m3": "calm", "m7": "firm",
}  # fmt: skip
"""The timbres that are offered of each voice, by their name behind a plus sign."""
_NAME = re.compile(r"[a-z]{2,3}(-[a-z0-9]{2,12}){0,3}(\+[a-zA-Z0-9]{1,12})?")
_LANGUAGE = re.compile(r' xml:lang="[^"]*"')
_LINE = re.compile(r"\s*[0-9]+\s+(\S+)\s+\S+\s+(\S+)\s+(?!mb/|!v/)(\S+)")
"""A line of the list of voices; those of another synthesizer (mb) need its data, variants (!v) are timbres."""


@dataclass(frozen=True, slots=True)
class OfferedVoice:
    """A voice: its name, the language it speaks (BCP 47, in small letters), and what it is called."""

    name: str
    language: str
    called: str


class EspeakSpeech:
    """Makes WAV files (16 bits, mono) of SSML. The same document in the same voice always sounds the same."""

    def speak(self, ssml: str, language: str, voice: str = "", rate: int = 150) -> bytes:
        """A WAV file of an SSML document, read by a voice (empty: the usual one of the language) at so many words a minute. Raises
        ValueError for a language or voice that is none, or words that cannot be spoken."""
        name = voice or VOICES.get(language, language.split("-")[0])
        if not _NAME.fullmatch(name):
            raise ValueError(f"no voice for {language}")
        with tempfile.TemporaryDirectory() as folder:
            target = Path(folder) / "speech.wav"
            done = subprocess.run(
                ["espeak-ng", "-m", "-v", name, "-s", str(rate), "-w", str(target), "--stdin"],
                input=_LANGUAGE.sub("", ssml, count=1).encode(), capture_output=True, timeout=SECONDS, check=False,
            )  # fmt: skip
            if done.returncode or not target.exists():
                raise ValueError(f"no voice for {language}")
            return target.read_bytes()

    def voices(self) -> tuple[OfferedVoice, ...]:
        """The voices there are, each language's own together."""
        return _offered()


@cache
def _offered() -> tuple[OfferedVoice, ...]:
    """Asked of the synthesizer once: what it has installed does not change while it runs. A language is named before its timbres, so
    an accent has a line for each."""
    listed = subprocess.run(["espeak-ng", "--voices"], capture_output=True, text=True, timeout=SECONDS, check=False)
    found: dict[str, OfferedVoice] = {}
    for line in listed.stdout.splitlines()[1:]:
        match = _LINE.match(line)
        if match and _NAME.fullmatch(match[1]):
            accent = match[2].replace("_", " ")
            for timbre, words in TIMBRES.items():
                name = f"{match[1]}+{timbre}" if timbre else match[1]
                found.setdefault(name, OfferedVoice(name, match[1], f"{accent}, {words}"))
    return tuple(sorted(found.values(), key=lambda one: (one.language, one.called)))
