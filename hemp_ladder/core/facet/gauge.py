"""What is to be known of a mesh to compare settings, whether it is kept or not."""

from hemp_ladder.core.mesh.figures import Figures


def gauged(figures: Figures) -> dict[str, float]:
    """Counts; `off`, the largest distance found from the exact shape, what Trim and a shortest edge added with it, in source coordinates; `mean`
    and `bound` where they are known; `seconds` of processor."""
    trimmed = figures.trimmed
    more = max(trimmed["there"], trimmed["back"]) if trimmed else 0.0
    more += figures.effects.get("shortest.off", 0.0)
    told = {
        "triangles": float(figures.triangles), "vertices": float(figures.vertices), "off": figures.deviation + more,
        "seconds": figures.seconds,
    }  # fmt: skip
    for name in ("mean", "bound", "samples"):
        if name in figures.faceted:
            told[name] = figures.faceted[name] + (more if name == "bound" else 0.0)
    return told
