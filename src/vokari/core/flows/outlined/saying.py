"""What a step is as a statement, which `statements` reads back alike."""

from collections import Counter
from collections.abc import Mapping
from itertools import count

from ...prompts.moments import is_shipped
from ..model.document import FlowDocument
from ..model.steps import (
    Announcement,
    AnyStep,
    BackTo,
    ComeBack,
    ContinueIn,
    HangUp,
    HoldLine,
    Junction,
    KeypadEntry,
    Label,
    LookUp,
    Menu,
    Notify,
    Ring,
    Voicemail,
)
from ..model.steps.keypad_entry import spoken_name
from ..shown.outline import outline
from ..wording.written import words_of
from . import ringing
from .known import Known
from .quoting import named, quoted


class Saying:
    """Writes statements of one flow; `names` has what each step is called, as `_names` tells."""

    def __init__(self, document: FlowDocument, known: Known) -> None:
        self.document, self.known = document, known
        self.names = _names(document)

    def said(self, step: AnyStep, *, headed: bool = False) -> str:
        """What a step does."""
        match step:
            case Announcement():
                settings = ["notice"] if step.notice else []
                settings += [f"{step.times} times"] if step.times > 1 else []
                settings += [step.counts_as.replace("_", " ")] if step.counts_as != "nothing" else []
                return ", ".join([f"say {quoted(step.prompt.say)}", *settings])
            case Menu():
                settings = [f"{step.tries} tries"] if step.tries != 2 else []
                settings += [f"wait {step.wait} s"] if step.wait is not None else []
                settings += ["extensions"] if step.dial_extensions else []
                words = "" if self.words_follow(step) else f" {quoted(step.prompt.say)}"
                return ", ".join([f"ask{words}", *settings])
            case Junction():
                return "sort"
            case Ring():
                return ringing.written(step, self.known, headed=headed)
            case HoldLine():
                settings = [f"at most {step.longest_wait} s"] if step.longest_wait != 300 else []
                settings += [f"{step.leave_key} leaves"] if step.leave_key else []
                return ", ".join([f"hold for {self.known.teams.get(step.team, step.team_name)}", *settings])
            case Voicemail():
                box = self.known.mailboxes.get(step.mailbox or "", "")
                own = bool(step.greeting.say) and not is_shipped(step.greeting.say)
                parts = [*([box] if box else []), *([quoted(step.greeting.say)] if own else [])]
                return f"voicemail {', '.join(parts)}".rstrip()
            case Label():
                status = [f"lead status {step.lead_status}"] if step.lead_status else []
                return f"label {', '.join([*step.labels, *status])}"
            case KeypadEntry():
                settings = [f"{step.tries} tries"] if step.tries != 2 else []
                settings += [f"wait {step.wait} s"] if step.wait != 5 else []
                settings += [f"pause {step.inter_digit} s"] if step.inter_digit != 3 else []
                asked = f"type {step.length_words} for {spoken_name(step.store_as)} {quoted(step.prompt.say)}"
                return ", ".join([asked, *settings])
            case ContinueIn():
                other = self.known.flows.get(step.flow)
                return f"continue in {named(other.name)}" if other else "continue in"
            case ComeBack():
                return f"come back with {quoted(step.way) if step.way else ''}".rstrip()
            case Notify():
                return "notify"
            case LookUp():
                return "look up"
            case BackTo():
                if step.to == self.document.start:
                    return "back to the start"
                return f"back to {self.called(step.to)}" if step.to and step.to in self.names else "back to nowhere yet"
            case HangUp():
                return f"bye {quoted(step.prompt.say)}{', refusal' if step.refusal else ''}"
        return step.kind

    def words_follow(self, step: AnyStep) -> bool:
        """Whether a menu has the words that are written from its branches."""
        if not isinstance(step, Menu):
            return False
        return step.prompt.say == words_of(step, self.document)

    def called(self, step_id: str) -> str:
        """The name of a step as a line that leads there has it."""
        name, which = self.names[step_id]
        return f"{quoted(name)} #{which}" if which else named(name)


def _names(document: FlowDocument) -> Mapping[str, tuple[str, int]]:
    """What each step is called in the text, and which of several of one name it is, from 1 (0: the only one). One without a name is
    called by its kind and a number."""
    order = [row.step for row in outline(document) if row.step is not None]
    counts = Counter(step.name.casefold() for step in order)
    seen: Counter[str] = Counter()
    numbers = count(1)
    found: dict[str, tuple[str, int]] = {}
    for step in order:
        low = step.name.casefold()
        if low:
            seen[low] += 1
            found[step.id] = (step.name, seen[low] if counts[low] > 1 else 0)
        else:
            name = next(name for n in numbers if (name := f"{step.title} {n}").casefold() not in counts)
            found[step.id] = (name, 0)
    return found
