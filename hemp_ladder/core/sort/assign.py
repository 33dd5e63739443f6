"""Giving values a material on the board: what that makes of the rules."""

from collections.abc import Sequence

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.sort.settings import By, Rule, SortSettings


def assigned(
    settings: SortSettings, by: By, values: Sequence[str], material: str, deciding: Sequence[int]
) -> SortSettings:
    """With these values of a kind wearing a material.

    A rule of that kind that gives the material already takes them on, one that speaks of nothing else is changed, and
    others of that kind let go of them; else there is a new one. `deciding` are the numbers of the rules that decide
    about them now: the one that speaks of them then stands before those. Raises SettingsError for no value.
    """
    words = tuple(dict.fromkeys(values))
    if not words:
        raise SettingsError("Nothing was named that could be given a material.")
    mine = set(words)
    rules: list[Rule | None] = list(settings.rules)
    plain = [n for n, rule in enumerate(settings.rules) if rule.by == by and rule.within is None]
    for number in plain:
        rule = settings.rules[number]
        left = tuple(word for word in rule.match if word not in mine)
        if len(left) < len(rule.match) and rule.material != material:
            rules[number] = rule.model_copy(update={"match": left}) if left else None
    first = min((n for n in deciding if 0 <= n < len(rules) and rules[n] is not None), default=len(rules))
    taker = next((n for n in plain if settings.rules[n].material == material and n <= first), None)
    if taker is not None:
        rule = settings.rules[taker]
        rules[taker] = rule.model_copy(update={"match": tuple(dict.fromkeys((*rule.match, *words)))})
    else:
        emptied = next((n for n in plain if rules[n] is None and n <= first), None)
        fresh = Rule(by=by, match=words, material=material)
        if emptied is not None:
            rules[emptied] = fresh
        else:
            rules.insert(first, fresh)
    return settings.model_copy(update={"rules": tuple(rule for rule in rules if rule is not None)})
