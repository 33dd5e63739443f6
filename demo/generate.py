"""Makes the demo data: `python -m demo.generate`. The output is committed beside it."""

from pathlib import Path

from demo.document import mirror_placement
from demo.lantern import build

HERE = Path(__file__).resolve().parent


def main() -> None:
    """Write every demo file."""
    path = HERE / "gull-rock-lantern.step"
    build().write(path)
    mirror_placement(path, "Stile bracket right")
    print(f"{path.name}: {path.stat().st_size:,} bytes")


if __name__ == "__main__":
    main()
