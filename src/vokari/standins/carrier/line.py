"""One call on the wire: the caller, the phones, the clock, and the events posted to Vokari.

The clock is virtual: at real speed the line waits until each moment has come, else it goes on at once.
"""

import asyncio
import heapq
import time
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from itertools import count
from typing import Any

import httpx

from ...formats.call_control import messages as wire
from ...formats.call_control import pacing
from ...formats.call_control.records import FailSafeUse
from . import sounding
from .script import CallScript, Vokari, Watched
from .telling import Failed, Wire, commands_of, is_last, words_of

GIVES_UP_AFTER = 30.0
"""Seconds after which a caller at a fail-safe that nobody answers hangs up."""
HOLD_SOUND = "hears the carrier’s hold sound"
ANSWERS_AFTER = 0.6
"""Seconds after which somebody presses a key who is waited for."""


@dataclass(slots=True)
class _Playing:
    command: int
    start: float
    seconds: float
    cut: bool
    sounds: list[int] = field(default_factory=list)


@dataclass
class Line:
    """A call in progress or over. `trace` tells what happened, with seconds since the call arrived."""

    ref: str
    script: CallScript
    vokari: Vokari
    fail_safe: str
    http: httpx.AsyncClient
    register: Watched
    trace: list[dict[str, Any]] = field(default_factory=list)
    over: bool = False
    used_fail_safe: bool = False

    def __post_init__(self) -> None:
        self.start = self.script.at or datetime.now(UTC)
        self.began = time.monotonic()
        self.now = 0.0
        self.seq = 0
        self.by = "carrier"
        self.fail_safe_use: FailSafeUse | None = None
        self.untold: list[wire.EventMessage] = []
        self.as_good_as_over = False
        self.queue: list[tuple[float, int, Any]] = []
        self.order = count()
        self.woken = asyncio.Event()
        self.playing: _Playing | None = None
        self.listening = 0
        self.recording: tuple[wire.RecordCommand, float] | None = None
        self.legs: dict[int, wire.RingCommand] = {}
        self.dead_legs: set[int] = set()
        self.talking = False
        self.on_hold = False
        self.recorded_since: float | None = None
        self.paused: list[tuple[float, float]] = []
        self.sounds = sounding.Sounds()
        self.message = self.script.message
        self.answers = list(self.script.answers)

    # from outside

    def poke(self) -> None:
        self.inject(wire.Poked())

    def press(self, key: str) -> None:
        self.inject(key)

    def hang_up(self) -> None:
        self.inject(None)

    def inject(self, what: Any) -> None:
        """Lets something happen now."""
        moment = time.monotonic() - self.began if self.script.speed == "real" else self.now
        heapq.heappush(self.queue, (max(self.now, moment), next(self.order), what))
        self.woken.set()

    # the run

    async def run(self) -> None:
        for at, key in self.script.press:
            heapq.heappush(self.queue, (at, next(self.order), key))
        if self.script.hangs_up is not None:
            heapq.heappush(self.queue, (self.script.hangs_up, next(self.order), None))
        self.register.begin(self.ref, self.script.caller, self.script.called, self.start)
        try:
            rung = self.script.rung
            called = None if rung else self.script.called
            await self.post(wire.CallArrived(caller=self.script.caller, called=called, rung=rung))
            while not self.over and await self.until_next():
                self.now, _, what = heapq.heappop(self.queue)
                await self.happen(what)
        except Failed as failure:
            self.catch_up()
            if self.as_good_as_over:
                self.tell(f"{failure}; the call is over all the same")
            else:
                await self.take_fail_safe(str(failure))
        self.over = True
        self.register.end(self.ref, self.moment(), self.by, self.fail_safe_use, self.untold)

    async def until_next(self) -> bool:
        """Waits for the moment of the next event; False when nothing more can come."""
        while self.script.speed == "real":
            self.woken.clear()
            wait = self.queue[0][0] - (time.monotonic() - self.began) if self.queue else None
            if wait is not None and wait <= 0:
                return True
            try:
                await asyncio.wait_for(self.woken.wait(), wait if wait is not None else 600)
            except TimeoutError:
                if wait is None:
                    return False
        return bool(self.queue)

    def later(self, delay: float, what: Any) -> None:
        heapq.heappush(self.queue, (round(self.now + delay, 2), next(self.order), what))

    def tell(self, what: str) -> None:
        self.trace.append({"at": round(self.now, 2), "what": what})

    def moment(self) -> datetime:
        """The call's own clock."""
        return self.start + timedelta(seconds=round(self.now, 2))

    async def take_fail_safe(self, why: str) -> None:
        """The carrier goes on without Vokari: it rings the number's fail-safe, if there is one."""
        self.used_fail_safe = True
        self.fail_safe_use = FailSafeUse(to=self.fail_safe, outcome="none")
        if not self.fail_safe:
            self.tell(f"{why}; the number has no fail-safe, so the caller hears the busy tone")
            return
        self.register.leaves(self.ref)
        self.tell(f"{why}; the carrier rings the fail-safe {self.fail_safe}")
        phone = self.script.phones.get(self.fail_safe, self.script.other_phones)
        leaves = self.script.hangs_up
        if phone.behavior in ("answers", "mailbox") and (leaves is None or leaves > self.now + phone.after):
            await self.pass_time(phone.after)
            self.tell(f"talks with {self.fail_safe}")
            self.register.talks(self.ref, mailbox=phone.behavior == "mailbox")
            talk = phone.talk if leaves is None else min(phone.talk, leaves - self.now)
            await self.pass_time(talk)
            self.fail_safe_use = FailSafeUse(to=self.fail_safe, outcome="answered", talk_seconds=round(talk, 1))
            self.tell("the person hangs up")
        else:
            await self.pass_time(GIVES_UP_AFTER if leaves is None else max(0.0, min(leaves - self.now, GIVES_UP_AFTER)))
            self.fail_safe_use = FailSafeUse(to=self.fail_safe, outcome="not_answered")
            self.tell(f"the fail-safe {phone.behavior.replace('_', ' ')}")

    def catch_up(self) -> None:
        """What was waited for Vokari has passed on the call's clock too, where that is the wall's."""
        if self.script.speed == "real":
            self.now = max(self.now, time.monotonic() - self.began)

    async def pass_time(self, seconds: float) -> None:
        """Lets seconds of the call's clock pass, in real time where it runs so."""
        self.now += seconds
        if self.script.speed == "real":
            await asyncio.sleep(seconds)

    async def happen(self, what: Any) -> None:
        match what:
            case None:
                await self.leave()
            case str():
                await self.key(what)
            case wire.PromptFinished(command=command):
                if self.playing and self.playing.command == command:
                    self.playing = None
                    await self.post(what)
            case wire.SilenceHeard(command=command):
                if self.listening == command:
                    self.listening = 0
                    await self.post(what)
            case wire.LegChanged(command=command, outcome=outcome):
                if command not in self.dead_legs:
                    if outcome != "answered":
                        self.dead_legs.add(command)
                    if outcome == "ended":
                        what, self.talking = what.model_copy(update=self.talked()), False
                    await self.post(what)
            case wire.RecordingFinished(command=command, caller_gone=gone):
                if self.recording and self.recording[0].id == command:
                    if gone:
                        await self.leave()
                    else:
                        self.recording = None
                        await self.post(what)
            case _:
                await self.post(what)

    async def key(self, key: str) -> None:
        if self.talking:
            return
        if self.recording:
            command, began = self.recording
            if key == command.stop_key:
                self.recording = None
                await self.post(self.recorded(command, began, gone=False))
            return
        half = self.heard_half()
        if self.script.sound:
            self.sounds.begin(self.now, sounding.key(key))
        if self.playing and self.playing.cut:
            self.stop_playing()
        self.listening = 0
        await self.post(wire.DigitPressed(key=key, heard_half=half))

    async def leave(self) -> None:
        """The caller hangs up; in a recording that is its end and the call's."""
        self.by = "caller"
        if self.recording:
            command, began = self.recording
            self.recording = None
            await self.post(self.recorded(command, began, gone=True))
        if not self.over:
            await self.post(wire.CallerGone(heard_half=self.heard_half(), **self.talked()))
        self.over = True

    def recorded(self, command: wire.RecordCommand, began: float, *, gone: bool) -> wire.RecordingFinished:
        length = round(max(0.0, self.now - began), 1)
        voice = pacing.cut_short(self.message, began, self.now)
        name = f"{self.ref}-{command.id}"
        return wire.RecordingFinished(
            command=command.id, seconds=length, voice_seconds=voice, caller_gone=gone, recording=name if voice else ""
        )

    def talked(self) -> dict[str, Any]:
        """What was recorded of the talk that ends now."""
        if self.recorded_since is None or self.now <= self.recorded_since:
            return {}
        since, self.recorded_since = self.recorded_since, None
        lasted = self.now - since
        left_out = sum(max(0.0, min(stop, lasted) - min(start, lasted)) for start, stop in self.paused)
        seconds = round(lasted - left_out, 1)
        if seconds <= 0:
            return {}
        return {"recording": f"{self.ref}-talk{next(self.order)}", "recorded_seconds": seconds}

    def heard_half(self) -> bool:
        return self.playing is not None and self.now - self.playing.start >= self.playing.seconds / 2

    # the wire

    async def post(self, event: Any) -> None:
        """Tells the next event, and obeys the commands that come back. The caller hears hold sound meanwhile."""
        self.seq += 1
        message = wire.EventMessage(call=self.ref, seq=self.seq, at=self.moment(), event=event)
        self.tell(words_of(event))
        try:
            answer = await Wire(self.ref, self.vokari, self.http).tell(message, self.hears_hold_sound)
        except Failed:
            self.as_good_as_over = is_last(event)
            if self.as_good_as_over or isinstance(event, wire.RecordingFinished):
                self.untold.append(message)
            raise
        self.catch_up()
        reply = commands_of(answer)
        for command in reply.commands:
            await self.begin(command)
        if reply.ended and not self.over:
            self.by = "application"
        self.over = self.over or reply.ended
        self.register.told(self.ref, self.moment())

    def hears_hold_sound(self) -> None:
        if self.trace[-1]["what"] != HOLD_SOUND:
            self.tell(HOLD_SOUND)

    async def begin(self, command: Any) -> None:
        match command:
            case wire.HoldCommand():
                self.tell(f"hears “{command.words}” over and over" if command.words else "hears music")
                self.stop_playing()
                self.on_hold = True
            case wire.PlayCommand():
                await self.play(command)
            case wire.ListenCommand():
                self.listening = command.id
                if self.answers:
                    self.later(ANSWERS_AFTER, self.answers.pop(0))
                self.later(command.seconds, wire.SilenceHeard(command=command.id))
            case wire.RingCommand():
                self.ring(command)
            case wire.DropCommand():
                self.dead_legs.add(command.id)
            case wire.ConnectCommand():
                self.connect(command)
            case wire.RecordCommand():
                self.record(command)
            case wire.TimerCommand():
                self.later(command.seconds, wire.TimerFired(command=command.id))
            case wire.HangUpCommand():
                self.tell("the call is ended")
                self.by, self.over = "application", True

    async def play(self, command: wire.PlayCommand) -> None:
        """Plays a prompt for as long as its sound takes, or, where the line carries none, as long as it is said to."""
        self.stop_playing()
        seconds, pieces = command.seconds, []
        if self.script.sound:
            parts = command.parts or (wire.PlayPart(words=command.words, audio=command.audio, seconds=command.seconds),)
            at = self.now
            for part in parts:
                samples = await self.sound_of(part)
                if samples is None:
                    at += part.seconds
                else:
                    pieces.append(self.sounds.begin(at, samples))
                    at += samples.size / sounding.RATE
            seconds = at - self.now
        self.trace.append({"at": round(self.now, 2), "what": f"hears “{command.words}”", "sounds": pieces})
        self.playing = _Playing(command.id, self.now, seconds, command.cut, pieces)
        self.later(seconds, wire.PromptFinished(command=command.id))

    async def sound_of(self, part: wire.PlayPart) -> sounding.Samples | None:
        if part.recorded is not None:
            return self.sounds.recorded.get(part.recorded)
        return await sounding.fetched(self.http, f"{self.vokari.url}{part.audio}") if part.audio else None

    def stop_playing(self) -> None:
        """What is played stops here."""
        for number in self.playing.sounds if self.playing else ():
            self.sounds.cut(number, self.now)
        self.playing = None

    def ring(self, command: wire.RingCommand) -> None:
        if not self.on_hold:
            self.stop_playing()
        self.legs[command.id] = command
        phone = self.script.phones.get(command.number, self.script.other_phones)
        behind = f", then dials {command.post_dial}" if command.post_dial else ""
        self.tell(f"rings {command.number}{behind}")
        dialing = pacing.dialing(command.post_dial) if command.answered == "dialed" else 0.0
        accept = float(command.accept.seconds) if command.accept else None
        goes = pacing.outcomes(
            phone, command.seconds, accept, machine_detection=command.machine_detection, dialing=dialing
        )
        for delay, what in goes:
            self.later(delay, wire.LegChanged.model_validate({"command": command.id, "outcome": what}))

    def connect(self, command: wire.ConnectCommand) -> None:
        leg = self.legs.get(command.id)
        if leg is None:
            raise Failed("Vokari answers with nonsense")
        self.stop_playing()
        self.talking, self.on_hold = True, False
        self.dead_legs.discard(command.id)
        if leg.whisper:
            self.tell(f"{leg.number} hears “{leg.whisper}”")
        if leg.caller_name:
            self.tell(
                f"{leg.number} hears the caller’s name{f' and “{leg.whisper_after}”' if leg.whisper_after else ''}"
            )
        phone = self.script.phones.get(leg.number, self.script.other_phones)
        mailbox = phone.behavior == "mailbox"
        self.register.talks(self.ref, mailbox=mailbox)
        whom = f"the own mailbox of {leg.number}" if mailbox else leg.number
        self.tell(f"talks with {whom}{', recorded' if command.recording == 'on' else ''}")
        kept = command.recording == "on" or (
            command.recording == "if_kept" and phone.keeps and command.keep_key is not None
        )
        self.recorded_since = self.now if kept else None
        self.paused = phone.paused if command.pause_key is not None else []
        self.later(phone.talk, wire.LegChanged(command=command.id, outcome="ended"))

    def record(self, command: wire.RecordCommand) -> None:
        self.talking = self.on_hold = False
        self.tell("is recorded")
        voice = self.speak(command)
        goes = pacing.recorded(
            self.message, command.longest, command.stop_key, command.stop_silence, beep=command.beep
        )  # fmt: skip
        self.recording = (command, self.now + goes.begins)
        if voice is not None:
            self.sounds.begin(self.now + goes.begins, voice)
            self.sounds.recorded[command.id] = voice[: round(goes.lasts * sounding.RATE)]
        done = wire.RecordingFinished(
            command=command.id, seconds=goes.lasts, voice_seconds=goes.voice, caller_gone=goes.gone,
            recording=f"{self.ref}-{command.id}" if goes.voice else "",
        )  # fmt: skip
        self.later(goes.begins + goes.lasts, done)

    def speak(self, command: wire.RecordCommand) -> sounding.Samples | None:
        """What the caller says into a recording, where the line carries sound: it takes as long as it takes."""
        if not self.script.sound:
            return None
        voice = sounding.said(self.script.message)
        self.message = self.script.message.model_copy(update={"voice": round(voice.size / sounding.RATE, 1)})
        if command.beep:
            self.sounds.begin(self.now, sounding.beep())
        return voice
