"""Signing in and out: slow guesses, revocable cookies, nothing that tells whether an address is known."""

from concurrent.futures import ThreadPoolExecutor

import pytest
from sqlalchemy import select

from tests.conftest import StandingClock
from tests.world import PASSWORD, World
from vokari.store.agency import KnownBrowser, SignIn, SignInAttempt, User
from vokari.work.agency import accounts, guesses
from vokari.work.agency.accounts import Welcome
from vokari.work.agency.guesses import Counted
from vokari.work.house.problems import Problem


def test_a_sign_in_lasts_until_it_is_ended_or_over(world: World, clock: StandingClock) -> None:
    first = accounts.sign_in(world.house, " Specialist@Example.com ", PASSWORD)
    assert isinstance(first, Welcome)
    token = first.token
    signed = accounts.signed_in(world.house, token)
    assert signed is not None
    assert (signed.actor.role, signed.actor.agency_id) == ("specialist", world.agency_id)
    again = accounts.sign_in(world.house, "specialist@example.com", PASSWORD)
    assert isinstance(again, Welcome)
    second = again.token
    assert second != token
    accounts.sign_out(world.house, token)
    assert accounts.signed_in(world.house, token) is None
    assert accounts.signed_in(world.house, second) is not None
    clock.move(days=14, seconds=1)
    assert accounts.signed_in(world.house, second) is None


def test_neither_the_password_nor_the_cookie_is_kept(world: World) -> None:
    welcome = accounts.sign_in(world.house, "owner@example.com", PASSWORD)
    assert isinstance(welcome, Welcome)
    token = welcome.token
    with world.house.begin() as session:
        kept = session.scalars(select(SignIn)).one()
        user = session.scalars(select(User).where(User.email == "owner@example.com")).one()
        assert welcome.browser not in session.scalars(select(KnownBrowser.token_hash)).all()
    assert token not in (kept.token_hash, kept.form_token)
    assert user.password_hash.startswith("$argon2id$")
    assert PASSWORD not in user.password_hash


@pytest.mark.parametrize("email", ["specialist@example.com", "nobody@example.com", "", "x" * 500])
def test_an_unknown_address_and_a_wrong_password_look_the_same(world: World, email: str) -> None:
    refused = accounts.sign_in(world.house, email, "wrong")
    assert refused == Problem("password", "The email address and the password do not belong together.")


def attempts(world: World, count: int, email: str, password: str = "wrong", **more: str) -> list[object]:
    """So many attempts at the same moment."""
    with ThreadPoolExecutor(count) as pool:
        return list(pool.map(lambda _: accounts.sign_in(world.house, email, password, **more), range(count)))


def looked_at(results: list[object]) -> int:
    """At how many passwords somebody looked."""
    return sum(1 for one in results if not isinstance(one, Problem) or one.field == "password")


def test_guessing_is_held_up_for_an_address_and_for_a_while(world: World, clock: StandingClock) -> None:
    for _ in range(guesses.ATTEMPTS):
        accounts.sign_in(world.house, "specialist@example.com", "wrong")
    held_up = accounts.sign_in(world.house, "specialist@example.com", PASSWORD)
    assert isinstance(held_up, Problem)
    assert held_up.sentence.startswith("Too many attempts")
    assert isinstance(accounts.sign_in(world.house, "owner@example.com", PASSWORD), Welcome)
    clock.move(minutes=16)
    assert isinstance(accounts.sign_in(world.house, "specialist@example.com", PASSWORD), Welcome)


def test_guesses_at_the_same_moment_are_counted_before_a_password_is_looked_at(world: World) -> None:
    assert looked_at(attempts(world, 40, "specialist@example.com", source="203.0.113.9")) == guesses.ATTEMPTS


def test_a_source_has_a_limit_over_all_accounts(world: World) -> None:
    results = [
        accounts.sign_in(world.house, f"guess{n}@example.com", "wrong", "203.0.113.9")
        for n in range(guesses.SOURCE_ATTEMPTS + 5)
    ]
    assert looked_at(results) == guesses.SOURCE_ATTEMPTS
    assert isinstance(accounts.sign_in(world.house, "owner@example.com", PASSWORD, "198.51.100.4"), Welcome)


def test_nobody_can_lock_another_out(world: World, clock: StandingClock) -> None:
    first = accounts.sign_in(world.house, "owner@example.com", PASSWORD, "198.51.100.4")
    assert isinstance(first, Welcome)
    waits = []
    for n in range(60):
        counted = accounts.count_attempt(world.house, "owner@example.com", f"203.0.113.{n}", "")
        waits.append(counted.wait if isinstance(counted, Counted) else None)
        clock.move(seconds=3)
    assert waits[: guesses.ATTEMPTS] == [0.0] * guesses.ATTEMPTS
    assert None in waits, "strangers from many sources are answered ever more slowly"
    known = accounts.sign_in(world.house, "owner@example.com", PASSWORD, "203.0.113.1", first.browser)
    assert isinstance(known, Welcome), "the browser that signed in before is not held up"
    clock.move(seconds=guesses.LONGEST_GAP)
    counted = accounts.count_attempt(world.house, "owner@example.com", "198.51.100.77", "")
    assert isinstance(counted, Counted), "nor for long somebody at a new one"
    stranger = accounts.count_attempt(world.house, "specialist@example.com", "198.51.100.77", first.browser)
    assert isinstance(stranger, Counted)
    with world.house.begin() as session:
        assert session.get_one(SignInAttempt, stranger.id).browser == "", "a browser is known to its own account only"


def test_ones_own_password_is_changed_and_every_other_sign_in_ends(world: World) -> None:
    here, there = (accounts.sign_in(world.house, "owner@example.com", PASSWORD) for _ in range(2))
    assert isinstance(here, Welcome)
    assert isinstance(there, Welcome)
    signed = accounts.signed_in(world.house, here.token)
    assert signed is not None

    def change(old: str, new: str, again: str) -> list[str]:
        return [one.field for one in accounts.change_password(world.house, signed, old, new, again)]

    assert change("wrong", "five-loud-geese", "five-loud-geese") == ["old"]
    assert change(PASSWORD, "short", "short") == ["new"]
    assert change(PASSWORD, "aaaaaaaaaaaa", "aaaaaaaaaaaa") == ["new"]
    assert change(PASSWORD, "five-loud-geese", "five-loud-goose") == ["again"]
    assert change(PASSWORD, "five-loud-geese", "five-loud-geese") == []
    assert accounts.signed_in(world.house, here.token) is not None
    assert accounts.signed_in(world.house, there.token) is None
    assert isinstance(accounts.sign_in(world.house, "owner@example.com", PASSWORD), Problem)
    assert isinstance(accounts.sign_in(world.house, "owner@example.com", "five-loud-geese"), Welcome)
