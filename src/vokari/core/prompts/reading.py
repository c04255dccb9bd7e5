"""How words are read aloud: an SSML document of them, phone numbers digit by digit, dates and times as they are said."""

import re
from datetime import date, time
from xml.sax.saxutils import escape

import phonenumbers
from babel import Locale, UnknownLocaleError
from babel.dates import format_date, format_time

from . import markup
from .markup import Break, Emphasis, Piece, SaidAs, Words

NAMESPACE = "http://www.w3.org/2001/10/synthesis"
_SENTENCE = re.compile(r"(?<=[.!?…])\s+(?=\S)")
_DIGITS = re.compile(r"(?<![\w+])\+?\(?[0-9](?:[ ().-]{0,2}[0-9]){6,14}(?![\w])")
BETWEEN_GROUPS = 200
"""Milliseconds between two groups of digits of a phone number."""


def ssml(words: str, language: str, pause: float = 0) -> str:
    """The words as an SSML document; mark-up that cannot be read is read as words. `pause` is seconds between sentences."""
    pieces = markup.read(words)
    if isinstance(pieces, str):
        pieces = (Words(words),)
    inside = "".join(_said(one, language, pause) for one in pieces)
    return f'<speak version="1.1" xmlns="{NAMESPACE}" xml:lang="{escape(language)}">{inside}</speak>'


def _said(piece: Piece, language: str, pause: float) -> str:
    match piece:
        case Break():
            return _break(piece.milliseconds)
        case Emphasis():
            inside = "".join(_said(one, language, pause) for one in piece.inside)
            return f'<emphasis level="{piece.level}">{inside}</emphasis>'
        case SaidAs():
            return _said_as(piece, language)
    return _with_numbers(piece.text, language, pause)


def _with_numbers(text: str, language: str, pause: float) -> str:
    """Words with the phone numbers in them digit by digit."""
    found, at = [], 0
    for match in _DIGITS.finditer(text):
        if _is_phone_number(match[0], language.partition("-")[2]):
            found += [_sentences(text[at : match.start()], pause), telephone(match[0])]
            at = match.end()
    found.append(_sentences(text[at:], pause))
    return "".join(found)


def _is_phone_number(text: str, region: str) -> bool:
    """Whether digits are meant as a phone number: as many as one has in the region, the US or the UK, and neither a date nor one large
    number in groups of three."""
    if re.fullmatch(r"[0-9]{4}-[0-9]{2}-[0-9]{2}|[0-9]{1,3}(?: [0-9]{3})+", text):
        return False
    for one in dict.fromkeys((region, "US", "GB")):
        try:
            if phonenumbers.is_possible_number(phonenumbers.parse(text, one or None)):
                return True
        except phonenumbers.NumberParseException:
            continue
    return False


def _sentences(text: str, pause: float) -> str:
    if not pause:
        return escape(text)
    return f" {_break(round(pause * 1000))} ".join(escape(one) for one in _SENTENCE.split(text))


def _break(milliseconds: int) -> str:
    return f'<break time="{milliseconds}ms"/>'


def telephone(number: str) -> str:
    """A phone number as it is said: digit by digit, with a pause between the groups that it is written in."""
    groups = re.findall(r"[0-9]+", number)
    if len(groups) == 1 and len(groups[0]) == 10:
        groups = [groups[0][:3], groups[0][3:6], groups[0][6:]]
    return _break(BETWEEN_GROUPS).join(f" {' '.join(group)} " for group in groups)


def _said_as(piece: SaidAs, language: str) -> str:
    if piece.how == "telephone":
        return telephone(piece.text)
    if piece.how == "digits":
        return " ".join(escape(one) for one in piece.text if not one.isspace())
    try:
        if piece.how == "date":
            return escape(day_said(date.fromisoformat(piece.text), language))
        return escape(time_said(time.fromisoformat(piece.text), language))
    except ValueError:
        return escape(piece.text)


def locale_of(language: str) -> Locale:
    """The forms of a language; English ones where there are none."""
    try:
        return Locale.parse(language.replace("-", "_"))
    except (UnknownLocaleError, ValueError):
        return Locale.parse("en")


def day_said(day: date, language: str) -> str:
    """A day as it is said in a language, in the order of its region: November 24; 24 November; 24 de noviembre."""
    locale = locale_of(language)
    pattern = locale.datetime_skeletons.get("MMMMd")
    return str(format_date(day, pattern.pattern if pattern else "MMMM d", locale=locale))


def time_said(moment: time, language: str) -> str:
    """A time of day as it is said in a language: 2:05 PM; 14:05. A full hour has no minutes where hours are counted to twelve."""
    locale = locale_of(language)
    said = str(format_time(moment, "short", locale=locale)).replace("\u202f", " ")
    return said.replace(":00 ", " ")
