"""The application over a test's house, with somebody signed in."""

import re
from collections.abc import Callable, Iterator
from dataclasses import fields, is_dataclass

import jinja2
import pytest
from httpx import Response
from starlette.testclient import TestClient

from tests.world import PASSWORD, World
from vokari.settings import Settings
from vokari.store.base import Base
from vokari.web.app import create
from vokari.web.pages import Pages
from vokari.work.agency.access import Role
from vokari.work.house.house import House


def mapped(value: object, seen: set[int] | None = None) -> Iterator[Base]:
    """The mapped rows in what a template is given, at any depth."""
    seen = set() if seen is None else seen
    if id(value) in seen or isinstance(value, House | jinja2.Undefined | type | str | bytes | int | float):
        return
    seen.add(id(value))
    if isinstance(value, Base):
        yield value
    elif isinstance(value, dict):
        for one in value.values():
            yield from mapped(one, seen)
    elif isinstance(value, list | tuple | set | frozenset):
        for one in value:
            yield from mapped(one, seen)
    elif is_dataclass(value):
        for field in fields(value):
            yield from mapped(getattr(value, field.name), seen)


@pytest.fixture(autouse=True)
def no_mapped_rows(monkeypatch: pytest.MonkeyPatch) -> None:
    """No mapped row reaches a template, on any page that any test renders."""
    render = Pages._html

    def looked_at(self: Pages, template: str, context: dict[str, object], status: int = 200) -> object:
        found = [type(one).__name__ for one in mapped(context)]
        assert not found, f"{template} is given rows: {sorted(set(found))}"
        return render(self, template, context, status)

    monkeypatch.setattr(Pages, "_html", looked_at)


class Browser(TestClient):
    """A signed-in client that sends the form token of the page it last saw, and reads pages as a browser does: a line end is a
    space, but in a text area."""

    form_token = ""

    def request(self, *args: object, **more: object) -> Response:  # type: ignore[override]
        answer = super().request(*args, **more)  # type: ignore[arg-type]
        if answer.headers.get("content-type", "").startswith("text/html"):
            parts = re.split(r"(<textarea.*?</textarea>)", answer.text, flags=re.DOTALL)
            read = [re.sub(r"\s*\n\s*", " ", part) if n % 2 == 0 else part for n, part in enumerate(parts)]
            answer._text = "".join(read)
            answer._content = answer._text.encode()
        return answer

    def submit(self, path: str, data: dict[str, str] | None = None, **more: object) -> object:
        return self.post(path, data={"form_token": self.form_token, **(data or {})}, **more)


@pytest.fixture
def sign_in(settings: Settings, world: World) -> Callable[..., Browser]:
    app = create(world.house, settings)

    def as_role(role: Role | None, domain: str = "example.com") -> Browser:
        browser = Browser(app, follow_redirects=False, raise_server_exceptions=True)
        if role is not None:
            answer = browser.post("/sign-in", data={"email": f"{role}@{domain}", "password": PASSWORD})
            assert answer.status_code == 303, answer.text
            page = browser.get("/", follow_redirects=True).text
            browser.form_token = re.search(r'name="form_token" value="([^"]+)"', page).group(1)
        return browser

    return as_role
