"""Mirrored placements, which the kernel's reader takes for plain turns.

A placement can be given by a cartesian transformation operator (ISO
10303-42, 4.4.20 in the 2003 edition), whose three axes may be left-handed.
The reader (8.0) builds it from the first and third axis and drops the second,
so a mirror image comes out unmirrored. Files that use the operator are rare
and name it plainly; only they are looked through here, as text.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

_MARK = b"CARTESIAN_TRANSFORMATION_OPERATOR_3D"
_ENTITY = re.compile(rb"#(\d+)\s*=\s*(.*?);\s*(?=#\d+\s*=|ENDSEC)", re.DOTALL)
_NUMBERS = re.compile(r"[-+]?\d+\.?\d*(?:[eE][-+]?\d+)?")


@dataclass(frozen=True)
class Mirror:
    """A left-handed placement: the occurrence's name and its turn, (3, 3), columns x, y, z."""

    name: str
    turn: NDArray[np.float64]


def find_mirrors(path: Path) -> list[Mirror]:
    """The left-handed placements of occurrences in a STEP file."""
    if not _contains(path):
        return []
    found = dict(_ENTITY.findall(path.read_bytes()))
    entities = {int(number): body.decode("latin-1") for number, body in found.items()}
    turns: dict[int, NDArray[np.float64]] = {}
    for number, body in entities.items():
        if body.startswith(_MARK.decode()):
            turn = _turn(body, entities)
            if turn is not None and abs(np.linalg.det(turn) + 1) < 1e-6:
                turns[number] = turn
    return list(_occurrences(turns, entities)) if turns else []


def mirrored(matrix: NDArray[np.float64], name: str, mirrors: Sequence[Mirror]) -> NDArray[np.float64]:
    """The placement as the file means it: mirrored where its occurrence is and the reader's turn agrees
    in the axes it kept."""
    for mirror in mirrors:
        same = np.allclose(matrix[:3, [0, 2]], mirror.turn[:, [0, 2]], atol=1e-9)
        if mirror.name == name and same and np.linalg.det(matrix[:3, :3]) > 0:
            out = matrix.copy()
            out[:3, :3] = mirror.turn
            return out
    return matrix


def _contains(path: Path) -> bool:
    tail = b""
    with path.open("rb") as file:
        while chunk := file.read(1 << 22):
            if _MARK in tail + chunk:
                return True
            tail = chunk[-len(_MARK) :]
    return False


def _turn(body: str, entities: dict[int, str]) -> NDArray[np.float64] | None:
    """The three axes, from `(names..., axis1, axis2, origin, scale, axis3)`; None where one is left out."""
    words = re.findall(r"#\d+|\$|'(?:[^']|'')*'|[-+]?\d[\d.eE+-]*", body[body.index("(") + 1 :])
    if len(words) < 5:
        return None
    axes = []
    for word in (words[-5], words[-4], words[-1]):
        if not word.startswith("#"):
            return None
        direction = _NUMBERS.findall(entities.get(int(word[1:]), "").partition("(")[2].partition(",")[2])
        if len(direction) != 3:
            return None
        axis = np.array([float(part) for part in direction])
        length = np.linalg.norm(axis)
        if length == 0:
            return None
        axes.append(axis / length)
    return np.stack(axes, axis=1)


def _occurrences(turns: dict[int, NDArray[np.float64]], entities: dict[int, str]):  # type: ignore[no-untyped-def]
    """From operator to relationship, to the shape of an occurrence, to the occurrence's name."""
    relations: dict[int, NDArray[np.float64]] = {}
    for number, body in entities.items():
        match = re.search(r"REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION\s*\(\s*#(\d+)", body)
        if match and int(match[1]) in turns:
            relations[number] = turns[int(match[1])]
    for body in entities.values():
        match = re.match(r"CONTEXT_DEPENDENT_SHAPE_REPRESENTATION\s*\(\s*#(\d+)\s*,\s*#(\d+)", body)
        if not match or int(match[1]) not in relations:
            continue
        shape = re.search(r"#(\d+)\s*\)\s*$", entities.get(int(match[2]), ""))
        usage = entities.get(int(shape[1]), "") if shape else ""
        words = re.findall(r"'((?:[^']|'')*)'", usage)
        if usage.startswith("NEXT_ASSEMBLY_USAGE_OCCURRENCE") and len(words) > 1:
            yield Mirror(words[1].replace("''", "'"), relations[int(match[1])])
