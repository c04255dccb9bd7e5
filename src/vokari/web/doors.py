"""What stands before every route: who is signed in, the form's token, and the client a page is about."""

import json
import secrets
from dataclasses import dataclass
from typing import Annotated
from urllib.parse import quote

from fastapi import Depends, Request
from starlette.datastructures import FormData, UploadFile

from ..work import accounts
from ..work.access import Actor
from ..work.accounts import SignedIn
from ..work.house import House, Row

COOKIE = "vokari_sign_in"
LARGEST_FORM = 3_000_000
LARGEST_FIELDS = 8000


class MustSignIn(Exception):
    """Nobody is signed in; `to` is where to go afterwards."""

    def __init__(self, to: str) -> None:
        super().__init__(to)
        self.to = to


class BadForm(Exception):
    """A form without the token of its sign-in, or one that is too large."""

    def __init__(self, sentence: str) -> None:
        super().__init__(sentence)
        self.sentence = sentence


def house_of(request: Request) -> House:
    house: House = request.app.state.house
    return house


def current(request: Request) -> SignedIn:
    """Who is signed in; raises MustSignIn."""
    token = request.cookies.get(COOKIE, "")
    signed = accounts.signed_in(house_of(request), token) if token else None
    if signed is None:
        back = request.url.path if request.method == "GET" else "/"
        raise MustSignIn("/sign-in" + (f"?to={quote(back)}" if back != "/" else ""))
    return signed


Signed = Annotated[SignedIn, Depends(current)]


async def read_form(request: Request) -> FormData:
    """The posted form; too large a body is refused unread."""
    if int(request.headers.get("content-length") or 0) > LARGEST_FORM:
        raise BadForm("The form is too large.")
    return await request.form(max_fields=LARGEST_FIELDS, max_part_size=LARGEST_FORM)


@dataclass(frozen=True, slots=True)
class Posted:
    """A form that was posted by who is signed in."""

    signed: SignedIn
    form: FormData

    @property
    def actor(self) -> Actor:
        return self.signed.actor

    def text(self, name: str, usual: str = "") -> str:
        """A field as text; a file in its place counts as empty."""
        value = self.form.get(name, usual)
        return value if isinstance(value, str) else usual

    def whole(self, name: str) -> int | None:
        """A field as a whole number; None when it is empty or none."""
        text = self.text(name).strip()
        return int(text) if text.isascii() and text.isdigit() and len(text) < 18 else None

    def was(self) -> Row | None:
        """What the form was made of, as it said of itself (`signs.was`); None where it says nothing. Raises BadForm."""
        if not self.text("was"):
            return None
        try:
            found = json.loads(self.text("was"))
        except (ValueError, RecursionError):
            found = None
        if not isinstance(found, dict):
            raise BadForm("The form was changed on its way. Load the page again, then repeat what you did.")
        return found

    def upload(self, name: str) -> UploadFile | None:
        value = self.form.get(name)
        return value if isinstance(value, UploadFile) else None


def posted(request: Request, signed: Signed, form: Annotated[FormData, Depends(read_form)]) -> Posted:
    """The form, once it carries the token of its sign-in."""
    token = form.get("form_token") or request.headers.get("X-Form-Token") or ""
    if not isinstance(token, str) or not secrets.compare_digest(token.encode(), signed.form_token.encode()):
        raise BadForm("This form was opened in another sign-in. Load the page again, then repeat what you did.")
    return Posted(signed, form)


Form = Annotated[Posted, Depends(posted)]
