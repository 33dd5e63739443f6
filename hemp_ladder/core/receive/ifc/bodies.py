"""The products' shapes, exact, each distinct geometry once."""

import io
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import ifcopenshell.geom
import ifcopenshell.ifcopenshell_wrapper as native
import numpy as np
from OCP.BRep import BRep_Builder
from OCP.BRepTools import BRepTools
from OCP.TopoDS import TopoDS_Compound, TopoDS_Iterator, TopoDS_Shape

from hemp_ladder.core.kernel.parts import exact_of, numbers_of, part_of
from hemp_ladder.core.kernel.sew import has_loose_faces, sew
from hemp_ladder.core.kernel.shapes import SOLID, explore
from hemp_ladder.core.model.bodies import BodySink
from hemp_ladder.core.model.model import Colour, Matrix, Part

#: Edges nearer than this are joined where faces come loose: ten micrometres, the usual precision of buildings.
SEWN_WITHIN = 1e-5


@dataclass
class Bodies:
    """`placed`: product id to (part index, 4x4 placement in metres). Parts await their names."""

    parts: list[Part] = field(default_factory=list)
    shapes: list[TopoDS_Shape] = field(default_factory=list)
    placed: dict[int, tuple[int, Matrix]] = field(default_factory=dict)


def read_bodies(
    file: Any,
    products: Sequence[Any],
    sink: BodySink,
    about: Callable[[int], None],
    done: Callable[[int], None],
    careful: bool = False,
) -> Bodies:
    """Have the format library build every product's shape, openings cut, and take it over as an exact shape.

    Its kernel hands shapes over as text, which is quicker than having it
    make triangles (a real house of 2.4 MB: 2.4 s against 3.8 s), and leaves
    chord error and angle to Facet. `about` hears which product comes next;
    only when careful is it sure.
    """
    bodies = Bodies()
    if not products:
        return bodies
    known: dict[str, int] = {}
    elements = _one_by_one if careful else _all_elements
    for element in elements(file, products, about):
        case = element.geometry.id
        if case not in known:
            # Only now as text: what is placed a thousand times is written once.
            geometry = native.serialization(element.geometry)
            styles = tuple(geometry.surface_style_ids)
            shape, items, turned = _shape(geometry.brep_data, len(styles))
            part, faces = part_of(shape, "", "", sink)
            part.body = replace(exact_of(part), turned=turned)
            colours = np.array(geometry.surface_styles, dtype=float).reshape(-1, 4)
            _dress(part, [numbers_of(faces, item) for item in items], colours, _style_names(file, styles))
            known[case] = len(bodies.parts)
            bodies.parts.append(part)
            bodies.shapes.append(shape)
        matrix = np.array(element.transformation.matrix).reshape(4, 4).T
        bodies.placed[element.id] = (known[case], matrix)
        done(len(bodies.placed))
    return bodies


def _settings() -> Any:
    settings = ifcopenshell.geom.settings()
    settings.set("iterator-output", native.NATIVE)
    settings.set("apply-default-materials", False)
    settings.set("surface-colour", True)
    return settings


def _all_elements(file: Any, products: Sequence[Any], about: Callable[[int], None]) -> Iterator[Any]:
    """By the library's iterator, which builds what products share once. It tells no order: about is a guess."""
    iterator = ifcopenshell.geom.iterator(_settings(), file, 1, include=list(products), geometry_library="opencascade")
    about(products[0].id())
    if not iterator.initialize():
        return
    while True:
        element = iterator.get()
        about(element.id)
        yield element
        if not iterator.next():
            return


def _one_by_one(file: Any, products: Sequence[Any], about: Callable[[int], None]) -> Iterator[Any]:
    """Each product for itself: slower, but a product that brings the library down is known by name."""
    settings = _settings()
    for product in products:
        about(product.id())
        try:
            element = ifcopenshell.geom.create_shape(settings, product, geometry_library="opencascade")
        except RuntimeError:  # it has no shape, which is counted by what did not come
            continue
        yield element


def _shape(text: str, count: int) -> tuple[TopoDS_Shape, list[TopoDS_Shape], int]:
    """The shape, its items one for each style, and how many loose faces were turned."""
    whole = TopoDS_Shape()
    BRepTools.Read_s(whole, io.BytesIO(text.encode()), BRep_Builder())
    items = _items(whole, count)
    if not any(has_loose_faces(item) for item in items):
        return whole, items, 0
    turned = 0
    builder, compound = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(compound)
    for number, item in enumerate(items):
        if has_loose_faces(item) and next(iter(explore(item, SOLID)), None) is None:
            sewn = sew(item, SEWN_WITHIN)
            turned += sewn.turned
            items[number] = sewn.shape
        builder.Add(compound, items[number])
    return compound, items, turned


def _items(whole: TopoDS_Shape, count: int) -> list[TopoDS_Shape]:
    """The library lays n items side by side, or folds them two by two: ((first, second), third) and so on."""
    items: list[TopoDS_Shape] = []
    while count > 1:
        walker = TopoDS_Iterator(whole)
        children = []
        while walker.More():
            children.append(walker.Value())
            walker.Next()
        if len(children) == count:
            return [*children, *items]
        if len(children) != 2:
            break
        whole, last = children
        items.insert(0, last)
        count -= 1
    return [whole, *items]


def _style_names(file: Any, numbers: tuple[int, ...]) -> list[str | None]:
    names: list[str | None] = []
    for number in numbers:
        style = file.by_id(number) if number > 0 else None
        names.append((getattr(style, "Name", None) or None) if style is not None else None)
    return names


def _dress(part: Part, items: list[list[int]], colours: Any, names: list[str | None]) -> None:
    """Give the part the look of its largest item, and the others' faces their own."""
    looks: dict[tuple[Colour | None, str | None], list[int]] = {}
    for faces, shade, name in zip(items, colours, names, strict=False):
        colour = Colour(*(min(max(float(v), 0.0), 1.0) for v in shade)) if (shade[:3] >= 0).all() else None
        looks.setdefault((colour, name), []).extend(faces)
    if not looks:
        return
    main = max(looks, key=lambda look: len(looks[look]))
    part.colour, part.style = main
    for (colour, name), faces in looks.items():
        if (colour, name) == main:
            continue
        for face in faces:
            if colour is not None and colour != part.colour:
                part.face_colours[face] = colour
            if name is not None and name != part.style:
                part.face_styles[face] = name
