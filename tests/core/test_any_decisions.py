"""Whatever is accepted as decisions can be planned, told of, compared and done again: documents made at random from the
schema that clients are given, over two sources with cuts, shells, copies and mirrored places."""

import random
import unittest
from collections.abc import Iterator
from fractions import Fraction
from typing import Any

import numpy as np
from pydantic import ValidationError

from hemp_ladder.core.again import done_again, run_of
from hemp_ladder.core.changes import changes
from hemp_ladder.core.climb import Made, climb, plan
from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.errors import LadderError
from hemp_ladder.core.locks import refuse_locked
from hemp_ladder.core.mesh.mesh import Mesh
from hemp_ladder.core.model.bodies import Exact
from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.join import Given, Joined, join
from hemp_ladder.core.model.model import Model, Node, Part, Tags
from hemp_ladder.core.model.references import name_parts
from hemp_ladder.core.refit import standing_after
from hemp_ladder.core.ship.arrange import build_scene
from hemp_ladder.core.sort import board

#: Documents that are tried, and how often a section is made anew until it is a valid one.
DOCUMENTS, TRIES = 70, 12
#: How far numbers go that have no bound nearer.
FAR = 1000.0


def site() -> Joined:
    """A quay in metres and a shed in millimetres: parts on two layers, several times each, one place mirrored."""
    box = np.array([[0.0] * 3, [1.0] * 3])
    looks = [Colour.from_hex("#148080"), None]
    tags = [Tags("body", f"IfcThing{k}", f"Level {k}", ("Concrete",)) for k in range(3)]

    def source(parts: int, places: int, unit: str, metres: Fraction) -> Model:
        made = [
            Part(f"Part {k}", f"Part {k}", f"key {k}", Exact(box, faces=6), f"Layer {k % 2}", looks[k % 2])
            for k in range(parts)
        ]
        nodes = [Node("Root", -1), Node("Group 1", 0)]
        nodes += [Node(f"Place {k}", 1, k % parts, tags=tags[k % 3]) for k in range(places)]
        local = np.tile(np.eye(4), (len(nodes), 1, 1))
        local[2:, :3, 3] = np.random.default_rng(1).uniform(-2, 2, (places, 3))
        local[3, 0, 0] = -1
        return name_parts(Model("STEP", "", "", unit, "z", metres, made, nodes, local, box))

    quay, shed = source(4, 9, "m", Fraction(1)), source(3, 4, "mm", Fraction(1, 1000))
    return join([Given("quay", "quay.step", quay), Given("shed", "shed.step", shed)])


class Boxes:
    """A shelf that has a box for every chain."""

    def __init__(self) -> None:
        spots = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], float)
        quads = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
        triangles = np.array([t for a, b, c, d in quads for t in ((a, b, c), (a, c, d))], np.int32)
        normals = ((spots - 0.5) / np.sqrt(0.75)).astype(np.float32)
        self._box = Mesh.of(spots, normals, triangles, np.arange(0, 14, 2))

    def meshes(self, chains: Any) -> Made:
        return Made({chain.key: self._box for chain in chains})


class Anything:
    """Values that a JSON schema allows, or nearly: texts are of what there is, or of nothing."""

    def __init__(self, schema: dict[str, Any], words: list[str], dice: random.Random) -> None:
        self._known, self._words, self._dice = schema["$defs"], words, dice
        self.sections: dict[str, Any] = schema["properties"]

    def of(self, schema: dict[str, Any], depth: int = 0) -> Any:
        dice = self._dice
        if "$ref" in schema:
            return self.of(self._known[schema["$ref"].rpartition("/")[2]], depth)
        if "const" in schema:
            return schema["const"]
        for several in ("enum", "anyOf", "oneOf"):
            if several in schema:
                one = dice.choice(schema[several])
                return one if several == "enum" else self.of(one, depth)
        kind = schema.get("type")
        if kind == "object":
            return self._table(schema, depth)
        if kind == "array":
            if "prefixItems" in schema:
                return [self.of(item, depth + 1) for item in schema["prefixItems"]]
            least = schema.get("minItems", 0)
            count = dice.randint(least, min(schema.get("maxItems", 3), max(least, 3)))
            return [self.of(schema.get("items", {}), depth + 1) for _ in range(count)]
        if kind in ("number", "integer"):
            low = max(schema.get("minimum", schema.get("exclusiveMinimum", -FAR)), -FAR)
            high = min(schema.get("maximum", schema.get("exclusiveMaximum", FAR)), FAR)
            value = min(max(dice.choice([low, high, 0, 1, 0.5, -1, 2, 1e-9, dice.uniform(-10, 10)]), low), high)
            return int(value) if kind == "integer" else value
        if kind == "string":
            pattern = schema.get("pattern", "")
            return ("#12ab34" if "#" in pattern else "a" * 64) if "0-9a-f" in pattern else dice.choice(self._words)
        return {"boolean": dice.random() < 0.5, "null": None}.get(kind or "", 1)

    def _table(self, schema: dict[str, Any], depth: int) -> dict[str, Any]:
        needed = set(schema.get("required", ()))
        made = {
            name: self.of(field, depth + 1)
            for name, field in schema.get("properties", {}).items()
            if name in needed or "const" in field or self._dice.random() < (0.45 if depth < 3 else 0.3)
        }
        if isinstance(more := schema.get("additionalProperties"), dict):
            made |= {self._dice.choice(self._words): self.of(more, depth + 1) for _ in range(self._dice.randint(0, 2))}
        return made


def words_of(model: Joined) -> list[str]:
    """What decisions may speak of there, and what they may not."""
    there = [part.ref for part in model.parts] + model.node_refs[:6] + [piece.ref for piece in model.members]
    return [
        *there, "Layer 1", "Group 1", "Place*", "Part ?", "*", "IfcThing1", "Level 2", "Concrete", "#148080", "clay", "brass",
        "own:1", "~", "x", "Ü", "{layer}_{n}", "",
    ]  # fmt: skip


def documents(model: Joined) -> Iterator[tuple[int, Decisions]]:
    """Valid ones, each with the seed that gives it again."""
    schema = Decisions.model_json_schema()
    for seed in range(DOCUMENTS):
        anything = Anything(schema, words_of(model), random.Random(seed))
        found: dict[str, Any] = {}
        for name, section in anything.sections.items():
            for _ in range(TRIES):
                made = anything.of(section)
                if name == "sort":
                    made.pop("shared", None)  # worked out, never typed
                try:
                    Decisions.model_validate({name: made})
                except (ValidationError, LadderError):
                    continue
                found[name] = made
                break
        try:
            yield seed, Decisions.model_validate(found)
        except (ValidationError, LadderError):
            continue


class Accepted(unittest.TestCase):
    def test_what_is_accepted_can_be_worked_with(self) -> None:
        model, before, refused = site(), Decisions(), 0
        for seed, decided in documents(model):
            with self.subTest(seed):
                told = changes(before.model_dump(mode="json"), decided.model_dump(mode="json"))
                self.assertEqual(bool(told), decided != before)
                for what in (self.told, self.done, self.shipped):
                    try:
                        what(model, before, decided)
                    except LadderError as error:
                        self.assertTrue(error.message.endswith((".", "”")), error.message)
                        refused += 1
                before = decided
        self.assertLess(refused, DOCUMENTS, "most can be done again and shipped")

    def told(self, model: Joined, _: Decisions, decided: Decisions) -> None:
        planned = plan(model, decided)
        triangles = [12] * len(planned.model.parts)
        self.assertEqual(
            len(board.rules_told(planned.taken, planned.sorted, decided.sort, triangles)), len(decided.sort.rules)
        )
        for by in board.kinds_of(planned.taken):
            board.values_of(planned.taken, planned.sorted, by, triangles)
        for node in planned.sorted.placements[:4].tolist():
            board.reasons(planned.taken, planned.sorted, decided.sort, node)

    def done(self, model: Joined, before: Decisions, decided: Decisions) -> None:
        run = run_of(before, decided)
        sources = [piece.ref for piece in model.members]
        done_again(before, run, None, model.parts, sources)
        done_again(Decisions(), run, [model.parts[0].ref], model.parts, sources)
        refuse_locked(before, decided)

    def shipped(self, model: Joined, _: Decisions, decided: Decisions) -> None:
        result = climb(model, decided, Boxes())
        standing_after(result, decided)
        scene = build_scene(result, decided.ship.target)
        for surface in scene.surfaces:
            self.assertTrue(np.isfinite(surface.positions).all())


if __name__ == "__main__":
    unittest.main()
