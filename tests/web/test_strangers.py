"""What strangers send: random requests and mutated real forms over the whole route table, with every role and another agency's
ids. Whatever comes gets an answer that is no defect of ours (5xx), with the headers that all pages carry."""

import os
import random
import secrets
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import pytest

from tests.web.conftest import Browser
from tests.web.routes import Ids, filled, forms, last_bulk, pages, routes
from tests.world import World, make_world

SECONDS = float(os.environ.get("VOKARI_FUZZ_SECONDS", "40"))
"""How long the whole of it takes; how much is asked in that time depends on the machine."""
LEAST = 300
SEED = secrets.randbits(32) if os.environ.get("VOKARI_EXAMPLES") == "fresh" else 20261124

ODD = [
    "", " ", "0", "-1", "²", "٣٤", "9" * 19, "9" * 5000, "1e999", "nan", "inf", "9999-12-31", "0001-01-01", "2026-02-30", "2026-W53-7",
    "9999-12-31T23:59:59", "0001-01-01T00:00:00+14:00", "2026-11-24T14:05+99:99", "2026-11-24T14:05:00Z", "<script>alert(1)</script>",
    "'; DROP TABLE calls; --", "a" * 70_000, "+1" + "4" * 70_000, "+1410555014²", "[" * 5000, "{}", "[]", "null", "true", "{client}", "{0.__class__}", "%", "%s",
    "..", "../../etc/passwd", "\\", "\u202eabc", "💥" * 400, "ﬀ", "\t\r\n", "=1+1", "sip:a@b", "mailto:x", "new", "as:x", "open", "0:x", "1:", ":", "Mon-Fri 25-99", "24:00",
    "018f0000-0000-7000-8000-000000000000", "ffffffff-ffff-7fff-bfff-ffffffffffff", "00000000-0000-0000-0000-000000000000", "A\0B",
]  # fmt: skip
IN_PATHS = [
    "0", "-1", "9223372036854775807", "9223372036854775808", "9" * 4500, "x", "%00", "%D9%A3", "%C2%B2", "%2e%2e", "1.5", "1%2F2", "%F0%9F%92%A5", "+1", "new",
    "ffffffff-ffff-7fff-bfff-ffffffffffff", "00000000-0000-7000-8000-000000000000", "018f0000-0000-7000-8000-000000000000", "a" * 3000,
]  # fmt: skip
NAMES = [
    "q", "period", "first", "last", "before", "source", "number", "flow", "sort", "state", "way", "lacks", "row", "exit", "kind", "country", "region", "of", "day", "at",
    "to", "fate", "tests", "live", "mailbox", "city", "time_zone", "caller", "undo", "area_codes", "digits", "pattern", "place", "changed",
]  # fmt: skip
FILES = [
    b"", b"\xff\xfe\x00", b"PK\x03\x04" + b"\0" * 500, b"[" * 50_000, b"BEGIN:VCALENDAR\r\n" * 500, b"BEGIN:VCARD\r\n" * 200, b"%PDF-" + b"x" * 3_000_000,
    b"a,b\r\n" * 5000, b'{"flow": {"name": ' + b"9" * 5000 + b"}}", b"\x89PNG" + b"\0" * 100, b"=1+1\t" * 500,
]  # fmt: skip
UNTOUCHED = {"/sign-out", "/clients/{client_id}/events"}
"""What would end the sign-in of those who ask, or never end."""


@dataclass
class Fuzz:
    """Who asks, what there is, and what was answered."""

    chance: random.Random
    browsers: list[Browser]
    worlds: list[Ids]
    asked: Counter[str] = field(default_factory=Counter)
    broken: list[tuple[str, str, object, int]] = field(default_factory=list)

    def one(self, method: str, pattern: str) -> None:
        browser, ids = self.chance.choice(self.browsers), self.chance.choice(self.worlds)
        path = self.path(ids, pattern)
        headers = {"HX-Request": "true"} if self.chance.random() < 0.3 else {}
        if self.chance.random() < 0.1:
            headers["Cookie"] = self.chance.choice(
                ["vokari_sign_in=x", "vokari_zone=Mars%2FBase", "vokari_browser=" + "y" * 3000]
            )
        sent: object = None
        if method == "GET":
            answer = browser.get(path, headers=headers)
        else:
            sent, files = self.form(browser, ids, pattern)
            answer = browser.submit(path, sent, headers=headers, **({"files": files} if files else {}))
        self.asked[f"{answer.status_code // 100}xx"] += 1
        whole = "X-Request-Id" in answer.headers and "Content-Security-Policy" in answer.headers
        if answer.status_code >= 500 or not whole:
            self.broken.append((method, path[:200], str(sent)[:400], answer.status_code))

    def path(self, ids: Ids, pattern: str) -> str:
        path = pages(ids).get(pattern, pattern)
        for name, value in ids.values.items():
            odd = self.chance.random() < 0.12
            path = path.replace("{" + name + "}", self.chance.choice(IN_PATHS) if odd else str(value))
        if self.chance.random() < 0.5:
            words = [
                (self.chance.choice(NAMES), self.chance.choice(ODD)[:2000]) for _ in range(self.chance.randint(1, 4))
            ]
            query = "&".join(f"{name}={quoted(value)}" for name, value in words)
            path += ("&" if "?" in path else "?") + query
        return path

    def form(self, browser: Browser, ids: Ids, pattern: str) -> tuple[dict[str, Any], dict[str, Any] | None]:
        known = forms(ids).get(pattern, {})
        data = {name: value for name, value in known.items() if name not in ("path", "files", "last_bulk")}
        if known.get("last_bulk"):
            data["entry"] = last_bulk(browser)
        for name in list(data):
            what = self.chance.random()
            if what < 0.08:
                del data[name]
            elif what < 0.25:
                data[name] = self.chance.choice(ODD)
            elif what < 0.3:
                known_values = data[name] if isinstance(data[name], list) else [data[name]]
                data[name] = [*known_values, self.chance.choice(ODD)]
        for _ in range(self.chance.randint(0, 2)):
            data[
                self.chance.choice(
                    [
                        *NAMES,
                        "base",
                        "do",
                        "was",
                        "agreed",
                        "text",
                        "id",
                        "a-1-b",
                        "line-1-on",
                        "branch-0-keys",
                        "choice-x",
                    ]
                )
            ] = self.chance.choice(ODD)
        if pattern == "/account":
            data["old"] = "wrong"
        files = dict(known["files"]) if known.get("files") else None
        if self.chance.random() < (0.7 if files else 0.1):
            files = {"file": (self.chance.choice(["a.csv", "../../x.pdf", "é\n.json", ""]), self.chance.choice(FILES))}
        return data, files


def quoted(value: str) -> str:
    from urllib.parse import quote

    return quote(value, safe="")


@pytest.mark.xdist_group("strangers")
def test_no_request_breaks_anything(
    sign_in: Callable[..., Browser], world: World, record_property: Callable[[str, object], None]
) -> None:
    ids = filled(world, "+14105550142")
    theirs = filled(make_world(world.house, "Other agency", "other.example.com"), "+14105550143")
    browsers = [sign_in(role) for role in ("owner", "specialist", "client_editor", "client_viewer", None)]
    browsers += [browsers[0], browsers[1], sign_in("owner", "other.example.com")]
    fuzz = Fuzz(random.Random(SEED), browsers, [ids, ids, theirs])
    table = [one for one in routes(browsers[0]) if one[1] not in UNTOUCHED]
    ends = time.monotonic() + SECONDS
    rounds = 0
    while time.monotonic() < ends or rounds == 0:
        rounds += 1
        for method, pattern in fuzz.chance.sample(table, len(table)):
            fuzz.one(method, pattern)
    count = sum(fuzz.asked.values())
    print(
        f"seed {SEED}: {len(table)} routes, {count} requests, {len(fuzz.broken)} answers of 5xx; {dict(sorted(fuzz.asked.items()))}"
    )
    assert not fuzz.broken, fuzz.broken[:20]
    assert count >= LEAST
    assert fuzz.asked["2xx"] > count / 10, "much of it is understood"
