"""What is filled into the fields of spoken words: opening times, days and names, as they are said in a language."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from ...hours.timetable import Piece, Timetable
from ...numbers.numbering import shown
from ...prompts.fields import field_of
from ...prompts.reading import day_said, locale_of, time_said
from ..questions.kinds import SPOKEN_LONGEST, SpokenFields

LOOKED_AHEAD = timedelta(days=60)
"""How far ahead the next opening is looked for."""


@dataclass(frozen=True, slots=True)
class Phrases:
    """How a language says opening times: closed all day, open all day, from one time to another, two of them in a row, and when
    something opens: today, tomorrow, on a day of the week, on a date, each at a time."""

    closed: str
    always: str
    span: str
    also: str
    today: str
    tomorrow: str
    weekday: str
    date: str


PHRASES = {
    "en": Phrases("closed", "open all day", "{0} to {1}", " and ", "today at {0}", "tomorrow at {0}", "on {1} at {0}", "on {1} at {0}"),
    "es": Phrases("cerrado", "abierto todo el día", "de {0} a {1}", " y ", "hoy a las {0}", "mañana a las {0}", "el {1} a las {0}", "el {1} a las {0}"),
    "fr": Phrases("fermé", "ouvert toute la journée", "de {0} à {1}", " et ", "aujourd’hui à {0}", "demain à {0}", "{1} à {0}", "le {1} à {0}"),
    "de": Phrases("geschlossen", "durchgehend geöffnet", "von {0} bis {1}", " und ", "heute um {0}", "morgen um {0}", "am {1} um {0}", "am {1} um {0}"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Speaking:
    """What is known where words are said: the client's name and country, the moment and the client's time zone, the number dialed (E.164),
    the caller's first name (empty where it is not known), the client's main hours, and its other sets by name."""

    client: str
    country: str
    at: datetime
    zone: ZoneInfo
    number: str = ""
    caller: str = ""
    main: Callable[[], Timetable | None] = lambda: None
    named: Callable[[str], Timetable | None] = lambda _: None

    def values(self, question: SpokenFields) -> tuple[str, ...]:
        """A value for each field of a question."""
        return tuple(self.value(one, question.language)[:SPOKEN_LONGEST] for one in question.fields)

    def value(self, written: str, language: str) -> str:
        """The value of a field as it is written; empty where it is not known."""
        field = field_of(written)
        match field.name:
            case "client":
                return self.client
            case "caller":
                return self.caller
            case "number":
                return shown(self.number, self.country) if self.number else ""
            case "date":
                return day_said(self.at.astimezone(self.zone).date(), self._regional(language))
        table = self.named(field.of) if field.of else self.main()
        if table is None:
            return ""
        language = self._regional(language)
        match field.name:
            case "hours":
                return hours_said(table, self.at, language)
            case "opens":
                return opens_said(table, self.at, language)
            case "holiday":
                return table.at(self.at).name or _exception_today(table, self.at)
        return ""

    def _regional(self, language: str) -> str:
        """A language in the form of the client's country: English as it is said there."""
        return language if "-" in language or language != "en" else f"en-{self.country}"


def _exception_today(table: Timetable, at: datetime) -> str:
    ruling = table.ruling(at.astimezone(table.zone).date())
    return ruling.name if ruling else ""


def hours_said(table: Timetable, at: datetime, language: str) -> str:
    """The opening times of the day that a moment lies in, in words."""
    phrases = phrases_of(language)
    spans = _spans(table.pieces(at.astimezone(table.zone).date()))
    if not spans:
        return phrases.closed
    if spans == [(0, 1440)]:
        return phrases.always
    return phrases.also.join(
        phrases.span.format(_clock(start, language), _clock(end, language)) for start, end in spans
    )


def _spans(pieces: tuple[Piece, ...]) -> list[tuple[int, int]]:
    """The open parts of a day in minutes, those that follow each other as one."""
    found: list[tuple[int, int]] = []
    for piece in pieces:
        if not piece.standing.is_open:
            continue
        if found and found[-1][1] == piece.start:
            found[-1] = (found[-1][0], piece.end)
        else:
            found.append((piece.start, piece.end))
    return found


def opens_said(table: Timetable, at: datetime, language: str) -> str:
    """When the next opening is, in words; empty where there is none in the next 60 days. Where it is open now that is the one after."""
    before = table.at(at).is_open
    for stretch in table.stretches(at, at + LOOKED_AHEAD):
        if stretch.standing.is_open and not before:
            return _when_said(stretch.since.astimezone(table.zone), at.astimezone(table.zone), language)
        before = stretch.standing.is_open
    return ""


def _when_said(opens: datetime, now: datetime, language: str) -> str:
    phrases, ahead = phrases_of(language), (opens.date() - now.date()).days
    clock = _clock(opens.hour * 60 + opens.minute, language)
    if ahead < 2:
        return (phrases.tomorrow if ahead else phrases.today).format(clock)
    if ahead < 7:
        return phrases.weekday.format(clock, locale_of(language).days["format"]["wide"][opens.weekday()])
    return phrases.date.format(clock, day_said(opens.date(), language))


def _clock(minute: int, language: str) -> str:
    return time_said(time(minute // 60 % 24, minute % 60), language)


def phrases_of(language: str) -> Phrases:
    """How a language says opening times; English where it has no words here."""
    return PHRASES.get(language.partition("-")[0], PHRASES["en"])
