"""The board of hold lines, and the pages that lead to it."""

from collections.abc import Callable

from tests.web.conftest import Browser
from tests.work.holding.test_turns import arrive, held_by, pick_up
from tests.work.people.test_people import add, add_team
from tests.world import World
from vokari.work.people import keeping


def test_the_board_tells_who_waits_and_who_is_free(world: World, sign_in: Callable[..., Browser]) -> None:
    staff = [add(world, name) for name in ("Ada", "Ben", "Cleo")]
    held_by(world, add_team(world, "Yard", staff).key)
    keeping.set_duty(world.house, world.actor, world.client.id, staff[2].id, off=True)
    calls = [arrive(world, f"c{n}", at=n) for n in range(3)]
    pick_up(calls[0], 10)
    page = sign_in("client_viewer").get(f"/clients/{world.client.id}/lines").text
    assert "1 free" not in page
    assert page.index("on a call") < page.index("phone rings") < page.index("off duty")
    assert "rings Ben" in page
    assert page.count('<span class="place">') == 2
    assert "Hold lines: who waits now" in sign_in("specialist").get(f"/clients/{world.client.id}/calls").text


def test_without_a_hold_line_the_board_says_so(world: World, sign_in: Callable[..., Browser]) -> None:
    browser = sign_in("specialist")
    assert "No live flow of this client holds callers" in browser.get(f"/clients/{world.client.id}/lines").text
    assert "Hold lines" not in browser.get(f"/clients/{world.client.id}/calls").text


def test_a_hold_line_is_edited_and_explained_in_the_sheet(world: World, sign_in: Callable[..., Browser]) -> None:
    held_by(world, add_team(world, "Yard", [add(world, "Ada")]).key)
    browser, here = sign_in("specialist"), f"/clients/{world.client.id}/flows/1"
    assert "holds callers for Yard, at most 5 min, 20 callers, says place and wait every 60 s" in browser.get(here).text
    answer = browser.submit(f"{here}/rows/h", {"team": "", "longest_wait": "5", "most_callers": "900", "base": "1"})
    assert answer.status_code == 422
    assert "At least 10." in answer.text
    assert "At most 500." in answer.text
    assert "Right now 1 of 1 on duty are free" in browser.get(f"{here}/means/h").text


def test_a_rehearsal_waits_and_is_served(world: World, sign_in: Callable[..., Browser]) -> None:
    held_by(world, add_team(world, "Yard", [add(world, "Ada")]).key)
    browser, base = sign_in("specialist"), f"/clients/{world.client.id}"
    typed = {"called": "+14105550142", "caller": "", "at": "2026-11-24T12:00", "ahead": "2"}
    answer = browser.submit(f"{base}/flows/1/rehearse", typed)
    here = answer.headers["location"]
    page = browser.get(here).text
    assert "You are number 3 in line." in page
    for _ in range(3):
        page = browser.submit(here, {"what": "poked", "elapsed": "5"}, follow_redirects=True).text
    assert "What does each phone do?" in page
    assert "Ada" in page
    assert browser.submit(f"{base}/flows/1/rehearse", {**typed, "ahead": "501"}).status_code == 422


def test_phones_are_verified_and_replaced_on_their_page(world: World, sign_in: Callable[..., Browser]) -> None:
    add(world, "Ada")
    browser, here = sign_in("specialist"), f"/clients/{world.client.id}/people/phones"
    page = browser.get(here).text
    assert "of 1 phones was never verified" in page
    assert browser.submit(here, {"to": "+14105550165"}).status_code == 303
    assert "ringing now: pick up and press 1" in browser.get(here).text
    assert browser.submit(here, {"to": "+14105550199"}).status_code == 422
    assert "Ada" in browser.get(f"{here}/replace?to=%2B14105550165").text
    wrong = browser.submit(f"{here}/replace", {"old": "+14105550165", "by": "911", "person": "1"})
    assert wrong.status_code == 422
    assert "emergency number" in wrong.text
    done = browser.submit(f"{here}/replace", {"old": "+14105550165", "by": "410 555 0188", "person": "1"})
    assert "Changed: Ada." in done.text
    assert browser.get(f"{here}/replace?to=%2B14105550165").status_code == 404


def test_people_come_from_and_go_to_a_file(world: World, sign_in: Callable[..., Browser]) -> None:
    browser, here = sign_in("client_editor"), f"/clients/{world.client.id}/people"
    card = "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Mia\r\nN:;Mia;;;\r\nTEL:410 555 0171\r\nTEL:911\r\nEND:VCARD\r\n"
    answer = browser.submit(f"{here}/cards", files={"file": ("people.vcf", card.encode())})
    assert "Added: Mia." in answer.text
    assert "Mia, 911" in answer.text
    saved = browser.get(f"{here}/cards.vcf")
    assert saved.headers["content-type"].startswith("text/vcard")
    assert "+14105550171" in saved.text
    assert browser.submit(f"{here}/cards", files={"file": ("people.vcf", b"nonsense")}).status_code == 422
