"""Shells that are parts of their own, and parts that are one: what enters, told anew before anything is made."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from hemp_ladder.core.choose.take import Taken
from hemp_ladder.core.fit import moved_box
from hemp_ladder.core.keys import content_key
from hemp_ladder.core.mend.settings import JoinedParts, MendSettings, ShellApart
from hemp_ladder.core.model.bodies import Assembled
from hemp_ladder.core.model.columns import Names
from hemp_ladder.core.model.join import Joined
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Colour, Limb, Node, Part, Shells
from hemp_ladder.core.model.references import shell_ref

#: Metres, X, Y and Z up.
Move = tuple[float, float, float]


def regrouped(taken: Taken, settings: MendSettings) -> Taken:
    """What entered, with the shells and joined parts of the settings as parts of their own."""
    if settings.apart:
        taken = _with_shells(taken, settings.apart)
    for number, entry in enumerate(settings.joined):
        taken = _with_joined(taken, entry, number)
    return taken


def _with_shells(taken: Taken, apart: Sequence[ShellApart]) -> Taken:
    """Each shell a part that stands wherever what it was taken from stands; that keeps the rest."""
    model = taken.model
    wanted: dict[str, list[ShellApart]] = {}
    for entry in apart:
        wanted.setdefault(entry.part, []).append(entry)
    added = Added(taken)
    labels = {part.label for part in model.parts}
    for index, part in enumerate(model.parts):
        entries = wanted.get(part.ref)
        if entries is None or not part.body.has_surface:
            continue
        added.parts[index] = replace(part, shells=Shells(index, tuple(entry.at for entry in entries), True))
        rows = np.flatnonzero(model.columns.part[taken.rows] == index)
        for number, entry in enumerate(entries, 1):
            name = entry.name or f"{part.name or part.label} shell {number}"
            shell = replace(
                part, label=unique_label(name, labels), name=name, stable=shell_ref(part.ref, entry.at),
                shells=Shells(index, (entry.at,), False),
            )  # fmt: skip
            added.part(shell, index)
            for row in taken.rows[rows]:
                added.like(int(row), name, entry.move)
    return added.done()


def _with_joined(taken: Taken, entry: JoinedParts, number: int) -> Taken:
    """The parts as one that stands once, with the frame of the first's first place; those of another source than the
    first's are left as they are."""
    model = taken.model
    by_ref = {part.ref: index for index, part in enumerate(model.parts)}
    indices = [by_ref[ref] for ref in entry.parts if ref in by_ref]
    owners = {int(model.member_of_part[index]) for index in indices[:1]}
    indices = [index for index in indices if int(model.member_of_part[index]) in owners]
    entering = np.isin(model.columns.part[taken.rows], indices)
    rows = taken.rows[entering]
    if len(rows) < 2:
        return taken
    order = {index: place for place, index in enumerate(indices)}
    rows = rows[np.argsort([order[int(model.columns.part[row])] for row in rows], kind="stable")]
    frame = model.standing[model.columns.node[rows[0]]]
    if abs(np.linalg.det(frame[:3, :3])) < 1e-12:
        frame = np.eye(4)
    back = np.linalg.inv(frame)
    limbs, boxes = [], []
    colours: dict[int, Colour] = {}
    styles: dict[int, str] = {}
    faces = 0
    for row in rows:
        index = int(model.columns.part[row])
        part = model.parts[index]
        matrix = back @ model.standing[model.columns.node[row]]
        limbs.append(Limb(index, tuple(matrix.reshape(-1).tolist())))
        boxes.append(moved_box(part.box, matrix))
        count = part.body.face_count
        worn = model.columns.colours[model.columns.colour[row]]
        for face in range(count):
            colour, style = part.face_colours.get(face, worn), part.face_styles.get(face, part.style)
            if colour is not None:
                colours[faces + face] = colour
            if style is not None:
                styles[faces + face] = style
        faces += count
    box = np.array([np.min(boxes, axis=0)[0], np.max(boxes, axis=0)[1]])
    first = model.parts[limbs[0].part]
    told = "+".join(f"{model.parts[limb.part].key}{limb.matrix}" for limb in limbs)
    labels = {part.label for part in model.parts}
    made = Part(
        label=unique_label(entry.name, labels), name=entry.name, key=content_key(told.encode()),
        body=Assembled(box, faces=faces), layer=first.layer, face_colours=colours, face_styles=styles,
        limbs=tuple(limbs), stable=f"{entry.name} / joined {number + 1}",
    )  # fmt: skip
    added = Added(replace(taken, rows=taken.rows[~entering]))
    added.part(made, limbs[0].part)
    source = int(model.member_of_part[limbs[0].part])
    parent = model.members[source].nodes.start if len(model.members) > 1 else -1
    added.alone(int(rows[0]), entry.name, parent, frame, entry.move)
    return added.done()


class Added:
    """A model that grows by parts and nodes behind those it has."""

    def __init__(self, taken: Taken) -> None:
        self._taken, self._model = taken, taken.model
        self.parts = list(taken.model.parts)
        self._owners: list[int] = []
        self._nodes: list[Node] = []
        self._local: list[NDArray[np.float64]] = []
        self._standing: list[NDArray[np.float64]] = []
        self._rows: list[tuple[int, int]] = []  # the row that it is like, its part

    def part(self, part: Part, like: int) -> None:
        """One part more, of the source of another."""
        self.parts.append(part)
        self._owners.append(int(self._model.member_of_part[like]))

    def like(self, row: int, name: str, move: Move) -> None:
        """The last part once more, beside a row and at its place or so far from it: what has a shape has nothing below
        it."""
        node = int(self._model.columns.node[row])
        parent, standing = self._model.nodes[node].parent, self._model.standing[node]
        if not any(move):
            self._node(row, name, parent, self._model.local[node], standing)
        else:
            above = self._model.standing[parent] if parent >= 0 else np.eye(4)
            moved = self._moved(node, move) @ standing
            self._node(row, name, parent, np.linalg.solve(above, moved), moved)

    def instead(self, row: int, name: str, part: int, matrix: NDArray[np.float64]) -> None:
        """Another part of the model in the place of a row's: at its place, after a matrix in the coordinates of both."""
        node = int(self._model.columns.node[row])
        self._node(
            row, name, self._model.nodes[node].parent, self._model.local[node] @ matrix,
            self._model.standing[node] @ matrix, part,
        )  # fmt: skip

    def alone(self, row: int, name: str, parent: int, matrix: NDArray[np.float64], move: Move) -> None:
        """The last part where a matrix of its source puts it, or so far from there, under a node, with the layer, colour
        and tags of a row."""
        above = self._model.standing[parent] if parent >= 0 else np.eye(4)
        moved = self._moved(int(self._model.columns.node[row]), move) @ matrix
        self._node(row, name, parent, np.linalg.solve(above, moved), moved)

    def _moved(self, node: int, move: Move) -> NDArray[np.float64]:
        """A move in metres, Z up, as one in the coordinates of a node's source."""
        source = self._taken.fitted.sources[int(self._model.member_of_node[node])]
        shift = np.eye(4)
        shift[:3, 3] = np.linalg.solve(source.matrix[:3, :3], np.array(move))
        return shift

    def _node(
        self, row: int, name: str, parent: int, local: NDArray[np.float64], standing: NDArray[np.float64],
        part: int | None = None,
    ) -> None:  # fmt: skip
        old = self._model.nodes[int(self._model.columns.node[row])]
        part = len(self.parts) - 1 if part is None else part
        self._nodes.append(Node(name, parent, part, old.layer, old.colour, old.tags))
        self._local.append(local)
        self._standing.append(standing)
        self._rows.append((row, part))

    def done(self) -> Taken:
        model, columns = self._model, self._model.columns
        owners = np.append(model.member_of_part, np.array(self._owners, np.int32))
        if not self._nodes:
            # Of parts that nothing of enters, too.
            known: Joined = replace(model, parts=self.parts, member_of_part=owners)
            return replace(self._taken, fitted=replace(self._taken.fitted, model=known))
        like = np.array([row for row, _ in self._rows])
        count, first = len(self._rows), len(model.nodes)
        nodes = np.arange(first, first + count, dtype=np.int32)
        names = [*columns.names, *(node.name for node in self._nodes)]
        grown = replace(
            columns,
            node=np.append(columns.node, nodes),
            part=np.append(columns.part, np.array([part for _, part in self._rows], np.int32)),
            layer=np.append(columns.layer, columns.layer[like]),
            colour=np.append(columns.colour, columns.colour[like]),
            tags=np.append(columns.tags, columns.tags[like]),
            name=np.append(columns.name, len(columns.names) + np.arange(count, dtype=np.int32)),
            names=names, last=np.append(columns.last, nodes), named=Names(names),
        )  # fmt: skip
        members = model.member_of_node[columns.node[like]]
        changed: Joined = replace(
            model, parts=self.parts, nodes=[*model.nodes, *self._nodes], columns=grown,
            local=np.concatenate([model.local, self._local]),
            member_of_node=np.append(model.member_of_node, members),
            member_of_part=owners,
        )  # fmt: skip
        changed.__dict__["standing"] = np.concatenate([model.standing, self._standing])
        rows = np.append(self._taken.rows, len(columns.node) + np.arange(count))
        return replace(self._taken, fitted=replace(self._taken.fitted, model=changed), rows=rows)
