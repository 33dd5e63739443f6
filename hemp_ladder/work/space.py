"""`python -m hemp_ladder.work.space [--clean]`: what takes how much, what nothing refers to, and its removal."""

import sys

from hemp_ladder.core.units import say_bytes
from hemp_ladder.work.cleaning import Kind, clean, survey
from hemp_ladder.work.folders import sweep


def main(arguments: list[str]) -> int:
    """Print a line for each kind, and what went or would go."""
    cleaning = arguments == ["--clean"]
    if arguments and not cleaning:
        print("Say nothing, or --clean.", file=sys.stderr)
        return 2
    kinds = clean() if cleaning else survey()
    word = "gone" if cleaning else "would go"
    for kind in kinds:
        print(f"{kind.says:<24} {kind.count:>9,}  {say_bytes(kind.bytes):>9}   {_going(kind, word)}")
    total, going = sum(kind.bytes for kind in kinds), sum(kind.going_bytes for kind in kinds)
    print(f"{'in all':<24} {sum(kind.count for kind in kinds):>9,}  {say_bytes(total):>9}   {say_bytes(going)} {word}")
    if cleaning:
        print(f"Folders of processes that are gone: {sweep()} removed.")
    elif going:
        print("Nothing refers to it: ./ladder space --clean removes it, and every night does.")
    return 0


def _going(kind: Kind, word: str) -> str:
    return f"{kind.going:,} ({say_bytes(kind.going_bytes)}) {word}" if kind.going else ""


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
