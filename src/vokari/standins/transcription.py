"""Transcription by pocketsphinx, with the model that it ships: American English, made for sound of 16,000 samples a second.

Of a good recording it gets most words right, of telephone audio, whose upper half is missing, about half: what it proposes is to be
read by a person before anybody relies on it. docs/measures.md has the word error rates that a test printed.
"""

import numpy
from numpy.typing import NDArray

RATE = 16000


class Transcriber:
    """Understands English words, not always rightly."""

    def words(self, samples: NDArray[numpy.float64], language: str) -> str:
        """What was understood of samples at 16,000 a second between -1 and 1; empty for nothing, and for any language but English."""
        if language.partition("-")[0] != "en" or not samples.size:
            return ""
        from pocketsphinx import Decoder

        decoder = Decoder(samprate=RATE, loglevel="FATAL")
        decoder.start_utt()
        decoder.process_raw((numpy.clip(samples, -1, 1) * 32767).astype("<i2").tobytes(), full_utt=True)
        decoder.end_utt()
        found = decoder.hyp()
        return str(found.hypstr).strip() if found else ""
