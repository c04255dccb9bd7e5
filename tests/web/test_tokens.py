"""Form tokens: another each time they are shown, good as long as the sign-in, and nothing else is."""

import base64
import re
from collections.abc import Callable

import pytest

from tests.web.conftest import Browser


def shown(browser: Browser) -> str:
    found = re.search(r'name="form_token" value="([^"]+)"', browser.get("/").text)
    assert found
    return found.group(1)


def unmasked(token: str) -> str:
    raw = base64.urlsafe_b64decode(token)
    mask, rest = raw[: len(raw) // 2], raw[len(raw) // 2 :]
    return bytes(a ^ b for a, b in zip(mask, rest, strict=True)).decode()


def saves(browser: Browser, token: str) -> int:
    """The answer to a form with this token."""
    return browser.post("/account", data={"form_token": token, "old": "x", "new": "y", "again": "y"}).status_code


def test_every_page_shows_another_token_and_each_is_good(sign_in: Callable[..., Browser]) -> None:
    browser = sign_in("specialist")
    first, second = shown(browser), shown(browser)
    assert first != second
    assert unmasked(first) == unmasked(second)
    assert [saves(browser, one) for one in (first, second, first)] == [422, 422, 422]


@pytest.mark.parametrize("other", ["", "x", "ö", "====", "AAAA", "bare", "cut", "of another"])
def test_what_is_no_token_of_this_sign_in_is_refused(sign_in: Callable[..., Browser], other: str) -> None:
    browser = sign_in("specialist")
    good = shown(browser)
    token = {"bare": unmasked(good), "cut": good[:-8], "of another": sign_in("owner").form_token}.get(other, other)
    assert saves(browser, token) == 400


def test_pages_are_compressed_for_whoever_takes_them_so(sign_in: Callable[..., Browser]) -> None:
    browser = sign_in("specialist")
    page = browser.get("/", headers={"Accept-Encoding": "gzip"})
    assert (page.headers["content-encoding"], "Accept-Encoding" in page.headers["vary"]) == ("gzip", True)
    assert "content-encoding" not in browser.get("/", headers={"Accept-Encoding": "identity"}).headers
