"""Hours at the terminal: files are read, moments asked, and mistakes said."""

import json
from pathlib import Path

import pytest

from tests.hours import closed, hours
from vokari.cli import main
from vokari.formats.hours_file import write

EXAMPLES = Path(__file__).parents[1] / "examples" / "hours"
CLINIC, KIOSK = str(EXAMPLES / "clinic.json"), str(EXAMPLES / "ferry-kiosk.ics")


def ran(capsys: pytest.CaptureFixture[str], *words: str) -> tuple[int, str, str]:
    code = main(["hours", *words])
    out = capsys.readouterr()
    return code, out.out, out.err


def test_what_holds_at_a_moment_is_said(capsys: pytest.CaptureFixture[str]) -> None:
    assert ran(capsys, "at", CLINIC, "--at", "2026-11-26T12:00") == (
        0, "Thu 2026-11-26 12:00 America/New_York: Duty vet open (Thanksgiving Day) until tomorrow 08:00, then Clinics\n", "",
    )  # fmt: skip
    code, out, _ = ran(capsys, "at", KIOSK, "--zone", "America/Los_Angeles", "--at", "2027-02-09T12:00", "--json")
    said = json.loads(out)
    assert code == 0
    assert (said["open"], said["because"], said["because_name"]) == (False, "days", "dock repairs")
    assert said["until"] == "2027-02-15T09:00:00-08:00"


def test_the_next_changes_and_the_open_time_are_listed(capsys: pytest.CaptureFixture[str]) -> None:
    code, out, _ = ran(
        capsys, "next", KIOSK, "--zone", "America/Los_Angeles", "--at", "2026-12-24T12:00", "--days", "5"
    )
    assert code == 0
    assert out.splitlines() == [
        "Thu 2026-12-24 17:00  closed", "Mon 2026-12-28 09:00  Kiosk", "Mon 2026-12-28 17:00  closed",
        "Tue 2026-12-29 09:00  Kiosk",
    ]  # fmt: skip
    assert ran(capsys, "next", KIOSK, "--at", "2026-12-26T12:00", "--days", "1")[1] == "Nothing changes in 1 days.\n"
    assert ran(capsys, "week", CLINIC)[1].splitlines() == [
        "Clinics: 56 h 30 min",
        "Duty vet: 103 h 30 min",
        "in all: 160 h",
    ]


def test_gaps_in_the_cover_end_with_1(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    shop, joel = tmp_path / "shop.json", tmp_path / "joel.json"
    shop.write_text(write(hours(closed("2026-12-25"), desk="Mon-Fri 9-17", zone="America/New_York")))
    joel.write_text(write(hours(desk="Mon-Thu 9-17; Fri 9-12", zone="America/New_York")))
    code, out, _ = ran(capsys, "cover", str(shop), str(joel), "--at", "2026-12-14T00:00", "--days", "14")
    assert code == 1
    assert out.splitlines() == [
        "67 h of 72 h covered in 14 days.",
        "nobody: Fri 2026-12-18 12:00 to Fri 2026-12-18 17:00",
    ]
    assert ran(capsys, "cover", str(shop), str(shop), "--at", "2026-12-14T00:00")[0] == 0


@pytest.mark.parametrize(
    ("words", "code", "says"),
    [
        (["at", "nowhere.json"], 1, "cannot be read"),
        (["at", CLINIC, "--at", "soon"], 2, "is no moment"),
        (["next", CLINIC, "--days", "0"], 2, "1 to 800 days"),
        (["at", CLINIC, "--at", "9999-01-01T00:00"], 2, "1990 to 2100"),
        (["at", __file__], 1, "no iCalendar file"),
    ],
)
def test_mistakes_are_said(capsys: pytest.CaptureFixture[str], words: list[str], code: int, says: str) -> None:
    got, out, err = ran(capsys, *words)
    assert got == code
    assert says in err
    assert out == ""


def test_what_a_calendar_cannot_say_goes_to_the_second_output(
    capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    file = tmp_path / "a.ics"
    text = (
        Path(KIOSK)
        .read_text()
        .replace("END:VCALENDAR", "BEGIN:VTODO\nUID:1\nSUMMARY:Buy paint\nEND:VTODO\nEND:VCALENDAR")
    )
    file.write_text(text)
    code, out, err = ran(capsys, "at", str(file), "--at", "2026-12-21T12:00")
    assert code == 0
    assert "Kiosk open" in out
    assert "A task is left out: “Buy paint”." in err


def test_an_hours_file_with_a_mistake_names_its_place(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    file = tmp_path / "a.json"
    file.write_text(write(hours(desk="Mon 9-12")).replace('"start": 540', '"start": "nine"'))
    code, _, err = ran(capsys, "at", str(file))
    assert code == 1
    assert "week.0.0.start" in err
