"""Files that are bad in every way that their formats allow."""

import random
import re
from collections.abc import Callable
from pathlib import Path

from tests.support import AS1, DAVIT, HOUSE, PUBLIC, ROOT

#: A small good file of each format to spoil.
GOOD = {
    "ifc": HOUSE,
    "igs": DAVIT,
    "brep": PUBLIC / "cax-if-brep" / "as1_pe_203.brep",
    "step": AS1,
    "dxf": ROOT / "demo" / "site-drawing.dxf",
    "svg": ROOT / "demo" / "harbour-sign.svg",
}


def spoiled(folder: Path) -> dict[str, Path]:
    """One file for each way of being bad, by format and way."""
    paths: dict[str, Path] = {}
    for suffix, good in GOOD.items():
        text = good.read_bytes()
        for way, data in {**_any_way(text), **_WAYS[suffix](text.decode("latin-1"))}.items():
            name = f"{suffix} {way}"
            paths[name] = folder / f"{name.replace(' ', '-')}.{'png' if way == 'wrong suffix' else suffix}"
            paths[name].write_bytes(data if isinstance(data, bytes) else data.encode("latin-1"))
    return paths


def _any_way(data: bytes) -> dict[str, bytes]:
    """What can befall any file."""
    dice = random.Random(5)
    flipped = bytearray(data)
    for _ in range(200):
        flipped[dice.randrange(len(flipped) // 4, len(flipped))] = dice.randrange(32, 127)
    return {
        "empty": b"",
        "zeros": b"\0" * 5000,
        "truncated": data[: len(data) // 2],
        "truncated early": data[:700],
        "flipped bytes": bytes(flipped),
        "wrong suffix": data,
        "utf-16": data.decode("latin-1").encode("utf-16"),
        "byte order mark": b"\xef\xbb\xbf" + data,
    }


def _swap(text: str, pattern: str, put: str | Callable[[re.Match[str]], str], count: int = 0) -> str:
    changed, found = re.subn(pattern, put, text, count=count)
    assert found, pattern
    return changed


def _ifc(text: str) -> dict[str, str]:
    wall = re.search(r"#(\d+)=IFCWALL\('[^']*',[^,]*,'[^']*',[^,]*,[^,]*,#(\d+),", text)
    assert wall
    mapped = re.search(r"#(\d+)=IFCREPRESENTATIONMAP\(#\d+,#(\d+)\)", text)
    assert mapped
    item = re.search(r"#(\d+)=IFCMAPPEDITEM\(", text)
    assert item
    return {
        "placement in a circle": _swap(text, rf"#{wall[2]}=IFCLOCALPLACEMENT\(#\d+,", f"#{wall[2]}=IFCLOCALPLACEMENT(#{wall[2]},"),
        "map in a circle": _swap(text, rf"(#{mapped[2]}=IFCSHAPEREPRESENTATION\([^(]*)\([^)]*\)", rf"\1(#{item[1]})"),
        "tree in a circle": _swap(text, r"(IFCRELAGGREGATES\('[^']*',[^,]*,[^,]*,[^,]*,#(\d+),)\([^)]*\)", r"\1(#\2)"),
        "coordinates of 1e300": _swap(text, r"IFCCARTESIANPOINT\(\(0\.,0\.,", "IFCCARTESIANPOINT((1.E300,0.,"),
        "coordinates past infinity": _swap(text, r"IFCCARTESIANPOINT\(\(0\.,0\.\)", "IFCCARTESIANPOINT((1.E999,0.)"),
        "coordinates that are no numbers": _swap(text, r"IFCCARTESIANPOINT\(\(0\.,0\.\)", "IFCCARTESIANPOINT((NAN,0.)"),
        "depth of zero": _swap(text, r"(IFCEXTRUDEDAREASOLID\([^)]*,)[\d.]+\)", r"\g<1>0.)"),
        "radius of 1e300": _swap(text, r"(IFCCIRCLEHOLLOWPROFILEDEF\([^)]*,)[\d.]+,[\d.]+\)", r"\g<1>1.E300,1.)"),
        "scale of zero": _swap(text, r"(IFCCARTESIANTRANSFORMATIONOPERATOR3D\([^)]*,)1\.,", r"\g<1>0.,"),
        "no project": _swap(text, r"#\d+=IFCPROJECT\([^;]*;", ""),
        "dangling numbers": _swap(text, r"#(\d)(\d\d\d)(?=[,)])", r"#9\1\2"),
        "unknown schema": text.replace("'IFC4'", "'IFC17'"),
        "a list of 100,000": _swap(text, r"IFCPOLYLINE\(\((#\d+),", lambda m: f"IFCPOLYLINE(({(m[1] + ',') * 100_000}", 1),
        "lists in lists": text.replace("ENDSEC;\nEND-ISO", f"#99999=IFCPROPERTYSET({'(' * 200_000}{')' * 200_000});\nENDSEC;\nEND-ISO"),
    }  # fmt: skip


def _igs(text: str) -> dict[str, str]:
    lines = text.splitlines()

    def directory(kind: str, field: int, value: str) -> str:
        """The text with one field of the first directory line of each entity of a type replaced."""
        out = list(lines)
        for number, line in enumerate(lines[:-1]):
            if (
                line[72:73] == "D"
                and line[:8].strip() == kind
                and lines[number + 1][:8].strip() == kind
                and int(line[73:]) % 2
            ):
                own = line[73:].strip()
                out[number] = line[: field * 8] + value.replace("SELF", own).rjust(8) + line[field * 8 + 8 :]
        return "\n".join(out) + "\n"

    def parameters(pattern: str, put: str) -> str:
        """The text with the parameter section changed, every line kept at its 64 columns."""
        return "\n".join(
            re.sub(pattern, put, line[:64])[:64].ljust(64) + line[64:] if line[72:73] == "P" else line for line in lines
        )

    return {
        "matrix in a circle": directory("124", 6, "SELF"),
        "group in a circle": directory("402", 6, "SELF"),
        "parameters out of range": directory("144", 1, "9999999"),
        "level of a million": directory("144", 4, "1000000"),
        "coordinates of 1e300": parameters(r"^110,[^,]*,", "110,1E300,"),
        "coordinates that are no numbers": parameters(r"^110,[^,]*,", "110,NAN,"),
        "a spline of a billion poles": parameters(r"^126,\d+,", "126,1000000000,"),
        "a group of a billion": parameters(r"^402,\d+,", "402,1000000000,"),
        "matrix of zeros": parameters(r"^124,.*", "124,0.,0.,0.,0.,0.,0.,0.,0.,0.,0.,0.,0.;"),
        "no global section": "\n".join(line for line in lines if line[72:73] != "G"),
        "no directory": "\n".join(line for line in lines if line[72:73] != "D"),
        "scale of zero": text.replace(",1.,1,4HINCH", ",0.,1,4HINCH"),
        "unknown unit": text.replace(",1.,1,4HINCH", ",1.,3,4HCUBI"),
    }


def _brep(text: str) -> dict[str, str]:
    return {
        "a billion curves": _swap(text, r"Curves \d+", "Curves 2000000000"),
        "a billion shapes": _swap(text, r"TShapes \d+", "TShapes 2000000000"),
        "minus one surface": _swap(text, r"Surfaces \d+", "Surfaces -1"),
        "coordinates of 1e300": _swap(text, r"\n1 [-\d.e]+ ", "\n1 1e300 "),
        "coordinates that are no numbers": _swap(text, r"\n1 [-\d.e]+ ", "\n1 nan "),
        "scale of zero": _swap(text, r"(Locations \d+\s+1\s+)(?:[-\d.e+]+\s+){12}", r"\g<1>0 0 0 0 0 0 0 0 0 0 0 0\n"),
        "unknown version": _swap(text, r"CASCADE Topology V\d", "CASCADE Topology V9"),
        "references out of range": _swap(text, r"\n\+\d+ \d+", "\n+999999 0"),
    }  # fmt: skip


def _step(text: str) -> dict[str, str]:
    return {
        "coordinates of 1e300": _swap(text, r"CARTESIAN_POINT\s*\(\s*'[^']*',\s*\([^,]*,", "CARTESIAN_POINT('',(1.E300,"),
        "coordinates that are no numbers": _swap(text, r"CARTESIAN_POINT\s*\(\s*'[^']*',\s*\([^,]*,", "CARTESIAN_POINT('',(NAN,"),
        "tree in a circle": _swap(text, r"(NEXT_ASSEMBLY_USAGE_OCCURRENCE\s*\((?:\s*'[^']*',){3}\s*)(#\d+)\s*,\s*#\d+", r"\1\2,\2"),
        "references in a circle": _swap(text, r"#(\d+)(\s*=\s*ADVANCED_FACE\s*\('[^']*',\s*\()[^)]*\)", r"#\1\2#\1)"),
    }  # fmt: skip


def _dxf(text: str) -> dict[str, str]:
    entities = text.index("ENTITIES")
    head, tail = text[:entities], text[entities:]
    circle = "  0\nCIRCLE\n  8\nQuay\n 10\n{}\n 20\n0.0\n 30\n0.0\n 40\n{}\n 39\n5.0\n"
    insert = (
        "  0\nINSERT\n100\nAcDbEntity\n  8\n0\n100\nAcDbBlockReference\n  2\nMooring\n 10\n0.0\n 20\n0.0\n 30\n0.0\n"
    )

    def also(more: str) -> str:
        return head + tail.replace("ENTITIES\n", f"ENTITIES\n{more}", 1)

    points = "".join(f" 10\n{k % 997}.5\n 20\n{k % 991}.25\n" for k in range(100_000))
    polyline = "  0\nLWPOLYLINE\n100\nAcDbEntity\n  8\nQuay\n100\nAcDbPolyline\n 90\n{}\n 70\n1\n"
    spline = "  0\nSPLINE\n100\nAcDbEntity\n  8\nQuay\n100\nAcDbSpline\n 70\n8\n 71\n{}\n 72\n{}\n 73\n{}\n 74\n0\n"
    return {
        "coordinates of 1e300": also(circle.format("1e300", "5.0")),
        "coordinates past infinity": also(circle.format("1e999", "5.0")),
        "coordinates that are no numbers": also(circle.format("nan", "5.0")),
        "words for numbers": also(circle.format("five", "5.0")),
        "radius of 1e300": also(circle.format("0.0", "1e300")),
        "radius of zero": also(circle.format("0.0", "0.0")),
        "scale of zero": also(insert + " 41\n0.0\n 42\n0.0\n 43\n0.0\n"),
        "scale of 1e300": also(insert + " 41\n1e300\n"),
        "an array of a billion": also(insert + " 70\n32000\n 71\n32000\n 44\n1.0\n 45\n1.0\n"),
        "block in a circle": _swap(text, r"(AcDbBlockReference\s+2\s+)Bollard", r"\1Mooring"),
        "a polyline of 100,000": also(polyline.format(100_000) + points),
        "a polyline that counts a billion": also(polyline.format(1_000_000_000) + " 10\n0.0\n 20\n0.0\n"),
        "a spline of a billion poles": also(spline.format(3, 1_000_000_000, 1_000_000_000) + " 10\n0.0\n 20\n0.0\n 30\n0.0\n"),
        "a spline of degree 10,000": also(spline.format(10_000, 4, 2) + " 40\n0.0\n" * 4 + " 10\n0.0\n 20\n0.0\n 30\n0.0\n" * 2),
        "no end of section": text.replace("ENDSEC", "ENDS"),
        "a version of tomorrow": text.replace("AC1024", "AC9999"),
    }  # fmt: skip


def _svg(text: str) -> dict[str, str]:
    def also(more: str) -> str:
        return text.replace("</svg>", f"{more}</svg>")

    entities = "".join(f'<!ENTITY e{k} "{f"&e{k + 1};" * 10}">' for k in range(9)) + '<!ENTITY e9 "aaaaaaaaaa">'
    uses = "".join(f"<g id='u{k}'>" + f"<use href='#u{k + 1}'/>" * 10 + "</g>" for k in range(9))
    many = "M0 0" + "".join(f"L{k % 997} {k % 991}" for k in range(300_000))
    fewer = "M0 0" + "".join(f"L{k % 997} {k % 991}" for k in range(100_000))
    root = text.index("<svg")
    return {
        "entities that grow": text[:root] + f"<!DOCTYPE svg [{entities}]>" + also("<desc>&e0;</desc>")[root:],
        "an entity from a file": text[:root] + '<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>' + also("<desc>&x;</desc>")[root:],
        "a use in a circle": also("<g id='a'><use href='#b'/></g><g id='b'><use href='#a'/></g>"),
        "uses that grow": also(f"<defs>{uses}<rect id='u9' width='9' height='9'/></defs><use href='#u0'/>"),
        "a clip in a circle": also("<clipPath id='k' clip-path='url(#k)'><rect width='9' height='9'/></clipPath><rect clip-path='url(#k)' width='5' height='5'/>"),
        "clips of clips in a circle": also("<clipPath id='k' clip-path='url(#l)'><rect width='9' height='9'/></clipPath><clipPath id='l' clip-path='url(#k)'><rect width='9' height='9'/></clipPath><rect clip-path='url(#k)' width='5' height='5'/>"),
        "a marker on 100,000 points": also(f"<marker id='m'><path d='M0 0h1' marker-mid='url(#m)'/></marker><path d='{fewer}' marker-mid='url(#m)' marker-end='url(#m)'/>"),
        "markers on markers that grow": also("<marker id='m'>" + "<rect width='1' height='1'/>" * 50 + "</marker>" + f"<path d='M0 0{'h1v1' * 900}' marker-mid='url(#m)'/>" * 50),
        "a path told to be endless": also("<path stroke='red' pathLength='1e-300' stroke-dasharray='1' d='M0 0H400'/><path stroke='red' pathLength='1e300' stroke-dasharray='1' d='M0 0H400'/>"),
        "nested a million deep": also("<g>" * 1_000_000 + "</g>" * 1_000_000),
        "a path of 300,000 points": also(f"<path d='{many}z'/>"),
        "a line of 100,000 points": also(f"<path fill='none' stroke='red' d='{fewer}'/>"),
        "coordinates of 1e300": also("<rect width='1e300' height='1e300'/>"),
        "coordinates past infinity": also("<path d='M0 0L1e999 5V9z'/>"),
        "coordinates that are no numbers": also("<circle r='NaN' cx='Infinity'/><path d='MNaN 0L5 5V9z'/>"),
        "scale of zero": also("<g transform='scale(0)'><rect width='9' height='9'/></g>"),
        "scale of 1e300": also("<g transform='scale(1e300)'><rect width='9' height='9'/></g>"),
        "a page of no size": text.replace('viewBox="0 0 420 260"', 'viewBox="0 0 0 0"').replace('"420mm"', '"0"'),
        "a page of 1e300": text.replace('viewBox="0 0 420 260"', 'viewBox="0 0 1e300 1e300"'),
        "dashes of nothing": also("<path stroke='red' stroke-dasharray='1e-9' d='M0 0H400'/>"),
        "a pen of 1e300": also("<path stroke='red' stroke-width='1e300' d='M0 0H400'/>"),
        "no XML": text.replace("</g>", "", 1),
    }  # fmt: skip


_WAYS: dict[str, Callable[[str], dict[str, str]]] = {
    "ifc": _ifc,
    "igs": _igs,
    "brep": _brep,
    "step": _step,
    "dxf": _dxf,
    "svg": _svg,
}
