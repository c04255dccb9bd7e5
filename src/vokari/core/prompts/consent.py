"""Recording: places where everybody on the line must agree to it, and whether words tell of it."""

import re

ALL_PARTIES = (
    "US-CA", "US-CT", "US-DE", "US-FL", "US-IL", "US-MD", "US-MA", "US-MT", "US-NV", "US-NH", "US-PA", "US-WA",
)  # fmt: skip
"""US states usually named as asking for every party's consent (ISO 3166-2). From memory, not legal advice; an agency can change its own."""
CODE = re.compile(r"[A-Z]{2}(?:-[A-Z0-9]{1,3})?")
_TELLS = re.compile(
    r"\b(?:record(?:ed|ing|ings|s)?|taped?|grab\w+|enregistr\w+|aufnehm\w+|aufgenommen|nehmen .{0,40}\bauf\b|aufzeichn\w+|aufgezeichnet)\b",
    re.I,
)


def tells(words: str) -> bool:
    """Whether words say that a call is recorded, in one of the languages that ship."""
    return bool(_TELLS.search(words))


def read(text: str) -> tuple[str, ...] | str:
    """The places of a typed list, as ISO 3166 and 3166-2 codes apart by commas, blanks or lines; or a sentence."""
    found = [one.upper() for one in re.split(r"[\s,;]+", text) if one]
    wrong = next((one for one in found if not CODE.fullmatch(one)), None)
    if wrong is not None:
        return f"“{wrong[:20]}” is no code of a place: write US-MD for Maryland, GB for the United Kingdom."
    return tuple(dict.fromkeys(found))
