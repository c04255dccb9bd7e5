"""What a demo client is described with, and short ways to write the steps of its flows."""

from dataclasses import dataclass, field
from typing import Any

from ..core.flows.model.document import FlowDocument
from ..core.numbers.extensions import Scheme
from ..core.numbers.numbering import joined
from ..core.people.directory import Person, Team
from ..core.places.document import Place, Places
from ..core.traffic.callers import PhoneHabit
from .opening import HoursPlan

END = "end"
Row = dict[str, Any]


def team_ring(id_: str, name: str, team: str, no_answer: str | None, **more: Any) -> dict[str, Any]:
    """A Ring step that rings one team."""
    return {
        "kind": "ring",
        "id": id_,
        "name": name,
        "to": [{"kind": "team", "id": "t1", "team": team}],
        "no_answer": no_answer,
        **more,
    }


def hold_line(id_: str, name: str, team: str, otherwise: str, **more: Any) -> dict[str, Any]:
    """A Hold line for a team, all of whose exits lead to one step."""
    exits = dict.fromkeys(("waited", "full", "left", "nobody"), otherwise)
    return {"kind": "hold_line", "id": id_, "name": name, "team": team, **exits, **more}


@dataclass(frozen=True)
class SourcePlan:
    """A lead source: campaign tags, where people see it, and calls on an average day (0: no number yet).

    `was` had the number before, `then` has it from next month on; `silent` is days without a call until today, `rests`
    days since the number was taken out of use; `key` is what flows name it by, unless that follows from its source.
    """

    name: str
    source: str
    medium: str
    campaign: str = ""
    placement: str = ""
    online: bool = True
    calls: float = 0.0
    flow: int | None = 0
    toll_free: bool = False
    was: str = ""
    then: str = ""
    silent: int = 0
    rests: int = 0
    whisper: str = ""
    extension: str = ""
    key: str = ""


@dataclass(frozen=True)
class ClientPlan:
    """A whole client. `flows` are built with the client's phones and mailboxes, `inner` are those that they continue in, by key; of the
    first, `earlier` is the version before and why it was replaced, `planned` the one that goes live next month and why; `code` is
    an area code or UK prefix."""

    name: str
    country: str
    zone: str
    city: str
    code: str
    sources: list[SourcePlan]
    flows: list[FlowDocument]
    mailboxes: dict[str, tuple[str, list[str]]]
    habits: dict[str, PhoneHabit]
    drafts: list[FlowDocument] = field(default_factory=list)
    extensions: Scheme = field(default_factory=Scheme)
    hours: list[HoursPlan] = field(default_factory=list)
    people: dict[str, Person] = field(default_factory=dict)
    teams: dict[str, Team] = field(default_factory=dict)
    inner: dict[str, FlowDocument] = field(default_factory=dict)
    earlier: tuple[FlowDocument, str] | None = None
    planned: tuple[FlowDocument, str] | None = None
    places: Places = field(default_factory=Places)


class Staff:
    """The people, teams and phones of a client: numbers from a range of their own, with how whoever is there behaves."""

    def __init__(self, base: str, first: int) -> None:
        self.base, self.next = base, first
        self.habits: dict[str, PhoneHabit] = {}
        self.people: dict[str, Person] = {}
        self.teams: dict[str, Team] = {}

    def _number(self, extension: str = "", **habit: Any) -> str:
        number = joined(f"{self.base}{self.next}", extension)
        self.next += 1
        self.habits[number] = PhoneHabit(**habit)
        return number

    def place(
        self, name: str, hours: str | None = None, extension: str = "", answered: str = "picked_up", **habit: Any
    ) -> dict[str, Any]:
        """A phone that is nobody's own: a counter, an answering service, a desk behind an attendant."""
        number = self._number(extension, **habit)
        return {
            "kind": "number",
            "id": f"d{self.next}",
            "name": name,
            "number": number,
            "hours": hours,
            "answered": answered,
        }

    def person(
        self,
        name: str,
        hours: str | None = None,
        desk: str = "desk",
        mobile: float | None = None,
        more: Row | None = None,
        **habit: Any,
    ) -> dict[str, Any]:
        """Somebody with a phone called `desk`, and where `mobile` says when its own voicemail picks up with a second one; gives
        them as a destination."""
        key = f"pe_{name.split()[0].lower()}"
        phones = [
            {"id": "ph1", "name": desk, "to": self._number(**habit), "mailbox_after": habit.get("own_mailbox_after")}
        ]
        if mobile is not None:
            again = {**habit, "own_mailbox_after": mobile}
            phones.append({"id": "ph2", "name": "mobile", "to": self._number(**again), "mailbox_after": mobile})
        self.people[key] = Person.model_validate({"name": name, "hours": hours, "phones": phones, **(more or {})})
        return {"kind": "person", "id": f"d{self.next}", "person": key}

    def team(self, name: str, *members: dict[str, Any], **more: Any) -> str:
        """A team of people, each as a destination or as a member; gives its key."""
        key = "te_" + name.lower().replace(" ", "_")
        one = [{name: value for name, value in member.items() if name not in ("kind", "id")} for member in members]
        self.teams[key] = Team.model_validate({"name": name, "members": one, **more})
        return key


ACCEPT = {"key": "1", "seconds": 8}
"""Whoever picks up takes the call by this key."""


def flow(
    name: str, mark: str, rescue: str | None, *steps: dict[str, Any], language: str = "en-US", **more: Any
) -> FlowDocument:
    """A flow whose first step is the first one given."""
    raw = {"name": name, "mark": mark, "language": language, "start": steps[0]["id"], "rescue": rescue, "steps": steps}
    return FlowDocument.model_validate({**raw, **more})


def say(id_: str, name: str, words: str, next_: str | None, **more: Any) -> dict[str, Any]:
    return {"kind": "announcement", "id": id_, "name": name, "prompt": {"say": words}, "next": next_, **more}


def menu(
    id_: str, name: str, words: str, *branches: dict[str, Any], nothing: str | None, wrong: str | None, **more: Any
) -> dict[str, Any]:
    return {
        "kind": "menu", "id": id_, "name": name, "prompt": {"say": words}, "branches": branches,
        "nothing": nothing, "wrong": wrong, **more,
    }  # fmt: skip


def sort_by(id_: str, name: str, *ways: tuple[str, dict[str, Any], str], otherwise: str) -> dict[str, Any]:
    """A junction: an id, a condition and a step for each way, the first that holds is taken."""
    branches = [{"id": way, "when": when, "to": to} for way, when, to in ways]
    return {"kind": "junction", "id": id_, "name": name, "branches": branches, "otherwise": otherwise}


def changed(document: FlowDocument, *, without: str = "", **steps: dict[str, Any]) -> FlowDocument:
    """A flow with fields of some steps changed, and without one whose way on is taken by whatever led to it (`steps` say so)."""
    kept = (step for step in document.steps if step.id != without)
    return FlowDocument.model_validate(
        document.with_steps(tuple(step.model_copy(update=steps.get(step.id, {})) for step in kept)).model_dump()
    )


def entry(id_: str, name: str, words: str, store_as: str, digits: int, typed: str, otherwise: str) -> dict[str, Any]:
    """A Keypad entry for so many digits; callers who type none, or wrong ones, go elsewhere."""
    return {
        "kind": "keypad_entry", "id": id_, "name": name, "prompt": {"say": words}, "shortest": digits, "longest": digits,
        "store_as": store_as, "typed": typed, "nothing": otherwise, "wrong": otherwise,
    }  # fmt: skip


def continue_in(id_: str, name: str, inner: str, **ways: str) -> dict[str, Any]:
    """A step that continues in another flow by key, with a step for each way by which that comes back (“anything_else”)."""
    returns = [{"id": f"w_{way}", "name": way.replace("_", " "), "to": to} for way, to in ways.items()]
    return {"kind": "continue_in", "id": id_, "name": name, "flow": inner, "returns": returns}


def come_back(id_: str, way: str) -> dict[str, Any]:
    return {"kind": "come_back", "id": id_, "way": way}


def place(ident: str, name: str, postal_code: str) -> Place:
    return Place(key=ident, name=name, postal_code=postal_code)


def key(keys: str, name: str, to: str | None, **more: Any) -> dict[str, Any]:
    ident = "k" + keys.replace("*", "star").replace("#", "hash")
    return {"id": ident, "keys": keys, "name": name, "to": to, **more}


def again(keys: str = "*") -> dict[str, Any]:
    return key(keys, "", None, hear_again=True)


def ring(id_: str, name: str, phones: list[dict[str, Any]], no_answer: str | None, **more: Any) -> dict[str, Any]:
    return {"kind": "ring", "id": id_, "name": name, "to": phones, "no_answer": no_answer, **more}


def voicemail(
    id_: str, name: str, mailbox: str, words: str, left: str = END, none: str = END, **more: Any
) -> dict[str, Any]:
    return {
        "kind": "voicemail", "id": id_, "name": name, "mailbox": mailbox, "greeting": {"say": words},
        "message_left": left, "no_message": none, **more,
    }  # fmt: skip


def label(id_: str, words: list[str], next_: str | None, status: str | None = None) -> dict[str, Any]:
    named = {"name": words[0].capitalize(), "labels": words}
    return {"kind": "label", "id": id_, **named, "lead_status": status, "next": next_}


def tell(id_: str, name: str, words: str, *emails: str, next_: str = "end") -> dict[str, Any]:
    """A Notify step that mails some addresses."""
    to = [{"kind": "email", "of": one} for one in emails]
    return {"kind": "notify", "id": id_, "name": name, "to": to, "words": words, "next": next_}


CLIENT_SYSTEM = "http://client-system.example"
"""Stands for the stand-in of a client's own system, whose address is put in when the world is loaded."""


def look_up(id_: str, name: str, path: str, store_as: str, to: str) -> dict[str, Any]:
    """A Look-up of the caller in the client's own system, all of whose exits lead to one step."""
    exits = dict.fromkeys(("found", "not_found", "failed"), to)
    return {
        "kind": "look_up",
        "id": id_,
        "name": name,
        "url": f"{CLIENT_SYSTEM}{path}",
        "send": ["caller"],
        "store_as": store_as,
        **exits,
    }


def back(id_: str, to: str) -> dict[str, Any]:
    return {"kind": "back_to", "id": id_, "name": "Back", "to": to}


def bye(id_: str, name: str, words: str, *, refusal: bool = False) -> dict[str, Any]:
    return {"kind": "hang_up", "id": id_, "name": name, "prompt": {"say": words}, "refusal": refusal}
