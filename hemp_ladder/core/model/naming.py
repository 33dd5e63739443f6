"""Names for the colours of sources that a person can use: by what wears them, else a plain word for the colour."""

from collections import defaultdict
from collections.abc import Container, Sequence

import numpy as np

from hemp_ladder.core.model.columns import Columns
from hemp_ladder.core.model.difference import lab
from hemp_ladder.core.model.finish import Finish
from hemp_ladder.core.model.material import Material, source_id
from hemp_ladder.core.model.model import Colour, Part

#: Plain words for colours, with a value of our own choosing for each.
_WORDS = {
    "black": "#101010", "charcoal": "#36393c", "dark grey": "#585b5e", "grey": "#8a8c8e", "light grey": "#b9bbbc",
    "pale grey": "#dcdddd", "white": "#fafafa", "cream": "#f3ead2", "sand": "#d9c59a", "tan": "#b8935f",
    "brown": "#7d5231", "dark brown": "#4a3020", "rust": "#a5492a", "red": "#cc2027", "dark red": "#7c1a1f",
    "pink": "#eaa3b4", "rose": "#c7516d", "orange": "#ee7f22", "amber": "#f2aa1f", "yellow": "#f5e028",
    "pale yellow": "#f6efa6", "olive": "#7b7d30", "lime": "#9bd23c", "green": "#2f9e44", "dark green": "#1d4f2b",
    "pale green": "#b7dcb4", "teal": "#1a8580", "turquoise": "#4cc5c0", "pale blue": "#b5d6ea", "sky blue": "#66acdf",
    "blue": "#2757c4", "dark blue": "#182c63", "slate": "#5c6f80", "violet": "#6f3fb0", "lilac": "#bda6da",
    "purple": "#82298a", "magenta": "#d324a5",
}  # fmt: skip
#: An opacity under this is told in the name.
_CLEAR = 0.95


def source_materials(parts: Sequence[Part], columns: Columns, looks: Container[str] = ()) -> dict[str, Material]:
    """A material for every colour in use, by id, in order of first use; but for colours of styles among `looks`, which
    are materials themselves.

    It is called by the source's name for the look, else by the substance,
    else by the layer, where all that wears it agrees on one; else by a word
    for the colour. Of several that would be called the same, each adds the
    word, and the value where that is the same too: a name depends on no order.
    """
    styles: dict[Colour, set[str | None]] = defaultdict(set)
    substances: dict[Colour, set[str | None]] = defaultdict(set)
    layers: dict[Colour, set[str | None]] = defaultdict(set)

    def wear(colour: Colour | None, style: str | None, substance: str | None, layer: str | None) -> None:
        if colour is not None and style not in looks:
            styles[colour].add(style)
            substances[colour].add(substance)
            layers[colour].add(layer)

    rows = np.column_stack([columns.part, columns.layer, columns.colour, columns.tags])
    _, first = np.unique(rows, axis=0, return_index=True)
    for part_index, layer_code, colour_code, tags in rows[np.sort(first)].tolist():
        part, layer = parts[part_index], columns.layers[layer_code]
        substance = ", ".join(columns.all_tags[tags].materials) or None
        wear(columns.colours[colour_code], part.style, substance, layer)
        for face, colour in part.face_colours.items():
            wear(colour, part.face_styles.get(face, part.style), substance, layer)
    bases = {
        colour: _agreed(styles[colour]) or _agreed(substances[colour]) or _agreed(layers[colour]) or colour_word(colour)
        for colour in styles
    }
    names = {colour: base[:1].upper() + base[1:] for colour, base in bases.items()}
    names = _apart(names, {colour: colour_word(colour) for colour in names})
    names = _apart(names, {colour: colour.hex for colour in names})
    return {source_id(c): Material(source_id(c), name, Finish(c)) for c, name in names.items()}


def _agreed(words: set[str | None]) -> str | None:
    """The one word of all, printable and of some length to it."""
    word = next(iter(words)) if len(words) == 1 else None
    line = " ".join("".join(c if c.isprintable() else " " for c in word).split()) if word else ""
    return line[:60] if any(c.isalpha() for c in line) else None


def _apart(names: dict[Colour, str], more: dict[Colour, str]) -> dict[Colour, str]:
    """Names with something added where several have the same."""
    uses: dict[str, int] = defaultdict(int)
    for name in names.values():
        uses[name.casefold()] += 1
    return {c: name if uses[name.casefold()] == 1 else f"{name}, {more[c]}" for c, name in names.items()}


def colour_word(colour: Colour) -> str:
    """The plain word that is nearest in CIELAB (CIE 1976, D65); "clear" before it where much shines through."""
    words = list(_WORDS)
    distance = np.linalg.norm(_TABLE - lab(colour), axis=1)
    word = words[int(distance.argmin())]
    return word if colour.alpha >= _CLEAR else f"clear {word}"


_TABLE = np.array([lab(Colour.from_hex(value)) for value in _WORDS.values()])
