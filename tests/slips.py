"""The slips of the trade that a flow can have, planted one at a time into a sound flow."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import reduce
from typing import Any

from tests.flows import say
from vokari.core.checks.finding import Surroundings
from vokari.core.flows.drafting.edits import hanging
from vokari.core.flows.model.document import FlowDocument
from vokari.core.flows.model.steps import Announcement, AnyStep, Junction, Menu, Ring, Voicemail
from vokari.core.flows.model.values import END

MOST = 2
"""Places of a flow at which one slip is planted."""
OWN_NUMBER = "+14105550199"
"""A tracking number of the client."""


@dataclass(frozen=True)
class Planted:
    """A flow with one slip: what it is, the kinds of finding that tell of it, whether those come of the proof, and what is known of the client."""

    slip: str
    flow: FlowDocument
    kinds: frozenset[str]
    around: Surroundings
    proof: bool = False


def planted(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    """Every slip wherever it can be made, at most `MOST` times each."""
    around = replace(around, tracking_numbers={*around.tracking_numbers, OWN_NUMBER})
    for plant in PLANTS:
        for number, one in enumerate(plant(flow, around)):
            if number < MOST:
                yield one


def _with(flow: FlowDocument, *new: AnyStep) -> FlowDocument:
    """The flow with some steps changed, or added."""
    changed = {step.id: step for step in new}
    steps = [changed.pop(step.id, step) for step in flow.steps]
    return FlowDocument.model_validate(flow.model_copy(update={"steps": (*steps, *changed.values())}).model_dump())


def _changed(flow: FlowDocument, step: AnyStep, **fields: Any) -> FlowDocument:
    return _with(flow, type(step).model_validate({**step.model_dump(), **fields}))


def _of(flow: FlowDocument, kind: type[AnyStep]) -> Iterator[Any]:
    return (step for step in flow.steps if isinstance(step, kind))


def _leads_nowhere(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in flow.steps:
        for one in step.exits:
            if one.target not in (None, END):
                yield Planted(
                    "1 an exit leads nowhere",
                    _with(flow, step.with_target(one.id, None)),
                    frozenset({"open_exit"}),
                    around,
                )


def _ends_without_a_word(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Announcement):
        if step.counts_as == "nothing" and step.next != END:
            found = frozenset({"loses_callers", "silent_end"})
            yield Planted("1 callers are cut off", _changed(flow, step, next=END), found, around, proof=True)


def _other_key(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Menu):
        taken = {branch.keys[0] for branch in step.branches}
        free = next((key for key in "97865" if key not in taken and key not in step.prompt.say), None)
        for place, branch in enumerate(step.branches):
            if free and len(branch.keys) == 1 and f"press {branch.keys}" in step.prompt.say:
                branches = [one.model_dump() for one in step.branches]
                branches[place] = {**branches[place], "keys": free}
                found = frozenset({"said_key", "unsaid_key", "other_key"})
                yield Planted("2 the prompt offers another key", _changed(flow, step, branches=branches), found, around)
                break


def _no_branch(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Menu):
        offered = [one for one in step.branches if f"press {one.keys}" in step.prompt.say]
        if len(offered) > 1:
            left = [one.model_dump() for one in step.branches if one is not offered[0]]
            yield Planted(
                "3 a key that is offered has no branch",
                _changed(flow, step, branches=left),
                frozenset({"said_key", "other_key"}),
                around,
            )


def _hidden_branch(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Menu):
        taken = {branch.keys[0] for branch in step.branches}
        free = next((key for key in "97865" if key not in taken and key not in step.prompt.say), None)
        if free and step.prompt.say and step.branches:
            new = {"id": "planted", "keys": free, "to": step.branches[0].to}
            branches = [*(one.model_dump() for one in step.branches), new]
            found = frozenset({"unsaid_key"})
            yield Planted("3 a branch that no prompt mentions", _changed(flow, step, branches=branches), found, around)


def _other_way(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Menu):
        named = [
            one
            for one in step.branches
            if one.name and one.to and f"{one.name.lower()}, press {one.keys}" in step.prompt.say.lower()
        ]
        if len(named) > 1 and named[0].to != named[1].to:
            to = {named[0].id: named[1].model_dump(), named[1].id: named[0].model_dump()}
            branches = [
                {**one.model_dump(), **({name: to[one.id][name] for name in ("to", "name")} if one.id in to else {})}
                for one in step.branches
            ]
            found = frozenset({"other_words"})
            yield Planted("3 the words name another way", _changed(flow, step, branches=branches), found, around)


def _left_over(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    rest = Announcement.model_validate(say("planted", "We have moved", flow.start))
    yield Planted("4 a step that nothing reaches", _with(flow, rest), frozenset({"unreached"}), around)


def _bad_number(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Ring):
        if not isinstance(step.to, str):
            phone = {"kind": "number", "id": "planted", "name": "Desk", "number": "+1410", "seconds": 20}
            to = [*(one.model_dump() for one in step.to), phone]
            yield Planted(
                "5 a number that cannot exist", _changed(flow, step, to=to), frozenset({"bad_number"}), around
            )


def _silence_ends(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Menu):
        if step.nothing != END:
            yield Planted(
                "6 silence ends in a hang-up", _changed(flow, step, nothing=END), frozenset({"silent_end"}), around
            )


def _own_mailbox(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Ring):
        if step.accept or step.machine_detection:
            bare = _changed(flow, step, accept=None, machine_detection=False)
            yield Planted("7 a mobile's own mailbox answers first", bare, frozenset({"unconfirmed"}), around)


def _nobody_behind(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Ring):
        if step.no_answer not in (None, END):
            ended = step.with_target("no_answer", END)
            yield Planted(
                "8 no mailbox behind a phone",
                _with(flow, ended),
                frozenset({"flow_ring", "silent_end", "loses_callers"}),
                around,
                proof=True,
            )


def _nobody_told(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Voicemail):
        if step.mailbox in around.mailboxes:
            quiet = replace(around, mailboxes={**around.mailboxes, step.mailbox: False})
            yield Planted("8 a voicemail that nobody is told of", flow, frozenset({"untold"}), quiet)


def _not_told_of_recording(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    if not any(one.recording.purpose != "none" for one in _of(flow, Ring)):
        return
    for step in _of(flow, Announcement):
        if step.notice:
            bare = _changed(flow, step, notice=False)
            yield Planted(
                "9 recorded without being told", bare, frozenset({"unheard_recording", "notice_skipped"}), around
            )


def _round_about(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Ring):
        if not isinstance(step.to, str):
            phone = {"kind": "number", "id": "planted", "name": "Line", "number": OWN_NUMBER, "seconds": 20}
            to = [*(one.model_dump() for one in step.to), phone]
            yield Planted(
                "10 a tracking number of ours is rung", _changed(flow, step, to=to), frozenset({"rings_itself"}), around
            )


def _uncovered(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Junction):
        if step.otherwise not in (None, END):
            gone = Announcement.model_validate(say("planted", "We are away", END))
            both = _with(flow, step.with_target("otherwise", "planted"), gone)
            yield Planted("11 a time that no branch covers", both, frozenset({"loses_callers"}), around, proof=True)


def _built_again(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for menu in _of(flow, Menu):
        for way in menu.exits:
            own = [way.target, *hanging(flow, way.target)] if way.target in flow.by_id and not way.hear_again else []
            if len(own) < 2 or menu.id in own:
                continue
            again = {one: f"{one}_again" for one in own}
            copied = [flow.by_id[one].model_copy(update={"id": again[one]}) for one in own]
            copied = [
                reduce(
                    lambda one, exit_: one.with_target(exit_.id, again.get(exit_.target, exit_.target)), one.exits, one
                )
                for one in copied
            ]
            other = next((one for one in menu.exits if one.target not in own and one.target != way.target), None)
            if other is not None:
                slipped = _with(flow, menu.with_target(other.id, again[own[0]]), *copied)
                yield Planted(
                    "14 a part is built a second time", slipped, frozenset({"built_again"}), around, proof=True
                )


def _no_rescue(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    yield Planted(
        "15 no way out of a round", flow.model_copy(update={"rescue": None}), frozenset({"no_rescue"}), around
    )


def _silent_round(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Menu):
        yield Planted(
            "15 silence goes round", _changed(flow, step, nothing=step.id), frozenset({"silent_round"}), around
        )


def _no_beep(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Voicemail):
        words = {
            **step.greeting.model_dump(),
            "say": "Leave a message after the beep.",
            "prompt": None,
            "recording": None,
        }
        yield Planted(
            "18 a beep that does not come",
            _changed(flow, step, greeting=words, beep=False),
            frozenset({"promised_beep"}),
            around,
        )


def _other_end_key(flow: FlowDocument, around: Surroundings) -> Iterator[Planted]:
    for step in _of(flow, Voicemail):
        words = {
            **step.greeting.model_dump(),
            "say": "Leave a message, then press star.",
            "prompt": None,
            "recording": None,
        }
        yield Planted(
            "18 a key that ends nothing",
            _changed(flow, step, greeting=words, stop_key="#"),
            frozenset({"promised_key"}),
            around,
        )


PLANTS = (
    _leads_nowhere, _ends_without_a_word, _other_key, _no_branch, _hidden_branch, _other_way, _left_over, _bad_number, _silence_ends, _own_mailbox,
    _nobody_behind, _nobody_told, _not_told_of_recording, _round_about, _uncovered, _built_again, _no_rescue, _silent_round, _no_beep, _other_end_key,
)  # fmt: skip
