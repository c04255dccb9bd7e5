"""Pages of hours: gestures on the painted week, forms of exceptions, files; words beside the field, nothing half saved."""

import html
import re
from collections.abc import Callable

import pytest

from tests.hours import closed, week
from tests.web.conftest import Browser
from tests.world import World
from vokari.core.hours.document import Hours, OneOff, PublicHolidays, Season
from vokari.core.hours.typed import read_week, write_week
from vokari.store.hours import HoursSet
from vokari.work.hours import days, sets, shared_days, switches
from vokari.work.house.views import ExceptionListView, HoursSetView

HTMX = {"HX-Request": "true"}


@pytest.fixture
def browser(sign_in: Callable[..., Browser]) -> Browser:
    return sign_in("specialist")


@pytest.fixture
def opening(world: World) -> HoursSet:
    made = sets.create(world.house, world.actor, world.client.id, "Opening times", "client")
    assert isinstance(made, HoursSetView)
    periods = [("desk", "Front desk"), ("shop", "Workshop")]
    drawn = week(desk="Mon-Fri 9-17", shop="Sat 9-13")
    done = sets.set_week(world.house, world.actor, world.client.id, made.id, periods, drawn, None)
    assert not isinstance(done, list)
    return done.set


def stored(world: World, one: HoursSet) -> Hours:
    return sets.opened(world.house, world.actor, world.client.id, one.id).hours


class Painter:
    """The painter's form as a browser would send it: what the last answer held, with a gesture added."""

    def __init__(self, browser: Browser, at: str) -> None:
        self.browser, self.at = browser, at
        self.text = str(browser.get(at).text)

    @property
    def fields(self) -> dict[str, str]:
        found = {}
        for tag in re.findall(r"<input[^>]*>", self.text[self.text.index('id="painter"') :]):
            name, value = re.search(r'name="([^"]+)"', tag), re.search(r'value="([^"]*)"', tag)
            if name and ('type="radio"' not in tag or "checked" in tag) and 'type="checkbox"' not in tag:
                found[name[1]] = html.unescape(value[1] if value else "")
        return found

    def __call__(self, do: str, **values: object) -> "Painter":
        answer = self.browser.submit(
            f"{self.at}/paint", {**self.fields, "do": do, **{k: str(v) for k, v in values.items()}}, headers=HTMX
        )
        assert answer.status_code == 200, answer.text
        self.text = answer.text
        return self

    @property
    def texts(self) -> dict[str, str]:
        return {name[2:]: value for name, value in self.fields.items() if name.startswith("p-")}


@pytest.fixture
def painter(browser: Browser, world: World, opening: HoursSet) -> Painter:
    return Painter(browser, f"/clients/{world.client.id}/hours/{opening.id}")


def test_gestures_paint_move_stretch_cut_and_are_taken_back(painter: Painter, world: World, opening: HoursSet) -> None:
    start = painter.texts
    assert start == {"desk": "Mon-Fri 09:00-17:00", "shop": "Sat 09:00-13:00"}
    painter("paint", brush="shop", day=0, start=720, end=780)
    assert painter.texts == {
        "desk": "Mon 09:00-12:00, 13:00-17:00; Tue-Fri 09:00-17:00", "shop": "Mon 12:00-13:00; Sat 09:00-13:00"
    }  # fmt: skip
    painter("move", day=5, period="shop", start=540, end=780, to_day=6, to_start=600, to_end=900)
    assert painter.texts["shop"] == "Mon 12:00-13:00; Sun 10:00-15:00"
    painter("paint", brush="closed", day=4, start=900, end=1440)
    assert painter.texts["desk"] == "Mon 09:00-12:00, 13:00-17:00; Tue-Thu 09:00-17:00; Fri 09:00-15:00"
    painter("remove", day=6, period="shop", start=600, end=900)
    assert painter.texts["shop"] == "Mon 12:00-13:00"
    for _ in range(4):
        painter("undo")
    assert painter.texts == start
    painter("redo")
    assert painter.texts["shop"] == "Mon 12:00-13:00; Sat 09:00-13:00"
    assert write_week(stored(world, opening).week) == "Mon-Fri 09:00-17:00; Sat 09:00-13:00", "nothing is saved yet"


def test_a_day_is_copied_and_usual_weeks_are_proposed(painter: Painter) -> None:
    painter("paint", brush="desk", day=0, start=420, end=540)
    painter("copy", **{"from": 0, "to": 5})
    assert painter.texts["desk"] == "Mon, Sat 07:00-17:00; Tue-Fri 09:00-17:00"
    assert painter.texts["shop"] == ""
    offered = re.findall(
        r'<option value="([^"]*)">', re.search(r'<datalist id="usual-weeks">.*?</datalist>', painter.text, re.S)[0]
    )
    assert offered
    assert not [one for one in offered if isinstance(read_week(one, "shop"), str)], "each can be taken as it stands"


def test_like_another_set_takes_its_periods_by_name(painter: Painter, world: World, opening: HoursSet) -> None:
    other = sets.create(world.house, world.actor, world.client.id, "Other", "client")
    assert isinstance(other, HoursSetView)
    done = sets.set_week(
        world.house, world.actor, world.client.id, other.id, [("a", "WORKSHOP"), ("b", "Night")],
        week(a="Sun 8-12", b="Daily 22-06:00"), None,
    )  # fmt: skip
    assert not isinstance(done, list)
    painter("like", like=other.id)
    fields = painter.fields
    assert [fields[f"name-{key}"] for key in fields["order"].split(",")] == ["Front desk", "Workshop", "Night"]
    assert list(painter.texts.values()) == ["", "Sun 08:00-12:00", "Daily 22:00-06:00"]


def test_typed_text_is_read_back_and_what_is_not_understood_stays(painter: Painter) -> None:
    painter("read", **{"p-desk": "mon-thu 7.30am to noon, 1-4pm"})
    assert "read as Mon-Thu 07:30-12:00, 13:00-16:00" in painter.text
    painter("read", **{"p-desk": "Mon 25-26"})
    assert painter.texts["desk"] == "Mon 25-26"
    assert "25” is no time" in painter.text
    painter("paint", brush="shop", day=6, start=600, end=660)
    assert painter.texts == {"desk": "Mon 25-26", "shop": "Sat 09:00-13:00; Sun 10:00-11:00"}
    painter("undo")("undo")("undo")
    assert painter.texts["desk"] == "Mon-Fri 09:00-17:00"


def test_periods_are_added_named_and_dropped(
    painter: Painter, browser: Browser, world: World, opening: HoursSet
) -> None:
    painter("add")
    added = painter.fields["order"].split(",")[2]
    painter("read", **{f"name-{added}": "Evening line", f"p-{added}": "Mon-Fri 18-22"})
    painter("drop", period="shop")
    saved = browser.submit(f"{painter.at}/week", painter.fields)
    assert saved.status_code == 303
    one = stored(world, opening)
    assert [(period.id, period.name) for period in one.periods] == [("desk", "Front desk"), (added, "Evening line")]
    assert write_week(one.week) == "Mon-Fri 09:00-17:00, 18:00-22:00"


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"p-shop": "Mon 16-18"}, "Front desk and Workshop overlap on Mon from 16:00."),
        ({"p-desk": "Mon 09:00-09:00"}, "has no length"),
        ({"p-desk": "Someday 9-12"}, "is no day of the week"),
        ({"name-desk": ""}, "A period has a name of 1 to 60 letters."),
        ({"name-shop": "front DESK"}, "Two periods have the same name."),
        ({"p-desk": "x" * 3000}, "This is too long"),
        ({"base": "0"}, "These hours were changed meanwhile"),
    ],
)
def test_a_week_that_cannot_be_saved_is_shown_again_with_what_was_typed(
    painter: Painter, browser: Browser, world: World, opening: HoursSet, fields: dict[str, str], says: str
) -> None:
    before = stored(world, opening)
    answer = browser.submit(f"{painter.at}/week", {**painter.fields, **fields})
    assert answer.status_code == 422
    assert says in html.unescape(answer.text)
    for name, value in fields.items():
        assert name == "base" or html.escape(value) in answer.text
    assert stored(world, opening) == before


@pytest.mark.parametrize(
    "junk",
    [
        {"past": "{", "future": "[[1]]", "last": "nonsense"}, {"order": ""}, {"order": "a,a,a" * 200}, {"brush": "nobody"},
        {"do": "paint", "day": "99999999", "start": "-5", "end": "x"}, {"do": "move", "day": "1", "start": "5", "end": "4"},
        {"do": "paint", "day": "6", "start": "-2000", "end": "9000"}, {"do": "copy", "from": "44", "to": "8"}, {"snap": "x"},
    ],
)  # fmt: skip
def test_a_form_that_nobody_sends_changes_nothing_and_breaks_nothing(painter: Painter, junk: dict[str, str]) -> None:
    answer = painter.browser.submit(f"{painter.at}/paint", {**painter.fields, **junk}, headers=HTMX)
    assert answer.status_code == 200


# exceptions


def post(browser: Browser, world: World, one: HoursSet, path: str, **fields: str) -> tuple[int, str]:
    answer = browser.submit(f"/clients/{world.client.id}/hours/{one.id}{path}", fields)
    return answer.status_code, html.unescape(answer.text)


def test_days_are_closed_in_short_and_in_full(browser: Browser, world: World, opening: HoursSet) -> None:
    assert post(browser, world, opening, "/exceptions", do="add", first="2026-12-24", name="Christmas")[0] == 303
    status, _ = post(
        browser, world, opening, "/exceptions/new", kind="days", name="Short days", first="2026-12-30", last="2026-12-31",
        times="9-12; Workshop 13-15", every_year="1", cuts="1",
    )  # fmt: skip
    assert status == 303
    first, second = stored(world, opening).exceptions
    assert isinstance(first, OneOff)
    assert isinstance(second, OneOff)
    assert (first.name, first.spans) == ("Christmas", ())
    assert [(span.period, span.start, span.end) for span in second.spans] == [("desk", 540, 720), ("shop", 780, 900)]
    assert (second.every_year, second.cuts, second.last.day) == (True, True, 31)
    page = browser.get(f"/clients/{world.client.id}/hours/{opening.id}/exceptions/{second.id}").text
    assert 'value="09:00-12:00; Workshop 13:00-15:00"' in page
    assert (
        post(browser, world, opening, f"/exceptions/{second.id}", kind="days", first="2026-12-30", name="One day")[0]
        == 303
    )
    assert [one.name for one in stored(world, opening).exceptions] == ["Christmas", "One day"]
    assert post(browser, world, opening, "/exceptions", do="remove", exception=first.id)[0] == 303
    assert [one.name for one in stored(world, opening).exceptions] == ["One day"]


JUNE = {"kind": "season", "first": "2027-06-01", "last": "2027-06-30"}


@pytest.mark.parametrize(
    ("path", "fields", "says"),
    [
        ("/exceptions", {"do": "add", "first": ""}, "Choose the day."),
        ("/exceptions", {"do": "add", "first": "2027-02-29"}, "2027 has no 29 February."),
        ("/exceptions", {"do": "add", "first": "12/24/2026"}, "“12/24/2026” is no day."),
        ("/exceptions", {"do": "add", "first": "9999-12-24"}, "is no day"),
        ("/exceptions", {"do": "add", "first": "2026-12-24", "last": "2026-12-23"}, "It ends before it starts."),
        ("/exceptions", {"do": "add", "first": "2026-12-24", "times": "09:00-09:00"}, "has no length"),
        ("/exceptions", {"do": "add", "first": "2026-12-24", "times": "9-12; Workshop 11-13"}, "overlap from 11:00"),
        ("/exceptions", {"do": "add", "first": "2026-12-24", "times": "Garage 9-12"}, "no period of this set"),
        ("/exceptions/new", {"kind": "days", "first": "2026-01-01", "last": "2027-06-01", "every_year": "1"}, "longer than the year"),
        ("/exceptions/new", {"kind": "season", "first": "2027-08-31", "last": "2027-06-01", "order": "desk"}, "ends before it starts"),
        ("/exceptions/new", {**JUNE, "order": "desk,shop", "p-desk": "Mon 9-12", "p-shop": "Mon 11-13"}, "overlap on Mon"),
        ("/exceptions/new", {**JUNE, "order": "desk", "p-desk": "Mon 9"}, "is no interval"),
        ("/exceptions/new", {"kind": "holidays", "country": "QZ", "count": "0"}, "There is no country QZ"),
        ("/exceptions/new", {"kind": "holidays", "country": "US", "region": "BAY", "count": "0"}, "has no region BAY"),
        ("/exceptions/new", {"kind": "holidays", "country": "US", "count": "0"}, "Pick at least one holiday"),
        ("/exceptions/new", {"kind": "holidays", "country": "US", "count": "1", "pick-0": "1", "holiday-0": "Labor Day", "times-0": "ten"}, "begins with no time"),
        ("/exceptions/new", {"kind": "party"}, "Choose what kind of exception"),
        ("/month", {"do": "close", "day": "2027-02-29"}, "Choose a day."),
        ("/month", {"do": "times", "day": "2027-02-28", "times": "9 to x"}, "is no time"),
        ("/calendar", {"do": "preview", "text": ""}, "Choose a file, or paste its text."),
        ("/calendar", {"do": "preview", "text": "BEGIN:VCALENDAR"}, "no iCalendar file"),
        ("/calendar", {"do": "apply", "text": "{", "mode": "replace"}, "not JSON"),
        ("/settings/details", {"name": "Opening times", "time_zone": "Mars/Base"}, "no such time zone"),
        ("/periods/desk", {"becomes": "p_none"}, "Choose another period"),
    ],
)  # fmt: skip
def test_what_is_typed_wrong_gets_words_and_nothing_is_saved(
    browser: Browser, world: World, opening: HoursSet, path: str, fields: dict[str, str], says: str
) -> None:
    before = stored(world, opening)
    status, text = post(browser, world, opening, path, **fields)
    assert status == 422
    assert says in text
    assert stored(world, opening) == before


def test_a_season_is_painted_like_the_week(browser: Browser, world: World, opening: HoursSet) -> None:
    fields = {
        "order": "desk,shop",
        "name-desk": "Front desk",
        "name-shop": "Workshop",
        "fixed": "1",
        "p-desk": "Mon-Sat 6-14",
    }
    dates = {"kind": "season", "name": "Summer", "first": "2027-06-01", "last": "2027-08-31", "on_holidays": "1"}
    assert post(browser, world, opening, "/exceptions/new", **fields, **dates)[0] == 303
    made = stored(world, opening).exceptions[0]
    assert isinstance(made, Season)
    assert (write_week(made.week), made.on_holidays) == ("Mon-Sat 06:00-14:00", True)
    page = browser.get(f"/clients/{world.client.id}/hours/{opening.id}/exceptions/{made.id}").text
    assert "Mon-Sat 06:00-14:00" in page
    assert "Add a period" not in page


def test_holidays_are_picked_for_a_place_and_counted_as_looked_at(
    browser: Browser, world: World, opening: HoursSet
) -> None:
    offered = html.unescape(browser.get("/exceptions/holidays?country=US&region=ME", headers=HTMX).text)
    assert "Patriots' Day" in offered
    assert "Patriots' Day" not in html.unescape(browser.get("/exceptions/holidays?country=US", headers=HTMX).text)
    assert "Choose a country" in browser.get("/exceptions/holidays?country=QZ&region=%00", headers=HTMX).text
    fields = {
        "kind": "holidays", "country": "US", "region": "ME", "count": "2", "observed": "1", "pick-0": "1",
        "holiday-0": "Patriots' Day", "pick-1": "1", "holiday-1": "Thanksgiving Day", "times-1": "10-14",
    }  # fmt: skip
    assert post(browser, world, opening, "/exceptions/new", **fields)[0] == 303
    made = stored(world, opening).exceptions[0]
    assert isinstance(made, PublicHolidays)
    assert (made.name, made.seen_until) == ("Holidays of United States, Maine", 2027)
    assert [(pick.name, len(pick.spans)) for pick in made.picked] == [("Patriots' Day", 0), ("Thanksgiving Day", 1)]


def test_the_month_says_what_holds_and_closes_a_day(browser: Browser, world: World, opening: HoursSet) -> None:
    page = f"/clients/{world.client.id}/hours/{opening.id}/month"
    assert "December 2026" in browser.get(f"{page}?of=2026-12").text
    for odd in ("?of=2026-13", "?of=x&day=y", "?day=2026-12-24", "?of=0001-01"):
        assert browser.get(page + odd).status_code == 200
    assert post(browser, world, opening, "/month", do="close", day="2026-12-01", name="Outing")[0] == 303
    assert "Outing" in browser.get(f"{page}?of=2026-12").text
    assert post(browser, world, opening, "/month", do="usual", day="2026-12-01")[0] == 303
    assert stored(world, opening).exceptions == ()


# shared lists, switches, files, tokens


def test_a_shared_list_says_whom_a_change_reached_and_puts_back_what_was_taken_out(
    browser: Browser, world: World, opening: HoursSet
) -> None:
    made = browser.submit("/exceptions", {"name": "Closed days"})
    path = made.headers["location"]
    assert browser.submit("/exceptions", {"name": "closed days"}).status_code == 422
    assert post(browser, world, opening, "/exceptions", do="share", list=path.rsplit("/", 1)[1])[0] == 303
    kept = browser.submit(f"{path}/new", {"kind": "days", "name": "Regatta", "first": "2027-06-12"})
    assert "Saved. It reaches 1 client: Brightwater Boatyard." in kept.text
    ident = sets.opened(world.house, world.actor, world.client.id, opening.id).table.exceptions[0].id.split("_", 1)[1]
    gone = browser.submit(path, {"do": "remove", "exception": ident})
    assert "Regatta was taken out. It reaches 1 client" in gone.text
    removed = html.unescape(re.search(r'name="removed" value="([^"]+)"', gone.text)[1])
    assert browser.submit(path, {"do": "put_back", "removed": "[]"}).status_code == 422
    browser.submit(path, {"do": "put_back", "removed": removed})
    assert "Regatta" in browser.get(path).text
    refused = browser.submit(path, {"do": "remove_list"})
    assert refused.status_code == 422
    assert "shares this list" in refused.text
    bad = browser.submit(f"{path}/new", {"kind": "days", "first": "2027-02-29", "name": "Leap"})
    assert bad.status_code == 422
    assert 'value="Leap"' in bad.text


def test_a_season_of_a_shared_list_is_of_each_sets_first_period(
    browser: Browser, world: World, opening: HoursSet
) -> None:
    made = shared_days.name_list(world.house, world.actor, None, "Seasons")
    assert isinstance(made, ExceptionListView)
    page = Painter(browser, f"/exceptions/{made.id}/new?kind=season")
    painted = browser.submit(
        "/exceptions/paint", {**page.fields, "p-first": "Mon-Fri 9-17", "do": "copy"}, headers=HTMX
    )
    assert "Mon-Fri 09:00-17:00" in painted.text
    form = {**page.fields, "kind": "season", "first": "2027-06-01", "last": "2027-06-30", "p-first": "Mon-Fri 9-17"}
    assert browser.submit(f"/exceptions/{made.id}/new", form).status_code == 200
    assert post(browser, world, opening, "/exceptions", do="share", list=str(made.id))[0] == 303
    table = sets.opened(world.house, world.actor, world.client.id, opening.id).table
    assert {span.period for span in table.spans_on(closed("2027-06-02").first)} == {"desk"}


def test_switches_stand_on_every_page_of_the_client(browser: Browser, world: World, opening: HoursSet) -> None:
    path = f"/clients/{world.client.id}/hours/switch"
    refused = browser.submit(path, {"kind": "divert", "until": "nine", "phone": "12"})
    assert refused.status_code == 422
    assert "too few digits" in refused.text
    assert 'value="12"' in refused.text
    assert browser.submit(path, {"kind": "open", "until": "tonight", "period": f"{opening.id}:desk"}).status_code == 303
    page = browser.get(f"/clients/{world.client.id}").text
    assert "Front desk open until tomorrow 00:00" in page
    ident = re.search(r'name="switch" value="(\d+)"', page)[1]
    assert browser.submit(f"{path}/end", {"switch": ident}).status_code == 303
    assert switches.top_line(world.house, world.actor, world.client.id).switches == []


def test_the_readers_own_time_stands_beside_the_clients(browser: Browser, world: World, opening: HoursSet) -> None:
    page = f"/clients/{world.client.id}/hours/{opening.id}"
    assert "In your time" not in browser.get(page).text
    browser.cookies.set("vokari_zone", "Europe%2FLondon")
    text = browser.get(page).text
    assert "In your time: Front desk open, closes 22:00" in text
    assert "Tue 17:00 for you" in text
    for odd in ("Mars%2FBase", "..%2F..%2Fetc", "%00", "x" * 500):
        browser.cookies.set("vokari_zone", odd)
        assert browser.get(page).status_code == 200


def test_a_calendar_is_read_shown_and_taken_over(browser: Browser, world: World, opening: HoursSet) -> None:
    at = f"/clients/{world.client.id}/hours/{opening.id}"
    given = browser.get(f"{at}/file.ics")
    assert given.headers["content-type"].startswith("text/calendar")
    files = {"file": ("hours.ics", given.content.replace(b"090000", b"080000"), "text/calendar")}
    shown = browser.submit(f"{at}/calendar", {"do": "preview"}, files=files)
    assert "Mon-Fri 08:00-17:00" in shown.text
    assert write_week(stored(world, opening).week).startswith("Mon-Fri 09:00")
    text = html.unescape(re.search(r'<textarea name="text" hidden>(.*?)</textarea>', shown.text, re.S)[1])
    assert browser.submit(f"{at}/calendar", {"do": "apply", "mode": "replace", "text": text}).status_code == 303
    assert write_week(stored(world, opening).week).startswith("Mon-Fri 08:00")
    huge = {"file": ("big.ics", b"BEGIN:VCALENDAR\n" + b"x" * 1_100_000, "text/calendar")}
    assert "too large" in browser.submit(f"{at}/calendar", {"do": "preview"}, files=huge).text
    assert browser.get(f"{at}/file.exe").status_code == 404


def test_a_calendar_program_reads_without_signing_in(
    browser: Browser, sign_in: Callable[..., Browser], world: World, opening: HoursSet
) -> None:
    page = browser.get(f"/clients/{world.client.id}/hours/{opening.id}/calendar").text
    path = re.search(r"http://testserver(/calendars/[^<]+\.ics)", page)[1]
    program = sign_in(None)
    given = program.get(path)
    assert given.status_code == 200
    assert "SUMMARY:Workshop" in given.text
    assert program.get(path, headers={"If-None-Match": given.headers["etag"]}).status_code == 304
    assert browser.submit(f"/clients/{world.client.id}/hours/{opening.id}/calendar", {"do": "renew"}).status_code == 303
    assert program.get(path).status_code == 404


def test_ahead_answers_for_a_moment(browser: Browser, world: World, opening: HoursSet) -> None:
    page = f"/clients/{world.client.id}/hours/{opening.id}/ahead"
    assert (
        days.set_day(world.house, world.actor, world.client.id, opening.id, closed("2026-12-01").first, (), "Outing")
        == []
    )
    assert "Closed (Outing), opens tomorrow 09:00" in browser.get(f"{page}?at=2026-12-01T12:00").text
    for odd in ("x", "9999-01-01T00:00", "2026-12-01T12:00+99:00", "0001-01-01T00:00+14:00"):
        answer = browser.get(page, params={"at": odd})
        assert answer.status_code == 422, odd
        assert "Clock changes" in answer.text


def test_tokens_are_shown_once_and_ended(browser: Browser, sign_in: Callable[..., Browser]) -> None:
    assert browser.submit("/tokens", {"name": "", "scopes": "everything"}).status_code == 422
    made = browser.submit("/tokens", {"name": "Wall display", "scopes": "hours:read"})
    secret = re.search(r"vk_[\w-]{40,}", made.text)[0]
    page = browser.get("/tokens").text
    assert secret not in page
    assert "Wall display" in page
    assert sign_in("client_editor").get("/tokens").status_code == 403
    assert browser.submit("/tokens", {"end": "999"}).status_code == 404
    assert browser.submit("/tokens", {"end": re.search(r'name="end" value="(\d+)"', page)[1]}).status_code == 303
    assert "No token yet" in browser.get("/tokens").text
