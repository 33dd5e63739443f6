"""Reading the files that a command names: each a source, but for those that belong to another."""

import argparse
from collections.abc import Callable
from pathlib import Path

from hemp_ladder.core.errors import SettingsError
from hemp_ladder.core.model.join import Given
from hemp_ladder.core.model.labels import unique_label
from hemp_ladder.core.model.model import Model
from hemp_ladder.core.receive.bundle import beside
from hemp_ladder.core.receive.reader import ROOM
from hemp_ladder.core.receive.readers import reader_called, reader_for
from hemp_ladder.work.children import Crew
from hemp_ladder.work.receiving.reading import Ears, receive_files

OWN_UNIT = "unit that the numbers in a source stand for, by the source's name"
SVG_UNIT = "what one user unit of an SVG stands for: px (1/96 in) or mm, or any other unit"


def receive_all(
    files: list[Path],
    folder: Path,
    crew: Crew,
    shapes: dict[str, bytes],
    stage: Callable[[str, int], None],
    ahead: Callable[[Model], None] = lambda model: None,
) -> list[Given]:
    """Every source among the files, the largest assembly first, with the files beside them that they refer to. `ahead` is
    told of parts whose bodies are there while the rest is still being read.

    Raises SettingsError for a file that is not there, SourceRefused for one
    that cannot be read.
    """
    for file in files:
        if not file.is_file():
            raise SettingsError(f"There is no file “{file}”.")
    names = [file.name for file in files]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise SettingsError(f"Two of the files are called “{twice}”. Rename one: sources are told apart by name.")
    bundle = {path.name: path for file in files for path in (file, *beside(file))}
    given: list[Given] = []
    refs: set[str] = set()
    waiting: list[str] = []

    def read(root: str | None) -> None:
        inside = folder / str(len(given)) / ROOM
        inside.mkdir(parents=True)
        names_read: list[str] = []

        def opened(name: str, others: list[str]) -> None:
            names_read.append(name)
            if root is None:
                waiting.extend(others)

        def keep(kind: str, name: str, data: bytes) -> None:
            if kind in ("shapes", "textures"):
                shapes[name] = data

        ears = Ears(blob=keep, stage=stage, opened=opened, ahead=ahead)
        model: Model = receive_files(list(bundle.items()), inside, crew, ears, root=root)
        name = names_read[0]
        given.append(Given(unique_label(name.rpartition(".")[0] or name, refs), name, model))

    read(None)
    for name in waiting:
        read(name)
    order = {name: number for number, name in enumerate(names)}
    return sorted(given, key=lambda item: order.get(item.name, len(order)))


def has_user_unit(model: Model) -> bool:
    """Whether its numbers are in units of the user's, which stand for pixels where nobody says otherwise."""
    reader = reader_called(model.format)
    return reader is not None and "px" in reader.units


def own_units(options: argparse.Namespace, sources: list[Given]) -> dict[str, str]:
    """`--source-unit [NAME=]UNIT` as a unit for each source it speaks of; without a name, for all; before it
    `--svg-unit` for vector art."""
    refs = [given.ref for given in sources]
    found: dict[str, str] = {}
    if options.svg_unit:
        found.update((given.ref, options.svg_unit) for given in sources if has_user_unit(given.model))
    for text in options.source_unit or ():
        name, separator, told = text.rpartition("=")
        wanted = [ref for ref in refs if ref == name or ref == name.rpartition(".")[0]] if separator else refs
        if not wanted:
            raise SettingsError(f"No source is called “{name}”. There are: {', '.join(refs)}.")
        found.update(dict.fromkeys(wanted, told))
    return found


def save_clean(options: argparse.Namespace) -> None:
    """Write the one SVG among the files without what is foreign to it."""
    if not options.clean_svg:
        return
    found = [
        (file, clean) for file in options.file if (reader := reader_for(file)) is not None and (clean := reader.clean)
    ]
    if len(found) != 1:
        raise SettingsError(f"One SVG is cleaned at a time; there are {len(found)} among the files.")
    file, clean = found[0]
    options.clean_svg.write_bytes(clean(file))
