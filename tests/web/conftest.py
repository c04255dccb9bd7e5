"""The application over a test's house, with somebody signed in."""

import re
from collections.abc import Callable

import pytest
from starlette.testclient import TestClient

from tests.world import PASSWORD, World
from vokari.settings import Settings
from vokari.web.app import create
from vokari.work.agency.access import Role


class Browser(TestClient):
    """A signed-in client that sends the form token of the page it last saw."""

    form_token = ""

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
