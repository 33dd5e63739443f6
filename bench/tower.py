"""A large building written as text, for building one through the library's interface is slow: 50 MB of IFC4.

Invented, and the same each time: storeys of a pier tower, full of columns,
windows, rails and lamps of sixty types.
"""

import math
from collections.abc import Iterator
from pathlib import Path

STOREYS, EACH, TYPES = 40, 2_750, 60
_KINDS = ("IFCCOLUMN", "IFCWINDOW", "IFCMEMBER", "IFCFURNISHINGELEMENT", "IFCBUILDINGELEMENTPROXY")
_LETTERS = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz_$"


def write_tower(path: Path, storeys: int = STOREYS, each: int = EACH) -> Path:
    """Write the tower unless it is there."""
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        with path.open("w") as out:
            out.write(
                "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\n"
                "FILE_NAME('tower.ifc','2026-11-01T08:00:00',(''),(''),'','bench','');\nFILE_SCHEMA(('IFC4'));\nENDSEC;\nDATA;\n"
            )
            for number, text in enumerate(_lines(storeys, each), 1):
                out.write(f"#{number}={text};\n")
            out.write("ENDSEC;\nEND-ISO-10303-21;\n")
    return path


def _lines(storeys: int, each: int) -> Iterator[str]:
    """Entities in order; what they refer to is counted along."""
    at = 0

    def put(text: str) -> tuple[str, int]:
        nonlocal at
        at += 1
        return text, at

    def guid() -> str:
        value, out = at * 7919 + 12345, ""
        for _ in range(21):
            out += _LETTERS[value % 64]
            value = value // 64 + at
        return "0" + out

    made: list[str] = []

    def add(text: str) -> int:
        line, number = put(text)
        made.append(line)
        return number

    origin = add("IFCCARTESIANPOINT((0.,0.,0.))")
    axes = add(f"IFCAXIS2PLACEMENT3D(#{origin},$,$)")
    up = add("IFCDIRECTION((0.,0.,1.))")
    world = add(f"IFCGEOMETRICREPRESENTATIONCONTEXT($,'Model',3,1.E-5,#{axes},$)")
    metre = add("IFCSIUNIT(*,.LENGTHUNIT.,$,.METRE.)")
    units = add(f"IFCUNITASSIGNMENT((#{metre}))")
    project = add(f"IFCPROJECT('{guid()}',$,'Pier tower',$,$,$,$,(#{world}),#{units})")
    root = add(f"IFCLOCALPLACEMENT($,#{axes})")
    building = add(f"IFCBUILDING('{guid()}',$,'Pier tower',$,$,#{root},$,$,.ELEMENT.,$,$,$)")
    add(f"IFCRELAGGREGATES('{guid()}',$,$,$,#{project},(#{building}))")
    one = add(f"IFCCARTESIANTRANSFORMATIONOPERATOR3D($,$,#{origin},1.,$)")
    maps = []
    for number in range(TYPES):
        corners = 5 + number % 7
        radius, height = 0.2 + 0.01 * number, 0.5 + 0.04 * number
        ring = [
            add(f"IFCCARTESIANPOINT(({radius * math.cos(2 * math.pi * k / corners):.6f},{radius * math.sin(2 * math.pi * k / corners):.6f}))")
            for k in range(corners)
        ]  # fmt: skip
        line = add(f"IFCPOLYLINE(({','.join(f'#{k}' for k in [*ring, ring[0]])}))")
        profile = (
            add(f"IFCARBITRARYCLOSEDPROFILEDEF(.AREA.,$,#{line})")
            if number % 3
            else add(f"IFCCIRCLEPROFILEDEF(.AREA.,$,$,{radius:.4f})")
        )
        solid = add(f"IFCEXTRUDEDAREASOLID(#{profile},#{axes},#{up},{height:.4f})")
        shape = add(f"IFCSHAPEREPRESENTATION(#{world},'Body','SweptSolid',(#{solid}))")
        maps.append(add(f"IFCREPRESENTATIONMAP(#{axes},#{shape})"))
    yield from made
    made.clear()
    below = []
    for level in range(storeys):
        spot = add(f"IFCCARTESIANPOINT((0.,0.,{level * 5.0}))")
        place = add(f"IFCAXIS2PLACEMENT3D(#{spot},$,$)")
        storey_place = add(f"IFCLOCALPLACEMENT(#{root},#{place})")
        storey = add(f"IFCBUILDINGSTOREY('{guid()}',$,'Level {level}',$,$,#{storey_place},$,$,.ELEMENT.,{level * 5.0})")
        below.append(storey)
        members = []
        for number in range(each):
            which = (number * 7 + level) % TYPES
            spot = add(f"IFCCARTESIANPOINT(({number % 50 * 1.5:.3f},{number // 50 * 1.5:.3f},0.))")
            place = add(f"IFCAXIS2PLACEMENT3D(#{spot},$,$)")
            local = add(f"IFCLOCALPLACEMENT(#{storey_place},#{place})")
            item = add(f"IFCMAPPEDITEM(#{maps[which]},#{one})")
            shape = add(f"IFCSHAPEREPRESENTATION(#{world},'Body','MappedRepresentation',(#{item}))")
            whole = add(f"IFCPRODUCTDEFINITIONSHAPE($,$,(#{shape}))")
            kind = _KINDS[which % len(_KINDS)]
            rest = {"IFCWINDOW": ",$,$,$,$,$", "IFCFURNISHINGELEMENT": ""}.get(kind, ",$")
            members.append(
                add(f"{kind}('{guid()}',$,'Piece {which} of level {level}',$,$,#{local},#{whole},$" + rest + ")")
            )
            if number % 4 == 0:
                value = add(f"IFCPROPERTYSINGLEVALUE('Reference',$,IFCLABEL('P-{level}-{number}'),$)")
                facts = add(f"IFCPROPERTYSET('{guid()}',$,'Pset_Pier',$,(#{value}))")
                add(f"IFCRELDEFINESBYPROPERTIES('{guid()}',$,$,$,(#{members[-1]}),#{facts})")
        add(f"IFCRELCONTAINEDINSPATIALSTRUCTURE('{guid()}',$,$,$,({','.join(f'#{m}' for m in members)}),#{storey})")
        yield from made
        made.clear()
    add(f"IFCRELAGGREGATES('{guid()}',$,$,$,#{building},({','.join(f'#{s}' for s in below)}))")
    yield from made
