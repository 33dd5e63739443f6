"""`python -m bench.general FILE OUT CHORD ANGLE`: the general-purpose library route from STEP to GLB."""

import sys

import cascadio

if __name__ == "__main__":
    source, out, chord, angle = sys.argv[1:]
    cascadio.step_to_glb(source, out, tol_linear=float(chord), tol_angular=float(angle), tol_relative=False)
