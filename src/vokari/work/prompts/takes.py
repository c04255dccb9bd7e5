"""Takes: words that are read, recordings as they come in, and the work that makes telephone audio of them."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ...core.prompts import markup, quality
from ...core.prompts.document import LibraryPrompt
from ...core.prompts.voices import USUAL, Voice, for_language, speaks
from ...formats.audio import shape, sniffing, telephone
from ...store.agency import Client
from ...store.flows import Speech
from ...store.prompts import How, PromptRow, Take
from ..agency.access import Actor, NotFound, note
from ..house import jobs
from ..house.house import House
from ..house.ports import NotSound
from ..house.problems import Problem, Problems
from ..house.views import TakeView
from . import speech
from .library import own, scope

Made = How
"""How a take is made."""
LARGEST = 20_000_000
"""Bytes of the largest recording that is taken."""
KEPT_WORDS = 4000


@dataclass(frozen=True, slots=True)
class Coming:
    """A recording as it comes in: its content and name, the language it is in, how it was made, by whom it is spoken, and from which second
    to which it is wanted (None: without the silence at both ends)."""

    content: bytes
    name: str = ""
    language: str = "en-US"
    how: How = "uploaded"
    spoken_by: str = ""
    begins: float | None = None
    ends: float | None = None
    words: str = ""


def say(
    house: House, actor: Actor, client_id: int | None, prompt_id: int, language: str, words: str, voice: Voice | None = None
) -> int | Problems:  # fmt: skip
    """A take of words that a voice reads (None: the flow's own); gives its id. Words that are there already make none."""
    words = words.strip()
    with house.begin() as session:
        client = scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id, lock=True)
        problems = wrong_words(words) + ([] if voice is None or speaks(voice.name, language) else [_OTHER_LANGUAGE])
        if problems:
            return problems
        return say_within(session, house, actor, row, language, words, voice, client.country if client else "US")


def say_within(
    session: Session, house: House, actor: Actor, row: PromptRow, language: str, words: str, voice: Voice | None, country: str
) -> int:  # fmt: skip
    """As `say`, for a prompt that is locked and words that are checked."""
    latest = _latest(session, row.id, language)
    dumped = voice.model_dump(mode="json") if voice else None
    if latest is not None and latest.how == "read" and (latest.words, latest.voice) == (words, dumped):
        return latest.id
    take = new_take(session, house, row, actor.user_id, language, "read")
    take.words, take.words_are, take.voice, take.state = words, "typed", dumped, "ready"
    _changed(session, house, actor, row, f"wrote take {take.number} of the prompt {row.name}")
    for part, spoken_in, reads in speech.wanted_of(words, language, for_language(voice or USUAL, language)):
        jobs.defer(
            session, "make_speech", words=part, language=spoken_in, voice=reads.model_dump_json(), country=country
        )
    return take.id


_OTHER_LANGUAGE = Problem("voice", "This voice speaks another language: choose one of this language.")


def wrong_words(words: str) -> Problems:
    """What is wrong with words that are to be read."""
    if not words:
        return [Problem("words", "Write what callers are to hear.")]
    if len(words) > KEPT_WORDS:
        return [Problem("words", f"At most {KEPT_WORDS} letters.")]
    read = markup.read(words)
    return [Problem("words", read)] if isinstance(read, str) else []


def bring(house: House, actor: Actor, client_id: int | None, prompt_id: int, coming: Coming) -> int | Problems:
    """Takes a recording in; the worker makes a take of it, whose id this gives. What is no sound by its first bytes is refused at once."""
    with house.begin() as session:
        scope(session, actor, client_id)
        own(session, actor, client_id, prompt_id)
    problems = wrong_file(coming)
    if problems:
        return problems
    file = house.files.put(coming.content, ".sound")
    with house.begin() as session:
        scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id, lock=True)
        take = received(session, house, row, actor.user_id, coming, file)
        _changed(session, house, actor, row, f"brought take {take.number} of the prompt {row.name}")
        return take.id


def wrong_file(coming: Coming) -> Problems:
    """What is wrong with a recording as it came."""
    if len(coming.content) > LARGEST:
        return [Problem("file", "The file is larger than 20 MB.")]
    said = sniffing.problem(coming.name, coming.content[:64])
    if said:
        return [Problem("file", said)]
    if coming.begins is not None and coming.ends is not None and coming.ends - coming.begins < 0.1:
        return [Problem("file", "Nothing is left of it: set its beginning before its end.")]
    return []


def received(session: Session, house: House, row: PromptRow, user_id: int | None, coming: Coming, file: str) -> Take:
    """The take of a recording whose file is kept, as it waits for the worker."""
    take = new_take(session, house, row, user_id, coming.language, coming.how)
    take.words, take.words_are, take.state = coming.words[:KEPT_WORDS], "typed", "coming"
    take.original, take.original_name = file, _plain_name(coming.name)
    take.begins, take.ends, take.spoken_by = coming.begins, coming.ends, " ".join(coming.spoken_by.split())[:80]
    session.flush()
    jobs.defer(session, "make_take", take_id=take.id)
    return take


def _plain_name(name: str) -> str:
    """The name of a file without the folders before it."""
    return name.replace("\\", "/").rsplit("/", 1)[-1].strip()[:120]


def new_take(session: Session, house: House, row: PromptRow, user_id: int | None, language: str, how: How) -> Take:
    number = session.scalar(select(func.max(Take.number)).where(Take.prompt_id == row.id)) or 0
    take = Take(
        agency_id=row.agency_id, prompt_id=row.id, number=number + 1, language=language, how=how, words="", words_are="typed",
        original="", original_name="", sound="", seconds=0.0, waveform=[], warnings=[], state="coming", problem="",
        made_at=house.now(), made_by=user_id, spoken_by="", set_aside=False,
    )  # fmt: skip
    session.add(take)
    session.flush()
    return take


def _latest(session: Session, prompt_id: int, language: str) -> Take | None:
    query = select(Take).where(Take.prompt_id == prompt_id, Take.language == language, Take.set_aside.is_(False))
    return session.scalar(query.order_by(Take.number.desc()).limit(1))


def _changed(session: Session, house: House, actor: Actor, row: PromptRow, words: str) -> None:
    row.changed_at = house.now()
    note(session, house, actor, row.client_id, words)


# the worker's part


def make(house: House, take_id: int) -> None:
    """Makes telephone audio of a recording: decoded, trimmed, brought to one loudness, with its waveform, warnings, and words proposed.
    A recording that cannot be read fails with a sentence, and its file is forgotten."""
    with house.begin() as session:
        take = session.get(Take, take_id)
        if take is None or take.state != "coming":
            return
        prompt = session.get_one(PromptRow, take.prompt_id)
        client = session.get(Client, prompt.client_id) if prompt.client_id else None
        country = client.country if client else "US"
        kind = LibraryPrompt.model_validate(prompt.document).kind
    try:
        wide = shape.trimmed(
            house.decoder.decode(house.files.get(take.original)), take.begins, take.ends, telephone.WIDE
        )
        if wide.size < telephone.WIDE // 20:
            raise NotSound("There is nothing to hear in it.")
    except NotSound as no:
        _failed(house, take_id, no.sentence)
        return
    except KeyError:
        _failed(house, take_id, "The file is gone: send it again.")
        return
    samples = telephone.at_rate(wide, telephone.WIDE)
    measured, levelled = speech.measured(samples), speech.levelled(samples)
    content = telephone.wav(levelled, telephone.law_of(country))
    file = house.files.put(content, ".wav")
    seconds = round(levelled.size / telephone.RATE, 2)
    name = file.removesuffix(".wav")[:40]
    speech.keep(house, Speech(name=name, language=take.language, words="", voice={}, file=file, seconds=seconds))
    proposed = "" if take.words else house.transcriber.words(wide, take.language)
    with house.begin() as session:
        row = session.get_one(Take, take_id, with_for_update=True)
        if row.state != "coming":
            return
        row.sound, row.seconds, row.measured, row.state = name, seconds, asdict(measured), "ready"
        row.waveform, row.warnings = shape.waveform(levelled), quality.warnings(measured, kind)
        if proposed and not row.words:
            row.words, row.words_are = proposed, "proposed"


def _failed(house: House, take_id: int, sentence: str) -> None:
    with house.begin() as session:
        row = session.get_one(Take, take_id, with_for_update=True)
        if row.state != "coming":
            return
        row.state, row.problem, original = "failed", sentence, row.original
        row.original = ""
        others = session.scalar(select(func.count()).select_from(Take).where(Take.original == original))
    if original and not others:
        house.files.forget(original)


# what is done with takes


def of_prompt(session: Session, prompt_id: int) -> Sequence[TakeView]:
    """All takes of a prompt, the newest first."""
    return TakeView.all(session.scalars(select(Take).where(Take.prompt_id == prompt_id).order_by(Take.number.desc())))


def _own_take(
    session: Session, actor: Actor, client_id: int | None, prompt_id: int, take_id: int
) -> tuple[PromptRow, Take]:
    scope(session, actor, client_id, changing=True)
    row = own(session, actor, client_id, prompt_id)
    take = session.get(Take, take_id, with_for_update=True)
    if take is None or take.prompt_id != row.id:
        raise NotFound
    return row, take


def confirm(house: House, actor: Actor, client_id: int | None, prompt_id: int, take_id: int, words: str) -> Problems:
    """The words beside a recording, as somebody has read and heard them."""
    with house.begin() as session:
        row, take = _own_take(session, actor, client_id, prompt_id, take_id)
        if take.how == "read":
            return [Problem("words", "These words are read as they stand: write others as a new take.")]
        words = words.strip()
        if not words or len(words) > KEPT_WORDS:
            return [Problem("words", "Write what is said in it, in at most 4,000 letters.")]
        take.words, take.words_are = words, "confirmed"
        note(session, house, actor, row.client_id, f"confirmed the words of take {take.number} of {row.name}")
        return []


def set_aside(
    house: House, actor: Actor, client_id: int | None, prompt_id: int, take_id: int, *, aside: bool = True
) -> Problems:
    """Sets a take aside, so that drafts play the one before it; or takes it back again. Live flows keep what they play."""
    with house.begin() as session:
        row, take = _own_take(session, actor, client_id, prompt_id, take_id)
        take.set_aside = aside
        row.changed_at = house.now()
        said = "set aside" if aside else "took up again"
        note(session, house, actor, row.client_id, f"{said} take {take.number} of {row.name}")
        return []


def heard(house: House, actor: Actor, client_id: int | None, prompt_id: int, take_id: int) -> None:
    """Somebody has heard a take."""
    with house.begin() as session:
        _, take = _own_take(session, actor, client_id, prompt_id, take_id)
        if take.heard_at is None:
            take.heard_at = house.now()


def one(house: House, actor: Actor, client_id: int | None, prompt_id: int, take_id: int) -> TakeView:
    """A take of a prompt."""
    with house.begin() as session:
        scope(session, actor, client_id)
        return _view(session, own(session, actor, client_id, prompt_id), take_id)


def _view(session: Session, row: PromptRow, take_id: int) -> TakeView:
    take = session.get(Take, take_id)
    if take is None or take.prompt_id != row.id:
        raise NotFound
    return TakeView.of(take)


GIVEN_UP = timedelta(minutes=10)


def give_up(house: House) -> int:
    """Takes of which the worker never made anything, as when it was killed by one again and again: they fail with a sentence."""
    with house.begin() as session:
        late = list(
            session.scalars(select(Take.id).where(Take.state == "coming", Take.made_at < house.now() - GIVEN_UP))
        )
    for one in late:
        _failed(house, one, "It could not be read: save it as a plain WAV or MP3 file, and send it again.")
    return len(late)
