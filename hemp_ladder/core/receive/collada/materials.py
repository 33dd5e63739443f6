"""Materials of a COLLADA document: the common profile, in the terms of metallic-roughness."""

from collections.abc import Mapping
from urllib.parse import unquote
from xml.etree.ElementTree import Element

from hemp_ladder.core.model.colour import BLACK, Colour
from hemp_ladder.core.model.finish import Finish, Slot
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.receive.collada.values import child, number, numbers, ref, text_of
from hemp_ladder.core.receive.meshed.colours import roughness_of_exponent
from hemp_ladder.core.receive.meshed.parts import Builder

_SHADERS = ("phong", "blinn", "lambert", "constant")
#: Extras that several programs write and read.
_BUMPS = ("bump", "normalmap")


def add_materials(by_id: Mapping[str, Element], builder: Builder) -> dict[str, str]:
    """Give the builder the document's materials; what each is called, by its id.

    Roughness comes from the exponent of Phong and Blinn as in `colours.py`, metalness is 0, for those models have none.
    """
    called: dict[str, str] = {}
    taken: set[str] = set()
    for id_, material in by_id.items():
        if material.tag != "material":
            continue
        name = called[id_] = unique_label((material.get("name") or id_)[:200], taken)
        effect = by_id.get(ref(child(material, "instance_effect"), "url"))
        profile = next(effect.iter("profile_COMMON"), None) if effect is not None else None
        shader = next((item for item in profile.iter() if item.tag in _SHADERS), None) if profile is not None else None
        if profile is None or shader is None:
            builder.look(name, Finish())
            continue
        builder.look(name, _finish(shader))
        for slot, told in _textures(profile, shader):
            file = _file(by_id, profile, told.get("texture", ""))
            if file:
                # A picture stands where a colour would (1.4.1, "common_color_or_texture_type"): there is no number beside it.
                builder.wear(name, slot, file, alone=True)
    return called


def _finish(shader: Element) -> Finish:
    exponent = number(text_of(child(child(shader, "shininess"), "float")), 10.0)
    # Some programs write a share where an exponent belongs.
    if 0 < exponent <= 1:
        exponent *= 128
    ior = number(text_of(child(child(shader, "index_of_refraction"), "float")), 1.5)
    glow = _colour(child(shader, "emission"), BLACK)
    dull = shader.tag in ("lambert", "constant")
    return Finish(
        _with_opacity(_colour(child(shader, "diffuse"), Colour(1.0, 1.0, 1.0)), shader), 0.0,
        0.9 if dull else roughness_of_exponent(exponent), emission=glow, ior=ior if 1 < ior < 4 else 1.5,
        unlit=shader.tag == "constant",
    )  # fmt: skip


def _with_opacity(colour: Colour, shader: Element) -> Colour:
    """A_ONE: opaque at 1. RGB_ZERO: opaque at 0 (the specification's "Determining transparency")."""
    clear = child(shader, "transparent")
    amount = number(text_of(child(child(shader, "transparency"), "float")), 1.0)
    told = numbers(text_of(child(clear, "color")))
    if clear is None or len(told) < 3:
        # Without a colour it is taken for opacity; 0 everywhere is a known fault of exporters.
        return Colour(colour.red, colour.green, colour.blue, amount if 0 < amount <= 1 else 1.0)
    red, green, blue = told[:3]
    alpha = told[3] if len(told) > 3 else 1.0
    mode = clear.get("opaque", "A_ONE")
    if mode.startswith("RGB"):
        alpha = 0.212671 * red + 0.715160 * green + 0.072169 * blue
    opacity = 1 - alpha * amount if mode.endswith("ZERO") else alpha * amount
    return Colour(colour.red, colour.green, colour.blue, min(max(opacity, 0.0), 1.0))


def _colour(item: Element | None, start: Colour) -> Colour:
    """sRGB: that is how programs write them, whatever the specification leaves open (common practice)."""
    told = numbers(text_of(child(item, "color")))
    if len(told) < 3:
        return start
    red, green, blue = (min(max(value, 0.0), 1.0) for value in told[:3])
    return Colour(red, green, blue)


def _textures(profile: Element, shader: Element) -> list[tuple[Slot, Element]]:
    found: list[tuple[Slot, Element]] = []
    wanted: tuple[tuple[str, Slot], ...] = (
        ("diffuse", "base colour"),
        ("emission", "emission"),
        ("transparent", "opacity"),
    )
    for tag, slot in wanted:
        texture = child(child(shader, tag), "texture")
        if texture is not None:
            found.append((slot, texture))
    for item in profile.iter():
        if item.tag.lower() in _BUMPS:
            texture = next(item.iter("texture"), None)
            if texture is not None:
                found.append(("height", texture))
                break
    return found


def _file(by_id: Mapping[str, Element], profile: Element, name: str) -> str:
    """The file behind a texture's name: through a sampler and a surface, or an image at once."""
    params = {item.get("sid", ""): item for item in profile.iter("newparam")}
    for _ in range(4):
        param = params.get(name)
        if param is None:
            break
        inner = next((item for item in param.iter() if item.tag in ("source", "init_from", "instance_image")), None)
        if inner is None:
            break
        name = ref(inner, "url") or text_of(inner)
    image = by_id.get(name)
    told = (
        next((item for item in image.iter() if item.tag in ("init_from", "ref")), None) if image is not None else None
    )
    ref_inside = child(told, "ref")
    text = text_of(ref_inside) or text_of(told)
    return unquote(text.removeprefix("file:///").removeprefix("file://"))
