"""All routes of the application, a world in which each of their ids is a real row's, and a form for each that is posted to."""

from dataclasses import dataclass, field
from datetime import timedelta
from typing import Any

from sqlalchemy import text
from starlette.routing import Mount

from tests.conftest import NOON
from tests.prompts import sound
from tests.web.conftest import Browser
from tests.wire import Wire
from tests.world import World, main_line
from vokari.core.flows.drafting.edits import AddStep
from vokari.core.flows.model.kept import Expected, KeptRehearsal, OnWeekday
from vokari.core.hours.document import EMPTY_WEEK, Hours, OneOff
from vokari.formats import prompt_files
from vokari.formats.flow_file import FlowFile, write
from vokari.formats.prompt_files import PromptLine
from vokari.store.calls import CallRecording, Export, VoiceMessage
from vokari.store.proofs import LiveFinding
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter
from vokari.work.flows import drafts, kept_rehearsals, rehearsals, versions
from vokari.work.flows.open_rehearsals import OpenRehearsal
from vokari.work.hours import calendars, sets, shared_days, switches
from vokari.work.hours import days as exceptions
from vokari.work.house import due
from vokari.work.numbers import orders, porting, sources
from vokari.work.numbers.orders import Row
from vokari.work.numbers.sources import SourceForm
from vokari.work.people import keeping, on_duty
from vokari.work.prompts import by_link, in_flows, library, speech, takes
from vokari.work.proof import proving

OPEN = {"/sign-in", "/healthz"}
BY_SECRET = {"/calendars/{token}.ics", "/duty/{token}", "/record/{token}", "/record/{token}/takes"}
"""Calendar programs and people’s own pages need no sign-in: the address itself is the secret."""
ALL_ROLES = {
    "/", "/find", "/sign-out", "/tones/{name}.wav", "/speech/{name}.wav", "/exceptions/paint", "/exceptions/holidays", "/account",
}  # fmt: skip
OWNERS = {"/users"}
OWN = ("/clients/{client_id}/hours", "/clients/{client_id}/people", "/clients/{client_id}/calls/{call_id}/call-back")
"""A client editor changes the client's own hours and people, tells who was called back, and nothing else."""
RESULTS = {
    "/clients/{client_id}", "/clients/{client_id}/calls", "/clients/{client_id}/calls/live", "/clients/{client_id}/calls.csv",
    "/clients/{client_id}/calls/{call_id}", "/clients/{client_id}/calls/{call_id}/sound.wav", "/clients/{client_id}/messages/{message_id}.wav", "/clients/{client_id}/report",
    "/clients/{client_id}/report.csv", "/clients/{client_id}/report.xlsx", "/clients/{client_id}/report/print", "/clients/{client_id}/events", "/clients/{client_id}/lines",
    "/clients/{client_id}/cover",
    "/clients/{client_id}/talks/{talk_id}.wav", "/clients/{client_id}/exports/{export_id}",
    "/clients/{client_id}/exports/{export_id}/calls.csv",
}  # fmt: skip
"""What a client's own people may see; every other route but those of hours is for owners and specialists."""
PASSWORD_FORM = {"old": "four-quiet-herons", "new": "five-loud-geese", "again": "five-loud-geese"}
PDF = b"%PDF-1.4 a bill"
CALENDAR = "\r\n".join((
    "BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//x//", "BEGIN:VEVENT", "UID:1@example.com", "SUMMARY:Closed",
    "DTSTART;VALUE=DATE:20261224", "END:VEVENT", "END:VCALENDAR", "",
))  # fmt: skip
CARD = "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Mia Holt\r\nN:Holt;Mia;;;\r\nTEL:410-555-0171\r\nEND:VCARD\r\n"


@dataclass
class Ids:
    """The ids of everything that a world has, and what its forms name."""

    values: dict[str, object]
    forms: dict[str, Any] = field(default_factory=dict)

    def path(self, pattern: str) -> str:
        for name, value in self.values.items():
            pattern = pattern.replace("{" + name + "}", str(value))
        return pattern


def routes(browser: Browser) -> list[tuple[str, str]]:
    """Method and pattern of every route."""
    found: list[tuple[str, str]] = []

    def walk(all_routes: list[Any]) -> None:
        for route in all_routes:
            if isinstance(route, Mount):
                continue
            inner = getattr(getattr(route, "original_router", None), "routes", None) or getattr(
                getattr(route, "router", None), "routes", None
            )
            if inner:
                walk(inner)
            elif hasattr(route, "path"):
                found.extend((method, route.path) for method in route.methods if method in ("GET", "POST"))

    walk(browser.app.routes)  # type: ignore[attr-defined]
    return sorted(set(found))


def filled(world: World, called: str) -> Ids:
    """A world in which something of everything is there; `called` is its first number."""
    args = (world.house, world.actor, world.client.id)
    area, last = called[:-2], called[-1]
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    source = world.source("Search advert", campaign="spring")
    number = world.number(called, source, flow)
    other, wanting = world.number(f"{area}3{last}", world.source("Leaflet")), world.number(f"+4416329600{called[-2:]}")
    wire = Wire(world.house, f"call-{called[1:]}")
    wire.arrive(called)
    wire("caller_gone", 30)
    call = history.log(*args, CallFilter())[0].call
    rehearsal = rehearsals.begin(*args, flow.id, called="", caller="", at=NOON)
    assert isinstance(rehearsal, OpenRehearsal)
    order = made(orders.place(*args, [Row(called[:-1] + "9", SourceForm("Ordered"))], None))
    port = made(porting.request(*args, f"{area}7{last}", "Old Exchange", "1"))
    opening = made(sets.create(*args, "Opening times", "client"))
    period = Hours.model_validate(opening.document).periods[0].id
    assert isinstance(
        sets.set_week(*args, opening.id, [(period, "Open"), ("late", "Late")], EMPTY_WEEK, None), sets.OpenHours
    )
    christmas = OneOff(id="x1", name="Christmas", first=NOON.date(), last=NOON.date())
    assert exceptions.keep(*args, opening.id, christmas) == []
    shared_list = made(shared_days.name_list(world.house, world.actor, None, "Public holidays"))
    made(shared_days.keep(world.house, world.actor, shared_list.id, christmas))
    ada = made(keeping.keep_person(*args, None, {"name": "Ada", "phones": [{"to": f"{area}6{last}"}]}))
    ben = made(keeping.keep_person(*args, None, {"name": "Ben", "phones": [{"to": f"{area}5{last}"}]}))
    yard = made(keeping.keep_team(*args, None, {"name": "Yard", "members": [{"person": ada.key}]}))
    switch = made(switches.start(*args, "closed", "18:00"))
    call_kept = KeptRehearsal(
        id="r1", name="A caller", when=OnWeekday(day=1, at="10:00"), expects=Expected(fate="lost")
    )
    made(kept_rehearsals.keep(*args, flow.id, [call_kept]))
    drafts.edit(*args, flow.id, [AddStep(id="a", kind="announcement", fill={"name": "Welcome"})])
    proving.prove(world.house, flow.id, 2)
    shown = proving.shown(*args, flow.id).document
    assert shown is not None
    spoken = {owner: _prompt(world, owner) for owner in (world.client.id, None)}
    kept, table = world.house.files.put(sound(1), ".wav"), world.house.files.put(b"Start", ".csv")
    stored = {"agency_id": world.agency_id, "client_id": world.client.id}
    with world.house.begin() as session:
        heard = {**stored, "call_id": call.id, "at": NOON, "seconds": 4.0, "recording": "r", "file": kept}
        message, talk = VoiceMessage(**heard, mailbox="mb"), CallRecording(**heard)
        session.add_all([message, talk])
        session.flush()
        export = Export(
            **stored, user_id=world.actor.user_id, made_at=NOON, wanted={}, rows=0, state="done", file=table
        )
        session.add(export)
        session.flush()
        version = session.scalar(text("SELECT live_version_id FROM flows WHERE id = :flow"), {"flow": flow.id})
        finding = LiveFinding(
            **stored, flow_id=flow.id, version_id=version, stamp="", kind="loses_callers", weight="stops", sentence="Callers are lost.", step="m",
            example=shown["ends"][0]["example"], since=NOON,
        )  # fmt: skip
        session.add(finding)
        session.flush()
        change = due.plan(
            session,
            world.actor,
            world.house,
            world.client.id,
            versions.PUT_LIVE,
            flow.id,
            NOON + timedelta(days=9),
            {"version_id": version, "why": "Winter", "numbers": []},
        )
        job = session.scalar(text(
            "INSERT INTO procrastinate_jobs (queue_name, task_name, status, args) VALUES ('default', 'make_speech', 'failed', '{}') RETURNING id"
        ))  # fmt: skip
    return Ids(
        {
            "client_id": world.client.id, "flow_id": flow.id, "source_id": source.id, "number_id": number.id, "call_id": call.id,
            "rehearsal_id": rehearsal.id, "version_id": version, "change_id": change.id, "row": "m", "end": 0, "finding_id": finding.id,
            "kept_id": "r1", "of": "hours", "row_id": opening.id,
            "message_id": message.id, "talk_id": talk.id, "name": "1",
            "order_id": order.id, "export_id": export.id, "kind": "csv", "callee": "person", "port_id": port.id,
            "hours_id": opening.id, "list_id:int": shared_list.id, "ident": "x1", "period": period, "form": "ics",
            "person:int": ada.id, "team:int": yard.id, "row_id:int": ada.id,
            "prompt_id": spoken[world.client.id]["prompt"], "take_id": spoken[world.client.id]["take"], "batch": spoken[world.client.id]["batch"],
            "token": calendars.feed_path(world.house, opening).split("/")[-1].removesuffix(".ics"),
        },
        {
            "other": other.id, "other_number": other.e164, "wanting": wanting.id, "asked_for": wanting.asked_for[0], "ben": ben.id, "job": job,
            "switch": switch.id, "sources": [one.id for one in sources.lead_sources(*args)], "ada_key": ada.key, "phone": f"{area}6{last}",
            "spoken": spoken,
            "speech": speech.sound(world.house, "Hello", "en-US").name,
            "spare": world.flow(main_line(name="Spare", mark="SP"), live=False).id,
            "duty": on_duty.path_of(world.house, ada), "file": write(FlowFile(flow=main_line(name="Brought", mark="BR"))),
        },
    )  # fmt: skip


def _prompt(world: World, client: int | None) -> dict[str, Any]:
    """A prompt of a client, or of the agency, with a take, a season, and a link that is open."""
    args = (world.house, world.actor, client)
    prompt = made(library.create(*args, {"name": "Winter storage", "kind": "message"}))
    take = made(takes.say(*args, prompt, "en-US", "Storage is open until May."))
    until = NOON.date() + timedelta(days=9)
    batch = made(in_flows.season(*args, prompt, take, until, until))
    link = made(by_link.ask(*args, prompt, "en-US", "Ada", 7))
    return {"prompt": prompt, "take": take, "batch": batch, "link": link, "token": by_link.token(world.house, link)}


def made(result: Any) -> Any:
    assert not isinstance(result, list), result
    return result


def pages(ids: Ids) -> dict[str, str]:
    """The addresses of pages that need more than the usual ids, by their pattern."""
    return {
        "/clients/{client_id}/people/phones/replace": f"/clients/{{client_id}}/people/phones/replace?to=%2B{ids.forms['phone'][1:]}",
        "/clients/{client_id}/flows/{flow_id}/means/{row}": "/clients/{client_id}/flows/{flow_id}/means/r",
        "/speech/{name}.wav": f"/speech/{ids.forms['speech']}.wav",
        **{pattern: _shared(ids, pattern) for pattern in SHARED_PROMPTS},
    }


SHARED_PROMPTS = (
    "/prompts/{prompt_id}", "/prompts/{prompt_id}/asked", "/prompts/{prompt_id}/takes/{take_id}.wav",
    "/prompts/{prompt_id}/takes/{take_id}/shape", "/prompts/{prompt_id}/takes/{take_id}/state",
)  # fmt: skip
"""Pages of the agency's own prompts, whose ids are others than a client's."""


def _shared(ids: Ids, pattern: str) -> str:
    own = ids.forms["spoken"][None]
    return pattern.replace("{prompt_id}", str(own["prompt"])).replace("{take_id}", str(own["take"]))


def _prompt_forms(ids: Ids, base: str, owner: int | None) -> dict[str, dict[str, Any]]:
    """The forms of prompts, of a client or of the agency."""
    own = ids.forms["spoken"][owner]
    here = f"{ids.path(base)}/{own['prompt']}"
    wav = {"file": ("Slipway.wav", sound(1))}
    return {
        base: {"name": "Slipway closed", "kind": "message", "words": "The slipway is closed."},
        f"{base}/hear": {"words": "Hello", "language": "en-US"},
        f"{base}/takes": {"name": "Slipway open", "files": wav},
        f"{base}/zip": {
            "files": {
                "file": ("prompts.zip", prompt_files.write([PromptLine("Tide times", words="High water at nine.")]))
            }
        },
        f"{base}/{{prompt_id}}": {"path": here, "name": "Winter storage until May", "kind": "message"},
        f"{base}/{{prompt_id}}/step/{{how}}": {"path": f"{here}/step/undo"},
        f"{base}/{{prompt_id}}/words": {"path": f"{here}/words", "words": "Storage is full.", "language": "en-US"},
        f"{base}/{{prompt_id}}/takes": {"path": f"{here}/takes", "language": "en-US", "files": wav},
        f"{base}/{{prompt_id}}/takes/{{take_id}}/{{do}}": {"path": f"{here}/takes/{own['take']}/heard"},
        f"{base}/{{prompt_id}}/changes/{{batch}}/{{do}}": {"path": f"{here}/changes/{own['batch']}/undo"},
        f"{base}/{{prompt_id}}/telephone": {"path": f"{here}/telephone", "to_typed": "410-555-0113"},
        f"{base}/{{prompt_id}}/links": {"path": f"{here}/links", "days": "7", "language": "en-US"},
        f"{base}/{{prompt_id}}/removal": {"path": f"{here}/removal"},
    }


def forms(ids: Ids) -> dict[str, dict[str, Any]]:
    """A form for each route that is posted to, such that all of them can be posted one after the other; `path` stands for
    another address of the same pattern, `files` for what is uploaded."""
    some, client = ids.forms, f"/clients/{ids.values['client_id']}"
    flow, wanting = f"{client}/flows/{ids.values['flow_id']}", f"{client}/numbers/{some['wanting']}"
    elsewhere = next(one for one in some["sources"] if one != ids.values["source_id"])
    here = f"{client}/hours/{ids.values['hours_id']}"
    period = ids.values["period"]
    week = {
        "order": period,
        f"name-{period}": "Open",
        f"p-{period}": "Mon-Fri 9-17",
        "past": "[]",
        "future": "[]",
        "brush": period,
    }
    days = {"kind": "days", "name": "Closed day", "first": "2026-12-24", "last": "2026-12-24", "times": ""}
    return {
        "/clients/new": {"name": "Corvid Removals", "country": "GB", "city": "London", "time_zone": ""},
        "/clients/{client_id}/extensions": {"do": "shape", "scheme": "7???"},
        "/clients/{client_id}/flows": {"name": "Evening line", "mark": "EL"},
        "/clients/{client_id}/flows/import": {"text": some["file"], "do": "bring"},
        "/clients/{client_id}/flows/{flow_id}/add": {"row": "a", "exit": "next", "line": "say Hello"},
        "/clients/{client_id}/flows/{flow_id}/duplicate": {},
        "/clients/{client_id}/flows/{flow_id}/text": {"text": 'say "Hello"', "path": f"{client}/flows/{some['spare']}/text"},
        "/clients/{client_id}/flows/{flow_id}/text/lines": {"text": 'say "Hello"', "path": f"{client}/flows/{some['spare']}/text/lines"},
        "/clients/{client_id}/flows/{flow_id}/text/match": {"kind-0": "person", "name-0": "Nobody", "path": f"{client}/flows/{some['spare']}/text/match"},
        "/clients/{client_id}/flows/{flow_id}/removal": {"path": f"{client}/flows/{some['spare']}/removal"},
        "/clients/{client_id}/flows/{flow_id}/undo": {},
        "/clients/{client_id}/flows/{flow_id}/redo": {},
        "/clients/{client_id}/flows/{flow_id}/undo ": {},
        "/clients/{client_id}/flows/{flow_id}/connect": {"row": "a", "exit": "next", "to": "m"},
        "/clients/{client_id}/flows/{flow_id}/rows/{row}": {"path": f"{flow}/rows/a", "name": "Welcome", "prompt": "Hello", "times": "1", "next": "m"},
        "/clients/{client_id}/flows/{flow_id}/settings": {"name": "Main line", "mark": "ML", "entry_limit": "10", "rescue": "vm", "start": "m", "language": "en-US"},
        "/clients/{client_id}/flows/{flow_id}/mend": {"row": "r", "mend": "ask_for_key"},
        "/clients/{client_id}/flows/{flow_id}/remove": {"row": "a"},
        "/clients/{client_id}/flows/{flow_id}/live": {},
        "/clients/{client_id}/flows/{flow_id}/versions/{version_id}/live": {},
        "/clients/{client_id}/flows/{flow_id}/numbers": {},
        "/clients/{client_id}/flows/{flow_id}/planned/{change_id}": {},
        "/clients/{client_id}/flows/{flow_id}/rehearse": {"called": "", "caller": "", "at": "2026-11-24T14:05", "ahead": "0"},
        "/clients/{client_id}/flows/{flow_id}/move": {"row": "q", "how": "up"},
        "/clients/{client_id}/flows/{flow_id}/drop": {"row": "q", "to": "r"},
        "/clients/{client_id}/flows/{flow_id}/paste": {"row": "q", "text": "label lead"},
        "/clients/{client_id}/flows/{flow_id}/take-out": {"row": "q", "exit": "no_answer"},
        "/clients/{client_id}/flows/{flow_id}/proof/{end}": {},
        "/clients/{client_id}/flows/{flow_id}/by-telephone": {"hear": "1"},
        "/clients/{client_id}/flows/{flow_id}/rehearsals": {"name": "Another", "kind": "weekday", "day": "2", "at": "09:00", "fate": "lost"},
        "/clients/{client_id}/flows/{flow_id}/rehearsals/propose": {},
        "/clients/{client_id}/flows/{flow_id}/rehearsals/take": {"one": "p1"},
        "/clients/{client_id}/flows/{flow_id}/rehearsals/{kept_id}/play": {},
        "/clients/{client_id}/flows/{flow_id}/rehearsals/{kept_id}/drop": {},
        "/clients/{client_id}/rehearsals/{rehearsal_id}/again": {},
        "/clients/{client_id}/rehearsals/{rehearsal_id}/keep": {"name": "As it went"},
        "/clients/{client_id}/flows/{flow_id}/found/{finding_id}": {},
        "/clients/{client_id}/rehearsals/{rehearsal_id}": {"what": "digit", "key": "1", "elapsed": "2"},
        "/clients/{client_id}/rehearsals/{rehearsal_id}/back": {"kept": "1"},
        "/clients/{client_id}/hours": {"name": "Evenings", "purpose": "client"},
        "/clients/{client_id}/hours/switch": {"kind": "closed", "until": "18:00"},
        "/clients/{client_id}/hours/switch/end": {"switch": some["switch"]},
        "/clients/{client_id}/hours/{hours_id}/paint": {**week, "do": "clear"},
        "/clients/{client_id}/hours/{hours_id}/week": week,
        "/clients/{client_id}/hours/{hours_id}/{kind}": {"path": f"{here}/undo"},
        "/clients/{client_id}/hours/{hours_id}/exceptions": {**days, "do": "add"},
        "/clients/{client_id}/hours/{hours_id}/exceptions/{ident}": days,
        "/clients/{client_id}/hours/{hours_id}/month": {"day": "2026-12-28", "do": "close", "of": "2026-12"},
        "/clients/{client_id}/spend": {"campaign": "spring", "first": "2026-11-02", "amount": "12.50"},
        "/clients/{client_id}/spend/list": {"text": "spring;2026-11-02;12,50"},
        "/clients/{client_id}/hours/{hours_id}/calendar": {"do": "apply", "mode": "closures", "text": CALENDAR},
        "/clients/{client_id}/hours/{hours_id}/settings/details": {"name": "Opening times", "time_zone": "America/Chicago"},
        "/clients/{client_id}/hours/{hours_id}/periods/{period}": {"path": f"{here}/periods/late", "becomes": ""},
        "/clients/{client_id}/mailboxes": {"name": "Office", "tell": "office@example.com"},
        "/clients/{client_id}/number-rules": {"naming_pattern": "{source}", "likeness": "unlike", "rest_days": "30", "rest_words": "", "rest_to": ""},
        "/clients/{client_id}/settings": {"name": "Brightwater Boatyard", "country": "US", "city": "Annapolis", "time_zone": "America/New_York", "fail_safe": "410-555-0160"},
        "/clients/{client_id}/sources": {"name": "Van signs", "medium": "sign"},
        "/clients/{client_id}/test-phones": {"number": "410-555-0188", "name": "Ours"},
        "/clients/{client_id}/numbers/many": {"text": "Name\tMedium\nPostcards\tprint"},
        "/clients/{client_id}/numbers/missing": {"source": some["sources"]},
        "/clients/{client_id}/numbers/order": {"line-1-on": "1", "line-1-number": "+13035550101", "line-1-name": "Posters"},
        "/clients/{client_id}/orders/{order_id}": {"do": "stop"},
        "/clients/{client_id}/exports/{export_id}": {},
        "/clients/{client_id}/calls/{call_id}/call-back": {"do": "undo"},
        "/clients/{client_id}/numbers/take": {"number": "+13035550102", "source": ""},
        "/clients/{client_id}/numbers/change": {"number": [ids.values["number_id"]], "set_whisper": "1", "whisper": "Boatyard", "do": "apply"},
        "/clients/{client_id}/numbers/undo": {"last_bulk": True},
        "/clients/{client_id}/numbers/{number_id}": {"name": "Search", "whisper": "", "fail_safe": "", "flow": ids.values["flow_id"]},
        "/clients/{client_id}/numbers/{number_id}/fail-safe": {},
        "/clients/{client_id}/numbers/{number_id}/give": {"source": elsewhere, "since": "2027-02-01T09:00", "until": ""},
        "/clients/{client_id}/numbers/{number_id}/cancel": {"moment": "2027-02-01T14:00:00"},
        "/clients/{client_id}/numbers/{number_id}/swap": {"other": some["other_number"], "since": ""},
        "/clients/{client_id}/numbers/health": {"number": [some["other"]]},
        "/clients/{client_id}/numbers/{number_id}/documents": {"path": f"{wanting}/documents", "kind": some["asked_for"], "files": {"file": ("bill.pdf", PDF)}},
        "/clients/{client_id}/numbers/{number_id}/rest": {"path": f"{client}/numbers/{some['other']}/rest", "do": "wake"},
        "/clients/{client_id}/numbers/{number_id}/leave": {"sure": "1"},
        "/clients/{client_id}/ports": {"number": "410-555-0179", "losing_carrier": "Old Exchange", "account": "7"},
        "/clients/{client_id}/ports/{port_id}/withdraw": {},
        "/clients/{client_id}/people": {"do": "off", "kind": "person", "id": ids.values["person:int"]},
        "/clients/{client_id}/people/cards": {"files": {"file": ("people.vcf", CARD.encode())}},
        "/clients/{client_id}/people/phones": {"to": some["phone"]},
        "/clients/{client_id}/people/phones/replace": {"old": some["phone"], "by": "410-555-0189", "person": [ids.values["person:int"]]},
        "/clients/{client_id}/people/{person:int}": {"name": "Ada", "to-0": "410-555-0189", "id-0": "ph_1"},
        "/clients/{client_id}/people/teams/{team:int}": {"name": "Yard", "strategy": "in_order", "rounds": "1", "count": "1", "person-0": some["ada_key"]},
        "/clients/{client_id}/people/{callee}/{row_id:int}/{how}": {"path": f"{client}/people/person/{ids.values['person:int']}/undo"},
        "/clients/{client_id}/people/{callee}/{row_id:int}/replace": {"by": some["ben"], "within": ["team:Yard"]},
        "/clients/{client_id}/places": {"place-0-name": "Yard", "place-0-where": "21401"},
        "/clients/{client_id}/places/{how}": {"path": f"{client}/places/undo"},
        **_prompt_forms(ids, "/clients/{client_id}/prompts", int(str(ids.values["client_id"]))),
        **_prompt_forms(ids, "/prompts", None),
        "/prompts/consent": {"consent": "US-MD, GB"},
        "/record/{token}/takes": {"path": f"/record/{some['spoken'][None]['token']}/takes", "files": {"file": ("a.wav", sound(1))}},
        "/exceptions": {"name": "School holidays"},
        "/exceptions/paint": {**week, "do": "clear"},
        "/exceptions/{list_id:int}": {"do": "name", "name": "Bank holidays"},
        "/exceptions/{list_id:int}/{ident}": days,
        "/tokens": {"name": "Board", "scopes": ["hours:read"]},
        "/stack/jobs": {"job": some["job"]},
        "/users": {"do": "add", "name": "Mia Holt", "email": "mia@example.com", "role": "specialist"},
        "/duty/{token}": {"path": some["duty"], "do": "off"},
        "/account": PASSWORD_FORM,
        "/sign-out": {},
    }  # fmt: skip


def post(browser: Browser, ids: Ids, pattern: str, form: dict[str, Any]) -> Any:
    """Posts a form of `forms` as a browser does."""
    data = {name: value for name, value in form.items() if name not in ("path", "files", "last_bulk")}
    if form.get("last_bulk"):
        data["entry"] = last_bulk(browser)
    path = form.get("path") or ids.path(pattern.strip())
    return browser.submit(path, data, files=form["files"]) if form.get("files") else browser.submit(path, data)


def last_bulk(browser: Browser) -> int:
    with browser.app.state.house.begin() as session:  # type: ignore[attr-defined]
        found = session.scalar(text("SELECT max(id) FROM audit_entries WHERE detail ? 'numbers'"))
    return int(found or 0)
