"""`python -m bench.siege [KILLS [SEED]]`: the long form of the siege, forty kills and more."""

import sys

from tests.kills import KeptHouse, Siege


def main() -> None:
    """As many kills as the command line says."""
    kills, seed = (int(sys.argv[k]) if len(sys.argv) > k else otherwise for k, otherwise in ((1, 40), (2, 11)))
    run(kills, seed)


def run(kills: int, seed: int) -> None:
    """Print a line for each kill; the first thing that is wrong ends it."""
    house = KeptHouse()
    try:
        Siege(house, seed).run(kills, lambda line: print(line, flush=True))
    finally:
        house.close()


if __name__ == "__main__":
    main()
