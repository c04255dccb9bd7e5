"""How menus speak, by language: the forms that are written, and what is listened for. Another language is one more entry here."""

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True)
class Speech:
    """One language.

    Written: `branch`, `back`, `again` are sentences with {name} and {key}, `star` and `pound` the names of those keys. Heard, as parts of
    regular expressions: `keys` are words for keys, `press` verbs before a key, `before_key` and `after_key` what may stand around it,
    `joins` and `ranges` what stands between keys, `for_` what begins a purpose, `openings` what is no part of a name at its start,
    `articles` likewise, `lead` what stands before a purpose without meaning, `again_said`, `back_said`, `stay_said`, `extension_said`
    what tells those choices, `more` words behind a number that make it no key.
    """

    branch: str
    back: str
    again: str
    star: str
    pound: str
    keys: Mapping[str, str] = field(default_factory=dict)
    press: str = ""
    before_key: str = ""
    after_key: str = ""
    joins: str = ""
    ranges: str = ""
    for_: str = ""
    openings: tuple[str, ...] = ()
    articles: str = ""
    lead: str = ""
    again_said: str = ""
    back_said: str = ""
    stay_said: str = ""
    extension_said: str = ""
    more: str = ""

    @property
    def is_heard(self) -> bool:
        """Whether words of this language can be listened to."""
        return bool(self.press)


ENGLISH = Speech(
    branch="For {name}, press {key}.", back="To go back, press {key}.", again="To hear this again, press {key}.", star="star", pound="pound",
    keys={
        "zero": "0", "oh": "0", "one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6", "seven": "7", "eight": "8", "nine": "9",
        "star": "*", "asterisk": "*", "pound": "#", "hash": "#",
    },
    press="press|dial|push|hit|touch|enter|choose|select",
    before_key="the|number|option|key|button", after_key="key|button|sign|now|at any time|on your (?:keypad|phone|telephone)",
    joins="or|and", ranges="to|through|thru", for_="for|to|if|regarding",
    openings=(
        r"for", r"regarding",
        r"to (?:speak|talk) (?:with|to)", r"to (?:hear|reach|get)", r"to listen to", r"to",
        r"if (?:you are|you['’]re|this is|it is|your call is) (?:calling )?(?:about|regarding)",
        r"if you(?:['’]d| would) like(?: to)?", r"if you (?:want|need|wish)(?: to)?", r"if",
        r"is for",
    ),
    articles=r"the|an|a|our",
    lead=r"please|and|or|then|now|just|simply|otherwise|you (?:can|may)|at any time|kindly",
    again_said=r"\b(?:again|repeat|once more)\b", back_said=r"\b(?:go back|return to|main menu|previous menu|start over|back to)\b",
    stay_said=r"(?:(?:stay|remain|hold) on(?: the line)?\b|hold the line|(?<=please )(?:wait|hold)\b|(?<=just )(?:wait|hold)\b)",
    extension_said=r"\b(?:dial|enter|type)\s+(?:an extension|(?:the|their|your party['’]s) extension(?: of [^,.;]+)?|it\b(?<=extension, dial it)|it\b)",
    more=r"hundred|thousand|million|percent|dollars?|pounds?|minutes?|hours?|o['’]clock",
)  # fmt: skip
SPANISH = Speech(
    branch="Para {name}, oprima {key}.", back="Para volver, oprima {key}.", again="Para oír esto otra vez, oprima {key}.", star="asterisco",
    pound="numeral",
    keys={
        "cero": "0", "uno": "1", "dos": "2", "tres": "3", "cuatro": "4", "cinco": "5", "seis": "6", "siete": "7", "ocho": "8", "nueve": "9",
        "asterisco": "*", "estrella": "*", "numeral": "#", "almohadilla": "#",
    },
    press="oprima|pulse|marque|presione", before_key="el|la|número|tecla", after_key="ahora",
    joins="o|y", ranges="a|al", for_="para|si",
    openings=(r"para hablar con", r"para oír", r"para", r"si desea", r"si"), articles=r"el|la|los|las|un|una|nuestros|nuestras",
    lead=r"por favor|y|o", again_said=r"\b(?:otra vez|de nuevo|repetir)\b", back_said=r"\b(?:volver|regresar|menú principal)\b",
    stay_said=r"(?:permanezca en la línea|espere en la línea)", extension_said=r"\bmarque (?:la|una) extensión\b", more=r"cientos?|mil|minutos?|horas?",
)  # fmt: skip
FRENCH = Speech(
    branch="Pour {name}, tapez {key}.",
    back="Pour revenir, tapez {key}.",
    again="Pour réécouter, tapez {key}.",
    star="étoile",
    pound="dièse",
)
GERMAN = Speech(
    branch="Für {name} drücken Sie {key}.", back="Zurück geht es mit {key}.", again="Um dies noch einmal zu hören, drücken Sie {key}.",
    star="Stern", pound="Raute",
)  # fmt: skip
BY_LANGUAGE = {"en": ENGLISH, "es": SPANISH, "fr": FRENCH, "de": GERMAN}


def speech_of(language: str) -> Speech:
    """How menus of a language speak; English where the language is not known here."""
    return BY_LANGUAGE.get(language.split("-")[0], ENGLISH)


def is_known(language: str) -> bool:
    """Whether a language has an entry of its own."""
    return language.split("-")[0] in BY_LANGUAGE
