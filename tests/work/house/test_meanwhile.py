"""Two people change the same client at once: whoever loses is told, and nothing that was said to be saved is lost."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, replace
from threading import Barrier
from typing import Any

from tests.flows import document, menu, ring, voicemail
from tests.work.people.test_people import PHONES, add, add_team
from tests.world import World
from vokari.core.people.directory import Person
from vokari.store.people import PersonRow
from vokari.work.agency import clients, mailboxes, trail
from vokari.work.flows import open_drafts
from vokari.work.hours import days, sets, shared_days
from vokari.work.house.problems import Problem, Problems, Refused
from vokari.work.house.views import ClientView, PersonView, TeamView
from vokari.work.numbers import extensions, number_form, sources
from vokari.work.numbers.extensions import Wanted
from vokari.work.numbers.number_form import NumberForm
from vokari.work.people import everybody, keeping, renumbering, replacing

ROUNDS = 12


def at_once(*acts: Callable[[], Any]) -> list[Any]:
    """Does things at the same moment, each in a thread; gives what each returned."""
    gate = Barrier(len(acts))

    def run(act: Callable[[], Any]) -> Any:
        gate.wait()
        return act()

    with ThreadPoolExecutor(len(acts)) as pool:
        return list(pool.map(run, acts))


def person_of(world: World, row: PersonRow) -> Person:
    return everybody.everybody(world.house, world.actor, world.client.id).person(row.id).person


def refused(result: Any) -> bool:
    return bool(told(result))


def told(result: Any) -> Problems:
    """What is wrong, however a use case says it."""
    if isinstance(result, Refused):
        return result.problems
    return [one for one in result if isinstance(one, Problem)] if isinstance(result, list) else []


def test_a_person_saved_while_a_phone_of_theirs_is_replaced_loses_neither(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    ada = add(world, "Ada")
    for n in range(ROUNDS):
        was = person_of(world, ada).model_dump(mode="json")
        form, new = {**was, "note": f"round {n}"}, f"+141055501{50 + n}"
        saved, replaced = at_once(
            lambda form=form, was=was: keeping.keep_person(*args, ada.id, form, was=was),
            lambda was=was, new=new: renumbering.replace(*args, was["phones"][0]["to"], new, [ada.id], [], live=False),
        )
        after = person_of(world, ada)
        assert isinstance(saved, PersonView)
        assert replaced == ["Ada"]
        assert (after.note, after.phones[0].to) == (f"round {n}", new)


def test_who_edits_the_phone_that_was_replaced_is_told_and_may_save_again(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    ada = add(world, "Ada")
    was = person_of(world, ada).model_dump(mode="json")
    renumbering.replace(*args, PHONES["Ada"], "+14105550150", [ada.id], [], live=False)
    form = {**was, "phones": [{**was["phones"][0], "seconds": 12}]}
    (told,) = keeping.keep_person(*args, ada.id, form, was=was)
    assert told.field == "was"
    assert "the phones (now +14105550150)" in told.sentence
    assert person_of(world, ada).phones[0].to == "+14105550150"
    again = keeping.keep_person(*args, ada.id, form, was=person_of(world, ada).model_dump(mode="json"))
    assert isinstance(again, PersonView)
    assert person_of(world, ada).phones[0].seconds == 12


def test_of_two_replacements_at_once_one_is_done_and_the_other_told_by_whom(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    ada = add(world, "Ada")
    old = PHONES["Ada"]
    for n in range(ROUNDS):
        offered = [f"+141055501{50 + 2 * n}", f"+141055501{51 + 2 * n}"]
        results = at_once(
            *(lambda to=to, old=old: renumbering.replace(*args, old, to, [ada.id], [], live=False) for to in offered)
        )
        lost = [one for one in results if refused(one)]
        assert len(lost) == 1
        assert world.actor.name in told(lost[0])[0].sentence
        old = person_of(world, ada).phones[0].to
        assert old == offered[results.index(["Ada"])]


def test_people_put_in_each_others_place_at_once_end_in_one_order_or_the_other(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    ada, ben, cleo = (add(world, name) for name in PHONES)
    for n in range(ROUNDS):
        team = add_team(world, f"Team {n}", [ada])
        flow = world.flow(
            document(
                {**ring("r", no_answer="vm", name="Yard"), "to": [{"kind": "person", "id": "p1", "person": ada.key}]},
                voicemail(), rescue="vm", name=f"Line {n}", mark="LN",
            )
        )  # fmt: skip
        first, second = at_once(
            lambda flow=flow: replacing.replace(*args, "person", ada.id, ben.id, [flow.id], live=True),
            lambda flow=flow: replacing.replace(*args, "person", ada.id, cleo.id, [flow.id], live=True),
        )
        assert refused(first) != refused(second)
        winner = ben if refused(second) else cleo
        rung = open_drafts.opened(*args, flow.id).document.step("r").to[0].person
        members = everybody.everybody(*args).team(team.id).team.members
        assert (rung, members[0].person) == (winner.key, winner.key)


def test_crossing_replacements_do_not_wait_for_each_other(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    ada, ben = add(world, "Ada"), add(world, "Ben")
    for n in range(ROUNDS):
        add_team(world, f"Team {n}", [ada if n % 2 else ben])
        at_once(
            lambda: replacing.replace(*args, "person", ada.id, ben.id, [], live=False),
            lambda: replacing.replace(*args, "person", ben.id, ada.id, [], live=False),
        )
    members = {one.person for line in everybody.everybody(*args).teams for one in line.team.members}
    assert members <= {ada.key, ben.key}
    assert all(line.team.members for line in everybody.everybody(*args).teams)


def test_a_team_that_takes_somebody_in_while_they_are_removed_does_not_ring_nobody(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    for n in range(ROUNDS):
        gone = add(world, f"Guest {n}")
        made, removed = at_once(
            lambda gone=gone, n=n: keeping.keep_team(*args, None, {"name": f"T{n}", "members": [{"person": gone.key}]}),
            lambda gone=gone: keeping.remove(*args, "person", gone.id),
        )
        assert isinstance(made, TeamView) != (removed == [])


def test_settings_of_two_people_are_laid_together(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    client = clients.get(*args)
    form, was = clients.form_of(client), asdict(clients.form_of(client))
    results = at_once(
        lambda: clients.change(*args, replace(form, city="Dover"), was),
        lambda: clients.change(*args, replace(form, fail_safe="410-555-0177"), was),
    )
    assert all(isinstance(one, ClientView) for one in results)
    after = clients.get(*args)
    assert (after.city, after.fail_safe) == ("Dover", "+14105550177")
    (told,) = clients.change(*args, replace(form, city="Salem"), was)
    assert "the place (now “Dover”)" in told.sentence


def test_other_forms_tell_what_changed_meanwhile(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    source = world.source("Van signs")
    was = asdict(sources.form_of(source))
    sources.keep_source(*args, source.id, replace(sources.form_of(source), medium="sign"), was)
    (told,) = sources.keep_source(*args, source.id, replace(sources.form_of(source), medium="print"), was)
    assert "the medium (now “sign”)" in told.sentence

    box = mailboxes.keep(*args, None, "Yard", "yard@example.com")
    kept = mailboxes.stands(box)
    mailboxes.keep(*args, box.id, "Yard desk", "yard@example.com", was=kept)
    renamed = mailboxes.keep(*args, box.id, "Yard", "desk@example.com", was=kept)
    assert (renamed.name, renamed.tell) == ("Yard desk", ["desk@example.com"])

    number = world.number("+14105550142", source)
    set_of = asdict(number_form.form_of(number))
    number_form.keep(*args, number.id, NumberForm("Vans", "", "", 0), set_of)
    assert number_form.keep(*args, number.id, NumberForm("Signs", "", "", 0), set_of)[0].field == "was"

    made = sets.create(*args, "Office", "client")
    details = sets.details_of(made)
    sets.set_details(*args, made.id, "Front office", "", main=False, was=details)
    assert "the name" in sets.set_details(*args, made.id, "Back office", "", main=False, was=details)[0].sentence
    assert any("Vans" in line.words or "changed the name" in line.words for line in trail.listed(*args))


def test_lists_that_two_people_choose_for_the_same_hours_are_both_shared(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    office = sets.create(*args, "Office", "client")
    first, second, third = (shared_days.name_list(world.house, world.actor, None, name) for name in ("A", "B", "C"))
    days.share(*args, office.id, [first.id, second.id], {"lists": []})
    was = {"lists": [first.id, second.id]}
    assert days.share(*args, office.id, [second.id], was) == []
    assert days.share(*args, office.id, [first.id, second.id, third.id], was) == []
    assert sets.opened(*args, office.id).set.lists == [second.id, third.id]


def test_a_name_cannot_differ_from_its_document(world: World) -> None:
    ada = add(world, "Ada")
    with world.house.begin() as session:
        row = session.get_one(PersonRow, ada.id)
        row.document = {**row.document, "name": "Ada Lund", "extension": "21"}
        session.flush()
        assert (row.name, row.extension) == ("Ada Lund", "21")


def test_keys_added_to_one_menu_at_once_are_all_there(world: World) -> None:
    args = (world.house, world.actor, world.client.id)
    flow = world.flow(document(menu("m", {}), voicemail(), rescue="vm", name="Adverts", mark="AD"), live=False)
    made = extensions.add(*args, *(Wanted(topic, "Leaflet") for topic in ("Lifts", "Moorings", "Storage", "Repairs")))
    at_once(*(lambda one=one: extensions.add_keys(*args, [one.id], flow.id, "m") for one in made))
    keys = {branch.keys for branch in open_drafts.opened(*args, flow.id).document.step("m").branches}
    assert keys == {one.extension for one in made}
