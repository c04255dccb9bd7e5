"""Prompts: words until they can be heard, a kept sound, recordings made into telephone audio, and what the transcriber understands."""

import os
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

import structlog
from fastapi import Request
from fastapi.responses import Response
from sqlalchemy import select, text
from starlette.testclient import TestClient

from vokari.core.prompts.reading import ssml
from vokari.core.prompts.transcripts import error_rate
from vokari.demo.people import PASSWORD, USERS
from vokari.formats.audio import telephone
from vokari.memory import settle
from vokari.store.agency import User
from vokari.web.app import create
from vokari.web.doors import Signed, house_of
from vokari.work.agency import clients
from vokari.work.agency.access import Actor
from vokari.work.house.house import House
from vokari.work.prompts import library, takes
from vokari.work.prompts.takes import Coming

from .kept import keep
from .pages import Timed
from .rounds import ROUNDS
from .town import Town, town

HEADING = "## Prompts"
WORDS = (
    "Thank you for calling the yard. For boat lifts and winter storage press one. For engine work and repairs press two. For the chandlery"
    " press three. To speak with the office about anything else, stay on the line {0}."
)
"""About forty words; the number makes each of them another text."""
UPLOADS, SECONDS, AT_ONCE, TIMES = 200, 60, 2, 12
SAID = (
    "Please leave your name, your number and a message after the beep.", "We are closed today and open again tomorrow at eight.",
    "For boat lifts press one. For winter storage press two.", "The office is open from nine to five, Monday to Friday.",
    "All of us are with other callers. Please hold the line.", "The next lesson begins on Saturday morning at ten.",
)  # fmt: skip
VOICES = ("en-us", "en-us+f2", "en-us+f3", "en-gb")


@dataclass(frozen=True, slots=True)
class Measured:
    """Milliseconds from words to their sound, and of espeak-ng alone; of a kept sound, and a page with one read that returns the same
    bytes; seconds for all uploads, and for ffmpeg alone; the median and slowest page meanwhile; word error rates by voice, of the
    original and of telephone audio."""

    spoken: float
    alone: float
    kept: float
    one_read: float
    uploads: float
    ffmpeg: float
    page: float
    slowest: float
    understood: dict[str, tuple[float, float]]


def measure(made: Town) -> Measured:
    """All of it on the demo world."""
    app = create(made.house, made.settings)
    sound = bytes(130_000)

    @app.get("/bench/{client_id}/sound")
    def one_read(request: Request, signed: Signed, client_id: int) -> Response:
        clients.get(house_of(request), signed.actor, client_id)
        return Response(sound, media_type="audio/wav")

    timed = Timed(app)
    browser = TestClient(timed, follow_redirects=True)
    browser.post("/sign-in", data={"email": USERS[1][0], "password": PASSWORD})
    with made.house.begin() as session:
        user = session.scalars(select(User).where(User.email == USERS[1][0])).one()
        client = int(session.scalar(text("SELECT id FROM clients ORDER BY id LIMIT 1")) or 0)
    actor = Actor(user.id, user.agency_id, "specialist", None, user.name)
    settle()
    token = _token(browser.get(f"/clients/{client}/prompts").text)
    spoken, alone = _by_turns(
        lambda n: _heard(browser, client, token, n), lambda n: _spoken_alone(made.house, n), timed, both=False
    )
    name = browser.post(
        f"/clients/{client}/prompts/hear",
        data={"form_token": token, "words": WORDS.format("again"), "language": "en-US"},
    ).json()["sounds"][0]
    sound = browser.get(name).content
    kept, plain = _by_turns(lambda _: browser.get(name), lambda _: browser.get(f"/bench/{client}/sound"), timed)
    uploads, ffmpeg, pages = _uploads(made.house, actor, client, browser)
    return Measured(
        spoken, alone, kept, plain, uploads, ffmpeg, statistics.median(pages), max(pages), _understood(made.house)
    )


def _token(page: str) -> str:
    return page.split('name="form_token" value="', 1)[1].split('"', 1)[0]


def _by_turns(
    ours: Callable[[int], object], other: Callable[[int], object], timed: Timed, *, both: bool = True
) -> tuple[float, float]:
    """The medians in milliseconds of both, done by turns: the server's time for all requests of a turn, of the first way alone unless
    `both` are made of requests."""
    found: tuple[list[float], list[float]] = ([], [])
    for number in range(ROUNDS * TIMES):
        for way, run in enumerate((ours, other)):
            timed.seconds.clear()
            began = time.perf_counter()
            run(number)
            found[way].append(sum(timed.seconds) if both or way == 0 else time.perf_counter() - began)
    return statistics.median(found[0]) * 1000, statistics.median(found[1]) * 1000


def _heard(browser: TestClient, client: int, token: str, number: int) -> None:
    """From a press of Hear until the browser has the sound."""
    form = {"form_token": token, "words": WORDS.format(number), "language": "en-US"}
    answer = browser.post(f"/clients/{client}/prompts/hear", data=form).json()
    assert len(browser.get(answer["sounds"][0]).content) > 10_000


def _spoken_alone(house: House, number: int) -> None:
    house.speech.speak(ssml(WORDS.format(number), "en-US"), "en-US")


def _uploads(house: House, actor: Actor, client: int, browser: TestClient) -> tuple[float, float, list[float]]:
    """Seconds to make telephone audio of all recordings, as many at once as the worker does; what ffmpeg takes for the same; and the
    milliseconds of pages meanwhile."""
    with tempfile.TemporaryDirectory() as folder:
        files = [_recording(Path(folder), n) for n in range(UPLOADS)]
        at = library.create(house, actor, client, {"name": "Bench of recordings", "kind": "message"})
        assert isinstance(at, int)
        coming = [
            takes.bring(house, actor, client, at, Coming(one.read_bytes(), one.name, words="said")) for one in files
        ]
        pages: list[float] = []
        done = threading.Event()
        looking = threading.Thread(target=_look, args=(browser, client, pages, done))
        began = time.perf_counter()
        looking.start()
        with ThreadPoolExecutor(AT_ONCE) as pool:
            list(pool.map(lambda take: takes.make(house, take), [one for one in coming if isinstance(one, int)]))
        ours = time.perf_counter() - began
        done.set()
        looking.join()
        began = time.perf_counter()
        with ThreadPoolExecutor(AT_ONCE) as pool:
            list(pool.map(_by_ffmpeg, files))
        return ours, time.perf_counter() - began, pages


def _recording(folder: Path, number: int) -> Path:
    """A minute of somebody who speaks, as browsers record it: WebM with Opus."""
    wav, made = folder / "spoken.wav", folder / f"take {number}.webm"
    if not wav.exists():
        words = " ".join(SAID * 6)
        subprocess.run(["espeak-ng", "-v", "en-us+f2", "-w", str(wav), words], check=True)
    shift = ["-ss", f"{number % 10 / 10}", "-t", str(SECONDS)]
    command = ["ffmpeg", "-y", "-loglevel", "error", *shift, "-i", str(wav), "-c:a", "libopus", str(made)]
    subprocess.run(command, check=True)
    return made


def _by_ffmpeg(file: Path) -> None:
    """The same by ffmpeg alone: measured (EBU R 128, with true peaks), brought to the loudness, and written as G.711."""
    command = ["ffmpeg", "-y", "-nostdin", "-nostats", "-hide_banner", "-threads", "1", "-i", str(file)]
    narrow = "aresample=8000,aformat=channel_layouts=mono"
    measuring = [*command, "-af", f"{narrow},ebur128=peak=true", "-f", "null", "-"]
    said = subprocess.run(measuring, capture_output=True, text=True, check=True).stderr
    loud = float(said.rpartition("I:")[2].split()[0])
    level = f"{narrow},volume={-18 - loud}dB,alimiter=limit=0.7:level=false"
    subprocess.run(
        [*command, "-af", level, "-c:a", "pcm_mulaw", str(file.with_suffix(".wav"))], capture_output=True, check=True
    )


def _look(browser: TestClient, client: int, pages: list[float], done: threading.Event) -> None:
    while not done.is_set():
        began = time.perf_counter()
        browser.get(f"/clients/{client}/numbers")
        pages.append((time.perf_counter() - began) * 1000)
        time.sleep(0.2)


def _understood(house: House) -> dict[str, tuple[float, float]]:
    """The word error rate of the transcriber on made speech, by voice: of the original, and of telephone audio."""
    found = {}
    for voice in VOICES:
        rates = []
        for words in SAID:
            spoken = house.speech.speak(ssml(words, "en-US"), "en-US", voice, 130)
            wide = house.decoder.decode(spoken)
            again = telephone.up(telephone.at_rate(wide, telephone.WIDE))
            rates.append([error_rate(words, house.transcriber.words(one, "en-US")) for one in (wide, again)])
        found[voice] = (statistics.mean(one[0] for one in rates), statistics.mean(one[1] for one in rates))
    return found


def report(found: Measured) -> list[str]:
    """The part of docs/measures.md."""
    return [
        HEADING,
        f"Printed by `script/bench --prompts` on {datetime.now(UTC):%Y-%m-%d}, on {os.cpu_count()} cores.",
        "",
        "| | ms | against | ms | |",
        "| --- | ---: | --- | ---: | ---: |",
        f"| forty words, from Hear until the sound is sent, both requests | {found.spoken:.0f} | espeak-ng alone | {found.alone:.0f} | at most "
        f"{1.5 * found.alone + 50:.0f} (1.5 times, and 50 ms) |",
        f"| a sound that is kept | {found.kept:.1f} | a page with one read that returns the same bytes | {found.one_read:.1f} | "
        f"{found.kept / found.one_read:.2f} times (at most 1.5) |",
        "",
        f"{UPLOADS} recordings of {SECONDS} s (WebM, Opus) become telephone audio of one loudness in {found.uploads:.1f} s, {AT_ONCE} at once; "
        f"ffmpeg alone takes {found.ffmpeg:.1f} s to measure, level and write them: {found.uploads / found.ffmpeg:.2f} times (at most 1.3). "
        f"Pages answer meanwhile in {found.page:.0f} ms (median), the slowest in {found.slowest:.0f} ms.",
        "",
        f"What the transcriber understands of {len(SAID)} sentences in each of {len(VOICES)} made voices, as word error rates: words to replace, "
        "take out or put in, for each that was said. What it proposes is to be read by a person.",
        "",
        "| voice | the original (16,000 samples a second) | telephone audio |",
        "| --- | ---: | ---: |",
        *(f"| {voice} | {wide:.2f} | {narrow:.2f} |" for voice, (wide, narrow) in found.understood.items()),
    ]


if __name__ == "__main__":
    structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(40))
    with town() as made_town:
        printed = report(measure(made_town))
    print("\n".join(printed))
    if "--keep" in sys.argv:
        keep(HEADING, printed)
