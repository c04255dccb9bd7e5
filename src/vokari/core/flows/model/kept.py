"""Kept rehearsals: calls with what they should come to, which travel with their flow."""

from datetime import date as Date
from typing import Annotated, Literal, Self

from pydantic import Field

from ...value import Value
from .exits import Renaming
from .values import StepId

At = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]
Short = Annotated[str, Field(max_length=120)]
PhoneDoes = Literal["answers", "no_key", "busy", "declines", "rings_out", "unreachable", "mailbox", "on_call"]
"""What a phone does when it is rung; `no_key`: somebody picks up and does not press the accept key; `on_call`: it is engaged by another call for the
whole of this one."""


class OnWeekday(Value):
    """The next such day of the week (Monday is 0) that is no exception of the client's hours."""

    kind: Literal["weekday"] = "weekday"
    day: Annotated[int, Field(ge=0, le=6)]
    at: At


class OnHoliday(Value):
    """The next day that is an exception of the client's hours: the one of this name, or any."""

    kind: Literal["holiday"] = "holiday"
    name: Short = ""
    at: At


class OnDate(Value):
    """One day and no other."""

    kind: Literal["date"] = "date"
    date: Date
    at: At


When = Annotated[OnWeekday | OnHoliday | OnDate, Field(discriminator="kind")]


class Pressed(Value):
    """The keys with which the caller answers when they are next asked for some (none: silence); or, with `after`, keys pressed so many seconds
    after the call came to a step, or after it came at all, whatever is heard then."""

    keys: Annotated[str, Field(pattern=r"^[0-9*#]{0,40}$")] = ""
    at: StepId | None = None
    after: Annotated[int, Field(ge=0, le=7200)] | None = None


class PhoneScript(Value):
    """What the phones of somebody do (`who`: the key of a person, or a name or number; empty: every other phone), each time they are rung; the
    last stands for all times after."""

    who: Short = ""
    does: Annotated[tuple[PhoneDoes, ...], Field(min_length=1, max_length=20)]


class SystemSays(Value):
    """What the client's own system answers to a look-up."""

    what: Literal["found", "not_found", "failed"]
    value: Annotated[str, Field(max_length=200)] = ""


class Expected(Value):
    """What a call should come to; what is not said does not matter. `rings` are the keys of people, or names or numbers; `within` the seconds until
    the first of them rings, or anybody where none is named."""

    fate: Literal["answered", "message_left", "served", "turned_away", "lost"] | None = None
    ends_at: StepId | None = None
    says: Annotated[str, Field(max_length=300)] = ""
    rings: Annotated[tuple[Short, ...], Field(max_length=20)] = ()
    within: Annotated[int, Field(ge=0, le=3600)] | None = None
    label: Annotated[str, Field(max_length=60)] = ""
    lead_source: Short = ""


class KeptRehearsal(Value):
    """A call: when, from whom (`caller` empty: withheld), to a number of which lead source (empty: any of the flow's), with what is set of
    the caller by the keys of `set_facts`; what the caller presses and phones do; the seconds of a message (None: none is left), and whether
    they stay on the line after it; after how many seconds the caller hangs up, if before its end; how many wait before them in every line;
    what the client's system answers; and what it should come to."""

    id: StepId
    name: Annotated[str, Field(min_length=1, max_length=80)]
    when: When
    caller: Annotated[str, Field(pattern=r"^(\+[1-9]\d{6,14})?$")] = ""
    lead_source: Short = ""
    facts: Annotated[tuple[tuple[Short, Annotated[str, Field(max_length=300)]], ...], Field(max_length=60)] = ()
    presses: Annotated[tuple[Pressed, ...], Field(max_length=60)] = ()
    phones: Annotated[tuple[PhoneScript, ...], Field(max_length=60)] = ()
    message: Annotated[float, Field(ge=0, le=600)] | None = None
    stays: bool = False
    hangs_up: Annotated[int, Field(ge=0, le=7200)] | None = None
    ahead: Annotated[int, Field(ge=0, le=500)] = 0
    system: Annotated[tuple[SystemSays, ...], Field(max_length=20)] = ()
    expects: Expected = Expected()

    def renamed(self, to: Renaming) -> Self:
        """The call with the people and lead sources that it names under other keys; what is left open, or is a name or a number, stays."""
        wanted = self.expects
        expects = {
            "rings": tuple(to("person", one) or one for one in wanted.rings), "lead_source": _source(wanted.lead_source, to),
        }  # fmt: skip
        return self.model_copy(
            update={
                "lead_source": _source(self.lead_source, to),
                "facts": tuple(
                    (key, _source(value, to) if key == "lead_source" else value) for key, value in self.facts
                ),
                "phones": tuple(
                    one.model_copy(update={"who": to("person", one.who) or one.who}) for one in self.phones
                ),
                "expects": wanted.model_copy(update=expects),
            }
        )


def _source(key: str, to: Renaming) -> str:
    return (to("source", key) or key) if key else ""
