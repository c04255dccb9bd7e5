"""Mailboxes tell people and addresses; a person is told at their own address, and can be put in another's place."""

import pytest

from tests.flows import document, voicemail
from tests.work.people.test_people import add, add_team
from tests.world import World
from vokari.core.flows.drafting.edits import SetStep
from vokari.core.flows.model.steps import Voicemail
from vokari.store.agency import Mailbox
from vokari.store.flows import CallFlow
from vokari.work.agency import mailboxes
from vokari.work.agency.access import NotAllowed
from vokari.work.flows import drafts, files, open_drafts
from vokari.work.house.problems import Problem, Refused
from vokari.work.house.views import MailboxView
from vokari.work.people import everybody, keeping, replacing


def keep(world: World, tell: str, *agreed: str, box: Mailbox | None = None) -> Mailbox | list[str]:
    made = mailboxes.keep(world.house, world.actor, world.client.id, box.id if box else None, "Orders", tell, agreed)
    return [one.sentence for one in made] if isinstance(made, list) else made


def lands_in(world: World, box: Mailbox) -> CallFlow:
    """A flow whose voicemail lands in a mailbox."""
    flow = world.flow(document(voicemail(), rescue="vm", name="Line", mark="LN"), live=False)
    step = Voicemail.model_validate(voicemail(mailbox=box.key))
    done = drafts.edit(world.house, world.actor, world.client.id, flow.id, [SetStep(step=step)], flow.revision)
    assert isinstance(done, open_drafts.OpenDraft), done
    return flow


def told(world: World, box: Mailbox) -> str:
    return mailboxes.told_in_words(world.house, world.actor, world.client.id)[box.id]


def test_people_are_named_by_name_and_told_at_their_address(world: World) -> None:
    ada = add(world, "Ada", email="ada@example.com")
    box = keep(world, "ADA, yard@example.com office@example.com; ada")
    assert isinstance(box, MailboxView)
    assert box.tell == [f"person:{ada.key}", "yard@example.com", "office@example.com"]
    assert told(world, box) == "Ada, yard@example.com, office@example.com"
    flow = lands_in(world, box)
    assert "ada@example.com" in files.export(world.house, world.actor, world.client.id, flow.id)


@pytest.mark.parametrize(
    ("tell", "sentence"),
    [
        ("", "Name an email address or a person, so that somebody hears of a message."),
        ("Nobody Known", "“Nobody Known” is no email address and nobody of this client."),
        (" ".join(f"a{n}@example.com" for n in range(51)), "A mailbox tells at most 50."),
        ("Ben", "Ben has no email yet: add it under People first."),
        ("yard@exmaple.com", "Did you mean yard@example.com? Save again if yard@exmaple.com is right."),
    ],
)
def test_what_tells_nobody_is_said(world: World, tell: str, sentence: str) -> None:
    add(world, "Ben")
    assert keep(world, tell) == [sentence]


def test_an_odd_domain_is_kept_once_it_was_asked_about(world: World) -> None:
    assert isinstance(keep(world, "yard@exmaple.com", "yard@exmaple.com"), MailboxView)
    assert isinstance(keep(world, "more@exmaple.com", box=None), list), "a second mailbox cannot have the same name"


def test_a_persons_own_address_is_checked_as_well(world: World) -> None:
    form = {"name": "Cleo", "email": "cleo@exmaple.com"}
    args = (world.house, world.actor, world.client.id, None)
    (problem,) = keeping.keep_person(*args, form)
    assert (problem.field, problem.sentence[:33]) == ("email", "Did you mean cleo@example.com? Sa")
    assert keeping.keep_person(*args, form, ["cleo@exmaple.com"]).name == "Cleo"
    (problem,) = keeping.keep_person(*args, {"name": "Dot", "email": "dot at example"})
    assert problem.sentence == "“dot at example” is no email address."


def test_replacing_a_person_changes_flows_teams_and_mailboxes(world: World) -> None:
    ada, ben = add(world, "Ada", email="ada@example.com"), add(world, "Ben", email="ben@example.com")
    box = keep(world, "Ada")
    assert isinstance(box, MailboxView)
    add_team(world, "Yard", [ada])
    (line, _) = everybody.everybody(world.house, world.actor, world.client.id).people
    assert (line.teams, line.told_by) == (["Yard"], ["Orders"])
    args = (world.house, world.actor, world.client.id)
    none = replacing.replace(*args, "person", ada.id, ben.id, [], live=False, within=[])
    assert isinstance(none, Refused)
    (problem,) = none.problems
    assert problem.sentence == "Nothing was changed: nothing of what was chosen rings Ada any more."
    done = replacing.replace(*args, "person", ada.id, ben.id, [], live=False)
    assert done == ["the team Yard", "the mailbox Orders"]
    assert told(world, box) == "Ben"
    (problem,) = keeping.remove(*args, "person", ben.id)
    assert problem.sentence.startswith("Ben is rung by the team Yard")
    assert keeping.remove(*args, "person", ada.id) == []


def test_a_mailbox_whose_person_has_no_address_any_more_is_found(world: World) -> None:
    ada = add(world, "Ada", email="ada@example.com")
    box = keep(world, "Ada")
    assert isinstance(box, MailboxView)
    flow = lands_in(world, box)
    args = (world.house, world.actor, world.client.id)
    keeping.keep_person(*args, ada.id, {"name": "Ada"})
    assert "untold" in {one.kind for one in open_drafts.opened(*args, flow.id).findings}
    (problem,) = keeping.remove(*args, "person", ada.id)
    assert problem.sentence == "Ada gets messages from the mailbox Orders: name somebody else there first."


def test_only_those_who_work_on_the_client_keep_mailboxes(world: World) -> None:
    for role in ("client_editor", "client_viewer"):
        with pytest.raises(NotAllowed):
            mailboxes.keep(world.house, world.actors[role], world.client.id, None, "X", "x@example.com")


def test_a_saved_mailbox_can_be_taken_back(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    made = mailboxes.keep(*args, None, "Orders", "desk@example.com")
    assert not isinstance(made, list)
    assert not isinstance(
        mailboxes.keep(*args, made.id, "Orders and parts", "desk@example.com, yard@example.com"), list
    )
    assert mailboxes.steps(*args)[made.id].undo == "changed the name and who is told"
    assert mailboxes.step_back(*args, made.id, "undo") == []
    box = next(one for one in mailboxes.of_client(*args) if one.id == made.id)
    assert (box.name, box.tell) == ("Orders", ["desk@example.com"])
    assert mailboxes.step_back(*args, made.id, "redo") == []
    assert mailboxes.step_back(*args, made.id, "redo") == [Problem("", "There is nothing to redo.")]
