"""Prompts of the demo world: a music school that insists on its own voices, and what all clients can play."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

import numpy
import soundfile
from sqlalchemy import select

from ..core.flows.drafting.edits import SetStep
from ..core.flows.model.document import FlowDocument
from ..core.prompts.reading import ssml
from ..store.agency import Client, User
from ..store.flows import CallFlow
from ..work.agency.access import Actor
from ..work.flows import drafts, versions
from ..work.house.house import House
from ..work.prompts import in_flows, library, takes
from ..work.prompts.takes import Coming, Made
from . import people

SCHOOL = "Larkspur Music School"


@dataclass(frozen=True, slots=True)
class Said:
    """A take: its words, the language, how it was made (read: by a voice), who speaks it, and in which voice. `confirmed` says that somebody
    has read and heard the words."""

    words: str
    language: str = "en-US"
    how: Made = "read"
    by: str = ""
    voice: str = "en-us+f3"
    confirmed: bool = True
    heard: bool = True


@dataclass(frozen=True, slots=True)
class Plan:
    """A prompt with its takes, its last day counted from today, and the name of what is heard from then on; `at` is the step and the field of
    the school's line that plays it."""

    name: str
    kind: str
    said: Sequence[Said]
    note: str = ""
    days: int = 0
    then: str = ""
    at: tuple[str, str] | None = None


SHARED = (
    Plan("Notice: calls are recorded to learn", "notice", (
        Said("We record some calls to learn from them, and keep them for thirty days."),
        Said("Grabamos algunas llamadas para aprender de ellas y las guardamos treinta días.", "es"),
    )),
    Plan("Everybody is with another caller", "message", (
        Said("Everybody is with another caller. You keep your place; somebody takes your call in about {wait|a few minutes}."),
        Said("Tout le monde est en ligne. Vous gardez votre place.", "fr", heard=False),
    )),
)  # fmt: skip
OWN = (
    Plan("Season calendar", "message", (Said("All concerts of the season stand on our website, and at the door."),)),
    Plan(
        "Spring concert tickets", "message",
        (Said("Tickets for the spring concert are at the door from six o’clock.", how="browser", by="Ines Larkspur"),),
        days=9, then="Season calendar", note="Ines asked for it; the concert is on the tenth day.",
    ),
    Plan(
        "Trial lesson is free", "message",
        (
            Said("The first lesson is free. We put you through to book it."),
            Said("Your first lesson is free. One moment, and we find you a time.", how="link", by="Ines Larkspur", heard=False),
        ),
        at=("trialwords", "prompt"),
    ),
    Plan(
        "Office voicemail in term", "greeting",
        (Said("We are teaching at the moment. Tell us the instrument, the age of the student and your number.", how="telephone",
              by="Ines Larkspur", voice="en-us+f2"),
         Said("The school is on its winter break. Tell us the instrument and your number; we ring back in the new year.", how="telephone",
              by="Ines Larkspur", voice="en-us+f2")),
        at=("officevm", "greeting"),
    ),
    Plan("Thanks, we ring back today", "goodbye", (Said("Thank you. We ring back the same day."),), at=("thanks", "prompt")),
    Plan("Closed, and when it opens", "greeting", (
        Said("This is {client}, which is closed now and opens again {opens}. Good day {caller|to you}."),
        Said("Ha llamado a {client}. Abrimos de nuevo {opens}.", "es", heard=False),
    )),
    Plan("recording 3", "greeting", (
        Said("Piano lessons are on the second floor, violins are on the first.", how="uploaded", confirmed=False, heard=False),
    )),
)  # fmt: skip
TUNE = (392.0, 440.0, 493.9, 587.3, 523.3, 493.9, 440.0, 392.0)
"""Frequencies of the notes that wait with callers, in Hz."""
WHY = "Ines speaks the greetings herself from now on"


def load(house: House) -> None:
    """Makes the prompts through the use cases, and puts the school's line live with its own."""
    with house.begin() as session:
        user = session.scalars(select(User).where(User.email == people.USERS[1][0])).one()
        client_id = session.scalars(
            select(Client.id).where(Client.name == SCHOOL, Client.agency_id == user.agency_id)
        ).one()
    actor = Actor(user.id, user.agency_id, "specialist", None, user.name)
    for plan in SHARED:
        _made(house, actor, None, plan)
    prompts = {plan.name: _made(house, actor, client_id, plan) for plan in OWN}
    _tune(house, actor, client_id)
    keys = {one.prompt.name: one.prompt.key for one in library.listed(house, actor, client_id).prompts}
    for plan in OWN:
        if plan.days:
            until = house.now().date() + timedelta(days=plan.days)
            library.keep(
                house,
                actor,
                client_id,
                prompts[plan.name],
                {"true_until": until.isoformat(), "fallback": keys[plan.then]},
            )
    _live(house, actor, client_id, keys)
    winter, office = house.now().date() + timedelta(days=20), prompts["Office voicemail in term"]
    with house.begin() as session:
        first, second = sorted(takes.of_prompt(session, office), key=lambda one: one.number)
    in_flows.season(house, actor, client_id, office, second.id, winter, winter + timedelta(days=16))
    takes.set_aside(house, actor, client_id, office, second.id)
    takes.heard(house, actor, client_id, office, first.id)
    _late_takes(house, actor, client_id, prompts)


def _made(house: House, actor: Actor, client_id: int | None, plan: Plan) -> int:
    """A prompt with its first take, and one in each other language."""
    made = library.create(house, actor, client_id, {"name": plan.name, "kind": plan.kind, "note": plan.note})
    assert isinstance(made, int)
    later = plan.at is not None and len(plan.said) > 1 and plan.name.startswith("Trial")
    for said in plan.said[:1] if later else plan.said:
        _take(house, actor, client_id, made, said)
    return made


def _take(house: House, actor: Actor, client_id: int | None, prompt_id: int, said: Said) -> None:
    if said.how == "read":
        take = takes.say(house, actor, client_id, prompt_id, said.language, said.words)
    else:
        sound = house.speech.speak(ssml(said.words, said.language), said.language, said.voice, 140)
        words = said.words if said.confirmed else ""
        coming = Coming(sound, f"{prompt_id}.wav", said.language, said.how, said.by, words=words)
        take = takes.bring(house, actor, client_id, prompt_id, coming)
    assert isinstance(take, int)
    takes.make(house, take)
    if said.confirmed and said.how != "read":
        takes.confirm(house, actor, client_id, prompt_id, take, said.words)
    if said.heard:
        takes.heard(house, actor, client_id, prompt_id, take)


def _late_takes(house: House, actor: Actor, client_id: int, prompts: dict[str, int]) -> None:
    """Takes that came after the line went live, so that it plays an earlier one still."""
    for plan in OWN:
        if plan.name.startswith("Trial"):
            for said in plan.said[1:]:
                _take(house, actor, client_id, prompts[plan.name], said)


def _tune(house: House, actor: Actor, client_id: int) -> None:
    """A short tune of our own making for those who wait."""
    rate = 16000
    notes = []
    for hertz in TUNE * 2:
        times = numpy.arange(int(rate * 0.6)) / rate
        notes.append(0.3 * numpy.sin(2 * numpy.pi * hertz * times) * numpy.exp(-3 * times))
    file = io.BytesIO()
    soundfile.write(file, numpy.concatenate(notes), rate, format="WAV")
    made = library.create(house, actor, client_id, {"name": "Pupils’ tune for those who wait", "kind": "hold_music"})
    assert isinstance(made, int)
    take = takes.bring(house, actor, client_id, made, Coming(file.getvalue(), "tune.wav", words="(music)"))
    assert isinstance(take, int)
    takes.make(house, take)
    takes.heard(house, actor, client_id, made, take)


def _live(house: House, actor: Actor, client_id: int, keys: dict[str, str]) -> None:
    """Has the school's line play its prompts, and puts it live."""
    with house.begin() as session:
        flow = session.scalars(select(CallFlow).where(CallFlow.client_id == client_id).order_by(CallFlow.id)).first()
    assert flow is not None
    document, changed = FlowDocument.model_validate(flow.draft), []
    for plan in OWN:
        step = document.step(plan.at[0]) if plan.at else None
        if plan.at is None or step is None:
            continue
        field: Any = getattr(step, plan.at[1])
        prompt = field.model_copy(update={"prompt": keys[plan.name], "say": plan.said[0].words})
        changed.append(SetStep(step=step.model_copy(update={plan.at[1]: prompt})))
    drafts.edit(house, actor, client_id, flow.id, changed)
    versions.put_live(house, actor, client_id, flow.id, going=versions.Going(why=WHY))
