"""What materials wear by slot, how large it lies, and where pictures that nobody wears might fit."""

import unittest
from dataclasses import replace

import numpy as np

from hemp_ladder.core.choose.settings import ReceiveSettings
from hemp_ladder.core.choose.take import climb_take
from hemp_ladder.core.fit import FitSettings, climb_fit
from hemp_ladder.core.model.bodies import Meshed
from hemp_ladder.core.model.finish import Finish, Map
from hemp_ladder.core.model.model import Model, Node, Part
from hemp_ladder.core.model.texture import Texture
from hemp_ladder.core.sort import Rule, SortSettings, climb_sort
from hemp_ladder.core.sort.maps import Orphan, Row, orphans_of, rows_of
from tests.core.sort.test_rules import model


def picture(sha256: str, name: str, width: int = 64, height: int = 64, bluish: bool = False) -> Texture:
    return Texture(sha256, name, width, height, None, bluish=bluish)


PICTURES = [
    picture("w", "wood_color.png"), picture("n", "wood_normal.png", bluish=True), picture("g", "wood_gloss.png", 64, 32),
    picture("s", "stone.png"), picture("b", "odd.png", bluish=True),
]  # fmt: skip


def quay(looks: dict[str, Finish], **more: object) -> Model:
    """A plank in two materials standing twice, and a stone, from a file with pictures; millimetres."""
    box = np.array([[0.0] * 3, [1000.0] * 3])
    plank = Part("Plank", "Plank", "p", Meshed(box, 2, 8, ((500.0, 4.0), (0.0, 0.0))), style="Wood")
    plank.face_styles = {1: "Paint"}
    stone = Part("Stone", "Stone", "q", Meshed(box, 1, 8, ((250.0, 2.0),)), style="Stone")
    subject = model([plank, stone], [Node("", -1, 0), Node("", -1, 0), Node("", -1, 1)])
    return replace(subject, looks=looks, textures=list(PICTURES), **more)  # type: ignore[arg-type]


def told(subject: Model, settings: SortSettings | None = None) -> tuple[dict[str, Row], list[Orphan]]:
    chosen = settings or SortSettings()
    fitted = climb_fit(subject, FitSettings())
    rows = rows_of(fitted, climb_sort(climb_take(fitted, ReceiveSettings()), chosen), chosen)
    return {row.material.name: row for row in rows}, orphans_of(rows, fitted.model, chosen)


def wearing(**maps: Map) -> Finish:
    finish = Finish()
    for slot, worn in maps.items():
        finish = finish.wearing(slot.replace("_", " "), worn)  # type: ignore[arg-type]
    return finish


class Rows(unittest.TestCase):
    def test_who_wears_what_how_often_and_how_large(self) -> None:
        rows, _ = told(
            quay({"Wood": wearing(base_colour=Map("w", scale=(2, 2))), "Paint": Finish(), "Stone": Finish()})
        )
        self.assertEqual({name: row.placements for name, row in rows.items()}, {"Wood": 2, "Paint": 2, "Stone": 1})
        wood = rows["Wood"]
        # Half a metre a picture, which lies twice on it each way: 64 pixels to a quarter of a metre.
        self.assertEqual((wood.tile, wood.repeats), (0.5, 4))
        self.assertEqual(wood.pixels_per_metre({texture.sha256: texture for texture in PICTURES}), 256)
        self.assertEqual((rows["Paint"].tile, rows["Paint"].pixels_per_metre({})), (0, 0))
        self.assertEqual((rows["Stone"].tile, rows["Stone"].repeats, rows["Paint"].repeats), (0.25, 2, 0))
        rows, _ = told(quay({"Wood": Finish(), "Paint": Finish(), "Stone": wearing(base_colour=Map("s"))}))
        self.assertEqual(next(iter(rows)), "Stone", "those with something to say come first")

    def test_states_of_slots(self) -> None:
        looks = {"Wood": wearing(base_colour=Map("w"), normal=Map("gone")), "Paint": Finish(), "Stone": Finish()}
        rows, _ = told(quay(
            looks, guesses={"Wood": {"roughness": Map("g", inverted=True)}}, lacking={"Stone": {"base colour": "rock.png"}},
        ))  # fmt: skip
        wood = {item.slot: item for item in rows["Wood"].slots}
        states = {slot: item.state for slot, item in wood.items() if item.state != "empty"}
        self.assertEqual(states, {"base colour": "worn", "normal": "missing", "roughness": "guessed"})
        stone = {item.slot: item for item in rows["Stone"].slots}
        self.assertEqual((stone["base colour"].state, stone["base colour"].missing), ("missing", "rock.png"))

    def test_what_a_picture_says_against_its_slot(self) -> None:
        for slot, worn, remarks in (
            ("base_colour", Map("w"), ()), ("base_colour", Map("n"), ("the colours of a normal map",)),
            ("normal", Map("n"), ()), ("normal", Map("w"), ("not the colours of a normal map",)),
            ("roughness", Map("g", inverted=True), ("not square",)), ("roughness", Map("g"), ("not square", "a gloss map by its name")),
            ("emission", Map("b"), ("the colours of a normal map",)),
        ):  # fmt: skip
            rows, _ = told(quay({"Wood": wearing(**{slot: worn}), "Paint": Finish(), "Stone": Finish()}))
            (found,) = [item for item in rows["Wood"].slots if item.state == "worn"]
            self.assertEqual(found.remarks, remarks, slot)


class Orphans(unittest.TestCase):
    def test_pictures_that_nobody_wears_and_where_they_fit(self) -> None:
        looks = {"Wood": wearing(base_colour=Map("w")), "Paint": Finish(), "Stone": Finish()}
        _, orphans = told(quay(looks, lacking={"Paint": {"base colour": "paint.png"}}))
        fits = {orphan.texture.name: [(id_, slot) for id_, slot, _ in orphan.fits] for orphan in orphans}
        self.assertEqual(set(fits), {"wood_normal.png", "wood_gloss.png", "stone.png", "odd.png"})
        # By the words of its name it is the wood's; turned over, for it is of gloss.
        self.assertEqual(fits["wood_normal.png"], [("look:Wood", "normal")])
        (gloss,) = next(orphan.fits for orphan in orphans if orphan.texture.name == "wood_gloss.png")
        self.assertEqual((gloss[1], gloss[2].inverted), ("roughness", True))
        self.assertEqual(fits["stone.png"], [("look:Stone", "base colour")])
        # No word is shared, and the colours are of a normal map: where something is missing comes first.
        self.assertEqual([id_ for id_, _ in fits["odd.png"]], ["look:Paint", "look:Wood", "look:Stone"])
        self.assertEqual({slot for _, slot in fits["odd.png"]}, {"normal"})
        self.assertFalse(any(worn.inverted for orphan in orphans for _, slot, worn in orphan.fits if slot == "normal"))

    def test_what_is_worn_by_decision_or_guessed_is_spoken_of(self) -> None:
        looks = {"Wood": wearing(base_colour=Map("w")), "Paint": Finish(), "Stone": Finish()}
        _, orphans = told(quay(looks, guesses={"Wood": {"normal": Map("n")}}))
        self.assertNotIn("n", {orphan.texture.sha256 for orphan in orphans})
        # A material that nobody wears any more speaks of nothing.
        rules = SortSettings(rules=(Rule(by="name", match="*", material="brass"),))
        _, orphans = told(quay(looks), rules)
        self.assertIn("w", {orphan.texture.sha256 for orphan in orphans})


if __name__ == "__main__":
    unittest.main()
