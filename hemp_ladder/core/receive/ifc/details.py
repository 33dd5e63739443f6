"""Property sets and quantities, in blocks that can be read one at a time."""

import gzip
import json
from collections import defaultdict
from collections.abc import Callable, Sequence
from typing import Any

from hemp_ladder.core.model import DETAILS_BLOCK


def write_details(file: Any, products: Sequence[Any], type_of: dict[int, Any], out: Callable[[bytes], None]) -> None:
    """Hand over a block for every `DETAILS_BLOCK` products: [[[set, [[name, value]]]]] as compressed JSON."""
    sets: dict[int, list[int]] = defaultdict(list)
    for relation in file.by_type("IfcRelDefinesByProperties"):
        definition = relation.RelatingPropertyDefinition
        for single in definition if isinstance(definition, tuple) else (definition,):
            if single is not None:
                for item in relation.RelatedObjects or ():
                    sets[item.id()].append(single.id())
    known: dict[int, list[Any]] = {}

    def of(item: Any) -> list[Any]:
        head = [["Global id", item.GlobalId], ["Entity", f"#{item.id()}={item.is_a()}"]]
        for name in ("Description", "ObjectType", "LongName", "Tag", "PredefinedType"):
            value = getattr(item, name, None)
            if value:
                head.append([name, str(value)])
        type_ = type_of.get(item.id())
        wanted = list(sets[item.id()])
        if type_ is not None:
            head.append(["Type", type_.Name or type_.is_a()])
            wanted += [definition.id() for definition in type_.HasPropertySets or ()]
        for number in wanted:
            if number not in known:
                known[number] = _set(file.by_id(number))
        return [["Identity", head], *(known[number] for number in wanted if known[number][1])]

    for start in range(0, len(products), DETAILS_BLOCK):
        block = [of(item) for item in products[start : start + DETAILS_BLOCK]]
        out(gzip.compress(json.dumps(block, ensure_ascii=True, separators=(",", ":")).encode(), 3, mtime=0))


def _set(definition: Any) -> list[Any]:
    rows: list[list[Any]] = []
    for item in getattr(definition, "HasProperties", None) or getattr(definition, "Quantities", None) or ():
        rows.append([item.Name, _value(item)])
    return [definition.Name or definition.is_a(), rows]


def _value(item: Any) -> Any:
    if item.is_a("IfcPropertySingleValue"):
        return _plain(item.NominalValue)
    if item.is_a("IfcPhysicalSimpleQuantity"):
        return _plain(item[3])
    for name in ("EnumerationValues", "ListValues"):
        values = getattr(item, name, None)
        if values:
            return ", ".join(str(_plain(value)) for value in values)
    if item.is_a("IfcPropertyBoundedValue"):
        return f"{_plain(item.LowerBoundValue)} to {_plain(item.UpperBoundValue)}"
    return None


def _plain(value: Any) -> Any:
    value = getattr(value, "wrappedValue", value)
    if isinstance(value, float) and value != value:
        return None
    return value if isinstance(value, str | int | float | bool) else None if value is None else str(value)
