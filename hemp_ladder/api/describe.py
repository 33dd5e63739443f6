"""`python -m hemp_ladder.api.describe`: the interface's description, from which the browser's client is made."""

import json
import sys

from hemp_ladder.api.app import app

if __name__ == "__main__":
    json.dump(app.openapi(), sys.stdout, indent=1, sort_keys=True)
    sys.stdout.write("\n")
