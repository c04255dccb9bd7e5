"""Who signs in to the demo world. Made-up names, addresses set aside for examples."""

AGENCY = "Lantern Row Marketing"
PASSWORD = "lantern-row-demo"

USERS = (
    ("mara@example.com", "Mara Quill", "owner", None),
    ("jonah@example.com", "Jonah Reed", "specialist", None),
    ("dana@example.com", "Dana Voss", "client_editor", "Brightwater Boatyard"),
    ("viewer@example.com", "Sam Alder", "client_viewer", "Brightwater Boatyard"),
)

DUTY_LINE = "Halden Heating"
"""The client whose people switch themselves on and off by phone."""
OUTAGE = "Brightwater Boatyard"
"""The client of which some calls did not reach their flow."""
SWITCHED = "Alder Lane Cattery"
"""The client that is closed by a switch."""
PORT = ("Corvid Removals", "+441632960777", "Old Exchange Telephones", "OE-2041")
"""A client's main line that is coming across: client, number, the carrier that has it, the account there."""

TEST_PHONES = (("+14105550199", "Mara’s test phone"), ("+442079460999", "London test phone"))

MESSAGES = (
    "Hello, this is about the advert I saw this morning. Could you ring me back before noon? Thank you.",
    "Hi, I have a question about prices, and whether you have anything free next week. My number is on your display.",
    "Good afternoon. I was told to ask for Iris. Please call me when you have a minute.",
    "Hello, yes, we spoke last month. I would like to go ahead. Call me any time after five.",
    "I am calling for my mother. She would like to come by on Thursday. Please let us know if that is possible.",
)

CALLERS_US = tuple(
    f"+1{code}5550{n}"
    for code in ("410", "207", "608", "503", "303", "802", "615", "212", "206", "443", "617", "312")
    for n in range(180, 199)
)
CALLERS_GB = tuple(f"+447700900{n:03d}" for n in range(0, 600, 2))
