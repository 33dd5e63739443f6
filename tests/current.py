"""`python -m tests.current`: whether the description of the routes and the client made from it say what the routes say."""

import subprocess
import sys

from house.places import PYTHON, ROOT, WEB


def main() -> int:
    """0 where both do."""
    told = subprocess.run([str(PYTHON), "-m", "hemp_ladder.api.describe"], cwd=ROOT, capture_output=True, text=True)
    if told.returncode or told.stdout != (WEB / "openapi.json").read_text():
        print("web/openapi.json is not what the routes say.", told.stderr[-2000:])
        return 1
    command = ["npx", "openapi-typescript", "openapi.json"]
    made = subprocess.run(command, cwd=WEB, capture_output=True, text=True).stdout
    if "".join(made.split()) not in "".join((WEB / "src/api/schema.ts").read_text().split()):
        print("web/src/api/schema.ts is not what web/openapi.json gives.")
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
