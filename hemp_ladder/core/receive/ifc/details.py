"""Property sets and quantities, in blocks that can be read one at a time."""

import gzip
import json
from collections import defaultdict
from collections.abc import Callable, Sequence
from typing import Any

from ifcopenshell.util.unit import get_project_unit, get_unit_symbol

from hemp_ladder.core.model.model import DETAILS_BLOCK
from hemp_ladder.core.receive.ifc.ask import Asker

#: What an entity says of itself beside its property sets.
_SHOWN = ("Description", "ObjectType", "LongName", "Tag", "PredefinedType")


def write_details(
    file: Any, products: Sequence[Any], type_of: dict[int, Any], ask: Asker, out: Callable[[int, bytes], None]
) -> None:
    """Hand over a numbered block for every `DETAILS_BLOCK` products: [[[set, [[name, value]]]]] as compressed JSON."""
    sets: dict[int, list[int]] = defaultdict(list)
    for relation in file.by_type("IfcRelDefinesByProperties"):
        definition = ask(relation, "RelatingPropertyDefinition")
        for single in definition if isinstance(definition, tuple) else (definition,):
            if single is not None:
                for item in ask(relation, "RelatedObjects") or ():
                    sets[item.id()].append(single.id())
    known: dict[int, list[Any]] = {}
    symbols = _symbols(file)
    places: dict[str, list[tuple[str, int]]] = {}

    def of(item: Any) -> list[Any]:
        kind, number = item.is_a(), item.id()
        head = [["Global id", ask(item, "GlobalId", kind)], ["Entity", f"#{number}={kind}"]]
        if kind not in places:
            places[kind] = ask.places(kind, _SHOWN)
        for name, place in places[kind]:
            value = item.get_argument(place)
            if value:
                head.append([name, str(value)])
        type_ = type_of.get(number)
        wanted = sets.get(number, [])
        if type_ is not None:
            head.append(["Type", type_.Name or type_.is_a()])
            wanted = [*wanted, *(definition.id() for definition in type_.HasPropertySets or ())]
        for number in wanted:
            if number not in known:
                known[number] = _set(file.by_id(number), symbols, ask)
        return [["Identity", head], *(known[number] for number in wanted if known[number][1])]

    for number, start in enumerate(range(0, len(products), DETAILS_BLOCK)):
        block = [of(item) for item in products[start : start + DETAILS_BLOCK]]
        out(number, gzip.compress(json.dumps(block, ensure_ascii=True, separators=(",", ":")).encode(), 3, mtime=0))


#: Which of a project's units a quantity or a measure is in, by the schema's names.
_UNIT_OF = {
    **dict.fromkeys(("IfcQuantityLength", "IfcLengthMeasure", "IfcPositiveLengthMeasure"), "LENGTHUNIT"),
    **dict.fromkeys(("IfcQuantityArea", "IfcAreaMeasure"), "AREAUNIT"),
    **dict.fromkeys(("IfcQuantityVolume", "IfcVolumeMeasure"), "VOLUMEUNIT"),
    **dict.fromkeys(("IfcQuantityWeight", "IfcMassMeasure"), "MASSUNIT"),
    **dict.fromkeys(("IfcQuantityTime", "IfcTimeMeasure"), "TIMEUNIT"),
    **dict.fromkeys(("IfcPlaneAngleMeasure", "IfcPositivePlaneAngleMeasure"), "PLANEANGLEUNIT"),
    "IfcThermalTransmittanceMeasure": "THERMALTRANSMITTANCEUNIT",
}


_RAISED = str.maketrans("23", "²³")


def _symbols(file: Any) -> dict[str, str]:
    """The symbol of each unit that the project declares, as the format library writes it but for raised digits."""
    found = {}
    for name in set(_UNIT_OF.values()):
        try:
            unit = get_project_unit(file, name)
            found[name] = get_unit_symbol(unit).translate(_RAISED) if unit is not None else ""
        except (AttributeError, LookupError, RuntimeError, TypeError, ValueError):
            continue  # of a file without a project, or with units in error, the library raises any of these
    return found


def _set(definition: Any, symbols: dict[str, str], ask: Asker) -> list[Any]:
    rows: list[list[Any]] = []
    for item in ask(definition, "HasProperties") or ask(definition, "Quantities") or ():
        rows.append([ask(item, "Name"), _value(item, symbols, ask)])
    return [ask(definition, "Name") or definition.is_a(), rows]


def _value(item: Any, symbols: dict[str, str], ask: Asker) -> Any:
    if item.is_a("IfcPropertySingleValue"):
        value = ask(item, "NominalValue")
        return _with_unit(_plain(value), value.is_a() if hasattr(value, "is_a") else "", symbols)
    if item.is_a("IfcPhysicalSimpleQuantity"):
        return _with_unit(_plain(item[3]), item.is_a(), symbols)
    for name in ("EnumerationValues", "ListValues"):
        values = getattr(item, name, None)
        if values:
            return ", ".join(str(_plain(value)) for value in values)
    if item.is_a("IfcPropertyBoundedValue"):
        return f"{_plain(item.LowerBoundValue)} to {_plain(item.UpperBoundValue)}"
    return None


def _with_unit(value: Any, kind: str, symbols: dict[str, str]) -> Any:
    symbol = symbols.get(_UNIT_OF.get(kind, ""))
    return f"{value:.9g} {symbol}" if symbol and isinstance(value, int | float) else value


def _plain(value: Any) -> Any:
    value = getattr(value, "wrappedValue", value)
    if isinstance(value, float) and value != value:
        return None
    return value if isinstance(value, str | int | float | bool) else None if value is None else str(value)
