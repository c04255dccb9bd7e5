"""Words that ship for each moment of a call, by what comes next, in several languages. What stands in square brackets is a blank; a
finding asks to make the words the client's own."""

import re
from dataclasses import dataclass
from functools import cache

from .kinds import Kind

MOMENTS: dict[str, str] = {
    "comes_in": "The caller comes in", "chooses": "They choose", "waits": "They wait", "put_through": "They are put through",
    "told_no": "They are told no", "leaves_word": "They leave word", "goes": "They go",
}  # fmt: skip
"""The moments of a call, each with what it is called."""
KIND_AT: dict[str, Kind] = {
    "comes_in": "greeting", "chooses": "menu", "waits": "message", "put_through": "message", "told_no": "message",
    "leaves_word": "greeting", "goes": "goodbye",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Shipped:
    """Words for a moment: for what, and how they go in each language, in which {client} is filled in and [this] is left to fill."""

    moment: str
    purpose: str
    said: dict[str, str]


WORDS: tuple[Shipped, ...] = (
    Shipped("comes_in", "Opening", {
        "en": "This is {client}. You have reached the right place for [what most callers want].",
        "es": "Ha llamado a {client}. Aquí le ayudamos con [lo que más se pide].",
        "fr": "Vous êtes bien chez {client}. Nous nous occupons de [ce que l’on demande le plus].",
        "de": "Hier ist {client}. Bei uns sind Sie richtig für [was die meisten wollen].",
    }),
    Shipped("comes_in", "Closed now", {
        "en": "{client} is closed just now and opens again {opens}. If it can wait until then, [what to do]; if not, stay on the line.",
        "es": "{client} está cerrado en este momento y abre de nuevo {opens}. Si puede esperar, [qué hacer]; si no, siga en línea.",
        "fr": "{client} est fermé en ce moment et rouvre {opens}. Si cela peut attendre, [que faire] ; sinon, restez en ligne.",
        "de": "{client} hat gerade geschlossen und öffnet wieder {opens}. Wenn es bis dahin Zeit hat, [was zu tun ist]; sonst bleiben Sie dran.",
    }),
    Shipped("comes_in", "Calls are recorded", {
        "en": "Before we talk: we record calls to [why], and keep them for [how long].",
        "es": "Antes de hablar: grabamos las llamadas para [por qué] y las guardamos durante [cuánto tiempo].",
        "fr": "Avant de parler : nous enregistrons les appels pour [pourquoi] et les gardons [combien de temps].",
        "de": "Bevor wir sprechen: Wir nehmen Gespräche auf, um [warum], und bewahren sie [wie lange] auf.",
    }),
    Shipped("chooses", "First choice", {
        "en": "For [the first matter], press 1. For [the second matter], press 2. For anything else, stay on the line.",
        "es": "Para [el primer asunto], pulse 1. Para [el segundo asunto], pulse 2. Para cualquier otra cosa, siga en línea.",
        "fr": "Pour [le premier sujet], tapez 1. Pour [le deuxième sujet], tapez 2. Pour toute autre demande, restez en ligne.",
        "de": "Für [das erste Anliegen] drücken Sie die 1. Für [das zweite Anliegen] drücken Sie die 2. Für alles andere bleiben Sie dran.",
    }),
    Shipped("chooses", "Nothing came", {
        "en": "We heard no key. Here are the choices once more.",
        "es": "No hemos oído ninguna tecla. Estas son las opciones otra vez.",
        "fr": "Nous n’avons entendu aucune touche. Voici les choix encore une fois.",
        "de": "Wir haben keine Taste gehört. Hier noch einmal die Auswahl.",
    }),
    Shipped("waits", "All are busy", {
        "en": "Everybody at [the team] is with another caller. You keep your place: somebody takes your call in about {wait}.",
        "es": "En [el equipo] todos están atendiendo. Usted conserva su lugar: le atenderán en unos {wait}.",
        "fr": "Chez [l’équipe], tout le monde est en ligne. Vous gardez votre place : on vous répond dans {wait} environ.",
        "de": "Bei [dem Team] sprechen gerade alle. Sie behalten Ihren Platz: Jemand ist in etwa {wait} für Sie da.",
    }),
    Shipped("put_through", "Ringing now", {
        "en": "We are ringing [whom] for you now.", "es": "Ahora llamamos a [quién] para usted.",
        "fr": "Nous appelons [qui] pour vous.", "de": "Wir rufen jetzt [wen] für Sie an.",
    }),
    Shipped("told_no", "Not taken on", {
        "en": "[This matter] is not something {client} takes on. [Who else may help.]",
        "es": "{client} no se ocupa de [este asunto]. [Quién puede ayudar.]",
        "fr": "{client} ne s’occupe pas de [ce sujet]. [Qui peut aider.]",
        "de": "[Dieses Anliegen] übernimmt {client} nicht. [Wer sonst hilft.]",
    }),
    Shipped("leaves_word", "Nobody can come to the phone", {
        "en": "Nobody can come to the phone just now. Say your name, your number and what it is about after the beep; we ring back by [when].",
        "es": "Ahora nadie puede ponerse al teléfono. Diga su nombre, su número y de qué se trata después del tono; le llamaremos antes de [cuándo].",
        "fr": "Personne ne peut répondre en ce moment. Dites votre nom, votre numéro et de quoi il s’agit après le bip ; nous rappelons avant [quand].",
        "de": "Gerade kann niemand ans Telefon kommen. Sagen Sie nach dem Ton Ihren Namen, Ihre Nummer und worum es geht; wir rufen bis [wann] zurück.",
    }),
    Shipped("goes", "Goodbye", {
        "en": "That is all we need. [What happens next.] Goodbye from {client}.",
        "es": "Con esto es suficiente. [Qué pasa ahora.] Adiós de parte de {client}.",
        "fr": "C’est tout ce qu’il nous faut. [La suite.] Au revoir de la part de {client}.",
        "de": "Das ist alles, was wir brauchen. [Wie es weitergeht.] Auf Wiederhören von {client}.",
    }),
)  # fmt: skip

STEP_WORDS = {
    "voicemail": {
        "en": "Nobody can take your call right now. Please leave your name, your number and a message after the beep.",
        "es": "Ahora no podemos atenderle. Deje su nombre, su número y un mensaje después del tono.",
        "fr": "Personne ne peut prendre votre appel. Laissez votre nom, votre numéro et un message après le bip.",
        "de": "Gerade kann niemand Ihren Anruf annehmen. Hinterlassen Sie nach dem Ton Ihren Namen, Ihre Nummer und eine Nachricht.",
    },
}
"""What new steps come with, by kind and language, so that none begins as a silence; a kind that is not here begins with no words."""
FIELDS = {"voicemail": "greeting"}
"""The field of each kind of step that takes the words."""
_BLANK = re.compile(r"\[[^\[\]]{1,60}\]")


def fill(kind: str, language: str) -> dict[str, dict[str, str]]:
    """The fields that a new step of a kind comes with in a flow of a language."""
    words = STEP_WORDS.get(kind)
    return {FIELDS[kind]: {"say": words.get(language.split("-")[0], words["en"])}} if words else {}


def for_language(language: str) -> list[tuple[Shipped, str]]:
    """The words that ship, in order of the moments, as they go in a language; English where it has none."""
    short = language.partition("-")[0]
    return [(one, one.said.get(short, one.said["en"])) for one in WORDS]


def is_shipped(say: str) -> bool:
    """Whether words are still those that they came with."""
    return say.strip() in _shipped()


@cache
def _shipped() -> frozenset[str]:
    return frozenset(
        said for words in (*STEP_WORDS.values(), *(one.said for one in WORDS)) for said in words.values()
    )  # fmt: skip


def blanks(words: str) -> tuple[str, ...]:
    """The blanks that are still to be filled in, as written."""
    return tuple(dict.fromkeys(_BLANK.findall(words)))
