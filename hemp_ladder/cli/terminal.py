"""What the command line says, on a terminal or for a program."""

import json
import sys
from typing import Any

#: The exit code of a command that did what it was asked.
DONE = 0


class Bar:
    """Progress on a terminal; silent elsewhere."""

    def __init__(self, shown: bool) -> None:
        self._shown = shown

    def show(self, stage: str, done: int, total: int) -> None:
        if not self._shown:
            return
        share = done / total if total else 0
        bar = "█" * round(24 * share) + "·" * (24 - round(24 * share)) if total else ""
        count = f"{done:,}/{total:,}" if total else f"{done:,}" if done else ""
        sys.stderr.write(f"\r\033[K{stage:<12} {bar} {count}")
        sys.stderr.flush()

    def end(self) -> None:
        if self._shown:
            sys.stderr.write("\r\033[K")


def say(*sentences: str) -> None:
    print(" ".join(sentence for sentence in sentences if sentence), file=sys.stderr)


def print_json(value: Any) -> None:
    json.dump(value, sys.stdout, ensure_ascii=False, indent=2)
    sys.stdout.write("\n")
