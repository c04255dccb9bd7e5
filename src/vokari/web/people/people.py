"""People and teams: the list, a person, a team, and putting somebody else in their place."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core import asked
from ...core.numbers import numbering
from ...core.people import meaning
from ...core.people.directory import STRATEGIES, Member, Person, Team
from ...core.people.line_up import MOST_AT_ONCE
from ...formats import vcards
from ...work.agency import clients
from ...work.agency.access import NotFound, allow_agency
from ...work.house.house import Problem, Problems
from ...work.people import cards, duty_line, meanings, on_duty, people, renumbering, verifying
from ...work.people.people import Everybody
from ..doors import Form, Id, Posted, Signed, house_of
from ..pages import Pages, by_field, go, is_partial

router = APIRouter()

MOST_ROWS = 200


@router.get("/clients/{client_id}/people")
def listed(request: Request, signed: Signed, client_id: Id) -> Response:
    return _listed(request, signed, client_id)


def _listed(request: Request, signed: Any, client_id: int, problems: Problems | None = None, **values: Any) -> Response:
    pages: Pages = request.app.state.pages
    found = people.everybody(house_of(request), signed.actor, client_id)
    return pages.show(
        request, "people/people.html", signed, client=found.client, section="people", status=422 if problems else 200, found=found,
        strategies=STRATEGIES, missed_flag=people.MISSED_FLAG,
        duty_choices=duty_line.choices(house_of(request), signed.actor, client_id) if signed.actor.works else [], errors=by_field(problems or []),
        **{"said": "", "taken": None, **values},
    )  # fmt: skip


@router.post("/clients/{client_id}/people")
def change(request: Request, posted: Form, client_id: Id) -> Response:
    """Removes, brings back, or switches somebody on and off."""
    house, actor = house_of(request), posted.actor
    kind, row_id = posted.text("kind"), posted.whole("id") or 0
    problems: Problems = []
    match posted.text("do"):
        case "remove":
            problems = people.remove(house, actor, client_id, kind, row_id)
        case "bring_back":
            problems = people.bring_back(house, actor, client_id, kind, row_id)
        case "renew_pin":
            duty_line.renew(house, actor, client_id, row_id)
            return go(request, f"/clients/{client_id}/people/{row_id}")
        case "duty_line":
            problems = duty_line.choose(house, actor, client_id, posted.text("duty_number"))
        case "renew":
            on_duty.renew(house, actor, client_id, row_id)
            return go(request, f"/clients/{client_id}/people/{row_id}")
        case "off" | "on":
            people.set_duty(house, actor, client_id, row_id, off=posted.text("do") == "off")
        case _:
            people.everybody(house, actor, client_id)
    if problems:
        return _listed(request, posted.signed, client_id, problems)
    return go(request, f"/clients/{client_id}/people")


# cards


@router.get("/clients/{client_id}/people/cards.vcf")
def cards_out(request: Request, signed: Signed, client_id: Id) -> Response:
    """All people as vCards."""
    text = cards.export(house_of(request), signed.actor, client_id)
    headers = {"Content-Disposition": f'attachment; filename="people-{client_id}.vcf"'}
    return Response(text, media_type="text/vcard; charset=utf-8", headers=headers)


@router.post("/clients/{client_id}/people/cards")
def cards_in(request: Request, posted: Form, client_id: Id) -> Response:
    """Adds the people of a vCard file."""
    upload = posted.upload("file")
    data = upload.file.read(vcards.LARGEST + 1) if upload else b""
    taken = cards.take(house_of(request), posted.actor, client_id, data, abroad=bool(posted.text("abroad")))
    if isinstance(taken, list):
        return _listed(request, posted.signed, client_id, taken)
    return _listed(request, posted.signed, client_id, taken=taken)


# phones


@router.get("/clients/{client_id}/people/phones")
def phones(request: Request, signed: Signed, client_id: Id) -> Response:
    """Every phone that can be rung, with when it was verified; for htmx, while calls are under way, the table alone."""
    return _all_phones(request, signed, client_id, verifying.phones(house_of(request), signed.actor, client_id))


def _all_phones(
    request: Request, signed: Any, client_id: int, found: verifying.Phones, problems: Problems | None = None
) -> Response:
    pages: Pages = request.app.state.pages
    errors = by_field(problems or [])
    if is_partial(request):
        return pages.part(request, "people/phones_table.html", signed, found.client, found=found, errors=errors)
    return pages.show(
        request, "people/phones.html", signed, client=found.client, section="people", status=422 if problems else 200,
        found=found, errors=errors,
    )  # fmt: skip


@router.post("/clients/{client_id}/people/phones")
def verify(request: Request, posted: Form, client_id: Id) -> Response:
    """Rings a phone to verify it, or all that were never verified one after the other; or stops that."""
    house, problems = house_of(request), Problems()
    match posted.text("do"):
        case "all":
            problems = verifying.ask_all(house, posted.actor, client_id)
        case "stop":
            verifying.stop(house, posted.actor, client_id)
        case _:
            problems = verifying.ask(house, posted.actor, client_id, posted.text("to"))
    if problems or is_partial(request):
        found = verifying.phones(house, posted.actor, client_id)
        return _all_phones(request, posted.signed, client_id, found, problems)
    return go(request, f"/clients/{client_id}/people/phones")


@router.get("/clients/{client_id}/people/phones/replace")
def replacing_phone(request: Request, signed: Signed, client_id: Id, to: str = "") -> Response:
    return _replacing_phone(request, signed, client_id, to)


def _replacing_phone(
    request: Request,
    signed: Any,
    client_id: int,
    old: str,
    problems: Problems | None = None,
    typed: str = "",
    agreed: str = "",
) -> Response:
    pages: Pages = request.app.state.pages
    found = renumbering.having(house_of(request), signed.actor, client_id, old)
    return pages.show(
        request, "people/phone_replace.html", signed, client=found.client, section="people", status=422 if problems else 200,
        found=found, old=old, typed=typed, agreed=agreed, errors=by_field(problems or []),
    )  # fmt: skip


@router.post("/clients/{client_id}/people/phones/replace")
def replace_phone(request: Request, posted: Form, client_id: Id) -> Response:
    """Puts another number in the place of one, for the chosen people and flows."""
    house, old, typed = house_of(request), posted.text("old"), posted.text("by")
    done = renumbering.replace(
        house, posted.actor, client_id, old, typed, _ids(posted, "person"), _ids(posted, "flow"),
        live=bool(posted.text("live")), agreed=posted.text("agreed").split(),
    )  # fmt: skip
    problems = [one for one in done if isinstance(one, Problem)]
    if problems and problems[0].field == "":
        return _listed(request, posted.signed, client_id, problems)
    if problems:
        country = clients.get(house, posted.actor, client_id).country
        return _replacing_phone(
            request, posted.signed, client_id, old, problems, typed, str(numbering.parse(typed, country))
        )
    return _listed(request, posted.signed, client_id, said=f"Changed: {', '.join(map(str, done))}.")


def _ids(posted: Posted, name: str) -> list[int]:
    return asked.wholes(posted.form.getlist(name))


# a person


@router.get("/clients/{client_id}/people/{person:int}")
def person(request: Request, signed: Signed, client_id: Id, person: Id) -> Response:
    return _person(request, signed, client_id, person)


def _person(
    request: Request, signed: Any, client_id: int, person_id: int, problems: Problems | None = None,
    typed: dict[str, Any] | None = None,
) -> Response:  # fmt: skip
    """The form of a person; 0 is a new one."""
    pages: Pages = request.app.state.pages
    found = people.everybody(house_of(request), signed.actor, client_id)
    line = found.person(person_id) if person_id else None
    fields = typed or (
        line.person.model_dump(mode="json") if line else Person(name="x").model_dump(mode="json") | {"name": ""}
    )
    return pages.show(
        request, "people/person.html", signed, client=found.client, section="people", status=422 if problems else 200, found=found,
        line=line, fields=fields, errors=by_field(problems or []), person_id=person_id,
        phones=verifying.phones(house_of(request), signed.actor, client_id) if line else None,
        pin=duty_line.pin(house_of(request), line.row) if line else "",
        own_page=str(request.base_url).rstrip("/") + on_duty.path_of(house_of(request), line.row) if line else "",
    )  # fmt: skip


@router.post("/clients/{client_id}/people/{person:int}")
def keep_person(request: Request, posted: Form, client_id: Id, person: Id) -> Response:
    house, problems, phones = house_of(request), Problems(), _phones(posted)
    fields = {
        "name": posted.text("name"), "hours": posted.text("hours") or None, "extension": posted.text("extension").strip(),
        "daily_limit": posted.text("daily_limit").strip() or None, "email": posted.text("email").strip(),
        "note": posted.text("note").strip(), "phones": phones, "leave": _leave(posted, problems),
    }  # fmt: skip
    made = problems or people.keep_person(
        house, posted.actor, client_id, person or None, fields, posted.text("agreed").split(), posted.was()
    )
    if isinstance(made, list):
        country = people.everybody(house, posted.actor, client_id).client.country
        asked = {one.field for one in made if "another country" in one.sentence}
        foreign = [numbering.parse(one["to"], country) for n, one in enumerate(phones) if f"phones.{n}.to" in asked]
        fields["agreed"] = " ".join([*(str(one) for one in foreign), str(fields["email"])]).strip()
        return _person(request, posted.signed, client_id, person, made, fields)
    return go(request, f"/clients/{client_id}/people/{made.id}")


def _phones(posted: Posted) -> list[dict[str, Any]]:
    found = []
    for index in range(12):
        to = posted.text(f"to-{index}").strip()
        if to:
            found.append({
                "id": posted.text(f"id-{index}"), "name": posted.text(f"phone-{index}").strip()[:60], "to": to,
                "seconds": posted.text(f"seconds-{index}").strip() or None, "hours": posted.text(f"hours-{index}") or None,
                "mailbox_after": posted.text(f"mailbox-{index}").strip() or None, "on": bool(posted.text(f"on-{index}")),
            })  # fmt: skip
    return found


def _leave(posted: Posted, problems: Problems) -> list[dict[str, str]]:
    """Leave as lines: "2026-12-21 to 2027-01-02"."""
    found = []
    for line in posted.text("leave").splitlines():
        words = line.replace("to", " ").replace("–", " ").split()
        if not words:
            continue
        days = [one for one in map(asked.day, words) if one is not None]
        if len(days) != len(words) or len(days) > 2 or days[0] > days[-1]:
            problems.append(Problem("leave", f"“{line.strip()[:60]}” is no leave. Write 2026-12-21 to 2027-01-02."))
        else:
            found.append({"first": days[0].isoformat(), "last": days[-1].isoformat()})
    return found


# a team


@router.get("/clients/{client_id}/people/teams/{team:int}")
def team(request: Request, signed: Signed, client_id: Id, team: Id) -> Response:
    return _team(request, signed, client_id, team)


def _team(
    request: Request, signed: Any, client_id: int, team_id: int, problems: Problems | None = None,
    typed: dict[str, Any] | None = None,
) -> Response:  # fmt: skip
    pages: Pages = request.app.state.pages
    found = people.everybody(house_of(request), signed.actor, client_id)
    line = found.team(team_id) if team_id else None
    means = meanings.of_team(house_of(request), signed.actor, client_id, team_id) if team_id else None
    fields = typed or (
        line.team.model_dump(mode="json") if line else Team(name="x").model_dump(mode="json") | {"name": ""}
    )
    return pages.show(
        request, "people/team.html", signed, client=found.client, section="people", status=422 if problems else 200, found=found,
        line=line, fields=fields, errors=by_field(problems or []), team_id=team_id, strategies=STRATEGIES, means=means, most_at_once=MOST_AT_ONCE,
        sizes=meaning,
        empty=Member(person="x").model_dump(mode="json") | {"person": ""},
    )  # fmt: skip


@router.post("/clients/{client_id}/people/teams/{team:int}")
def keep_team(request: Request, posted: Form, client_id: Id, team: Id) -> Response:
    fields: dict[str, Any] = {
        "name": posted.text("name"), "strategy": posted.text("strategy"), "rounds": posted.text("rounds").strip() or 1,
        "then": posted.text("then") or None, "members": _members(posted), "rota": None,
    }  # fmt: skip
    problems: Problems = []
    if posted.text("strategy") == "rota":
        fields["rota"] = {
            "unit": posted.text("unit"),
            "first": posted.text("rota_first"),
            "swaps": _swaps(posted, problems),
        }
    made = problems or people.keep_team(house_of(request), posted.actor, client_id, team or None, fields, posted.was())
    if isinstance(made, list):
        return _team(request, posted.signed, client_id, team, made, fields)
    return go(request, f"/clients/{client_id}/people/teams/{made.id}")


def _members(posted: Posted) -> list[dict[str, Any]]:
    rows = []
    for index in range(min(posted.whole("count") or 0, MOST_ROWS) + 4):
        if not posted.text(f"person-{index}"):
            continue
        weeks = posted.text(f"weeks-{index}").strip()
        rows.append((posted.whole(f"place-{index}") or index + 1, {
            "person": posted.text(f"person-{index}"), "seconds": posted.text(f"seconds-{index}").strip() or None,
            "hours": posted.text(f"hours-{index}") or None, "weight": posted.text(f"weight-{index}").strip() or 1,
            "ramp": {"first": posted.text(f"from-{index}"), "weeks": weeks} if weeks else None,
        }))  # fmt: skip
    return [row for _, row in sorted(rows, key=lambda pair: pair[0])]


def _swaps(posted: Posted, problems: Problems) -> list[dict[str, str]]:
    """The swap that is kept, and one that is added."""
    found = []
    for index in range(min(posted.whole("swap_count") or 0, 400) + 1):
        on, who = posted.text(f"swap-on-{index}").strip(), posted.text(f"swap-by-{index}")
        if on and who:
            found.append({"on": on, "person": who})
        elif on:
            problems.append(Problem("swaps", "Say who takes the swapped day or week."))
    return found


# in somebody's place


@router.get("/clients/{client_id}/people/{callee}/{row_id:int}/replace")
def replacing(request: Request, signed: Signed, client_id: Id, callee: str, row_id: Id) -> Response:
    return _replacing(request, signed, client_id, callee, row_id)


def _replacing(
    request: Request, signed: Any, client_id: int, kind: str, row_id: int, problems: Problems | None = None
) -> Response:
    pages: Pages = request.app.state.pages
    found = people.everybody(house_of(request), signed.actor, client_id)
    allow_agency(signed.actor)
    line, others = _line(found, kind, row_id)
    return pages.show(
        request, "people/replace.html", signed, client=found.client, section="people", status=422 if problems else 200,
        line=line, others=others, kind=kind, errors=by_field(problems or []),
    )  # fmt: skip


def _line(found: Everybody, kind: str, row_id: int) -> tuple[Any, list[Any]]:
    if kind not in ("person", "team"):
        raise NotFound
    line: Any = found.person(row_id) if kind == "person" else found.team(row_id)
    every: list[Any] = list(found.people if kind == "person" else found.teams)
    return line, [one.row for one in every if one.row.id != row_id]


@router.post("/clients/{client_id}/people/{callee}/{row_id:int}/replace")
def replace(request: Request, posted: Form, client_id: Id, callee: str, row_id: Id) -> Response:
    house, kind = house_of(request), callee
    _line(people.everybody(house, posted.actor, client_id), kind, row_id)
    allow_agency(posted.actor)
    by = posted.whole("by")
    if by is None:
        return _replacing(
            request, posted.signed, client_id, kind, row_id, [Problem("by", "Choose who is rung instead.")]
        )
    flows = _ids(posted, "flow")
    within = [str(one) for one in posted.form.getlist("within")]
    live = bool(posted.text("live"))
    done = people.replace(house, posted.actor, client_id, kind, row_id, by, flows, live=live, within=within)
    if done and isinstance(done[0], Problem):
        return _replacing(
            request, posted.signed, client_id, kind, row_id, [one for one in done if isinstance(one, Problem)]
        )
    return _listed(request, posted.signed, client_id, said=f"Changed: {', '.join(str(one) for one in done)}.")
