"""Colours of the break-up: far apart for common eyes and for others, and each stays when groups come and go."""

import random
import unittest

import numpy as np

from hemp_ladder.core.model.colour import Colour
from hemp_ladder.core.model.difference import ciede2000, lab
from hemp_ladder.core.sort.apart import LOOSE, SEQUENCE, colours_apart

#: Dichromatic vision on linear sRGB: Machado, Oliveira and Fernandes (2009), severity 1 (from memory).
BLIND = {
    "protan": [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]],
    "deutan": [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]],
    "tritan": [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]],
}  # fmt: skip


def seen(colour: str, eyes: str) -> np.ndarray:
    whole = Colour.from_hex(colour)
    if eyes == "common":
        return lab(whole)
    red, green, blue = np.clip(np.array(BLIND[eyes]) @ np.array(whole.linear), 0, 1).tolist()
    return lab(Colour.from_linear(red, green, blue))


def nearest(colours: list[str], eyes: str) -> float:
    points = np.array([seen(colour, eyes) for colour in colours])
    return min(float(ciede2000(points[k + 1 :], points[k][None]).min()) for k in range(len(points) - 1))


class Apart(unittest.TestCase):
    def test_the_first_are_farthest_for_all_eyes(self) -> None:
        for count, common, blind in ((8, 20, 12), (16, 15, 9), (32, 10, 6), (64, 7, 4)):
            some = [*SEQUENCE[:count], LOOSE]
            self.assertGreater(nearest(some, "common"), common, count)
            for eyes in BLIND:
                self.assertGreater(nearest(some, eyes), blind, f"{count} {eyes}")

    def test_no_two_in_use_share_one(self) -> None:
        for count in (1, 7, 30, 90, 400):
            told = colours_apart([f"m{k}" for k in range(count)])
            self.assertEqual(len(set(told.values())), count + 1)
            self.assertEqual(told["undecided"], LOOSE)

    def test_colours_stay_when_groups_come_and_go(self) -> None:
        dice = random.Random(3)
        kept = total = 0
        for _ in range(50):
            names = [f"material {dice.randrange(10**6)}" for _ in range(20)]
            before, more = colours_apart(names), colours_apart([*names, "new"])
            kept += sum(before[name] == more[name] for name in names)
            total += len(names)
            self.assertEqual(before, colours_apart(reversed(names)), "the order does not matter")
        self.assertGreater(kept / total, 0.9)
