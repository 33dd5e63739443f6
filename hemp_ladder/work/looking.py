"""What is found by looking through the meshes of a whole job: looked for once by a worker when somebody asks."""

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from hemp_ladder.core.climb import Plan
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.store import blobs, meshes
from hemp_ladder.work.once import Asked
from hemp_ladder.work.queue import defer

_SOON = 10
_asked = Asked(30.0)


@dataclass(frozen=True)
class Search:
    """What is looked for, in the parts of a job that are made, by index the key of each one's mesh; `told`, what else it
    depends on."""

    what: str
    keys: Mapping[int, str]
    told: str

    @property
    def blob(self) -> str:
        said = json.dumps([sorted(self.keys.items()), self.told])
        return f"marks/{hashlib.sha256(said.encode()).hexdigest()}-{self.what}"

    def there(self) -> Any:
        """What was found, as JSON; None while nobody looked."""
        return json.loads(blobs.get(self.blob)) if blobs.exists(self.blob) else None

    def want(self, s: Session, **values: Any) -> None:
        """Have it looked for soon, by the task that is called so."""
        if _asked.is_new(self.blob):
            defer(s, self.what, priority=_SOON, lock=self.blob, **values)

    def keep(self, found: Any) -> None:
        blobs.put(self.blob, json.dumps(found).encode())


def made_parts(s: Session, now: Plan) -> dict[int, str]:
    """The parts that entered and are made, by index the key of each one's mesh."""
    there = meshes.packs_of(s, now.wanted().keys())
    return {
        part: chain.key
        for part in sorted(now.taken.parts) if (chain := now.chains[part]) is not None and chain.key in there
    }  # fmt: skip


def load_parts(s: Session, search: Search) -> dict[int, Mesh]:
    """The meshes of those that have any triangles, by part."""
    by_key = meshes.load(meshes.packs_of(s, search.keys.values()))
    return {part: by_key[key] for part, key in search.keys.items() if key in by_key and len(by_key[key].triangles)}
