"""A building document that becomes an IFC file, in the schema and the unit asked for.

Lengths are in the file's own unit. Identifiers come from names, so that the
same building gives the same file.
"""

import math
import re
import uuid
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.guid

Spot = tuple[float, float, float]
_SPACE = uuid.UUID("8d0c6a1e-5d0b-4b52-9a54-6e1f0c1b7a10")


class Building:
    """Products with shapes, types, styles, layers and materials around one `ifcopenshell.file`."""

    def __init__(self, schema: str, name: str, foot: bool = False, at: Spot = (0, 0, 0)) -> None:
        self.file = ifcopenshell.file(schema=schema)
        self.old = schema == "IFC2X3"
        self._degrees = foot
        self._named: dict[str, int] = {}
        self._layers: dict[str, list[Any]] = {}
        self._materials: dict[str, tuple[Any, list[Any]]] = {}
        self._inside: dict[int, tuple[Any, list[Any]]] = {}
        self._origin = self.axes((0, 0, 0))
        self._history = self._owner() if self.old else None
        self.context = self.new("IfcGeometricRepresentationContext", "Plan", "Model", 3, 1e-5, self._origin)
        self.body = self.new(
            "IfcGeometricRepresentationSubContext", "Body", "Model", *([None] * 4), self.context, None, "MODEL_VIEW"
        )
        self.project = self.root("IfcProject", name)
        self.project.RepresentationContexts = [self.context]
        self.project.UnitsInContext = self.new("IfcUnitAssignment", self._units(foot))
        self.site = self._below(self.project, self.root("IfcSite", "Gull Rock"), at)
        self.building = self._below(self.site, self.root("IfcBuilding", name))

    def new(self, kind: str, *values: Any) -> Any:
        return self.file.create_entity(kind, *values)

    def root(self, kind: str, name: str) -> Any:
        """A rooted thing with an identifier from its class and name."""
        self._named[name] = self._named.get(name, 0) + 1
        told = uuid.uuid5(_SPACE, f"{kind} {name} {self._named[name]}")
        found = self.file.create_entity(kind, GlobalId=ifcopenshell.guid.compress(told.hex), Name=name)
        if self._history is not None:
            found.OwnerHistory = self._history
        return found

    def storey(self, name: str, elevation: float) -> Any:
        storey = self._below(self.building, self.root("IfcBuildingStorey", name), (0, 0, elevation))
        storey.Elevation = float(elevation)
        return storey

    def on_map(self, east: float, north: float, height: float, degrees: float, grid: str) -> None:
        """Where the origin lies on a map; IFC4 and later."""
        crs = self.new("IfcProjectedCRS", grid)
        turn = math.radians(degrees)
        self.new(
            "IfcMapConversion", self.context, crs, float(east), float(north), float(height),
            math.cos(turn), math.sin(turn), 1.0,
        )  # fmt: skip

    # Places and curves

    def spot(self, *values: float) -> Any:
        return self.new("IfcCartesianPoint", [float(value) for value in values])

    def axes(self, at: Spot, turn: float = 0, z: Spot | None = None, x: Spot | None = None) -> Any:
        """Turned about Z by degrees, or by its axes."""
        if z is None:
            angle = math.radians(turn)
            z, x = (0, 0, 1), (math.cos(angle), math.sin(angle), 0)
        directions = [self.new("IfcDirection", [float(value) for value in axis]) for axis in (z, x or (1, 0, 0))]
        return self.new("IfcAxis2Placement3D", self.spot(*at), *directions)

    def _flat(self) -> Any:
        return self.new("IfcAxis2Placement2D", self.spot(0, 0), self.new("IfcDirection", [1.0, 0.0]))

    def _up(self) -> Any:
        return self.new("IfcDirection", [0.0, 0.0, 1.0])

    def _angle(self, degrees: float) -> float:
        """An angle in the file's own unit: degrees go with feet."""
        return float(degrees if self._degrees else math.radians(degrees))

    # Solids

    def block(self, x: float, y: float, z: float, at: Spot = (0, 0, 0), turn: float = 0) -> Any:
        """A block from `at`, its lowest corner."""
        outline = [(0, 0), (x, 0), (x, y), (0, y)]
        return self.extrude(outline, z, self.axes(at, turn))

    def extrude(self, outline: Sequence[tuple[float, float]], depth: float, axes: Any | None = None) -> Any:
        ring = [self.spot(*corner) for corner in [*outline, outline[0]]]
        profile = self.new("IfcArbitraryClosedProfileDef", "AREA", None, self.new("IfcPolyline", ring))
        return self.new("IfcExtrudedAreaSolid", profile, axes or self._origin, self._up(), float(depth))

    def drum(self, radius: float, height: float, wall: float | None = None, at: Spot = (0, 0, 0)) -> Any:
        """A round solid, or a tube with a wall."""
        if wall is None:
            profile = self.new("IfcCircleProfileDef", "AREA", None, self._flat(), float(radius))
        else:
            profile = self.new("IfcCircleHollowProfileDef", "AREA", None, self._flat(), float(radius), float(wall))
        return self.new("IfcExtrudedAreaSolid", profile, self.axes(at), self._up(), float(height))

    def turned(self, profile: Sequence[tuple[float, float]], at: Spot = (0, 0, 0)) -> Any:
        """A closed outline of (radius, height) turned once about the vertical."""
        ring = [self.spot(*corner) for corner in [*profile, profile[0]]]
        area = self.new("IfcArbitraryClosedProfileDef", "AREA", None, self.new("IfcPolyline", ring))
        axis = self.new("IfcAxis1Placement", self.spot(0, 0, 0), self.new("IfcDirection", [0.0, 1.0, 0.0]))
        axes = self.axes(at, z=(0, -1, 0), x=(1, 0, 0))
        return self.new("IfcRevolvedAreaSolid", area, axes, axis, self._angle(360))

    def rod(self, path: Sequence[Spot], radius: float) -> Any:
        """A round bar along a path of straight pieces."""
        curve = self.new("IfcPolyline", [self.spot(*spot) for spot in path])
        return self.new("IfcSweptDiskSolid", curve, float(radius), None, 0.0, float(len(path) - 1))

    def bend(self, centre: Spot, radius: float, start: float, end: float, thickness: float) -> Any:
        """A round bar along an arc about the vertical, from one angle in degrees to another."""
        circle = self.new("IfcCircle", self.axes(centre), float(radius))
        trims = [[self.new("IfcParameterValue", self._angle(value))] for value in (start, end)]
        curve = self.new("IfcTrimmedCurve", circle, *trims, True, "PARAMETER")
        composite = self.new(
            "IfcCompositeCurve", [self.new("IfcCompositeCurveSegment", "CONTINUOUS", True, curve)], False
        )
        return self.new("IfcSweptDiskSolid", composite, float(thickness))

    def faceted(self, corners: Sequence[Spot], faces: Sequence[Sequence[int]], closed: bool = True) -> Any:
        """Flat faces over corners: a solid, or loose sheets."""
        spots = [self.spot(*corner) for corner in corners]
        rings = [self.new("IfcPolyLoop", [spots[number] for number in face]) for face in faces]
        flat = [self.new("IfcFace", [self.new("IfcFaceOuterBound", ring, True)]) for ring in rings]
        if closed:
            return self.new("IfcFacetedBrep", self.new("IfcClosedShell", flat))
        return self.new("IfcShellBasedSurfaceModel", [self.new("IfcOpenShell", flat)])

    # Looks

    def style(self, name: str, colour: str, clear: float = 0.0) -> Any:
        """A surface style; `clear` is its transparency, 0 to 1."""
        rgb = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        shade = self.new(
            "IfcSurfaceStyleRendering", self.new("IfcColourRgb", None, *rgb), clear or None,
            *([None] * 6), "NOTDEFINED",
        )  # fmt: skip
        return self.new("IfcSurfaceStyle", name, "BOTH", [shade])

    def paint(self, item: Any, style: Any) -> Any:
        styles = [self.new("IfcPresentationStyleAssignment", [style])] if self.old else [style]
        self.new("IfcStyledItem", item, styles)
        return item

    # Products

    def type(self, kind: str, name: str, items: Sequence[Any], layer: str) -> tuple[Any, Any]:
        """A type object and the map of its shape, to be placed any number of times."""
        shape = self._shape(items, layer)
        mapped = self.new("IfcRepresentationMap", self._origin, shape)
        found = self.root(kind, name)
        found.RepresentationMaps = [mapped]
        if self.old and kind.endswith("Style"):
            found.OperationType = "NOTDEFINED"
            found.ConstructionType = "NOTDEFINED"
            found.ParameterTakesPrecedence = found.Sizeable = False
        if hasattr(found, "AssemblyPlace"):
            found.AssemblyPlace = "NOTDEFINED"
        if hasattr(found, "PredefinedType"):
            found.PredefinedType = "NOTDEFINED"
            if kind in ("IfcWindowType",):
                found.PartitioningType = "NOTDEFINED"
            if kind in ("IfcDoorType",):
                found.OperationType = "NOTDEFINED"
        relation = self.root("IfcRelDefinesByType", f"Of {name}")
        relation.RelatingType, relation.RelatedObjects = found, []
        return relation, mapped

    def put(
        self,
        kind: str,
        name: str,
        where: Any,
        items: Sequence[Any] | tuple[Any, Any],
        layer: str = "",
        at: Spot = (0, 0, 0),
        turn: float = 0,
        material: str = "",
        facts: Mapping[str, Mapping[str, Any]] | None = None,
    ) -> Any:
        """A product in a storey (or within another product), with a shape of its own or of a type."""
        product = self.root(kind, name)
        product.ObjectPlacement = self.new("IfcLocalPlacement", where.ObjectPlacement, self.axes(at, turn))
        if isinstance(items, tuple):
            relation, mapped = items
            relation.RelatedObjects = [*relation.RelatedObjects, product]
            one = self.new("IfcCartesianTransformationOperator3D", None, None, self.spot(0, 0, 0), 1.0, None)
            shape = self.new(
                "IfcShapeRepresentation", self.body, "Body", "MappedRepresentation",
                [self.new("IfcMappedItem", mapped, one)],
            )  # fmt: skip
        elif items:
            shape = self._shape(items, layer)
        else:
            shape = None
        if shape is not None:
            product.Representation = self.new("IfcProductDefinitionShape", None, None, [shape])
        if material:
            self.made_of(product, self._material(material))
        for name_, values in (facts or {}).items():
            self._facts(product, name_, values)
        self._into(where, product)
        return product

    def hole(self, wall: Any, item: Any, at: Spot = (0, 0, 0)) -> Any:
        """An opening that cuts a wall; in the wall's own coordinates."""
        opening = self.root("IfcOpeningElement", f"Opening in {wall.Name}")
        opening.ObjectPlacement = self.new("IfcLocalPlacement", wall.ObjectPlacement, self.axes(at))
        opening.Representation = self.new("IfcProductDefinitionShape", None, None, [self._shape([item], "")])
        relation = self.root("IfcRelVoidsElement", f"Void of {wall.Name}")
        relation.RelatingBuildingElement, relation.RelatedOpeningElement = wall, opening
        return opening

    def fill(self, opening: Any, product: Any) -> None:
        relation = self.root("IfcRelFillsElement", f"Fill by {product.Name}")
        relation.RelatingOpeningElement, relation.RelatedBuildingElement = opening, product

    def made_of(self, product: Any, material: tuple[Any, list[Any]]) -> None:
        material[1].append(product)

    def layers_of(self, name: str, layers: Sequence[tuple[str, float]]) -> str:
        """A set of material layers from outside in; returns its name for `put`."""
        found = [self.new("IfcMaterialLayer", self.new("IfcMaterial", what), float(thick)) for what, thick in layers]
        whole = self.new("IfcMaterialLayerSet", found, name)
        usage = self.new("IfcMaterialLayerSetUsage", whole, "AXIS2", "POSITIVE", 0.0)
        self._materials[name] = (usage, [])
        return name

    def constituents(self, name: str, words: Sequence[str]) -> str:
        found = [self.new("IfcMaterialConstituent", word, None, self.new("IfcMaterial", word)) for word in words]
        self._materials[name] = (self.new("IfcMaterialConstituentSet", name, None, found), [])
        return name

    def off(self, layer: str) -> None:
        """Switch a layer off: it is there and not to be seen."""
        self._layers.setdefault(layer, []).insert(0, None)

    def write(self, path: Path, when: str = "2026-11-01T08:00:00") -> None:
        """Write it with a header that does not change from run to run."""
        for name, items in self._layers.items():
            shapes = [item for item in items if item is not None]
            if not shapes:
                continue
            if len(shapes) < len(items):
                self.new("IfcPresentationLayerWithStyle", name, None, shapes, None, False, False, False, [])
            else:
                self.new("IfcPresentationLayerAssignment", name, None, shapes, None)
        for name, (material, products) in self._materials.items():
            relation = self.root("IfcRelAssociatesMaterial", f"Made of {name}")
            relation.RelatingMaterial, relation.RelatedObjects = material, products
        for where, products in self._inside.values():
            spatial = where.is_a("IfcSpatialStructureElement")
            kind = "IfcRelContainedInSpatialStructure" if spatial else "IfcRelAggregates"
            relation = self.root(kind, f"In {where.Name}")
            if spatial:
                relation.RelatingStructure, relation.RelatedElements = where, products
            else:
                relation.RelatingObject, relation.RelatedObjects = where, products
        self.file.write(str(path))
        text = path.read_text("utf-8")
        head = f"FILE_NAME('{path.name}','{when}',('Harbour office'),('Gull Rock'),'IfcOpenShell','Demo generator','');"
        path.write_text(re.sub(r"FILE_NAME\(.*?\);", head, text, count=1, flags=re.DOTALL), "utf-8")

    # Inside

    def _owner(self) -> Any:
        person = self.new("IfcPerson", None, "Keeper")
        office = self.new("IfcOrganization", None, "Harbour office")
        both = self.new("IfcPersonAndOrganization", person, office)
        program = self.new("IfcApplication", office, "1", "Demo generator", "demo")
        return self.new("IfcOwnerHistory", both, program, None, "ADDED", None, None, None, 1793491200)

    def _units(self, foot: bool) -> list[Any]:
        units = [
            self.new("IfcSIUnit", None, kind, None, name)
            for kind, name in (("LENGTHUNIT", "METRE"), ("AREAUNIT", "SQUARE_METRE"), ("VOLUMEUNIT", "CUBIC_METRE"),
                               ("PLANEANGLEUNIT", "RADIAN"))
        ]  # fmt: skip
        if not foot:
            return units
        return [
            self._converted("LENGTHUNIT", "FOOT", 0.3048, units[0], (1, 0, 0)),
            self._converted("AREAUNIT", "SQUARE FOOT", 0.3048**2, units[1], (2, 0, 0)),
            self._converted("VOLUMEUNIT", "CUBIC FOOT", 0.3048**3, units[2], (3, 0, 0)),
            self._converted("PLANEANGLEUNIT", "DEGREE", math.pi / 180, units[3], (0, 0, 0)),
        ]

    def _converted(self, kind: str, name: str, factor: float, base: Any, powers: Spot) -> Any:
        measure = {"LENGTHUNIT": "IfcLengthMeasure", "AREAUNIT": "IfcAreaMeasure", "VOLUMEUNIT": "IfcVolumeMeasure"}
        value = self.new(measure.get(kind, "IfcPlaneAngleMeasure"), factor)
        exponents = self.new("IfcDimensionalExponents", int(powers[0]), 0, 0, 0, 0, 0, 0)
        return self.new("IfcConversionBasedUnit", exponents, kind, name, self.new("IfcMeasureWithUnit", value, base))

    def _below(self, above: Any, item: Any, at: Spot = (0, 0, 0)) -> Any:
        parent = getattr(above, "ObjectPlacement", None)
        item.ObjectPlacement = self.new("IfcLocalPlacement", parent, self.axes(at))
        if hasattr(item, "CompositionType"):
            item.CompositionType = "ELEMENT"
        relation = next(
            (r for r in self.file.by_type("IfcRelAggregates") if r.RelatingObject == above), None
        ) or self.root("IfcRelAggregates", f"Below {above.Name}")
        relation.RelatingObject, relation.RelatedObjects = above, [*(relation.RelatedObjects or ()), item]
        return item

    def _into(self, where: Any, product: Any) -> None:
        if product.is_a("IfcSpatialStructureElement"):
            self._below_relation(where, product)
            return
        self._inside.setdefault(where.id(), (where, []))[1].append(product)

    def _below_relation(self, above: Any, item: Any) -> None:
        relation = next((r for r in self.file.by_type("IfcRelAggregates") if r.RelatingObject == above), None)
        if relation is None:
            relation = self.root("IfcRelAggregates", f"Below {above.Name}")
            relation.RelatingObject = above
        relation.RelatedObjects = [*(relation.RelatedObjects or ()), item]

    def _shape(self, items: Sequence[Any], layer: str) -> Any:
        kinds = {item.is_a() for item in items}
        kind = (
            "Brep" if kinds == {"IfcFacetedBrep"}
            else "SurfaceModel" if kinds == {"IfcShellBasedSurfaceModel"}
            else "AdvancedSweptSolid" if "IfcSweptDiskSolid" in kinds
            else "SweptSolid"
        )  # fmt: skip
        shape = self.new("IfcShapeRepresentation", self.body, "Body", kind, list(items))
        if layer:
            self._layers.setdefault(layer, []).append(shape)
        return shape

    def _material(self, name: str) -> tuple[Any, list[Any]]:
        if name not in self._materials:
            self._materials[name] = (self.new("IfcMaterial", name), [])
        return self._materials[name]

    def _facts(self, product: Any, name: str, values: Mapping[str, Any]) -> None:
        """A property set, or a set of quantities where the name begins so."""
        if name.startswith("Qto_"):
            kinds = {"Length": "IfcQuantityLength", "Area": "IfcQuantityArea", "Volume": "IfcQuantityVolume"}
            found = self.root("IfcElementQuantity", name)
            found.Quantities = [
                self.new(next((kind for word, kind in kinds.items() if word in key), "IfcQuantityLength"), key, None, None, float(value))
                for key, value in values.items()
            ]  # fmt: skip
        else:
            found = self.root("IfcPropertySet", name)
            found.HasProperties = [
                self.new("IfcPropertySingleValue", key, None, self._value(value)) for key, value in values.items()
            ]
        relation = self.root("IfcRelDefinesByProperties", f"{name} of {product.Name}")
        relation.RelatedObjects, relation.RelatingPropertyDefinition = [product], found

    def _value(self, value: Any) -> Any:
        kind = "IfcBoolean" if isinstance(value, bool) else "IfcReal" if isinstance(value, float) else "IfcLabel"
        return self.new(kind, value)
