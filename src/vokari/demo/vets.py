"""The demo's group of three veterinary clinics, whose lines share what all of them ask."""

from typing import Any

from ..core.flows.model.document import FlowDocument
from ..core.hours.document import DAY, Span
from .opening import US_HOLIDAYS, days, holidays, main, sort
from .plan import (
    ACCEPT,
    ClientPlan,
    SourcePlan,
    Staff,
    back,
    come_back,
    continue_in,
    entry,
    flow,
    hold_line,
    key,
    label,
    menu,
    ring,
    say,
    team_ring,
    voicemail,
)


def vets() -> ClientPlan:
    staff = Staff("+12075550", 160)
    boxes = {
        "mb_harbor": ("Harbor clinic", ["harbor@example.org"]), "mb_mill": ("Mill Road clinic", ["mill@example.org"]),
        "mb_pine": ("Pine Point clinic", ["pine@example.org"]), "mb_duty": ("Duty vet", ["duty@example.org"]),
    }  # fmt: skip
    ines = staff.person("Ines Rowe", desk="duty mobile", own_mailbox_after=24.0, open_chance=0.9, closed_chance=0.7)
    paul = staff.person("Paul Weld", desk="mobile", own_mailbox_after=20.0, closed_chance=0.5)
    duty = staff.team("Duty vets", ines, paul, strategy="rota", rounds=2, rota={"unit": "week", "first": "2026-01-05"})
    night = staff.place(
        "Northlight answering service",
        answered="service",
        open_chance=0.9,
        closed_chance=0.85,
        picks_up_after=5.0,
        talk=95.0,
    )
    harbor = [
        staff.person("Kit Lane", open_chance=0.9, talk=190.0),
        staff.person("Rosa Dunn", open_chance=0.8, talk=160.0),
    ]
    mill = [staff.person("Abel Stone"), staff.person("Greta Moss", desk="nurses’ room", open_chance=0.5)]
    pine = [staff.person("Lena Birk"), staff.person("Hugo Marsh", desk="nurses’ room", open_chance=0.5)]
    desk = staff.team("Harbor desk", *harbor, strategy="longest_idle")
    mills, pines = (
        staff.team("Mill Road desk", *mill, strategy="all_at_once"),
        staff.team("Pine Point desk", *pine, strategy="round_robin"),
    )
    steps = [
        say("hello", "Welcome", "You have reached Mossgate Vets, with clinics at Harbor Street, Mill Road and Pine Point.", "urgent"),
        menu("urgent", "Urgent or not", "If an animal is hurt or cannot breathe, press 1 now. To choose a clinic, press 2."
             " For vaccination days, press 3.",
             key("1", "Emergency", "duty"), key("2", "Choose a clinic", "hours"), key("3", "Vaccination days", "vaccine"),
             nothing="duty", wrong="hours", tries=2),
        sort("hours", "Clinics open", {"day": ("Clinics open", "clinic")}, "asleep", "closed"),
        say("asleep", "Clinics closed", "The clinics are closed now. One moment for our answering service.", "night"),
        ring("night", "", [night], "dutyvm", shows="tracking_number"),
        team_ring("duty", "Duty vet", duty, "dutyvm", accept=ACCEPT, limit=75),
        voicemail("dutyvm", "Duty voicemail", "mb_duty", "The duty vet is with a patient. Say what has happened and your number; you are rung back within ten minutes."),
        menu("clinic", "Which clinic", "For Harbor Street press 1, for Mill Road press 2, for Pine Point press 3. To go back, press 9.",
             key("1", "Harbor Street", "harbor"), key("2", "Mill Road", "mill"), key("3", "Pine Point", "pine"), key("9", "Back", "clinicback"),
             nothing="harbor", wrong="harbor"),
        back("clinicback", "urgent"),
    ]  # fmt: skip
    steps += [
        hold_line("harbor", "Harbor Street", desk, "harborvm", longest_wait=180, most_callers=5, announce_every=45, leave_key="1"),
        team_ring("mill", "Mill Road", mills, "millvm"), team_ring("pine", "Pine Point", pines, "pinevm"),
    ]  # fmt: skip
    for at, name in (("harbor", "Harbor Street"), ("mill", "Mill Road"), ("pine", "Pine Point")):
        words = f"Please leave a message for {name}: your name, the animal’s name and your number."
        steps.append(voicemail(f"{at}vm", f"{name} voicemail", f"mb_{at}", words))
    steps.append(
        say(
            "vaccine",
            "Vaccination days",
            "Vaccinations without appointment are on Tuesdays from two to five, at Mill Road. Bring the booklet.",
            "vacback",
            counts_as="served",
        )
    )
    steps.append(back("vacback", "urgent"))
    return ClientPlan(
        "Mossgate Vets", "US", "America/New_York", "Portland, Maine", "207",
        [
            SourcePlan("Search advert", "search", "cpc", "vet near me", "Search results", calls=8.0),
            SourcePlan("Map entry, Harbor Street", "maps", "organic", "harbor street", "Map entry", calls=4.0, flow=1),
            SourcePlan("Map entry, Mill Road", "maps", "organic", "mill road", "Map entry", calls=3.0, flow=2, key="ls_maps_mill"),
            SourcePlan("Map entry, Pine Point", "maps", "organic", "pine point", "Map entry", calls=2.0, flow=3, key="ls_maps_pine"),
            SourcePlan("Website", "website", "referral", placement="Header of every page", calls=6.0),
            SourcePlan("Reminder postcards", "postcards", "print", "vaccinations", "Sent each March", False, 2.0, silent=13),
            SourcePlan("Pet fair stand", "pet fair", "event", "autumn fair", "Banner and cards", False, 0.5),
        ],
        [flow("All clinics", "MV", "dutyvm", *steps), *(_clinic(name, mark, by, box, night) for name, mark, by, box in (
            ("Harbor Street", "HS", desk, "mb_harbor"), ("Mill Road", "MR", mills, "mb_mill"), ("Pine Point", "PP", pines, "mb_pine"),
        ))],
        boxes, staff.habits, people=staff.people, teams=staff.teams, inner={"fl_visits": _visits()},
        hours=[
            main(
                {"day Clinics": "Mon-Fri 8-18:30; Sat 9-13", "night Duty vet": "Mon-Thu 18:30-08:00; Fri 18:30-09:00; Sat 13-24; Sun 0-24"},
                holidays(
                    "duty", "Holidays with the duty vet", "US", "ME", *US_HOLIDAYS, "Patriots' Day", seen=2027,
                    spans=(Span(period="night", start=0, end=DAY // 2), Span(period="night", start=DAY // 2, end=DAY + 8 * 60)),
                ),
                days("inventory", "Stock-taking", "2026-12-11", times="8-12", every_year=False), lists="",
            )
        ],
    )  # fmt: skip


def _visits() -> FlowDocument:
    """What all three clinics ask, built once."""
    return flow(
        "Visits and questions", "VQ", None,
        menu("what", "What for", "To book or move a visit, press 1. To order more of a medicine, press 2. For anything else, press 3.",
             key("1", "Visit", "visit"), key("2", "Medicine", "packet"), key("3", "Anything else", "other"), nothing="other", wrong="other"),
        entry("packet", "File number", "Type the five digits on the label of the last packet.", "file_number", 5, "ordered", "other"),
        label("ordered", ["medicine"], "medicine"),
        come_back("visit", "visit"), come_back("medicine", "medicine"), come_back("other", "anything else"),
    )  # fmt: skip


def _clinic(name: str, mark: str, team: str, box: str, night: dict[str, Any]) -> FlowDocument:
    """The line of one clinic: its own people around what all clinics ask."""
    return flow(
        f"{name} clinic", mark, "vm",
        say("hello", "Welcome", f"Mossgate Vets at {name}.", "hours"),
        sort("hours", "Clinic open", {"day": ("Clinics open", "visits")}, "asleep", "closed"),
        say("asleep", "Clinic closed", "The clinic is closed now. One moment for our answering service.", "night"),
        ring("night", "", [night], "vm", shows="tracking_number"),
        continue_in("visits", "What for", "fl_visits", visit="desk", medicine="medicine", anything_else="desk"),
        team_ring("desk", f"{name} desk", team, "vm"),
        voicemail("medicine", "Medicine orders", box, "We make it ready by five tomorrow. Say the animal’s name, and whether you pick it up."),
        voicemail("vm", f"{name} voicemail", box, f"Please leave a message for {name}: your name, the animal’s name and your number."),
    )  # fmt: skip
