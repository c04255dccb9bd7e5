"""Voice messages and recordings of talks: fetching their sound from the carrier, and telling those whom a mailbox names."""

import io
from typing import Any, Literal
from zoneinfo import ZoneInfo

import soundfile
from sqlalchemy import select

from ...core.numbers.numbering import caller_in_words
from ...store.agency import Client, Mailbox
from ...store.calls import Call, CallRecording, LiveCall, VoiceMessage
from ..agency import mailboxes
from ..house.house import House
from ..people import ringers

SoundKind = Literal["message", "talk"]
SOUNDS: dict[SoundKind, Any] = {"message": VoiceMessage, "talk": CallRecording}


def fetch(house: House, kind: SoundKind, row_id: int) -> None:
    """Fetches the sound of a message or of a talk and keeps it. Raises CarrierRefuses, so that the worker tries again."""
    with house.begin() as session:
        row = session.get(SOUNDS[kind], row_id)
        if row is None or row.file or not row.recording:
            return
        recording = row.recording
    sound = house.carrier.recording(recording)
    _check(sound)
    file = house.files.put(sound, ".wav")
    with house.begin() as session:
        kept = session.get(SOUNDS[kind], row_id, with_for_update=True)
        if kept is not None:
            kept.file = file


def _check(sound: bytes) -> None:
    """Decodes the sound, so that nothing else is ever kept as one."""
    soundfile.read(io.BytesIO(sound))


def tell(house: House, message_id: int) -> None:
    """Mails everyone whom the message's mailbox names; the key of each mail keeps it from being sent twice."""
    with house.begin() as session:
        message = session.get(VoiceMessage, message_id)
        if message is None or message.told:
            return
        client = session.get_one(Client, message.client_id)
        query = select(Mailbox).where(Mailbox.client_id == client.id, Mailbox.key == message.mailbox)
        mailbox = session.scalar(query)
        live = session.get(LiveCall, message.call_id)
        caller = (
            live.context["caller"]
            if live
            else session.scalar(select(Call.caller).where(Call.id == message.call_id)) or ""
        )
        people = ringers.people_of(session, house, client.id)
        addresses = mailboxes.addresses(mailbox.tell if mailbox else (), people)
    local = message.at.astimezone(ZoneInfo(client.time_zone))
    who = caller_in_words(caller, client.country)
    moment = f"{local:%a %b} {local.day}, {local:%H:%M}"
    where = mailbox.name if mailbox else "a mailbox"
    body = f"{who} left a message of {message.seconds:.0f} seconds in {where} on {moment}.\n"
    for address in addresses:
        house.post.send(
            to=address,
            subject=f"{client.name}: message from {who}",
            body=body,
            key=f"message-{message_id}-{address}",
        )
    with house.begin() as session:
        session.get_one(VoiceMessage, message_id).told = True
