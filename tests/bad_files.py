"""Files that are bad in every way that their formats allow."""

import random
import re
from collections.abc import Callable
from pathlib import Path

from tests.support import AS1, DAVIT, HOUSE, PUBLIC

#: A small good file of each format to spoil.
GOOD = {
    "ifc": HOUSE,
    "igs": DAVIT,
    "brep": PUBLIC / "cax-if-brep" / "as1_pe_203.brep",
    "step": AS1,
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
        "a list of 200,000": _swap(text, r"IFCPOLYLINE\(\((#\d+),", lambda m: f"IFCPOLYLINE(({(m[1] + ',') * 200_000}", 1),
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


_WAYS: dict[str, Callable[[str], dict[str, str]]] = {"ifc": _ifc, "igs": _igs, "brep": _brep, "step": _step}
