"""A flow in words: what a caller meets at each step, and how long it takes."""

from ..model.document import Exit, FlowDocument
from ..model.steps import (
    BY,
    KIND_NAMES,
    Announcement,
    BackTo,
    HangUp,
    HoldLine,
    Junction,
    Label,
    LookUp,
    Menu,
    Notify,
    Ring,
    Step,
    Voicemail,
)
from ..model.values import END, SAME, Prompt, Target, TeamDestination

WORDS_A_MINUTE = 150
"""Speed of text read aloud. Common practice, no source."""

STRATEGIES = {"all_at_once": "all at once", "in_order": "in order"}


def speaking_seconds(prompt: Prompt) -> float:
    """How long a text takes to read aloud, estimated from its words; at least a second when there are any."""
    count = len(prompt.say.split())
    return max(1.0, round(count * 60 / WORDS_A_MINUTE, 1)) if count else 0.0


def step_name(step: Step) -> str:
    """The name of a step, or its kind when it has none."""
    return step.name or KIND_NAMES[step.kind]


def summary(step: Step, document: FlowDocument, mailboxes: dict[str, str] | None = None) -> str:
    """What happens at a step, in one short line that goes on from its name. `mailboxes` names them by key, if known."""
    match step:
        case Announcement():
            return _announcement(step)
        case Menu():
            return _menu(step)
        case Ring():
            return _ring(step)
        case HoldLine():
            return _hold_line(step)
        case Voicemail():
            return _voicemail(step, mailboxes)
        case Junction():
            return _junction(step)
        case Label():
            return "labels the call " + (", ".join(f"“{one}”" for one in step.labels) or "with nothing yet")
        case LookUp():
            return f"asks {step.url or 'nowhere yet'}, keeps the answer as {step.store_as}, {step.patience} s"
        case Notify():
            told = [{"caller": "the caller", "person": "a person"}.get(one.kind, one.of or "") for one in step.to]
            who = receiver_names(told) or "nobody yet"
            return f"tells {who} {BY.get(step.by, step.by)}"
        case BackTo():
            target = document.step(step.to) if step.to else None
            return f"goes back to {step_name(target)}" if target else "goes back to nowhere yet"
        case HangUp():
            ending = " as a refusal" if step.refusal else ""
            return f"{_quoted(step.prompt)} and ends the call{ending}"
    return KIND_NAMES[step.kind].lower()


def receiver_names(told: list[str]) -> str:
    """Some names in a row; people, whose names a flow does not hold, by their number."""
    people = told.count("a person")
    names = [one for one in told if one != "a person"]
    if people:
        names.insert(0, "a person" if people == 1 else f"{people} people")
    return " and ".join([", ".join(names[:-1]), names[-1]]) if len(names) > 1 else "".join(names)


def _quoted(prompt: Prompt) -> str:
    return f"says “{prompt.say.strip()}”" if not prompt.is_empty() else "says nothing yet"


def _announcement(step: Announcement) -> str:
    parts = [_quoted(step.prompt)]
    if step.times > 1:
        parts.append(f"{step.times} times")
    if step.notice:
        parts.append("heard to the end")
    if step.counts_as != "nothing":
        parts.append("an answer in itself" if step.counts_as == "served" else "a refusal")
    return ", ".join(parts)


def _menu(step: Menu) -> str:
    keys = " ".join(branch.keys for branch in step.branches) or "no key yet"
    tries = "1 try" if step.tries == 1 else f"{step.tries} tries"
    return f"asks {keys}, {step.wait} s, {tries}"


def _junction(step: Junction) -> str:
    if not step.branches:
        return "sorts by nothing yet"
    ways = [branch.name or branch.when.test for branch in step.branches]
    return f"sorts by {', '.join(ways)}, {step.otherwise_name or 'otherwise'}"


def _ring(step: Ring) -> str:
    if not step.to:
        return "rings nobody yet"
    names = [_destination(one) for one in step.to]
    who = names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
    seconds = {one.seconds for one in step.to if not isinstance(one, TeamDestination)} or {0}
    each = f"{max(seconds)} s" + (" each" if len(step.to) > 1 else "") if len(seconds) == 1 else "each its own time"
    parts = [f"rings {who}"]
    if len(step.to) > 1:
        parts.append(STRATEGIES.get(step.strategy, step.strategy.replace("_", " ")))
    if seconds != {0}:
        parts.append(each)
    if step.rounds > 1:
        parts.append(f"{step.rounds} rounds")
    if step.limit:
        parts.append(f"{step.limit} s in all")
    if step.last_spoke:
        parts.append(f"first whom they spoke with in {step.last_spoke.days} days")
    return ", ".join([*parts, *_taking(step)])


RECORDED = {"on": "recorded", "on_demand": "recorded on demand"}


def _taking(step: Ring | HoldLine) -> list[str]:
    """What is said of a person who is rung: how they take the call, what they hear first, whether it is recorded."""
    parts = [f"press {step.accept.key} to take it"] if step.accept else []
    if step.hears.what != "nothing":
        parts.append("a whisper first" if step.hears.what == "whisper" else "the caller’s name first")
    if step.recording.mode == "sample":
        parts.append(f"{step.recording.in_hundred} in 100 recorded")
    elif step.recording.mode != "off":
        parts.append(RECORDED[step.recording.mode])
    return parts


def _hold_line(step: HoldLine) -> str:
    if not step.team:
        return "holds callers for nobody yet"
    parts = [f"holds callers for {step.team_name or 'a team'}", f"at most {spoken_time(step.longest_wait)}"]
    parts.append(f"{step.most_callers} callers")
    said = [words for words, on in (("place", step.says_position), ("wait", step.says_wait)) if on]
    if said:
        every = f"every {step.announce_every} s" if step.announce_every else "once"
        parts.append(f"says {' and '.join(said)} {every}")
    if step.leave_key:
        parts.append(f"{step.leave_key} leaves")
    return ", ".join([*parts, *_taking(step)])


def spoken_time(seconds: int) -> str:
    """A length of time in minutes where it is whole ones, else in seconds."""
    return f"{seconds // 60} min" if seconds >= 60 and seconds % 60 == 0 else f"{seconds} s"


def _destination(one: object) -> str:
    return str(getattr(one, "name", "") or getattr(one, "dialed", "") or "a phone")


def _voicemail(step: Voicemail, mailboxes: dict[str, str] | None) -> str:
    where = (mailboxes or {}).get(step.mailbox or "")
    kept = "keeps a message" if mailboxes is None and step.mailbox else "has no mailbox yet"
    parts = [f"keeps a message in {where}" if where else kept]
    if step.beep:
        parts.append("beep")
    parts.append(f"up to {spoken_time(step.longest)}")
    if step.stop_key:
        parts.append(f"{step.stop_key} ends it")
    if step.message_left == END and step.no_message == END:
        parts.append("then the call ends")
    return ", ".join(parts)


def target_words(target: Target, leads_to: Step | None, number: int = 0) -> str:
    """Where an exit leads, in words."""
    if leads_to is not None:
        return f"to {number} {step_name(leads_to)}" if number else f"to {step_name(leads_to)}"
    if target == END:
        return "the call ends"
    if target == SAME:
        return "as no answer"
    return "nowhere yet"


def longest_ring(step: Ring) -> int:
    """The most seconds that a caller hears ringing in this step: ring times in order add up, all at once they do not."""
    seconds = [one.seconds for one in step.to] or [0]
    whole = max(seconds) if step.strategy == "all_at_once" else sum(seconds)
    return min(whole * step.rounds, step.limit or 10**6)


def exit_name(exit_: Exit) -> str:
    """What stands beside an exit: the branch's own words, or the exit's name."""
    return exit_.name or ("hear again" if exit_.hear_again else "")
