"""Whether kept rehearsals hold: what each came to, beside what it should have come to."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ..calls.fates import FATE_NAMES, REASONS, Ending, ending
from ..checks.finding import Finding
from ..flows.model.kept import Expected, KeptRehearsal
from ..flows.running.commands import Play
from ..flows.running.flow import Flow
from .calls import Setting, Went, call


@dataclass(frozen=True, slots=True)
class Verdict:
    """What came of a kept rehearsal: where it does not hold, in sentences (none: it holds); how the call went, None where its moment is over."""

    kept: KeptRehearsal
    misses: tuple[str, ...]
    went: Went | None

    @property
    def holds(self) -> bool:
        return not self.misses

    @property
    def ending(self) -> Ending | None:
        """The fate that it came to."""
        return came_to(self.went) if self.went else None


def came_to(went: Went) -> Ending:
    """The fate of a call."""
    return ending(went.run.state, went.run.seconds)


def verdicts(flow: Flow, setting: Setting) -> list[Verdict]:
    """What comes of all rehearsals that are kept with a flow."""
    return [verdict(flow, one, setting) for one in flow.document.rehearsals]


def verdict(flow: Flow, kept: KeptRehearsal, setting: Setting) -> Verdict:
    """Runs one and looks at what came of it."""
    went = call(flow, kept, setting)
    if went is None:
        return Verdict(kept, ("Its moment does not come any more.",), None)
    return Verdict(kept, tuple(_misses(flow, kept.expects, went, _called(setting))), went)


def _called(setting: Setting) -> Mapping[str, str]:
    people = {key: person.name for key, person in setting.client.people.items()}
    return people | dict(setting.names.sources)


def _misses(flow: Flow, wanted: Expected, went: Went, names: Mapping[str, str]) -> Iterator[str]:
    """What is not as it should be, each as a sentence."""
    state, came = went.run.state, came_to(went)
    if wanted.fate and came.fate != wanted.fate:
        why = f" ({REASONS[came.reason]})" if came.reason else ""
        yield f"The call comes to “{FATE_NAMES[came.fate]}”{why}; it should come to “{FATE_NAMES[wanted.fate]}”."
    if wanted.ends_at and state.at != wanted.ends_at:
        yield f"It ends {_place(flow, state.at)}; it should end {_place(flow, wanted.ends_at)}."
    if wanted.says and not any(_plain(wanted.says) in one for one in heard(went)):
        yield f"The caller does not hear “{wanted.says}”."
    rang = {one.casefold(): rung.seconds for rung in reversed(went.rang) for one in (rung.who, rung.name, rung.to)}
    missing = [names.get(one, one) for one in wanted.rings if one.casefold() not in rang]
    if missing:
        who = ", ".join(dict.fromkeys(one.name or one.to for one in went.rang)) or "nobody"
        yield f"{' and '.join(missing)} {'is' if len(missing) == 1 else 'are'} not rung; {who} {'are' if ',' in who else 'is'}."
    if wanted.within is not None and not missing:
        first = min((rang[one.casefold()] for one in wanted.rings), default=min(rang.values(), default=None))
        if first is None:
            yield f"No phone rings; one should within {wanted.within} seconds."
        elif first > wanted.within:
            yield f"The first phone rings after {first:.0f} seconds; it should within {wanted.within}."
    if wanted.label and wanted.label.casefold() not in {one.casefold() for one in state.labels}:
        yield f"The call does not get the label “{wanted.label}”."
    if wanted.lead_source and state.source != wanted.lead_source:
        yield f"No key states the lead source “{names.get(wanted.lead_source, wanted.lead_source)}”."


def heard(went: Went) -> list[str]:
    """What the caller heard, prompt by prompt, without capitals and double spaces."""
    return [_plain(one.prompt.say) for entry in went.run.log for one in entry.commands if isinstance(one, Play)]


def _plain(text: str) -> str:
    return " ".join(text.casefold().split())


def _place(flow: Flow, step_id: str) -> str:
    step = flow.steps.get(step_id)
    return f"at {step.quoted}" if step else "nowhere" if not step_id else "at a step that is gone"


def findings(found: list[Verdict]) -> list[Finding]:
    """Those that fail, as findings that ask for a word."""
    return [
        Finding("rehearsal_fails", f"The rehearsal “{one.kept.name}” fails. {' '.join(one.misses)}", weight="asks")
        for one in found
        if not one.holds
    ]
