"""Signing in and out, and one's own password."""

import hashlib
import secrets
import threading
from dataclasses import dataclass
from datetime import datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError
from sqlalchemy import delete, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from ...store.agency import KnownBrowser, SignIn, User
from ..house import open_pages
from ..house.house import House
from ..house.problems import Problem, Problems
from . import guesses
from .access import ROLES, Actor, Role, note
from .guesses import Counted, HeldUp

STAYS, REMEMBERED = timedelta(days=14), timedelta(days=365)
"""How long a sign-in lasts, and how long a browser is known after its last one."""
SHORTEST, LONGEST = 10, 200
"""Letters of a password."""
AT_ONCE = 4
"""How many passwords are looked at at once: each takes 64 MB (RFC 9106)."""

_hasher = PasswordHasher()
_NOBODY = _hasher.hash(secrets.token_hex(8))
_looking = threading.BoundedSemaphore(AT_ONCE)


@dataclass(frozen=True, slots=True)
class SignedIn:
    """A signed-in browser: who acts, the token that its forms carry, which sign-in it is and when that ends."""

    actor: Actor
    form_token: str
    sign_in_id: int
    expires_at: datetime


@dataclass(frozen=True, slots=True)
class Welcome:
    """A new sign-in: the secret for its cookie, and the one by which the browser is known from now on."""

    token: str
    browser: str


def hash_password(password: str) -> str:
    """The argon2id hash that is stored."""
    return _hasher.hash(password)


def address_of(email: str) -> str:
    """A mail address as it is kept and looked for."""
    return email.strip().lower()[:200]


def count_attempt(house: House, email: str, source: str, browser: str) -> Counted | HeldUp:
    """Counts an attempt before its password is looked at."""
    return guesses.count(house, address_of(email), source[:60], browser[:200])


def look(house: House, attempt: Counted, email: str, password: str, browser: str = "") -> Welcome | Problem:
    """A new sign-in of an attempt that was counted, or why not. Slow on purpose, the same for an unknown address."""
    address = address_of(email)
    with house.begin() as session:
        user = session.scalar(select(User).where(User.email == address, User.removed_at.is_(None)))
    fits = _fits(user.password_hash if user else _NOBODY, password)
    if not fits or user is None:
        return Problem("password", "The email address and the password do not belong together.")
    with house.begin() as session:
        guesses.forget(session, address, attempt.id)
        made = Welcome(secrets.token_urlsafe(32), browser or secrets.token_urlsafe(32))
        _remember(session, house, user.id, made.browser)
        session.add(
            SignIn(
                user_id=user.id, token_hash=_digest(made.token), form_token=secrets.token_urlsafe(24),
                created_at=house.now(), expires_at=house.now() + STAYS,
            )
        )  # fmt: skip
        return made


def sign_in(house: House, email: str, password: str, source: str = "", browser: str = "") -> Welcome | Problem:
    """Counts an attempt and looks at its password at once."""
    attempt = count_attempt(house, email, source, browser)
    if isinstance(attempt, HeldUp):
        return Problem("", attempt.sentence)
    return look(house, attempt, email, password, browser)


def _remember(session: Session, house: House, user_id: int, browser: str) -> None:
    long_unused = KnownBrowser.user_id == user_id, KnownBrowser.used_at < house.now() - REMEMBERED
    session.execute(delete(KnownBrowser).where(*long_unused))
    values = {"user_id": user_id, "token_hash": guesses.hash_of(browser), "used_at": house.now()}
    known = insert(KnownBrowser).values(values)
    session.execute(
        known.on_conflict_do_update(index_elements=["user_id", "token_hash"], set_={"used_at": house.now()})
    )


def signed_in(house: House, token: str) -> SignedIn | None:
    """Whom a cookie's secret stands for, if it still does."""
    with house.begin() as session:
        row = session.execute(
            select(User, SignIn)
            .join(SignIn, SignIn.user_id == User.id)
            .where(SignIn.token_hash == _digest(token), SignIn.expires_at > house.now(), User.removed_at.is_(None))
        ).first()
    if row is None:
        return None
    user, made = row
    actor = Actor(user.id, user.agency_id, role_of(user.role), user.client_id, user.name)
    return SignedIn(actor, made.form_token, made.id, made.expires_at)


def stands(house: House, sign_in_id: int) -> bool:
    """Whether a sign-in has not ended."""
    with house.begin() as session:
        query = select(SignIn.id).where(SignIn.id == sign_in_id, SignIn.expires_at > house.now())
        return session.scalar(query) is not None


def change_password(house: House, signed: SignedIn, old: str, new: str, again: str) -> Problems:
    """Gives oneself another password. Every other sign-in of one's own ends, and no other browser is known any more."""
    actor, problems = signed.actor, password_problems(new, again)
    with house.begin() as session:
        stored = session.get_one(User, actor.user_id).password_hash
    if not _fits(stored, old):
        problems.insert(0, Problem("old", "This is not your password."))
    if problems:
        return problems
    hashed = hash_password(new)
    with house.begin() as session:
        user = session.get_one(User, actor.user_id, with_for_update=True)
        if user.password_hash != stored:
            return [Problem("old", "Your password was changed elsewhere meanwhile.")]
        user.password_hash = hashed
        end_sign_ins(session, user.id, but=signed.sign_in_id)
        note(session, house, actor, None, "changed their own password")
    return []


def password_problems(new: str, again: str) -> Problems:
    """What is wrong with a new password. Length is what counts (NIST SP 800-63B, 5.1.1, from memory)."""
    if not SHORTEST <= len(new) <= LONGEST:
        return [Problem("new", f"A password has {SHORTEST} to {LONGEST} letters.")]
    if len(set(new)) < 4:
        return [Problem("new", "Use more than three different letters.")]
    return [] if new == again else [Problem("again", "The two are not the same.")]


def end_sign_ins(session: Session, user_id: int, but: int = 0) -> None:
    """Ends all sign-ins of a user but one, forgets their browsers, and closes the pages that they have open."""
    ended = delete(SignIn).where(SignIn.user_id == user_id, SignIn.id != but).returning(SignIn.id)
    for sign_in_id in session.scalars(ended).all():
        open_pages.ended(session, sign_in_id)
    session.execute(delete(KnownBrowser).where(KnownBrowser.user_id == user_id))


def sign_out(house: House, token: str) -> None:
    """Ends one sign-in, and closes the pages that are open in it."""
    with house.begin() as session:
        ended = delete(SignIn).where(SignIn.token_hash == _digest(token)).returning(SignIn.id)
        for sign_in_id in session.scalars(ended).all():
            open_pages.ended(session, sign_in_id)


def role_of(word: str) -> Role:
    """A role by its stored word."""
    return next(role for role in ROLES if role == word)


def _fits(stored: str, password: str) -> bool:
    try:
        with _looking:
            return _hasher.verify(stored, password)
    except (VerifyMismatchError, InvalidHashError):
        return False


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def actor_by_email(house: House, email: str) -> Actor | None:
    """Whom an email address stands for, at a terminal of the machine itself, where nobody asks for a password."""
    with house.begin() as session:
        user = session.scalar(select(User).where(User.email == address_of(email), User.removed_at.is_(None)))
    return Actor(user.id, user.agency_id, role_of(user.role), user.client_id, user.name) if user else None
