"""Marks of parts, made once when somebody points at them: asked for by the web process, made by a worker's child."""

from dataclasses import dataclass

from sqlalchemy.orm import Session

from hemp_ladder.core.climb import Plan
from hemp_ladder.core.errors import LadderError
from hemp_ladder.core.fit.marks import MARKS_VERSION, Marks, MarksBuilder
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.bodies import Exact, Meshed
from hemp_ladder.store import blobs, meshes
from hemp_ladder.store.database import session, tell
from hemp_ladder.store.recent import recent
from hemp_ladder.work.children import ChildDied
from hemp_ladder.work.meshing.standing import standing_crew
from hemp_ladder.work.once import Asked
from hemp_ladder.work.queue import app, defer

#: Before meshing and reading, which fill the stage anyway.
_SOON = 10
#: Seconds of processor that a part's marks may take.
_SECONDS = 120.0
_asked = Asked(20.0)


@dataclass(frozen=True)
class MarkedBody:
    """What marks are of: a body as it came, or a mesh, by its key."""

    key: str
    is_mesh: bool

    @property
    def blob(self) -> str:
        return f"marks/{self.key}-{MARKS_VERSION}"


def body_of(now: Plan, part: int) -> MarkedBody | None:
    """Of a part by index: its exact shape or its own triangles, else the mesh that is made of it."""
    item, chain = now.model.parts[part], now.chains[part]
    if item.cut is None and item.shells is None and isinstance(item.body, Exact | Meshed) and item.body.has_surface:
        return MarkedBody(item.key, False)
    return MarkedBody(chain.key, True) if chain is not None else None


def marks_there(body: MarkedBody) -> Marks | None:
    """Its marks, where they are made."""
    return _kept(body.blob) if blobs.exists(body.blob) else None


@recent(64, lambda name: False)
def _kept(name: str) -> Marks:
    return Marks.from_bytes(blobs.get(name))


def want_marks(s: Session, job_id: int, body: MarkedBody) -> None:
    """Have them made soon. Who waits for them asks again and again: only after a while is it asked of the queue again,
    and never are the same made twice at once."""
    if _asked.is_new(body.blob):
        defer(s, "marks", priority=_SOON, lock=body.blob, job_id=job_id, key=body.key, is_mesh=body.is_mesh)


@app.task(name="marks")
def make_marks(job_id: int, key: str, is_mesh: bool) -> None:
    """Make the marks of a body and put them away. A part that brings its child down has none, and is not tried again."""
    body = MarkedBody(key, is_mesh)
    if blobs.exists(body.blob):
        return
    try:
        given = _mesh(key) if is_mesh else blobs.get(f"shapes/{key}")
    except KeyError:
        return
    try:
        with standing_crew() as crew:
            found: Marks = crew.run("marks", given, seconds=lambda body: _SECONDS)
    except LadderError as error:
        if isinstance(error, ChildDied) and error.killed:
            # It says nothing of the part: who waits for it asks again.
            return
        found = MarksBuilder().build()
    blobs.put(body.blob, found.to_bytes())
    with session() as s:
        tell(s, job_id)


def _mesh(key: str) -> Mesh:
    with session() as s:
        pack = meshes.packs_of(s, [key])
    return meshes.load(pack)[key]
