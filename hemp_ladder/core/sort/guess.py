"""Guessing a material of the house from a word in a name, in several languages: a suggestion, never more."""

import re
import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

from hemp_ladder.core.model.material import UNDECIDED
from hemp_ladder.core.sort.board import Value
from hemp_ladder.core.sort.library import LIBRARY
from hemp_ladder.core.sort.settings import By

#: Words by material, without accents: English, German, French, Spanish, Italian, Dutch, Polish and the like (from memory). `~`: also
#: where it ends a longer word, as in German and Dutch compounds.
_WORDS: dict[str, str] = {
    "ruby-glass": "ruby rubin~ rubis rubi rubino robijn",
    "lens-glass": "lens linse~ lentille lente lenti soczewka prism prisma~ prisme",
    "clear-glass": "glass~ glas~ verre vidrio vidro vetro szklo glazing verglasung~ vitrage pane scheibe~ window fenster~",
    "rubber": "rubber gummi~ caoutchouc goma gomma guma seal dichtung~ gasket epdm",
    "polished-steel": "stainless edelstahl~ inox inoxidable chrome chrom chromed rvs",
    "galvanised": "galvanised galvanized galv zinc zink~ verzinkt~ steel~ stahl~ acier acero aco acciaio staal~ stal metal metall~",
    "brass": "brass messing~ laiton laton latao ottone mosiadz",
    "copper": "copper kupfer~ cuivre cobre rame koper~ miedz",
    "gun-metal": "bronze~ bronce bronzo brons~ braz gunmetal rotguss~",
    "painted-iron": "iron eisen~ fer hierro ferro ijzer~ zelazo cast guss gusseisen~ fonte",
    "granite": "granite granit~ granito graniet~ stone~ stein~ pierre piedra pietra pedra steen~ kamien masonry mauerwerk~",
    "timber": "timber wood~ oak eiche~ holz~ bois chene madera roble madeira carvalho legno rovere quercia hout~ eiken drewno "
    "dab pine kiefer~ pin larch laerche~ meleze plank beech buche~",
    "white-paint": "paint farbe~ lack~ peinture pintura vernice verf~ farba white weiss~ blanc blanco bianco wit bialy",
}
_SPLIT = re.compile(r"[^a-z]+")
_CAMEL = re.compile(r"(?<=[a-z])(?=[A-Z])")


@dataclass(frozen=True)
class Guess:
    """Values of one kind that by a word in them may be of a material: which, the words, and their placements."""

    by: By
    material: str
    values: tuple[str, ...]
    words: tuple[str, ...]
    placements: int


def guesses(by: By, values: Iterable[Value]) -> list[Guess]:
    """What could be given to values that no rule has spoken of, by material, the most placements first."""
    found: dict[str, list[tuple[Value, str]]] = {}
    for value in values:
        undecided = any(id_ == UNDECIDED.id or id_.startswith("source:") for id_, _ in value.worn)
        told = guessed(value.value) if undecided and not value.rules else None
        if told is not None:
            found.setdefault(told[0], []).append((value, told[1]))
    listed = [
        Guess(by, material, tuple(v.value for v, _ in some), tuple(dict.fromkeys(w for _, w in some)),
              sum(v.placements for v, _ in some))
        for material, some in found.items()
    ]  # fmt: skip
    return sorted(listed, key=lambda guess: -guess.placements)


@lru_cache(maxsize=20_000)
def guessed(name: str) -> tuple[str, str] | None:
    """The material that a word in a name speaks of, and the word; of several the one that stands last, as the thing does in
    most compounds."""
    words = _words_of(name)
    for word in reversed(words):
        for material, known in _known():
            for one in known:
                if word == one.rstrip("~") or (one.endswith("~") and word.endswith(one[:-1])):
                    return material, word
    return None


def _words_of(name: str) -> Sequence[str]:
    plain = unicodedata.normalize("NFKD", _CAMEL.sub(" ", name).replace("ß", "ss").replace("ł", "l").replace("Ł", "L"))
    return [word for word in _SPLIT.split("".join(c for c in plain if not unicodedata.combining(c)).lower()) if word]


@lru_cache(maxsize=1)
def _known() -> list[tuple[str, tuple[str, ...]]]:
    return [(material, tuple(words.split())) for material, words in _WORDS.items() if material in LIBRARY]
