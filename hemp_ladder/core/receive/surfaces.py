"""What is noticed about the looks and the pictures that a source brought, each with a remedy that is a decision."""

import re
from collections import defaultdict
from collections.abc import Iterator

from hemp_ladder.core.findings import Finding, Offer, finding, names
from hemp_ladder.core.model.bodies import Meshed
from hemp_ladder.core.model.finish import Finish
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.model.texture import Texture
from hemp_ladder.core.receive.meshed.habits import read_name
from hemp_ladder.core.units import say_metric

#: What glass is called where models come from (common practice).
_GLASS = re.compile(r"\b(glass|glas|verre|vidrio|vetro|glazing|window ?pane)\b", re.IGNORECASE)
#: Of a picture, so many pixels lie at least across what wears it, or it looks soft; and it repeats no oftener, or that
#: is seen (common practice).
_SOFT, _OFTEN = 400, 8.0
#: A coat smoother than this mirrors its surroundings; what is offered instead (common practice).
_MIRROR, _CALM = 0.2, 0.4


def review_looks(model: Model) -> Iterator[Finding]:
    """About materials in the model's own names."""
    if not model.looks:
        return
    textures = {texture.sha256: texture for texture in model.textures}
    yield from _guessed(model)
    yield from _see_through(model, textures)
    yield from _wrong_slots(model, textures)
    yield from _mirrors(model)
    yield from _sizes(model, textures)


def _guessed(model: Model) -> Iterator[Finding]:
    if model.guesses:
        count = sum(len(own) for own in model.guesses.values())
        styles = list(model.guesses)
        told = "1 map by its name belongs" if count == 1 else f"{count:,} maps by their names belong"
        it = "it" if count == 1 else "them"
        yield finding(
            "maps-guessed", names(styles), f"{told} to {names(styles)}, and no material names {it}.",
            offers=[Offer(f"Take {it}", "take-maps", {"styles": styles})],
        )  # fmt: skip


def _see_through(model: Model, textures: dict[str, Texture]) -> Iterator[Finding]:
    """Opacity that came in wrong: leaves on solid cards, glass like enamel, bodies that are not there."""
    cards: dict[str, list[str]] = defaultdict(list)
    glass, gone = [], []
    for style, look in model.looks.items():
        base = look.map("base colour")
        clear = textures[base.picture].clear if base and base.picture in textures else ""
        if look.opacity_mode == "opaque" and look.map("opacity") is None:
            if clear:
                cards[clear].append(style)
            elif _GLASS.search(style) and not look.transmission:
                glass.append(style)
        elif look.colour.alpha == 0 and look.map("opacity") is None:
            gone.append(style)
    for kind, styles in cards.items():
        modes = [("Cut out", "cut-out"), ("Blended", "blended")]
        offers = [
            Offer(f"{label} by the picture's opacity", "opacity", {"styles": styles, "mode": mode})
            for label, mode in (modes if kind == "cut" else reversed(modes))
        ]
        offers.append(
            Offer(
                "The same, turned over",
                "opacity",
                {"styles": styles, "mode": offers[0].values["mode"], "inverted": True},
            )
        )
        yield finding(
            "opaque-picture", names(styles),
            f"{names(styles)} came in opaque, though the picture has places that are {'not there' if kind == 'cut' else 'clear'}.",
            offers=offers,
        )  # fmt: skip
    if glass:
        yield finding(
            "opaque-glass", names(glass), f"{names(glass)} came in opaque.",
            offers=[
                Offer("Let light through", "opacity", {"styles": glass, "transmission": 1.0}),
                Offer("Opacity 25 %", "opacity", {"styles": glass, "mode": "blended", "value": 0.25}),
            ],
        )  # fmt: skip
    if gone:
        yield finding(
            "invisible", names(gone), f"{names(gone)} came in with an opacity of 0 %: nothing of it is seen.",
            offers=[Offer("Make it opaque", "opacity", {"styles": gone, "mode": "opaque", "value": 1.0})],
        )  # fmt: skip


def _wrong_slots(model: Model, textures: dict[str, Texture]) -> Iterator[Finding]:
    for style, look in model.looks.items():
        rough, normal = look.map("roughness"), look.map("normal")
        if rough and not rough.inverted and rough.picture in textures:
            _, told = read_name(textures[rough.picture].name)
            if told and told.inverted:
                yield finding(
                    "gloss-for-roughness", style,
                    f"The roughness map of {style}, “{textures[rough.picture].name}”, is a gloss map by its name.",
                    offers=[Offer("Turn it over", "wear", {"style": style, "slot": "roughness", "inverted": True})],
                )  # fmt: skip
        if normal and normal.picture in textures and not textures[normal.picture].bluish:
            yield finding(
                "no-normal-map", style,
                f"The normal map of {style}, “{textures[normal.picture].name}”, has not the colours of one.",
                offers=[Offer("Take it as a height map", "wear", {"style": style, "slot": "normal", "to": "height"}),
                        Offer("Wear none", "wear", {"style": style, "slot": "normal", "to": ""})],
            )  # fmt: skip


def _mirrors(model: Model) -> Iterator[Finding]:
    """Coats, not metals and not glass: those shine on purpose."""
    shiny = [style for style, look in model.looks.items() if _is_mirror(style, look)]
    if shiny:
        yield finding(
            "too-shiny", names(shiny),
            f"{names(shiny)} {'mirrors its' if len(shiny) == 1 else 'mirror their'} surroundings like varnish.",
            offers=[Offer(f"At most this shiny: roughness {_CALM:g}", "tame", {"styles": shiny, "least": _CALM})],
        )  # fmt: skip


def _is_mirror(style: str, look: Finish) -> bool:
    solid = look.metalness < 0.5 and look.opacity_mode == "opaque" and not look.transmission
    return solid and look.roughness < _MIRROR and look.map("roughness") is None and not _GLASS.search(style)


def _sizes(model: Model, textures: dict[str, Texture]) -> Iterator[Finding]:
    """Pixels held against the real size of what wears them."""
    scale = float(model.metres_per_coordinate)
    soft: dict[str, str] = {}
    often: dict[str, str] = {}
    for style, tile, repeats in worn_tiles(model):
        base = model.looks[style].map("base colour") if style in model.looks else None
        texture = textures.get(base.picture) if base else None
        if base is None or texture is None or not tile:
            continue
        times = repeats * max(abs(base.scale[0]), abs(base.scale[1]))
        across = max(texture.width, texture.height) * times
        if across < _SOFT:
            soft[style] = f"{style} ({across:,.0f} pixels across)"
        elif times > _OFTEN and max(texture.width, texture.height) > 1:
            length = tile * scale / max(abs(base.scale[0]), 1e-9)
            often[style] = f"{style} ({times:,.0f} times, every {say_metric(length)})"
    if soft:
        yield finding("picture-small", names(list(soft)), f"Too few pixels for its size: {names(list(soft.values()))}.")
    if often:
        yield finding(
            "picture-repeats", names(list(often)), f"The same picture again and again: {names(list(often.values()))}.",
            offers=[Offer("Twice as large", "tile", {"styles": list(often), "times": 2.0})],
        )  # fmt: skip


def worn_tiles(model: Model) -> Iterator[tuple[str, float, float]]:
    """For each group of triangles that wears a style: how long a picture lies on it, in source coordinates, and how often
    it repeats."""
    for part in model.parts:
        body = part.body
        for group, (tile, repeats) in enumerate(body.tiles if isinstance(body, Meshed) else ()):
            style = part.face_styles.get(group, part.style)
            if style is not None:
                yield style, tile, repeats
