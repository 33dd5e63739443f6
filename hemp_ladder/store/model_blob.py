"""A `Model` as bytes and back. Readable JSON and one block of matrices, compressed."""

import base64
import gc
import gzip
import json
from dataclasses import asdict
from fractions import Fraction
from typing import Any

import numpy as np

from hemp_ladder.core.drawn.preview import Preview, read_preview
from hemp_ladder.core.findings import Finding
from hemp_ladder.core.model.bodies import body_from_dict
from hemp_ladder.core.model.finish import Finish, Map, finish_from_dict, finish_to_dict, map_from_dict
from hemp_ladder.core.model.join import Given, Joined, join
from hemp_ladder.core.model.model import Colour, Lookout, MapPlace, Model, Node, Part, Tags
from hemp_ladder.core.model.references import name_parts
from hemp_ladder.core.model.texture import Texture
from hemp_ladder.store import blobs
from hemp_ladder.store.recent import recent

#: What nodes have in common is written once, and by number from there.
_TABLES = ("name", "layer", "colour", "tags")


def _code(table: dict[Any, int], value: Any) -> int:
    return table.setdefault(value, len(table))


def encode(model: Model) -> bytes:
    """The model as gzip over JSON; matrices as little-endian float64 in base 64."""
    tables: dict[str, dict[Any, int]] = {name: {} for name in _TABLES}
    rows = [
        [n.parent, n.part, *(_code(tables[name], getattr(n, name)) for name in _TABLES)] for n in model.nodes
    ]  # fmt: skip
    document = {
        "format": model.format, "schema": model.schema, "writer": model.writer, "unit": model.unit,
        "up": model.up, "metres_per_coordinate": str(model.metres_per_coordinate),
        "layers": model.layers, "box": model.box.tolist(),
        "parts": [_part(part) for part in model.parts],
        "tags": [[t.kind, t.ifc_class, t.storey, list(t.materials)] for t in tables["tags"]],
        "names": list(tables["name"]), "node_layers": list(tables["layer"]),
        "node_colours": [_hex(colour) for colour in tables["colour"]],
        "nodes": base64.b64encode(np.array(rows, dtype="<i4").tobytes()).decode(),
        "local": base64.b64encode(model.local.astype("<f8").tobytes()).decode(),
        "findings": [item.as_dict() for item in model.findings],
        "hidden": model.hidden, "leftovers": model.leftovers, "detailed": model.detailed,
        "place": asdict(model.place) if model.place else None,
        "page": model.page.tolist() if model.page is not None else None, "sized": model.sized,
        "textures": [asdict(texture) for texture in model.textures],
        "finishes": {name: finish_to_dict(look) for name, look in model.looks.items()},
        "guesses": {name: {slot: asdict(worn) for slot, worn in maps.items()} for name, maps in model.guesses.items()},
        "lacking": model.lacking, "lookouts": [asdict(item) for item in model.lookouts],
        "sun": model.sun,
    }  # fmt: skip
    text = json.dumps(document, ensure_ascii=True, separators=(",", ":"))
    return gzip.compress(text.encode(), 3, mtime=0)


def decode(data: bytes) -> Model:
    document = json.loads(gzip.decompress(data))
    rows = np.frombuffer(base64.b64decode(document.pop("nodes")), dtype="<i4").reshape(-1, 2 + len(_TABLES))
    names, layers = document.pop("names"), document.pop("node_layers")
    colours = [_colour(text) for text in document.pop("node_colours")]
    tags = [Tags(kind, class_, storey, tuple(names)) for kind, class_, storey, names in document["tags"]]
    local = np.frombuffer(base64.b64decode(document.pop("local")), dtype="<f8").reshape(-1, 4, 4)
    model = Model(
        format=document["format"], schema=document["schema"], writer=document["writer"],
        unit=document["unit"], up=document["up"],
        metres_per_coordinate=Fraction(document["metres_per_coordinate"]),
        parts=[_read_part(item, document["format"]) for item in document["parts"]],
        nodes=[
            Node(names[name], parent, part, layers[layer], colours[colour], tags[tag])
            for parent, part, name, layer, colour, tag in rows.tolist()
        ],
        local=local, box=np.array(document["box"]), layers=document["layers"],
        findings=[Finding.from_dict(item) for item in document["findings"]],
        hidden=document["hidden"], leftovers=document["leftovers"], detailed=document["detailed"],
        place=MapPlace(**document["place"]) if document["place"] else None,
        page=np.array(document["page"]) if document.get("page") else None, sized=document.get("sized", False),
        textures=[_texture(item) for item in document.get("textures", ())],
        looks=_finishes(document),
        guesses={
            name: {slot: map_from_dict(worn) for slot, worn in maps.items()}
            for name, maps in document.get("guesses", {}).items()
        },
        lacking=document.get("lacking", {}),
        sun=tuple(document["sun"]) if document.get("sun") else None,
        lookouts=[Lookout(**{**item, "matrix": tuple(item["matrix"])}) for item in document.get("lookouts", ())],
    )  # fmt: skip
    # Models from before parts had references of their own.
    return model if all(part.stable for part in model.parts) else name_parts(model)


def _texture(item: dict[str, Any]) -> Texture:
    # In models from before maps of other roles, the role told the colour space.
    return Texture(**{name: value for name, value in item.items() if name != "colour_space"})


def _finishes(document: dict[str, Any]) -> dict[str, Finish]:
    """By style; those of models from before finishes had more than a colour, two numbers and a picture too."""
    earlier = {
        name: Finish(
            Colour.from_hex(colour), metalness, roughness, maps=(("base colour", Map(picture)),) if picture else ()
        )
        for name, (colour, metalness, roughness, picture) in document.get("looks", {}).items()
    }
    return earlier | {name: finish_from_dict(told) for name, told in document.get("finishes", {}).items()}


def beside(key: str, kind: str, name: str) -> str:
    """Where a blob that a reader gave lies: bodies and pictures by their own key, shared by all models; the rest by the model's."""
    return f"{kind}/{name}" if kind in ("shapes", "textures") else f"{kind}/{key}" + (f"-{name}" if name else "")


def skeleton_name(key: str) -> str:
    """What the structure alone is called, while the rest of the model with this key is still being read."""
    return f"{key}-skeleton"


def is_skeleton(key: str) -> bool:
    return key.endswith("-skeleton")


def has_skeleton(sources: tuple[tuple[str, str, str], ...], *_: Any) -> bool:
    """Whether one of the models, given as (ref, name, model key), is a skeleton."""
    return any(is_skeleton(key) for _, _, key in sources)


@recent(8, is_skeleton)
def load(key: str) -> Model:
    """The model stored under the key; the last few stay in memory, and are not to be changed."""
    return decode(blobs.get(f"models/{key}"))


@recent(8, has_skeleton)
def load_joined(sources: tuple[tuple[str, str, str], ...]) -> Joined:
    """The models of several sources, given as (ref, name, model key), as one; not to be changed."""
    joined = join([Given(ref, name, load(key)) for ref, name, key in sources])
    # A large model is hundreds of thousands of objects that stay and are in no cycle: not to be looked over again.
    gc.freeze()
    return joined


@recent(8, is_skeleton)
def load_preview(key: str) -> Preview | None:
    """The outlines of a model's drawn parts as lines on a plan; None where it has none."""
    try:
        return read_preview(blobs.get(f"previews/{key}"))
    except KeyError:
        return None


def load_details(key: str, block: int) -> list[Any]:
    """One block of the properties of a model's nodes: [[set, [[name, value]]]] a node. Raises KeyError for none."""
    found: list[Any] = json.loads(gzip.decompress(blobs.get(f"details/{key}-{block}")))
    return found


def _part(part: Part) -> dict[str, Any]:
    return {
        "label": part.label, "stable": part.stable, "name": part.name, "key": part.key, "body": part.body.as_dict(),
        "layer": part.layer, "colour": _hex(part.colour),
        "face_colours": {str(face): colour.hex for face, colour in part.face_colours.items()},
        "style": part.style, "face_styles": {str(face): name for face, name in part.face_styles.items()},
    }  # fmt: skip


def _read_part(item: dict[str, Any], form: str) -> Part:
    return Part(
        item["label"] if "label" in item else item["ref"], item["name"], item["key"],
        body_from_dict(item["body"] if "body" in item else _earlier_body(item, form)),
        item["layer"], _colour(item["colour"]),
        {int(face): Colour.from_hex(c) for face, c in item["face_colours"].items()},
        item["style"], {int(face): name for face, name in item["face_styles"].items()}, stable=item.get("stable", ""),
    )  # fmt: skip


def _earlier_body(item: dict[str, Any], form: str) -> dict[str, Any]:
    """The body of a part in a model that was stored when parts had no bodies of a kind."""
    if item.get("drawn"):
        return {"kind": "drawn", "box": item["box"], **item["drawn"]}
    # Drawings were the only files that brought triangles, and they brought nothing exact.
    return {**item, "kind": "meshed" if form == "DXF" else "exact"}


def _hex(colour: Colour | None) -> str | None:
    return colour.hex if colour else None


def _colour(text: str | None) -> Colour | None:
    return Colour.from_hex(text) if text else None
