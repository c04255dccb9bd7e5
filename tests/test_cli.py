"""The command line: flow files without a database, and flows of one through the use cases."""

import json
from pathlib import Path

import pytest

from tests.world import World, main_line
from vokari.cli import main
from vokari.settings import Settings

EXAMPLES = sorted((Path(__file__).parents[1] / "examples").glob("*.json"))
BOATYARD = str(next(one for one in EXAMPLES if one.name.startswith("boatyard")))


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_every_example_is_sound_and_says_what_it_shows(path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["flow", "check", str(path)]) == 0
    assert "no caller is lost" in capsys.readouterr().out
    assert main(["flow", "check", str(path), "--structure"]) == 0
    assert "nothing was walked" in capsys.readouterr().out
    assert len(json.loads(path.read_text())["about"]) > 20


def test_a_flow_that_loses_callers_is_told_with_a_call_that_shows_it(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    raw = json.loads(Path(BOATYARD).read_text())
    (sorry,) = (one for one in raw["flow"]["steps"] if one["kind"] == "voicemail")
    raw["flow"]["steps"].append({"kind": "announcement", "id": "bye", "prompt": {"say": "Goodbye"}, "next": "end"})
    for step in raw["flow"]["steps"]:
        if step.get("no_answer") == sorry["id"]:
            step["no_answer"] = "bye"
    (tmp_path / "loses.json").write_text(json.dumps(raw))
    check = ["flow", "check", str(tmp_path / "loses.json"), "--at", "2026-11-24T14:05"]
    assert main(check) == 1
    assert "Callers are lost" in capsys.readouterr().out
    assert main([*check, "--json"]) == 1
    found = json.loads(capsys.readouterr().out)
    (loss,) = (one for one in found["findings"] if one["code"] == "loses_callers")
    assert (loss["severity"], loss["step"], found["proof"]["proven"]) == ("stops", "bye", True)
    call = ["flow", "call", check[2], "--at", loss["example"]["at"], "--phones", "*=rings_out", "--json"]
    press = ",".join(f"{key}@{14 + 8 * place}" for place, key in enumerate(loss["example"]["keys"]))
    assert main([*call, "--press", press]) == 0
    assert json.loads(capsys.readouterr().out)["fate"] == "lost", "the call of the example, made by hand"


def test_every_way_of_ending_is_listed(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["flow", "paths", BOATYARD, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    fates = [one["fate"] for one in found["ends"]]
    assert found["unwalked"] == []
    assert {"answered", "message_left", "served"} <= set(fates)
    assert len({(one["fate"], one["reason"], one["at"]) for one in found["ends"]}) == len(fates)
    assert main(["flow", "paths", BOATYARD]) == 0
    assert capsys.readouterr().out.count("\n") == 2 * len(fates)


def test_a_call_is_told_second_by_second_and_as_json(capsys: pytest.CaptureFixture[str]) -> None:
    call = ["flow", "call", BOATYARD, "--at", "2026-11-24T14:05", "--from", "+14105550185", "--press", "1@14"]
    call += ["--phones", "+14105550160=rings_out,+14105550161=answers:6:30"]
    assert main(call) == 0
    told = capsys.readouterr().out
    assert "caller presses 1" in told
    assert told.rstrip().endswith("answered")
    assert main([*call, "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["fate"] == "answered"
    assert found["transcript"][0] == {"at": 0.0, "step": found["transcript"][0]["step"], "what": "the call arrives"}
    assert [line["at"] for line in found["transcript"]] == sorted(line["at"] for line in found["transcript"])


def test_a_simulation_repeats_itself_with_its_seed(capsys: pytest.CaptureFixture[str]) -> None:
    told = []
    for seed in ("3", "3", "4"):
        assert main(["simulate", BOATYARD, "--days", "5", "--seed", seed, "--json"]) == 0
        told.append(json.loads(capsys.readouterr().out))
    assert told[0] == told[1] != told[2]
    assert sum(one["calls"] for one in told[0]["fates"]) == told[0]["calls"] > 40


@pytest.mark.parametrize(
    ("words", "code", "sentence"),
    [
        (["flow", "check", "nowhere.json"], 1, "cannot be read"),
        (["flow", "check", BOATYARD, "--at", "noon"], 2, "noon"),
        (["flow", "paths", BOATYARD, "--at", "noon"], 2, "noon"),
        (["flow", "call", BOATYARD, "--press", "11@x"], 2, "is no key with its second"),
        (["flow", "call", BOATYARD, "--phones", "+14105550160=sings"], 2, "is none of"),
        (["flow", "call", BOATYARD, "--from", "12"], 2, "at most 15 digits"),
        (["flow", "call", BOATYARD, "--at", "noon"], 2, "noon"),
    ],
)
def test_what_is_typed_wrong_gets_words(
    words: list[str], code: int, sentence: str, capsys: pytest.CaptureFixture[str]
) -> None:
    assert main(words) == code
    assert sentence in capsys.readouterr().err


def test_a_broken_file_names_line_and_path(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "flow.json"
    file.write_text('{"flow": {"name": "A", "mark": "AB",\n "steps": [{"kind": "menu", "id": "m",\n  "tries": 99}]}}')
    assert main(["flow", "check", str(file)]) == 1
    assert "line 3, flow.steps.0.tries" in capsys.readouterr().err


def test_a_flow_goes_out_and_comes_in_again(
    world: World,
    settings: Settings,
    monkeypatch: pytest.MonkeyPatch,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
) -> None:
    flow = world.flow(main_line(), live=False, sources={"ls_bus": "Bus"})
    monkeypatch.setenv("VOKARI_DATABASE_URL", settings.database_url)
    monkeypatch.setenv("VOKARI_DATA", str(settings.data))
    user = ["--user", "specialist@example.com"]
    assert main(["flow", "export", str(flow.id), *user]) == 0
    file = tmp_path / "out.json"
    file.write_text(capsys.readouterr().out)
    assert main(["flow", "import", str(file), "--client", str(world.client.id), "--name", "Second line", *user]) == 0
    assert "Second line is flow" in capsys.readouterr().out
    assert main(["flow", "import", str(file), "--client", str(world.client.id), *user]) == 1
    assert main(["flow", "export", str(flow.id), "--user", "nobody@example.com"]) == 1
    assert main(["flow", "export", str(flow.id), "--user", "client_viewer@example.com"]) == 1
    assert main(["flow", "import", str(file), "--client", "999", *user]) == 1


def test_kept_rehearsals_are_run_and_one_that_fails_is_told(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["flow", "rehearse", BOATYARD]) == 0
    assert ", 0 fail." in capsys.readouterr().out
    raw = json.loads(Path(BOATYARD).read_text())
    raw["flow"]["rehearsals"][0]["expects"] = {"fate": "answered"}
    (tmp_path / "fails.json").write_text(json.dumps(raw))
    assert main(["flow", "rehearse", str(tmp_path / "fails.json")]) == 1
    assert "it should come to “answered”" in capsys.readouterr().out
    assert main(["flow", "rehearse", str(tmp_path / "fails.json"), "--json"]) == 1
    assert [one["holds"] for one in json.loads(capsys.readouterr().out)["rehearsals"]].count(False) == 1
    capsys.readouterr()
    assert main(["flow", "check", str(tmp_path / "fails.json")]) == 0, "it asks for a word, and stops nothing"
    assert capsys.readouterr().out.count("asks: The rehearsal") == 1


def test_what_changes_from_one_file_to_another_is_told(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["flow", "compare", BOATYARD, BOATYARD]) == 0
    assert capsys.readouterr().out == "Nothing changes for any caller.\n"
    raw = json.loads(Path(BOATYARD).read_text())
    greeting = next(one for one in raw["flow"]["steps"] if one["kind"] == "announcement")
    greeting["prompt"]["say"] = "Ahoy"
    (tmp_path / "after.json").write_text(json.dumps(raw))
    assert main(["flow", "compare", BOATYARD, str(tmp_path / "after.json"), "--json"]) == 0
    (said,) = json.loads(capsys.readouterr().out)["changes"]
    assert said.startswith("The flow now says “Ahoy”; before, it says “Thanks for calling")


def test_the_cover_of_a_file_is_told_with_its_exceptions(capsys: pytest.CaptureFixture[str]) -> None:
    hours = str(next(one for one in EXAMPLES if one.stem == "sorted-by-hours"))
    assert main(["flow", "cover", hours, "--at", "2026-11-24T14:05"]) == 0
    out = capsys.readouterr().out
    assert "Chandlery counter" in out
    assert "Launch season" in out
    assert main(["flow", "cover", hours, "--at", "2026-11-24T14:05", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["strip"]
