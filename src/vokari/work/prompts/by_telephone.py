"""Takes by telephone: a speaker's phone is rung, they are led through it, and what they kept appears on the prompt's page."""

import uuid
from datetime import timedelta
from typing import Any

from sqlalchemy import RowMapping, select
from sqlalchemy.orm import Session

from ...core.flows.ready import speaking
from ...core.flows.running.turn import Passage
from ...core.numbers import numbering
from ...formats.call_control.messages import RecordingFinished
from ...store.agency import Agency, Client
from ...store.prompts import AskedTake, PromptRow, Take
from ..agency.access import Actor, note
from ..house import jobs, open_pages
from ..house.house import House
from ..house.ports import CarrierRefuses
from ..house.problems import Problem, Problems, Row
from ..house.sweeps import each
from .library import own, scope, words_to_say
from .takes import new_take

RINGS_FOR = timedelta(minutes=2)
"""How long a call that nobody hears of is waited for."""
WHAT_BECAME = {
    "not_answered": "Nobody picked up.", "busy": "The phone was busy.", "unreachable": "The phone could not be reached.",
    "over": "They hung up before they had said anything.",
}  # fmt: skip
"""What is said of a call that came to nothing, by what the carrier calls it."""


def ask(
    house: House, actor: Actor, client_id: int | None, prompt_id: int, language: str, to: str, spoken_by: str = ""
) -> Problems:
    """Rings a phone so that somebody speaks a prompt there."""
    with house.begin() as session:
        client = scope(session, actor, client_id, changing=True)
        row = own(session, actor, client_id, prompt_id)
        read = (
            numbering.parse(to, client.country if client else "US")
            if to.strip()
            else numbering.Wrong("Write their number.")
        )
        if isinstance(read, numbering.Wrong):
            return [Problem("to", read.sentence)]
        asked = AskedTake(
            agency_id=actor.agency_id, prompt_id=row.id, language=language, by="telephone", to=read, ref=uuid.uuid4().hex,
            spoken_by=" ".join(spoken_by.split())[:80], words="", recording="", state="ringing", asked_at=house.now(),
            asked_by=actor.user_id, ends_at=house.now() + RINGS_FOR,
        )  # fmt: skip
        session.add(asked)
        session.flush()
        asked_id, ref = asked.id, asked.ref
        note(session, house, actor, client_id, f"had {read} rung for a take of {row.name}")
    try:
        house.carrier.ring(ref, read)
    except CarrierRefuses as refusal:
        with house.begin() as session:
            failed = session.get_one(AskedTake, asked_id)
            failed.state, failed.words, failed.done_at = "refused", refusal.sentence, house.now()
        return [Problem("to", refusal.sentence)]
    return []


def follow_up(house: House) -> int:
    """Asks after the phones that ring still, and writes down those that nobody picked up; gives how many ring on."""
    with house.begin() as session:
        query = select(AskedTake.id, AskedTake.ref, AskedTake.ends_at).where(
            AskedTake.by == "telephone", AskedTake.state == "ringing"
        )
        open_ = [(one.id, one.ref, one.ends_at) for one in session.execute(query)]
    return each("a call for a take could not be followed", open_, lambda one: _rings_still(house, *one))


def _rings_still(house: House, asked_id: int, ref: str, ends_at: Any) -> bool:
    try:
        state = house.carrier.rung(ref)
    except CarrierRefuses:
        state = "ringing"
    if state == "ringing" and house.now() > ends_at:
        state = "not_answered"
    if state in ("ringing", "answered"):
        return state == "ringing"
    with house.begin() as session:
        row = session.get_one(AskedTake, asked_id, with_for_update=True)
        if row.state == "ringing":
            row.state, row.words, row.done_at = (
                "not_answered",
                WHAT_BECAME.get(state, "The call came to nothing."),
                house.now(),
            )
    return False


# in the call


def admitted(session: Session, house: House, ref: str, caller: str) -> tuple[int, int | None, Row] | None:
    """The agency, the client and the context of a call that a phone answered which was rung for a take; None for any other."""
    asked = session.scalar(
        select(AskedTake).where(AskedTake.ref == ref, AskedTake.state == "ringing").with_for_update()
    )
    if asked is None or not ref:
        return None
    prompt = session.get_one(PromptRow, asked.prompt_id)
    client = session.get(Client, prompt.client_id) if prompt.client_id else None
    agency = session.get_one(Agency, prompt.agency_id)
    words = words_to_say(session, prompt.id, asked.language)
    flow = speaking.speaking_flow(agency.name, prompt.name, words, asked.language)
    asked.state = "speaking"
    context = {
        "caller": caller, "called": "", "number_id": None, "flow_id": None, "test": True, "late": False, "source_id": None,
        "whisper": "", "divert": "", "time_zone": client.time_zone if client else "UTC", "sources": {},
        "country": client.country if client else "US", "speaker": {"asked": asked.id}, "fallback": flow.model_dump(mode="json"),
    }  # fmt: skip
    return prompt.agency_id, prompt.client_id, context


def follow(
    session: Session, house: House, live: Row | RowMapping, message: Any, way: tuple[Passage, ...], *, gone: bool
) -> None:
    """Notes what was recorded, and makes a take of it once it is kept, or the speaker hangs up after it."""
    asked = session.get(AskedTake, live["context"]["speaker"]["asked"], with_for_update=True)
    if asked is None or asked.state != "speaking":
        return
    steps = [step for _, step in way]
    if isinstance(message, RecordingFinished):
        asked.recording = message.recording
    elif speaking.TAKE in steps:
        asked.recording = ""
    if speaking.KEPT in steps or gone:
        _kept(session, house, asked)


def _kept(session: Session, house: House, asked: AskedTake) -> None:
    if not asked.recording:
        asked.state, asked.words, asked.done_at = "not_answered", WHAT_BECAME["over"], house.now()
        return
    prompt = session.get_one(PromptRow, asked.prompt_id, with_for_update=True)
    take = new_take(session, house, prompt, None, asked.language, "telephone")
    take.spoken_by, take.original_name = asked.spoken_by, f"{prompt.name}.wav"
    take.words, take.words_are = words_to_say(session, prompt.id, asked.language), "proposed"
    asked.state, asked.take_id, asked.done_at = "done", take.id, house.now()
    prompt.changed_at = house.now()
    jobs.defer(session, "fetch_take", take_id=take.id, recording=asked.recording)
    if prompt.client_id:
        open_pages.notify(session, prompt.agency_id, prompt.client_id, None)


def fetch(house: House, take_id: int, recording: str) -> None:
    """Fetches the recording of a take from the carrier, so that telephone audio is made of it."""
    with house.begin() as session:
        take = session.get(Take, take_id)
        if take is None or take.state != "coming" or take.original:
            return
    file = house.files.put(house.carrier.recording(recording), ".sound")
    with house.begin() as session:
        row = session.get_one(Take, take_id, with_for_update=True)
        if row.state == "coming" and not row.original:
            row.original = file
            jobs.defer(session, "make_take", take_id=take_id)
