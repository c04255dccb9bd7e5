"""Words of menus as agencies' clients write them, each with what a person hears in it: the key, what it is for, and what kind of choice it is.

Made up for these tests, and written before the reader that they try. "stay" and "extension" are choices without a key.
"""

BRANCH, BACK, AGAIN, STAY, EXTENSION = "branch", "back", "again", "stay", "extension"
Heard = tuple[str, str, str]


def b(keys: str, name: str) -> Heard:
    return keys, name, BRANCH


def back(keys: str) -> Heard:
    return keys, "", BACK


def again(keys: str) -> Heard:
    return keys, "", AGAIN


def stay(name: str = "") -> Heard:
    return "", name, STAY


DIAL: Heard = ("", "", EXTENSION)

TEXTS: tuple[tuple[str, tuple[Heard, ...]], ...] = (
    # what it is for first, the key last
    ("For boat lifts, press 1. For winter storage, press 2.", (b("1", "boat lifts"), b("2", "winter storage"))),
    ("Thank you for calling Pell Ferries. For tickets press 1, for the timetable press 2, for vehicles press 3.", (b("1", "tickets"), b("2", "timetable"), b("3", "vehicles"))),
    ("Welcome to Larkspur Music School. For piano, violin or cello lessons, press 2. For singing, press 3.", (b("2", "piano, violin or cello lessons"), b("3", "singing"))),
    ("To book a driving lesson, press one. To change one, press two.", (b("1", "book a driving lesson"), b("2", "change one"))),
    ("To speak with the nurse, please press 4.", (b("4", "nurse"),)),
    ("To speak to a vet now, press 9.", (b("9", "vet now"),)),
    ("To reach the workshop, press five.", (b("5", "workshop"),)),
    ("To hear today's tide times, press 3.", (b("3", "today's tide times"),)),
    ("If you are calling about a vaccination, press 1. If your animal is hurt, press 2 now.", (b("1", "vaccination"), b("2", "your animal is hurt"))),
    ("If you would like to book a kennel for the summer, press 1.", (b("1", "book a kennel for the summer"),)),
    ("If you want a tent put up this week, press 1; if it can wait, press 2.", (b("1", "tent put up this week"), b("2", "it can wait"))),
    ("If you need a boiler looked at today, press zero.", (b("0", "boiler looked at today"),)),
    ("If this is about an invoice, press 7.", (b("7", "invoice"),)),
    ("For all questions about contact lenses, please press the 4 key.", (b("4", "all questions about contact lenses"),)),
    ("For a new pair of glasses, press number 1. For repairs, press number 2.", (b("1", "new pair of glasses"), b("2", "repairs"))),
    ("For our opening hours, press 6.", (b("6", "opening hours"),)),
    ("For the harbor office, press star.", (b("*", "harbor office"),)),
    ("For the harbour office, press hash.", (b("#", "harbour office"),)),
    ("For the night watch, press the pound key.", (b("#", "night watch"),)),
    ("For deliveries, press the star key. For collections, press the hash sign.", (b("*", "deliveries"), b("#", "collections"))),
    ("For Spanish, press 8.", (b("8", "Spanish"),)),
    ("For bicycle repairs, dial 2. For hire, dial 3.", (b("2", "bicycle repairs"), b("3", "hire"))),
    ("For saplings, choose 1. For hedges, choose 2. For turf, choose 3.", (b("1", "saplings"), b("2", "hedges"), b("3", "turf"))),
    ("For removals within the state, select option 1. For longer ones, select option 2.", (b("1", "removals within the state"), b("2", "longer ones"))),
    ("For the kitten room push 2 and for the boarding desk push 3.", (b("2", "kitten room"), b("3", "boarding desk"))),
    ("For evening classes hit 1.", (b("1", "evening classes"),)),
    ("For towing, enter 11. For spare parts, enter 12.", (b("11", "towing"), b("12", "spare parts"))),
    ("For our Annapolis branch press one-one, for Easton press one-two.", (b("11", "Annapolis branch"), b("12", "Easton"))),
    ("For cars, press 1. For freight, press 2. For motorbikes, press 3. For anything else, press 4.",
     (b("1", "cars"), b("2", "freight"), b("3", "motorbikes"), b("4", "anything else"))),
    ("For the chandlery, press 2; for moorings, 3; for everything else, 4.", (b("2", "chandlery"), b("3", "moorings"), b("4", "everything else"))),
    # the key first
    ("Press 1 for boat lifts, 2 for winter storage and 3 for the chandlery.", (b("1", "boat lifts"), b("2", "winter storage"), b("3", "chandlery"))),
    ("Press one for tickets, two for the timetable, or three for lost property.", (b("1", "tickets"), b("2", "timetable"), b("3", "lost property"))),
    ("Press 1 to book, press 2 to cancel.", (b("1", "book"), b("2", "cancel"))),
    ("Please press 5 if you have a question about your bill.", (b("5", "you have a question about your bill"),)),
    ("Press 3 to speak with Ada.", (b("3", "Ada"),)),
    ("Press 2 to reach the yard office, or press 3 to leave a message.", (b("2", "yard office"), b("3", "leave a message"))),
    ("Dial 4 for the night boat.", (b("4", "night boat"),)),
    ("Choose 1 for adults, 2 for children.", (b("1", "adults"), b("2", "children"))),
    ("Press zero for the front desk.", (b("0", "front desk"),)),
    ("Press star for the harbor office and pound for the fuel dock.", (b("*", "harbor office"), b("#", "fuel dock"))),
    ("Option 1 is for tenants, option 2 is for owners.", (b("1", "tenants"), b("2", "owners"))),
    ("Press 1 for grooming. 2 for training. 3 for daycare.", (b("1", "grooming"), b("2", "training"), b("3", "daycare"))),
    ("Press 1 now for an ambulance boat.", (b("1", "ambulance boat"),)),
    ("Push 7 to hear our prices.", (b("7", "prices"),)),
    ("Select 2 for a quote on a marquee, or 3 for chairs and tables.", (b("2", "quote on a marquee"), b("3", "chairs and tables"))),
    # several keys for one thing, and ranges
    ("Press 1 or 2 for the stables.", (b("1", "stables"), b("2", "stables"))),
    ("For the three clinics, press 1, 2 or 3.", (b("1", "three clinics"), b("2", "three clinics"), b("3", "three clinics"))),
    ("Press 1 through 3 for a clinic near you.", (b("1", "clinic near you"), b("2", "clinic near you"), b("3", "clinic near you"))),
    ("For moorings on the north quay, press 4 to 6.", (b("4", "moorings on the north quay"), b("5", "moorings on the north quay"), b("6", "moorings on the north quay"))),
    # ways back, and hearing it again
    ("For lifts, press 1. To hear this again, press star.", (b("1", "lifts"), again("*"))),
    ("To repeat these options, press 9.", (again("9"),)),
    ("To listen to this menu again press hash.", (again("#"),)),
    ("Press star to hear the choices again.", (again("*"),)),
    ("To go back, press 0.", (back("0"),)),
    ("To return to the main menu, press star.", (back("*"),)),
    ("For quotes, press 1. Press 0 to go back to the start.", (b("1", "quotes"), back("0"))),
    ("For the previous menu, press 9.", (back("9"),)),
    ("To start over, press 8.", (back("8"),)),
    # staying, and extensions
    ("For tickets, press 1, or stay on the line.", (b("1", "tickets"), stay())),
    ("For tickets, press 1. For anything else, please stay on the line.", (b("1", "tickets"), stay("anything else"))),
    ("Press 1 for boarding. Otherwise hold the line and somebody will be with you.", (b("1", "boarding"), stay())),
    ("For grooming press 2. To speak with somebody, just hold.", (b("2", "grooming"), stay("somebody"))),
    ("If you have no touch tone phone, please wait and we will be with you.", (stay("you have no touch tone phone"),)),
    ("If you know your party's extension, you may dial it at any time. For the yard, press 1.", (DIAL, b("1", "yard"))),
    ("Enter the extension of the person you are calling, or press 0 for the desk.", (DIAL, b("0", "desk"))),
    ("You can dial an extension now.", (DIAL,)),
    # names that stand alone
    ("Boat lifts, press 1. Chandlery, press 2. Moorings, press 3.", (b("1", "Boat lifts"), b("2", "Chandlery"), b("3", "Moorings"))),
    ("Vaccinations: press one. Operations: press two.", (b("1", "Vaccinations"), b("2", "Operations"))),
    ("New pupils press 1, old pupils press 2.", (b("1", "New pupils"), b("2", "old pupils"))),
    # with more around it
    ("Good morning, this is Corvid Removals. We may record this call. For a quote, press 1. For a move that is under way, press 2. Thank you.",
     (b("1", "quote"), b("2", "move that is under way"))),
    ("You have reached Alder Lane Cattery. Our desk is open from 8 to 6. To book a stay, press 1. To ask after your cat, press 2.",
     (b("1", "book a stay"), b("2", "ask after your cat"))),
    ("We moved to 12 Quay Street. For directions, press 3.", (b("3", "directions"),)),
    ("Lessons cost 40 dollars for 45 minutes. To book one, press 1.", (b("1", "book one"),)),
    ("Please listen, since our choices have changed. Press 1 for hire, and press 2 for repairs.", (b("1", "hire"), b("2", "repairs"))),
    ("At any time you can press 0 for the front desk.", (b("0", "front desk"),)),
    ("For trees, press 1. For our autumn sale, which ends on the 30th, press 2.", (b("1", "trees"), b("2", "autumn sale, which ends on the 30th"))),
    ("Is it about a bill? Press 4. Is it about a lesson? Press 5.", (b("4", "Is it about a bill"), b("5", "Is it about a lesson"))),
    ("Simply press 2 on your keypad to talk to a fitter.", (b("2", "fitter"),)),
    # no choice at all
    ("Welcome to the cider mill, where we press two hundred gallons a day.", ()),
    ("We are closed. Our hours are 9 to 5, Monday to Friday.", ()),
    ("Every hour from seven to seven.", ()),
    ("Please leave your name and number after the tone.", ()),
    ("All of us are on calls. Your place in line is kept.", ()),
    ("Read about us in the local press. 3 boats sail today.", ()),
)  # fmt: skip
