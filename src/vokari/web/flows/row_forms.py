"""Reading the form of an opened row into a step, with words for each field that cannot be read."""

import re
import secrets
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from pydantic import TypeAdapter, ValidationError

from ...core import mail
from ...core.flows.conditions.tests import by_period
from ...core.flows.drafting import typed_conditions
from ...core.flows.model.condition import Condition
from ...core.flows.model.steps import AnyStep, Step
from ...core.flows.model.steps.come_back import way_named
from ...core.flows.model.steps.keypad_entry import stored_name
from ...core.numbers import numbering
from ...work.flows.open_drafts import RowAround
from ...work.house.problems import Problem, Problems, Row
from ..doors import Posted

_STEP: TypeAdapter[AnyStep] = TypeAdapter(Step)

_SENTENCES = {
    "greater_than_equal": "At least {ge}.",
    "less_than_equal": "At most {le}.",
    "int_parsing": "Write a whole number.",
    "int_type": "Write a whole number.",
    "string_too_long": "At most {max_length} letters.",
    "string_pattern_mismatch": "This cannot be used here.",
}


def new_id(prefix: str = "s") -> str:
    """An id for a new step, branch or destination; it never changes afterwards."""
    return f"{prefix}{secrets.token_hex(4)}"


def read(posted: Posted, step: AnyStep, around: RowAround) -> tuple[Row, AnyStep | Problems]:
    """The step as the form has it: its raw fields as typed, and the step or what is wrong with them."""
    raw: Row = {
        **step.model_dump(mode="json"), "name": " ".join(posted.text("name").split()), "note": posted.text("note").strip(),
        "to_do": bool(posted.text("to_do")),
    }  # fmt: skip
    problems: Problems = []
    reader = READERS.get(step.kind)
    raw |= reader(Typed(posted, step, around, problems)) if reader else {}
    if problems:
        return raw, problems
    try:
        return raw, _STEP.validate_python(raw)
    except ValidationError as error:
        return raw, [_problem(dict(one)) for one in error.errors(include_url=False)]


@dataclass(frozen=True, slots=True)
class Typed:
    """A posted form of a step, with what it takes to read it: the step as it is and what the client has; and where what is wrong is
    noted."""

    posted: Posted
    step: AnyStep
    around: RowAround
    problems: Problems

    def text(self, name: str, usual: str = "") -> str:
        """A field as it was typed."""
        return self.posted.text(name, usual)


def _problem(error: Row) -> Problem:
    place = [str(part) for part in error["loc"][1:]]
    sentence = _SENTENCES.get(error["type"], error["msg"].removeprefix("Value error, "))
    if place[-1:] == ["keys"]:
        sentence = "A key is 0 to 9, * or #, or 2 to 6 digits."
    sentence = sentence.format(**error.get("ctx", {})) if "{" in sentence else sentence
    return Problem(".".join(place), sentence[0].upper() + sentence[1:])


def _target(posted: Posted, name: str) -> str | None:
    return posted.text(name) or None


def _prompt(typed: "Typed", name: str) -> Row:
    """A prompt with the words as typed, or one of the library that was chosen, with its words; what the form does not show of it, such as
    its language, stays."""
    old = getattr(typed.step, name)
    before = old.model_dump(mode="json") if old else {}
    key, say = typed.text(f"{name}-prompt"), typed.text(name).strip()
    facts = typed.around.prompts.get(key)
    if facts is not None:
        say = facts.words(typed.around.language) or say
    elif key != before.get("prompt"):
        key = ""
    return {name: {**before, "say": say, "prompt": key or None}}


def _perhaps(typed: "Typed", name: str) -> Row:
    """A prompt that may be left out: none where nothing was typed and none chosen."""
    return _prompt(typed, name) if typed.text(name).strip() or typed.text(f"{name}-prompt") else {name: None}


def _indexes(posted: Posted, prefix: str) -> list[int]:
    """The indexes of a repeated group of fields, in order."""
    found = {int(m.group(1)) for name in posted.form if (m := re.fullmatch(rf"{prefix}-([0-9]{{1,3}})-\w+", name))}
    return sorted(found)


def _announcement(typed: Typed) -> Row:
    return {
        **_prompt(typed, "prompt"), "times": typed.text("times") or 1, "next": _target(typed.posted, "next"),
        "notice": bool(typed.text("notice")), "counts_as": typed.text("counts_as") or "nothing",
    }  # fmt: skip


def _label(typed: Typed) -> Row:
    labels = [" ".join(one.split()) for one in typed.text("labels").split(",")]
    status = " ".join(typed.text("lead_status").split())
    return {
        "labels": [one for one in labels if one],
        "lead_status": status or None,
        "next": _target(typed.posted, "next"),
    }


def _keypad_entry(typed: Typed) -> Row:
    posted = typed.posted
    name = stored_name(typed.text("store_as"))
    if not name:
        sentence = (
            "What is typed is kept under a name of letters, digits and spaces that begins with a letter: order number."
        )
        typed.problems.append(Problem("store_as", sentence))
    numbers: Row = {one: typed.text(one).strip() for one in ("shortest", "longest", "wait", "tries", "inter_digit")}
    return {
        **_prompt(typed, "prompt"), **numbers, "store_as": name or typed.text("store_as"),
        **_perhaps(typed, "retry_silent"), **_perhaps(typed, "retry_wrong"),
        **{one: _target(posted, one) for one in ("typed", "nothing", "wrong")},
    }  # fmt: skip


def _continue_in(typed: Typed) -> Row:
    """The flow and where its ways back lead; a flow that was just chosen brings its ways along."""
    posted = typed.posted
    key = posted.text("flow")
    other = typed.around.flows.get(key)
    returns = [
        {"id": posted.text(f"back-{n}-id") or new_id("w"), "name": " ".join(posted.text(f"back-{n}-name").split()),
         "to": _target(posted, f"back-{n}-to")}
        for n in _indexes(posted, "back")
    ]  # fmt: skip
    returns = [one for one in returns if one["name"]]
    known = {way_named(str(one["name"])) for one in returns}
    returns += [
        {"id": new_id("w"), "name": way, "to": None}
        for way in (other.ways if other else ())
        if way_named(way) not in known
    ]
    return {"flow": key, "returns": returns}


def _come_back(typed: Typed) -> Row:
    return {"way": " ".join(typed.text("way").split())}


def _look_up(typed: Typed) -> Row:
    return {
        "url": typed.text("url").strip(), "patience": typed.text("patience"), "store_as": typed.text("store_as"),
        "send": [name for name in ("caller", "called") if typed.text(f"send-{name}")],
        **{name: _target(typed.posted, name) for name in ("found", "not_found", "failed")},
    }  # fmt: skip


def _back_to(typed: Typed) -> Row:
    return {"to": _target(typed.posted, "to")}


def _hang_up(typed: Typed) -> Row:
    return {**_prompt(typed, "prompt"), "refusal": bool(typed.text("refusal"))}


def _menu(typed: Typed) -> Row:
    posted, step = typed.posted, typed.step
    branches = []
    old = {one["id"]: one for one in step.model_dump(mode="json").get("branches", ())}
    for index in _indexes(posted, "branch"):
        keys = posted.text(f"branch-{index}-keys").strip()
        if not keys:
            continue
        hear_again = posted.text(f"branch-{index}-to") == "again"
        branches.append(
            {
                **old.get(posted.text(f"branch-{index}-id"), {}),
                "id": posted.text(f"branch-{index}-id") or new_id("b"),
                "keys": keys,
                "name": " ".join(posted.text(f"branch-{index}-name").split()),
                "to": None if hear_again else _target(posted, f"branch-{index}-to"),
                "hear_again": hear_again,
                "elsewhere": bool(posted.text(f"branch-{index}-elsewhere")),
                "language": posted.text(f"branch-{index}-language") or None,
                "source": posted.text(f"branch-{index}-source") or None,
            }
        )
    whole: Row = {name: posted.text(name) for name in ("tries", "inter_digit")}
    whole["wait"] = posted.text("wait").strip() or None
    return {
        **_prompt(typed, "prompt"), **whole, **_perhaps(typed, "retry_silent"),
        **_perhaps(typed, "retry_wrong"), "branches": branches, "nothing": _target(posted, "nothing"), "wrong": _target(posted, "wrong"),
        "dial_extensions": bool(posted.text("dial_extensions")), "extension": _target(posted, "extension"),
    }  # fmt: skip


def _in_order(posted: Posted, prefix: str) -> list[int]:
    """The indexes of a repeated group of fields in the order that their numbers ask for."""
    return sorted(
        _indexes(posted, prefix),
        key=lambda n: posted.place(f"{prefix}-{n}-place", n, known=bool(posted.text(f"{prefix}-{n}-id"))),
    )


def _junction(typed_form: Typed) -> Row:
    """The exits as typed; a stroke adds one for each period of a set that has none yet, or one for exceptions."""
    posted, tables, problems = typed_form.posted, typed_form.around.hours, typed_form.problems
    names = typed_form.around.names
    branches: list[Row] = []
    for index in _in_order(posted, "branch"):
        typed = posted.text(f"branch-{index}-when").strip()
        if not typed:
            continue
        when = typed_conditions.read(typed, names)
        if isinstance(when, str):
            problems.append(Problem(f"branches.{len(branches)}.when", when))
        branches.append(
            {
                "id": posted.text(f"branch-{index}-id") or new_id("b"),
                "name": " ".join(posted.text(f"branch-{index}-name").split()),
                "to": _target(posted, f"branch-{index}-to"),
                **({"typed": typed} if isinstance(when, str) else {"when": when.model_dump(mode="json")}),
            }
        )
    if problems:
        branches = [
            {"typed": typed_conditions.write(Condition(**one["when"]), names), **one} if "when" in one else one
            for one in branches
        ]
    stroke = posted.text("stroke")
    if not problems and stroke in tables:
        asked = [
            part
            for one in branches
            if one["when"]["test"] == "period" and one["when"]["of"] == stroke
            for part in one["when"]["any_of"]
        ]
        missing = [period.id for period in tables[stroke].hours.periods if period.id not in asked]
        branches += [one.model_dump(mode="json") for one in by_period(stroke, missing, new_id)]
    elif not problems and stroke == "exception" and tables:
        key = next((one["when"]["of"] for one in branches if one["when"]["of"] in tables), next(iter(tables)))
        exceptional = Condition(test="exception", of=key).model_dump(mode="json")
        branches.insert(0, {"id": new_id("b"), "name": "", "to": None, "when": exceptional})
    return {"branches": branches, "otherwise": _target(posted, "otherwise")}


def _ring(form: Typed) -> Row:
    posted, country, problems = form.posted, form.around.country, form.problems
    phones: list[Row] = []
    for index in _in_order(posted, "phone"):
        of, _, key = posted.text(f"phone-{index}-of").partition(":")
        if of in ("person", "team", "dialed"):
            if not posted.text(f"phone-{index}-out"):
                seconds = {"seconds": posted.text(f"phone-{index}-seconds").strip() or None} if of != "team" else {}
                named = {of: key} if of != "dialed" else {}
                phones.append({"kind": of, "id": posted.text(f"phone-{index}-id") or new_id("d"), **named, **seconds})
            continue
        typed, name = posted.text(f"phone-{index}-number").strip(), posted.text(f"phone-{index}-name")
        if not typed and not name.strip():
            continue
        if re.match(r"sips?:\S+$", typed):
            dialed = {"kind": "sip", "address": typed}
        else:
            read = numbering.parse_dialed(typed, country)
            if isinstance(read, numbering.Wrong):
                problems.append(Problem(f"to.{len(phones)}.number", read.sentence))
            dialed = {"kind": "number", "number": typed if isinstance(read, numbering.Wrong) else read}
        phones.append(
            {
                **dialed,
                "id": posted.text(f"phone-{index}-id") or new_id("d"),
                "name": " ".join(name.split()),
                "seconds": posted.text(f"phone-{index}-seconds").strip() or None,
                "answered": posted.text(f"phone-{index}-answered") or "picked_up",
                "hours": posted.text(f"phone-{index}-hours") or None,
            }
        )
    of, _, key = posted.text("callee").partition(":")
    if of in ("person", "team") and key:
        phones.append({"kind": of, "id": new_id("d"), of: key})
    elif of == "dialed":
        phones.append({"kind": of, "id": new_id("d")})
    targets = {name: _target(posted, name) for name in ("no_answer", "busy", "unreachable", "nobody", "after")}
    return {
        "to": phones, "strategy": posted.text("strategy") or "in_order", "rounds": posted.text("rounds") or 1,
        "limit": posted.text("limit").strip() or None, **_taking(posted), **targets,
        "last_spoke": {"days": posted.text("last_days") or 90} if posted.text("last_spoke") else None,
        **_perhaps(form, "hold_sound"),
    }  # fmt: skip


def _taking(posted: Posted) -> Row:
    """How a phone is rung and a call taken, which Ring and Hold line have in common."""
    key = posted.text("accept_key")
    return {
        "shows": posted.text("shows") or "caller", "machine_detection": bool(posted.text("machine_detection")),
        "accept": {"key": key, "seconds": posted.text("accept_seconds") or 8} if key else None,
        "hears": {"words": " ".join(posted.text("hears_words").split()), "asks": posted.text("hears_asks").strip()},
        "recording": {
            "purpose": posted.text("recording") or "none", "sources": posted.texts("recorded_sources"),
            "per_week": posted.text("per_week").strip() or 5, "keep_key": posted.text("keep_key") or None,
            "pause_key": posted.text("pause_key") or None,
        },
    }  # fmt: skip


def _hold_line(typed: Typed) -> Row:
    posted = typed.posted
    return {
        "team": posted.text("team"), "longest_wait": posted.text("longest_wait"), "most_callers": posted.text("most_callers"),
        "announce_every": posted.text("announce_every").strip() or None, "says_position": bool(posted.text("says_position")),
        "says_wait": bool(posted.text("says_wait")), **_perhaps(typed, "music"), **_perhaps(typed, "tells"),
        "leave_key": posted.text("leave_key") or None, **_taking(posted),
        **{name: _target(posted, name) for name in ("waited", "full", "left", "nobody", "after")},
    }  # fmt: skip


def _notify(form: Typed) -> Row:
    """Who is told: people that are ticked, the caller, and what was typed, each an address or a number."""
    posted, country, problems = form.posted, form.around.country, form.problems
    keys = [name.removeprefix("person-") for name in posted.form if name.startswith("person-")]
    to: list[Row] = [{"kind": "person", "of": key} for key in keys]
    to += [{"kind": "caller"}] if posted.text("caller") else []
    for typed in (one.strip() for one in re.split(r"[,;\n]+", posted.text("others"))):
        if "@" in typed:
            to.append({"kind": "email", "of": typed})
            if not mail.is_address(typed):
                problems.append(Problem("to", f"“{typed}” is no email address."))
        elif typed:
            read = numbering.parse(typed, country)
            to.append({"kind": "number", "of": typed if isinstance(read, numbering.Wrong) else read})
            if isinstance(read, numbering.Wrong):
                problems.append(Problem("to", f"“{typed}”: {read.sentence}"))
    return {
        "to": to, "by": posted.text("by") or "email", "words": posted.text("words").strip(), "next": _target(posted, "next"),
        **({"others": posted.text("others")} if problems else {}),
    }  # fmt: skip


def _voicemail(typed: Typed) -> Row:
    posted = typed.posted
    return {
        **_prompt(typed, "greeting"), "mailbox": posted.text("mailbox") or None, "beep": bool(posted.text("beep")),
        "longest": posted.text("longest"), "stop_key": posted.text("stop_key") or None,
        "stop_silence": posted.text("stop_silence").strip() or None, "message_left": _target(posted, "message_left"),
        "no_message": _target(posted, "no_message"),
    }  # fmt: skip


READERS: Mapping[str, Callable[[Typed], Row]] = {
    "announcement": _announcement, "menu": _menu, "junction": _junction, "ring": _ring, "hold_line": _hold_line,
    "voicemail": _voicemail, "label": _label, "look_up": _look_up, "notify": _notify, "back_to": _back_to, "hang_up": _hang_up,
    "keypad_entry": _keypad_entry, "continue_in": _continue_in, "come_back": _come_back,
}  # fmt: skip
"""What reads the form of each kind of step."""
