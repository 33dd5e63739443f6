"""Studies of parts for Mend and Trim, made once when somebody looks at them: asked for by the web process, made by a child."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy.orm import Session

from hemp_ladder.core.chain.making import Order
from hemp_ladder.core.chain.steps import Chain
from hemp_ladder.core.choose.cut import Cut
from hemp_ladder.core.climb import Plan
from hemp_ladder.core.errors import LadderError
from hemp_ladder.core.operations import chain_from_dict
from hemp_ladder.store import blobs, meshes
from hemp_ladder.store.database import session, tell
from hemp_ladder.work.children import ChildDied
from hemp_ladder.work.meshing.standing import standing_crew
from hemp_ladder.work.once import Asked
from hemp_ladder.work.queue import app, defer
from hemp_ladder.work.trimming import untrimmed

#: What is studied: `whole`, flaws and shells of what a part came to; `curve`, what welding it would leave; `facets-N`, how
#: an exact part looks at N triangles.
What = str
#: Raise when a study says something else of the same mesh.
STUDY_VERSION = 2
_SOON = 10
_SECONDS = 300.0
_asked = Asked(30.0)


@dataclass(frozen=True)
class Subject:
    """The mesh that is studied, by its chain."""

    chain: Chain
    what: What

    @property
    def blob(self) -> str:
        return f"marks/{self.chain.key}-{self.what}{STUDY_VERSION}"


def subject_of(now: Plan, part: int, what: What) -> Subject | None:
    """Of a part by index; for the curve before anything is welded, for facets before anything is trimmed. None where it has
    no surface, or is not what can be studied so."""
    chain = now.chains[part]
    if chain is None:
        return None
    if what.startswith("facets-"):
        return Subject(untrimmed(chain), what) if chain.first.fineness is not None else None
    if what == "curve":
        cut = tuple(step for step in chain.operations if isinstance(step, Cut))
        chain = replace(chain, first=chain.first.bare(), operations=cut)
    return Subject(chain, what)


def study_there(subject: Subject) -> bytes | None:
    """What is known of it, as JSON; nothing in it where it cannot be studied."""
    return blobs.get(subject.blob) if blobs.exists(subject.blob) else None


def want_study(s: Session, job_id: int, subject: Subject) -> None:
    """Have it studied soon; who waits asks again and again, and only after a while is it asked of the queue again."""
    if _asked.is_new(subject.blob):
        chain = subject.chain.as_dict()
        defer(s, "study", priority=_SOON, lock=subject.blob, job_id=job_id, chain=chain, what=subject.what)


@app.task(name="study")
def make_study(job_id: int, chain: Mapping[str, Any], what: What) -> None:
    """Study a mesh and put away what is found. One that brings its child down is not tried again."""
    subject = Subject(chain_from_dict(chain), what)
    if blobs.exists(subject.blob):
        return
    try:
        order = _whole(subject.chain) if what.startswith("facets-") else _order(subject.chain)
    except KeyError:
        return
    try:
        with standing_crew() as crew:
            found: bytes = crew.run("study", order, what, seconds=lambda *_: _SECONDS)
    except LadderError as error:
        if isinstance(error, ChildDied) and error.killed:
            return
        found = b"{}"
    blobs.put(subject.blob, found)
    with session() as s:
        tell(s, job_id)


def _order(chain: Chain) -> Order:
    """The chain from what of it is in the store."""
    with session() as s:
        packs = meshes.packs_of(s, chain.keys)
    for done in range(len(chain.operations), -1, -1):
        key = chain.keys[done]
        if key in packs:
            return Order(chain, start=meshes.load({key: packs[key]})[key], done=done + 1)
    return _whole(chain)


def _whole(chain: Chain) -> Order:
    """The chain from its bodies."""
    return Order(chain, [blobs.get(f"shapes/{key}") for key in chain.bodies])
