"""Guessing at passwords, held up: every attempt is counted before anybody looks at its password.

An attempt comes from a browser that has signed in to this account before, or else from a source (the address it comes from).
Each of these has so many attempts of its own for an account, so that nobody can use up somebody else's. A source has a limit over all
accounts, too. Strangers to an account who come from many sources are answered one after the other, ever more slowly.
"""

import hashlib
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import ColumnElement, delete, func, select, text
from sqlalchemy.orm import Session

from ...store.agency import KnownBrowser, SignInAttempt, User
from ..house.house import House

ATTEMPTS, SOURCE_ATTEMPTS = 8, 60
"""So many attempts of one browser, or of one source at one account; and of one source at all accounts together."""
WITHIN = timedelta(minutes=15)
KEPT = timedelta(days=1)
FIRST_GAP, LONGEST_GAP, LONGEST_WAIT = 1.0, 30.0, 8.0
"""Seconds between two answers to strangers once they have used up the attempts: doubled each time, up to the longest; and how
long an answer is kept waiting at most before it is a refusal."""

_GATE = text("SELECT pg_advisory_xact_lock(hashtext('sign-in'), hashtext(:what))")


@dataclass(frozen=True, slots=True)
class Counted:
    """An attempt that may look at its password after so many seconds."""

    id: int
    wait: float


@dataclass(frozen=True, slots=True)
class HeldUp:
    """Why an attempt may not look at its password."""

    sentence: str


def count(house: House, address: str, source: str, browser: str) -> Counted | HeldUp:
    """Counts an attempt at an account (a mail address in small letters) from a source, by a browser's secret (empty: none)."""
    with house.begin() as session:
        # In one order, so that no two wait for each other.
        for what in sorted({f"account {address}", f"source {source}"}):
            session.execute(_GATE, {"what": what})
        now = house.now()
        session.execute(delete(SignInAttempt).where(SignInAttempt.email == address, SignInAttempt.at < now - KEPT))
        known = knows(session, address, browser)
        own = _recent(session, now, SignInAttempt.email == address, *_of(known, source))
        if own >= ATTEMPTS:
            return HeldUp("Too many attempts for this address. Wait a quarter of an hour, then try again.")
        if not known and _recent(session, now, SignInAttempt.source == source) >= SOURCE_ATTEMPTS:
            return HeldUp("Too many attempts from here. Wait a quarter of an hour, then try again.")
        wait = 0.0 if known else _wait(session, now, address)
        if wait > LONGEST_WAIT:
            return HeldUp("Many try to sign in to this address at the moment. Try again in a minute.")
        made = SignInAttempt(
            email=address, at=now, source=source, browser=known, answered_at=now + timedelta(seconds=wait)
        )
        session.add(made)
        session.flush()
        return Counted(made.id, wait)


def forget(session: Session, address: str, attempt_id: int) -> None:
    """Forgets the attempts of whoever signed in."""
    made = session.get(SignInAttempt, attempt_id)
    if made is not None:
        mine = _of(made.browser, made.source)
        session.execute(delete(SignInAttempt).where(SignInAttempt.email == address, *mine))


def knows(session: Session, address: str, browser: str) -> str:
    """The hash of a browser's secret if this account was signed in to with it before, else empty."""
    hashed = hash_of(browser) if browser else ""
    query = (
        select(KnownBrowser.token_hash)
        .join(User, User.id == KnownBrowser.user_id)
        .where(KnownBrowser.token_hash == hashed, User.email == address)
    )
    return (session.scalar(query) or "") if browser else ""


def hash_of(browser: str) -> str:
    """What is kept of a browser's secret."""
    return hashlib.sha256(browser.encode()).hexdigest()


def _of(browser: str, source: str) -> tuple[ColumnElement[bool], ...]:
    """The attempts of a known browser, or of strangers from a source."""
    return (
        (SignInAttempt.browser == browser,)
        if browser
        else (SignInAttempt.browser == "", SignInAttempt.source == source)
    )


def _recent(session: Session, now: datetime, *where: ColumnElement[bool]) -> int:
    query = select(func.count()).select_from(SignInAttempt).where(SignInAttempt.at > now - WITHIN, *where)
    return session.scalar(query) or 0


def _wait(session: Session, now: datetime, address: str) -> float:
    """How long a stranger to an account waits for the answer: nothing at first, then until the gap after the last answer."""
    strangers = SignInAttempt.email == address, SignInAttempt.browser == "", SignInAttempt.at > now - WITHIN
    found = session.execute(
        select(func.count().label("tries"), func.max(SignInAttempt.answered_at).label("last")).where(*strangers)
    ).one()
    if found.tries < ATTEMPTS:
        return 0.0
    gap: float = min(LONGEST_GAP, FIRST_GAP * 2 ** min(found.tries - ATTEMPTS, 10))
    last: datetime = found.last
    return max(0.0, (last - now).total_seconds() + gap)
