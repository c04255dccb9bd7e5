"""API tokens: made by a user, shown once, known by their hash, ended by hand."""

import hashlib
import secrets
from collections.abc import Sequence
from datetime import timedelta

from sqlalchemy import select

from ...store.agency import ApiToken, User
from ..house.house import House
from ..house.problems import Problem, Problems
from ..house.views import ApiTokenView
from .access import Actor, NotFound, allow_agency, note
from .accounts import role_of

SCOPES = {"hours:read": "read clients’ hours: what holds, the next changes, cover"}
PREFIX = "vk_"
NOTED_EACH = timedelta(minutes=5)
"""How old the note of a token's last use may be."""


def make(house: House, actor: Actor, name: str, scopes: Sequence[str]) -> tuple[ApiTokenView, str] | Problems:
    """A new token and its secret, which is kept nowhere."""
    allow_agency(actor)
    name = " ".join(name.split())
    problems = []
    if not 1 <= len(name) <= 60:
        problems.append(Problem("name", "A token has a name of 1 to 60 letters."))
    if not scopes or set(scopes) - set(SCOPES):
        problems.append(Problem("scopes", "Choose at least one of the scopes."))
    if problems:
        return problems
    secret = PREFIX + secrets.token_urlsafe(32)
    with house.begin() as session:
        made = ApiToken(
            agency_id=actor.agency_id, user_id=actor.user_id, name=name, scopes=list(dict.fromkeys(scopes)),
            token_hash=_digest(secret), created_at=house.now(),
        )  # fmt: skip
        session.add(made)
        session.flush()
        note(session, house, actor, None, f"made the API token {name}")
        return ApiTokenView.of(made), secret


def listed(house: House, actor: Actor) -> list[tuple[ApiTokenView, str]]:
    """The agency's tokens, each with who made it."""
    with house.begin() as session:
        allow_agency(actor)
        query = select(ApiToken, User.name).join(User, User.id == ApiToken.user_id)
        return [(ApiTokenView.of(token), name) for token, name in session.execute(
            query.where(ApiToken.agency_id == actor.agency_id).order_by(ApiToken.id)
        )]  # fmt: skip


def end(house: House, actor: Actor, token_id: int) -> None:
    """Ends a token at once."""
    with house.begin() as session:
        allow_agency(actor)
        token = session.get(ApiToken, token_id)
        if token is None or token.agency_id != actor.agency_id:
            raise NotFound
        session.delete(token)
        note(session, house, actor, None, f"ended the API token {token.name}")


def actor_of(house: House, secret: str, scope: str) -> Actor | None:
    """Whom a token's secret stands for, if it may do what the scope names: the user who made it."""
    with house.begin() as session:
        row = session.execute(
            select(ApiToken, User)
            .join(User, User.id == ApiToken.user_id)
            .where(ApiToken.token_hash == _digest(secret), User.removed_at.is_(None))
        ).first()
        if row is None or scope not in row[0].scopes:
            return None
        token, user = row
        now = house.now()
        if token.last_used_at is None or now - token.last_used_at > NOTED_EACH:
            token.last_used_at = now
        return Actor(user.id, user.agency_id, role_of(user.role), user.client_id, user.name)


def _digest(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()
