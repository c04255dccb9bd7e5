"""Who signs in at an agency: an owner adds somebody, gives another password, and removes them."""

import secrets
from dataclasses import dataclass, field

from sqlalchemy import delete, func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ...core import mail
from ...store.agency import Agency, ApiToken, Client, User
from ..house.house import House
from ..house.problems import Problem, Problems
from ..house.views import UserView
from . import mailboxes
from .access import ROLES, Actor, NotFound, allow_owner, note
from .accounts import address_of, end_sign_ins, hash_password

ROLE_NAMES = {
    "owner": "owner: everything, and who signs in", "specialist": "specialist: everything for every client",
    "client_editor": "a client’s own: reads its results, changes its hours and people",
    "client_viewer": "a client’s own: reads its results",
}  # fmt: skip
OF_A_CLIENT = ("client_editor", "client_viewer")


@dataclass(frozen=True, slots=True)
class UserForm:
    """What is typed of somebody who is to sign in; `client_id` for the roles that have one client."""

    name: str
    email: str
    role: str
    client_id: int | None = None


@dataclass(frozen=True, slots=True)
class Added:
    """Somebody who can sign in now, and the password for the first time, which is kept nowhere."""

    user: UserView
    password: str = field(repr=False)


def listed(house: House, actor: Actor) -> list[tuple[UserView, str]]:
    """Who signs in, by name, each with the client of the roles that have one."""
    with house.begin() as session:
        allow_owner(actor)
        query = (
            select(User, Client.name)
            .outerjoin(Client, Client.id == User.client_id)
            .where(User.agency_id == actor.agency_id, User.removed_at.is_(None))
            .order_by(func.lower(User.name), User.id)
        )
        return [(UserView.of(user), client or "") for user, client in session.execute(query)]


def add(house: House, actor: Actor, form: UserForm, agreed: str = "") -> Added | Problems:
    """Lets somebody sign in; who was removed comes back under the same address. `agreed` is a mail address that was asked
    about because its domain looks misspelt."""
    allow_owner(actor)
    name, address = " ".join(form.name.split()), address_of(form.email)
    password = secrets.token_urlsafe(12)
    hashed = hash_password(password)
    try:
        with house.begin() as session:
            problems = _problems(session, actor, form, name, address, agreed)
            if problems:
                return problems
            user = session.scalar(select(User).where(User.email == address).with_for_update())
            if user is not None and (user.agency_id != actor.agency_id or user.removed_at is None):
                return [Problem("email", "Somebody signs in with this address already.")]
            user = user or User(agency_id=actor.agency_id, email=address)
            user.name, user.role, user.password_hash, user.removed_at = name, form.role, hashed, None
            user.client_id = form.client_id if form.role in OF_A_CLIENT else None
            session.add(user)
            session.flush()
            note(session, house, actor, None, f"let {name} ({address}) sign in as {form.role.replace('_', ' ')}")
            return Added(UserView.of(user), password)
    except IntegrityError:
        return [Problem("email", "Somebody signs in with this address already.")]


def _problems(session: Session, actor: Actor, form: UserForm, name: str, address: str, agreed: str) -> Problems:
    problems: Problems = []
    if not 1 <= len(name) <= 60:
        problems.append(Problem("name", "A name has 1 to 60 letters."))
    likely = mail.meant(address, mailboxes.domains(session, actor.agency_id))
    if not mail.is_address(address):
        problems.append(Problem("email", f"“{form.email.strip()[:60]}” is no email address."))
    elif likely and address != agreed:
        problems.append(Problem("email", f"Did you mean {likely}? Add again if {address} is right."))
    if form.role not in ROLES:
        problems.append(Problem("role", "Choose what they may do."))
    if form.role in OF_A_CLIENT:
        client = session.get(Client, form.client_id) if form.client_id is not None else None
        if client is None or client.agency_id != actor.agency_id:
            problems.append(Problem("client", "Choose whose results they read."))
    return problems


def new_password(house: House, actor: Actor, user_id: int) -> Added:
    """Gives somebody else another password, for who forgot theirs; all their sign-ins end."""
    allow_owner(actor)
    password = secrets.token_urlsafe(12)
    hashed = hash_password(password)
    with house.begin() as session:
        user = _own(session, actor, user_id)
        user.password_hash = hashed
        end_sign_ins(session, user.id)
        note(session, house, actor, None, f"gave {user.name} another password")
        return Added(UserView.of(user), password)


def remove(house: House, actor: Actor, user_id: int) -> Problems:
    """Lets somebody sign in no more, at once; their API tokens end too. What they did stays under their name."""
    with house.begin() as session:
        allow_owner(actor)
        if user_id == actor.user_id:
            return [Problem("", "You cannot remove yourself: another owner can.")]
        session.get_one(Agency, actor.agency_id, with_for_update=True)
        user = _own(session, actor, user_id)
        if session.get_one(User, actor.user_id, populate_existing=True).removed_at is not None:
            return [Problem("", "You were removed yourself meanwhile.")]
        user.removed_at = house.now()
        end_sign_ins(session, user.id)
        session.execute(delete(ApiToken).where(ApiToken.user_id == user.id))
        note(session, house, actor, None, f"removed {user.name} ({user.email})")
    return []


def _own(session: Session, actor: Actor, user_id: int) -> User:
    user = session.get(User, user_id, with_for_update=True)
    if user is None or user.agency_id != actor.agency_id or user.removed_at is not None:
        raise NotFound
    return user
