"""How much of a long piece of work is done, as far as can be told: 0 to 1."""

#: Where each stage of reading begins. Measured on large assemblies and buildings: a third is parsing.
_READING = {"": 0.0, "reading": 0.02, "structure": 0.3, "translating": 0.35, "parts": 0.6}
#: The same of shipping: meshes are there as a rule, checking reads everything back.
_SHIPPING = {"": 0.0, "meshing": 0.05, "writing": 0.15, "checking": 0.6, "storing": 0.95}


def read_share(stage: str, count: int, known: int | None) -> float:
    """Of reading a source at a stage, `count` of its parts read, so many of them known from its structure."""
    begun = _READING.get(stage, 0.0)
    if stage != "parts" or not known:
        return begun
    return begun + (1 - begun) * min(1.0, count / known)


def shipped_share(stage: str) -> float:
    return _SHIPPING.get(stage, 0.0)
