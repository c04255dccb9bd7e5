"""A person and a team: their forms, and taking back what was saved."""

from typing import Any, Literal

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core import asked
from ...core.numbers import numbering
from ...core.people import meaning
from ...core.people.directory import FOR_GOOD, STRATEGIES, Member, Person, Team
from ...core.people.line_up import MOST_AT_ONCE
from ...work.house.problems import Problem, Problems
from ...work.people import duty_line, everybody, keeping, meanings, on_duty, verifying
from ..doors import Form, Id, Posted, Signed, house_of
from ..flows.sheet import ANSWERED
from ..pages import Pages, by_field, go

router = APIRouter()

MOST_ROWS = 200

# a person


@router.get("/clients/{client_id}/people/{person:int}")
def person(request: Request, signed: Signed, client_id: Id, person: Id) -> Response:
    """The form of a person; 0 is a new one."""
    return _person(request, signed, client_id, person)


def _person(
    request: Request, signed: Any, client_id: int, person_id: int, problems: Problems | None = None,
    typed: dict[str, Any] | None = None,
) -> Response:  # fmt: skip
    """The form of a person; 0 is a new one."""
    pages: Pages = request.app.state.pages
    found = everybody.everybody(house_of(request), signed.actor, client_id)
    line = found.person(person_id) if person_id else None
    fields = typed or (
        line.person.model_dump(mode="json") if line else Person(name="x").model_dump(mode="json") | {"name": ""}
    )
    return pages.show(
        request, "people/person.html", signed, client=found.client, section="people", status=422 if problems else 200, found=found,
        line=line, fields=fields, errors=by_field(problems or []), person_id=person_id, answered=ANSWERED,
        can=keeping.steps(house_of(request), signed.actor, client_id, "person", person_id) if line else None,
        phones=verifying.phones(house_of(request), signed.actor, client_id) if line else None,
        pin=duty_line.pin(house_of(request), line.row) if line else "",
        own_page=str(request.base_url).rstrip("/") + on_duty.path_of(house_of(request), line.row) if line else "",
    )  # fmt: skip


@router.post("/clients/{client_id}/people/{person:int}")
def keep_person(request: Request, posted: Form, client_id: Id, person: Id) -> Response:
    """Saves a person."""
    house, problems, phones = house_of(request), Problems(), _phones(posted)
    fields = {
        "name": posted.text("name"), "hours": posted.text("hours") or None, "extension": posted.text("extension").strip(),
        "daily_limit": posted.text("daily_limit").strip() or None, "email": posted.text("email").strip(),
        "note": posted.text("note").strip(), "phones": phones, "leave": _leave(posted, problems),
    }  # fmt: skip
    made = problems or keeping.keep_person(
        house, posted.actor, client_id, person or None, fields, posted.text("agreed").split(), posted.was()
    )
    if isinstance(made, list):
        country = everybody.everybody(house, posted.actor, client_id).client.country
        asked = {one.field for one in made if "another country" in one.sentence}
        foreign = [
            numbering.parse_dialed(one["to"], country) for n, one in enumerate(phones) if f"phones.{n}.to" in asked
        ]
        fields["agreed"] = " ".join([*(str(one) for one in foreign), str(fields["email"])]).strip()
        return _person(request, posted.signed, client_id, person, made, fields)
    return go(request, f"/clients/{client_id}/people/{made.id}")


def _phones(posted: Posted) -> list[dict[str, Any]]:
    found = []
    for index in sorted(range(12), key=lambda n: posted.place(f"place-{n}", n, known=bool(posted.text(f"id-{n}")))):
        to = posted.text(f"to-{index}").strip()
        if to:
            aside = posted.text(f"aside-{index}").strip() or (
                FOR_GOOD.isoformat() if posted.text(f"for-good-{index}") else None
            )
            found.append({
                "id": posted.text(f"id-{index}"), "name": posted.text(f"phone-{index}").strip()[:60], "to": to,
                "seconds": posted.text(f"seconds-{index}").strip() or None, "hours": posted.text(f"hours-{index}") or None,
                "mailbox_after": posted.text(f"mailbox-{index}").strip() or None, "aside_until": aside,
                "answered": posted.text(f"answered-{index}") or "picked_up",
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
    """The form of a team; 0 is a new one."""
    return _team(request, signed, client_id, team)


def _team(
    request: Request, signed: Any, client_id: int, team_id: int, problems: Problems | None = None,
    typed: dict[str, Any] | None = None,
) -> Response:  # fmt: skip
    pages: Pages = request.app.state.pages
    found = everybody.everybody(house_of(request), signed.actor, client_id)
    line = found.team(team_id) if team_id else None
    means = meanings.of_team(house_of(request), signed.actor, client_id, team_id) if team_id else None
    fields = typed or (
        line.team.model_dump(mode="json") if line else Team(name="x").model_dump(mode="json") | {"name": ""}
    )
    return pages.show(
        request, "people/team.html", signed, client=found.client, section="people", status=422 if problems else 200, found=found,
        line=line, fields=fields, errors=by_field(problems or []), team_id=team_id, strategies=STRATEGIES, means=means, most_at_once=MOST_AT_ONCE,
        sizes=meaning, can=keeping.steps(house_of(request), signed.actor, client_id, "team", team_id) if line else None,
        empty=Member(person="x").model_dump(mode="json") | {"person": ""},
    )  # fmt: skip


@router.post("/clients/{client_id}/people/teams/{team:int}")
def keep_team(request: Request, posted: Form, client_id: Id, team: Id) -> Response:
    """Saves a team."""
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
    made = problems or keeping.keep_team(house_of(request), posted.actor, client_id, team or None, fields, posted.was())
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


@router.post("/clients/{client_id}/people/{callee}/{row_id:int}/{how}")
def step_back(
    request: Request,
    posted: Form,
    client_id: Id,
    callee: Literal["person", "team"],
    row_id: Id,
    how: Literal["undo", "redo"],
) -> Response:
    """Takes the latest saved change back, or does it again."""
    problems = keeping.step_back(house_of(request), posted.actor, client_id, callee, row_id, how)
    page = _person if callee == "person" else _team
    if problems:
        return page(request, posted.signed, client_id, row_id, problems)
    return go(request, f"/clients/{client_id}/people/{'' if callee == 'person' else 'teams/'}{row_id}")
