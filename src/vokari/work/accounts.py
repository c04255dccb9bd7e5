"""Signing in and out."""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError
from sqlalchemy import delete, func, select

from ..store.agency import SignIn, SignInAttempt, User
from .access import ROLES, Actor, Role
from .house import House, Problem

STAYS = timedelta(days=14)
ATTEMPTS = 8
ATTEMPTS_WITHIN = timedelta(minutes=15)

_hasher = PasswordHasher()
_NOBODY = _hasher.hash(secrets.token_hex(8))


@dataclass(frozen=True, slots=True)
class SignedIn:
    """A signed-in browser: who acts, and the token that its forms carry."""

    actor: Actor
    form_token: str


def hash_password(password: str) -> str:
    """The argon2id hash that is stored."""
    return _hasher.hash(password)


def sign_in(house: House, email: str, password: str) -> str | Problem:
    """A new sign-in's secret for the cookie, or why not. Slow on purpose, the same for an unknown address."""
    address = email.strip().lower()[:200]
    with house.begin() as session:
        since = house.now() - ATTEMPTS_WITHIN
        recent = select(func.count()).select_from(SignInAttempt).where(
            SignInAttempt.email == address, SignInAttempt.at > since
        )  # fmt: skip
        if (session.scalar(recent) or 0) >= ATTEMPTS:
            return Problem("", "Too many attempts for this address. Wait a quarter of an hour, then try again.")
        user = session.scalar(select(User).where(User.email == address))
        if not _fits(user.password_hash if user else _NOBODY, password) or user is None:
            session.add(SignInAttempt(email=address, at=house.now()))
            return Problem("password", "The email address and the password do not belong together.")
        token = secrets.token_urlsafe(32)
        session.add(
            SignIn(
                user_id=user.id, token_hash=_digest(token), form_token=secrets.token_urlsafe(24),
                created_at=house.now(), expires_at=house.now() + STAYS,
            )
        )  # fmt: skip
        return token


def signed_in(house: House, token: str) -> SignedIn | None:
    """Whom a cookie's secret stands for, if it still does."""
    with house.begin() as session:
        row = session.execute(
            select(User, SignIn.form_token)
            .join(SignIn, SignIn.user_id == User.id)
            .where(SignIn.token_hash == _digest(token), SignIn.expires_at > house.now())
        ).first()
    if row is None:
        return None
    user, form_token = row
    return SignedIn(Actor(user.id, user.agency_id, role_of(user.role), user.client_id, user.name), form_token)


def sign_out(house: House, token: str) -> None:
    """Ends one sign-in."""
    with house.begin() as session:
        session.execute(delete(SignIn).where(SignIn.token_hash == _digest(token)))


def role_of(word: str) -> Role:
    """A role by its stored word."""
    return next(role for role in ROLES if role == word)


def _fits(stored: str, password: str) -> bool:
    try:
        return _hasher.verify(stored, password)
    except (VerifyMismatchError, InvalidHashError):
        return False


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def actor_by_email(house: House, email: str) -> Actor | None:
    """Whom an email address stands for, at a terminal of the machine itself, where nobody asks for a password."""
    with house.begin() as session:
        user = session.scalar(select(User).where(User.email == email.strip().lower()))
    return Actor(user.id, user.agency_id, role_of(user.role), user.client_id, user.name) if user else None
