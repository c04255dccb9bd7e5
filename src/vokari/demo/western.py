"""The demo clients in the west of the United States."""

from ..core.places.document import Places
from .opening import days, main, own, season
from .plan import (
    ACCEPT,
    ClientPlan,
    SourcePlan,
    Staff,
    again,
    back,
    bye,
    entry,
    flow,
    key,
    menu,
    place,
    ring,
    say,
    sort_by,
    team_ring,
    voicemail,
)


def garden_center() -> ClientPlan:
    staff = Staff("+15035550", 160)
    yard = staff.team(
        "Tree yard",
        staff.person("Rob Thorne", desk="yard"),
        staff.person("Dee Hollis", desk="lorry mobile", own_mailbox_after=20.0, open_chance=0.4),
    )
    doctor = staff.person("Wyn Ashe", desk="potting shed", open_chance=0.55, talk=320.0)
    till = staff.team(
        "Shop", staff.person("Peg Olsen", desk="till one", open_chance=0.8), staff.person("Ira Quist", desk="till two", open_chance=0.6),
        staff.person("Moss Avery", desk="office", open_chance=0.5), strategy="all_at_once",
    )  # fmt: skip
    line = flow(
        "Fernhill line", "FG", "shopvm",
        say("hello", "Welcome", "Fernhill Garden Center, on the river road.", "menu"),
        menu("menu", "What for", "For opening times and directions, press 1. For tree deliveries, press 2. For the plant doctor, press 3. To speak to the shop, press 0. To hear this again, press star.",
             key("1", "Times", "times"), key("2", "Deliveries", "trees"), key("3", "Plant doctor", "doctordays"), key("0", "Shop", "shop"), again(),
             nothing="shop", wrong="shop"),
        say("times", "Opening times", "We are open every day from eight to six, and until eight on Thursdays. We are two miles past the mill bridge.", "timesback", counts_as="served"),
        back("timesback", "menu"),
        team_ring("trees", "Yard and trees", yard, "shop", accept=ACCEPT),
        sort_by(
            "doctordays", "Doctor’s days", ("away", {"test": "times", "any_of": ["Mon, Tue 00:00-24:00"]}, "doctorvm"),
            ("winter", {"test": "dates", "any_of": ["--12-20/--01-06"]}, "doctorvm"), otherwise="doctor",
        ),
        ring("doctor", "Plant doctor", [doctor], "doctorvm"),
        voicemail("doctorvm", "Plant doctor voicemail", "mb_doctor", "Describe the leaves and where the plant stands, and leave your number."),
        team_ring("shop", "Shop", till, "shopvm"),
        voicemail("shopvm", "Shop voicemail", "mb_shop", "All of us are with customers. Please leave a message."),
        everyone_else="shop",
    )  # fmt: skip
    return ClientPlan(
        "Fernhill Garden Center", "US", "America/Los_Angeles", "Portland, Oregon", "503",
        [
            SourcePlan("Map listing", "maps", "organic", placement="Map entry", calls=8.0),
            SourcePlan("Autumn trees advert", "social", "paid", "autumn trees", "Picture posts", calls=3.0),
            SourcePlan("Roadside banner", "banner", "sign", "bare-root season", "Mill bridge", False, 1.5),
            SourcePlan("Seed catalog", "catalog", "print", "spring", "Page 3", False, 0.8, toll_free=True),
        ],
        [line], {"mb_shop": ("Shop", ["shop@example.com"]), "mb_doctor": ("Plant doctor", ["doctor@example.com"])}, staff.habits, people=staff.people, teams=staff.teams,
        hours=[
            main(
                {"shop Shop": "Mon-Wed, Fri-Sun 8-18; Thu 8-20"},
                season("spring", "Planting time", "2026-03-14", "2026-06-07", {"shop": "Daily 7-20"}),
                days("frost", "Winter rest", "2026-01-02", "2026-01-16"),
            )
        ],
    )  # fmt: skip


def bicycles() -> ClientPlan:
    staff = Staff("+13035550", 160)
    bench = staff.team(
        "Bench",
        staff.person("Lou Castell", desk="workbench", open_chance=0.55),
        staff.person("Ty Broom", desk="front counter", open_chance=0.6),
        strategy="longest_idle",
    )
    owner = staff.person(
        "Faye Spindle", "h_owner", desk="mobile", own_mailbox_after=18.0, open_chance=0.5, closed_chance=0.2
    )
    line = flow(
        "Workshop line", "SB", "benchvm",
        team_ring("bench", "Workbench", bench, "busy", busy="busy"),
        menu("busy", "Hands full", "Our hands are greasy just now. To leave a message about a repair, press 1. To hear when bikes are ready, press 2. Or stay on, and we try once more.",
             key("1", "Repair message", "benchvm"), key("2", "Ready times", "ready"), nothing="again", wrong="again", tries=1),
        say("ready", "Ready times", "Bikes brought in before noon are ready the next day at five. Wheels take two days.", "bye", counts_as="served"),
        bye("bye", "Goodbye", "Ride safely."),
        ring("again", "Second try", [owner], "benchvm", accept=ACCEPT, hears={"words": "Nobody at the bench took this one."}),
        voicemail("benchvm", "Workshop voicemail", "mb_bench", "Tell us the make of the bike, what it does or does not do, and your number."),
    )  # fmt: skip
    return ClientPlan(
        "Spindle Bicycles", "US", "America/Denver", "Denver", "303",
        [
            SourcePlan("Map listing", "maps", "organic", placement="Map entry", calls=5.0),
            SourcePlan("Cargo bike sign", "bike", "sign", placement="Side of the delivery bike", online=False, calls=0.8),
            SourcePlan("Winter service flyer", "flyer", "print", "winter service", "Cafés on Larimer", False, 0.9),
        ],
        [line], {"mb_bench": ("Workshop", ["bench@example.com"])}, staff.habits, people=staff.people, teams=staff.teams,
        hours=[main({"bench Workshop": "Tue-Fri 10-13, 14-18:30; Sat 10-16"}), own("h_owner", "Owner", "Tue-Sat 9-20")],
    )  # fmt: skip


def kayaks() -> ClientPlan:
    staff = Staff("+12065550", 160)
    shore = staff.team(
        "Boathouse",
        staff.person("Wren Hale", desk="boathouse", open_chance=0.6),
        staff.person("Sol Tide", desk="shore mobile", own_mailbox_after=18.0, open_chance=0.5),
        rounds=2,
    )
    south = staff.team("South landing", staff.person("Odette Quill", desk="landing", open_chance=0.6))
    line = flow(
        "Booking line", "TK", "vm",
        say("notice", "Recording notice", "This is Tern Island Kayaks. We may record this call to learn from it.", "code", notice=True),
        entry("code", "Postal code", "Type the five digits of your postal code, and we put you through to the nearest landing.", "postal_code", 5, "near", "near"),
        sort_by("near", "Nearest landing", ("south", {"test": "nearest_location", "of": "places", "any_of": ["pl_south"]}, "south"), otherwise="book"),
        team_ring("south", "South landing", south, "book", recording={"purpose": "all"}, accept=ACCEPT),
        team_ring("book", "Booking desk", shore, "vm", recording={"purpose": "all"}, accept=ACCEPT),
        voicemail("vm", "Booking voicemail", "mb_kayak", "We are on the water. Tell us the day, how many paddlers and your number."),
    )  # fmt: skip
    return ClientPlan(
        "Tern Island Kayaks", "US", "America/Los_Angeles", "Seattle", "206",
        [
            SourcePlan("Ferry leaflet", "leaflet", "print", "ferry racks", "Racks on both ferries", False, 1.4),
            SourcePlan("Search advert", "search", "cpc", "kayak tours", "Search results", calls=2.2),
        ],
        [line], {"mb_kayak": ("Boathouse", ["boathouse@example.org"])}, staff.habits, people=staff.people, teams=staff.teams,
        places=Places(places=(place("pl_north", "Boathouse", "98103"), place("pl_south", "South landing", "98118"))),
        hours=[main({"boats Boathouse": "Fri-Sun 10-16"}, season("paddle", "Paddling season", "2026-05-01", "2026-09-30", {"boats": "Daily 8-20"}))],
    )  # fmt: skip
