"""What a building says of its products beside their shape: layer, storey, materials, class."""

from collections.abc import Iterator
from typing import Any

from hemp_ladder.core.model.model import Kind, Tags
from hemp_ladder.core.receive.ifc.ask import Asker

#: Products that are no matter to look at, by the schema's own classes.
_KINDS: list[tuple[str, Kind]] = [
    ("IfcSpace", "space"),
    ("IfcExternalSpatialElement", "space"),
    ("IfcSpatialZone", "space"),
    ("IfcVirtualElement", "space"),
    ("IfcFeatureElementSubtraction", "opening"),
    ("IfcAnnotation", "annotation"),
    ("IfcGrid", "annotation"),
]


class Looks:
    """Look-ups over one file, each relation walked once."""

    def __init__(self, file: Any, ask: Asker) -> None:
        self._ask = ask
        self._layer: dict[int, str] = {}
        self.hidden: list[str] = []
        self.layers: list[str] = []
        for layer in file.by_type("IfcPresentationLayerAssignment"):
            name = (layer.Name or "").strip() or "unnamed layer"
            if name not in self.layers:
                self.layers.append(name)
            if layer.is_a("IfcPresentationLayerWithStyle") and (layer.LayerOn is False or layer.LayerFrozen is True):
                self.hidden.append(name)
            for item in layer.AssignedItems or ():
                self._layer.setdefault(item.id(), name)
        self._materials: dict[int, tuple[str, ...]] = {}
        for relation in file.by_type("IfcRelAssociatesMaterial"):
            names = tuple(dict.fromkeys(name for name in _names(relation.RelatingMaterial) if name))
            for item in relation.RelatedObjects or ():
                self._materials.setdefault(item.id(), names)
        self.type_of: dict[int, Any] = {}
        for relation in file.by_type("IfcRelDefinesByType"):
            for item in relation.RelatedObjects or ():
                self.type_of[item.id()] = relation.RelatingType
        self._tags: dict[tuple[Any, ...], Tags] = {}
        self._bodies: dict[int, tuple[Any, ...]] = {}

    def bodies(self, product: Any) -> tuple[Any, ...]:
        """The representations of a product that are its shape itself; each product is asked once."""
        number = product.id()
        found = self._bodies.get(number)
        if found is None:
            shape = self._ask(product, "Representation")
            given = self._ask(shape, "Representations") if shape else ()
            found = tuple(item for item in given or () if self._is_body(item) and self._ask(item, "Items"))
            self._bodies[number] = found
        return found

    def _is_body(self, representation: Any) -> bool:
        """Whether a representation is the shape itself: not its axis, its box or its outline on paper."""
        name = self._ask(representation, "RepresentationIdentifier")
        return name in _BODY if name else self._ask(representation, "RepresentationType") in _SOLID

    def layer(self, product: Any) -> str | None:
        """The presentation layer of its body: of the representation, of what it maps, or of its first item."""
        if self._layer:
            for representation in self.bodies(product):
                for thing in _assigned(representation):
                    if thing in self._layer:
                        return self._layer[thing]
        return None

    def tags(self, product: Any, name: str, storey: str | None) -> Tags:
        """Class (its name is given), storey and materials; a product's own material comes before its type's."""
        number = product.id()
        type_ = self.type_of.get(number)
        materials = self._materials.get(number) or (self._materials.get(type_.id(), ()) if type_ else ())
        key = (name, storey, materials)
        if key not in self._tags:
            kind: Kind = next((kind for above, kind in _KINDS if product.is_a(above)), "body")
            self._tags[key] = Tags(kind, name, storey, materials)
        return self._tags[key]


_SOLID = {
    "SweptSolid", "AdvancedSweptSolid", "Brep", "AdvancedBrep", "CSG", "Clipping", "Tessellation",
    "SurfaceModel", "SolidModel", "MappedRepresentation", "Surface3D", "Sectioned",
}  # fmt: skip
_BODY = {"Body", "Facetation", "Body-FallBack"}


def _assigned(representation: Any, depth: int = 0) -> Iterator[int]:
    yield representation.id()
    for item in getattr(representation, "Items", None) or ():
        yield item.id()
        mapped = item.MappingSource if item.is_a("IfcMappedItem") and depth < 8 else None
        below = getattr(mapped, "MappedRepresentation", None)
        if below is not None:
            yield from _assigned(below, depth + 1)


def _names(material: Any) -> Iterator[str]:
    """Names of a single material, or of all in a set, a list or a usage of either. What is no material, as a damaged
    file may have it, has none."""
    if material is None:
        return
    if material.is_a("IfcMaterial"):
        yield material.Name
        return
    for name in (
        "ForLayerSet",
        "ForProfileSet",
        "MaterialLayers",
        "MaterialProfiles",
        "MaterialConstituents",
        "Materials",
        "Material",
    ):
        below = getattr(material, name, None)
        for one in below if isinstance(below, tuple) else (below,):
            yield from _names(one)
