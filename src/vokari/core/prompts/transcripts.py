"""What was understood of a recording, compared with what was said: words that are missing, wrong or too many."""

import re

from rapidfuzz.distance import Levenshtein


def words_of(text: str) -> list[str]:
    """The words of a text as they are compared: without case and marks."""
    return re.findall(r"[^\W_]+(?:['’][^\W_]+)*", text.casefold().replace("’", "'"))


def error_rate(said: str, understood: str) -> float:
    """The word error rate: words to replace, take out and put in, for each word that was said (common measure of transcribers). What was
    said is the reference; with nothing said it is 0, or 1 where something was understood."""
    reference, found = words_of(said), words_of(understood)
    if not reference:
        return float(bool(found))
    return float(Levenshtein.distance(reference, found)) / len(reference)
