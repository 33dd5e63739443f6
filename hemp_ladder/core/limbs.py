"""Parts joined into one: the first step that makes each and puts them together."""

from collections.abc import Mapping, Sequence
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from hemp_ladder.core.chain.steps import Chain, First, Job
from hemp_ladder.core.mesh.mesh import Mesh, Runs
from hemp_ladder.core.mesh.triangles import lengths
from hemp_ladder.core.model.model import Part
from hemp_ladder.core.settings import Settings


class Member(Settings):
    """One part with the steps that make it, and where it stands."""

    chain: dict[str, Any] = Field(description="its chain, as JSON keeps it")
    bodies: tuple[str, ...] = Field(description="keys of the bodies that it begins with")
    matrix: tuple[float, ...] = Field(min_length=16, max_length=16, description="4 x 4 by rows, source coordinates")


class Assemble(First):
    """Make every member as it would be alone, and put them together."""

    version: ClassVar[int] = 1
    faulty: ClassVar[bool] = True
    does: Literal["assemble"] = "assemble"
    members: tuple[Member, ...]

    @property
    def others(self) -> tuple[str, ...]:
        keys = [key for member in self.members for key in member.bodies]
        return tuple(keys[1:])

    @property
    def fineness(self) -> tuple[float, float] | None:
        found = [told for member in self.members if (told := _chain(member).first.fineness) is not None]
        return max(found) if found else None

    @classmethod
    def make(cls, jobs: Sequence[Job["Assemble"]]) -> list[Mesh]:
        return [_assembled(job) for job in jobs]

    def seconds(self, faces: int) -> float:
        return sum(_chain(member).seconds() for member in self.members)


def with_assembled(parts: Sequence[Part], chains: Sequence[Chain | None]) -> list[Chain | None]:
    """The chains of parts, with those of what is joined from the chains of its members."""
    return [_of_members(part, chains) if part.limbs else chain for part, chain in zip(parts, chains, strict=True)]


def _of_members(part: Part, chains: Sequence[Chain | None]) -> Chain | None:
    members = tuple(
        Member(chain=chain.as_dict(), bodies=chain.bodies, matrix=limb.matrix)
        for limb in part.limbs
        if (chain := chains[limb.part]) is not None
    )
    if len(members) != len(part.limbs):
        return None
    return Chain(members[0].bodies[0], part.body.face_count, Assemble(members=members))


def _chain(member: Member) -> Chain:
    from hemp_ladder.core.operations import chain_from_dict

    return chain_from_dict(member.chain)


def _assembled(job: Job[Assemble]) -> Mesh:
    from hemp_ladder.core.chain.making import Order, make

    members = job.step.members
    orders, at = [], 0
    for member in members:
        count = len(member.bodies)
        orders.append(Order(_chain(member), job.bodies[at : at + count]))
        at += count
    made = [found[order.chain.key] for found, order in zip(make(orders), orders, strict=True)]
    return assembled(made, [np.array(member.matrix).reshape(4, 4) for member in members])


def _together(told: Sequence[Mapping[str, float]]) -> dict[str, float]:
    """What was measured of several as of one: the largest of each, all samples; only what is known of every one."""
    known = set.intersection(*(set(item) for item in told)) - {"mean"}
    return {name: (sum if name == "samples" else max)(item[name] for item in told) for name in sorted(known)}


def assembled(meshes: Sequence[Mesh], matrices: Sequence[Any]) -> Mesh:
    """Meshes as one, each where a matrix (4, 4) puts it; faces in a row. What some have on their vertices and others
    lack is white for colours and nought for the rest."""
    names = list(dict.fromkeys(name for mesh in meshes for name in mesh.attributes))
    wide = {name: next(m.attributes[name].shape[1] for m in meshes if name in m.attributes) for name in names}
    positions, triangles, labels = [], [], []
    attributes: dict[str, list[Any]] = {name: [] for name in names}
    vertex = face = 0
    for mesh, matrix in zip(meshes, matrices, strict=True):
        turn = matrix[:3, :3]
        mirrored = np.linalg.det(turn) < 0
        positions.append(mesh.positions @ turn.T + matrix[:3, 3])
        triangles.append((mesh.triangles[:, ::-1] if mirrored else mesh.triangles) + vertex)
        labels.append(mesh.faces.labels + face)
        for name in names:
            values = mesh.attributes.get(name)
            if values is None:
                values = np.full((len(mesh.positions), wide[name]), 1.0 if name == "colour" else 0.0, np.float32)
            elif name == "normal":
                placed = values.astype(np.float64) @ np.linalg.pinv(turn)
                values = (placed / np.maximum(lengths(placed), 1e-300)[:, None]).astype(np.float32)
            attributes[name].append(values)
        vertex += len(mesh.positions)
        face += mesh.faces.count
    first = meshes[0].figures
    return Mesh(
        np.concatenate(positions),
        np.concatenate(triangles).astype(np.int32),
        {name: np.concatenate(values) for name, values in attributes.items()},
        {"face": Runs.labelled(np.concatenate(labels), face)},
        type(first)(
            off_by=max(mesh.figures.off_by for mesh in meshes),
            faceted=_together([mesh.figures.faceted for mesh in meshes]),
            failed=tuple(number for mesh in meshes for number in mesh.figures.failed),
            healed=any(mesh.figures.healed for mesh in meshes),
        ),
    )
