"""`python -m bench.views`: how long the bench's views of a job of 100,000 placements take after one decision each.

Planned, looked up and told in this process, on a database of its own: what
the web process does between a decision and its answer, but for HTTP. The
model is loaded before, as it is while somebody works on the job.
"""

import os
import tempfile
import time
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from hemp_ladder.core.findings import Offer, finding
from hemp_ladder.core.keys import content_key
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.model import Colour, Model, Node, Part, Tags
from hemp_ladder.core.model.references import name_parts
from tests.support import throwaway_cluster

PARTS, PLACES, GROUPS = 5_000, 100_000, 2_000
ALLOWED = 0.3


def site(parts: int = PARTS, places: int = PLACES, groups: int = GROUPS) -> Model:
    """An invented site: parts on sixty layers in forty colours, placed in groups, with a finding about a thousand."""
    box = np.array([[0.0] * 3, [1.0] * 3])
    colours = [Colour.from_hex(f"#{k * 37 % 200 + 20:02x}8080") for k in range(40)]
    made = [
        Part(
            f"Part {k}",
            f"Part {k}",
            content_key(str(k).encode()),
            Exact(box, faces=6),
            f"Layer {k % 60}",
            colours[k % 40],
        )
        for k in range(parts)
    ]
    tags = [Tags("body", f"IfcThing{k % 9}", f"Level {k % 20}", ("Concrete",)) for k in range(180)]
    nodes = [Node("Root", -1)]
    each = places // groups
    for group in range(groups):
        above = len(nodes)
        nodes.append(Node(f"Group {group}", 0))
        for number in range(group * each, (group + 1) * each):
            nodes.append(Node(f"Place {number}", above, number % parts, tags=tags[number % 180]))
    local = np.tile(np.eye(4), (len(nodes), 1, 1))
    local[:, :3, 3] = np.random.default_rng(1).uniform(-50, 50, (len(nodes), 3))
    whole = np.array([[-50.0] * 3, [50.0] * 3])
    model = name_parts(Model("STEP", "", "", "m", "z", Fraction(1), made, nodes, local, whole))
    offers = [Offer("Give them plain clay", "material", {"material": "clay"})]
    model.findings = [finding("no-material", "1,000 parts", "1,000 parts.", parts=range(1000), offers=offers)]
    return model


def decisions(refs: list[str]) -> Iterator[tuple[str, dict[str, Any]]]:
    """One decision each, by what it is."""
    yield "as it came", {}
    yield "1,000 rules by part", {"sort": {"rules": [_rule(ref) for ref in refs[:1000]]}}
    yield "5,000 rules by part", {"sort": {"rules": [_rule(ref) for ref in refs]}}
    yield "1,000 parts left out", {"receive": {"choices": [{"by": "part", "match": ref} for ref in refs[:1000]]}}
    yield (
        "1,000 groups left out",
        {"receive": {"choices": [{"by": "group", "match": f"Group {k}"} for k in range(1000)]}},
    )
    yield "5,000 parts of their own angle", {"facet": {"parts": {ref: {"degrees": 5} for ref in refs}}}
    yield "1,000 parts flipped", {"mend": {"flipped": refs[:1000]}}
    yield "one of each copy", {"receive": {"without_copies": True}}
    yield "a rule by name", {"sort": {"rules": [{"by": "name", "match": "Part 1*", "material": "clay"}]}}
    yield "200 rules of every kind", {"sort": {"rules": list(_mixed())}}
    yield "names by a template", {"sort": {"names": [{"to": "{layer}_{n}", "digits": 6}]}}
    yield "a tree by storey and material", {"sort": {"order": {"by": ["storey", "material"]}}}
    yield (
        "a group by a pattern",
        {
            "sort": {
                "order": {
                    "groups": [{"id": "own:1", "name": "Moves"}],
                    "gathered": [{"whom": {"by": "name", "match": ["Place 7*"]}, "into": "own:1"}],
                }
            }
        },
    )
    yield "a polygon", {"receive": {"region": {"polygon": [[-20, -20], [20, -20], [20, 20], [-20, 20]], "cut": True}}}


def _rule(ref: str) -> dict[str, str]:
    return {"by": "part", "match": ref, "material": "clay"}


def _mixed() -> Iterator[dict[str, Any]]:
    words = ("Layer {}", "IfcThing{}", "Level {}", "Place {}*", "#{:02x}8080")
    kinds = (("layer", 60), ("class", 9), ("storey", 20), ("name", 200), ("colour", 40))
    for number in range(200):
        (by, count), word = kinds[number % 5], words[number % 5]
        match = word.format(number % count if by != "colour" else number % 40 * 37 % 200 + 20)
        within = {"storey": f"Level {number % 20}"} if number % 4 == 0 else None
        yield {"by": by, "match": match, "material": "clay" if number % 2 else "brass", "within": within}


def main() -> None:
    """Print a line for each decision: planning it, the view of the job, and what it comes to."""
    with throwaway_cluster() as server, tempfile.TemporaryDirectory() as folder:
        os.environ["HEMP_LADDER_DATABASE"] = server
        os.environ["HEMP_LADDER_STORE"] = (Path(folder) / "blobs").as_uri()
        _measure()


def _measure() -> None:
    from hemp_ladder.api import overview, result
    from hemp_ladder.core.decisions import Decisions
    from hemp_ladder.core.memory import collect_seldom
    from hemp_ladder.core.mesh.figures import Figures
    from hemp_ladder.store import blobs, model_blob
    from hemp_ladder.store.database import migrate, session
    from hemp_ladder.store.tables import FindingRow, Job, MeshRow
    from hemp_ladder.work import actions, plans, sources

    collect_seldom()
    migrate()
    model = site()
    blobs.put("models/site", model_blob.encode(model))
    with session() as s:
        job = actions.create_job(s, "Site", [{"name": "site.step", "sha256": "0" * 64, "bytes": 1}])
        number = job.id
        s.flush()
        (item,) = sources.sources_of(s, number)
        item.newest.state, item.newest.model_key = "ready", "site"
        for found in model.findings:
            values = found.as_dict()
            del values["source"]
            s.add(FindingRow(revision_id=item.newest.id, **values))
    refs = [part.ref for part in model.parts]
    with session() as s:
        overview.job_view(s, number)
    for name, document in decisions(refs):
        wanted = Decisions.model_validate(document)
        with session() as s:
            models = sources.models_of(sources.sources_of(s, number))
            keys = plans.planned(models, wanted).wanted().keys()
            told = Figures(12, 24, ((0, 0, 0), (1, 1, 1)), 0).as_dict()
            there = set(s.scalars(MeshRow.__table__.select().with_only_columns(MeshRow.key)))
            s.add_all(MeshRow(key=key, pack="x", told=told) for key in keys - there)
        plans.forget(models, wanted)
        with session() as s:
            began = time.perf_counter()
            actions.decide(s, number, wanted, name)
            s.flush()
            decided = time.perf_counter()
            overview.job_view(s, s.get_one(Job, number).id)
            viewed = time.perf_counter()
            result.result(s, number)
            worked = time.perf_counter()
        whole = viewed - began
        print(
            f"{'ok  ' if whole <= ALLOWED else 'OVER'} {name}: decided and viewed in {whole:.2f} s (at most {ALLOWED}), "
            f"of it {decided - began:.2f} deciding; what it comes to in {worked - viewed:.2f} s",
            flush=True,
        )


if __name__ == "__main__":
    main()
