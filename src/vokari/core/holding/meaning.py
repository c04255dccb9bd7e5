"""What a Hold line means for a caller, worked out: what is said when, how long they wait at most, and how long they wait
at the client's real load."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from ..flows.model.callee import time_words
from ..flows.model.steps import HoldLine
from ..people import erlang
from ..people.directory import Person
from ..people.meaning import Bar, meaning, runs
from .line import Served

LONG_WAIT = 60.0
"""From this mean wait in seconds on, one more person is proposed (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Held:
    """The seconds at which place and wait are said, the longest wait, the phones that ring once somebody is free, in
    seconds from then, and what to say of it."""

    says_at: tuple[float, ...]
    longest: float
    bars: tuple[Bar, ...]
    sentences: tuple[str, ...]


def held(step: HoldLine, line: Served, people: Mapping[str, Person], exits: Mapping[str, str]) -> Held:
    """What a caller meets in a line that is served so now. `exits` says where each exit of the step leads, in words."""
    says: tuple[float, ...] = ()
    if step.says_position or step.says_wait:
        every = step.announce_every
        says = tuple(float(at) for at in range(0, step.longest_wait, every)) if every else (0.0,)
    waves = line.free[0].waves if line.free else []
    guarded = step.accept is not None or step.machine_detection
    rings = meaning([(tuple(waves), (), False)], None, people, guarded=guarded)
    return Held(says, float(step.longest_wait), rings.bars, tuple(_sentences(step, line, rings.bars, len(says), exits)))


def _sentences(
    step: HoldLine, line: Served, bars: Sequence[Bar], said: int, exits: Mapping[str, str]
) -> list[str]:  # fmt: skip
    if not line.on_duty:
        first = f"Right now nobody is available, so a caller goes {exits['nobody']} at once."
    elif line.free:
        seconds = sum(bar.rung.seconds for bar in bars)
        first = f"Right now {len(line.free)} of {line.on_duty} on duty are free: a caller rings {bars[0].rung.name}, {seconds} s."
    else:
        first = f"Right now all {line.on_duty} on duty are on a call, so a caller waits."
    found = [first, f"A caller waits {time_words(step.longest_wait)} at most, then {exits['waited']}."]
    if said:
        times = "once" if said == 1 else f"{said} times"
        found.append(f"In the longest wait they hear their {step.said} {times}.")
    else:
        found.append("They hear nothing of how long it takes: many hang up sooner.")
    found.append(f"With {step.most_callers} in line, the next caller goes {exits['full']}.")
    found.append(
        f"Key {step.leave_key} leaves the line: {exits['left']}."
        if step.leave_key
        else "No key leaves the line: a caller who does not want to wait can only hang up."
    )
    if any(bar.mailbox is not None for bar in bars):
        found.append("A mailbox of the phone’s own could take the call. Ring shorter, or ask for a key.")
    return found


@dataclass(frozen=True, slots=True)
class WaitHour:
    """An hour of the day: how many calls come to the line in it, the load in erlangs, how many serve it, the chance of
    waiting (Erlang C), the mean wait of all in seconds (None: the line would grow for ever), and the part that would wait
    longer than the line's limit."""

    hour: int
    calls: float
    erlangs: float
    people: int
    chance: float
    mean_wait: float | None
    too_long: float


def hours_of(
    calls: Mapping[int, float], mean_seconds: float, people: Mapping[int, int], longest_wait: float
) -> list[WaitHour]:
    """The hours in which calls come, by the mean count of calls in each and the people who serve in it."""
    found = []
    for hour, count in sorted(calls.items()):
        load, some = erlang.load(count, mean_seconds), people.get(hour, 0)
        wait = erlang.mean_wait(some, load, mean_seconds)
        late = erlang.waits_longer(some, load, mean_seconds, longest_wait)
        found.append(WaitHour(hour, count, load, some, erlang.waiting(some, load), wait, late))
    return found


def proposal(hours: Sequence[WaitHour], mean_seconds: float) -> str:
    """What would help most: one more person in the hours in which callers wait too long; empty where nothing is needed."""
    bad = [one for one in hours if one.people and (one.mean_wait is None or one.mean_wait > LONG_WAIT)]
    if not bad:
        return ""
    worst = max(runs(bad), key=lambda run: sum(one.calls * (one.mean_wait or 3600) for one in run))

    def mean(of: Callable[[WaitHour], float | None]) -> float | None:
        waits = [(one.calls, of(one)) for one in worst]
        known = [(calls, wait) for calls, wait in waits if wait is not None]
        if len(known) < len(waits):
            return None
        return sum(calls * wait for calls, wait in known) / sum(calls for calls, _ in known)

    before = mean(lambda one: one.mean_wait)
    after = mean(lambda one: erlang.mean_wait(one.people + 1, one.erlangs, mean_seconds))
    when = f"One more person between {worst[0].hour} and {worst[-1].hour + 1} o’clock"
    if after is None:
        return f"{when} would not be enough: more calls come than they could take."
    if before is None:
        return f"{when} would let them keep up, with a mean wait of {after:.0f} s; now the line only grows."
    return f"{when} would bring the mean wait from {before:.0f} s to {after:.0f} s."
