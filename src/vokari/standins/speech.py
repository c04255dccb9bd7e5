"""Speech by espeak-ng: a voice that truly speaks, in many languages."""

import re
import subprocess
import tempfile
from pathlib import Path

VOICES = {"en-US": "en-us", "en-GB": "en-gb"}
SECONDS = 60


class EspeakSpeech:
    """Makes WAV files of words (16 bits, mono). The same words always sound the same."""

    def speak(self, words: str, language: str) -> bytes:
        """A WAV file of the words. Raises ValueError for a language that has no voice or words that cannot be spoken."""
        voice = VOICES.get(language, language.split("-")[0])
        if not re.fullmatch(r"[a-z]{2,3}(-[a-z]{2})?", voice):
            raise ValueError(f"no voice for {language}")
        with tempfile.TemporaryDirectory() as folder:
            target = Path(folder) / "speech.wav"
            done = subprocess.run(
                ["espeak-ng", "-v", voice, "-s", "150", "-w", str(target), "--stdin"],
                input=words.encode(), capture_output=True, timeout=SECONDS, check=False,
            )  # fmt: skip
            if done.returncode or not target.exists():
                raise ValueError(f"no voice for {language}")
            return target.read_bytes()
