"""The form of a kept rehearsal: its fields, and what they say."""

import re
from datetime import datetime
from typing import Any

from pydantic import ValidationError

from ...core.flows.model.kept import KeptRehearsal
from ...core.flows.running import set_facts
from ...core.numbers import numbering
from ...core.rehearsals import typed
from ...work.flows.open_drafts import OpenDraft
from ..doors import BadForm, Posted

_MOST = {"ahead": 500, "message": 600, "hangs_up": 7200, "within": 3600}
"""The largest number of each field that is one."""


def was(posted: Posted) -> KeptRehearsal | None:
    """The rehearsal that a form was made of; None for a new one. Raises BadForm."""
    raw = posted.was()
    try:
        return None if raw is None else KeptRehearsal.model_validate(raw)
    except ValidationError:
        raise BadForm("The form was changed on its way. Load the page again, then repeat what you did.") from None


def _number(text: str, most: int) -> float | int | str | None:
    """A number of a field, whole where it can be; None for none; or a sentence."""
    text = text.strip()
    if not text:
        return None
    if not re.fullmatch(r"\d{1,4}(\.\d)?", text, re.ASCII) or float(text) > most:
        return f"A number from 0 to {most}."
    return float(text) if "." in text else int(text)


def as_typed(draft: OpenDraft, kept: KeptRehearsal) -> dict[str, str]:
    """A kept rehearsal as the fields of its form."""
    wanted, when = kept.expects, kept.when
    caller = numbering.shown(kept.caller, draft.client.country) if kept.caller else ""
    return {
        "name": kept.name, "kind": when.kind, "at": when.at, "day": str(getattr(when, "day", 0)), "holiday": getattr(when, "name", ""),
        "date": str(getattr(when, "date", "")), "caller": caller, "lead_source": kept.lead_source, "ahead": str(kept.ahead),
        "presses": typed.written_presses(kept.presses, draft.shown.step_names), "phones": typed.written_phones(kept.phones, draft.callees),
        "system": typed.written_system(kept.system), "message": "" if kept.message is None else f"{kept.message:g}", "stays": "1" if kept.stays else "",
        "hangs_up": "" if kept.hangs_up is None else str(kept.hangs_up), "fate": wanted.fate or "", "ends_at": wanted.ends_at or "",
        "says": wanted.says, "rings": ", ".join(draft.callees.get(one, one) for one in wanted.rings),
        "within": "" if wanted.within is None else str(wanted.within), "label": wanted.label, "source": wanted.lead_source,
        **{f"fact {key}": value for key, value in kept.facts},
    }  # fmt: skip


def read(posted: Posted, draft: OpenDraft, id_: str, now: datetime) -> KeptRehearsal | dict[str, str]:
    """What a form says; or what is wrong with it, by field."""
    wrong: dict[str, str] = {}

    def part(field: str, read: Any) -> Any:
        if isinstance(read, str):
            wrong[field] = read
        return read

    text = {
        name: " ".join(posted.text(name).split())
        for name in ("name", "at", "holiday", "date", "says", "label", "caller")
    }
    caller = numbering.parse(text["caller"], draft.client.country) if text["caller"] else ""
    if isinstance(caller, numbering.Wrong):
        wrong["caller"] = caller.sentence
    presses = part("presses", typed.read_presses(posted.text("presses"), draft.shown.step_names))
    phones = part("phones", typed.read_phones(posted.text("phones"), draft.callees))
    system = part("system", typed.read_system(posted.text("system")))
    rings = part("rings", typed.read_rings(posted.text("rings"), draft.callees))
    facts = {
        name.removeprefix("fact "): posted.text(name).strip()[:300] for name in posted.form if name.startswith("fact ")
    }
    facts = {key: value for key, value in facts.items() if value}
    wrong |= {f"fact {key}": said for key, said in set_facts.wrong(facts, now, draft.names).items()}
    number = {field: part(field, _number(posted.text(field), most)) for field, most in _MOST.items()}
    kind = posted.text("kind")
    more = {
        "weekday": ("day", posted.text("day")),
        "holiday": ("name", text["holiday"]),
        "date": ("date", text["date"]),
    }
    when = dict([("kind", kind), ("at", text["at"]), *([more[kind]] if kind in more else [])])
    expects = {
        "fate": posted.text("fate") or None, "ends_at": posted.text("ends_at") or None, "says": text["says"], "rings": rings,
        "within": number["within"], "label": text["label"], "lead_source": posted.text("source"),
    }  # fmt: skip
    if not any(value not in (None, "", ()) for value in expects.values()):
        wrong["fate"] = "Say what the call should come to."
    if not text["name"]:
        wrong["name"] = "Give it a name."
    if wrong:
        return wrong
    try:
        return KeptRehearsal.model_validate(
            {
                "id": id_, "name": text["name"], "when": when, "caller": caller, "lead_source": posted.text("lead_source"), "facts": list(facts.items()),
                "presses": presses, "phones": phones, "message": number["message"], "stays": bool(posted.text("stays")), "hangs_up": number["hangs_up"],
                "ahead": number["ahead"] or 0,
                "system": system, "expects": expects,
            }
        )  # fmt: skip
    except ValidationError as error:
        return {
            _field(one["loc"]): _SAID.get(_field(one["loc"]), one["msg"]) for one in error.errors(include_url=False)
        }


_SAID = {
    "at": "Write the time as 09:30.", "day": "Choose a day of the week.", "date": "Write the day as 2027-01-31.",
    "kind": "Choose when it calls.", "name": "At most 80 letters.", "says": "At most 300 letters.", "label": "At most 60 letters.",
}  # fmt: skip


_FIELDS = (*_SAID, "caller", "presses", "phones", "fate", "ends_at", "rings", "kind", "lead_source")


def _field(loc: tuple[int | str, ...]) -> str:
    """The field of the form that a place in the document is about."""
    return "kind" if loc == ("when",) else next((str(one) for one in reversed(loc) if one in _FIELDS), "name")
