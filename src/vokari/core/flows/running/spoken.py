"""What the program itself says to a caller, in the language of the call: their place in a line, and who they are asked."""

from collections.abc import Callable
from math import ceil

Said = tuple[str, Callable[[int], str], str, Callable[[int], str]]


_WORDS: dict[str, Said] = {
    "en": (
        "You are next in line.", lambda place: f"You are number {place} in line.",
        "The wait is about a minute.", lambda minutes: f"The wait is about {minutes} minutes.",
    ),
    "es": (
        "Es usted la siguiente persona.", lambda place: f"Ocupa usted el lugar {place} en la espera.",
        "La espera es de un minuto, más o menos.", lambda minutes: f"La espera es de unos {minutes} minutos.",
    ),
    "fr": (
        "Vous êtes la prochaine personne.", lambda place: f"Vous êtes en position {place}.",
        "L’attente est d’environ une minute.", lambda minutes: f"L’attente est d’environ {minutes} minutes.",
    ),
    "de": (
        "Sie sind als Nächstes an der Reihe.", lambda place: f"Sie sind an Stelle {place}.",
        "Die Wartezeit beträgt etwa eine Minute.", lambda minutes: f"Die Wartezeit beträgt etwa {minutes} Minuten.",
    ),
}  # fmt: skip


def standing(language: str, place: int, seconds: int) -> str:
    """The sentences for a place in line (0: not said) and a wait in seconds (0: not known or not said), rounded up to
    whole minutes. A language without words of its own is English."""
    first, at, minute, many = _WORDS.get(language.split("-")[0], _WORDS["en"])
    said = [first if place == 1 else at(place)] if place else []
    if seconds:
        said.append(minute if seconds <= 60 else many(ceil(seconds / 60)))
    return " ".join(said)


_MINUTES = {
    "en": ("a minute", "minutes"),
    "es": ("un minuto", "minutos"),
    "fr": ("une minute", "minutes"),
    "de": ("eine Minute", "Minuten"),
}


def minutes(language: str, seconds: int) -> str:
    """A wait in whole minutes, rounded up, within a sentence; empty where it is not known."""
    one, several = _MINUTES.get(language.split("-")[0], _MINUTES["en"])
    return "" if not seconds else one if seconds <= 60 else f"{ceil(seconds / 60)} {several}"


_NAME_REQUESTS = {
    "en": "Please say your name after the tone.", "es": "Diga su nombre después de la señal, por favor.",
    "fr": "Dites votre nom après le signal, s’il vous plaît.", "de": "Bitte sagen Sie nach dem Ton Ihren Namen.",
}  # fmt: skip


def name_request(language: str) -> str:
    """The words that ask a caller for a name."""
    return _NAME_REQUESTS.get(language.split("-")[0], _NAME_REQUESTS["en"])
