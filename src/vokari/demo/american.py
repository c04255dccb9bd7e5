"""The demo clients in the United States; those in its west stand beside."""

from ..core.flows.model.values import Prompt
from ..core.numbers.extensions import Scheme
from ..core.places.document import Area, Around, Places
from . import kept
from .opening import days, main, own, season, sort
from .plan import (
    ACCEPT,
    ClientPlan,
    SourcePlan,
    Staff,
    again,
    back,
    bye,
    changed,
    flow,
    key,
    label,
    look_up,
    menu,
    place,
    ring,
    say,
    sort_by,
    team_ring,
    tell,
    voicemail,
)
from .vets import vets
from .western import bicycles, garden_center, kayaks


def boatyard() -> ClientPlan:
    staff = Staff("+14105550", 160)
    dana = staff.person("Dana Voss", more={"email": "dana@example.com"})
    joel = staff.person("Joel Pratt", "h_joel", desk="mobile", own_mailbox_after=22.0, open_chance=0.6)
    nell = staff.person("Nell Ferris", desk="counter", open_chance=0.85)
    gus = staff.person("Gus Ferris", desk="stores", open_chance=0.5)
    office, shop = staff.team("Yard office", dana, joel), staff.team("Chandlery", nell, gus, strategy="all_at_once")
    yard = flow(
        "Main line", "BW", "yardvm",
        say("welcome", "Welcome", "Thanks for calling Brightwater Boatyard on Spa Creek. We may record this call to learn from it.", "lostbefore", notice=True),
        sort_by("lostbefore", "Lost just now", ("lost", {"test": "last_call", "any_of": ["lost"], "hours": 2}, "yardhours"), otherwise="about"),
        menu(
            "about", "What is it about?",
            "For boat lifts and winter storage, press 1. For the chandlery, press 2. For today’s tide times, press 3."
            " To hear this again, press star.",
            key("1", "Boat lifts", "yardhours"), key("2", "Chandlery", "chandlery"), key("3", "Tide times", "tides"), again(),
            nothing="yardhours", wrong="yardhours", tries=3,
        ),
        sort("yardhours", "Yard hours", {"desk": ("Yard desk", "lifts"), "shop": ("Saturday counter", "chandlery")}, "shut", "closed"),
        say("shut", "Yard closed", "The yard is closed just now.", "yardvm"),
        team_ring(
            "lifts", "Yard office", office, "yardvm", accept=ACCEPT, recording={"purpose": "learn", "per_week": 5},
            hears={"words": "Call for the yard, from {source}."}, note="Joel is on the water until ten; Dana asked to be rung first.",
        ),
        team_ring("chandlery", "Chandlery", shop, "yardvm"),
        say("tides", "Tide times", "High water at Annapolis is at ten past nine this morning and at twenty to ten tonight."
            " Low water is at a quarter past three.", "tidesback", counts_as="served"),
        back("tidesback", "about"),
        voicemail("yardvm", "Yard voicemail", "mb_yard",
                  "Nobody can come to the phone. Leave your name, your boat’s name and a number after the tone, and press pound when you are done."),
        rehearsals=kept.yard(dana["person"]),
    )  # fmt: skip
    tide = flow(
        "Tide and info line", "TI", "infovm",
        say("info", "Tides and hours", "This is the Brightwater information line. High water is at ten past nine and at twenty to ten."
            " The yard is open Monday to Friday from seven thirty to four, and on Saturday from nine to one.", "after", counts_as="served"),
        menu("after", "Anything else?", "To speak to the yard, press 1. To hear this again, press 2.",
             key("1", "The yard", "yard"), key("2", "Again", "infoback"), nothing="goodbye", wrong="goodbye", tries=1),
        back("infoback", "info"),
        team_ring("yard", "Yard office", office, "infovm", accept=ACCEPT),
        bye("goodbye", "Goodbye", "Thank you for calling Brightwater. Fair winds."),
        voicemail("infovm", "Info voicemail", "mb_yard", "Please leave a message for the yard after the tone."),
    )  # fmt: skip
    draft = flow(
        "Winter storage", "WS", "storevm",
        say("hello", "Storage welcome", "Thank you for asking about winter storage.", "storemenu"),
        menu("storemenu", "Indoors or out", "For indoor storage, press 1. For the hard standing, press 2.",
             key("1", "Indoor", "indoor"), key("2", "Hard standing", None), nothing="indoor", wrong="indoor"),
        ring("indoor", "", [dana], None, to_do=True, note="Dana asks for a second phone here from December on."),
        voicemail("storevm", "Storage voicemail", "mb_yard", "Leave the length of your boat and a number after the tone."),
        rehearsals=kept.storage(),
    )  # fmt: skip
    return ClientPlan(
        "Brightwater Boatyard", "US", "America/New_York", "Annapolis", "410",
        [
            SourcePlan("Search advert", "search", "cpc", "spring lifts", "Search results", calls=6.0),
            SourcePlan("Map listing", "maps", "organic", placement="Map entry", calls=4.0),
            SourcePlan("Van and trailer signs", "van", "sign", placement="Both vans, three trailers", online=False, calls=1.2, whisper="Boatyard, from the van signs"),
            SourcePlan("Boat show leaflet", "boat show", "print", "Annapolis in spring", "Leaflet, back page", False, 0.7, was="Trade magazine"),
            SourcePlan("Radio, Bay morning", "radio", "audio", "bay morning", "Weekday spot at 7:20", False, 0.4, flow=1, then="Trade magazine"),
            SourcePlan("Summer regatta flyer", "regatta", "print", "regatta", "Handed out on the pier", False, 0.9, rests=33),
            SourcePlan("Marina notice board", "marina", "sign", placement="Slip A, by the gate", online=False, calls=0.2, flow=None),
            SourcePlan("Trade magazine", "Bay Skipper", "print", "June", "Quarter page", False),
        ],
        [yard, tide], {"mb_yard": ("Yard", ["dana@example.com", "yard@example.com"])}, staff.habits, [draft], people=staff.people, teams=staff.teams,
        earlier=(
            changed(yard, without="lostbefore", welcome={"next": "about"}, about={"tries": 2}),
            "who was lost a moment ago goes straight to the yard, and everybody has a third try",
        ),
        hours=[
            main(
                {"desk Yard desk": "Mon-Thu 7:30-12, 13-18; Fri 7:30-12, 13-16", "shop Saturday counter": "Sat 9-1"},
                season("launch", "Launch season", "2026-04-10", "2026-06-14", {"desk": "Mon-Sat 7-19", "shop": "Sun 9-14"}),
                days("haul", "Haul-out weekend", "2027-10-23", "2027-10-24", "7-19", every_year=False),
            ),
            own("h_joel", "Joel", "Mon-Fri 8-17"),
        ],
    )  # fmt: skip


def music_school() -> ClientPlan:
    staff = Staff("+16085550", 160)
    clara, otto = (
        staff.person("Clara Finch", more={"extension": "40"}),
        staff.person("Otto Lind", desk="mobile", own_mailbox_after=18.0, open_chance=0.4),
    )
    office = staff.team("School office", clara, otto)
    rooms = {
        "piano": staff.team("Piano", staff.person("Ana Brill", open_chance=0.55), staff.person("Nils Ward", open_chance=0.4), strategy="round_robin"),
        "strings": staff.team("Strings", staff.person("Vera Holm", open_chance=0.5), staff.person("Theo Park", open_chance=0.4), strategy="round_robin"),
        "voice": staff.team("Singing", staff.person("Mae Larkin", open_chance=0.5)),
    }  # fmt: skip
    line = flow(
        "School line", "LM", "officevm",
        menu("lessons", "Which lessons",
             "Larkspur Music School. For piano, press 21. For violin and cello, press 22. For singing, press 23. For the office, press 2."
             " Or dial the number printed in the advert.",
             key("2", "Office", "office"), key("21", "Piano", "piano"), key("22", "Strings", "strings"), key("23", "Singing", "voice"),
             key("4068", "Trial lesson in Concert program", "trial", elsewhere=True, source="ls_trial_concert"),
             key("5426", "Trial lesson in School bus panel", "trial", elsewhere=True, source="ls_trial_bus"),
             key("6102", "Summer course in Concert program", "summer", elsewhere=True, source="ls_summer_concert"),
             key("7289", "Summer course in Library poster", "summer", elsewhere=True, source="ls_summer_library"),
             nothing="office", wrong="office", tries=3),
        label("piano", ["piano"], "pianoring"), label("strings", ["strings"], "stringsring"), label("voice", ["singing"], "voicering"),
        team_ring("pianoring", "Piano room", rooms["piano"], "office"),
        team_ring("stringsring", "Strings room", rooms["strings"], "office"),
        team_ring("voicering", "Singing room", rooms["voice"], "office"),
        label("summer", ["summer course"], "office"),
        label("trial", ["trial lesson"], "trialwords", status="trial lesson"),
        say("trialwords", "Trial lesson", "The first lesson is free. We put you through to book it.", "office"),
        team_ring("office", "Office", office, "officevm"),
        voicemail("officevm", "Office voicemail", "mb_office", "We are teaching at the moment. Tell us the instrument, the age of the student and your number.", left="thanks"),
        bye("thanks", "Thanks", "Thank you. We ring back the same day."),
    )  # fmt: skip
    return ClientPlan(
        "Larkspur Music School", "US", "America/Chicago", "Madison", "608",
        [
            SourcePlan("Search advert", "search", "cpc", "piano lessons", "Search results", calls=4.5),
            SourcePlan("Trial lesson in Concert program", "Concert program", "print", "Trial lesson", "extension 4068", False, extension="4068", key="ls_trial_concert"),
            SourcePlan("Trial lesson in School bus panel", "School bus panel", "sign", "Trial lesson", "extension 5426", False, extension="5426", key="ls_trial_bus"),
            SourcePlan("Summer course in Concert program", "Concert program", "print", "Summer course", "extension 6102", False, extension="6102", key="ls_summer_concert"),
            SourcePlan("Summer course in Library poster", "Library poster", "print", "Summer course", "extension 7289", False, extension="7289", key="ls_summer_library"),
            SourcePlan("All print adverts", "print", "print", placement="One number, extensions by advert", online=False, calls=5.0),
        ],
        [line], {"mb_office": ("Office", ["office@example.net"])}, staff.habits, people=staff.people, teams=staff.teams,
        hours=[main({"office Office": "Mon-Fri 10-19; Sat 9-14"}, season("summer", "Summer break", "2026-06-20", "2026-08-16", {"office": "Mon, Wed 10-14"}))],
        extensions=Scheme("????"),
    )  # fmt: skip


def cattery() -> ClientPlan:
    staff = Staff("+18025550", 160)
    ruth = staff.person("Ruth Alder", desk="house", mobile=25.0, open_chance=0.5, closed_chance=0.3)
    hands = staff.team(
        "House",
        ruth,
        staff.person("Bram Alder", desk="mobile", own_mailbox_after=20.0, open_chance=0.4),
        strategy="all_at_once",
    )
    line = flow(
        "Cattery line", "AC", "vm",
        say("hello", "Welcome", "Alder Lane Cattery. If we do not pick up, we are feeding; please leave a message.", "house", times=1),
        team_ring("house", "House", hands, "vm", limit=24, hears={"words": "Call from {said name}."}),
        voicemail("vm", "Cattery voicemail", "mb_cats", "Tell us the dates of the stay, how many cats, and your number.", stop_silence=6),
    )  # fmt: skip
    return ClientPlan(
        "Alder Lane Cattery", "US", "America/New_York", "Burlington", "802",
        [
            SourcePlan("Website", "website", "referral", placement="Every page", calls=2.4),
            SourcePlan("Vet’s pinboard", "pinboard", "print", placement="Waiting rooms of two vets", online=False, calls=0.5),
        ],
        [line], {"mb_cats": ("Cattery", ["ruth@example.org"])}, staff.habits, people=staff.people, teams=staff.teams,
        hours=[main({"visits Visiting time": "Daily 9-11, 16-18"}, name="Visits")],
    )  # fmt: skip


def tents() -> ClientPlan:
    staff = Staff("+16155550", 160)
    planners = staff.team(
        "Planners", staff.person("Iris Penn", more={"extension": "11", "email": "iris@example.com"}),
        staff.person("Tomas Reyle", open_chance=0.6, more={"extension": "12"}), staff.person("Bea Locke", open_chance=0.5, more={"extension": "13"}),
        strategy="round_robin",
    )  # fmt: skip
    crew = staff.team(
        "Crew", staff.person("Jed Marrow", desk="crew mobile", own_mailbox_after=20.0, open_chance=0.9, closed_chance=0.6),
        staff.person("Cass Ivory", desk="mobile", own_mailbox_after=24.0, closed_chance=0.5), rounds=3,
    )  # fmt: skip
    line = flow(
        "Hire line", "PT", "hirevm",
        say("hello", "Welcome", "Pennant Tents: weddings, fairs and anything under canvas. We may record this call to learn from it.", "which", notice=True),
        menu("which", "Which event", "For a wedding, press 1. For a fair or festival, press 2. If your tent is already up and needs us, press 3."
             " Or dial the extension of your planner.",
             key("1", "Wedding", "wlabel"), key("2", "Fair", "flabel"), key("3", "Tent is up", "crew"), nothing="wlabel", wrong="wlabel",
             dial_extensions=True, extension="planner"),
        ring("planner", "Own planner", [{"kind": "dialed", "id": "d1"}], "planners"),
        label("wlabel", ["wedding"], "where"), label("flabel", ["fair"], "where"),
        sort_by("where", "Where it is", ("near", {"test": "within", "of": "ar_delivery"}, "planners"), otherwise="far"),
        say("far", "How far we come", "We put tents up within seventy-five miles of Nashville, and farther for large fairs.", "planners"),
        team_ring(
            "planners", "Planners", planners, "hirevm", last_spoke={"days": 90}, recording={"purpose": "learn", "per_week": 6},
            hears={"words": "{label}, from {source}."},
        ),
        team_ring("crew", "Crew on duty", crew, "crewvm", accept=ACCEPT, after="order"),
        look_up("order", "What they ordered", "/client-system/orders", "order", "told"),
        tell("told", "Tell the hire desk", "{caller} called about a tent that is up, {when}; the crew took it. On order: {order}", "hire@example.com"),
        voicemail("crewvm", "Crew voicemail", "mb_crew", "Say where the tent stands and what is wrong. The crew lead hears this within minutes.", longest=60),
        voicemail("hirevm", "Hire voicemail", "mb_hire", "Tell us the date, the place and how many guests, and we call you with a price."),
    )  # fmt: skip
    return ClientPlan(
        "Pennant Tents", "US", "America/Chicago", "Nashville", "615",
        [
            SourcePlan("Search advert", "search", "cpc", "wedding tents", "Search results", calls=3.5),
            SourcePlan("Wedding guide", "guide", "print", "spring issue", "Full page", False, 1.0),
            SourcePlan("Tent wall banner", "banner", "sign", placement="Every tent we put up", online=False, calls=1.1),
            SourcePlan("Fair organizers’ list", "list", "referral", placement="Association handbook", online=False),
        ],
        [line], {"mb_hire": ("Hire", ["hire@example.com"]), "mb_crew": ("Crew", ["crew@example.com"])}, staff.habits, people=staff.people, teams=staff.teams,
        places=Places(
            places=(place("pl_store", "Tent store", "37210"),),
            areas=(Area(key="ar_delivery", name="Delivery area", around=(Around(place="pl_store", km=120.701),)),),
        ),
        hours=[
            main(
                {"plan Planners": "Mon-Fri 9-17", "crew Crew on call": "Mon-Thu 17-23; Fri 17-02:00; Sat 8-02:00; Sun 8-22"},
                season("winter", "No tents up", "2026-11-16", "2027-02-28", {"plan": "Tue-Thu 10-15"}),
            )
        ],
    )  # fmt: skip


def language_school() -> ClientPlan:
    staff = Staff("+12125550", 160)
    spanish = "es"
    noor, dell = staff.person("Noor Haddad"), staff.person("Dell Prior", open_chance=0.5)
    desk, mesa = (
        staff.team("Enrollment desk", noor, dell, strategy="round_robin"),
        staff.person("Pilar Soto", open_chance=0.6),
    )
    advisor = staff.place(
        "Advisor, by the company line", extension="24", answered="dialed", open_chance=0.6, talk=260.0
    )
    line = flow(
        "Enrollment", "FL", "vm",
        menu("tongue", "Language", "Fable Language School. For English, press 1. Para español, oprima el dos.",
             key("1", "English", "course"), key("2", "Español", "curso", language=spanish), nothing="course", wrong="course"),
        menu("course", "Which course", "For evening courses, press 1. For company courses, press 2. For exams, press 3. To go back, press 9.",
             key("1", "Evening", "desk"), key("2", "Company", "company"), key("3", "Exams", "exams"), key("9", "Back", "b1"), nothing="desk", wrong="desk"),
        menu("curso", "Qué curso", "Para cursos de inglés por la tarde, oprima el uno. Para exámenes, oprima el tres.",
             key("1", "Tarde", "mesa"), key("3", "Exámenes", "mesa"), nothing="mesa", wrong="mesa"),
        back("b1", "tongue"),
        say("exams", "Exam dates", "The next exam is on the second Saturday of next month, and enrollment closes ten days before.", "examsback", counts_as="served"),
        back("examsback", "course"),
        ring("company", "Company courses", [advisor], "desk"), team_ring("desk", "Enrollment desk", desk, "tongues"),
        ring("mesa", "Recepción", [mesa], "desk"),
        sort_by("tongues", "Language chosen", ("es", {"test": "language", "any_of": ["es"]}, "vmes"), otherwise="vm"),
        voicemail("vmes", "Buzón", "mb_enrol", "Deje su nombre y su número después del tono.", left="gracias"),
        {**bye("gracias", "Gracias", "Gracias por llamar."), "prompt": {"say": "Gracias por llamar.", "language": "es"}},
        voicemail("vm", "Enrollment voicemail", "mb_enrol", "Leave your name, the language you want to learn and your number."),
    )  # fmt: skip
    return ClientPlan(
        "Fable Language School", "US", "America/New_York", "New York", "212",
        [
            SourcePlan("Search advert", "search", "cpc", "evening courses", "Search results", calls=5.5),
            SourcePlan("Subway car card", "subway", "sign", "new year", "Line 4, 200 cars", False, 3.0),
            SourcePlan("Newsletter", "newsletter", "email", "november", "Footer", calls=0.8),
        ],
        [line], {"mb_enrol": ("Enrollment", ["enrol@example.net"])}, staff.habits, people=staff.people, teams=staff.teams,
        planned=(
            changed(line, exams={"prompt": Prompt(say="The spring exams are on the first two Saturdays of March. Enrollment closes on the tenth of February.")}),
            "dates of the spring exams",
        ),
        hours=[main({"desk Enrollment desk": "Mon-Thu 9-20; Fri 9-17", "evening Saturday desk": "Sat 10-14"})],
    )  # fmt: skip


AMERICAN = (boatyard, vets, music_school, garden_center, bicycles, cattery, tents, language_school, kayaks)
