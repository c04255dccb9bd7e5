"""The demo clients in the United Kingdom."""

from .opening import GB_LIST, days, main, own, sort
from .plan import (
    ClientPlan,
    SourcePlan,
    Staff,
    again,
    bye,
    flow,
    hold_line,
    key,
    label,
    menu,
    ring,
    say,
    sort_by,
    team_ring,
    voicemail,
)

GB = "en-GB"
ZONE = "Europe/London"
ACCEPT = {"key": "1", "seconds": 8}


def driving() -> ClientPlan:
    staff = Staff("+4420794606", 10)
    moira, callum = (
        staff.person("Moira Dunmore"),
        staff.person("Callum Reid", desk="mobile", own_mailbox_after=18.0, open_chance=0.55),
    )
    desk, diary = (
        staff.team("Lesson desk", moira, callum),
        staff.person("Esme Tully", desk="diary desk", open_chance=0.7),
    )
    line = flow(
        "Lessons", "DD", "vm",
        say("hello", "Welcome", "Dunmore Driving, lessons from patient people.", "menu"),
        menu("menu", "Learner or not", "For a first lesson, press 1. To move a lesson, press 2. For a refresher after years without driving, press 3. To hear this again, press star.",
             key("1", "First lesson", "first"), key("2", "Move a lesson", "move"), key("3", "Refresher", "refresh"),
             key("7142", "Back-of-car card", "first", elsewhere=True, source="ls_card"), again(), nothing="desk", wrong="desk"),
        label("first", ["first lesson"], "desk"), label("refresh", ["refresher"], "desk"),
        ring("move", "Diary", [diary], "vm"), team_ring("desk", "Lesson desk", desk, "vm", accept=ACCEPT),
        voicemail("vm", "Lessons voicemail", "mb_lessons", "We are in a car. Say your name, your postcode and whether you have driven before, and press hash to finish."),
        language=GB,
    )  # fmt: skip
    return ClientPlan(
        "Dunmore Driving", "GB", ZONE, "London", "20",
        [
            SourcePlan("Search advert", "search", "cpc", "driving lessons", "Search results", calls=5.0),
            SourcePlan("Roof signs", "roof", "sign", placement="Nine cars", online=False, calls=2.6),
            SourcePlan("Back-of-car card", "card", "sign", placement="Rear window, extension 7142", online=False, extension="7142"),
            SourcePlan("College noticeboards", "college", "print", "freshers", "Six colleges", False, 0.7),
        ],
        [line], {"mb_lessons": ("Lessons", ["lessons@example.com"])}, staff.habits, people=staff.people, teams=staff.teams,
        hours=[main({"desk Lesson desk": "Mon-Fri 8-18; Sat 9-13"}, lists=GB_LIST)],
    )  # fmt: skip


def removals() -> ClientPlan:
    staff = Staff("+4420794606", 20)
    everyone = staff.team(
        "Everyone", staff.person("Hattie Corv", desk="office", open_chance=0.6), staff.person("Ade Okoro", desk="van", own_mailbox_after=22.0, open_chance=0.4),
        staff.person("Wil Tranter", desk="van", own_mailbox_after=20.0, open_chance=0.4), strategy="all_at_once",
    )  # fmt: skip
    line = flow(
        "Quotes", "CR", "vm",
        sort_by("hours", "Holidays", ("holiday", {"test": "exception", "of": "h_main"}, "away"), otherwise="crew"),
        # What the proof finds of this world: somebody added the words, and led to nothing.
        say("away", "Away", "Corvid Removals. No van moves on a holiday.", "end"),
        team_ring("crew", "Everyone", everyone, "vm", accept=ACCEPT),
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
        [line], {"mb_quotes": ("Quotes", ["quotes@example.org"])}, staff.habits, people=staff.people, teams=staff.teams,
        hours=[main({"office Office": "Mon-Sat 7-17"}, lists=GB_LIST)],
    )  # fmt: skip


def heating() -> ClientPlan:
    staff = Staff("+4420794606", 30)
    piet = staff.person(
        "Piet Halden",
        open_chance=0.6,
        closed_chance=0.4,
        more={"extension": "21", "note": "Knows every boiler made before 1995."},
    )
    anwen = staff.person("Anwen Rees", open_chance=0.6, closed_chance=0.3, more={"extension": "22", "daily_limit": 12})
    sol = staff.person("Sol Mercer", "h_sol", mobile=20.0, open_chance=0.5, closed_chance=0.2, more={"extension": "23"})
    fern = staff.person("Fern Oakes", open_chance=0.5, more={"note": "New since last week."})
    mina = staff.person("Mina Calder", open_chance=0.9, talk=260.0, more={"extension": "31"})
    tomos = staff.person(
        "Tomos Gray", open_chance=0.85, talk=210.0, more={"extension": "32", "note": "Mornings at the counter, too."}
    )
    duty = staff.team("Evening duty", piet, anwen, sol, strategy="rota", rota={"unit": "week", "first": "2026-01-05"})
    day = staff.team(
        "Engineers", {**piet, "weight": 3}, {**anwen, "weight": 2}, {**sol, "weight": 2},
        {**fern, "weight": 2, "ramp": {"first": "2026-11-16", "weeks": 3}}, strategy="weighted_share", rounds=2, then=duty,
    )  # fmt: skip
    desk = staff.team("Service desk", mina, tomos, strategy="longest_idle")
    line = flow(
        "Heating line", "HH", "callback",
        menu("what", "What is wrong", "Halden Heating. If you smell gas, hang up and ring the gas emergency line. No heat or hot water, press 1."
             " A service, press 2. Oil boilers, press 3. To hear this again, press star.",
             key("1", "No heat", "cold"), key("2", "Service", "service"), key("3", "Oil", "oil"), again(), nothing="cold", wrong="cold", tries=3),
        label("cold", ["no heat"], "when"),
        sort("when", "Day or evening", {"day": ("Daytime", "engineers"), "late": ("Evening cover", "evening")}, "callback", "night"),
        team_ring("engineers", "Engineers", day, "callback", accept=ACCEPT),
        team_ring("evening", "Evening duty", duty, "callback", accept=ACCEPT),
        hold_line("service", "Service desk", desk, "callback", longest_wait=240, most_callers=6, announce_every=45, leave_key="2"),
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
        [line], {"mb_heat": ("Call-backs", ["jobs@example.net", "anwen@example.net"])}, staff.habits, people=staff.people, teams=staff.teams,
        hours=[
            main(
                {"day Daytime": "Mon-Fri 8-17:30; Sat 9-13", "late Evening cover": "Mon-Fri 17:30-22; Sat 13-22; Sun 9-22"},
                days("course", "Gas safety course", "2026-12-03", times="13-17:30", every_year=False), lists=GB_LIST,
            ),
            own("h_sol", "Sol", "Mon, Tue, Thu 8-17:30"),
        ],
    )  # fmt: skip


def opticians() -> ClientPlan:
    staff = Staff("+4420794606", 40)
    front = staff.team(
        "Reception",
        staff.person("Orla Quay", open_chance=0.8),
        staff.person("Finn Marram", desk="shop floor", open_chance=0.5),
    )
    workshop = staff.person("Jory Pell", desk="workshop", open_chance=0.6)
    rooms = staff.team(
        "Optometrists", staff.person("Maud Okell", desk="room one", mobile=22.0, open_chance=0.5, closed_chance=0.4),
        staff.person("Ivo Strand", desk="room two", open_chance=0.5), strategy="all_at_once", rounds=2,
    )  # fmt: skip
    line = flow(
        "Appointments", "MO", "vm",
        say("hello", "Welcome", "Marram Opticians on the quay.", "menu"),
        menu("menu", "What for", "To book an eye test, press 1. To ask whether your glasses are ready, press 2. If your eye hurts, press 9.",
             key("1", "Eye test", "book"), key("2", "Glasses ready", "workshop"), key("9", "Eye hurts", "urgent"), nothing="book", wrong="book",
             retry_silent={"say": "Press 1 for an eye test, 2 for glasses, or 9 if your eye hurts."},
             retry_wrong={"say": "That key is not in use. Press 1, 2 or 9."}, tries=3),
        team_ring("book", "Reception", front, "vm", busy="busywords"),
        say("busywords", "Reception is busy", "Reception is speaking to somebody. We try once more.", "floor"),
        team_ring("floor", "Once more", front, "vm"),
        ring("workshop", "Workshop", [workshop], "book"),
        team_ring("urgent", "Optometrists", rooms, "vm"),
        voicemail("vm", "Appointments voicemail", "mb_eyes", "Please leave your name, your date of birth and your number."),
        language=GB,
    )  # fmt: skip
    offer = flow(
        "Sun lens offer", "SL", "vm2",
        say("offer", "The offer", "Until the end of the month, tinted lenses cost nothing extra with a second pair.", "ask", counts_as="served", times=2),
        menu("ask", "Book now", "To book, press 1.", key("1", "Book", "book2"), nothing="bye2", wrong="book2", tries=1),
        team_ring("book2", "Reception", front, "vm2"),
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
        [line, offer], {"mb_eyes": ("Reception", ["reception@example.com"])}, staff.habits, people=staff.people, teams=staff.teams,
        hours=[main({"shop Shop": "Mon-Sat 9-17:30; Thu 9-20"}, lists=GB_LIST)],
    )  # fmt: skip


BRITISH = (driving, removals, heating, opticians)
