"""The demo clients in the United Kingdom."""

from ..core.people.directory import Team
from .opening import GB_LIST, days, main, own, sort
from .plan import (
    ClientPlan,
    Phones,
    SourcePlan,
    again,
    bye,
    flow,
    hold_line,
    key,
    label,
    menu,
    person,
    ring,
    say,
    team_ring,
    voicemail,
)

GB = "en-GB"
ZONE = "Europe/London"
ACCEPT = {"key": "1", "seconds": 8}


def driving() -> ClientPlan:
    phone = Phones("+4420794606", 10)
    line = flow(
        "Lessons", "DD", "vm",
        say("hello", "Welcome", "Dunmore Driving, lessons from patient people.", "menu"),
        menu("menu", "Learner or not", "For a first lesson, press 1. To move a lesson, press 2. For a refresher after years without driving, press 3.",
             key("1", "First lesson", "first"), key("2", "Move a lesson", "move"), key("3", "Refresher", "refresh"),
             key("71", "Back-of-car card", "first", elsewhere=True, source="ls_card"), again(), nothing="desk", wrong="desk"),
        label("first", ["first lesson"], "desk"), label("refresh", ["refresher"], "desk"),
        ring("move", "Diary", [phone("Diary desk", 20, open_chance=0.7)], "vm"),
        ring("desk", "Lesson desk", [phone("Moira", 22), phone("Callum", 20, open_chance=0.55, own_mailbox_after=11.0)], "vm", accept=ACCEPT),
        voicemail("vm", "Lessons voicemail", "mb_lessons", "We are in a car. Say your name, your postcode and whether you have driven before, and press hash to finish."),
        language=GB,
    )  # fmt: skip
    return ClientPlan(
        "Dunmore Driving", "GB", ZONE, "London", "20",
        [
            SourcePlan("Search advert", "search", "cpc", "driving lessons", "Search results", calls=5.0),
            SourcePlan("Roof signs", "roof", "sign", placement="Nine cars", online=False, calls=2.6),
            SourcePlan("Back-of-car card", "card", "sign", placement="Rear window, extension 71", online=False),
            SourcePlan("College noticeboards", "college", "print", "freshers", "Six colleges", False, 0.7),
        ],
        [line], {"mb_lessons": ("Lessons", ["lessons@example.com"])}, phone.habits,
        hours=[main({"desk Lesson desk": "Mon-Fri 8-18; Sat 9-13"}, lists=GB_LIST)],
    )  # fmt: skip


def removals() -> ClientPlan:
    phone = Phones("+4420794606", 20)
    line = flow(
        "Quotes", "CR", "vm",
        ring("crew", "Everyone", [phone("Office", 25, open_chance=0.6), phone("Ade, van", 25, open_chance=0.4), phone("Wil, van", 25, open_chance=0.4)],
             "vm", strategy="all_at_once", accept=ACCEPT),
        voicemail("vm", "Quotes voicemail", "mb_quotes", "Corvid Removals. We are lifting something heavy. Leave your name, where from and where to, and when."),
        language=GB,
    )  # fmt: skip
    return ClientPlan(
        "Corvid Removals", "GB", ZONE, "London", "20",
        [
            SourcePlan("Map listing", "maps", "organic", placement="Map entry", calls=4.0),
            SourcePlan("Van sides", "van", "sign", placement="Three vans", online=False, calls=1.5),
            SourcePlan("Estate agents’ pack", "agents", "print", placement="Moving pack of four agents", online=False, calls=1.0),
        ],
        [line], {"mb_quotes": ("Quotes", ["quotes@example.org"])}, phone.habits,
        hours=[main({"office Office": "Mon-Sat 7-17"}, lists=GB_LIST)],
    )  # fmt: skip


def heating() -> ClientPlan:
    phone = Phones("+4420794606", 30)
    piet, anwen = (
        phone("Piet", 18, open_chance=0.6, closed_chance=0.4),
        phone("Anwen", 18, open_chance=0.6, closed_chance=0.3),
    )
    sol, mobile = (
        phone("Sol", 18, "h_sol", open_chance=0.5, closed_chance=0.2),
        phone("Sol, mobile", 15, own_mailbox_after=20.0),
    )
    fern = phone("Fern", 20, open_chance=0.5)
    mina, tomos = phone("Mina", 25, open_chance=0.9, talk=260.0), phone("Tomos", 25, open_chance=0.85, talk=210.0)
    people = {
        "pe_piet": person([piet], extension="21", note="Knows every boiler made before 1995."),
        "pe_anwen": person([anwen], extension="22", daily_limit=12),
        "pe_sol": person([sol, mobile], extension="23"), "pe_fern": person([fern], note="New since last week."),
        "pe_mina": person([mina], extension="31"), "pe_tomos": person([tomos], extension="32", note="Mornings at the counter, too."),
    }  # fmt: skip
    teams = {
        "te_day": Team.model_validate({
            "name": "Engineers", "strategy": "weighted_share", "rounds": 2, "then": "te_duty",
            "members": [
                {"person": "pe_piet", "weight": 3}, {"person": "pe_anwen", "weight": 2}, {"person": "pe_sol", "weight": 2},
                {"person": "pe_fern", "weight": 2, "ramp": {"first": "2026-11-16", "weeks": 3}},
            ],
        }),
        "te_desk": Team.model_validate({
            "name": "Service desk", "strategy": "longest_idle", "members": [{"person": "pe_mina"}, {"person": "pe_tomos"}],
        }),
        "te_duty": Team.model_validate({
            "name": "Evening duty", "strategy": "rota", "rota": {"unit": "week", "first": "2026-01-05"},
            "members": [{"person": "pe_piet"}, {"person": "pe_anwen"}, {"person": "pe_sol"}],
        }),
    }  # fmt: skip
    line = flow(
        "Heating line", "HH", "callback",
        menu("what", "What is wrong", "Halden Heating. If you smell gas, hang up and ring the gas emergency line. No heat or hot water, press 1."
             " A service, press 2. Oil boilers, press 3. To hear this again, press star.",
             key("1", "No heat", "cold"), key("2", "Service", "service"), key("3", "Oil", "oil"), again(), nothing="cold", wrong="cold", tries=3),
        label("cold", ["no heat"], "when"),
        sort("when", "Day or evening", {"day": ("Daytime", "engineers"), "late": ("Evening cover", "evening")}, "callback", "night"),
        team_ring("engineers", "Engineers", "te_day", "callback", accept=ACCEPT),
        team_ring("evening", "Evening duty", "te_duty", "callback", accept=ACCEPT),
        hold_line("service", "Service desk", "te_desk", "callback", longest_wait=240, most_callers=6, announce_every=45, leave_key="2"),
        bye("oil", "No oil boilers", "We are sorry, we do not work on oil boilers. The trade register lists engineers near you. Goodbye.", refusal=True),
        voicemail("callback", "Call-back box", "mb_heat", "All engineers are on a job. Leave your address and number; somebody rings within the hour.", left="done"),
        bye("done", "Thanks", "Thank you, we have that. Keep the phone near you."),
        language=GB,
    )  # fmt: skip
    return ClientPlan(
        "Halden Heating", "GB", ZONE, "London", "20",
        [
            SourcePlan("Search advert", "search", "cpc", "boiler repair", "Search results", calls=7.0),
            SourcePlan("Boiler sticker", "sticker", "sign", placement="On every boiler serviced", online=False, calls=4.0),
            SourcePlan("Parish magazine", "parish", "print", "november", "Half page", False, 0.6),
            SourcePlan("Landlords’ letter", "letter", "print", "safety certificates", "Sent to 300 landlords", False, 1.2, toll_free=True),
        ],
        [line], {"mb_heat": ("Call-backs", ["jobs@example.net", "anwen@example.net"])}, phone.habits, people=people, teams=teams,
        hours=[
            main(
                {"day Daytime": "Mon-Fri 8-17:30; Sat 9-13", "late Evening cover": "Mon-Fri 17:30-22; Sat 13-22; Sun 9-22"},
                days("course", "Gas safety course", "2026-12-03", times="13-17:30", every_year=False), lists=GB_LIST,
            ),
            own("h_sol", "Sol", "Mon, Tue, Thu 8-17:30"),
        ],
    )  # fmt: skip


def opticians() -> ClientPlan:
    phone = Phones("+4420794606", 40)
    line = flow(
        "Appointments", "MO", "vm",
        say("hello", "Welcome", "Marram Opticians on the quay.", "menu"),
        menu("menu", "What for", "To book an eye test, press 1. To ask whether your glasses are ready, press 2. If your eye hurts, press 9.",
             key("1", "Eye test", "book"), key("2", "Glasses ready", "workshop"), key("9", "Eye hurts", "urgent"), nothing="book", wrong="book",
             retry_silent={"say": "Press 1 for an eye test, 2 for glasses, or 9 if your eye hurts."},
             retry_wrong={"say": "That key is not in use. Press 1, 2 or 9."}, tries=3),
        ring("book", "Reception", [phone("Reception", 25, open_chance=0.8)], "vm", busy="busywords"),
        say("busywords", "Reception is busy", "Reception is speaking to somebody. We try the shop floor.", "floor"),
        ring("floor", "Shop floor", [phone("Shop floor", 20, open_chance=0.5)], "vm"),
        ring("workshop", "Workshop", [phone("Workshop", 20, open_chance=0.6)], "book"),
        ring("urgent", "Optometrists", [phone("Room one", 15, open_chance=0.5), phone("Room two", 15, open_chance=0.5), phone("Okell, mobile", 20, open_chance=0.7, closed_chance=0.4)], "vm", rounds=2),
        voicemail("vm", "Appointments voicemail", "mb_eyes", "Please leave your name, your date of birth and your number."),
        language=GB,
    )  # fmt: skip
    offer = flow(
        "Sun lens offer", "SL", "vm2",
        say("offer", "The offer", "Until the end of the month, tinted lenses cost nothing extra with a second pair.", "ask", counts_as="served", times=2),
        menu("ask", "Book now", "To book, press 1.", key("1", "Book", "book2"), nothing="bye2", wrong="book2", tries=1),
        ring("book2", "Reception", [phone("Offer desk", 25, open_chance=0.7)], "vm2"),
        bye("bye2", "Goodbye", "We look forward to seeing you at the quay."),
        voicemail("vm2", "Offer voicemail", "mb_eyes", "Leave your number and we book you in."),
        language=GB,
    )  # fmt: skip
    return ClientPlan(
        "Marram Opticians", "GB", ZONE, "London", "20",
        [
            SourcePlan("Website", "website", "referral", placement="Header", calls=5.0),
            SourcePlan("Bus back panel", "bus", "sign", "sun lenses", "Route 12", False, 1.8, flow=1),
            SourcePlan("Recall letters", "letters", "print", "two-year recall", "About 80 a week", False, 3.0),
        ],
        [line, offer], {"mb_eyes": ("Reception", ["reception@example.com"])}, phone.habits,
        hours=[main({"shop Shop": "Mon-Sat 9-17:30; Thu 9-20"}, lists=GB_LIST)],
    )  # fmt: skip


BRITISH = (driving, removals, heating, opticians)
