"""Where things lie, and saying things to the person."""

import os
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
HOUSE = Path(os.environ.get("HEMP_LADDER_HOUSE", ROOT / ".house"))
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
WEB = ROOT / "web"


class Trouble(Exception):
    """Something the person must know or do; the text is whole sentences."""


def say(text: str) -> None:
    print(text, file=sys.stderr, flush=True)
