"""The receipt as a file in the delivery."""

import hashlib
import json
from pathlib import Path
from typing import Any

from hemp_ladder.core.decisions import Decisions
from hemp_ladder.core.ship.deliver import Shipped
from hemp_ladder.core.ship.settings import Target


def receipt_file(
    path: Path, shipped: Shipped, target: Target, decisions: Decisions, sources: list[dict[str, Any]]
) -> None:
    """Write what was shipped, from what, by which decisions, and every check, as JSON."""
    document = {
        "receipt": shipped.receipt.as_dict(),
        "files": [
            {"name": p.name, "bytes": p.stat().st_size, "sha256": hashlib.sha256(p.read_bytes()).hexdigest()}
            for p in shipped.paths
        ],
        "target": target.model_dump(mode="json")
        | {
            "unit": target.written_unit,
            "up": target.written_up,
            "group": target.written_group,
        },
        "sources": sources,
        "decisions": decisions.model_dump(mode="json"),
    }
    path.write_text(json.dumps(document, indent=2, ensure_ascii=False), encoding="utf-8")
