"""Who signs in: added, given another password and removed by an owner, and nobody else."""

import pytest

from tests.world import PASSWORD, World, make_world
from vokari.store.agency import ApiToken
from vokari.work.agency import accounts, tokens, users
from vokari.work.agency.access import NotAllowed, NotFound
from vokari.work.agency.accounts import Welcome
from vokari.work.agency.users import Added, UserForm


def add(world: World, email: str = "mia@example.com", role: str = "specialist", client: int | None = None) -> Added:
    made = users.add(world.house, world.actors["owner"], UserForm("Mia Holt", email, role, client))
    assert isinstance(made, Added), made
    return made


def test_somebody_who_is_added_signs_in_with_the_password_that_is_shown_once(world: World) -> None:
    made = add(world, "Mia@Example.com")
    welcome = accounts.sign_in(world.house, "mia@example.com", made.password)
    assert isinstance(welcome, Welcome)
    signed = accounts.signed_in(world.house, welcome.token)
    assert signed is not None
    assert (signed.actor.role, signed.actor.agency_id, signed.actor.client_id) == ("specialist", world.agency_id, None)
    assert made.password not in repr(made)
    editor = add(world, "desk@example.com", "client_editor", world.client.id).user
    assert (editor.client_id, [of for user, of in users.listed(world.house, world.actors["owner"]) if user.id == editor.id]) == (
        world.client.id, [world.client.name],
    )  # fmt: skip


def test_who_is_removed_is_out_at_once_and_can_come_back(world: World) -> None:
    made = add(world)
    welcome = accounts.sign_in(world.house, "mia@example.com", made.password)
    assert isinstance(welcome, Welcome)
    actor = accounts.actor_by_email(world.house, "mia@example.com")
    assert actor is not None
    _, secret = tokens.make(world.house, actor, "Board", ["hours:read"])
    assert users.remove(world.house, world.actors["owner"], made.user.id) == []
    assert accounts.signed_in(world.house, welcome.token) is None
    assert tokens.actor_of(world.house, secret, "hours:read") is None
    assert not isinstance(accounts.sign_in(world.house, "mia@example.com", made.password), Welcome)
    assert accounts.actor_by_email(world.house, "mia@example.com") is None
    with world.house.begin() as session:
        assert session.query(ApiToken).count() == 0
    back = add(world)
    assert back.user.id == made.user.id
    assert isinstance(accounts.sign_in(world.house, "mia@example.com", back.password), Welcome)


def test_another_password_ends_the_sign_ins_of_before(world: World) -> None:
    welcome = accounts.sign_in(world.house, "specialist@example.com", PASSWORD)
    assert isinstance(welcome, Welcome)
    given = users.new_password(world.house, world.actors["owner"], world.actor.user_id)
    assert accounts.signed_in(world.house, welcome.token) is None
    assert isinstance(accounts.sign_in(world.house, "specialist@example.com", given.password), Welcome)


@pytest.mark.parametrize(
    ("form", "field"),
    [
        (UserForm(" ", "mia@example.com", "owner"), "name"), (UserForm("Mia", "mia", "owner"), "email"),
        (UserForm("Mia", "owner@example.com", "owner"), "email"), (UserForm("Mia", "mia@example.com", "king"), "role"),
        (UserForm("Mia", "mia@example.com", "client_viewer"), "client"), (UserForm("Mia", "mia@exmaple.com", "owner"), "email"),
        (UserForm("Mia", "owner@other.example.com", "owner"), "email"), (UserForm("Mia", "mia@example.com", "client_viewer", 2), "client"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_said_beside_its_field(world: World, form: UserForm, field: str) -> None:
    make_world(world.house, "Other agency", "other.example.com")
    said = users.add(world.house, world.actors["owner"], form)
    assert isinstance(said, list)
    assert [one.field for one in said] == [field]


def test_only_an_owner_of_this_agency_may_and_never_ends_themselves(world: World) -> None:
    other = make_world(world.house, "Other agency", "other.example.com")
    owner = world.actors["owner"]
    for role in ("specialist", "client_editor", "client_viewer"):
        acts = (
            lambda a: users.listed(world.house, a), lambda a: users.add(world.house, a, UserForm("M", "m@example.com", "owner")),
            lambda a: users.remove(world.house, a, owner.user_id), lambda a: users.new_password(world.house, a, owner.user_id),
        )  # fmt: skip
        for act in acts:
            with pytest.raises(NotAllowed):
                act(world.actors[role])
    for theirs in (users.remove, users.new_password):
        with pytest.raises(NotFound):
            theirs(world.house, owner, other.actor.user_id)
    assert users.remove(world.house, owner, owner.user_id)[0].sentence.startswith("You cannot remove yourself")
