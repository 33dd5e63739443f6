"""Makes the demo data: `python -m demo.generate`. The output is committed beside it."""

from collections.abc import Callable
from pathlib import Path

from demo import candidates, davit, house, lantern, paving, seat, shed, sign, site_drawing, soup, strays
from demo.document import mirror_placement

HERE = Path(__file__).resolve().parent


def main() -> None:
    """Write every demo file."""
    writers: dict[str, Callable[[Path], None]] = {
        "gull-rock-lantern.step": _lantern,
        "keepers-house.ifc": lambda path: house.build().write(path),
        "boat-shed.ifc": lambda path: shed.build().write(path),
        "quay-davit.igs": lambda path: davit.build().write_iges(path, "IN"),
        "site-drawing.dxf": site_drawing.write,
        "harbour-sign.svg": sign.write_sign,
        "quay-seat.zip": seat.write_seat,
        "seat-dense.glb": candidates.write_heavy,
        "seat-plain.glb": candidates.write_light,
        "light-stencil.svg": sign.write_stencil,
        "stray-davit.step": strays.write_davit,
        "stray-shed.glb": strays.write_shed,
        "signal-house.ifc": lambda path: strays.signal_house().write(path),
        "name-board.dxf": strays.write_board,
        "shed-soup.stl": soup.write_soup,
        "quay-paving.glb": paving.write_paving,
    }
    for name, write in writers.items():
        path = HERE / name
        write(path)
        print(f"{name}: {path.stat().st_size:,} bytes")


def _lantern(path: Path) -> None:
    lantern.build().write(path)
    mirror_placement(path, "Stile bracket right")


if __name__ == "__main__":
    main()
