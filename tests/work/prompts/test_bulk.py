"""All prompts as one file, and such a file brought back: what it changes is shown first, and what is none is told."""

import io
import zipfile

import pytest

from tests.prompts import brought, prompt, sound, work
from tests.world import World
from vokari.formats import prompt_files
from vokari.formats.prompt_files import PromptLine
from vokari.work.prompts import bulk, library, takes
from vokari.work.prompts.brought import bring
from vokari.work.prompts.takes import Coming


def plan(world: World, content: bytes) -> bulk.Plan:
    return bulk.plan(world.house, world.actor, world.client.id, io.BytesIO(content))


def does(found: bulk.Plan) -> dict[str, str]:
    return {one.prompt: one.does for one in found.changes}


def test_what_was_packed_comes_back_as_it_is_and_elsewhere_as_new(world: World) -> None:
    prompt(world, "Tide times", "High water at <break/> nine.")
    at = prompt(world, "Winter storage")
    brought(world, at, sound(1.2), "storage.wav", words="Storage is full.")
    packed = bulk.pack(world.house, world.actor, world.client.id)
    with zipfile.ZipFile(io.BytesIO(packed)) as file:
        assert sorted(file.namelist()) == ["Winter storage (en-US).wav", "prompts.csv"]
    assert does(plan(world, packed)) == {"Tide times": "same", "Winter storage": "same"}
    found = bulk.plan(world.house, world.actor, None, io.BytesIO(packed))
    assert does(found) == {"Tide times": "new", "Winter storage": "new"}
    assert library.listed(world.house, world.actor, None).prompts == ()
    assert bulk.carry_out(world.house, world.actor, None, found.file, found.signature) == 2
    work(world)
    lines = {one.prompt.name: one for one in library.listed(world.house, world.actor, None).prompts}
    assert lines["Winter storage"].first is not None
    assert (lines["Winter storage"].first.state, lines["Winter storage"].words) == ("ready", "Storage is full.")
    assert does(bulk.plan(world.house, world.actor, None, io.BytesIO(packed))) == {
        "Tide times": "same",
        "Winter storage": "same",
    }


def test_a_changed_list_shows_what_it_changes_and_changes_that(world: World) -> None:
    prompt(world, "Tide times", "High water at nine.")
    content = prompt_files.write([
        PromptLine("Tide times", words="High water at ten.", true_until="2027-01-31", then="Usual tides"),
        PromptLine("Usual tides", words="Look at the board."), PromptLine("Slipway", file="Slipway.wav", content=sound(1), words="Slipway"),
    ])  # fmt: skip
    found = plan(world, content)
    assert does(found) == {"Tide times": "words", "Usual tides": "new", "Slipway": "new"}
    assert "Before: “High water at nine.”" in found.changes[0].detail
    with pytest.raises(AssertionError):
        assert bulk.carry_out(world.house, world.actor, world.client.id, found.file, "0" * 64) == 3
    assert bulk.carry_out(world.house, world.actor, world.client.id, found.file, found.signature) == 3
    words = {one.prompt.name: one.words for one in library.listed(world.house, world.actor, world.client.id).prompts}
    assert words["Tide times"] == "High water at ten."
    again = bulk.carry_out(world.house, world.actor, world.client.id, found.file, found.signature)
    assert isinstance(again, list)


def zipped(**files: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, content in files.items():
            made.writestr(name.replace("__", "/").replace("_csv", ".csv"), content)
    return out.getvalue()


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"no zip", "no ZIP file"), (zipped(other=b"x"), "no prompts.csv"), (zipped(**{"..__prompts_csv": b"prompt\n"}), "lies in a folder"),
        (zipped(prompts_csv=b"prompt,file\nA,gone.wav\n"), "which is not there"), (zipped(prompts_csv=b"prompt,kind\nA,song\n"), "no kind of prompt"),
        (zipped(prompts_csv=b"prompt,words\nA,<b>x</b>\n"), "is not understood"), (zipped(prompts_csv=b"prompt,words\n,x\n"), "names no prompt"),
        (zipped(prompts_csv=b"prompt,file\nA,a.wav\n", **{"a.wav": b"\0" * 30_000_000}), "larger than 20 MB"),
        (zipped(prompts_csv=b"prompt,language\nA,es\nA,es\n"), "listed twice"), (zipped(prompts_csv=b"\xff\xfe\x00"), "no ZIP file"),
        (zipped(prompts_csv=b"prompt,words,voice\nA,Hello,xx-yy\n"), "no voice of the language"), (zipped(prompts_csv=b"prompt,true until\nA,soon\n"), "no day"),
    ],
)  # fmt: skip
def test_what_is_no_file_of_prompts_is_told_and_nothing_is_kept(world: World, content: bytes, said: str) -> None:
    found = plan(world, content)
    assert found.file == ""
    assert any(said in one for one in found.wrong), found.wrong
    assert not list((world.house.files._port.folder).rglob("*.zip"))  # type: ignore[attr-defined]


def test_a_recording_goes_to_the_prompt_that_is_called_as_its_file_is(world: World) -> None:
    at = prompt(world, "Boat lifts: opening")
    known = bring(world.house, world.actor, world.client.id, Coming(sound(1), "C:\\sounds\\boat_lifts - opening.wav"))
    new = bring(world.house, world.actor, world.client.id, Coming(sound(1, 600), "tide times.wav"))
    assert not isinstance(known, list)
    assert not isinstance(new, list)
    assert (known.prompt_id, known.made, new.name, new.made) == (at, False, "Tide times", True)
    assert (
        takes.one(world.house, world.actor, world.client.id, at, known.take_id).original_name
        == "boat_lifts - opening.wav"
    )
