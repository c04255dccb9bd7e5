"""Signing in and out: slow guesses, revocable cookies, nothing that tells whether an address is known."""

import pytest
from sqlalchemy import select

from tests.conftest import StandingClock
from tests.world import PASSWORD, World
from vokari.store.agency import SignIn, User
from vokari.work import accounts
from vokari.work.house import Problem


def test_a_sign_in_lasts_until_it_is_ended_or_over(world: World, clock: StandingClock) -> None:
    token = accounts.sign_in(world.house, " Specialist@Example.com ", PASSWORD)
    assert isinstance(token, str)
    signed = accounts.signed_in(world.house, token)
    assert signed is not None
    assert (signed.actor.role, signed.actor.agency_id) == ("specialist", world.agency_id)
    second = accounts.sign_in(world.house, "specialist@example.com", PASSWORD)
    assert isinstance(second, str)
    assert second != token
    accounts.sign_out(world.house, token)
    assert accounts.signed_in(world.house, token) is None
    assert accounts.signed_in(world.house, second) is not None
    clock.move(days=14, seconds=1)
    assert accounts.signed_in(world.house, second) is None


def test_neither_the_password_nor_the_cookie_is_kept(world: World) -> None:
    token = accounts.sign_in(world.house, "owner@example.com", PASSWORD)
    with world.house.begin() as session:
        kept = session.scalars(select(SignIn)).one()
        user = session.scalars(select(User).where(User.email == "owner@example.com")).one()
    assert token not in (kept.token_hash, kept.form_token)
    assert user.password_hash.startswith("$argon2id$")
    assert PASSWORD not in user.password_hash


@pytest.mark.parametrize("email", ["specialist@example.com", "nobody@example.com", "", "x" * 500])
def test_an_unknown_address_and_a_wrong_password_look_the_same(world: World, email: str) -> None:
    refused = accounts.sign_in(world.house, email, "wrong")
    assert refused == Problem("password", "The email address and the password do not belong together.")


def test_guessing_is_slowed_down_for_an_address_and_for_a_while(world: World, clock: StandingClock) -> None:
    for _ in range(accounts.ATTEMPTS):
        accounts.sign_in(world.house, "specialist@example.com", "wrong")
    held_up = accounts.sign_in(world.house, "specialist@example.com", PASSWORD)
    assert isinstance(held_up, Problem)
    assert held_up.sentence.startswith("Too many attempts")
    assert isinstance(accounts.sign_in(world.house, "owner@example.com", PASSWORD), str)
    clock.move(minutes=16)
    assert isinstance(accounts.sign_in(world.house, "specialist@example.com", PASSWORD), str)
