"""What stands before every route: who is signed in, the form's token, and the client a page is about."""

import json
import secrets
from base64 import urlsafe_b64decode, urlsafe_b64encode
from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import Annotated, ParamSpec, TypeVar
from urllib.parse import quote

from fastapi import Depends, Request
from starlette.convertors import Convertor, register_url_convertor
from starlette.datastructures import FormData, UploadFile

from ..core import asked
from ..work.agency import accounts
from ..work.agency.access import Actor
from ..work.agency.accounts import SignedIn
from ..work.house.house import House
from ..work.house.problems import Row

Asked = ParamSpec("Asked")
Answer = TypeVar("Answer")

COOKIE = "vokari_sign_in"
LARGEST_FORM, LARGEST_SIGN_IN = 3_000_000, 20_000
"""Bytes of the largest form, and of what is read of somebody who is not signed in yet."""
LARGEST_SOUND = 20_200_000
"""Bytes of the largest form with a recording: 20 MB, and what stands around it."""
LARGEST_FIELDS = 8000


class _Whole(Convertor[int]):
    """Ids in addresses that say so ({list_id:int}): as many digits as the database's have, so that none is too long to read."""

    regex = "[0-9]{1,18}"

    def convert(self, value: str) -> int:
        return int(value)

    def to_string(self, value: int) -> str:
        return str(value)


register_url_convertor("int", _Whole())

Id = asked.Id
"""An id in an address; what is none gives 404, before anything is looked up."""


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
    """The house that the application was made with."""
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
    """The posted form; `bodies.Limited` refuses too large a one while it is read."""
    form = await request.form(max_fields=LARGEST_FIELDS, max_part_size=LARGEST_FORM)
    if any("\x00" in name or (isinstance(value, str) and "\x00" in value) for name, value in form.multi_items()):
        raise BadForm("There is a character in it that cannot be kept.")
    return form


@dataclass(frozen=True, slots=True)
class Posted:
    """A form that was posted by who is signed in."""

    signed: SignedIn
    form: FormData

    @property
    def actor(self) -> Actor:
        """Who acts."""
        return self.signed.actor

    def text(self, name: str, usual: str = "") -> str:
        """A field as text; a file in its place counts as empty."""
        value = self.form.get(name, usual)
        return value if isinstance(value, str) else usual

    def whole(self, name: str) -> int | None:
        """A field as a whole number; None when it is empty or none."""
        return asked.whole(self.text(name))

    def texts(self, name: str) -> list[str]:
        """All fields of a name as text."""
        return [one for one in self.form.getlist(name) if isinstance(one, str) and one]

    def place(self, name: str, index: int, *, known: bool) -> float:
        """Where a row of a list is to stand that says so in a field: before the one that has this number already where it was moved
        up, after it where it was moved down; a new row without a number last."""
        wanted = self.whole(name)
        if wanted is None:
            return index + 1 if known else float("inf")
        return wanted - 0.5 if wanted < index + 1 else wanted + 0.5 if wanted > index + 1 else wanted

    def ids(self, name: str) -> list[int]:
        """The whole numbers among the fields of a name."""
        return asked.wholes(self.form.getlist(name))

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
        """A file that was posted; None where there is none."""
        value = self.form.get(name)
        return value if isinstance(value, UploadFile) else None


def at_once(endpoint: Callable[Asked, Answer]) -> Callable[Asked, Answer]:
    """A page whose use cases share one transaction (`House.together`); it asks no port and takes the request first."""

    @wraps(endpoint)
    def page(*args: Asked.args, **more: Asked.kwargs) -> Answer:
        request = more["request"]
        assert isinstance(request, Request)
        with house_of(request).together():
            return endpoint(*args, **more)

    return page


def masked(token: str) -> str:
    """A form's token as a page shows it, another each time, so that nothing can be told of it by how well pages are compressed
    (CVE-2013-3587)."""
    raw = token.encode()
    mask = secrets.token_bytes(len(raw))
    return urlsafe_b64encode(mask + bytes(a ^ b for a, b in zip(mask, raw, strict=True))).decode()


def _fits(shown: object, token: str) -> bool:
    """Whether a form carries this token, masked."""
    try:
        raw = urlsafe_b64decode(shown) if isinstance(shown, str) else b""
    except ValueError:
        return False
    mask, rest = raw[: len(raw) // 2], raw[len(raw) // 2 :]
    return len(mask) == len(rest) and secrets.compare_digest(
        bytes(a ^ b for a, b in zip(mask, rest, strict=True)), token.encode()
    )


def posted(request: Request, signed: Signed, form: Annotated[FormData, Depends(read_form)]) -> Posted:
    """The form, once it carries the token of its sign-in."""
    token = form.get("form_token") or request.headers.get("X-Form-Token") or ""
    if not _fits(token, signed.form_token):
        raise BadForm("This form was opened in another sign-in. Load the page again, then repeat what you did.")
    return Posted(signed, form)


Form = Annotated[Posted, Depends(posted)]
