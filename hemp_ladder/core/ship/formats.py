"""The formats out. To add one: its file beside this, which exports FORMAT, and its line here."""

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.ship import collada, glb, obj, ply, stl, usd
from hemp_ladder.core.ship.format import Format

FORMATS: dict[str, Format] = {
    item.code: item for item in (glb.FORMAT, obj.FORMAT, ply.FORMAT, stl.FORMAT, collada.FORMAT, usd.FORMAT)
}


def format_of(code: str) -> Format:
    """The format with this code. Raises SettingsError for one that is not written here."""
    found = FORMATS.get(code)
    if found is None:
        *others, last = [item.suffix for item in FORMATS.values()]
        raise SettingsError(f"“{code[:40]}” is no format that is written here. Use {', '.join(others)} or {last}.")
    return found
