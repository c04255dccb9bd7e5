"""Puts the house together: the database and the adapters behind the ports."""

from collections.abc import Callable, Mapping, Sequence
from typing import TypeVar

import httpx
import structlog

from .decoder import FfmpegDecoder
from .files import FilesInFolder
from .formats.call_control.records import CallRecord, CallStanding, Records, read_records, read_standings
from .formats.call_control.signature import carrier_secret
from .settings import Settings
from .standins.post import PostOffice
from .standins.speech import EspeakSpeech
from .standins.transcription import Transcriber
from .store.database import connect
from .webclient import WebOverHttp
from .work.house.house import House
from .work.house.ports import CarrierRefuses, Clock, FreeNumber, PortState, WallClock
from .work.numbers.numbers import CARRIER

Answer = TypeVar("Answer")

log = structlog.get_logger()


class CarrierOverHttp:
    """The carrier's HTTP interface."""

    def __init__(self, url: str, token: str) -> None:
        self.http = httpx.Client(base_url=url, headers={"Authorization": f"Bearer {token}"}, timeout=10)

    def search(
        self, *, country: str, area_code: str, place: str, kind: str, contains: str, limit: int
    ) -> list[FreeNumber]:
        wanted = {"country": country, "area_code": area_code, "place": place, "kind": kind, "contains": contains}
        answer = self._ask("GET", "/numbers", params={**wanted, "limit": str(limit)})
        return [FreeNumber(**one) for one in answer.json()["numbers"]]

    def take(self, e164: str, *, fail_safe: str, key: str) -> FreeNumber:
        return FreeNumber(
            **self._ask("POST", f"/numbers/{e164}/take", json={"key": key, "fail_safe": fail_safe}).json()
        )

    def take_many(self, keys: Mapping[str, str], *, fail_safe: str) -> dict[str, FreeNumber | str]:
        answer = self._ask("POST", "/numbers/take", json={"numbers": dict(keys), "fail_safe": fail_safe}).json()
        taken = {e164: FreeNumber(**one) for e164, one in answer["taken"].items()}
        return {**taken, **{e164: str(sentence) for e164, sentence in answer["refused"].items()}}

    def give_back(self, e164: str, *, leaves: bool = False) -> None:
        self._ask("DELETE", f"/numbers/{e164}", params={"leaves": str(leaves).lower()})

    def give_document(self, e164: str, kind: str) -> list[str]:
        answer = self._ask("POST", f"/numbers/{e164}/documents", json={"kind": kind})
        return [str(one) for one in answer.json()["asked_for"]]

    def request_port(self, e164: str, *, account: str, key: str, fail_safe: str) -> PortState:
        wanted = {"e164": e164, "account": account, "key": key, "fail_safe": fail_safe}
        return PortState(**self._ask("POST", "/ports", json=wanted).json())

    def port(self, ref: str) -> PortState:
        return PortState(**self._ask("GET", f"/ports/{ref}").json())

    def give_port_document(self, ref: str, kind: str) -> PortState:
        return PortState(**self._ask("POST", f"/ports/{ref}/documents", json={"kind": kind}).json())

    def withdraw_port(self, ref: str) -> PortState:
        return PortState(**self._ask("DELETE", f"/ports/{ref}").json())

    def set_fail_safe(self, e164: str, destination: str) -> None:
        self._ask("PUT", f"/numbers/{e164}", json={"fail_safe": destination})

    def standing(self, refs: Sequence[str]) -> list[CallStanding]:
        answer = self._ask("POST", "/calls/known", json={"calls": list(refs)})
        return list(self._read(read_standings, answer).calls)

    def records(self, after: int, *, fail_safe: bool, since: str = "", until: str = "") -> Records:
        wanted = {"after": str(after), "fail_safe": str(fail_safe).lower(), "since": since, "until": until}
        return self._read(read_records, self._ask("GET", "/calls", params=wanted))

    def load_calls(self, calls: Sequence[tuple[CallRecord, bool, bool]]) -> None:
        """Hands over calls that are over, each with whether it was answered and by a mailbox, for loading a whole world."""
        loaded = [
            {"record": record.model_dump(mode="json"), "answered": answered, "mailbox": mailbox}
            for record, answered, mailbox in calls
        ]
        self._ask("POST", "/calls/load", json={"calls": loaded})

    def poke(self, ref: str) -> None:
        self._ask("POST", f"/calls/{ref}/poke")

    def verify(self, ref: str, to: str, *, words: str, key: str) -> None:
        self._ask("POST", "/verifications", json={"ref": ref, "to": to, "words": words, "key": key})

    def verification(self, ref: str) -> str:
        return str(self._ask("GET", f"/verifications/{ref}").json()["state"])

    def ring(self, ref: str, to: str) -> None:
        self._ask("POST", "/ringings", json={"ref": ref, "to": to})

    def rung(self, ref: str) -> str:
        return str(self._ask("GET", f"/ringings/{ref}").json()["state"])

    def recording(self, name: str) -> bytes:
        return self._ask("GET", f"/recordings/{name}").content

    def _read(self, read: Callable[[bytes], tuple[Answer, list[str]]], answer: httpx.Response) -> Answer:
        try:
            found, wrong = read(answer.content)
        except ValueError as error:
            raise CarrierRefuses("The carrier answers with nonsense.") from error
        if wrong:
            log.error("the carrier tells of calls that cannot be read", count=len(wrong), first=wrong[0])
        return found

    def _ask(self, method: str, path: str, **more: object) -> httpx.Response:
        try:
            answer = self.http.request(method, path, **more)  # type: ignore[arg-type]
        except httpx.HTTPError as error:
            raise CarrierRefuses("The carrier cannot be reached. Try again in a moment.") from error
        if answer.status_code >= 400:
            try:
                sentence = str(answer.json()["detail"])
            except (ValueError, KeyError, TypeError):
                sentence = "The carrier cannot do this now. Try again in a moment."
            raise CarrierRefuses(sentence, gone=answer.status_code in (404, 409))
        return answer


def carrier_token(secret: bytes) -> str:
    """What Vokari shows to the carrier's HTTP interface."""
    return carrier_secret(secret, "token").decode()


def build(settings: Settings, *, clock: Clock | None = None, pool: int = 10, outlives: bool = False) -> House:
    """The house as the settings describe it. `outlives`: a connection is tried before it is used, so that nobody notices that
    the database was started again; costs a round trip."""
    secret = settings.secret()
    return House(
        engine=connect(settings.database_url, pool=pool, outlives=outlives),
        clock=clock or WallClock(),
        carrier=CarrierOverHttp(settings.carrier_url, carrier_token(secret)),
        speech=EspeakSpeech(),
        post=PostOffice(settings.data / "post"),
        files=FilesInFolder(settings.data / "files"),
        web=WebOverHttp({f"127.0.0.1:{settings.carrier_port}"}),
        decoder=FfmpegDecoder(),
        transcriber=Transcriber(),
        secret=secret,
    )


def carrier_environment(settings: Settings) -> dict[str, str]:
    """What the carrier stand-in's process must know."""
    secret = settings.secret()
    return {
        "VOKARI_CARRIER_CONTROL_URL": settings.control_url,
        "VOKARI_CARRIER_NAME": CARRIER,
        "VOKARI_CARRIER_SECRET": carrier_secret(secret, CARRIER).decode(),
        "VOKARI_CARRIER_TOKEN": carrier_token(secret),
        "VOKARI_CARRIER_DATA": str(settings.data),
    }
