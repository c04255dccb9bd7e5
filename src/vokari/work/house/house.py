"""What every use case works with: the database, the ports, and what a process keeps made ready."""

import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from sqlalchemy import Engine, event
from sqlalchemy.orm import Session

from ...core.flows.running.flow import Flow
from ...core.hours.timetable import Timetable
from ...core.places.whereabouts import Whereabouts
from ...core.prompts.spoken import Spoken
from .kept import ONCE, Kept, committed
from .outside import guarded, transaction
from .ports import (
    PORTS,
    CarrierPort,
    Clock,
    DecoderPort,
    FilesPort,
    OfferedVoice,
    PostPort,
    SpeechPort,
    TranscriberPort,
    WebPort,
)


class _Together(threading.local):
    session: Session | None = None


_together = _Together()


_HELD = "held"


class _OfPage(Session):
    """A session that holds what it has read as long as it lasts; any other does only while somebody uses it."""


@event.listens_for(_OfPage, "loaded_as_persistent")
def _hold(session: Session, row: object) -> None:
    session.info[_HELD].append(row)


@dataclass(frozen=True)
class House:
    """The database and the ports; made once a process."""

    engine: Engine
    clock: Clock
    carrier: CarrierPort
    speech: SpeechPort
    post: PostPort
    files: FilesPort
    web: WebPort
    decoder: DecoderPort
    transcriber: TranscriberPort
    secret: bytes
    prepared: Kept[int, Flow] = field(default_factory=lambda: Kept(2000))
    """Flow versions made ready to run, by id; versions never change, so each process keeps those it has met."""
    linked: Kept[tuple[object, ...], Flow] = field(default_factory=lambda: Kept(2000))
    """Flow versions with the inner flows that were pinned for them, by all their ids."""
    parsed: Kept[tuple[str, int, int], Any] = field(default_factory=lambda: Kept(20_000))
    """People and teams as they were read, by kind, id and revision."""
    sounds: Kept[str, float] = field(default_factory=lambda: Kept(20_000))
    """How many seconds the sound of a text takes, by its name, which follows from the text; of those that are made."""
    takes: Kept[int, Spoken] = field(default_factory=lambda: Kept(20_000))
    """Takes of prompts as they are heard, by id."""
    timetables: Kept[tuple[object, ...], Timetable] = field(default_factory=lambda: Kept(5000))
    """Hours made ready to answer, by set, revision, time zone and revisions of the lists they share."""
    whereabouts: Kept[tuple[object, ...], Whereabouts] = field(default_factory=lambda: Kept(5000))
    """Places made ready to answer, by client and revision."""

    voices: Sequence[OfferedVoice] = field(default=(), init=False)
    """The voices that the speech port has: which these are does not change while it is there."""

    def __post_init__(self) -> None:
        object.__setattr__(self, "voices", self.speech.voices())
        for port in PORTS:
            object.__setattr__(self, port, guarded(getattr(self, port)))

    @contextmanager
    def begin(self) -> Iterator[Session]:
        """One transaction: committed at the end, rolled back when anything is raised. No port may be asked within it. Within
        `together` it is a part of that one."""
        outer = _together.session
        if outer is not None:
            yield outer
            return
        with self._transaction(Session) as session:
            yield session

    @contextmanager
    def _transaction(self, kind: type[Session]) -> Iterator[Session]:
        with transaction(), kind(self.engine, expire_on_commit=False) as session:
            with session.begin():
                yield session
            committed(session)

    @contextmanager
    def together(self) -> Iterator[None]:
        """One transaction for all the use cases that this thread carries out meanwhile: a page that asks several reads what they
        share once, and sees one state of things."""
        if _together.session is not None:
            yield
            return
        with self._transaction(_OfPage) as session:
            session.info.update({ONCE: {}, _HELD: []})
            _together.session = session
            try:
                yield
            finally:
                _together.session = None

    def now(self) -> datetime:
        return self.clock.now()
